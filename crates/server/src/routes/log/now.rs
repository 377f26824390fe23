//! The night as it runs: what should be exposing, what came in, whether it is good, what comes next,
//! and a plan for the rest of it.

use std::path::Path;

use axum::Json;
use axum::extract::State;
use jiff::Timestamp;
use salt_lamp_core::campaign::{BlockTaken, Campaign, CampaignNight};
use salt_lamp_core::frame::FrameKind;
use salt_lamp_core::log::{
    Act, FrameJudged, MarkKind, NightMark, NightUnderWay, evening, filters_of, is_of, state_of,
};
use salt_lamp_core::night::{Direction, Ephemeris, Overheads, Place};
use salt_lamp_core::scenario::Site;
use salt_lamp_store::{LogSession, LoggedFrame, SessionsAsked, StoredCampaign};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::campaign::{NightOffered, offered};
use super::meter::{SeenNow, seen_now};
use super::{NightJudged, air, is_kept, judged};
use crate::http::extract::Params;
use crate::routes::asked::{ClockOffset, NightSite, offsets};
use crate::routes::campaigns::site_of;
use crate::{App, Problem};

pub(super) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(now))
}

/// Whose night is asked for.
#[derive(Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
struct NowAsked {
    /// Id of the campaign; where none is given, the one that is planned for tonight, or of which
    /// frames came last.
    #[serde(default)]
    campaign: String,
    /// The moment, seconds since 1970 UTC; the present one where none is given.
    #[serde(default)]
    at_s: Option<f64>,
}

/// A campaign by its name.
#[derive(Clone, Serialize, ToSchema)]
struct CampaignNamed {
    /// Its id.
    id: String,
    /// Its title.
    title: String,
}

/// What one filter has by now.
#[derive(Serialize, ToSchema)]
struct FilterNow {
    /// Its name.
    filter: String,
    /// Subs that the plan has of it until now.
    planned_by_now: f64,
    /// Subs that the plan has of it tonight.
    planned: f64,
    /// Frames that came.
    taken: usize,
    /// Frames that are kept.
    kept: u32,
    /// What the kept ones are worth under the planned sky, over their exposure; null of none.
    pace: Option<f64>,
}

/// The last frame of the sky.
#[derive(Serialize, ToSchema)]
struct FrameNow {
    /// Its id.
    id: String,
    /// Name of its file.
    file: String,
    /// What it is of.
    object: Option<String>,
    /// Name of its filter.
    filter: Option<String>,
    /// When it ended, seconds since 1970 UTC.
    ended_s: f64,
    /// Whether it is kept.
    kept: bool,
    /// Why not, in sentences.
    reasons: Vec<String>,
    /// Width of its stars, arcsec.
    fwhm_arcsec: Option<f64>,
    /// Starlight against the clearest frames.
    transparency: Option<f64>,
    /// Background, e-/s in a pixel.
    background_e_per_s: Option<f64>,
}

/// The block that should be exposing.
#[derive(Serialize, ToSchema)]
struct BlockNow {
    /// Name of its filter.
    filter: String,
    /// Start, seconds since 1970 UTC.
    from_s: f64,
    /// End, seconds since 1970 UTC.
    to_s: f64,
    /// Subs.
    subs: u32,
}

/// The night as it runs.
#[derive(Serialize, ToSchema)]
struct NowAnswer {
    /// The moment that this is of, seconds since 1970 UTC.
    at_s: f64,
    /// Evening's date at the site.
    evening: String,
    /// Local time.
    clock: Vec<ClockOffset>,
    /// Whether it is night there: the sun is more than six degrees below the horizon.
    is_dark: bool,
    /// All campaigns, to choose from.
    campaigns: Vec<CampaignNamed>,
    /// The one that this is of; null where there is none.
    campaign: Option<CampaignNamed>,
    /// Whether tonight is planned for it.
    is_planned: bool,
    /// What should be exposing.
    running: Option<BlockNow>,
    /// What comes next, in the order of time.
    ahead: Vec<Act>,
    /// Filter by filter what came.
    filters: Vec<FilterNow>,
    /// The last frame.
    last: Option<FrameNow>,
    /// What instruments whose files lie beside the frames read last.
    seen: SeenNow,
    /// How the latest frames are, in a sentence.
    told: Option<String>,
    /// Whether something is to be done about it.
    alarm: bool,
    /// Id of tonight's session in the log.
    session: Option<String>,
}

/// Tonight: its campaign, its site, and what came of it.
pub(super) struct Tonight {
    pub(super) at_s: f64,
    pub(super) evening: String,
    pub(super) site: NightSite,
    pub(super) shelf_site: Option<Site>,
    pub(super) stored: Option<StoredCampaign>,
    campaigns: Vec<CampaignNamed>,
    session: Option<String>,
    frames: Vec<(LoggedFrame, Option<FrameJudged>)>,
    marks: Vec<NightMark>,
    pub(super) offered: Option<NightOffered>,
}

/// Eyes are adapted to the dark once the sun is lower than this, degrees: civil dusk.
const DARK_DEG: f64 = -6.0;

/// The present, seconds since 1970 UTC.
fn present_s() -> f64 {
    Timestamp::now().as_millisecond() as f64 / 1000.0
}

/// The moment that is asked for.
pub(super) fn moment(at_s: Option<f64>) -> Result<f64, Problem> {
    let at_s = at_s.unwrap_or_else(present_s);
    // 1900 to 2100, as far as sun and moon are known.
    if (-2_208_988_800.0..4_102_444_800.0).contains(&at_s) {
        Ok(at_s)
    } else {
        Err(Problem::field("at_s", "give seconds since 1970 UTC between 1900 and 2100"))
    }
}

pub(super) async fn tonight(app: &App, campaign: &str, at_s: f64) -> Result<Tonight, Problem> {
    let all = app.store.campaigns().await?;
    let usual = app.store.usual_site().await?;
    let here = usual.as_ref().map_or(0.0, |s| s.longitude_deg);
    let date = evening(at_s, here);
    let sessions = SessionsAsked { text: String::new(), from: date.clone(), to: date.clone() };
    let mut nights = Vec::new();
    for session in app.store.log_sessions(&sessions).await? {
        nights.push((judged(app, &session.id).await?, session));
    }
    // Of several rigs the one that the campaign's frames come from, else the one that was last heard of.
    let asked = all.iter().find(|c| c.id == campaign);
    let order = |(n, _): &(NightJudged, LogSession)| {
        let own =
            asked.is_some_and(|c| n.frames.iter().any(|(f, _)| is_of(&f.measured, &c.campaign)));
        (own, n.frames.iter().filter_map(|(f, _)| f.start_s).fold(0.0, f64::max))
    };
    nights.sort_by(|a, b| {
        let ((own, at_s), (other, later_s)) = (order(a), order(b));
        own.cmp(&other).then(at_s.total_cmp(&later_s))
    });
    let (frames, marks, session) = match nights.pop() {
        Some((night, session)) => (night.frames, night.marks, Some(session)),
        None => (Vec::new(), Vec::new(), None),
    };
    let ours = |c: &Campaign| frames.iter().rev().any(|(f, _)| is_of(&f.measured, c));
    let planned = |c: &Campaign| c.nights.iter().any(|n| n.planned && n.date == date);
    let campaigns: Vec<CampaignNamed> = all
        .iter()
        .map(|c| CampaignNamed { id: c.id.clone(), title: c.campaign.title.clone() })
        .collect();
    let chosen = |c: &&StoredCampaign| c.id == campaign;
    if !campaign.is_empty() && !all.iter().any(|c| c.id == campaign) {
        return Err(Problem::field("campaign", "there is no such campaign"));
    }
    let stored = all
        .iter()
        .find(chosen)
        .or_else(|| all.iter().find(|c| ours(&c.campaign)))
        .or_else(|| all.iter().find(|c| planned(&c.campaign)))
        .or_else(|| all.first())
        .cloned();
    let own = match &stored {
        Some(c) => site_of(app, &c.campaign.site).await?,
        None => None,
    };
    let shelf_site = own.map(|(_, site)| site).or(usual);
    let site = shelf_site.as_ref().map_or_else(
        || NightSite {
            name: String::new(),
            latitude_deg: 0.0,
            longitude_deg: 0.0,
            height_m: 0.0,
            zone: None,
        },
        |s| NightSite::of("", s),
    );
    let offered = match (&stored, session.clone()) {
        (Some(c), Some(session)) => {
            let (c, names, air) = (c.clone(), app.store.header_names().await?, air(app).await?);
            let frames = frames.clone();
            let work = app.heavy(move |app, _| {
                let own: Vec<_> =
                    frames.iter().filter(|(f, _)| is_of(&f.measured, &c.campaign)).collect();
                offered(app, (c.clone(), &session), &own, &names, &air)
            });
            work.await?
        }
        _ => None,
    };
    Ok(Tonight {
        at_s,
        evening: date,
        site,
        shelf_site,
        stored,
        campaigns,
        session: session.map(|s| s.id),
        frames,
        marks,
        offered,
    })
}

/// What should be running, what came in, whether it is good, and what comes next.
#[utoipa::path(get, operation_id = "now", path = "/now", params(NowAsked),
    responses((status = 200, body = NowAnswer), (status = 422, body = Problem)))]
async fn now(
    State(app): State<App>,
    Params(q): Params<NowAsked>,
) -> Result<Json<NowAnswer>, Problem> {
    let t = tonight(&app, &q.campaign, moment(q.at_s)?).await?;
    let night = t.site.night(&t.evening)?;
    let blocks: &[BlockTaken] = t.plan().map_or(&[], |n| &n.blocks);
    let filters =
        t.stored.as_ref().map_or_else(Vec::new, |c| filters_of(&c.campaign, c.campaign.contender));
    let under_way = t.under_way(blocks, &filters, [night.from_s, night.to_s])?;
    let running = under_way.as_ref().and_then(|n| n.running(t.at_s)).map(|b| BlockNow {
        filter: filters.get(b.exposure).copied().unwrap_or_default().to_owned(),
        from_s: b.from_s,
        to_s: b.to_s,
        subs: b.subs,
    });
    let latest = t.latest();
    let beside =
        latest.first().and_then(|(f, _)| Some(Path::new(f.path.as_deref()?).parent()?.to_owned()));
    let seen = beside.map_or_else(SeenNow::default, |folder| seen_now(&folder, t.at_s));
    let sun = Ephemeris::new(t.site.place()?, t.at_s - 60.0, t.at_s + 60.0)?;
    let (told, alarm) = state_of(&latest.iter().map(|(_, j)| *j).collect::<Vec<_>>())
        .map_or((None, false), |(text, alarm)| (Some(text), alarm));
    Ok(Json(NowAnswer {
        ahead: under_way.as_ref().map_or_else(Vec::new, |n| n.ahead(t.at_s)),
        filters: t.filters(&filters, under_way.as_ref()),
        last: latest.first().map(|(f, j)| last(f, j)),
        running,
        told,
        alarm,
        seen,
        is_dark: sun.altitude_deg(&sun.sun(t.at_s), t.at_s) < DARK_DEG,
        at_s: t.at_s,
        clock: offsets(&night.clock),
        is_planned: !blocks.is_empty(),
        campaign: t
            .stored
            .as_ref()
            .map(|c| CampaignNamed { id: c.id.clone(), title: c.campaign.title.clone() }),
        session: t.session.clone(),
        evening: t.evening.clone(),
        campaigns: t.campaigns,
    }))
}

impl Tonight {
    /// Tonight's plan of the campaign.
    fn plan(&self) -> Option<&CampaignNight> {
        let nights = &self.stored.as_ref()?.campaign.nights;
        nights.iter().find(|n| n.planned && n.date == self.evening)
    }

    fn under_way<'a>(
        &'a self,
        blocks: &'a [BlockTaken],
        filters: &'a [&'a str],
        [from_s, to_s]: [f64; 2],
    ) -> Result<Option<NightUnderWay<'a>>, Problem> {
        let Some((c, site)) = self.stored.as_ref().zip(self.shelf_site.as_ref()) else {
            return Ok(None);
        };
        let f = &c.campaign.framing;
        let focused = self.marks.iter().filter(|m| m.kind == MarkKind::Focus).map(|m| m.from_s);
        let begun = blocks.first().map(|b| b.from_s);
        Ok(Some(NightUnderWay {
            ephemeris: Ephemeris::new(Place::from(site), from_s, to_s)?,
            target: Direction { ra_deg: f.ra_deg, dec_deg: f.dec_deg }.vector(),
            focused_s: focused.reduce(f64::max).or(begun),
            refocus_every_s: Overheads::default().refocus_every_min.map(|m| 60.0 * m),
            blocks,
            filters,
        }))
    }

    /// The latest frames of the sky that began before now, the last first.
    fn latest(&self) -> Vec<(&LoggedFrame, &FrameJudged)> {
        let sky =
            |f: &LoggedFrame| f.measured.read.header.kind.is_none_or(|k| k == FrameKind::Light);
        let mut all: Vec<_> = self
            .frames
            .iter()
            .filter(|(f, _)| sky(f) && f.start_s.is_some_and(|s| s <= self.at_s))
            .filter_map(|(f, j)| Some((f, j.as_ref()?)))
            .collect();
        all.sort_by(|a, b| b.0.start_s.unwrap_or(0.0).total_cmp(&a.0.start_s.unwrap_or(0.0)));
        all
    }

    fn filters(&self, names: &[&str], plan: Option<&NightUnderWay>) -> Vec<FilterNow> {
        let brought = self.offered.as_ref().map_or(&[][..], |o| &o.brought);
        let one = |(x, name): (usize, &&str)| {
            let own = brought.iter().find(|b| b.filter == **name);
            FilterNow {
                filter: (*name).to_owned(),
                planned_by_now: plan.map_or(0.0, |p| p.planned_until(x, self.at_s)),
                planned: plan.map_or(0.0, |p| p.planned_until(x, f64::MAX)),
                taken: own.map_or(0, |b| b.taken),
                kept: own.map_or(0, |b| b.accrued.shot.subs),
                pace: own
                    .filter(|b| b.accrued.kept_s > 0.0)
                    .map(|b| b.accrued.worth_s / b.accrued.kept_s),
            }
        };
        names.iter().enumerate().map(one).collect()
    }
}

fn last(f: &LoggedFrame, j: &FrameJudged) -> FrameNow {
    let h = &f.measured.read.header;
    FrameNow {
        id: f.id.clone(),
        file: f.measured.file.clone(),
        object: h.object.clone(),
        filter: h.filter.clone(),
        ended_s: f.start_s.unwrap_or(0.0) + h.exposure_s.unwrap_or(0.0),
        kept: is_kept(f, Some(j)),
        reasons: j.reasons.iter().map(|r| r.text.clone()).collect(),
        fwhm_arcsec: j.fwhm_arcsec,
        transparency: j.transparency,
        background_e_per_s: j.background_e_per_s,
    }
}
