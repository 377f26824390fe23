//! An application over a new store, asked as a client asks it.
#![allow(dead_code)]

use axum::body::Body;
use axum::http::{Request, StatusCode};
use http_body_util::BodyExt;
use salt_lamp_core::catalogue::Catalogue;
use salt_lamp_core::gear::Library;
use salt_lamp_core::light::Tables;
use salt_lamp_core::shelf::shipped_entries;
use salt_lamp_server::{App, router};
use salt_lamp_store::Store;
use serde_json::Value;
use tower::ServiceExt;

pub struct Api {
    pub router: axum::Router,
    _dir: tempfile::TempDir,
}

impl Api {
    pub async fn new() -> Self {
        let dir = tempfile::tempdir().expect("a directory");
        let store = Store::open(dir.path()).await.expect("opens");
        store.stock_shelf(&shipped_entries(&Library::shipped().expect("library").gear)).await.expect("stocked");
        let app = App::new(
            store,
            Tables::shipped().expect("tables"),
            Library::shipped().expect("library"),
            Catalogue::shipped().expect("catalogue"),
        );
        Self { router: router(app), _dir: dir }
    }

    pub async fn send(&self, request: Request<Body>) -> (StatusCode, String, Vec<u8>) {
        let response = self.router.clone().oneshot(request).await.expect("answers");
        let kind = response.headers().get("content-type").map(|v| v.to_str().expect("text").to_owned()).unwrap_or_default();
        let status = response.status();
        (status, kind, response.into_body().collect().await.expect("a body").to_bytes().to_vec())
    }

    pub async fn call(&self, method: &str, path: &str, headers: &[(&str, &str)], body: Option<&Value>) -> (StatusCode, Value) {
        let mut request = Request::builder().method(method).uri(path);
        for (name, value) in headers {
            request = request.header(*name, *value);
        }
        let body = match body {
            Some(value) => {
                request = request.header("content-type", "application/json");
                Body::from(value.to_string())
            }
            None => Body::empty(),
        };
        let (status, _, bytes) = self.send(request.body(body).expect("a request")).await;
        (status, serde_json::from_slice(&bytes).unwrap_or(Value::Null))
    }

    pub async fn post_text(&self, path: &str, text: impl Into<Body>) -> (StatusCode, String, Value) {
        let request = Request::post(path).header("content-type", "application/json").body(text.into()).expect("a request");
        let (status, kind, bytes) = self.send(request).await;
        (status, kind, serde_json::from_slice(&bytes).unwrap_or(Value::Null))
    }
}

pub fn demo() -> Value {
    serde_json::from_str(include_str!("../../../../data/demo/larch-lane-ic-443.json")).expect("the demo parses")
}

pub fn changed(change: impl FnOnce(&mut Value)) -> Value {
    let mut doc = demo();
    change(&mut doc);
    doc
}
