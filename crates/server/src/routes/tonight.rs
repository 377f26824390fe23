//! The first screen's question: what to do tonight with one's own kit from one's own site; and the
//! comparisons as cards that show their verdict.

use axum::Json;
use axum::extract::{Path, State};
use axum::http::header;
use axum::response::IntoResponse;
use salt_lamp_core::Scenario;
use salt_lamp_core::campaign::{
    Campaign, CampaignEvening, CampaignNight, EveningChoice, EveningSky, campaign_evening,
    evening_choice, evening_weighed,
};
use salt_lamp_core::decide::{whole_rig, with_advised_subs};
use salt_lamp_core::library::{ShelfThing, moderate};
use salt_lamp_core::look::LookView;
use salt_lamp_core::night::{
    ANY_TARGET_V_MAG, DarkHours, Direction, NIGHTS_AHEAD, NightEvents, NightRig, PlanSpec,
    RankedFor, TonightSpec, WorthTonight, any_target, month_view, night_view, plan_night,
    worth_tonight,
};
use salt_lamp_core::report::{Card, card};
use salt_lamp_core::scenario::{FieldRig, Known, NightLimits, Sky, TargetKind};
use salt_lamp_formats::picture::write_png;
use salt_lamp_store::StoredCampaign;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::asked::{ClockOffset, NightSite, offsets};
use super::kit::Shelf;
use crate::http::extract::Params;
use crate::http::looks::{crops, placed, resized, sized};
use crate::http::zones::{LocalNight, date as date_of, noons};
use crate::{App, Problem};

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(tonight))
        .routes(routes!(comparison_card))
        .routes(routes!(thumb))
}

/// Which evening, from where, with what.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct Evening {
    /// Evening's date, such as 2027-01-10.
    date: String,
    /// Id of a site; the usual one where none is given.
    site: Option<String>,
    /// Id of a rig; the usual one where none is given.
    rig: Option<String>,
}

/// Something of the kit by name.
#[derive(Clone, Serialize, ToSchema)]
struct Named {
    /// Its id.
    id: String,
    /// Its name.
    name: String,
}

/// A campaign's evening.
#[derive(Serialize, ToSchema)]
struct CampaignTonight {
    /// Its id.
    id: String,
    /// Its title.
    title: String,
    /// Its target.
    target: String,
    /// What this night brings to it.
    evening: CampaignEvening,
}

/// A night that was recorded last.
#[derive(Serialize, ToSchema)]
struct LastNight {
    /// Id of the campaign that it was for.
    campaign: String,
    /// The campaign's title.
    title: String,
    /// Evening's date.
    date: String,
    /// What it brought, in a sentence.
    words: String,
}

/// What to do tonight.
#[derive(Serialize, ToSchema)]
struct TonightAnswer {
    /// Evening's date.
    date: String,
    /// The site; null where the kit has none.
    site: Option<Named>,
    /// The rig; null where the kit has none.
    rig: Option<Named>,
    /// Darkness and moon; null without a site.
    events: Option<NightEvents>,
    /// Local time.
    clock: Vec<ClockOffset>,
    /// What to do.
    choice: EveningChoice,
    /// Running campaigns, in the order in which they were changed.
    campaigns: Vec<CampaignTonight>,
    /// What else is worth shooting, best first.
    targets: Vec<WorthTonight>,
    /// Filters of the rig, as the targets name them by number.
    filters: Vec<String>,
    /// What the last recorded night brought.
    last_night: Option<LastNight>,
}

/// Targets that are named on the first screen.
const TARGETS: usize = 12;

/// Everything that the answer is made of, read before the work begins.
struct Asked {
    date: String,
    site: Option<(Named, NightSite, NightLimits)>,
    rig: Option<Named>,
    shelf: Shelf,
    campaigns: Vec<StoredCampaign>,
}

/// What to do tonight: darkness and moon, what each campaign gains, what is worth beginning, and
/// what last night brought. Without a site or a rig that part of the answer is empty.
#[utoipa::path(get, operation_id = "tonight", path = "/tonight", params(Evening),
    responses((status = 200, body = TonightAnswer), (status = 422, body = Problem)))]
async fn tonight(
    State(app): State<App>,
    Params(q): Params<Evening>,
) -> Result<Json<TonightAnswer>, Problem> {
    let shelf = app.store.shelf(false).await?;
    let is_site = |t: &ShelfThing| matches!(t, ShelfThing::Site(_));
    let is_rig = |t: &ShelfThing| matches!(t, ShelfThing::Rig(_));
    // A site that is only on offer is nobody's place: only one's own is the usual one unasked.
    // One that is not there any more is not insisted on.
    let pick = |wanted: &Option<String>, is: &dyn Fn(&ShelfThing) -> bool| {
        let of_kind = || shelf.iter().filter(|e| is(&e.entry.thing));
        let asked = wanted.as_ref().and_then(|id| of_kind().find(|e| e.id == *id));
        let found = asked.or_else(|| of_kind().find(|e| e.mine));
        found.map(|e| Named { id: e.id.clone(), name: e.entry.name.clone() })
    };
    let (site, rig) = (pick(&q.site, &is_site), pick(&q.rig, &is_rig));
    let shelf = Shelf::of(&app).await?;
    let site = site.and_then(|named| {
        let (name, s) = shelf.site(&named.id)?;
        let limits = NightLimits { horizon_deg: s.horizon_deg.clone(), ..NightLimits::default() };
        Some((named.clone(), NightSite::of(name, s), limits))
    });
    let campaigns = app.store.campaigns().await?;
    let asked = Asked { date: q.date, site, rig, shelf, campaigns };
    app.heavy(move |app, _| answer(app, asked)).await?.map(Json)
}

fn answer(app: &App, q: Asked) -> Result<TonightAnswer, Problem> {
    let last_night = last_night(&q.campaigns, &q.date);
    let Some((site, night_site, limits)) = &q.site else {
        return Ok(TonightAnswer {
            choice: evening_choice(
                &EveningSky { dark_h: 1.0, moon_lit: 0.0, moonless: 1.0 },
                &[],
                &[],
                &[],
            ),
            date: q.date,
            site: None,
            rig: q.rig,
            events: None,
            clock: Vec::new(),
            campaigns: Vec::new(),
            targets: Vec::new(),
            filters: Vec::new(),
            last_night,
        });
    };
    let local = night_site.night(&q.date)?;
    let events = events(night_site, &local, limits)?;
    let mut campaigns = Vec::new();
    for stored in &q.campaigns {
        // One from another site counts from there, with its own trees.
        let own = q.shelf.site(&stored.campaign.site);
        let (from, horizon) = match own {
            Some((name, s)) => (NightSite::of(name, s), s.horizon_deg.clone()),
            None => (night_site.clone(), limits.horizon_deg.clone()),
        };
        let limits = NightLimits { horizon_deg: horizon, ..NightLimits::default() };
        if let Some(evening) = evening_of(app, &stored.campaign, &from, &limits, &q.date)? {
            campaigns.push(CampaignTonight {
                id: stored.id.clone(),
                title: stored.campaign.title.clone(),
                target: stored.campaign.scenario.target.name.clone(),
                evening,
            });
        }
    }
    let shot: Vec<String> = campaigns.iter().map(|c| c.target.clone()).collect();
    let (mut targets, filters) = match &q.rig {
        Some(rig) => targets(app, &q.shelf, (&site.id, night_site, limits), &rig.id, &local, shot)?,
        None => Default::default(),
    };
    let NightEvents { dark_h, moon_lit, moonless, .. } = events;
    let sky = EveningSky { dark_h, moon_lit, moonless };
    // What suits the night stands first, in its order.
    targets.sort_by_key(|t| !sky.suits(t));
    targets.truncate(TARGETS);
    let told: Vec<(String, CampaignEvening)> =
        campaigns.iter().map(|c| (c.title.clone(), c.evening.clone())).collect();
    Ok(TonightAnswer {
        choice: evening_choice(&sky, &told, &targets, &filters),
        date: q.date,
        site: Some(site.clone()),
        rig: q.rig,
        events: Some(events),
        clock: offsets(&local.clock),
        campaigns,
        targets,
        filters,
        last_night,
    })
}

/// Darkness and moon of a night; those times that hang on a target are left out.
pub(crate) fn events(
    site: &NightSite,
    local: &LocalNight,
    limits: &NightLimits,
) -> Result<NightEvents, Problem> {
    // The celestial pole stands still: its own times do not matter here.
    let dec_deg = if site.latitude_deg < 0.0 { -90.0 } else { 90.0 };
    let pole = Direction { ra_deg: 0.0, dec_deg };
    let seen = night_view(site.place()?, local.from_s, local.to_s, pole, limits, None)?.events;
    Ok(NightEvents { transit_s: None, target_up_s: None, target_down_s: None, ..seen })
}

/// What a night brings to a campaign; `None` where its scenario cannot be computed with any more.
fn evening_of(
    app: &App,
    campaign: &Campaign,
    site: &NightSite,
    limits: &NightLimits,
    date: &str,
) -> Result<Option<CampaignEvening>, Problem> {
    let Campaign { framing, contender, .. } = campaign;
    let at = Direction { ra_deg: framing.ra_deg, dec_deg: framing.dec_deg };
    let mut scenario = campaign.scenario.clone();
    scenario.target.stands_at(at.ra_deg, at.dec_deg);
    let Ok(scenario) = scenario.check() else { return Ok(None) };
    let Some(rig) = NightRig::new(&scenario, *contender, &app.tables) else { return Ok(None) };
    let local = site.night(date)?;
    let view = night_view(site.place()?, local.from_s, local.to_s, at, limits, Some(&rig))?;
    let exposures = &scenario.scenario().contenders[*contender].exposures;
    let names: Vec<String> = exposures
        .iter()
        .map(|e| e.filter.as_ref().map_or("no filter".to_owned(), |f| f.name.clone()))
        .collect();
    let ahead = noons(
        date_of(date).map_err(|e| Problem::fields(vec![e]))?,
        NIGHTS_AHEAD + 1,
        &site.zone()?,
    )?;
    let noons_s: Vec<f64> = ahead.iter().map(|d| d.1).collect();
    let nights = month_view(site.place()?, &noons_s, at, limits, &rig)?;
    let weighed = evening_weighed(campaign, date, (&rig, &names), (&nights, &[]));
    let spec = PlanSpec {
        goal_snr: campaign.goal_snr_of_exposures(),
        done_snr2: campaign.done_before_snr2(date),
        aims_snr2: weighed.map_or_else(Vec::new, |w| w.aims_snr2),
        ..PlanSpec::default()
    };
    let plan = plan_night(&rig, &names, &view, &spec, &local.clock);
    Ok(Some(campaign_evening(campaign, &rig, &view, &plan)))
}

/// What is worth beginning with a rig, best first, and the names of its filters.
fn targets(
    app: &App,
    shelf: &Shelf,
    (site_id, site, limits): (&str, &NightSite, &NightLimits),
    rig_id: &str,
    local: &LocalNight,
    leave_out: Vec<String>,
) -> Result<(Vec<WorthTonight>, Vec<String>), Problem> {
    let Ok(parts) = shelf.parts(rig_id) else { return Ok(Default::default()) };
    let Some(contender) = whole_rig(&parts) else { return Ok(Default::default()) };
    let [width, height] =
        FieldRig::new(&contender.name, &contender.optics, &contender.sensor).size_arcmin();
    let filters: Vec<String> = contender
        .exposures
        .iter()
        .map(|e| e.filter.as_ref().map_or("no filter".to_owned(), |f| f.name.clone()))
        .collect();
    let Some(typical) = moderate(&app.library.targets, TargetKind::HIiRegion) else {
        return Ok(Default::default());
    };
    let any = typical.named("any", Known::Typical);
    let sky = shelf.site(site_id).map_or_else(Sky::suburb, |(name, s)| s.sky(name));
    let scenario = Scenario::of(any, sky, vec![contender]);
    let fitted =
        with_advised_subs(any_target(scenario).check().map_err(Problem::fields)?, &app.tables);
    let checked = fitted.check().map_err(Problem::fields)?;
    let Some(rig) = NightRig::new(&checked, 0, &app.tables) else { return Ok(Default::default()) };
    let night = DarkHours { place: site.place()?, from_s: local.from_s, to_s: local.to_s, limits };
    let on = RankedFor {
        rig: &rig,
        continuum_v_mag: Some(ANY_TARGET_V_MAG),
        field_arcmin: width.min(height),
        goal_snr: None,
        square_arcsec: checked.scenario().detail_arcsec,
    };
    let spec = TonightSpec { leave_out, ..TonightSpec::default() };
    Ok((worth_tonight(&app.catalogue, &night, &on, &spec)?, filters))
}

/// The last night that was recorded before an evening.
fn last_night(campaigns: &[StoredCampaign], date: &str) -> Option<LastNight> {
    let nights = campaigns.iter().flat_map(|c| c.campaign.nights.iter().map(move |n| (c, n)));
    let done = nights.filter(|(_, n)| !n.planned && n.date.as_str() < date);
    let (stored, night) = done.max_by(|a, b| a.1.date.cmp(&b.1.date))?;
    Some(LastNight {
        campaign: stored.id.clone(),
        title: stored.campaign.title.clone(),
        date: night.date.clone(),
        words: night_words(&stored.campaign, night),
    })
}

fn night_words(campaign: &Campaign, night: &CampaignNight) -> String {
    let exposures = &campaign.scenario.contenders[campaign.contender].exposures;
    let each: Vec<String> = night
        .shots
        .iter()
        .filter(|s| s.subs > 0)
        .map(|s| {
            let filter = exposures.get(s.exposure).and_then(|e| e.filter.as_ref());
            format!("{} subs of {}", s.subs, filter.map_or("no filter", |f| f.name.as_str()))
        })
        .collect();
    let note = if night.note.is_empty() { String::new() } else { format!(" ({})", night.note) };
    if each.is_empty() { format!("No subs{note}.") } else { format!("{}{note}.", each.join(", ")) }
}

/// What a stored comparison comes to: which path is first, and by how much.
#[utoipa::path(get, operation_id = "scenarios_card", path = "/scenarios/{id}/card",
    params(("id" = String, Path)),
    responses((status = 200, body = Card), (status = 404, body = Problem),
    (status = 422, body = Problem)))]
async fn comparison_card(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<Json<Card>, Problem> {
    let scenario = app.store.scenario(&id).await?.scenario.check().map_err(Problem::fields)?;
    app.heavy(move |app, _| {
        let (_, study) = app.studies.study(scenario, &app.tables)?;
        Ok(Json(card(&study)))
    })
    .await?
}

/// Sides of a thumb, pixels.
const THUMB: [usize; 2] = [96, 96];

/// How a thumb is seen: small, so that it is made quickly.
const THUMB_ARCSEC: f64 = 420.0;

/// The picture that the first path of a stored comparison gives, small. Its colours are those of
/// the look; `ETag` follows the comparison's revision.
#[utoipa::path(get, operation_id = "scenarios_thumb", path = "/scenarios/{id}/thumb.png",
    params(("id" = String, Path)),
    responses((status = 200, content_type = "image/png", body = Vec<u8>),
    (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn thumb(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<impl IntoResponse, Problem> {
    let stored = app.store.scenario(&id).await?;
    let etag = format!("\"{}\"", stored.row.revision);
    let scenario = stored.scenario.check().map_err(Problem::fields)?;
    let work = app.heavy(move |app, threads| {
        let (_, study) = app.studies.study(scenario, &app.tables)?;
        let winner = card(&study).winner.unwrap_or(0);
        let mut one = study.scenario().clone();
        one.contenders = vec![one.contenders[winner].clone()];
        let one = placed(app, one.check().map_err(Problem::fields)?)?;
        let view = LookView { field_arcsec: THUMB_ARCSEC, ..LookView::default() };
        let view = sized(app, &one, view);
        let look = app.looks.get(one, &view, &app.tables, threads)?;
        let all = crops(&look, &view, threads);
        let crop = all.first().ok_or_else(|| Problem::not_found("No picture.".to_owned()))?;
        write_png(&resized(crop, THUMB), &[]).map_err(Problem::fault)
    });
    let png = work.await??;
    Ok((
        [
            (header::CONTENT_TYPE, "image/png".to_owned()),
            (header::ETAG, etag),
            (header::CACHE_CONTROL, "no-cache".to_owned()),
        ],
        png,
    ))
}
