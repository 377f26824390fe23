//! The shelf, and curves on their way to it and from it.

use axum::Json;
use axum::extract::{Path, State};
use axum::http::{StatusCode, header};
use axum::response::IntoResponse;
use salt_lamp_core::library::{Gear, GearCamera, GearFilter, GearOptics, ShelfEntry, ShelfThing};
use salt_lamp_core::light::Curve;
use salt_lamp_core::path::drawn_curve;
use salt_lamp_formats::curve::{ChosenColumns, CurveReading, read_curve_of, write_ecsv};
use salt_lamp_store::{Removed, ShelfSaved, StoredEntry};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use crate::http::extract::{Body, Params, Revision};
use crate::http::zones::zone;
use crate::{App, Problem};

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(list, add))
        .routes(routes!(save, remove))
        .routes(routes!(restore))
        .routes(routes!(own))
        .routes(routes!(usual))
        .routes(routes!(ecsv))
        .routes(routes!(read))
        .routes(routes!(draw))
}

/// The shelf in the shape of the shipped gear.
pub(crate) async fn gear(app: &App) -> Result<Gear, Problem> {
    let mut gear = Gear { optics: Vec::new(), cameras: Vec::new(), filters: Vec::new() };
    for StoredEntry { id, entry, mine, .. } in app.store.shelf(false).await? {
        let note = entry.sources.get("").cloned().unwrap_or_default();
        match entry.thing {
            ShelfThing::Site(_) | ShelfThing::Rig(_) => {}
            ShelfThing::Telescope(t) => gear.optics.push(GearOptics {
                id,
                name: entry.name,
                note,
                price: t.price,
                mine,
                optics: t.optics,
            }),
            ShelfThing::Filter(f) => gear.filters.push(GearFilter {
                id,
                kind: f.family,
                note,
                fits: f.fits,
                mine,
                filter: f.filter,
            }),
            ShelfThing::Camera(k) => {
                gear.cameras.push(GearCamera {
                    id,
                    note,
                    usual_gain: k.usual_gain,
                    usual_temperature_c: k.usual_temperature_c,
                    price: k.price,
                    mine,
                    sensor: k.sensor,
                });
            }
        }
    }
    Ok(gear)
}

/// Which entries.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct Listed {
    /// With what was put away.
    #[serde(default)]
    archived: bool,
}

/// Everything on the shelf.
#[utoipa::path(get, operation_id = "shelf_list", path = "/shelf", params(Listed),
    responses((status = 200, body = Vec<StoredEntry>)))]
async fn list(
    State(app): State<App>,
    Params(listed): Params<Listed>,
) -> Result<Json<Vec<StoredEntry>>, Problem> {
    Ok(Json(app.store.shelf(listed.archived).await?))
}

/// An entry with all its fields checked, a site's time zone among them: the core does not know
/// which zones there are.
fn checked(entry: ShelfEntry) -> Result<ShelfEntry, Problem> {
    let entry = entry.check().map_err(Problem::fields)?;
    if let ShelfThing::Site(s) = &entry.thing {
        zone(s.zone.as_deref(), s.longitude_deg)
            .map_err(|e| Problem::field(&format!("thing.item.{}", e.path), e.message))?;
    }
    Ok(entry)
}

/// Adds to the shelf.
#[utoipa::path(post, operation_id = "shelf_add", path = "/shelf", request_body = ShelfEntry,
    responses((status = 201, body = StoredEntry), (status = 422, body = Problem)))]
async fn add(
    State(app): State<App>,
    Body(entry): Body<ShelfEntry>,
) -> Result<impl IntoResponse, Problem> {
    let entry = checked(entry)?;
    Ok((StatusCode::CREATED, Json(app.store.add_shelf_entry(&entry).await?)))
}

/// Saves over the revision named in If-Match.
#[utoipa::path(put, operation_id = "shelf_save", path = "/shelf/{id}", request_body = ShelfEntry,
    params(("id" = String, Path), ("If-Match" = String, Header, description = "The revision this \
        save started from, in double quotes")),
    responses((status = 200, body = StoredEntry), (status = 404, body = Problem),
    (status = 412, body = Problem), (status = 422, body = Problem)))]
async fn save(
    State(app): State<App>,
    Path(id): Path<String>,
    Revision(revision): Revision,
    Body(entry): Body<ShelfEntry>,
) -> Result<Json<StoredEntry>, Problem> {
    let entry = checked(entry)?;
    match app.store.save_shelf_entry(&id, revision, &entry).await? {
        ShelfSaved::Stored(stored) => Ok(Json(*stored)),
        ShelfSaved::Conflict(current) => Err(Problem::conflict(&current)),
    }
}

/// What became of a deletion.
#[derive(Serialize, ToSchema)]
struct RemovedAnswer {
    /// Deleted, or put away because a comparison uses it.
    removed: Removed,
}

/// Deletes an entry, or puts it away if a comparison uses it; `restore` undoes both.
#[utoipa::path(delete, operation_id = "shelf_remove", path = "/shelf/{id}",
    params(("id" = String, Path)),
    responses((status = 200, body = RemovedAnswer), (status = 404, body = Problem)))]
async fn remove(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<Json<RemovedAnswer>, Problem> {
    Ok(Json(RemovedAnswer { removed: app.store.remove_shelf_entry(&id).await? }))
}

/// Brings a deleted or archived entry back.
#[utoipa::path(post, operation_id = "shelf_restore", path = "/shelf/{id}/restore",
    params(("id" = String, Path)),
    responses((status = 200, body = StoredEntry), (status = 404, body = Problem)))]
async fn restore(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<Json<StoredEntry>, Problem> {
    Ok(Json(app.store.restore_shelf_entry(&id).await?))
}

/// Whether a thing is owned.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct Owned {
    /// True for what one has, false for what is only on offer.
    mine: bool,
}

/// Says whether a thing is owned.
#[utoipa::path(put, operation_id = "shelf_own", path = "/shelf/{id}/mine", request_body = Owned,
    params(("id" = String, Path)),
    responses((status = 200, body = StoredEntry), (status = 404, body = Problem)))]
async fn own(
    State(app): State<App>,
    Path(id): Path<String>,
    Body(owned): Body<Owned>,
) -> Result<Json<StoredEntry>, Problem> {
    Ok(Json(app.store.own_shelf_entry(&id, owned.mine).await?))
}

/// Makes a thing the usual one of its kind.
#[utoipa::path(post, operation_id = "shelf_usual", path = "/shelf/{id}/usual",
    params(("id" = String, Path)),
    responses((status = 200, body = StoredEntry), (status = 404, body = Problem)))]
async fn usual(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<Json<StoredEntry>, Problem> {
    Ok(Json(app.store.make_usual(&id).await?))
}

/// The curve of a filter (bands are sampled) or the efficiency of a camera as ECSV.
#[utoipa::path(get, operation_id = "shelf_ecsv", path = "/shelf/{id}/curve.ecsv",
    params(("id" = String, Path)),
    responses((status = 200, body = String, content_type = "text/plain"),
    (status = 404, body = Problem)))]
async fn ecsv(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<impl IntoResponse, Problem> {
    let stored = app.store.shelf_entry(&id).await?;
    let text = match &stored.entry.thing {
        ShelfThing::Filter(f) => {
            write_ecsv(&stored.entry.name, &[("transmission", &Curve(drawn_curve(&f.filter)))])
        }
        ShelfThing::Camera(k) => {
            let colours =
                k.sensor.cfa_curves.iter().flatten().map(|(colour, curve)| (colour.key(), curve));
            let all: Vec<(&str, &Curve)> =
                std::iter::once(("quantum_efficiency", &k.sensor.qe)).chain(colours).collect();
            write_ecsv(&stored.entry.name, &all)
        }
        _ => return Err(Problem::not_found(format!("{} has no curve.", stored.entry.name))),
    };
    let disposition = format!("attachment; filename=\"{id}.ecsv\"");
    Ok((
        [
            (header::CONTENT_TYPE, "text/plain; charset=utf-8".to_owned()),
            (header::CONTENT_DISPOSITION, disposition),
        ],
        text,
    ))
}

/// Text that should be a curve.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct CurveText {
    /// CSV, ECSV, or cells pasted from a spreadsheet.
    text: String,
    /// Index of the column to read as the wavelength; by heading where none is given.
    #[serde(default)]
    wavelength_column: Option<usize>,
    /// Index of the column to read as the value; by heading where none is given.
    #[serde(default)]
    value_column: Option<usize>,
}

/// Reads a curve and says what was understood; stores nothing.
#[utoipa::path(post, operation_id = "shelf_read", path = "/curves/read", request_body = CurveText,
    responses((status = 200, body = CurveReading), (status = 422, body = Problem)))]
async fn read(Body(q): Body<CurveText>) -> Result<Json<CurveReading>, Problem> {
    let chosen = ChosenColumns { wavelength: q.wavelength_column, value: q.value_column };
    read_curve_of(&q.text, chosen).map(Json).map_err(|e| {
        let path = e.row().map_or("text".to_owned(), |row| format!("text, row {row}"));
        Problem::field(&path, e.to_string())
    })
}

/// A filter's transmission in parallel light to draw: pairs of wavelength nm and fraction.
#[utoipa::path(post, operation_id = "shelf_draw", path = "/curves/draw", request_body = ShelfEntry,
    responses((status = 200, body = Curve), (status = 422, body = Problem)))]
async fn draw(Body(entry): Body<ShelfEntry>) -> Result<Json<Curve>, Problem> {
    match entry.check().map_err(Problem::fields)?.thing {
        ShelfThing::Filter(f) => Ok(Json(Curve(drawn_curve(&f.filter)))),
        ShelfThing::Camera(k) => Ok(Json(k.sensor.qe)),
        other => Err(Problem::field("thing.kind", format!("a {} has no curve", other.kind()))),
    }
}
