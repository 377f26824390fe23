//! Stars found: a matched filter over what the background leaves, and its local maxima.
//!
//! A Gaussian of about a star's width gathers a star's light and little noise; a maximum of it is
//! kept where it stands five standard deviations of its own noise above nothing. A hot pixel has no
//! neighbours, and a bump on the wing of a brighter star no valley between: both are left out.

use std::collections::HashMap;

use crate::frame::background::Background;
use crate::frame::channel::{Channel, Scratch};
use crate::frame::pixels::Pixels;
use crate::frame::wide::{Wide, wide};
use crate::workers::Workers;

/// Standard deviations of the filtered noise above which a maximum is a star.
pub(super) const THRESHOLD: f64 = 5.0;
/// Standard deviation of the filter, pixels: a star of 3 px full width.
const FILTER_SIGMA_PX: f64 = 1.3;
/// Pixels of the filter to each side.
const REACH: usize = 4;
/// Rows that are looked at as one part.
const BAND: usize = 192;
/// The mean of the eight pixels around a star's brightest one is at least this share of it: a star
/// of 1.5 px full width has 0.19.
const LEAST_AROUND: f32 = 0.1;
/// Between two stars the light falls to this share of the fainter one at least.
const VALLEY: f32 = 0.8;
/// How far from a brighter star a bump may be its own, pixels.
const NEAR_PX: f64 = 24.0;
/// Two peaks this near may be one in any case, pixels.
const CLOSE_PX: f64 = 7.0;
/// Only stars above this many standard deviations have a core that may be full.
const FULL_SIGMAS: f32 = 200.0;
/// How wide a star's wing is taken, pixels (a Moffat profile of index 2.5).
const WING_PX: f64 = 2.5;
/// Pixels of a row that are passed over at once where none is bright.
const PASSED: usize = 32;
/// Maxima that are looked into, at most, the brightest first.
const MOST: usize = 60_000;

/// A maximum of the filtered channel.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Peak {
    /// Column and row in the channel.
    pub at: [usize; 2],
    /// The filtered light there over the filtered noise.
    pub sigmas: f32,
}

/// The filter's weights from its middle outwards: they sum to one over both sides.
fn weights() -> [f32; REACH + 1] {
    let raw: Vec<f64> =
        (0..=REACH).map(|k| (-0.5 * (k as f64 / FILTER_SIGMA_PX).powi(2)).exp()).collect();
    let sum = raw[0] + 2.0 * raw[1..].iter().sum::<f64>();
    std::array::from_fn(|k| (raw[k] / sum) as f32)
}

/// Light that the background leaves, row by row.
pub struct Above<'a, P> {
    /// Which channel.
    pub channel: &'a Channel,
    /// The frame's pixels.
    pub pixels: &'a P,
    /// What is taken off.
    pub background: &'a Background,
}

impl<P: Pixels> Above<'_, P> {
    /// A row; what is no number is nothing.
    #[inline(always)]
    fn row(&self, y: usize, memory: &mut Memory, out: &mut [f32]) {
        self.channel.piece(self.pixels, y, 0, &mut memory.scratch, out);
        self.background.along(y, &mut memory.levels);
        for (v, level) in out.iter_mut().zip(&memory.levels) {
            let left = *v - level;
            *v = if left.abs() < f32::INFINITY { left } else { 0.0 };
        }
    }
}

#[derive(Default)]
struct Memory {
    scratch: Scratch,
    levels: Vec<f32>,
}

/// All maxima, the brightest first.
pub fn peaks<P: Pixels>(above: &Above<P>, workers: &impl Workers) -> Vec<Peak> {
    let rows = above.channel.size[1];
    let bands = rows.div_ceil(BAND);
    let parts = workers.each(bands, &|b| {
        wide(PeaksOfBand { above, rows: [b * BAND, ((b + 1) * BAND).min(rows)] })
    });
    let mut all: Vec<Peak> = parts.into_iter().flatten().collect();
    all.sort_by(|a, b| b.sigmas.total_cmp(&a.sigmas).then(a.at.cmp(&b.at)));
    all.truncate(MOST);
    all
}

/// Filters a row along itself; its ends are as if the row went on with nothing.
#[inline(always)]
fn along_row(row: &[f32], w: &[f32; REACH + 1], padded: &mut Vec<f32>, out: &mut [f32]) {
    padded.clear();
    padded.resize(REACH, 0.0);
    padded.extend_from_slice(row);
    padded.resize(row.len() + 2 * REACH, 0.0);
    let n = out.len();
    let at = |k: usize| &padded[k..k + n];
    let (l4, l3, l2, l1, m) = (at(0), at(1), at(2), at(3), at(4));
    let (r1, r2, r3, r4) = (at(5), at(6), at(7), at(8));
    for (i, sum) in out.iter_mut().enumerate() {
        *sum = w[0] * m[i]
            + w[1] * (l1[i] + r1[i])
            + w[2] * (l2[i] + r2[i])
            + w[3] * (l3[i] + r3[i])
            + w[4] * (l4[i] + r4[i]);
    }
}

/// The maxima of some rows.
struct PeaksOfBand<'a, P> {
    above: &'a Above<'a, P>,
    rows: [usize; 2],
}

impl<P: Pixels> Wide for PeaksOfBand<'_, P> {
    type Output = Vec<Peak>;

    #[inline(always)]
    fn call(self) -> Vec<Peak> {
        peaks_of_band(self.above, self.rows[0], self.rows[1])
    }
}

/// The maxima of rows `from` to `to`.
#[inline(always)]
fn peaks_of_band<P: Pixels>(above: &Above<P>, from: usize, to: usize) -> Vec<Peak> {
    let [columns, rows] = above.channel.size;
    let w = weights();
    let square: f64 = (1..=REACH).map(|k| 2.0 * f64::from(w[k]).powi(2)).sum();
    let share = square + f64::from(w[0]).powi(2);
    // Two pixels of a colour are put together before: their mean scatters less.
    let sigma = above.background.sigma / (above.channel.sites() as f64).sqrt();
    let noise = ((sigma * share) as f32).max(f32::MIN_POSITIVE);
    let threshold = THRESHOLD as f32 * noise;
    const SPAN: usize = 2 * REACH + 1;
    let mut raw: Vec<Vec<f32>> = vec![vec![0.0; columns]; SPAN + 2];
    let mut wide: Vec<Vec<f32>> = vec![vec![0.0; columns]; SPAN + 2];
    let mut filtered: Vec<Vec<f32>> = vec![vec![0.0; columns]; 3];
    let (mut memory, mut padded, mut out) = (Memory::default(), Vec::new(), Vec::new());
    let (slots, first) = (SPAN + 2, from as isize - 1 - REACH as isize);
    let last = to as isize + REACH as isize;
    for y in first..=last {
        let slot = (y - first) as usize % slots;
        if y < 0 || y >= rows as isize {
            raw[slot].fill(0.0);
            wide[slot].fill(0.0);
        } else {
            above.row(y as usize, &mut memory, &mut raw[slot]);
            along_row(&raw[slot], &w, &mut padded, &mut wide[slot]);
        }
        // The row that is complete now.
        let centre = y - REACH as isize;
        if centre < from as isize - 1 {
            continue;
        }
        let of = |d: isize| &wide[(centre + d - first) as usize % slots][..columns];
        let sum = &mut filtered[(centre - from as isize + 1) as usize % 3];
        let m = of(0);
        let (a1, b1, a2, b2) = (of(-1), of(1), of(-2), of(2));
        let (a3, b3, a4, b4) = (of(-3), of(3), of(-4), of(4));
        for (i, s) in sum.iter_mut().enumerate() {
            *s = w[0] * m[i]
                + w[1] * (a1[i] + b1[i])
                + w[2] * (a2[i] + b2[i])
                + w[3] * (a3[i] + b3[i])
                + w[4] * (a4[i] + b4[i]);
        }
        let row = centre - 1;
        if row < from as isize || row >= to as isize {
            continue;
        }
        let of_row = |d: isize| &filtered[(row + d - from as isize + 1) as usize % 3];
        let own = |d: isize| &raw[(row + d - first) as usize % slots];
        maxima(
            [of_row(-1), of_row(0), of_row(1)],
            [own(-1), own(0), own(1)],
            threshold,
            &mut |x| {
                out.push(Peak { at: [x, row as usize], sigmas: of_row(0)[x] / noise });
            },
        );
    }
    out
}

/// Calls `found` with each column of the middle row that is a maximum and no hot pixel.
#[inline(always)]
fn maxima(
    [up, here, down]: [&Vec<f32>; 3],
    [raw_up, raw, raw_down]: [&Vec<f32>; 3],
    threshold: f32,
    found: &mut impl FnMut(usize),
) {
    // Nearly all pixels are sky: many are passed over at once.
    let inner = here.len().saturating_sub(2);
    let is_bright = |from: usize| {
        let some = &here[1 + from..1 + (from + PASSED).min(inner)];
        some.iter().map(|v| u32::from(*v >= threshold)).sum::<u32>() > 0
    };
    let bright = (0..inner).step_by(PASSED).filter(|from| is_bright(*from));
    for x in bright.flat_map(|from| 1 + from..1 + (from + PASSED).min(inner)) {
        let v = here[x];
        if v < threshold {
            continue;
        }
        let earlier = [up[x - 1], up[x], up[x + 1], here[x - 1]];
        let later = [here[x + 1], down[x - 1], down[x], down[x + 1]];
        if earlier.iter().any(|o| *o >= v) || later.iter().any(|o| *o > v) {
            continue;
        }
        // The brightest of the pixels around, and its own neighbours.
        let rows = [raw_up, raw, raw_down];
        let all: f32 = rows.iter().map(|r| r[x - 1] + r[x] + r[x + 1]).sum();
        let most = rows.iter().flat_map(|r| &r[x - 1..=x + 1]).fold(0f32, |m, o| m.max(*o));
        if all - most >= 8.0 * LEAST_AROUND * most {
            found(x);
        }
    }
}

/// The peaks that are stars of their own: no bump on the wing of a brighter one.
pub fn told_apart<P: Pixels>(above: &Above<P>, peaks: &[Peak]) -> Vec<Peak> {
    let cell = |at: [usize; 2]| at.map(|v| (v as f64 / NEAR_PX) as i64);
    let mut by_cell: HashMap<[i64; 2], Vec<Peak>> = HashMap::new();
    let mut kept = Vec::with_capacity(peaks.len());
    let mut memory = Memory::default();
    for peak in peaks {
        let [cx, cy] = cell(peak.at);
        let around = (-1..=1).flat_map(|dy| (-1..=1).map(move |dx| [cx + dx, cy + dy]));
        let mut brighter = around.filter_map(|c| by_cell.get(&c)).flatten();
        let is_bump = brighter.any(|b| {
            let d = distance(b.at, peak.at);
            d < NEAR_PX && may_be_of(b, peak, d) && !valley_between(above, &mut memory, peak, b)
        });
        if !is_bump {
            by_cell.entry([cx, cy]).or_default().push(*peak);
            kept.push(*peak);
        }
    }
    kept
}

/// Whether a peak so far from a brighter one may be its own: it is near, bright enough to be the
/// edge of a core that is full, or no brighter than three times what a star's wing is there.
fn may_be_of(bright: &Peak, peak: &Peak, distance_px: f64) -> bool {
    let wing = f64::from(bright.sigmas) * (1.0 + (distance_px / WING_PX).powi(2)).powf(-2.5);
    distance_px < CLOSE_PX || peak.sigmas > FULL_SIGMAS || wing > 0.3 * f64::from(peak.sigmas)
}

fn distance(a: [usize; 2], b: [usize; 2]) -> f64 {
    let d = |i: usize| a[i] as f64 - b[i] as f64;
    d(0).hypot(d(1))
}

/// Whether the light between two peaks falls well under the fainter one.
fn valley_between<P: Pixels>(
    above: &Above<P>,
    memory: &mut Memory,
    faint: &Peak,
    bright: &Peak,
) -> bool {
    let steps = distance(faint.at, bright.at).ceil().max(2.0) as usize;
    let mut mean = |at: [f64; 2]| {
        let [x, y] = at.map(|v| v.round() as usize);
        let (from, to) = (x.saturating_sub(1), (x + 2).min(above.channel.size[0]));
        let mut sum = 0.0;
        let mut count = 0.0;
        let mut three = [0f32; 3];
        for row in y.saturating_sub(1)..(y + 2).min(above.channel.size[1]) {
            let piece = &mut three[..to - from];
            above.channel.piece(above.pixels, row, from, &mut memory.scratch, piece);
            sum += piece.iter().sum::<f32>();
            count += piece.len() as f32;
        }
        sum / count - above.background.level as f32
    };
    let on_the_way = |k: usize| {
        let share = k as f64 / steps as f64;
        [0, 1].map(|i| {
            let (a, b) = (faint.at[i] as f64, bright.at[i] as f64);
            a + share * (b - a)
        })
    };
    let own = mean(on_the_way(0));
    (1..steps).any(|k| mean(on_the_way(k)) < VALLEY * own)
}
