//! Rigs from files and to them, and what old comparisons offer as rigs.

use std::collections::BTreeMap;

use axum::Json;
use axum::extract::{Path, State};
use axum::http::{StatusCode, header};
use axum::response::IntoResponse;
use salt_lamp_core::library::{RigFile, RigParts, ShelfEntry, ShelfThing};
use salt_lamp_formats::scenario::read_json;
use salt_lamp_store::StoredEntry;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::kit::Shelf;
use crate::http::extract::Body;
use crate::{App, Problem};

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(rig_file))
        .routes(routes!(read_rig))
        .routes(routes!(offered))
}

/// A rig as a file, all its parts in it.
#[utoipa::path(get, operation_id = "kit_file", path = "/kit/rigs/{id}/file",
    params(("id" = String, Path)),
    responses((status = 200, body = RigFile), (status = 404, body = Problem),
    (status = 422, body = Problem)))]
async fn rig_file(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<impl IntoResponse, Problem> {
    let stored = app.store.shelf_entry(&id).await?;
    let ShelfThing::Rig(rig) = &stored.entry.thing else {
        return Err(Problem::not_found(format!("{} is no rig.", stored.entry.name)));
    };
    let shelf = Shelf::of(&app).await?;
    let file = RigFile::new(&stored.entry.name, rig, &|id| shelf.find(id));
    let file = file.map_err(Problem::fields)?;
    let disposition = format!("attachment; filename=\"rig-{id}.json\"");
    Ok(([(header::CONTENT_DISPOSITION, disposition)], Json(file)))
}

/// The text of a rig's file.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct RigText {
    /// A JSON document of the format `salt-lamp-rig`.
    text: String,
}

/// Reads a rig from a file and puts it into the kit. Parts that the shelf holds already, number by
/// number, are used; the others come with it.
#[utoipa::path(post, operation_id = "kit_read", path = "/kit/rigs/read", request_body = RigText,
    responses((status = 201, body = StoredEntry), (status = 422, body = Problem)))]
async fn read_rig(
    State(app): State<App>,
    Body(q): Body<RigText>,
) -> Result<impl IntoResponse, Problem> {
    let file = read_json::<RigFile>(q.text.as_bytes())
        .map_err(|e| match e.fields() {
            fields if fields.is_empty() => Problem::field("text", e.to_string()),
            fields => Problem::fields(fields),
        })?
        .check()
        .map_err(Problem::fields)?;
    let stored = add_rig(&app, file).await?;
    Ok((StatusCode::CREATED, Json(stored)))
}

/// Puts a rig into the kit, with those of its parts that the shelf does not hold.
async fn add_rig(app: &App, file: RigFile) -> Result<StoredEntry, Problem> {
    let shelf = app.store.shelf(false).await?;
    let mut ids = BTreeMap::new();
    for (id, part) in &file.parts {
        let same = |e: &&StoredEntry| e.entry.thing == part.thing && e.entry.name == part.name;
        let own = match shelf.iter().find(same) {
            Some(e) => e.id.clone(),
            None => app.store.add_shelf_entry(part).await?.id,
        };
        ids.insert(id.clone(), own);
    }
    let entry = ShelfEntry {
        name: file.name,
        sources: BTreeMap::new(),
        thing: ShelfThing::Rig(file.rig.with_ids(&ids)),
    };
    Ok(app.store.add_shelf_entry(&entry).await?)
}

/// A rig that old comparisons hold and the kit does not.
#[derive(Serialize, ToSchema)]
struct OfferedRig {
    /// In how many light paths it occurs.
    used: usize,
    /// The rig as a file; reading it puts it into the kit.
    file: RigFile,
}

/// Rigs of stored comparisons that the kit does not hold: telescope and camera with every filter
/// that was ever before them.
#[utoipa::path(get, operation_id = "kit_offered", path = "/kit/offered",
    responses((status = 200, body = Vec<OfferedRig>)))]
async fn offered(State(app): State<App>) -> Result<Json<Vec<OfferedRig>>, Problem> {
    let shelf = Shelf::of(&app).await?;
    let mut scenarios = Vec::new();
    for row in app.store.scenarios().await? {
        // One that cannot be read is named elsewhere.
        if let Ok(stored) = app.store.scenario(&row.id).await {
            scenarios.push(stored.scenario);
        }
    }
    let work = app.heavy(move |_, _| {
        let mut offers: Vec<OfferedRig> = Vec::new();
        for c in scenarios.iter().flat_map(|s| &s.contenders) {
            let same = |o: &OfferedRig| {
                o.file
                    .parts()
                    .is_ok_and(|p| p.telescope.1.optics == c.optics && p.camera.sensor == c.sensor)
            };
            match offers.iter_mut().find(|o| same(o)) {
                Some(offer) => {
                    offer.used += 1;
                    offer.file.take_filters(c);
                }
                None => offers.push(OfferedRig { used: 1, file: RigFile::of_light_path(c) }),
            }
        }
        let known = shelf.rigs();
        offers.retain(|o| {
            o.file.parts().is_ok_and(|p| {
                let held =
                    |k: &RigParts| k.optics() == p.optics() && k.camera.sensor == p.camera.sensor;
                !known.iter().any(held)
            })
        });
        offers.sort_by_key(|o| std::cmp::Reverse(o.used));
        offers
    });
    work.await.map(Json)
}
