//! What a night of the log brings to the campaigns that its frames are of, and what the names in
//! headers mean.

use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use salt_lamp_core::campaign::{Campaign, CampaignNight, Shot};
use salt_lamp_core::frame::{FrameKind, FrameMeasured};
use salt_lamp_core::log::{
    Accrued, CalibrationCount, FrameJudged, KeptFrame, NightAir, accrued, calibration, meant,
};
use salt_lamp_core::night::{Direction, separation_deg};
use salt_lamp_store::{HeaderName, LogSession, LoggedFrame, NameKind, StoredCampaign};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::place::{Best, NightPlace, place_of};
use super::{air, is_kept, judged};
use crate::http::extract::Body;
use crate::{App, Problem};

/// Frames whose middle is nearer to a campaign's than this are of it, degrees.
const NEAR_DEG: f64 = 1.5;
/// The longest name in a header, letters.
const LONGEST_NAME: usize = 200;

pub(super) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(offers)).routes(routes!(names, explain))
}

/// What a night brought through one filter of a campaign.
#[derive(Serialize, ToSchema)]
struct FilterAccrued {
    /// The filter, as the campaign calls it.
    filter: String,
    /// Frames that were taken.
    taken: usize,
    /// What the kept ones are worth.
    accrued: Accrued,
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
struct NightOffered {
    /// The campaign's id.
    campaign: String,
    /// Its title.
    title: String,
    /// Its revision.
    revision: i64,
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
    brought: Vec<FilterAccrued>,
    /// Names that are no filter of it.
    unknown: Vec<NameUnknown>,
    /// The night as the campaign would keep it.
    night: CampaignNight,
    /// The night as the campaign has it, where it was shot; null where it has none.
    recorded: Option<CampaignNight>,
    /// Whether that counts the same.
    counted: bool,
    /// All in a sentence.
    told: String,
    /// Where the frames look, and what their stars tell.
    place: NightPlace,
    /// Darks of all nights and flats of this one that fit the frames.
    calibration: Vec<CalibrationCount>,
}

/// Frames of a night with what they were worth.
type Night<'a> = &'a [(LoggedFrame, Option<FrameJudged>)];

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
            let own: Vec<(LoggedFrame, Option<FrameJudged>)> = own.into_iter().cloned().collect();
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

/// Whether a frame of the sky is of a campaign's target: by its name, else by its place.
fn is_of(frame: &FrameMeasured, c: &Campaign) -> bool {
    let h = &frame.read.header;
    if h.kind.is_some_and(|k| k != FrameKind::Light) {
        return false;
    }
    let plain = |name: &str| -> String {
        name.chars().filter(|c| c.is_alphanumeric()).flat_map(char::to_lowercase).collect()
    };
    let target = plain(&c.scenario.target.name);
    if h.object.as_deref().is_some_and(|o| plain(o) == target && !target.is_empty()) {
        return true;
    }
    let at = |ra_deg, dec_deg| Direction { ra_deg, dec_deg }.vector();
    let own = h.ra_deg.zip(h.dec_deg).map(|(ra, dec)| at(ra, dec));
    let framed = at(c.framing.ra_deg, c.framing.dec_deg);
    own.is_some_and(|own| separation_deg(&own, &framed) < NEAR_DEG)
}

/// Names of a light path's filters in the order of its exposures.
fn filters_of(c: &Campaign, path: usize) -> Vec<String> {
    let exposures = c.scenario.contenders.get(path).map_or(&[][..], |c| &c.exposures);
    let name = |f: Option<&str>| f.unwrap_or("no filter").to_owned();
    exposures.iter().map(|e| name(e.filter.as_ref().map(|f| f.name.as_str()))).collect()
}

/// The exposure that a header's filter means: what somebody said it means, else its name.
fn exposure_of(said: Option<&str>, filters: &[String], names: &[HeaderName]) -> Option<usize> {
    let said = said.unwrap_or_default();
    let explained = names.iter().find(|n| n.kind == NameKind::Filter && n.said == said);
    if let Some(n) = explained {
        return filters.iter().position(|f| *f == n.means);
    }
    if said.is_empty() {
        // A path of one exposure without a filter takes frames that name none.
        return (filters.len() == 1 && filters[0] == "no filter").then_some(0);
    }
    let all: Vec<&str> = filters.iter().map(String::as_str).collect();
    meant(said, &all)
}

/// Which of a campaign's cameras a header means: the only one, what somebody said it means, or one
/// of the same name.
fn camera_of(said: &str, cameras: &[String], names: &[HeaderName]) -> Option<String> {
    let explained = names.iter().find(|n| n.kind == NameKind::Camera && n.said == said);
    let name = explained.map_or(said, |n| n.means.as_str());
    match cameras {
        [only] => Some(only.clone()),
        all => all.iter().find(|c| c.eq_ignore_ascii_case(name)).cloned(),
    }
}

fn offered(
    app: &App,
    (stored, session): (StoredCampaign, &LogSession),
    frames: Night,
    names: &[HeaderName],
    air: &NightAir,
) -> Option<NightOffered> {
    let (c, evening) = (&stored.campaign, session.night.as_str());
    let paths = || std::iter::once(c.contender).chain(c.also.iter().copied());
    let sensor = |path: usize| c.scenario.contenders.get(path).map_or("", |c| &c.sensor.name);
    let mut cameras: Vec<String> = paths().map(|p| sensor(p).to_owned()).collect();
    cameras.sort();
    cameras.dedup();
    let camera = camera_of(&session.camera, &cameras, names);
    let said = |f: &LoggedFrame| f.measured.read.header.filter.clone().unwrap_or_default();
    let fitting = |path: usize| {
        let filters = filters_of(c, path);
        frames
            .iter()
            .filter(|(f, _)| exposure_of(Some(&said(f)), &filters, names).is_some())
            .count()
    };
    // Of paths with the night's camera, where that is known, the one whose filters fit; of those that
    // fit as well, the campaign's own.
    let with_camera = |p: &usize| camera.as_deref().is_none_or(|name| sensor(*p) == name);
    let most = paths().filter(with_camera).map(fitting).max().unwrap_or(0);
    let path = paths().filter(with_camera).find(|p| fitting(*p) == most)?;
    let filters = filters_of(c, path);
    let exposure = |f: &LoggedFrame| exposure_of(Some(&said(f)), &filters, names);
    let kept: Vec<KeptFrame> = frames
        .iter()
        .filter(|(f, j)| is_kept(f, j.as_ref()))
        .filter_map(|(f, j)| {
            Some(KeptFrame {
                measured: &f.measured,
                exposure: exposure(f)?,
                transparency: j.as_ref().and_then(|j| j.transparency),
                airmass: j.as_ref().and_then(|j| j.airmass),
                k_mag: air.k_mag(f.measured.read.header.filter.as_deref()),
            })
        })
        .collect();
    // A campaign whose scenario is no longer accepted says so on its own page.
    let all = accrued(&kept, c, path, &app.tables).ok()?;
    let best = best_frames(frames, &exposure);
    let place = place_of(app, (c, path), &best, air);
    let taken = |x: usize| frames.iter().filter(|(f, _)| exposure(f) == Some(x)).count();
    let brought: Vec<FilterAccrued> = all
        .into_iter()
        .map(|a| FilterAccrued {
            filter: filters[a.shot.exposure].clone(),
            taken: taken(a.shot.exposure),
            accrued: a,
        })
        .collect();
    let other = Some(path).filter(|p| *p != c.contender);
    let night = as_recorded(evening, &brought, other);
    let own_rig = |n: &&CampaignNight| n.shots.iter().any(|s| s.path == other);
    let recorded =
        c.nights.iter().filter(|n| n.date == evening && !n.planned).find(own_rig).cloned();
    let counted = recorded.as_ref().is_some_and(|r| alike(&r.shots, &night.shots));
    let night = match &recorded {
        Some(r) => CampaignNight { shots: night.shots, ..r.clone() },
        None => night,
    };
    Some(NightOffered {
        unknown: unknown(frames, &exposure),
        camera_unknown: camera.is_none().then(|| session.camera.clone()),
        cameras,
        told: told(&brought),
        place,
        calibration: Vec::new(),
        campaign: stored.id,
        title: c.title.clone(),
        revision: stored.revision,
        path: other,
        filters,
        brought,
        night,
        recorded,
        counted,
    })
}

/// Of each exposure the kept frame with most stars.
fn best_frames<'a>(
    frames: Night<'a>,
    exposure: &impl Fn(&LoggedFrame) -> Option<usize>,
) -> Vec<Best<'a>> {
    let mut all: Vec<Best> = Vec::new();
    for (f, j) in frames.iter().filter(|(f, j)| is_kept(f, j.as_ref())) {
        let (Some(x), Some(judged)) = (exposure(f), j.as_ref()) else { continue };
        let own = Best { exposure: x, frame: f, judged };
        match all.iter_mut().find(|b| b.exposure == x) {
            Some(b) if b.judged.stars < judged.stars => *b = own,
            Some(_) => {}
            None => all.push(own),
        }
    }
    all
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

/// Whether shots count the same: a millionth is rounding.
fn alike(a: &[Shot], b: &[Shot]) -> bool {
    let near = |x: f64, y: f64| (x - y).abs() <= 1e-6 * x.abs().max(y.abs());
    a.len() == b.len()
        && a.iter().zip(b).all(|(a, b)| {
            (a.path, a.exposure, a.subs) == (b.path, b.exposure, b.subs) && near(a.snr2, b.snr2)
        })
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

/// What the night brought, in a sentence.
fn told(brought: &[FilterAccrued]) -> String {
    if brought.is_empty() {
        return "None of its kept frames is through a filter of this campaign.".to_owned();
    }
    let minutes = |s: f64| format!("{:.0} min", s / 60.0);
    let one = |b: &FilterAccrued| {
        let a = &b.accrued;
        let of = |part: Option<f64>, what: &str| {
            part.map(|v| format!("{what} {v:.2}")).into_iter().collect::<Vec<_>>()
        };
        let mut why = of(a.transparency, "transparency");
        why.extend(of(a.noise, "variance over the planned one"));
        format!(
            "{}: {} of {} kept, {} that are worth {} under the planned sky ({})",
            b.filter,
            a.shot.subs,
            b.taken,
            minutes(a.kept_s),
            minutes(a.worth_s),
            why.join(", ")
        )
    };
    brought.iter().map(one).collect::<Vec<_>>().join("; ") + "."
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
