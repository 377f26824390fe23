//! Routes, a module for each view or aggregate.

mod access;
mod ahead;
mod asked;
mod bench;
mod blind;
mod buy;
mod calendar;
mod campaigns;
mod charts;
mod frames;
mod framing;
mod kit;
mod kit_files;
pub(crate) mod log;
mod look;
mod moment;
mod night;
mod plan_files;
mod prepared;
mod scenarios;
mod shelf;
mod stars;
mod targets;
mod tonight;
mod trials;

use axum::extract::State;
use axum::{Extension, Json};
use salt_lamp_core::library::Library;
use salt_lamp_store::DamagedRow;
use serde::Serialize;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use crate::http::access::Asker;
use crate::{App, Problem};

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(health))
        .routes(routes!(library))
        .routes(routes!(damaged))
        .merge(access::routes())
        .merge(bench::routes())
        .merge(blind::routes())
        .merge(buy::routes())
        .merge(charts::routes())
        .merge(frames::routes())
        .merge(framing::routes())
        .merge(kit::routes())
        .merge(kit_files::routes())
        .merge(log::routes())
        .merge(look::routes())
        .merge(moment::routes())
        .merge(night::routes())
        .merge(plan_files::routes())
        .merge(ahead::routes())
        .merge(calendar::routes())
        .merge(campaigns::routes())
        .merge(scenarios::routes())
        .merge(shelf::routes())
        .merge(stars::routes())
        .merge(targets::routes())
        .merge(tonight::routes())
        .merge(trials::routes())
}

/// Whether the server is up.
#[derive(Serialize, ToSchema)]
struct Health {
    /// "ok", or "trouble" where something cannot be stored or is damaged.
    status: &'static str,
    /// Version of the program.
    version: &'static str,
    /// What is wrong, in plain words; to who is not signed in only that something is.
    troubles: Vec<String>,
}

/// Whether the server is up, and whether what is changed can be stored.
#[utoipa::path(get, path = "/health", responses((status = 200, body = Health)))]
async fn health(State(app): State<App>, asker: Option<Extension<Asker>>) -> Json<Health> {
    let mut troubles = app.store.troubles().await;
    if asker.is_none() && !troubles.is_empty() {
        troubles = vec!["Something is wrong with the data: sign in to read what.".to_owned()];
    }
    let status = if troubles.is_empty() { "ok" } else { "trouble" };
    Json(Health { status, version: env!("CARGO_PKG_VERSION"), troubles })
}

/// Everything stored that cannot be read any more, with its text, so that it can be saved and
/// mended by hand.
#[utoipa::path(get, path = "/damaged", responses((status = 200, body = Vec<DamagedRow>)))]
async fn damaged(State(app): State<App>) -> Result<Json<Vec<DamagedRow>>, Problem> {
    let mut all = app.store.damaged().await?;
    all.extend(blind::damaged_blinds(&app).await?);
    Ok(Json(all))
}

/// Gear from the shelf, target presets, lamp mixes and Bortle classes to choose from.
#[utoipa::path(get, path = "/library", responses((status = 200, body = Library)))]
async fn library(State(app): State<App>) -> Result<Json<Library>, Problem> {
    Ok(Json(Library { gear: shelf::gear(&app).await?, ..(*app.library).clone() }))
}
