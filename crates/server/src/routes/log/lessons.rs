//! What was taken over from nights, and its way back.

use axum::Json;
use axum::extract::{Path, State};
use salt_lamp_core::campaign::Campaign;
use salt_lamp_core::library::ShelfEntry;
use salt_lamp_core::log::{FieldChange, HolderOfFigure, put, standing};
use salt_lamp_store::{StoreError, StoredLesson, Taught};
use serde::Serialize;
use serde_json::Value;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use crate::{App, Problem};

pub(super) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(lessons)).routes(routes!(undo))
}

/// What was taken over from all nights, the last first, with what was taken back.
#[utoipa::path(get, operation_id = "log_lessons", path = "/log/lessons",
    responses((status = 200, body = Vec<StoredLesson>)))]
async fn lessons(State(app): State<App>) -> Result<Json<Vec<StoredLesson>>, Problem> {
    Ok(Json(app.store.lessons().await?))
}

/// Takes a lesson back: every field that it changed is as it was before. One that was changed since
/// is left as it stands, and nothing is taken back.
#[utoipa::path(delete, operation_id = "log_undo_lesson", path = "/log/lessons/{id}",
    params(("id" = String, Path)),
    responses((status = 200, body = StoredLesson), (status = 404, body = Problem),
        (status = 412, body = Problem), (status = 422, body = Problem)))]
async fn undo(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<Json<StoredLesson>, Problem> {
    let lesson = app.store.lesson(&id).await?;
    let mut taught = Taught::default();
    let mut holders: Vec<(HolderOfFigure, &str)> =
        lesson.lesson.changes.iter().map(|c| (c.holder, c.id.as_str())).collect();
    holders.dedup();
    for (holder, of) in holders {
        let changes: Vec<&FieldChange> =
            lesson.lesson.changes.iter().filter(|c| c.holder == holder && c.id == of).collect();
        match holder {
            HolderOfFigure::Kit => match app.store.shelf_entry(of).await {
                Ok(e) => {
                    let back: ShelfEntry = put_back(&e.entry, &changes)?;
                    taught.kit.push((e.id, e.revision, back.check().map_err(Problem::fields)?));
                }
                // What is gone has nothing to be put back.
                Err(StoreError::NotFound { .. }) => {}
                Err(e) => return Err(e.into()),
            },
            HolderOfFigure::Campaign => match app.store.campaign(of).await {
                Ok(c) => {
                    let back: Campaign = put_back(&c.campaign, &changes)?;
                    back.check().map_err(Problem::fields)?;
                    taught.campaigns.push((c.id, c.revision, back));
                }
                Err(StoreError::NotFound { .. }) => {}
                Err(e) => return Err(e.into()),
            },
        }
    }
    match app.store.undo_lesson(&id, taught).await? {
        Some(stored) => Ok(Json(stored)),
        None => Err(Problem::conflict(&Value::Null)),
    }
}

/// A document with fields put back.
fn put_back<T: Serialize + serde::de::DeserializeOwned>(
    now: &T,
    changes: &[&FieldChange],
) -> Result<T, Problem> {
    let mut document = serde_json::to_value(now).map_err(Problem::fault)?;
    for c in changes {
        let is = standing(&document, &c.field);
        if *is != c.after {
            let said = format!(
                "{}{} was changed since: it is {is} now, {} was taken over",
                c.name, c.field, c.after
            );
            return Err(Problem::field("lesson", said));
        }
        put(&mut document, &c.field, &c.before);
    }
    serde_json::from_value(document).map_err(Problem::fault)
}
