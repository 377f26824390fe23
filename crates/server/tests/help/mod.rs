//! An application over a new store, asked as a client asks it.

use axum::body::Body;
use axum::http::{HeaderMap, Request, StatusCode};
use http_body_util::BodyExt;
use salt_lamp_core::library::{Catalogue, Figures, Library, Stars, demo_kit, shipped_entries};
use salt_lamp_core::light::Tables;
use salt_lamp_server::{App, Front, Hosts, router};
use salt_lamp_store::Store;
use serde_json::Value;
use tower::ServiceExt;

/// The application over an open database.
fn app(store: &Store) -> App {
    App::new(
        store.clone(),
        Tables::shipped().expect("tables"),
        Library::shipped().expect("library"),
        (
            Catalogue::shipped().expect("catalogue"),
            Stars::shipped().expect("stars"),
            Figures::shipped().expect("figures"),
        ),
    )
}

pub struct Api {
    pub router: axum::Router,
    pub store: Store,
    dir: tempfile::TempDir,
}

impl Api {
    pub async fn new() -> Self {
        Self::reached_by(Front::default(), &[]).await
    }

    /// One that is reached in another way, under names of its own.
    pub async fn reached_by(front: Front, names: &[&str]) -> Self {
        let names: Vec<String> = names.iter().map(|n| (*n).to_owned()).collect();
        let dir = tempfile::tempdir().expect("a directory");
        let store = Store::open(dir.path()).await.expect("opens");
        Self::over(store, dir, (front, &names)).await
    }

    /// One over a database that is open already.
    pub async fn over(
        store: Store,
        dir: tempfile::TempDir,
        (front, names): (Front, &[String]),
    ) -> Self {
        store
            .stock_shelf(&shipped_entries(&Library::shipped().expect("library").gear))
            .await
            .expect("stocked");
        store.stock_kit(&demo_kit()).await.expect("the kit");
        let app = app(&store);
        Self {
            store,
            router: router(app, Hosts::new(std::net::Ipv4Addr::LOCALHOST.into(), names), front),
            dir,
        }
    }

    /// One that watches over folders of frames, over a database in a directory that stays.
    pub async fn watching(roots: &[std::path::PathBuf], dir: tempfile::TempDir) -> Self {
        let store = Store::open(dir.path()).await.expect("opens");
        let app = app(&store).with_frames(roots, 0.0).expect("folders");
        tokio::spawn(app.clone().watch_frames());
        let hosts = Hosts::new(std::net::Ipv4Addr::LOCALHOST.into(), &[]);
        Self { store, router: router(app, hosts, Front::default()), dir }
    }

    /// Its directory, when it is over; the database is closed.
    pub async fn ended(self) -> tempfile::TempDir {
        self.store.close().await;
        self.dir
    }

    /// Takes the database away from where it stood.
    pub fn lose_folder(&self) {
        let file = self.dir.path().join(salt_lamp_store::FILE_NAME);
        std::fs::rename(&file, self.dir.path().join("elsewhere")).expect("moved");
    }

    /// The database file as it stands, closed and written out.
    pub async fn closed(self) -> Vec<u8> {
        let file = self.dir.path().join(salt_lamp_store::FILE_NAME);
        self.store.close().await;
        std::fs::read(file).expect("read")
    }

    /// Changes what is stored behind the program's back.
    pub async fn by_hand(&self, sql: &str) {
        let file = format!("sqlite:{}", self.dir.path().join(salt_lamp_store::FILE_NAME).display());
        let pool = sqlx::SqlitePool::connect(&file).await.expect("opens by hand");
        let done =
            sqlx::query(sqlx::AssertSqlSafe(sql)).execute(&pool).await.expect("changed by hand");
        assert!(done.rows_affected() > 0, "{sql}");
        pool.close().await;
    }

    /// Sends a request; one that names no host names this machine.
    pub async fn whole(&self, mut request: Request<Body>) -> (StatusCode, HeaderMap, Vec<u8>) {
        request
            .headers_mut()
            .entry("host")
            .or_insert(axum::http::HeaderValue::from_static("localhost"));
        let response = self.router.clone().oneshot(request).await.expect("answers");
        let (status, headers) = (response.status(), response.headers().clone());
        (status, headers, response.into_body().collect().await.expect("a body").to_bytes().to_vec())
    }

    /// The same with its content type alone.
    pub async fn send(&self, request: Request<Body>) -> (StatusCode, String, Vec<u8>) {
        let (status, headers, bytes) = self.whole(request).await;
        (
            status,
            headers
                .get("content-type")
                .map(|v| v.to_str().expect("text").to_owned())
                .unwrap_or_default(),
            bytes,
        )
    }

    /// A blind look at the demo's scenario, begun.
    pub async fn blind_look(&self) -> Value {
        let question = serde_json::json!({"scenario": demo(), "view": {"field_arcsec": 60}});
        let (status, begun) = self.call("POST", "/api/v1/look/blind", &[], Some(&question)).await;
        assert_eq!(status, StatusCode::CREATED, "{begun}");
        begun
    }

    /// The paths of what is refused in a question.
    pub async fn refused(&self, path: &str, body: &Value) -> Vec<String> {
        let (status, problem) = self.call("POST", path, &[], Some(body)).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{path}: {problem}");
        let errors = problem["errors"].as_array().expect("errors");
        errors.iter().map(|e| e["path"].as_str().expect("a path").to_owned()).collect()
    }

    pub async fn call(
        &self,
        method: &str,
        path: &str,
        headers: &[(&str, &str)],
        body: Option<&Value>,
    ) -> (StatusCode, Value) {
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

    pub async fn post_text(
        &self,
        path: &str,
        text: impl Into<Body>,
    ) -> (StatusCode, String, Value) {
        let request = Request::post(path)
            .header("content-type", "application/json")
            .body(text.into())
            .expect("a request");
        let (status, kind, bytes) = self.send(request).await;
        (status, kind, serde_json::from_slice(&bytes).unwrap_or(Value::Null))
    }
}

pub fn demo() -> Value {
    serde_json::from_str(include_str!("../../../../data/demo/larch-lane-ic-443.json"))
        .expect("the demo parses")
}

pub fn changed(change: impl FnOnce(&mut Value)) -> Value {
    let mut doc = demo();
    change(&mut doc);
    doc
}
