//! What holds for every operation that the API describes of itself: mistakes are problems that name
//! the place, unknown things are not found, and nothing answers with a server error.

use crate::help::Api;
use axum::body::Body;
use axum::http::{Request, StatusCode};
use serde_json::{Value, json};

/// Method, path and description of every operation.
fn operations() -> Vec<(String, String, Value)> {
    let doc: Value =
        serde_json::from_str(include_str!("../../../docs/openapi.json")).expect("JSON");
    let mut out = Vec::new();
    for (path, item) in doc["paths"].as_object().expect("paths") {
        for method in ["get", "post", "put", "delete"] {
            if let Some(op) = item.get(method) {
                out.push((method.to_uppercase(), path.clone(), op.clone()));
            }
        }
    }
    assert!(out.len() > 30, "{} operations", out.len());
    out
}

/// A path whose parameters are all something that does not exist.
fn filled(path: &str) -> String {
    path.split('/')
        .map(|part| {
            if part.starts_with('{') {
                if part == "{round}" { "0" } else { "no-such-thing" }
            } else {
                part
            }
        })
        .collect::<Vec<_>>()
        .join("/")
}

fn has_json_body(op: &Value) -> bool {
    op["requestBody"]["content"].get("application/json").is_some()
}

fn request(method: &str, path: &str, body: Option<&str>) -> Request<Body> {
    let request = Request::builder()
        .method(method)
        .uri(path)
        .header("if-match", "\"1\"")
        .header("content-type", "application/json");
    request.body(body.map_or(Body::empty(), |b| Body::from(b.to_owned()))).expect("a request")
}

/// An answer that is a problem by RFC 9457.
async fn problem(api: &Api, method: &str, path: &str, body: Option<&str>) -> (StatusCode, Value) {
    let (status, kind, bytes) = api.send(request(method, path, body)).await;
    let said = String::from_utf8_lossy(&bytes).into_owned();
    assert!(status.is_client_error(), "{method} {path}: {status} {said}");
    assert_eq!(kind, "application/problem+json", "{method} {path}: {said}");
    let problem: Value = serde_json::from_slice(&bytes).expect("JSON");
    assert_eq!(problem["status"], json!(status.as_u16()), "{method} {path}");
    assert!(
        !problem["title"].as_str().expect("a title").is_empty()
            && !problem["detail"].as_str().expect("a detail").is_empty()
    );
    (status, problem)
}

#[tokio::test]
async fn a_body_that_is_no_json_is_told_as_such() {
    let api = Api::new().await;
    for (method, path, op) in operations().iter().filter(|o| has_json_body(&o.2)) {
        for body in ["", "{\"", "nonsense"] {
            let (_, p) = problem(&api, method, &filled(path), Some(body)).await;
            let said = format!("{} {}", p["detail"], p["errors"]);
            assert!(
                said.contains("JSON") || said.contains("line") || said.contains("EOF"),
                "{method} {path} {}: {said}",
                op["operationId"]
            );
        }
    }
}

#[tokio::test]
async fn an_empty_document_and_a_foreign_field_are_named() {
    let api = Api::new().await;
    for (method, path, op) in operations().iter().filter(|o| has_json_body(&o.2)) {
        let id = op["operationId"].as_str().expect("an id");
        let (status, p) = problem(&api, method, &filled(path), Some("[]")).await;
        assert!(
            status == StatusCode::UNPROCESSABLE_ENTITY || status == StatusCode::BAD_REQUEST,
            "{id}: {p}"
        );
        let (_, p) =
            problem(&api, method, &filled(path), Some("{\"no_such_field_at_all\": 1}")).await;
        let said = p.to_string();
        assert!(
            said.contains("no_such_field_at_all") || said.contains("missing field"),
            "{id}: {said}"
        );
    }
}

#[tokio::test]
async fn what_does_not_exist_is_not_found() {
    let api = Api::new().await;
    let mut asked = 0;
    for (method, path, op) in operations().iter().filter(|o| o.1.contains('{')) {
        // A body is read before the place it goes to is looked up: those were asked above.
        if has_json_body(op) {
            continue;
        }
        let query = if path.ends_with("/state") { "?date=2027-01-10" } else { "" };
        let (status, p) = problem(&api, method, &format!("{}{query}", filled(path)), None).await;
        assert_eq!(status, StatusCode::NOT_FOUND, "{method} {path}: {p}");
        asked += 1;
    }
    assert!(asked >= 10, "{asked}");
    let (status, _) = problem(&api, "GET", "/api/v1/no-such-place", None).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}

/// What needs nothing but the address answers with what it describes: lists, the library, itself.
#[tokio::test]
async fn lists_answer_on_a_new_store() {
    let api = Api::new().await;
    let mut asked = 0;
    for (method, path, op) in operations() {
        let required = op["parameters"]
            .as_array()
            .is_some_and(|list| list.iter().any(|p| p["required"] == true));
        if method != "GET" || required {
            continue;
        }
        let described = op["responses"]["200"]["content"].as_object().expect("content");
        // A stream of events has no end; what comes through it is seen where frames come in.
        if described.contains_key("text/event-stream") {
            continue;
        }
        let (status, kind, bytes) = api.send(request("GET", &path, None)).await;
        assert_eq!(status, StatusCode::OK, "{path}: {}", String::from_utf8_lossy(&bytes));
        assert!(
            described.keys().any(|k| kind.starts_with(k.as_str())),
            "{path} answers {kind}, described as {described:?}"
        );
        asked += 1;
    }
    assert!(asked >= 6, "{asked}");
}

/// Every number and every choice in a query: a word that is none is a problem, not a silent
/// default.
#[tokio::test]
async fn a_query_that_cannot_be_read_is_named() {
    let api = Api::new().await;
    let mut asked = Vec::new();
    for (method, path, op) in operations() {
        let list = op["parameters"].as_array().cloned().unwrap_or_default();
        for p in list.iter().filter(|p| p["in"] == "query") {
            let schema = p["schema"].to_string();
            let is_text = schema.contains("\"string\"")
                && !schema.contains("enum")
                && !schema.contains("$ref");
            if is_text || method != "GET" || path.contains('{') {
                continue;
            }
            let name = p["name"].as_str().expect("a name");
            let (_, said) = problem(&api, "GET", &format!("{path}?{name}=surely-not"), None).await;
            assert!(
                said.to_string().contains(name) || said.to_string().contains("surely-not"),
                "{path}: {said}"
            );
            asked.push(format!("{path}?{name}"));
        }
    }
    assert!(asked.len() >= 3, "{asked:?}");
    for path in ["/api/v1/coordinates", "/api/v1/coordinates?text=nowhere"] {
        let (_, said) = problem(&api, "GET", path, None).await;
        assert!(
            said.to_string().contains("text") || said.to_string().contains("right ascension"),
            "{path}: {said}"
        );
    }
}
