//! Campaigns: kept, and where they stand.

use axum::Json;
use axum::extract::{Path, State};
use axum::http::{StatusCode, header};
use axum::response::IntoResponse;
use salt_lamp_core::campaign::{Campaign, Forecast, GoalState, forecast_of, goal_states, next_step, snr2_per_sub};
use salt_lamp_core::library::{ShelfEntry, ShelfThing};
use salt_lamp_core::light::Quantity;
use salt_lamp_core::night::{Direction, NightRig, Place, year_view};
use salt_lamp_core::scenario::{NightLimits, Site};
use salt_lamp_store::{CampaignSaved, StoreError, StoredCampaign, StoredEntry};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use crate::http::extract::{Body, Params, Revision};
use crate::http::zones::{date, noons, zone};
use crate::{App, Problem};

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(list, add)).routes(routes!(read, save, delete)).routes(routes!(restore)).routes(routes!(state))
}

fn tagged(stored: StoredCampaign) -> impl IntoResponse {
    ([(header::ETAG, format!("\"{}\"", stored.revision))], Json(stored))
}

/// All campaigns, last changed first.
#[utoipa::path(get, operation_id = "campaigns_list", path = "/campaigns", responses((status = 200, body = Vec<StoredCampaign>)))]
async fn list(State(app): State<App>) -> Result<Json<Vec<StoredCampaign>>, Problem> {
    Ok(Json(app.store.campaigns().await?))
}

/// Stores a new campaign.
#[utoipa::path(post, operation_id = "campaigns_add", path = "/campaigns", request_body = Campaign,
    responses((status = 201, body = StoredCampaign), (status = 422, body = Problem)))]
async fn add(State(app): State<App>, Body(campaign): Body<Campaign>) -> Result<impl IntoResponse, Problem> {
    campaign.check().map_err(Problem::fields)?;
    Ok((StatusCode::CREATED, tagged(app.store.add_campaign(&campaign).await?)))
}

/// One campaign, its revision as the ETag.
#[utoipa::path(get, operation_id = "campaigns_read", path = "/campaigns/{id}", params(("id" = String, Path)),
    responses((status = 200, body = StoredCampaign), (status = 404, body = Problem)))]
async fn read(State(app): State<App>, Path(id): Path<String>) -> Result<impl IntoResponse, Problem> {
    Ok(tagged(app.store.campaign(&id).await?))
}

/// Saves over the revision named in If-Match. A 412 says that somebody saved first.
#[utoipa::path(put, operation_id = "campaigns_save", path = "/campaigns/{id}", request_body = Campaign,
    params(("id" = String, Path), ("If-Match" = String, Header, description = "The revision this save started from, in double quotes")),
    responses((status = 200, body = StoredCampaign), (status = 404, body = Problem), (status = 412, body = Problem), (status = 422, body = Problem)))]
async fn save(
    State(app): State<App>,
    Path(id): Path<String>,
    Revision(revision): Revision,
    Body(campaign): Body<Campaign>,
) -> Result<impl IntoResponse, Problem> {
    campaign.check().map_err(Problem::fields)?;
    match app.store.save_campaign(&id, revision, &campaign).await? {
        CampaignSaved::Stored(stored) => Ok(tagged(*stored)),
        CampaignSaved::Conflict(current) => Err(Problem::conflict(&current)),
    }
}

/// Deletes a campaign; `restore` brings it back.
#[utoipa::path(delete, operation_id = "campaigns_delete", path = "/campaigns/{id}", params(("id" = String, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn delete(State(app): State<App>, Path(id): Path<String>) -> Result<StatusCode, Problem> {
    app.store.delete_campaign(&id).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Brings a deleted campaign back.
#[utoipa::path(post, operation_id = "campaigns_restore", path = "/campaigns/{id}/restore", params(("id" = String, Path)),
    responses((status = 200, body = StoredCampaign), (status = 404, body = Problem)))]
async fn restore(State(app): State<App>, Path(id): Path<String>) -> Result<impl IntoResponse, Problem> {
    Ok(tagged(app.store.restore_campaign(&id).await?))
}

#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct On {
    /// From which evening the forecast runs, such as 2027-01-10.
    date: String,
}

/// Where a campaign stands.
#[derive(Serialize, ToSchema)]
struct CampaignState {
    /// Each goal.
    goals: Vec<GoalState>,
    /// When it will be finished.
    forecast: Forecast,
    /// Evening's date of the median finish; null where it is not within a year.
    median_date: Option<String>,
    /// Date by which nine in ten runs are done.
    ninety_date: Option<String>,
    /// What to shoot next, in a sentence.
    next: String,
    /// What one sub of each exposure adds under the scenario's own sky, line by line, for nights that are typed in by hand.
    per_sub: Vec<Vec<LinePerSub>>,
    /// The site's name; null where it is no longer on the shelf.
    site: Option<String>,
}

/// What one sub adds to a line.
#[derive(Serialize, ToSchema)]
struct LinePerSub {
    /// The line; what the exposure is for stands first.
    quantity: Quantity,
    /// Square of the signal to noise.
    snr2: f64,
}

/// Nights over which a forecast runs.
const AHEAD: usize = 365;

/// A site of the shelf; none where it is no longer there.
async fn site_of(app: &App, id: &str) -> Result<Option<(String, Site)>, Problem> {
    match app.store.shelf_entry(id).await {
        Ok(StoredEntry { entry: ShelfEntry { name, thing: ShelfThing::Site(site), .. }, .. }) => Ok(Some((name, site))),
        Ok(_) | Err(StoreError::NotFound { .. }) => Ok(None),
        Err(e) => Err(e.into()),
    }
}

/// Progress of each goal, a forecast of the finish under the chance of clear nights, and what to shoot next.
#[utoipa::path(get, operation_id = "campaigns_state", path = "/campaigns/{id}/state", params(("id" = String, Path), On),
    responses((status = 200, body = CampaignState), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn state(State(app): State<App>, Path(id): Path<String>, Params(on): Params<On>) -> Result<Json<CampaignState>, Problem> {
    let campaign = app.store.campaign(&id).await?.campaign;
    let from = date(&on.date).map_err(|e| Problem::fields(vec![e]))?;
    let checked = campaign.scenario.clone().check().map_err(Problem::fields)?;
    let site = site_of(&app, &campaign.site).await?;
    let days = match &site {
        Some((_, site)) => noons(from, AHEAD, &zone(site.zone.as_deref(), site.longitude_deg).map_err(|e| Problem::fields(vec![e]))?)?,
        None => Vec::new(),
    };
    let dates: Vec<String> = days.iter().map(|d| d.0.to_string()).collect();
    let place = site.as_ref().map(|(_, site)| {
        let limits = NightLimits { horizon_deg: site.horizon_deg.clone(), ..NightLimits::default() };
        (Place { latitude_deg: site.latitude_deg, longitude_deg: site.longitude_deg, height_m: site.height_m }, limits)
    });
    let work = app.heavy(move |app, threads| {
        let rig = NightRig::new(&checked, campaign.contender, &app.tables)
            .ok_or_else(|| Problem::field("contender", "the campaign's contender is not in its scenario"))?;
        let goals = goal_states(&campaign, &rig);
        let per_sub = snr2_per_sub(&checked, campaign.contender, &app.tables);
        let stamps: Vec<f64> = days.iter().map(|d| d.1).collect();
        let ahead = match place {
            Some((place, limits)) => {
                let at = Direction { ra_deg: campaign.framing.ra_deg, dec_deg: campaign.framing.dec_deg };
                let year = year_view(place, &stamps, at, &limits, Some(&rig), threads)?;
                forecast_of(&campaign, &goals, &rig, &year)
            }
            None => Forecast::default(),
        };
        Ok::<_, Problem>((goals, per_sub, ahead))
    });
    let (goals, per_sub, ahead) = work.await??;
    let next = next_step(&goals);
    let date_of = |n: Option<usize>| n.and_then(|n| dates.get(n.saturating_sub(1)).cloned());
    Ok(Json(CampaignState {
        median_date: date_of(ahead.median_nights),
        ninety_date: date_of(ahead.ninety_nights),
        goals,
        forecast: ahead,
        next,
        per_sub: per_sub.into_iter().map(|list| list.into_iter().map(|(quantity, snr2)| LinePerSub { quantity, snr2 }).collect()).collect(),
        site: site.map(|s| s.0),
    }))
}
