//! Frames of one's own beside each other: pictures of one piece of sky, their difference, and what a
//! box holds in each.

use std::path::Path as FilePath;

use axum::Json;
use axum::extract::State;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use salt_lamp_core::frame::{FrameBox, measure_box};
use salt_lamp_core::log::{NightModel, judged_channel};
use salt_lamp_core::scenario::{Contender, Site};
use salt_lamp_core::trial::{
    Alike, FrameAsked, InElectrons, MOST_SIDE, Piece, PixelPredicted, Shown, Trial, TrialKind,
    difference, drawn, in_electrons, piece_of, pixel_predicted, stacked,
};
use salt_lamp_formats::frame::open_frame;
use salt_lamp_formats::picture::grey_png;
use salt_lamp_store::LoggedFrame;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use crate::http::extract::Params;
use crate::routes::campaigns::site_of;
use crate::routes::log::{is_kept, judged_frames, upon};
use crate::{App, Problem};

pub(super) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(picture)).routes(routes!(measures))
}

/// Frames that are stacked at most.
const MOST_STACKED: usize = 16;

/// What is laid beside what.
#[derive(Clone, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
struct BesideAsked {
    /// Id of the frame by which place and stretch are told.
    first: String,
    /// Id of the frame that is shown.
    frame: String,
    /// Middle of the piece on the first frame, a share of its width.
    #[serde(default = "half")]
    #[param(minimum = 0.0, maximum = 1.0)]
    x: f64,
    /// The same of its height.
    #[serde(default = "half")]
    #[param(minimum = 0.0, maximum = 1.0)]
    y: f64,
    /// Side of the piece, pixels of the first frame.
    #[serde(default = "usual_side")]
    #[param(minimum = 16, maximum = 1200)]
    side: usize,
    /// What is made alike: `exposure` or `background`.
    #[serde(default)]
    #[param(inline)]
    alike: Alike,
    /// Id of the shown frame's night, whose kept frames of the same kind are stacked with it; empty for
    /// the frame alone.
    #[serde(default)]
    stack_of: String,
    /// Whether what it has more than the first is shown, not itself.
    #[serde(default)]
    difference: bool,
    /// Id of the trial by whose light paths the model says what a pixel holds, and the kit its level of
    /// no light; empty for nobody's word.
    #[serde(default)]
    trial: String,
}

fn half() -> f64 {
    0.5
}

fn usual_side() -> usize {
    360
}

/// The two frames, and those that are stacked with the second.
struct Frames {
    first: LoggedFrame,
    second: Vec<LoggedFrame>,
}

impl BesideAsked {
    async fn frames(&self, app: &App) -> Result<Frames, Problem> {
        let first = app.store.logged_frame(&self.first).await?;
        let own = app.store.logged_frame(&self.frame).await?;
        let mut second = vec![own];
        if !self.stack_of.is_empty() {
            let h = second[0].measured.read.header.clone();
            let like = |f: &LoggedFrame| {
                let o = &f.measured.read.header;
                (&o.filter, o.exposure_s, o.gain, o.kind)
                    == (&h.filter, h.exposure_s, h.gain, h.kind)
            };
            let all = judged_frames(app, &self.stack_of).await?;
            let more = all
                .into_iter()
                .filter(|(f, j)| f.id != self.frame && like(f) && is_kept(f, j.as_ref()))
                .map(|(f, _)| f);
            second.extend(more.take(MOST_STACKED - 1));
        }
        Ok(Frames { first, second })
    }

    /// Middle of the piece on the first frame, pixels.
    fn middle(&self, f: &LoggedFrame) -> [f64; 2] {
        place_on(f, [self.x, self.y])
    }
}

/// Level and scatter of a frame's background, ADU.
pub(crate) fn level(f: &LoggedFrame) -> (f64, f64) {
    judged_channel(&f.measured).map_or((0.0, 1.0), |c| (c.level_adu, c.sigma_adu))
}

/// The level of no light by the kit of the camera that a frame of a trial was taken with, ADU.
pub(crate) fn kit_offset_adu(trial: &Trial, f: &LoggedFrame) -> Option<f64> {
    taken_through(trial, f).map(|(c, _)| c.sensor.offset_adu)
}

/// How a frame's ADU become what is shown; the level of no light is the kit's where the frame does not
/// say its own.
pub(crate) fn shown(alike: Alike, f: &LoggedFrame, kit_offset_adu: Option<f64>) -> Shown {
    let h = &f.measured.read.header;
    let binned = h.binning.unwrap_or(1.0).max(1.0).powi(2);
    let gain = h.e_per_adu.map(|g| g / binned);
    let offset_adu = h.offset_adu.or(kit_offset_adu);
    Shown::of(alike, (level(f).0, offset_adu), (gain, h.exposure_s))
}

/// That a middle, as shares of a frame's width and height, and a side in its pixels can be shown.
pub(crate) fn checked_piece([x, y]: [f64; 2], side: usize) -> Result<(), Problem> {
    for (field, v) in [("x", x), ("y", y)] {
        if !(0.0..=1.0).contains(&v) {
            return Err(Problem::field(field, "give a share from 0 to 1"));
        }
    }
    if !(16..=MOST_SIDE).contains(&side) {
        return Err(Problem::field("side", format!("give a side from 16 to {MOST_SIDE} pixels")));
    }
    Ok(())
}

/// A place that is given in shares of a frame's width and height, pixels.
pub(crate) fn place_on(f: &LoggedFrame, [x, y]: [f64; 2]) -> [f64; 2] {
    [x * f.measured.columns as f64, y * f.measured.rows as f64]
}

/// A piece of a frame about a place of the first (`middle`, `side`: its pixels); `None` where its
/// file is gone, or its stars do not match.
fn piece(first: &LoggedFrame, about: ([f64; 2], usize), f: &LoggedFrame) -> Option<Piece> {
    let by = upon(first, f)?;
    let picture = open_frame(FilePath::new(f.path.as_deref()?)).ok()?.picture;
    let channel = judged_channel(&f.measured)?.channel.clone();
    piece_of(&picture, &channel, about, &|at| by.apply(at))
}

/// Pieces of frames laid upon the first, each at the level of the first of them, for the sky of a
/// night is not the same from frame to frame; `None` as for [`piece`].
pub(crate) fn laid_pieces(
    first: &LoggedFrame,
    about: ([f64; 2], usize),
    frames: &[&LoggedFrame],
) -> Vec<Option<Piece>> {
    let own = frames.first().map_or(0.0, |f| level(f).0);
    let at_level = |f: &&LoggedFrame| {
        let mut p = piece(first, about, f)?;
        let off = (level(f).0 - own) as f32;
        p.adu.iter_mut().for_each(|v| *v -= off);
        Some(p)
    };
    frames.iter().map(at_level).collect()
}

/// What a piece of sky looks like on a frame, laid on the first by its stars and stretched as that is;
/// or what it has more than the first. A PNG in greys.
#[utoipa::path(get, operation_id = "trials_beside_picture", path = "/trials/beside/picture",
    params(BesideAsked),
    responses((status = 200, content_type = "image/png", body = Vec<u8>),
        (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn picture(
    State(app): State<App>,
    Params(q): Params<BesideAsked>,
) -> Result<Response, Problem> {
    checked_piece([q.x, q.y], q.side)?;
    let frames = q.frames(&app).await?;
    let trial = match q.trial.as_str() {
        "" => None,
        id => Some(app.store.trial(id).await?.trial),
    };
    let work = app.heavy(move |_, _| {
        let offset_adu = |f: &LoggedFrame| trial.as_ref().and_then(|t| kit_offset_adu(t, f));
        let gone = || {
            let said = "its file is gone, or its stars do not lie upon the first frame's";
            Problem::field("frame", said)
        };
        let about = (q.middle(&frames.first), q.side);
        let all: Vec<&LoggedFrame> = frames.second.iter().collect();
        // A neighbour whose file is gone is missing in the stack.
        let pieces: Vec<Piece> =
            laid_pieces(&frames.first, about, &all).into_iter().flatten().collect();
        let own = stacked(&pieces).ok_or_else(gone)?;
        let [own_shown, by] =
            [&frames.second[0], &frames.first].map(|f| shown(q.alike, f, offset_adu(f)));
        let sigma = level(&frames.first).1 * by.per_adu;
        let greys = if q.difference {
            let first = piece(&frames.first, about, &frames.first).ok_or_else(gone)?;
            difference([(&first, &by), (&own, &own_shown)], sigma)
        } else {
            drawn(&own, &own_shown, sigma)
        };
        grey_png(own.size, &greys).map_err(Problem::fault)
    });
    Ok(([(header::CONTENT_TYPE, "image/png")], work.await??).into_response())
}

/// A frame in the comparison.
#[derive(Serialize, ToSchema)]
struct FrameBesideFrame {
    /// Its id.
    id: String,
    /// Its file's name.
    file: String,
    /// Its filter.
    filter: Option<String>,
    /// Its length, s.
    exposure_s: Option<f64>,
    /// Its background, and what the middle fifth of the piece holds.
    #[serde(flatten)]
    figures: InElectrons,
    /// What the model says of a pixel of it under the target's mean light; null where the frame is of
    /// no kind of the trial.
    predicted: Option<PixelPredicted>,
}

/// Two frames in figures.
#[derive(Serialize, ToSchema)]
struct BesideAnswer {
    /// The first and the second.
    frames: Vec<FrameBesideFrame>,
    /// Why what is made alike matters.
    told: String,
}

/// The light path that a frame of a trial was taken through, with its place and its exposure's.
fn taken_through<'t>(trial: &'t Trial, f: &LoggedFrame) -> Option<(&'t Contender, TrialKind)> {
    let kind = trial.frames.iter().find(|t| t.id == f.id)?.kind?;
    let kind = *trial.kinds.get(kind)?;
    Some((trial.scenario.contenders.get(kind.path)?, kind))
}

/// What the model says of a frame of a trial.
fn predicted(app: &App, of: &(Trial, Site), f: &LoggedFrame) -> Option<PixelPredicted> {
    let (trial, site) = of;
    let (contender, TrialKind { path, exposure }) = taken_through(trial, f)?;
    let (h, start_s) = (&f.measured.read.header, f.start_s?);
    let sub_s = h.exposure_s?;
    let campaign = trial.as_campaign();
    let night = NightModel::new((&campaign, path), site, [start_s, start_s + sub_s], &app.tables);
    let asked = FrameAsked {
        exposure,
        channel: &judged_channel(&f.measured)?.channel,
        start_s,
        sub_s,
        gain: h.gain,
        binning: h.binning.unwrap_or(1.0).max(1.0) as u32,
    };
    pixel_predicted(&night.ok()??, contender, trial.quantity, asked)
}

fn in_figures(
    q: &BesideAsked,
    first: &LoggedFrame,
    f: &LoggedFrame,
    kit_offset_adu: Option<f64>,
) -> Option<FrameBesideFrame> {
    let by = upon(first, f)?;
    let h = &f.measured.read.header;
    let side = (q.side / 5).max(8);
    let own = FrameBox { x: 0, y: 0, width: side, height: side };
    let size = [f.measured.columns, f.measured.rows];
    let at = own.about(by.apply(q.middle(first)), size)?;
    let picture = open_frame(FilePath::new(f.path.as_deref()?)).ok()?.picture;
    Some(FrameBesideFrame {
        id: f.id.clone(),
        file: f.measured.file.clone(),
        filter: h.filter.clone(),
        exposure_s: h.exposure_s,
        figures: in_electrons(&f.measured, kit_offset_adu, &measure_box(&picture, &at)),
        predicted: None,
    })
}

/// What a box in the middle of a piece holds on two frames, in electrons, beside what the model says.
#[utoipa::path(get, operation_id = "trials_beside", path = "/trials/beside",
    params(BesideAsked),
    responses((status = 200, body = BesideAnswer), (status = 404, body = Problem),
        (status = 422, body = Problem)))]
async fn measures(
    State(app): State<App>,
    Params(q): Params<BesideAsked>,
) -> Result<Json<BesideAnswer>, Problem> {
    checked_piece([q.x, q.y], q.side)?;
    let frames = q.frames(&app).await?;
    let by = if q.trial.is_empty() {
        None
    } else {
        let trial = app.store.trial(&q.trial).await?.trial;
        site_of(&app, &trial.site).await?.map(|(_, site)| (trial, site))
    };
    let work = app.heavy(move |app, _| {
        let of = |f: &LoggedFrame| {
            let offset_adu = by.as_ref().and_then(|(trial, _)| kit_offset_adu(trial, f));
            let own = in_figures(&q, &frames.first, f, offset_adu).ok_or_else(|| {
                let said = "its file is gone, its stars do not lie upon the first frame's, or the piece is off it";
                Problem::field("frame", said)
            })?;
            let predicted = by.as_ref().and_then(|by| predicted(app, by, f));
            Ok::<_, Problem>(FrameBesideFrame { predicted, ..own })
        };
        let frames = vec![of(&frames.first)?, of(&frames.second[0])?];
        Ok::<_, Problem>(BesideAnswer { frames, told: q.alike.told().to_owned() })
    });
    Ok(Json(work.await??))
}
