//! Campaigns: kept, and where they stand.

use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use axum::response::IntoResponse;
use salt_lamp_core::Scenario;
use salt_lamp_core::campaign::{
    CLEAR_SHARE, Campaign, CampaignNight, Forecast, GoalState, Shot, finish, first_goals,
    forecast_of, goal_states, never_up, next_step, pace_told, paces, shared_with, snr2_per_sub,
    wants_the_same_nights,
};
use salt_lamp_core::library::{ShelfEntry, ShelfThing};
use salt_lamp_core::log::filters_of;
use salt_lamp_core::night::{Direction, NightRig, Place, year_view};
use salt_lamp_core::scenario::{NightLimits, Site};
use salt_lamp_store::{CampaignSaved, StoreError, StoredCampaign, StoredEntry};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::asked::{checked, framed};
use super::shelf;
use crate::http::extract::{Body, Params, Revision};
use crate::http::revised::tagged;
use crate::http::zones::{date, noons, zone};
use crate::{App, Problem};

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(list, add))
        .routes(routes!(begin))
        .routes(routes!(read, save, delete))
        .routes(routes!(restore))
        .routes(routes!(record))
        .routes(routes!(state))
}

/// All campaigns, last changed first.
#[utoipa::path(get, operation_id = "campaigns_list", path = "/campaigns",
    responses((status = 200, body = Vec<StoredCampaign>)))]
async fn list(State(app): State<App>) -> Result<Json<Vec<StoredCampaign>>, Problem> {
    Ok(Json(app.store.campaigns().await?))
}

/// Stores a new campaign.
#[utoipa::path(post, operation_id = "campaigns_add", path = "/campaigns", request_body = Campaign,
    responses((status = 201, body = StoredCampaign), (status = 422, body = Problem)))]
async fn add(
    State(app): State<App>,
    Body(campaign): Body<Campaign>,
) -> Result<impl IntoResponse, Problem> {
    campaign.check().map_err(Problem::fields)?;
    Ok((StatusCode::CREATED, tagged(app.store.add_campaign(&campaign).await?)))
}

/// What a campaign begins from.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct CampaignBeginning {
    /// Target, sky and rigs.
    scenario: Scenario,
    /// Index of the contender that is used.
    contender: usize,
    /// Id of the site on the shelf.
    site: String,
}

/// Begins a campaign from a comparison: framed where the catalogue has its target, a goal for every
/// line that is wanted.
#[utoipa::path(post, operation_id = "campaigns_begin", path = "/campaigns/begin",
    request_body = CampaignBeginning,
    responses((status = 201, body = StoredCampaign), (status = 422, body = Problem)))]
async fn begin(
    State(app): State<App>,
    Body(q): Body<CampaignBeginning>,
) -> Result<impl IntoResponse, Problem> {
    let framing = framed(&app, &q.scenario)?;
    let study_of = checked(q.scenario.clone())?;
    let gear = shelf::gear(&app).await?;
    let (_, decisions, _) =
        app.heavy(move |app, _| app.studies.decisions(study_of, &gear, &app.tables)).await??;
    let Some(path) = decisions.paths.get(q.contender) else {
        return Err(Problem::field(
            "contender",
            format!("there is no contender {}; count from 0", q.contender),
        ));
    };
    let campaign = Campaign {
        title: format!("{} campaign", q.scenario.target.name).chars().take(200).collect(),
        goals: first_goals(&path.time.parts, q.scenario.usual_snr()),
        contender: q.contender,
        site: q.site,
        framing,
        also: Vec::new(),
        clear_share: CLEAR_SHARE,
        nights: Vec::new(),
        scenario: q.scenario,
    };
    add(State(app), Body(campaign)).await
}

/// One campaign, its revision as the ETag.
#[utoipa::path(get, operation_id = "campaigns_read", path = "/campaigns/{id}",
    params(("id" = String, Path)),
    responses((status = 200, body = StoredCampaign), (status = 404, body = Problem)))]
async fn read(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<impl IntoResponse, Problem> {
    Ok(tagged(app.store.campaign(&id).await?))
}

/// Saves over the revision named in If-Match. A 412 says that somebody saved first.
#[utoipa::path(put, operation_id = "campaigns_save", path = "/campaigns/{id}",
    request_body = Campaign,
    params(("id" = String, Path), ("If-Match" = String, Header, description = "The revision this \
        save started from, in double quotes")),
    responses((status = 200, body = StoredCampaign), (status = 404, body = Problem),
    (status = 412, body = Problem), (status = 422, body = Problem)))]
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
#[utoipa::path(delete, operation_id = "campaigns_delete", path = "/campaigns/{id}",
    params(("id" = String, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn delete(State(app): State<App>, Path(id): Path<String>) -> Result<StatusCode, Problem> {
    app.store.delete_campaign(&id).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Brings a deleted campaign back.
#[utoipa::path(post, operation_id = "campaigns_restore", path = "/campaigns/{id}/restore",
    params(("id" = String, Path)),
    responses((status = 200, body = StoredCampaign), (status = 404, body = Problem)))]
async fn restore(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<impl IntoResponse, Problem> {
    Ok(tagged(app.store.restore_campaign(&id).await?))
}

/// A night for a campaign's book.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct NightRecord {
    /// The night, as its plan or its last record has it.
    night: CampaignNight,
    /// Subs that were really kept, one number an exposure; what each is worth follows from the
    /// night, and where that has none to go by from the scenario's own sky. Left out, the night
    /// stands as it is.
    #[serde(default)]
    subs: Option<Vec<u32>>,
    /// Index of the contender that took it, where it is another than the campaign's own: its shots
    /// are entered so.
    #[serde(default)]
    path: Option<usize>,
    /// The record in whose place it comes, where one is edited.
    #[serde(default)]
    instead_of: Option<CampaignNight>,
}

/// Enters a night over the revision named in If-Match: in the place of what was only planned for
/// its evening. An evening that is recorded already is refused, for it would count twice.
#[utoipa::path(post, operation_id = "campaigns_record", path = "/campaigns/{id}/nights",
    request_body = NightRecord,
    params(("id" = String, Path), ("If-Match" = String, Header, description = "The revision this \
        save started from, in double quotes")),
    responses((status = 200, body = StoredCampaign), (status = 404, body = Problem),
    (status = 412, body = Problem), (status = 422, body = Problem)))]
async fn record(
    State(app): State<App>,
    Path(id): Path<String>,
    revision: Revision,
    Body(NightRecord { night, subs, path, instead_of }): Body<NightRecord>,
) -> Result<impl IntoResponse, Problem> {
    let mut campaign = app.store.campaign(&id).await?.campaign;
    let night = match subs {
        None => night,
        Some(subs) => {
            let scenario = campaign.scenario.clone().check().map_err(Problem::fields)?;
            let contender = path.unwrap_or(campaign.contender);
            let per_sub =
                app.heavy(move |app, _| snr2_per_sub(&scenario, contender, &app.tables)).await?;
            if subs.len() > per_sub.len() {
                return Err(Problem::field(
                    "subs",
                    format!(
                        "{} numbers; give one for each of {} exposures",
                        subs.len(),
                        per_sub.len()
                    ),
                ));
            }
            night.with_counts(&subs, &per_sub)
        }
    };
    let other = path.filter(|p| *p != campaign.contender);
    let shots = night.shots.into_iter().map(|s| Shot { path: other.or(s.path), ..s }).collect();
    let night = CampaignNight { shots, ..night };
    campaign.record(night, instead_of.as_ref()).map_err(|e| Problem::fields(vec![e]))?;
    save(State(app), Path(id), revision, Body(campaign)).await
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
    /// The date by which one simulated run in ten is finished.
    ten_date: Option<String>,
    /// Date by which nine in ten runs are done.
    ninety_date: Option<String>,
    /// What to shoot next, in a sentence.
    next: String,
    /// When all may be full, in a sentence.
    finish: String,
    /// How its nights went against what was planned, in a sentence; empty where they went so.
    pace: String,
    /// The site's name; null where it is no longer on the shelf.
    site: Option<String>,
}

/// Nights over which a forecast runs.
const AHEAD: usize = 365;

/// A site of the shelf; none where it is no longer there.
pub(crate) async fn site_of(app: &App, id: &str) -> Result<Option<(String, Site)>, Problem> {
    match app.store.shelf_entry(id).await {
        Ok(StoredEntry {
            entry: ShelfEntry { name, thing: ShelfThing::Site(site), .. }, ..
        }) => Ok(Some((name, site))),
        Ok(_) | Err(StoreError::NotFound { .. }) => Ok(None),
        Err(e) => Err(e.into()),
    }
}

/// Progress of each goal, a forecast of the finish under the chance of clear nights, and what to
/// shoot next.
#[utoipa::path(get, operation_id = "campaigns_state", path = "/campaigns/{id}/state",
    params(("id" = String, Path), On),
    responses((status = 200, body = CampaignState), (status = 404, body = Problem),
    (status = 422, body = Problem)))]
async fn state(
    State(app): State<App>,
    Path(id): Path<String>,
    Params(on): Params<On>,
) -> Result<Json<CampaignState>, Problem> {
    let campaign = app.store.campaign(&id).await?.campaign;
    let rivals: Vec<Campaign> = app
        .store
        .campaigns()
        .await?
        .into_iter()
        .filter(|c| c.id != id)
        .map(|c| c.campaign)
        .filter(|other| wants_the_same_nights(&campaign, other))
        .collect();
    let from = date(&on.date).map_err(|e| Problem::fields(vec![e]))?;
    let checked = campaign.scenario.clone().check().map_err(Problem::fields)?;
    let site = site_of(&app, &campaign.site).await?;
    let days = match &site {
        Some((_, site)) => noons(
            from,
            AHEAD,
            &zone(site.zone.as_deref(), site.longitude_deg)
                .map_err(|e| Problem::fields(vec![e]))?,
        )?,
        None => Vec::new(),
    };
    let dates: Vec<String> = days.iter().map(|d| d.0.to_string()).collect();
    let place = site.as_ref().map(|(_, site)| {
        let limits =
            NightLimits { horizon_deg: site.horizon_deg.clone(), ..NightLimits::default() };
        (Place::from(site), limits)
    });
    let work = app.heavy(move |app, threads| {
        let rig = NightRig::new(&checked, campaign.contender, &app.tables).ok_or_else(|| {
            Problem::field("contender", "the campaign's contender is not in its scenario")
        })?;
        let goals = goal_states(&campaign, &rig);
        let paces = paces(&campaign, &snr2_per_sub(&checked, campaign.contender, &app.tables));
        let pace = pace_told(&paces, &filters_of(&campaign, campaign.contender));
        // Those that are finished want no nights any more.
        let open: Vec<&str> = rivals
            .iter()
            .filter(|c| {
                let checked = c.scenario.clone().check().ok();
                let rig = checked.and_then(|s| NightRig::new(&s, c.contender, &app.tables));
                rig.is_some_and(|r| goal_states(c, &r).iter().any(|g| g.progress < 1.0))
            })
            .map(|c| c.title.as_str())
            .collect();
        let sharing = Campaign {
            clear_share: campaign.clear_share / (open.len() + 1) as f64,
            ..campaign.clone()
        };
        let shared = shared_with(&open);
        let stamps: Vec<f64> = days.iter().map(|d| d.1).collect();
        let ahead = match place {
            Some((place, limits)) => {
                let at = Direction {
                    ra_deg: campaign.framing.ra_deg,
                    dec_deg: campaign.framing.dec_deg,
                };
                let year = year_view(place, &stamps, at, &limits, Some(&rig), threads)?;
                let rises = year.nights.iter().any(|n| n.usable_h > 0.0);
                (forecast_of(&sharing, &goals, (&rig, &paces), &year), rises)
            }
            None => (Forecast::default(), true),
        };
        Ok::<_, Problem>((goals, ahead, campaign.scenario.target.name, shared, pace))
    });
    let (goals, (ahead, rises), target, shared, pace) = work.await??;
    let next = next_step(&goals);
    let date_of = |n: Option<usize>| n.and_then(|n| dates.get(n.saturating_sub(1)).cloned());
    let dates = [ahead.ten_nights, ahead.median_nights, ahead.ninety_nights].map(date_of);
    let site = site.map(|s| s.0);
    let finish = match &site {
        Some(name) if !rises => never_up(&target, name),
        _ => finish(&ahead, dates.each_ref().map(|d| d.as_deref())) + &shared,
    };
    let [ten_date, median_date, ninety_date] = dates;
    Ok(Json(CampaignState {
        pace,
        finish,
        ten_date,
        median_date,
        ninety_date,
        goals,
        forecast: ahead,
        next,
        site,
    }))
}
