//! Frames of one's own beside each other: pictures of one piece of sky, their difference, and what a
//! box holds in each.

use std::path::Path as FilePath;

use axum::Json;
use axum::extract::State;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use salt_lamp_core::frame::matching::{Search, Similarity, match_stars};
use salt_lamp_core::frame::{FrameBox, measure_box};
use salt_lamp_core::log::judged_channel;
use salt_lamp_core::trial::{Alike, MOST_SIDE, Piece, Shown, difference, drawn, piece_of, stacked};
use salt_lamp_formats::frame::open_frame;
use salt_lamp_formats::picture::grey_png;
use salt_lamp_store::LoggedFrame;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use crate::http::extract::Params;
use crate::routes::log::{is_kept, judged_frames};
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
    fn checked(&self) -> Result<(), Problem> {
        for (field, v) in [("x", self.x), ("y", self.y)] {
            if !(0.0..=1.0).contains(&v) {
                return Err(Problem::field(field, "give a share from 0 to 1"));
            }
        }
        if !(16..=MOST_SIDE).contains(&self.side) {
            let said = format!("give a side from 16 to {MOST_SIDE} pixels");
            return Err(Problem::field("side", said));
        }
        Ok(())
    }

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
        [self.x * f.measured.columns as f64, self.y * f.measured.rows as f64]
    }
}

/// Where places of one frame lie on another, by their stars.
fn laid(from: &LoggedFrame, to: &LoggedFrame) -> Option<Similarity> {
    if from.id == to.id {
        return Some(Similarity::IDENTITY);
    }
    let stars = |f: &LoggedFrame| -> Option<Vec<[f64; 2]>> {
        Some(judged_channel(&f.measured)?.brightest.iter().map(|s| [s.x_px, s.y_px]).collect())
    };
    let scale_of = |f: &LoggedFrame| f.measured.read.header.pixel_scale_arcsec();
    let scale = scale_of(from).zip(scale_of(to)).map_or(1.0, |(a, b)| a / b);
    let search = Search { scale, ..Search::default() };
    Some(match_stars(&stars(from)?, &stars(to)?, search)?.similarity)
}

fn level(f: &LoggedFrame) -> (f64, f64) {
    judged_channel(&f.measured).map_or((0.0, 1.0), |c| (c.level_adu, c.sigma_adu))
}

fn shown(alike: Alike, f: &LoggedFrame) -> Shown {
    let h = &f.measured.read.header;
    let binned = h.binning.unwrap_or(1.0).max(1.0).powi(2);
    let gain = h.e_per_adu.map(|g| g / binned);
    Shown::of(alike, (level(f).0, h.offset_adu), (gain, h.exposure_s))
}

/// A piece of a frame; `None` where its file is gone, or its stars do not match.
fn piece(q: &BesideAsked, first: &LoggedFrame, f: &LoggedFrame) -> Option<Piece> {
    let by = laid(first, f)?;
    let picture = open_frame(FilePath::new(f.path.as_deref()?)).ok()?.picture;
    let channel = judged_channel(&f.measured)?.channel.clone();
    piece_of(&picture, &channel, (q.middle(first), q.side), &|at| by.apply(at))
}

/// A frame or its stack as it is shown, with the level by which it is.
fn whole(q: &BesideAsked, frames: &Frames) -> Option<(Piece, Shown)> {
    let own = &frames.second[0];
    // Each at its own level: the sky of a night is not the same from frame to frame.
    let level_of = |f: &LoggedFrame| level(f).0;
    let at_level = |f: &LoggedFrame| {
        let mut p = piece(q, &frames.first, f)?;
        let off = (level_of(f) - level_of(own)) as f32;
        p.adu.iter_mut().for_each(|v| *v -= off);
        Some(p)
    };
    let all: Vec<Piece> = frames.second.iter().filter_map(at_level).collect();
    Some((stacked(&all)?, shown(q.alike, own)))
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
    q.checked()?;
    let frames = q.frames(&app).await?;
    let work = app.heavy(move |_, _| {
        let gone = || {
            let said = "its file is gone, or its stars do not lie upon the first frame's";
            Problem::field("frame", said)
        };
        let (own, own_shown) = whole(&q, &frames).ok_or_else(gone)?;
        let by = shown(q.alike, &frames.first);
        let sigma = level(&frames.first).1 * by.per_adu;
        let greys = if q.difference {
            let first = piece(&q, &frames.first, &frames.first).ok_or_else(gone)?;
            difference([(&first, &by), (&own, &own_shown)], sigma)
        } else {
            drawn(&own, &own_shown, sigma)
        };
        grey_png(own.size, &greys).map_err(Problem::fault)
    });
    Ok(([(header::CONTENT_TYPE, "image/png")], work.await??).into_response())
}

/// What a box of a frame holds.
#[derive(Serialize, ToSchema)]
struct BoxBeside {
    /// `mono`, `r`, `g` or `b`.
    channel: String,
    /// Light over the frame's background, electrons in a pixel.
    over_e: f64,
    /// Scatter of one pixel, electrons.
    scatter_e: f64,
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
    /// Background over the offset, electrons in a pixel; null where gain or offset is not known.
    background_e: Option<f64>,
    /// Noise that so many electrons make by themselves, electrons; what read noise and dark add comes
    /// on top. Null where the background is not known.
    background_noise_e: Option<f64>,
    /// What the middle fifth of the piece holds, channel by channel; empty where gain is not known.
    boxes: Vec<BoxBeside>,
}

/// Two frames in figures.
#[derive(Serialize, ToSchema)]
struct BesideAnswer {
    /// The first and the second.
    frames: Vec<FrameBesideFrame>,
    /// Why what is made alike matters.
    told: String,
}

fn in_figures(q: &BesideAsked, first: &LoggedFrame, f: &LoggedFrame) -> Option<FrameBesideFrame> {
    let by = laid(first, f)?;
    let h = &f.measured.read.header;
    let side = (q.side / 5).max(8);
    let own = FrameBox { x: 0, y: 0, width: side, height: side };
    let size = [f.measured.columns, f.measured.rows];
    let at = own.about(by.apply(q.middle(first)), size)?;
    let picture = open_frame(FilePath::new(f.path.as_deref()?)).ok()?.picture;
    let boxes = h.e_per_adu.map_or_else(Vec::new, |gain| {
        let level_of = |name: &str| {
            f.measured.channels.iter().find(|c| c.channel == name).map(|c| c.level_adu)
        };
        let one = |b: salt_lamp_core::frame::BoxMeasured| {
            Some(BoxBeside {
                over_e: (b.mean_adu - level_of(b.channel)?) * gain,
                scatter_e: b.sd_adu * (b.pixels as f64).sqrt() * gain,
                channel: b.channel.to_owned(),
            })
        };
        measure_box(&picture, &at).into_iter().filter_map(one).collect()
    });
    let background_e = h.e_per_adu.zip(h.offset_adu).map(|(g, o)| (level(f).0 - o) * g);
    Some(FrameBesideFrame {
        id: f.id.clone(),
        file: f.measured.file.clone(),
        filter: h.filter.clone(),
        exposure_s: h.exposure_s,
        background_e,
        background_noise_e: background_e.map(|b| b.max(0.0).sqrt()),
        boxes,
    })
}

/// What a box in the middle of a piece holds on two frames, in electrons.
#[utoipa::path(get, operation_id = "trials_beside", path = "/trials/beside",
    params(BesideAsked),
    responses((status = 200, body = BesideAnswer), (status = 404, body = Problem),
        (status = 422, body = Problem)))]
async fn measures(
    State(app): State<App>,
    Params(q): Params<BesideAsked>,
) -> Result<Json<BesideAnswer>, Problem> {
    q.checked()?;
    let frames = q.frames(&app).await?;
    let work = app.heavy(move |_, _| {
        let of = |f: &LoggedFrame| {
            in_figures(&q, &frames.first, f).ok_or_else(|| {
                let said = "its file is gone, its stars do not lie upon the first frame's, or the piece is off it";
                Problem::field("frame", said)
            })
        };
        let frames = vec![of(&frames.first)?, of(&frames.second[0])?];
        Ok::<_, Problem>(BesideAnswer { frames, told: q.alike.told().to_owned() })
    });
    Ok(Json(work.await??))
}
