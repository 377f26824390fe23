//! A patch of a target and a background beside it, marked on one frame of a night, found again on
//! others by their stars, and measured in the files.

use std::path::Path as FilePath;

use salt_lamp_core::campaign::Campaign;
use salt_lamp_core::frame::matching::{Search, Similarity, match_stars};
use salt_lamp_core::frame::plate::Plate;
use salt_lamp_core::frame::{BoxMeasured, FrameBox, FrameKind, measure_box};
use salt_lamp_core::log::{BoxedFrame, FrameJudged, PatchSub, is_of, judged_channel};
use salt_lamp_formats::frame::open_frame;
use salt_lamp_store::LoggedFrame;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::fitting::Fitting;
use super::ground::Ground;
use super::is_kept;
use crate::Problem;

/// Frames of each exposure that are opened: the clearest.
const OPENED: usize = 6;
/// The least side of a box, pixels.
const LEAST_SIDE: usize = 8;

/// A patch of the target and sky beside it.
#[derive(Clone, Copy, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Patch {
    /// The patch of the target.
    pub(crate) patch: FrameBox,
    /// Sky beside it.
    pub(crate) background: FrameBox,
}

impl Patch {
    /// That both boxes lie on a frame and are no specks; `under` is the name of what holds them.
    pub(crate) fn on(&self, f: &LoggedFrame, under: &str) -> Result<(), Problem> {
        let size = [f.measured.columns, f.measured.rows];
        for (field, b) in [("patch", &self.patch), ("background", &self.background)] {
            let ends = [b.x.checked_add(b.width), b.y.checked_add(b.height)];
            let inside = ends.iter().zip(size).all(|(end, size)| end.is_some_and(|e| e <= size));
            if !inside || b.width < LEAST_SIDE || b.height < LEAST_SIDE {
                let said = format!(
                    "give a box of at least {LEAST_SIDE} x {LEAST_SIDE} pixels within {} x {}",
                    size[0], size[1]
                );
                return Err(Problem::field(&format!("{under}{field}"), &said));
            }
        }
        Ok(())
    }

    /// The same boxes on another frame, laid there by a similarity that scales by `scale`; `None` where
    /// they do not lie on it.
    fn moved(&self, by: &Similarity, scale: f64, f: &LoggedFrame) -> Option<Self> {
        self.laid_by(&|at| Some(by.apply(at)), scale, f)
    }

    /// The same by any way to say where a place of this frame lies on the other.
    fn laid_by(
        &self,
        place: &dyn Fn([f64; 2]) -> Option<[f64; 2]>,
        scale: f64,
        f: &LoggedFrame,
    ) -> Option<Self> {
        let size = [f.measured.columns, f.measured.rows];
        let one = |b: &FrameBox| {
            let side = |n: usize| ((n as f64 * scale).round() as usize).max(LEAST_SIDE);
            let scaled = FrameBox { width: side(b.width), height: side(b.height), ..*b };
            let [x, y] = place(b.middle())?;
            let inside = (0.0..size[0] as f64).contains(&x) && (0.0..size[1] as f64).contains(&y);
            if inside { scaled.about([x, y], size) } else { None }
        };
        Some(Self { patch: one(&self.patch)?, background: one(&self.background)? })
    }
}

/// How `search` lays one frame's stars upon another's.
fn laid(from: &LoggedFrame, to: &LoggedFrame, search: Search) -> Option<Similarity> {
    let stars = |f: &LoggedFrame| -> Option<Vec<[f64; 2]>> {
        Some(judged_channel(&f.measured)?.brightest.iter().map(|s| [s.x_px, s.y_px]).collect())
    };
    Some(match_stars(&stars(from)?, &stars(to)?, search)?.similarity)
}

/// A patch that is marked on a frame of one rig, found on a frame of another by where the catalogue's
/// stars say that both look.
pub(super) fn found_by_plates(
    [from, to]: [&LoggedFrame; 2],
    p: &Patch,
    [plate, other]: [&Plate; 2],
) -> Option<Patch> {
    let size = |f: &LoggedFrame| [f.measured.columns, f.measured.rows];
    let place = |at| plate.place_on((at, size(from)), (other, size(to)));
    p.laid_by(&place, plate.scale_arcsec / other.scale_arcsec, to)
}

/// How many pixels of the second frame one of the first is, by their headers, and how the first lies
/// on the second by their stars: the scales are known to a twentieth.
fn scaled(from: &LoggedFrame, to: &LoggedFrame) -> Option<(f64, Similarity)> {
    let scale_of = |f: &LoggedFrame| f.measured.read.header.pixel_scale_arcsec();
    let scale = scale_of(from)? / scale_of(to)?;
    let search =
        |mirrored| Search { scale, scale_within: 0.05, within_px: 2.5 * scale.max(1.0), mirrored };
    let by = laid(from, to, search(false)).or_else(|| laid(from, to, search(true)))?;
    Some((scale, by))
}

/// The same by the stars of the two frames alone.
pub(super) fn found(marked: &LoggedFrame, p: &Patch, to: &LoggedFrame) -> Option<Patch> {
    let (scale, by) = scaled(marked, to)?;
    p.moved(&by, scale, to)
}

/// How one frame lies on another, whichever rigs took them.
pub(crate) fn upon(from: &LoggedFrame, to: &LoggedFrame) -> Option<Similarity> {
    if from.id == to.id {
        return Some(Similarity::IDENTITY);
    }
    laid(from, to, Search::default()).or_else(|| Some(scaled(from, to)?.1))
}

/// A frame to open, and through which exposure it was taken.
pub(super) type Chosen<'a> = (&'a LoggedFrame, &'a FrameJudged, usize);

/// The kept frames of a campaign's target on a night whose files are known, by exposure, the clearest
/// first.
pub(super) fn chosen<'a>(ground: &'a Ground, c: &Campaign, fit: &Fitting) -> Vec<Chosen<'a>> {
    let mut all: Vec<Chosen> = ground
        .frames
        .iter()
        .filter(|(f, j)| {
            let sky = f.measured.read.header.kind.is_none_or(|k| k == FrameKind::Light);
            sky && is_of(&f.measured, c)
                && is_kept(f, j.as_ref())
                && f.path.is_some()
                && f.start_s.is_some()
        })
        .filter_map(|(f, j)| Some((f, j.as_ref()?, fit.exposure(f)?)))
        .collect();
    let clear = |j: &FrameJudged| j.transparency.unwrap_or(1.0);
    all.sort_by(|a, b| a.2.cmp(&b.2).then(clear(b.1).total_cmp(&clear(a.1))));
    all
}

/// What a patch holds on the clearest frames.
#[derive(Default)]
pub(super) struct Held<'a> {
    /// Channel by channel, each with its frame.
    pub(super) subs: Vec<(PatchSub, &'a LoggedFrame)>,
    /// Frames that were measured.
    pub(super) frames: usize,
    /// Frames that were left out: their files are gone, or their stars do not match.
    pub(super) gone: usize,
}

/// Measures a patch that is marked on one frame on the clearest of each exposure.
pub(super) fn held<'a>(marked: &LoggedFrame, p: &Patch, chosen: &[Chosen<'a>]) -> Held<'a> {
    let mut out = Held::default();
    for of in chosen.chunk_by(|a, b| a.2 == b.2) {
        for one in of.iter().take(OPENED) {
            match boxes(marked, one, p) {
                Some(own) => {
                    out.subs.extend(own.into_iter().map(|s| (s, one.0)));
                    out.frames += 1;
                }
                None => out.gone += 1,
            }
        }
    }
    out
}

/// Where a patch lies on another frame of the same rig, and what it and its background hold there,
/// channel by channel; `None` where its file is gone or its stars do not match.
fn on_frame(
    marked: &LoggedFrame,
    f: &LoggedFrame,
    p: &Patch,
) -> Option<(Patch, [Vec<BoxMeasured>; 2])> {
    let own =
        if f.id == marked.id { *p } else { p.moved(&laid(marked, f, Search::default())?, 1.0, f)? };
    let picture = open_frame(FilePath::new(f.path.as_deref()?)).ok()?.picture;
    let boxes = [measure_box(&picture, &own.patch), measure_box(&picture, &own.background)];
    Some((own, boxes))
}

/// What a patch and its background hold on another frame, channel by channel, whichever rig took it.
pub(crate) fn measured_on(
    marked: &LoggedFrame,
    f: &LoggedFrame,
    p: &Patch,
) -> Option<[Vec<BoxMeasured>; 2]> {
    on_frame(marked, f, p).map(|(_, boxes)| boxes).or_else(|| {
        let own = found(marked, p, f)?;
        let picture = open_frame(FilePath::new(f.path.as_deref()?)).ok()?.picture;
        Some([measure_box(&picture, &own.patch), measure_box(&picture, &own.background)])
    })
}

/// The patch less the background in every channel of a frame; `None` where its file is gone, its
/// stars do not match, or its gain or exposure is not known.
fn boxes(marked: &LoggedFrame, (f, j, exposure): &Chosen, p: &Patch) -> Option<Vec<PatchSub>> {
    let (own, [on, off]) = on_frame(marked, f, p)?;
    let h = &f.measured.read.header;
    let [[x, y], [bx, by]] = [own.patch.middle(), own.background.middle()];
    let of = BoxedFrame {
        exposure: *exposure,
        start_s: f.start_s?,
        transparency: j.transparency.unwrap_or(1.0),
        apart_deg: (x - bx).hypot(y - by) * h.pixel_scale_arcsec().unwrap_or(0.0) / 3600.0,
    };
    let all = PatchSub::of_boxes(h, [&on, &off], of);
    (!all.is_empty()).then_some(all)
}
