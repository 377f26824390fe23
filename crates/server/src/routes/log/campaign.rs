//! What a night of the log brings to the campaigns that its frames are of, and what the names in
//! headers mean.

use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use salt_lamp_core::campaign::{CampaignNight, Shot};
use salt_lamp_core::frame::{FrameKind, FrameMeasured};
use salt_lamp_core::log::{
    Accrued, Brought, CalibrationCount, KeptFrame, NightAir, Reason, accrued, brought_told,
    calibration, count_alike, is_of,
};
use salt_lamp_store::{HeaderName, LogSession, LoggedFrame, NameKind, StoredCampaign};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::fitting::{Fitting, Night};
use super::place::{NightPlace, place_of};
use super::{air, is_kept, judged};
use crate::http::extract::Body;
use crate::{App, Problem};

/// The longest name in a header, letters.
const LONGEST_NAME: usize = 200;

pub(super) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(offers)).routes(routes!(names, explain))
}

/// What a night brought through one filter of a campaign.
#[derive(Serialize, ToSchema)]
pub(super) struct FilterAccrued {
    /// The filter, as the campaign calls it.
    pub(super) filter: String,
    /// Frames that were taken.
    pub(super) taken: usize,
    /// What the kept ones are worth.
    pub(super) accrued: Accrued,
}

/// A name in the headers that is no filter of the campaign's.
#[derive(Serialize, ToSchema)]
struct NameUnknown {
    /// As the headers have it; empty where they name none.
    said: String,
    /// Frames with it.
    frames: usize,
}

/// What a night of the log brings to a campaign.
#[derive(Serialize, ToSchema)]
pub(super) struct NightOffered {
    /// The campaign's id.
    campaign: String,
    /// Its title.
    title: String,
    /// Index of the light path by whose filters it was counted, where it is another than the
    /// campaign's own.
    path: Option<usize>,
    /// Filters of that path.
    filters: Vec<String>,
    /// The camera as the headers call it, where it is none of the campaign's; null where it is one.
    camera_unknown: Option<String>,
    /// Cameras of the campaign's light paths.
    cameras: Vec<String>,
    /// What came through each.
    pub(super) brought: Vec<FilterAccrued>,
    /// Names that are no filter of it.
    unknown: Vec<NameUnknown>,
    /// The night as the campaign would keep it.
    pub(super) night: CampaignNight,
    /// The night as the campaign has it, where it was shot; null where it has none.
    recorded: Option<CampaignNight>,
    /// Whether that counts the same.
    counted: bool,
    /// What the night brought of what it promised, in a sentence; empty where nothing is kept.
    told: String,
    /// Where the frames look, and what their stars tell.
    place: NightPlace,
    /// Darks of all nights and flats of this one that fit the frames.
    calibration: Vec<CalibrationCount>,
}

/// What the night's kept frames bring to each campaign that they are of: counts as they are kept
/// now, worth by the transparency and the noise that were measured.
#[utoipa::path(get, operation_id = "log_campaigns", path = "/log/sessions/{id}/campaigns",
    params(("id" = String, Path)),
    responses((status = 200, body = Vec<NightOffered>), (status = 404, body = Problem)))]
async fn offers(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<Json<Vec<NightOffered>>, Problem> {
    let session = app.store.log_session(&id).await?;
    let frames = judged(&app, &id).await?.frames;
    let campaigns = app.store.campaigns().await?;
    let names = app.store.header_names().await?;
    let air = air(&app).await?;
    let darks = app.store.darks_of(&session.camera).await?;
    let work = app.heavy(move |app, _| {
        let flats = frames.iter().map(|(f, _)| &f.measured).filter(|m| is_kind(m, FrameKind::Flat));
        let others: Vec<&FrameMeasured> = darks.iter().map(|f| &f.measured).chain(flats).collect();
        let of = |stored: StoredCampaign| {
            let own: Vec<_> =
                frames.iter().filter(|(f, _)| is_of(&f.measured, &stored.campaign)).collect();
            if own.is_empty() {
                return None;
            }
            let lights = own.iter().map(|(f, _)| &f.measured);
            let asked = stored.campaign.scenario.calibration.dark_frames;
            let calibration = calibration(lights, &others, asked);
            let offer = offered(app, (stored, &session), &own, &names, &air)?;
            Some(NightOffered { calibration, ..offer })
        };
        campaigns.into_iter().filter_map(of).collect()
    });
    Ok(Json(work.await?))
}

fn is_kind(frame: &FrameMeasured, kind: FrameKind) -> bool {
    frame.read.header.kind == Some(kind)
}

pub(super) fn offered(
    app: &App,
    (stored, session): (StoredCampaign, &LogSession),
    frames: Night,
    names: &[HeaderName],
    air: &NightAir,
) -> Option<NightOffered> {
    let (c, evening) = (&stored.campaign, session.night.as_str());
    let fit = Fitting::new(c, session, frames, names)?;
    let (path, filters) = (fit.path, &fit.filters);
    let exposure = |f: &LoggedFrame| fit.exposure(f);
    let kept: Vec<KeptFrame> = frames
        .iter()
        .filter(|(f, j)| is_kept(f, j.as_ref()))
        .filter_map(|(f, j)| {
            let exposure = exposure(f)?;
            Some(KeptFrame {
                measured: &f.measured,
                exposure,
                transparency: j.as_ref().and_then(|j| j.transparency),
                airmass: j.as_ref().and_then(|j| j.airmass),
                k_mag: air.k_mag(Some(filters[exposure])),
            })
        })
        .collect();
    // A campaign whose scenario is no longer accepted says so on its own page.
    let all = accrued(&kept, c, path, &app.tables).ok()?;
    let place = place_of(app, (c, path), &fit.best(frames), air);
    let taken = |x: usize| frames.iter().filter(|(f, _)| exposure(f) == Some(x)).count();
    let brought: Vec<FilterAccrued> = all
        .into_iter()
        .map(|a| FilterAccrued {
            filter: filters[a.shot.exposure].to_owned(),
            taken: taken(a.shot.exposure),
            accrued: a,
        })
        .collect();
    let aside: Vec<&Reason> = frames
        .iter()
        .filter(|(f, j)| exposure(f).is_some() && !is_kept(f, j.as_ref()))
        .filter_map(|(_, j)| j.as_ref()?.reasons.first())
        .collect();
    let sums: Vec<Brought> =
        brought.iter().map(|b| Brought { accrued: &b.accrued, taken: b.taken }).collect();
    let told = brought_told(&sums, &aside);
    let other = Some(path).filter(|p| *p != c.contender);
    let night = as_recorded(evening, &brought, other);
    let own_rig = |n: &&CampaignNight| n.shots.iter().any(|s| s.path == other);
    let recorded =
        c.nights.iter().filter(|n| n.date == evening && !n.planned).find(own_rig).cloned();
    let counted = recorded.as_ref().is_some_and(|r| count_alike(&r.shots, &night.shots));
    let night = match &recorded {
        Some(r) => CampaignNight { shots: night.shots, ..r.clone() },
        None => night,
    };
    Some(NightOffered {
        unknown: unknown(frames, &exposure),
        camera_unknown: fit.camera.is_none().then(|| session.camera.clone()),
        cameras: fit.cameras.iter().copied().map(str::to_owned).collect(),
        told,
        place,
        calibration: Vec::new(),
        campaign: stored.id,
        title: c.title.clone(),
        path: other,
        filters: filters.iter().copied().map(str::to_owned).collect(),
        brought,
        night,
        recorded,
        counted,
    })
}

/// The night as a campaign keeps it.
fn as_recorded(evening: &str, brought: &[FilterAccrued], path: Option<usize>) -> CampaignNight {
    let shot = |b: &FilterAccrued| Shot { path, ..b.accrued.shot.clone() };
    CampaignNight {
        date: evening.to_owned(),
        shots: brought.iter().map(shot).collect(),
        blocks: Vec::new(),
        struck_out: Vec::new(),
        note: "Counted from the log.".to_owned(),
        planned: false,
    }
}

/// Names that are no filter of the path's, the first first.
fn unknown(frames: Night, exposure: &impl Fn(&LoggedFrame) -> Option<usize>) -> Vec<NameUnknown> {
    let mut all: Vec<NameUnknown> = Vec::new();
    for (f, _) in frames.iter().filter(|(f, _)| exposure(f).is_none()) {
        let said = f.measured.read.header.filter.clone().unwrap_or_default();
        match all.iter_mut().find(|u| u.said == said) {
            Some(u) => u.frames += 1,
            None => all.push(NameUnknown { said, frames: 1 }),
        }
    }
    all
}

/// What names in headers mean.
#[utoipa::path(get, operation_id = "log_names", path = "/log/names",
    responses((status = 200, body = Vec<HeaderName>)))]
async fn names(State(app): State<App>) -> Result<Json<Vec<HeaderName>>, Problem> {
    Ok(Json(app.store.header_names().await?))
}

/// A name in headers explained.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct NameExplained {
    /// Of what.
    kind: NameKind,
    /// As headers have it.
    said: String,
    /// As the kit has it; null to forget it.
    means: Option<String>,
}

/// Says what a name in headers means, once for all nights.
#[utoipa::path(put, operation_id = "log_explain", path = "/log/names",
    request_body = NameExplained,
    responses((status = 204), (status = 422, body = Problem)))]
async fn explain(
    State(app): State<App>,
    Body(q): Body<NameExplained>,
) -> Result<StatusCode, Problem> {
    for (field, text) in [("said", Some(&q.said)), ("means", q.means.as_ref())] {
        let wrong = |t: &&String| t.chars().any(char::is_control) || t.len() > LONGEST_NAME;
        if text.filter(wrong).is_some() {
            let said = format!("give at most {LONGEST_NAME} letters, without control characters");
            return Err(Problem::field(field, said));
        }
    }
    app.store.name_header(q.kind, &q.said, q.means.as_deref()).await?;
    Ok(StatusCode::NO_CONTENT)
}
