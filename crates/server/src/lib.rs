//! The HTTP face: parse, call, answer. Rules live in the core, storage in the store.

// A problem document is made at most once a request: its size does not matter.
#![allow(clippy::result_large_err)]

mod frames;
mod http;
mod routes;

use std::path::PathBuf;
use std::sync::Arc;

use axum::Router;
use axum::http::{HeaderMap, HeaderValue, header};
use axum::routing::get;
use salt_lamp_core::library::{Catalogue, Figures, Library, Stars};
use salt_lamp_core::light::Tables;
use salt_lamp_store::Store;
use tokio::sync::Semaphore;
use tokio_rustls::TlsAcceptor;
use tower_http::catch_panic::CatchPanicLayer;
use tower_http::compression::CompressionLayer;
use tower_http::compression::predicate::{DefaultPredicate, NotForContentType, Predicate};
use tower_http::set_header::SetResponseHeaderLayer;
use tower_http::trace::TraceLayer;
use utoipa::OpenApi;
use utoipa_axum::router::OpenApiRouter;

use crate::frames::Frames;
use crate::http::access::Access;
use crate::http::blocking::Pool;
use crate::http::cache::{Posted, Studies};
use crate::http::looks::Looks;
use crate::http::{access, assets, compress, connections, guard, problem, proxy};

pub use crate::http::access::{check_passphrase, passphrase_hash};
pub use crate::http::blocking::Threads;
pub use crate::http::connections::ConnectionLimits;
pub use crate::http::guard::Hosts;
pub use crate::http::problem::Problem;
pub use crate::http::proxy::Front;

/// Frames that are taken by upload at once.
const UPLOADS: usize = 2;

/// What every request may use.
#[derive(Clone)]
pub struct App {
    store: Store,
    tables: Arc<Tables>,
    library: Arc<Library>,
    catalogue: Arc<Catalogue>,
    stars: Arc<Stars>,
    figures: Arc<Figures>,
    looks: Arc<Looks>,
    studies: Arc<Studies>,
    posted: Arc<Posted>,
    pool: Arc<Pool>,
    access: Arc<Access>,
    /// Frames that may stand in memory at once.
    uploads: Arc<Semaphore>,
    frames: Arc<Frames>,
    player: Option<Player>,
    plates: Arc<routes::log::Plates>,
}

/// What a stand-in is asked to play.
#[derive(Clone, Debug)]
pub enum Play {
    /// A night.
    Night,
    /// A trial by its run sheet.
    Trial(Box<salt_lamp_core::trial::Trial>),
}

/// Plays a stand-in into a folder beneath a root of frames; blocks until it is over.
pub type Player = Arc<dyn Fn(&std::path::Path, &Play) -> Result<(), String> + Send + Sync>;

impl App {
    /// The application over an open store.
    pub fn new(
        store: Store,
        tables: Tables,
        library: Library,
        (catalogue, stars, figures): (Catalogue, Stars, Figures),
    ) -> Self {
        Self {
            store,
            tables: Arc::new(tables),
            library: Arc::new(library),
            catalogue: Arc::new(catalogue),
            stars: Arc::new(stars),
            figures: Arc::new(figures),
            looks: Arc::default(),
            studies: Arc::default(),
            posted: Arc::default(),
            pool: Arc::default(),
            access: Arc::default(),
            uploads: Arc::new(Semaphore::new(UPLOADS)),
            frames: Arc::default(),
            player: None,
            plates: Arc::default(),
        }
    }

    /// The application with folders beneath which frames may be read and watched.
    ///
    /// # Errors
    /// In words, where one of them is no folder.
    pub fn with_frames(self, roots: &[PathBuf], longitude_deg: f64) -> Result<Self, String> {
        let whole = |root: &PathBuf| {
            let whole = root.canonicalize().map_err(|e| format!("{}: {e}", root.display()))?;
            let is = whole.is_dir();
            is.then_some(whole).ok_or_else(|| format!("{} is no folder", root.display()))
        };
        let roots = roots.iter().map(whole).collect::<Result<Vec<_>, _>>()?;
        Ok(Self { frames: Arc::new(Frames::new(roots, longitude_deg)), ..self })
    }

    /// The application with a stand-in that plays nights.
    pub fn with_player(self, player: Player) -> Self {
        Self { player: Some(player), ..self }
    }

    /// Plays into the first root and watches that; one at a time.
    ///
    /// # Errors
    /// 422 where there is nowhere or nobody to play; 429 where one is being played.
    pub async fn play(&self, what: Play) -> Result<(), Problem> {
        let (Some(player), Some(root)) = (self.player.clone(), self.frames.roots().first()) else {
            let said = "no folder of frames was named at start: start with --frames FOLDER";
            return Err(Problem::field("folder", said));
        };
        let (app, root) = (self.clone(), root.clone());
        let Some(playing) = self.frames.begin_to_play() else { return Err(Problem::busy()) };
        self.store.watch_folder(&root.display().to_string(), true).await?;
        self.frames.watch(root.clone(), true);
        tokio::task::spawn_blocking(move || {
            if let Err(e) = player(&root, &what) {
                tracing::error!("no night was played: {e}");
            }
            drop(playing);
            app.frames.over();
        });
        Ok(())
    }

    /// Runs heavy work off the threads that answer requests: see [`Pool::run`].
    async fn heavy<T: Send + 'static>(
        &self,
        work: impl FnOnce(&Self, &Threads) -> T + Send + 'static,
    ) -> Result<T, Problem> {
        let app = self.clone();
        self.pool.run(move |threads| work(&app, threads)).await
    }
}

#[derive(OpenApi)]
#[openapi(info(
    title = "Salt Lamp",
    description = "Filter, gain, sub-exposure and total time for deep-sky imagers."
))]
struct Api;

fn api() -> (Router<App>, utoipa::openapi::OpenApi) {
    OpenApiRouter::with_openapi(Api::openapi()).nest("/api/v1", routes::routes()).split_for_parts()
}

/// The OpenAPI 3.1 description of the API, with the ranges that the core accepts.
pub fn openapi() -> serde_json::Value {
    described(&api().1)
}

fn described(api: &utoipa::openapi::OpenApi) -> serde_json::Value {
    let mut document = serde_json::json!(api);
    salt_lamp_formats::scenario::publish_ranges(&mut document);
    document
}

/// Only what ships with the program may load; nothing may frame it.
const CONTENT_SECURITY_POLICY: &str = "default-src 'self'; style-src 'self' 'unsafe-inline'; \
    img-src 'self' data: blob:; \
     frame-ancestors 'none'; base-uri 'self'; form-action 'self'";

/// The whole application as a service that answers under the names of `hosts`, reached by `front`.
pub fn router(app: App, hosts: Hosts, front: Front) -> Router {
    let (api, description) = api();
    let description = described(&description);
    let schema = serde_json::json!(salt_lamp_formats::scenario::scenario_json_schema());
    let fixed = |doc: serde_json::Value| {
        let text: Arc<str> = doc.to_string().into();
        let hash = assets::hash_of(text.as_bytes());
        get(move |headers: HeaderMap| async move {
            assets::tagged(&headers, "application/json", "no-cache", &hash, text.to_string())
        })
    };
    let header =
        |name, value| SetResponseHeaderLayer::if_not_present(name, HeaderValue::from_static(value));
    let admit = axum::middleware::from_fn_with_state(app.clone(), access::admit);
    let inner = api
        .route("/api/v1/openapi.json", fixed(description))
        .route("/api/v1/scenario.schema.json", fixed(schema))
        .route(
            "/api/{*rest}",
            axum::routing::any(|| async {
                Problem::not_found("There is no such address in the API; see /api/v1/openapi.json.")
            }),
        )
        .fallback(assets::serve)
        .with_state(app)
        .layer(admit)
        .layer(header(header::CONTENT_SECURITY_POLICY, CONTENT_SECURITY_POLICY))
        .layer(header(header::X_CONTENT_TYPE_OPTIONS, "nosniff"))
        .layer(header(header::REFERRER_POLICY, "no-referrer"))
        .layer(axum::middleware::from_fn(compress::compress))
        // Noise does not compress: pictures and frames go as they are.
        .layer(
            CompressionLayer::new().compress_when(
                DefaultPredicate::new()
                    .and(NotForContentType::const_new("application/octet-stream"))
                    .and(NotForContentType::const_new("application/fits")),
            ),
        )
        .layer(axum::middleware::from_fn_with_state(Arc::new(hosts), guard::guard))
        .layer(CatchPanicLayer::custom(problem::from_panic))
        .layer(TraceLayer::new_for_http());
    // Around all of it, before an address is looked up: it may lose its base path.
    let arrive = axum::middleware::from_fn_with_state(Arc::new(front), proxy::arrive);
    Router::new().fallback_service(inner).layer(arrive)
}

/// How a server listens.
#[derive(Default)]
pub struct Serving {
    /// The names under which it answers.
    pub hosts: Hosts,
    /// How it is reached.
    pub front: Front,
    /// A secure connection, if wanted.
    pub tls: Option<TlsAcceptor>,
    /// How many connections, and how long.
    pub limits: ConnectionLimits,
}

/// Answers requests on `listener` until `stop` ends, and at most the grace of its limits longer.
pub async fn serve(
    listener: tokio::net::TcpListener,
    app: App,
    serving: Serving,
    stop: impl Future<Output = ()>,
) {
    let router = router(app, serving.hosts, serving.front);
    connections::answer(listener, serving.tls, router, serving.limits, stop).await;
}
