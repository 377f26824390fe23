//! Where the bands of one copy of a filter lie, by a patch of a target through it and through another
//! telescope or filter; and what was found, taken over into kit and campaign.

use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use salt_lamp_core::campaign::Campaign;
use salt_lamp_core::frame::plate::Plate;
use salt_lamp_core::library::{ShelfEntry, ShelfThing};
use salt_lamp_core::log::{
    CopyQuestion, CopySeen, FieldChange, FilterCopy, FrameJudged, HolderOfFigure, LessonTaken,
    copy_told, is_for_lines, is_of, means, offer_of_copy, same_filter, teach_filter,
    teach_filter_of,
};
use salt_lamp_core::path::sky::Air;
use salt_lamp_core::scenario::{Contender, Filter, Optics};
use salt_lamp_store::{LoggedFrame, StoredLesson, Taught};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::fitting::Fitting;
use super::ground::{Ground, Planned};
use super::patches::{self, Held, Patch};
use super::place::{place_of, solved};
use super::taught::changed;
use crate::http::extract::{Body, Params};
use crate::{App, Problem};

pub(super) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(candidates)).routes(routes!(ask)).routes(routes!(take))
}

/// Nights of a target that are looked through for a second exposure, the last first.
const NIGHTS: usize = 12;

/// Which frame.
#[derive(Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
struct FirstFrame {
    /// Id of a frame of the night that was taken through the copy.
    #[serde(default)]
    frame: String,
}

/// A frame that may be the second exposure.
#[derive(Serialize, ToSchema)]
struct SecondFrame {
    /// Its night's id.
    session: String,
    /// The evening.
    night: String,
    /// Its id.
    frame: String,
    /// Its file's name.
    file: String,
    /// The filter before it.
    filter: String,
    /// Focal ratio of its telescope.
    focal_ratio: f64,
    /// Whether the filter has the copy's name.
    same_filter: bool,
}

/// What a frame's filter can be held against.
#[derive(Serialize, ToSchema)]
struct SecondFrames {
    /// The filter before the frame.
    filter: String,
    /// Focal ratio of its telescope.
    focal_ratio: f64,
    /// One frame of each other filter and telescope that saw the same target, those that tell most
    /// first.
    frames: Vec<SecondFrame>,
}

/// A frame with what is marked on it.
#[derive(Clone, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct MarkedFrame {
    /// Id of its night.
    session: String,
    /// Its id.
    frame: String,
    /// Patch and sky; of the second frame null, where its stars are to say where the first one's lie.
    #[serde(default)]
    marks: Option<Patch>,
}

/// Two exposures of one patch.
#[derive(Clone, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct CopyAsked {
    /// Through the copy in question.
    first: MarkedFrame,
    /// Through the same copy on another telescope, or through another filter.
    second: MarkedFrame,
    /// Whether both are through one piece of glass; null where their names say so.
    #[serde(default)]
    same_copy: Option<bool>,
}

/// What is known of a copy by two exposures.
#[derive(Serialize, ToSchema)]
struct CopyAnswer {
    /// The copy.
    copy: FilterCopy,
    /// Frames of each exposure that were measured.
    frames: Vec<usize>,
    /// Where the patch lies on the second frame.
    second: Patch,
    /// What would be changed, if it were taken over: names of the kit and of the campaign.
    subjects: Vec<String>,
    /// What that would mean for the campaign's times.
    means: Vec<String>,
}

/// A night's frames of a campaign's target.
fn own_frames<'a>(ground: &'a Ground, c: &Campaign) -> Vec<&'a (LoggedFrame, Option<FrameJudged>)> {
    ground.frames.iter().filter(|(f, _)| is_of(&f.measured, c)).collect()
}

/// Light paths that may be the night's: of campaigns, then of comparisons of its target.
fn fitting(ground: &Ground) -> impl Iterator<Item = (&Planned, Fitting<'_>)> {
    ground.planned.iter().chain(&ground.beside).filter_map(|planned| {
        let own = own_frames(ground, &planned.campaign);
        Some((planned, Fitting::new(&planned.campaign, &ground.session, &own, &ground.names)?))
    })
}

/// A frame of a night in its light path.
struct Side<'a> {
    frame: &'a LoggedFrame,
    planned: &'a Planned,
    fit: Fitting<'a>,
    exposure: usize,
    contender: &'a Contender,
    filter: &'a Filter,
}

impl<'a> Side<'a> {
    fn of(ground: &'a Ground, frame: &str, field: &str) -> Result<Self, Problem> {
        let wrong = |said: &str| Err(Problem::field(field, said));
        let Some((frame, _)) = ground.frames.iter().find(|(f, _)| f.id == frame) else {
            return wrong("this night has no such frame; give the id of one of its frames");
        };
        let through =
            |(planned, fit): (&'a Planned, Fitting<'a>)| Some((planned, fit.exposure(frame)?, fit));
        let Some((planned, exposure, fit)) = fitting(ground).find_map(through) else {
            return wrong(
                "no campaign and no comparison of what it shows has its camera and its filter: put the \
                 rig into one, or say in the log what their names mean",
            );
        };
        let contender = &planned.campaign.scenario.contenders[fit.path];
        let Some(filter) = contender.exposures.get(exposure).and_then(|e| e.filter.as_ref()) else {
            return wrong("no filter was before it; choose a frame through one");
        };
        if !is_for_lines(filter, &contender.optics) {
            return wrong(
                "its filter shows all colours, or none of a nebula's lines: where its edges lie \
                          to a nanometre is no matter",
            );
        }
        Ok(Self { frame, planned, fit, exposure, contender, filter })
    }

    fn campaign(&self) -> &'a Campaign {
        &self.planned.campaign
    }

    /// Where the catalogue's stars say that its frame looks.
    fn plate(&self, app: &App) -> Option<Plate> {
        Some(solved(app, self.campaign(), self.fit.path, self.frame).0?.plate)
    }

    /// A patch of its frame on that of another side.
    fn found_on(&self, app: &App, marks: &Patch, other: &Side) -> Option<Patch> {
        let by_plates = || {
            let plates = [self.plate(app)?, other.plate(app)?];
            patches::found_by_plates([self.frame, other.frame], marks, plates.each_ref())
        };
        by_plates().or_else(|| patches::found(self.frame, marks, other.frame))
    }

    /// The patch on the clearest frames of this exposure, with the air before each.
    fn seen(&self, app: &App, ground: &'a Ground, marks: &Patch) -> (CopySeen<'a>, usize) {
        let mut chosen = patches::chosen(ground, self.campaign(), &self.fit);
        chosen.retain(|c| c.2 == self.exposure);
        let Held { subs, frames, .. } = patches::held(self.frame, marks, &chosen);
        let site = ground.site(self.campaign()).map(|(_, s)| s);
        let air = |f: &LoggedFrame| {
            let airmass = ground.air.airmass(&f.measured, f.start_s).unwrap_or(1.0);
            Air::new(site.map_or(0.0, |s| s.height_m), site.and_then(|s| s.k_v), airmass)
        };
        let held = subs.into_iter().map(|(s, f)| (s, air(f))).collect();
        let of = (self.campaign(), self.fit.path);
        let own = own_frames(ground, self.campaign());
        let place = place_of(app, of, &self.fit.best(&own), &ground.air);
        let light =
            place.light(&self.fit.filters).into_iter().find(|l| l.exposure == self.exposure);
        let light = light.map(|l| l.estimate());
        (CopySeen { contender: self.contender, filter: self.filter, light, held }, frames)
    }
}

/// Frames against which a frame's filter can be held: of the same target, through the same filter on
/// another telescope or through another filter.
#[utoipa::path(get, operation_id = "log_copy_frames", path = "/log/sessions/{id}/copy",
    params(("id" = String, Path), FirstFrame),
    responses((status = 200, body = SecondFrames), (status = 404, body = Problem),
        (status = 422, body = Problem)))]
async fn candidates(
    State(app): State<App>,
    Path(id): Path<String>,
    Params(q): Params<FirstFrame>,
) -> Result<Json<SecondFrames>, Problem> {
    let ground = Ground::of(&app, &id).await?;
    let first = Side::of(&ground, &q.frame, "frame")?;
    let object = first.frame.measured.read.header.object.clone().unwrap_or_default();
    let (filter, ratio) = (first.filter.name.clone(), first.contender.optics.focal_ratio());
    let asked = salt_lamp_store::SessionsAsked { text: object, ..Default::default() };
    let mut nights = app.store.log_sessions(&asked).await?;
    nights.truncate(NIGHTS);
    let mut frames: Vec<SecondFrame> = Vec::new();
    for night in nights {
        let other = Ground::of(&app, &night.id).await?;
        let most = |(_, fit): &(&Planned, Fitting)| {
            other.frames.iter().filter(|(f, _)| fit.exposure(f).is_some()).count()
        };
        let all: Vec<_> = fitting(&other).collect();
        let Some((planned, fit)) = all.into_iter().rev().max_by_key(most) else { continue };
        let contender = &planned.campaign.scenario.contenders[fit.path];
        let own = own_frames(&other, &planned.campaign);
        for best in fit.best(&own) {
            let through = contender.exposures[best.exposure].filter.as_ref();
            let narrow = |f: &&Filter| is_for_lines(f, &contender.optics);
            let Some(through) = through.filter(narrow) else { continue };
            let one = SecondFrame {
                session: night.id.clone(),
                night: night.night.clone(),
                frame: best.frame.id.clone(),
                file: best.frame.measured.file.clone(),
                filter: through.name.clone(),
                focal_ratio: contender.optics.focal_ratio(),
                same_filter: same_filter(&through.name, &filter),
            };
            let alike = |a: &SecondFrame| {
                a.filter == one.filter && (a.focal_ratio - one.focal_ratio).abs() < 0.05
            };
            let itself = one.same_filter && (one.focal_ratio - ratio).abs() < 0.05;
            if !itself && best.frame.path.is_some() && !frames.iter().any(alike) {
                frames.push(one);
            }
        }
    }
    // The same copy in another cone says most, then another filter on the same telescope.
    frames.sort_by_key(|f| (!f.same_filter, (f.focal_ratio - ratio).abs() > 0.05));
    Ok(Json(SecondFrames { filter, focal_ratio: ratio, frames }))
}

/// All that two exposures say, and what taking it over would change.
struct Ready {
    answer: CopyAnswer,
    changes: Vec<FieldChange>,
    taught: Taught,
}

fn ready(app: &App, [first, second]: [&Ground; 2], q: &CopyAsked) -> Result<Ready, Problem> {
    let a = Side::of(first, &q.first.frame, "first.frame")?;
    let b = Side::of(second, &q.second.frame, "second.frame")?;
    let Some(marks) = q.first.marks else {
        return Err(Problem::field("first.marks", "mark a patch of the target and sky beside it"));
    };
    marks.on(a.frame, "first.marks.")?;
    let other = match q.second.marks {
        Some(own) => {
            own.on(b.frame, "second.marks.")?;
            own
        }
        None => a.found_on(app, &marks, &b).ok_or_else(|| {
            let said =
                "its stars do not say where the first frame's patch lies on it; mark it by hand";
            Problem::field("second.marks", said)
        })?,
    };
    let same_copy = q.same_copy.unwrap_or_else(|| same_filter(&a.filter.name, &b.filter.name));
    let (one, seen_one) = a.seen(app, first, &marks);
    let (two, seen_two) = b.seen(app, second, &other);
    for (field, frames) in [("first.frame", seen_one), ("second.frame", seen_two)] {
        if frames == 0 {
            return Err(Problem::field(
                field,
                "none of the night's kept frames like it could be measured: their files are gone, their \
                 stars do not match, or gain and exposure are not known",
            ));
        }
    }
    let question = CopyQuestion {
        seen: [one, two],
        same_copy,
        believed: a.campaign().scenario.target.lines_rayleigh,
    };
    let telescopes: Vec<Optics> = first
        .shelf
        .iter()
        .filter(|e| e.mine)
        .filter_map(|e| match &e.entry.thing {
            ShelfThing::Telescope(t) => Some(t.optics.clone()),
            _ => None,
        })
        .collect();
    let Some(copy) = copy_told(&question, &telescopes) else {
        return Err(Problem::field(
            "first.frame",
            "no filter of these frames records a line of the target",
        ));
    };
    let (changes, taught, means) = changes(app, first, &a, &copy)?;
    let mut subjects: Vec<String> = changes.iter().map(|c| c.name.clone()).collect();
    subjects.dedup();
    let frames = vec![seen_one, seen_two];
    let answer = CopyAnswer { copy, frames, second: other, subjects, means };
    Ok(Ready { answer, changes, taught })
}

/// What taking a copy over changes: the filter of that name in the kit and in the campaign.
fn changes(
    app: &App,
    ground: &Ground,
    side: &Side,
    copy: &FilterCopy,
) -> Result<(Vec<FieldChange>, Taught, Vec<String>), Problem> {
    let (mut taught, mut all) = (Taught::default(), Vec::new());
    let source = format!("measured, night of {}", ground.session.night);
    for entry in ground.shelf.iter().filter(|e| e.mine) {
        let mut own: ShelfEntry = entry.entry.clone();
        let learned = match &mut own.thing {
            ShelfThing::Filter(f) => teach_filter(&mut f.filter, &copy.as_measured),
            _ => false,
        };
        if !learned {
            continue;
        }
        own.sources.insert("filter".to_owned(), source.clone());
        let own = own.check().map_err(Problem::fields)?;
        let at = (HolderOfFigure::Kit, entry.id.as_str(), entry.entry.name.as_str());
        all.extend(changed(at, &entry.entry, &own).unwrap_or_default());
        taught.kit.push((entry.id.clone(), entry.revision, own));
    }
    let before = side.campaign();
    let mut after = before.clone();
    teach_filter_of(&mut after, &copy.as_measured);
    let means = means((before, &after), side.fit.path, &app.tables).map_err(Problem::fields)?;
    if let Some(revision) = side.planned.revision {
        after.check().map_err(Problem::fields)?;
        let at = (HolderOfFigure::Campaign, side.planned.id.as_str(), after.title.as_str());
        all.extend(changed(at, before, &after).unwrap_or_default());
        taught.campaigns.push((side.planned.id.clone(), revision, after));
    }
    Ok((all, taught, means))
}

async fn grounds(app: &App, q: &CopyAsked) -> Result<[Ground; 2], Problem> {
    Ok([Ground::of(app, &q.first.session).await?, Ground::of(app, &q.second.session).await?])
}

/// Where the bands of the copy before a frame lie, by a second exposure of the same patch; what that
/// means on each telescope, and what taking it over would change. Nothing is kept.
#[utoipa::path(post, operation_id = "log_copy", path = "/log/copy", request_body = CopyAsked,
    responses((status = 200, body = CopyAnswer), (status = 404, body = Problem),
        (status = 422, body = Problem)))]
async fn ask(
    State(app): State<App>,
    Body(q): Body<CopyAsked>,
) -> Result<Json<CopyAnswer>, Problem> {
    let [first, second] = grounds(&app, &q).await?;
    let work = app.heavy(move |app, _| ready(app, [&first, &second], &q));
    Ok(Json(work.await??.answer))
}

/// Takes what was found of a copy over into kit and campaign.
#[utoipa::path(post, operation_id = "log_take_copy", path = "/log/copy/taken",
    request_body = CopyAsked,
    responses((status = 201, body = StoredLesson), (status = 404, body = Problem),
        (status = 412, body = Problem), (status = 422, body = Problem)))]
async fn take(
    State(app): State<App>,
    Body(q): Body<CopyAsked>,
) -> Result<(StatusCode, Json<StoredLesson>), Problem> {
    let [first, second] = grounds(&app, &q).await?;
    let (session, night) = (first.session.id.clone(), first.session.night.clone());
    let work = app.heavy(move |app, _| ready(app, [&first, &second], &q));
    let Ready { answer, changes, taught } = work.await??;
    if changes.is_empty() {
        return Err(Problem::field(
            "first.frame",
            "no filter of your kit and no campaign has this copy's name: add it to the kit first",
        ));
    }
    let offer = offer_of_copy(&answer.copy);
    let lesson = LessonTaken { offer, night, changes, means: answer.means };
    match app.store.take_lesson(&session, &lesson, taught).await? {
        Some(stored) => Ok((StatusCode::CREATED, Json(stored))),
        None => Err(Problem::conflict(&Value::Null)),
    }
}
