//! What a night teaches: every frame beside its prediction, what is offered to site, kit and
//! campaign, and what was taken over, with its way back.

use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use salt_lamp_core::frame::{FrameKind, FrameMeasured};
use salt_lamp_core::library::ShelfThing;
use salt_lamp_core::log::{
    FieldChange, FrameBeside, FrameJudged, HolderOfFigure, Lesson, LessonTaken, NightModel,
    NightSub, NightToLearn, Offer, beside, differences, is_of, means, taught, teach_campaign,
    teach_optics, teach_sensor, teach_site,
};
use salt_lamp_core::scenario::Contender;
use salt_lamp_store::{LoggedFrame, StoredEntry, StoredLesson, Taught};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::fitting::{Fitting, Night};
use super::ground::{Ground, Planned, is_part};
use super::is_kept;
use super::place::place_of;
use crate::http::extract::Body;
use crate::{App, Problem};

pub(super) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(night_taught, take))
}

/// An offer, and what taking it would do.
#[derive(Clone, Serialize, ToSchema)]
struct OfferOfNight {
    /// What is offered.
    offer: Offer,
    /// Names of what would be changed.
    subjects: Vec<String>,
    /// What it would mean for the campaign's times, in sentences.
    means: Vec<String>,
}

/// A frame beside its prediction.
#[derive(Clone, Serialize, ToSchema)]
struct FrameBesideModel {
    /// Its id.
    id: String,
    /// How it stands.
    #[serde(flatten)]
    beside: FrameBeside,
}

/// What a night teaches for one campaign, or for a comparison where no campaign has its frames.
#[derive(Clone, Serialize, ToSchema)]
struct CampaignTaught {
    /// Id of the campaign or the comparison.
    of: String,
    /// Whether it is a campaign.
    is_campaign: bool,
    /// Its title.
    title: String,
    /// Name of the site.
    site: String,
    /// Names of the light path's filters, in the order of its exposures.
    filters: Vec<String>,
    /// The frames that could be predicted, in the order of time.
    frames: Vec<FrameBesideModel>,
    /// How the night came out, in sentences.
    told: Vec<String>,
    /// What is offered.
    offers: Vec<OfferOfNight>,
}

/// What a night teaches.
#[derive(Serialize, ToSchema)]
struct TaughtOfNight {
    /// For each campaign that its frames are of; where there is none, for a comparison of its target.
    learned: Vec<CampaignTaught>,
    /// What was taken over from it, and what was taken back.
    lessons: Vec<StoredLesson>,
}

/// An offer with every document as it would be.
struct Ready {
    offer: Offer,
    changes: Vec<FieldChange>,
    means: Vec<String>,
    taught: Taught,
}

/// What one campaign learns; `None` where the night is none of its, or nothing can be predicted.
fn of_campaign(
    app: &App,
    ground: &Ground,
    stored: &Planned,
) -> Option<(CampaignTaught, Vec<Ready>)> {
    let c = &stored.campaign;
    let own: Vec<_> = ground.frames.iter().filter(|(f, _)| is_of(&f.measured, c)).collect();
    if own.is_empty() {
        return None;
    }
    let fit = Fitting::new(c, &ground.session, &own, &ground.names)?;
    let path = c.scenario.contenders.get(fit.path)?;
    let (entry, site) = ground.site(c)?;
    let (ids, subs): (Vec<&str>, Vec<NightSub>) = subs(&own, &fit).into_iter().unzip();
    let span =
        subs.iter().fold([f64::MAX, f64::MIN], |[a, b], s| [a.min(s.start_s), b.max(s.start_s)]);
    if subs.is_empty() {
        return None;
    }
    let model = NightModel::new((c, fit.path), site, span, &app.tables).ok()??;
    let frames = beside(&model, &subs);
    let place = place_of(app, (c, fit.path), &fit.best(&own), &ground.air);
    let calibration: Vec<&FrameMeasured> = ground
        .frames
        .iter()
        .map(|(f, _)| &f.measured)
        .filter(|m| matches!(m.read.header.kind, Some(FrameKind::Bias | FrameKind::Dark)))
        .collect();
    let learned = taught(&NightToLearn {
        site,
        path,
        throughput_sd: c.scenario.choices.uncertainty.throughput_relative,
        subs: &subs,
        frames: &frames,
        calibration: &calibration,
        light: &place.light(&fit.filters),
    });
    let ready: Vec<Ready> = learned
        .offers
        .into_iter()
        .filter_map(|offer| ready(app, (stored, fit.path), (entry, ground), path, offer))
        .collect();
    let id_of = |f: &FrameBeside| {
        let at = |s: &NightSub| s.start_s + s.measured.read.header.exposure_s.unwrap_or(0.0) / 2.0;
        subs.iter().position(|s| at(s) == f.at_s).map_or("", |i| ids[i])
    };
    let told = CampaignTaught {
        of: stored.id.clone(),
        is_campaign: stored.revision.is_some(),
        title: c.title.clone(),
        site: entry.entry.name.clone(),
        filters: fit.filters.iter().copied().map(str::to_owned).collect(),
        frames: frames
            .iter()
            .map(|f| FrameBesideModel { id: id_of(f).to_owned(), beside: *f })
            .collect(),
        told: learned.told,
        offers: ready
            .iter()
            .map(|r| {
                let mut subjects: Vec<String> = r.changes.iter().map(|c| c.name.clone()).collect();
                subjects.dedup();
                OfferOfNight { offer: r.offer.clone(), subjects, means: r.means.clone() }
            })
            .collect(),
    };
    Some((told, ready))
}

/// Frames of the sky with a time, each with its id.
fn subs<'a>(own: Night<'a>, fit: &Fitting) -> Vec<(&'a str, NightSub<'a>)> {
    let one = |(f, j): &&'a (LoggedFrame, Option<FrameJudged>)| {
        let sub = NightSub {
            measured: &f.measured,
            judged: j.as_ref()?,
            exposure: fit.exposure(f)?,
            kept: is_kept(f, j.as_ref()),
            start_s: f.start_s?,
        };
        Some((f.id.as_str(), sub))
    };
    own.iter().filter_map(one).collect()
}

/// An offer with all that it changes; `None` where that would make a document that is not accepted.
fn ready(
    app: &App,
    (stored, path): (&Planned, usize),
    (site, ground): (&StoredEntry, &Ground),
    contender: &Contender,
    offer: Offer,
) -> Option<Ready> {
    let mut taught = Taught::default();
    let mut changes = Vec::new();
    let source = format!("measured, night of {}", ground.session.night);
    let parts = ground.shelf.iter().filter(|e| e.mine && is_part(&e.entry.thing, contender));
    for entry in std::iter::once(site).chain(parts) {
        let mut own = entry.entry.clone();
        let learned = match &mut own.thing {
            ShelfThing::Site(s) => teach_site(s, &offer),
            ShelfThing::Telescope(t) => teach_optics(&mut t.optics, &offer),
            ShelfThing::Camera(k) => teach_sensor(&mut k.sensor, &offer),
            _ => false,
        };
        if !learned {
            continue;
        }
        own.sources.insert(field_of(offer.lesson).to_owned(), source.clone());
        let own = own.check().ok()?;
        let at = (HolderOfFigure::Kit, entry.id.as_str(), entry.entry.name.as_str());
        changes.extend(changed(at, &entry.entry, &own)?);
        taught.kit.push((entry.id.clone(), entry.revision, own));
    }
    let mut after = stored.campaign.clone();
    teach_campaign(&mut after, path, &offer);
    let means = means((&stored.campaign, &after), path, &app.tables).ok()?;
    if let Some(revision) = stored.revision {
        after.check().ok()?;
        let at = (HolderOfFigure::Campaign, stored.id.as_str(), after.title.as_str());
        changes.extend(changed(at, &stored.campaign, &after)?);
        taught.campaigns.push((stored.id.clone(), revision, after));
    }
    if changes.is_empty() {
        return None;
    }
    Some(Ready { offer, changes, means, taught })
}

/// The field of the kit that a lesson is about, as sources name it.
fn field_of(lesson: Lesson) -> &'static str {
    match lesson {
        Lesson::Zenith => "zenith_v_mag",
        Lesson::LampsOff => "by_hour",
        Lesson::Glow => "glow",
        Lesson::Extinction => "k_v",
        Lesson::Seeing => "seeing_fwhm_arcsec",
        Lesson::Throughput => "optics.throughput",
        Lesson::ReadNoise => "sensor.gains",
        Lesson::Dark => "sensor.dark",
        Lesson::FilterCentre => "filter",
    }
}

pub(super) fn changed(
    (holder, id, name): (HolderOfFigure, &str, &str),
    before: &impl Serialize,
    after: &impl Serialize,
) -> Option<Vec<FieldChange>> {
    let [before, after] = [serde_json::to_value(before).ok()?, serde_json::to_value(after).ok()?];
    let of = |(field, before, after)| FieldChange {
        holder,
        id: id.to_owned(),
        name: name.to_owned(),
        field,
        before,
        after,
    };
    Some(differences(&before, &after).into_iter().map(of).collect())
}

/// Every frame of a night beside what was predicted of it, campaign by campaign, and what the night
/// offers to site, kit and campaign.
#[utoipa::path(get, operation_id = "log_taught", path = "/log/sessions/{id}/taught",
    params(("id" = String, Path)),
    responses((status = 200, body = TaughtOfNight), (status = 404, body = Problem)))]
async fn night_taught(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<Json<TaughtOfNight>, Problem> {
    let ground = Ground::of(&app, &id).await?;
    let work = app.heavy(move |app, _| {
        let of = |c| of_campaign(app, &ground, c).map(|(told, _)| told);
        ground.planned.iter().filter_map(of).collect()
    });
    let learned = work.await?;
    let all = app.store.lessons().await?;
    let lessons = all.into_iter().filter(|l| l.session.as_deref() == Some(&id)).collect();
    Ok(Json(TaughtOfNight { learned, lessons }))
}

/// Which offer is taken.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct OfferTaken {
    /// Id of the campaign or comparison for which it is offered.
    of: String,
    /// Which figure.
    lesson: Lesson,
}

/// Takes an offer over: the figures of site, kit and campaign are changed together.
#[utoipa::path(post, operation_id = "log_take_lesson", path = "/log/sessions/{id}/taught",
    params(("id" = String, Path)), request_body = OfferTaken,
    responses((status = 201, body = StoredLesson), (status = 404, body = Problem),
        (status = 412, body = Problem), (status = 422, body = Problem)))]
async fn take(
    State(app): State<App>,
    Path(id): Path<String>,
    Body(q): Body<OfferTaken>,
) -> Result<(StatusCode, Json<StoredLesson>), Problem> {
    let ground = Ground::of(&app, &id).await?;
    let night = ground.session.night.clone();
    let work = app.heavy(move |app, _| {
        let stored = ground.planned.iter().find(|c| c.id == q.of);
        let all = stored.and_then(|c| of_campaign(app, &ground, c)).map(|(_, ready)| ready);
        all.unwrap_or_default().into_iter().find(|r| r.offer.lesson == q.lesson)
    });
    let Some(Ready { offer, changes, means, taught }) = work.await? else {
        return Err(Problem::field(
            "lesson",
            "the night does not offer this any more; ask again what it offers",
        ));
    };
    let lesson = LessonTaken { offer, night, changes, means };
    match app.store.take_lesson(&id, &lesson, taught).await? {
        Some(stored) => Ok((StatusCode::CREATED, Json(stored))),
        None => Err(Problem::conflict(&Value::Null)),
    }
}
