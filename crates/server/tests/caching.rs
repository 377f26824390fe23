//! What a browser holds already is not sent again, and saves say over what they may write.

use crate::help::{Api, demo};
use axum::body::Body;
use axum::http::{HeaderMap, Request, StatusCode};

/// Status, headers and length of what an address answers to a request that holds `tag`.
async fn get(api: &Api, address: &str, tag: Option<&str>) -> (StatusCode, HeaderMap, usize) {
    let mut request = Request::get(address);
    if let Some(tag) = tag {
        request = request.header("if-none-match", tag);
    }
    let (status, headers, bytes) = api.whole(request.body(Body::empty()).expect("a request")).await;
    (status, headers, bytes.len())
}

#[tokio::test]
async fn fixed_files_have_a_tag_and_are_not_sent_twice() {
    let api = Api::new().await;
    // The front end may not be built where only the server is tested; the descriptions of the API
    // always are.
    let built = get(&api, "/", None).await.0 == StatusCode::OK;
    let pages = ["/", "/bench", "/lamp.svg", "/favicon.ico", "/lamp.webmanifest", "/notices.json"];
    let fixed = ["/api/v1/openapi.json", "/api/v1/scenario.schema.json"];
    for address in fixed.into_iter().chain(pages.into_iter().filter(|_| built)) {
        let (status, headers, length) = get(&api, address, None).await;
        assert!(status == StatusCode::OK && length > 100, "{address}: {status}, {length} bytes");
        let tag = headers["etag"].to_str().expect("text").to_owned();
        for held in [
            tag.clone(),
            format!("\"other\", {tag}"),
            "*".to_owned(),
            tag.trim_start_matches("W/").to_owned(),
        ] {
            let (status, headers, length) = get(&api, address, Some(&held)).await;
            assert_eq!((status, length), (StatusCode::NOT_MODIFIED, 0), "{address} held as {held}");
            assert_eq!(headers["etag"], tag.as_str());
        }
        assert_eq!(get(&api, address, Some("\"other\"")).await.0, StatusCode::OK);
    }
}

#[tokio::test]
async fn a_save_may_name_several_revisions_or_whatever_is_stored() {
    let api = Api::new().await;
    let (_, made) = api.call("POST", "/api/v1/scenarios", &[], Some(&demo())).await;
    let at = format!("/api/v1/scenarios/{}", made["id"].as_str().expect("an id"));
    let save =
        async |expected: &str| api.call("PUT", &at, &[("if-match", expected)], Some(&demo())).await;
    for (expected, revision) in [("\"9\", \"1\"", 2), ("*", 3), ("\"3\"", 4)] {
        let (status, saved) = save(expected).await;
        assert_eq!(
            (status, &saved["revision"]),
            (StatusCode::OK, &serde_json::json!(revision)),
            "{expected}"
        );
    }
    assert_eq!(save("\"1\", \"2\"").await.0, StatusCode::PRECONDITION_FAILED);
    assert_eq!(save("W/\"4\"").await.0, StatusCode::PRECONDITION_REQUIRED);
    // Nothing is written over what is not there.
    assert_eq!(
        api.call("PUT", "/api/v1/scenarios/nothing", &[("if-match", "*")], Some(&demo())).await.0,
        StatusCode::NOT_FOUND
    );
    let (_, shelf) = api.call("GET", "/api/v1/shelf", &[], None).await;
    let row = &shelf.as_array().expect("a shelf")[0];
    let at = format!("/api/v1/shelf/{}", row["id"].as_str().expect("an id"));
    assert_eq!(
        api.call("PUT", &at, &[("if-match", "*")], Some(&row["entry"])).await.0,
        StatusCode::OK
    );
}
