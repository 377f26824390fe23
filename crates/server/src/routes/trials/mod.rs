//! Trials: kept, designed, laid into a night, filled from the log, and judged.

pub(crate) mod beside;
mod files;
mod gather;
mod judged;

use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use axum::response::IntoResponse;
use salt_lamp_core::Scenario;
use salt_lamp_core::light::Quantity;
use salt_lamp_core::night::{Direction, NightView, night_view};
use salt_lamp_core::scenario::NightLimits;
use salt_lamp_core::signal::Model;
use salt_lamp_core::trial::{
    Designed, Judged, Sheet, Treatment, Trial, TrialDesign, TrialKind, sheet,
};
use salt_lamp_store::{Expected, StoredTrial, TrialSaved};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::asked::{ClockOffset, NightSite, framed, offsets};
use super::campaigns::site_of;
use crate::http::extract::{Body, Params, Revision};
use crate::http::revised::tagged;
use crate::http::zones::LocalNight;
use crate::{App, Problem};

pub(crate) use judged::headlines;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(list, add))
        .routes(routes!(begin))
        .routes(routes!(read, save, delete))
        .routes(routes!(restore))
        .routes(routes!(designed))
        .routes(routes!(in_night))
        .merge(beside::routes())
        .merge(files::routes())
        .merge(gather::routes())
        .merge(judged::routes())
}

/// All trials, last changed first.
#[utoipa::path(get, operation_id = "trials_list", path = "/trials",
    responses((status = 200, body = Vec<StoredTrial>)))]
async fn list(State(app): State<App>) -> Result<Json<Vec<StoredTrial>>, Problem> {
    Ok(Json(app.store.trials().await?))
}

/// Stores a new trial.
#[utoipa::path(post, operation_id = "trials_add", path = "/trials", request_body = Trial,
    responses((status = 201, body = StoredTrial), (status = 422, body = Problem)))]
async fn add(
    State(app): State<App>,
    Body(trial): Body<Trial>,
) -> Result<impl IntoResponse, Problem> {
    trial.check().map_err(Problem::fields)?;
    Ok((StatusCode::CREATED, tagged(app.store.add_trial(&trial).await?)))
}

/// What a trial begins from.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct TrialBeginning {
    /// Target, sky and light paths.
    scenario: Scenario,
    /// What is compared, the first being what the others are held against.
    kinds: Vec<TrialKind>,
    /// What differs.
    treatment: Treatment,
    /// What is judged.
    judged: Judged,
    /// The line that it is judged by; what the first kind is for where none is given.
    #[serde(default)]
    quantity: Option<Quantity>,
    /// Id of the site on the shelf.
    site: String,
}

/// Begins a trial from a comparison: framed where the catalogue has its target, by the scatter that
/// an earlier trial of the same camera found.
#[utoipa::path(post, operation_id = "trials_begin", path = "/trials/begin",
    request_body = TrialBeginning,
    responses((status = 201, body = StoredTrial), (status = 422, body = Problem)))]
async fn begin(
    State(app): State<App>,
    Body(q): Body<TrialBeginning>,
) -> Result<impl IntoResponse, Problem> {
    let framing = framed(&app, &q.scenario)?;
    let mut trial = Trial {
        title: String::new(),
        scenario: q.scenario,
        site: q.site,
        framing,
        treatment: q.treatment,
        judged: q.judged,
        quantity: q.quantity.unwrap_or(Quantity::Ha),
        kinds: q.kinds,
        design: TrialDesign::default(),
        nights: Vec::new(),
        marks: None,
        frames: Vec::new(),
    };
    trial.title = trial.names().join(" against ").chars().take(200).collect();
    if trial.title.trim().is_empty() {
        trial.title = "Trial".to_owned();
    }
    trial.check().map_err(Problem::fields)?;
    if q.quantity.is_none()
        && let Some(own) = trial.own_quantity(&app.tables)
    {
        trial.quantity = own;
    }
    let earlier: Vec<Trial> = app.store.trials().await?.into_iter().map(|t| t.trial).collect();
    if let Some(scatter) = trial.scatter_of(&earlier) {
        trial.design.scatter = scatter;
    }
    add(State(app), Body(trial)).await
}

/// One trial, its revision as the ETag.
#[utoipa::path(get, operation_id = "trials_read", path = "/trials/{id}",
    params(("id" = String, Path)),
    responses((status = 200, body = StoredTrial), (status = 404, body = Problem)))]
async fn read(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<impl IntoResponse, Problem> {
    Ok(tagged(app.store.trial(&id).await?))
}

/// Saves over the revision named in If-Match. A 412 says that somebody saved first.
#[utoipa::path(put, operation_id = "trials_save", path = "/trials/{id}", request_body = Trial,
    params(("id" = String, Path), ("If-Match" = String, Header, description = "The revision this \
        save started from, in double quotes")),
    responses((status = 200, body = StoredTrial), (status = 404, body = Problem),
    (status = 412, body = Problem), (status = 422, body = Problem)))]
async fn save(
    State(app): State<App>,
    Path(id): Path<String>,
    Revision(revision): Revision,
    Body(trial): Body<Trial>,
) -> Result<impl IntoResponse, Problem> {
    saved(&app, &id, revision, &trial).await
}

/// Saves a trial that is accepted over a revision.
async fn saved(
    app: &App,
    id: &str,
    over: Expected,
    trial: &Trial,
) -> Result<impl IntoResponse + use<>, Problem> {
    trial.check().map_err(Problem::fields)?;
    match app.store.save_trial(id, over, trial).await? {
        TrialSaved::Stored(stored) => Ok(tagged(*stored)),
        TrialSaved::Conflict(current) => Err(Problem::conflict(&current)),
    }
}

/// Deletes a trial; `restore` brings it back.
#[utoipa::path(delete, operation_id = "trials_delete", path = "/trials/{id}",
    params(("id" = String, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn delete(State(app): State<App>, Path(id): Path<String>) -> Result<StatusCode, Problem> {
    app.store.delete_trial(&id).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Brings a deleted trial back.
#[utoipa::path(post, operation_id = "trials_restore", path = "/trials/{id}/restore",
    params(("id" = String, Path)),
    responses((status = 200, body = StoredTrial), (status = 404, body = Problem)))]
async fn restore(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<impl IntoResponse, Problem> {
    Ok(tagged(app.store.restore_trial(&id).await?))
}

/// The trial as designed: what the model expects, pairs, time, order.
async fn design_of(app: &App, trial: Trial) -> Result<Designed, Problem> {
    let work = app.heavy(move |app, _| {
        let checked = trial.scenario.clone().check().map_err(Problem::fields)?;
        Ok::<_, Problem>(trial.designed(&Model::new(&checked, &app.tables)))
    });
    work.await?
}

/// What the model expects of a trial with the spread between copies of its filters, how many pairs
/// show what matters, how long they take, and in which order.
#[utoipa::path(get, operation_id = "trials_design", path = "/trials/{id}/design",
    params(("id" = String, Path)),
    responses((status = 200, body = Designed), (status = 404, body = Problem),
        (status = 422, body = Problem)))]
async fn designed(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<Json<Designed>, Problem> {
    let trial = app.store.trial(&id).await?.trial;
    Ok(Json(design_of(&app, trial).await?))
}

/// On which evening.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct TrialNight {
    /// Its date, such as 2027-01-10.
    #[serde(default)]
    date: String,
}

/// A trial's run sheet.
#[derive(Serialize, ToSchema)]
struct TrialSheet {
    /// The evening.
    date: String,
    /// Name of the site.
    site: String,
    /// Local time through the night.
    clock: Vec<ClockOffset>,
    /// What each kind is called.
    names: Vec<String>,
    /// What is taken when.
    sheet: Sheet,
}

/// A trial's sheet on an evening, with the night that it lies in.
struct Laid {
    site: NightSite,
    night: LocalNight,
    sheet: Sheet,
}

async fn laid(app: &App, trial: &Trial, on: &str) -> Result<Laid, Problem> {
    let Some((name, site)) = site_of(app, &trial.site).await? else {
        let said = "the trial's site is no longer in the kit; choose another for it";
        return Err(Problem::field("site", said));
    };
    let limits = NightLimits { horizon_deg: site.horizon_deg.clone(), ..NightLimits::default() };
    let site = NightSite::of(&name, &site);
    let (place, night) = (site.place()?, site.night(on)?);
    let span = (night.from_s, night.to_s);
    let target = Direction { ra_deg: trial.framing.ra_deg, dec_deg: trial.framing.dec_deg };
    let trial = trial.clone();
    let work = app.heavy(move |_, _| {
        let view: NightView = night_view(place, span.0, span.1, target, &limits, None)?;
        Ok::<_, Problem>(sheet(&trial, &view))
    });
    let sheet = work.await??;
    Ok(Laid { site, night, sheet })
}

/// A trial laid into an evening: about the meridian, no moonrise or flip within a block.
#[utoipa::path(get, operation_id = "trials_sheet", path = "/trials/{id}/sheet",
    params(("id" = String, Path), TrialNight),
    responses((status = 200, body = TrialSheet), (status = 404, body = Problem),
        (status = 422, body = Problem)))]
async fn in_night(
    State(app): State<App>,
    Path(id): Path<String>,
    Params(on): Params<TrialNight>,
) -> Result<Json<TrialSheet>, Problem> {
    let trial = app.store.trial(&id).await?.trial;
    let Laid { site, night, sheet } = laid(&app, &trial, &on.date).await?;
    Ok(Json(TrialSheet {
        date: on.date,
        site: site.name,
        clock: offsets(&night.clock),
        names: trial.names(),
        sheet,
    }))
}
