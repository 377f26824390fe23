//! Who may ask: strangers, browsers that signed in, scripts with a token, and pages of other
//! origins, straight and through a proxy.

use crate::help::Api;
use axum::body::Body;
use axum::http::{HeaderMap, Request, StatusCode};
use salt_lamp_server::Front;
use serde_json::{Value, json};

const WORDS: &str = "nine moons over the lake";

async fn asked(
    api: &Api,
    method: &str,
    path: &str,
    headers: &[(&str, &str)],
    body: Option<Value>,
) -> (StatusCode, HeaderMap, Value) {
    let mut request = Request::builder().method(method).uri(path);
    for (name, value) in headers {
        request = request.header(*name, *value);
    }
    let body = body.map_or_else(Body::empty, |b| Body::from(b.to_string()));
    let request = request.header("content-type", "application/json").body(body).expect("made");
    let (status, headers, bytes) = api.whole(request).await;
    (status, headers, serde_json::from_slice(&bytes).unwrap_or(Value::Null))
}

/// The cookie that an answer sets, as a browser sends it back.
fn cookie(headers: &HeaderMap) -> String {
    let set = headers.get("set-cookie").expect("a cookie").to_str().expect("text");
    assert!(set.contains("; HttpOnly; SameSite=Strict"), "{set}");
    set.split(';').next().expect("a pair").to_owned()
}

async fn guarded(api: &Api) -> String {
    let body = json!({"passphrase": WORDS});
    let (status, headers, _) =
        asked(api, "PUT", "/api/v1/access/passphrase", &[], Some(body)).await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    cookie(&headers)
}

async fn status(api: &Api, headers: &[(&str, &str)]) -> StatusCode {
    asked(api, "GET", "/api/v1/scenarios", headers, None).await.0
}

#[tokio::test]
async fn without_a_passphrase_this_machine_is_let_in_and_with_one_only_who_knows_it() {
    let api = Api::new().await;
    let (_, _, state) = asked(&api, "GET", "/api/v1/access", &[], None).await;
    assert_eq!((&state["passphrase"], &state["signed_in"]), (&json!(false), &json!(true)));
    assert_eq!(status(&api, &[]).await, StatusCode::OK);
    for bad in [json!({"passphrase": "short"}), json!({"passphrase": "with a \u{7} in it"})] {
        let (code, _, problem) =
            asked(&api, "PUT", "/api/v1/access/passphrase", &[], Some(bad)).await;
        assert_eq!(code, StatusCode::UNPROCESSABLE_ENTITY);
        assert_eq!(problem["errors"][0]["path"], "passphrase");
    }
    let own = guarded(&api).await;
    // Who set it is signed in; a stranger is asked, and told how.
    assert_eq!(status(&api, &[("cookie", &own)]).await, StatusCode::OK);
    let (code, headers, problem) = asked(&api, "GET", "/api/v1/scenarios", &[], None).await;
    assert_eq!(code, StatusCode::UNAUTHORIZED);
    assert_eq!(problem["type"], "urn:salt-lamp:problem:sign-in");
    assert!(headers.contains_key("www-authenticate"));
    for guess in ["salt_lamp=", "salt_lamp=0000", "other=1", "salt_lamp=' OR 1=1"] {
        assert_eq!(status(&api, &[("cookie", guess)]).await, StatusCode::UNAUTHORIZED, "{guess}");
    }
    // What strangers may see: the front end, whether it is up, and that a passphrase is wanted.
    let (_, _, state) = asked(&api, "GET", "/api/v1/access", &[], None).await;
    assert_eq!((&state["passphrase"], &state["signed_in"]), (&json!(true), &json!(false)));
    assert_eq!(asked(&api, "GET", "/api/v1/health", &[], None).await.0, StatusCode::OK);
    for path in [
        "/api/v1/library",
        "/api/v1/openapi.json",
        "/api/v1/access/tokens",
        "/api/v1/damaged",
        "/api/v1/nothing",
    ] {
        assert_eq!(asked(&api, "GET", path, &[], None).await.0, StatusCode::UNAUTHORIZED, "{path}");
    }
    // Another browser signs in, and both are listed.
    let body = json!({"passphrase": WORDS});
    let (code, headers, _) =
        asked(&api, "POST", "/api/v1/access/sign-in", &[("user-agent", "a tablet")], Some(body))
            .await;
    assert_eq!(code, StatusCode::NO_CONTENT);
    let tablet = cookie(&headers);
    let (_, _, list) =
        asked(&api, "GET", "/api/v1/access/sessions", &[("cookie", &tablet)], None).await;
    assert_eq!(list["sessions"].as_array().map(Vec::len), Some(2));
    let own_row =
        list["sessions"].as_array().into_iter().flatten().find(|s| s["id"] == list["own"]);
    assert!(own_row.is_some_and(|s| s["told"].as_str().is_some_and(|t| t.ends_with(": a tablet"))));
    // Signed out, it is a stranger again, and the other is not.
    let (code, headers, _) =
        asked(&api, "POST", "/api/v1/access/sign-out", &[("cookie", &tablet)], None).await;
    assert_eq!((code, cookie(&headers)), (StatusCode::NO_CONTENT, "salt_lamp=".to_owned()));
    assert_eq!(status(&api, &[("cookie", &tablet)]).await, StatusCode::UNAUTHORIZED);
    assert_eq!(status(&api, &[("cookie", &own)]).await, StatusCode::OK);
    asked(&api, "DELETE", "/api/v1/access/sessions", &[("cookie", &own)], None).await;
    assert_eq!(status(&api, &[("cookie", &own)]).await, StatusCode::UNAUTHORIZED);
}

#[tokio::test]
async fn wrong_passphrases_are_slowed_and_a_change_wants_the_one_that_is_set() {
    let api = Api::new().await;
    let own = guarded(&api).await;
    let attempt = |words: &'static str| {
        let body = Some(json!({"passphrase": words}));
        asked(&api, "POST", "/api/v1/access/sign-in", &[], body)
    };
    for _ in 0..3 {
        assert_eq!(attempt("not this one").await.0, StatusCode::UNAUTHORIZED);
    }
    // Even the right one has to wait now.
    let (code, headers, problem) = attempt(WORDS).await;
    assert_eq!(code, StatusCode::TOO_MANY_REQUESTS, "{problem}");
    assert!(headers.contains_key("retry-after") && problem["retry_after_s"].as_u64() >= Some(1));
    tokio::time::sleep(std::time::Duration::from_millis(1100)).await;
    assert_eq!(attempt(WORDS).await.0, StatusCode::NO_CONTENT);
    let change = |current: Option<&str>| {
        let body = json!({"passphrase": "another, longer one", "current": current});
        let own = own.clone();
        let api = &api;
        async move {
            let path = "/api/v1/access/passphrase";
            asked(api, "PUT", path, &[("cookie", &own)], Some(body)).await.0
        }
    };
    assert_eq!(change(None).await, StatusCode::UNAUTHORIZED);
    assert_eq!(change(Some("wrong one")).await, StatusCode::UNAUTHORIZED);
    assert_eq!(change(Some(WORDS)).await, StatusCode::NO_CONTENT);
    assert_eq!(status(&api, &[("cookie", &own)]).await, StatusCode::UNAUTHORIZED, "signed out");
}

#[tokio::test]
async fn a_token_does_what_a_script_needs_and_not_more() {
    let api = Api::new().await;
    let own = guarded(&api).await;
    let cookie = [("cookie", own.as_str())];
    let make = |body: Value| asked(&api, "POST", "/api/v1/access/tokens", &cookie, Some(body));
    for (bad, path) in [
        (json!({"name": " ", "days": 3}), "name"),
        (json!({"name": "x".repeat(81), "days": 3}), "name"),
        (json!({"name": "a\nb", "days": 3}), "name"),
        (json!({"name": "x", "days": 0}), "days"),
        (json!({"name": "x", "days": 4000}), "days"),
    ] {
        let (code, _, problem) = make(bad).await;
        assert_eq!(code, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
        assert_eq!(problem["errors"][0]["path"], path);
    }
    let (code, _, made) = make(json!({"name": "night script", "days": 30})).await;
    assert_eq!(code, StatusCode::CREATED);
    let bearer = format!("Bearer {}", made["secret"].as_str().expect("a secret"));
    let auth = [("authorization", bearer.as_str())];
    assert_eq!(status(&api, &auth).await, StatusCode::OK);
    assert_eq!(status(&api, &[("authorization", "Bearer 0")]).await, StatusCode::UNAUTHORIZED);
    // It is listed without its secret.
    let (_, _, list) = asked(&api, "GET", "/api/v1/access/tokens", &auth, None).await;
    assert_eq!(list[0]["name"], "night script");
    assert!(!list.to_string().contains(made["secret"].as_str().expect("a secret")));
    for (method, path, body) in [
        ("POST", "/api/v1/access/tokens", Some(json!({"name": "more", "days": 1}))),
        ("PUT", "/api/v1/access/passphrase", Some(json!({"passphrase": WORDS, "current": WORDS}))),
        ("DELETE", "/api/v1/access/sessions", None),
    ] {
        assert_eq!(asked(&api, method, path, &auth, body).await.0, StatusCode::FORBIDDEN, "{path}");
    }
    let path = format!("/api/v1/access/tokens/{}", list[0]["id"].as_str().expect("an id"));
    let (code, ..) = asked(&api, "DELETE", &path, &[("cookie", &own)], None).await;
    assert_eq!(code, StatusCode::NO_CONTENT);
    assert_eq!(status(&api, &auth).await, StatusCode::UNAUTHORIZED);
}

#[tokio::test]
async fn a_page_of_another_origin_may_not_act_though_its_browser_is_signed_in() {
    let api = Api::new().await;
    let own = guarded(&api).await;
    let post = |headers: Vec<(&'static str, &'static str)>| {
        let (api, own) = (&api, own.clone());
        async move {
            let mut all = vec![("cookie", own.as_str())];
            all.extend(headers);
            asked(api, "POST", "/api/v1/scenarios", &all, Some(crate::help::demo())).await.0
        }
    };
    assert_eq!(post(vec![("origin", "http://localhost")]).await, StatusCode::CREATED);
    assert_eq!(post(vec![("sec-fetch-site", "same-origin")]).await, StatusCode::CREATED);
    for foreign in [
        vec![("origin", "http://evil.example")],
        vec![("origin", "null")],
        vec![("sec-fetch-site", "cross-site")],
        vec![("sec-fetch-site", "same-site")],
        // A page on another port of this machine.
        vec![("origin", "http://localhost:8080")],
        vec![("host", "[::1]:7373"), ("origin", "http://[::1]:8080")],
    ] {
        assert_eq!(post(foreign.clone()).await, StatusCode::FORBIDDEN, "{foreign:?}");
    }
    let v6 = vec![("host", "[::1]:7373"), ("origin", "http://[::1]:7373")];
    assert_eq!(post(v6).await, StatusCode::CREATED);
    assert_eq!(post(vec![("host", "evil.example")]).await, StatusCode::MISDIRECTED_REQUEST);
}

#[tokio::test]
async fn behind_a_proxy_names_and_addresses_are_the_proxy_s_and_the_cookie_is_secure() {
    let front = Front { base_path: "/lamp".to_owned(), behind_proxy: true, ..Front::default() };
    let api = Api::reached_by(front, &["lamp.example"]).await;
    let through = [
        ("host", "127.0.0.1:7373"),
        ("x-forwarded-host", "lamp.example"),
        ("x-forwarded-proto", "https"),
        ("x-forwarded-for", "192.0.2.9"),
    ];
    let with = |more: &[(&'static str, &'static str)]| [&through[..], more].concat();
    let body = json!({"passphrase": WORDS});
    let origin = with(&[("origin", "https://lamp.example")]);
    let (code, headers, _) =
        asked(&api, "PUT", "/lamp/api/v1/access/passphrase", &origin, Some(body.clone())).await;
    assert_eq!(code, StatusCode::NO_CONTENT);
    let set = headers["set-cookie"].to_str().expect("text");
    assert!(set.contains("; Path=/lamp;") && set.ends_with("; Secure"), "{set}");
    let foreign = with(&[("origin", "https://other.example")]);
    let (code, ..) = asked(&api, "POST", "/lamp/api/v1/access/sign-in", &foreign, Some(body)).await;
    assert_eq!(code, StatusCode::FORBIDDEN);
    let stranger = [("host", "127.0.0.1"), ("x-forwarded-host", "evil.example")];
    let (code, ..) = asked(&api, "GET", "/lamp/api/v1/health", &stranger, None).await;
    assert_eq!(code, StatusCode::MISDIRECTED_REQUEST);
    // The page finds its parts beneath the path, whichever view it is; the path alone leads there.
    let (code, headers, _) = asked(&api, "GET", "/lamp", &through, None).await;
    assert_eq!(
        (code, &headers["location"]),
        (StatusCode::PERMANENT_REDIRECT, &"/lamp/".parse().expect("a value"))
    );
    // A proxy that takes the path off itself is as good.
    for path in ["/lamp/api/v1/health", "/api/v1/health"] {
        assert_eq!(asked(&api, "GET", path, &through, None).await.0, StatusCode::OK, "{path}");
    }
}

/// What is wrong is told to whoever may use the program; a stranger learns that something is.
#[cfg(unix)]
#[tokio::test]
async fn troubles_are_told_to_who_is_signed_in() {
    let api = Api::new().await;
    let own = guarded(&api).await;
    api.lose_folder();
    let told = |headers: Vec<(&'static str, String)>| {
        let api = &api;
        async move {
            let headers: Vec<_> = headers.iter().map(|(k, v)| (*k, v.as_str())).collect();
            let (code, _, health) = asked(api, "GET", "/api/v1/health", &headers, None).await;
            assert_eq!((code, &health["status"]), (StatusCode::OK, &json!("trouble")));
            health["troubles"][0].as_str().expect("a sentence").to_owned()
        }
    };
    assert!(told(vec![]).await.contains("sign in to read what"));
    assert!(told(vec![("cookie", own.clone())]).await.contains("folder with the data is gone"));
    // Nothing is acknowledged that would be lost.
    let (code, _, problem) =
        asked(&api, "POST", "/api/v1/scenarios", &[("cookie", &own)], Some(crate::help::demo()))
            .await;
    assert_eq!(code, StatusCode::SERVICE_UNAVAILABLE, "{problem}");
    assert_eq!(problem["type"], "urn:salt-lamp:problem:gone");
    assert!(problem["detail"].as_str().is_some_and(|d| d.contains("Nothing was stored")));
}

#[tokio::test]
async fn a_large_answer_is_compressed_for_who_takes_it_so() {
    let api = Api::new().await;
    let get = |accept: &'static str| {
        let r = Request::get("/api/v1/library").header("accept-encoding", accept);
        api.whole(r.body(Body::empty()).expect("made"))
    };
    let (_, headers, plain) = get("identity").await;
    assert!(!headers.contains_key("content-encoding") && plain.len() > 40_000);
    let (_, headers, squeezed) = get("gzip").await;
    assert_eq!(headers["content-encoding"], "gzip");
    assert!(squeezed.len() * 2 < plain.len() && squeezed.starts_with(&[0x1f, 0x8b]));
}
