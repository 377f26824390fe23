//! Routes, a module for each view or aggregate.

mod calendar;
mod campaigns;
mod compute;
mod look;
mod night;
mod scenarios;
mod shelf;
mod targets;

use axum::Json;
use axum::extract::State;
use salt_lamp_core::gear::Library;
use serde::Serialize;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use crate::{App, Problem};

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(health))
        .routes(routes!(library))
        .merge(compute::routes())
        .merge(look::routes())
        .merge(night::routes())
        .merge(calendar::routes())
        .merge(campaigns::routes())
        .merge(scenarios::routes())
        .merge(shelf::routes())
        .merge(targets::routes())
}

/// Whether the server is up.
#[derive(Serialize, ToSchema)]
struct Health {
    /// Always "ok".
    status: &'static str,
    /// Version of the program.
    version: &'static str,
}

/// Whether the server is up.
#[utoipa::path(get, path = "/health", responses((status = 200, body = Health)))]
async fn health() -> Json<Health> {
    Json(Health { status: "ok", version: env!("CARGO_PKG_VERSION") })
}

/// Gear from the shelf, target presets, lamp mixes and Bortle classes to choose from.
#[utoipa::path(get, path = "/library", responses((status = 200, body = Library)))]
async fn library(State(app): State<App>) -> Result<Json<Library>, Problem> {
    Ok(Json(Library { gear: shelf::gear(&app).await?, ..(*app.library).clone() }))
}
