//! Stars measured: light, size and shape of each, in one aperture for the whole channel.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::frame::channel::Scratch;
use crate::frame::detect::{Above, Peak, THRESHOLD};
use crate::frame::moments::{Moments, Stamp};
use crate::frame::pixels::Pixels;
use crate::frame::tile::middle;
use crate::frame::wide::{Wide, wide};
use crate::workers::Workers;

/// Stars that are measured, at most, the brightest first; all that are found are counted.
const MOST: usize = 10_000;
/// Of how many bright ones the aperture comes.
const TYPICAL_OF: usize = 300;
/// The aperture's radius over the stars' half-flux radius, and its ends, px of the channel.
const APERTURE_PER_HFR: f64 = 4.0;
const APERTURE_PX: [f64; 2] = [5.0, 24.0];
/// How wide the ring is whose median is each star's own background, px.
const RING_PX: f64 = 5.0;
/// Middles of the parts of a pixel that is shared out over radii, px from its own: near the star's
/// middle, and at the aperture's edge. Between them a pixel is one part.
const PARTS: [[f32; 2]; 25] = parts();
const EDGE_PARTS: [[f32; 2]; 4] = parts();
const MOST_PARTS: usize = PARTS.len();
/// So near to the middle pixels are shared out finely, px.
const FINE_PX: f32 = 4.0;
/// Steps of the growth curve to a pixel.
const STEPS_PER_PX: f64 = 20.0;
/// A pixel this near to the largest value is full.
const FULL: f64 = 0.98;
/// Something larger than a star by more than this is a knot of a nebula or a galaxy, and something
/// this much longer than wide a filament; how large stars are says the smallest quarter.
const LARGER_THAN_A_STAR: f64 = 1.8;
const LONGER_THAN_A_STAR: f64 = 3.5;
/// Of the brightest so many stars are told, too.
const BRIGHTEST: usize = 40;
/// Those above this many standard deviations say how large stars are.
const SAYING_SIGMAS: f64 = 10.0;
/// Pixels above this share of a star's peak tell its width.
const TELLING: f64 = 0.15;

/// The middles of a square's `N` parts, as many along each side.
const fn parts<const N: usize>() -> [[f32; 2]; N] {
    let side = N.isqrt();
    let mut out = [[0.0; 2]; N];
    let mut i = 0;
    while i < N {
        out[i] = [
            ((i % side) as f32 + 0.5) / side as f32 - 0.5,
            ((i / side) as f32 + 0.5) / side as f32 - 0.5,
        ];
        i += 1;
    }
    out
}

/// A star.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Star {
    /// Its middle on the sensor, px from the middle of the upper left pixel, to the right and down.
    pub at_px: [f64; 2],
    /// How many standard deviations of the filtered noise it stands above nothing.
    pub sigmas: f64,
    /// Its light in the aperture, ADU, of all pixels of the sensor there as if all were of the
    /// channel.
    pub flux_adu: f64,
    /// Its brightest pixel over the background, ADU.
    pub peak_adu: f64,
    /// Radius of the circle that holds half of the aperture's light, px of the sensor.
    pub hfr_px: f64,
    /// Full width at half maximum, px of the sensor; null where it cannot be told.
    pub fwhm_px: Option<f64>,
    /// Longer over shorter axis, at least 1.
    pub elongation: f64,
    /// Direction of the longer axis, degrees clockwise from the frame's top, 0 to 180.
    pub toward_deg: f64,
    /// Whether its core reaches the largest value.
    pub saturated: bool,
}

/// The stars of a channel.
#[derive(Clone, Debug, PartialEq)]
pub struct Stars {
    /// How many stand five standard deviations above nothing.
    pub count: usize,
    /// Radius of the aperture, px of the sensor.
    pub aperture_px: f64,
    /// Those that were measured, the brightest first.
    pub all: Vec<Star>,
}

/// How many stars are brighter than an amount of light.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct StarsBrighter {
    /// Light in the aperture, ADU: a whole power of the fifth root of ten, half a magnitude apart.
    pub than_adu: f64,
    /// Stars with more.
    pub stars: usize,
}

/// Steps of a count by light to a factor of ten, half a magnitude each, and how many of them.
const STEPS_PER_TEN: f64 = 5.0;
const COUNTED_STEPS: i32 = 16;

impl Stars {
    /// Light of a star that stands just [`THRESHOLD`] standard deviations above nothing, ADU; `None` of no star.
    pub fn depth_adu(&self) -> Option<f64> {
        let whole = self.all.iter().filter(|s| !s.saturated && s.sigmas > 0.0);
        Some(THRESHOLD * middle(whole.map(|s| s.flux_adu / s.sigmas))?)
    }

    /// How many are brighter than round amounts of light from that depth on, the least first.
    pub fn brighter(&self) -> Vec<StarsBrighter> {
        let Some(depth) = self.depth_adu().filter(|d| *d > 0.0) else { return Vec::new() };
        let first = (STEPS_PER_TEN * depth.log10()).ceil() as i32;
        let of = |step: i32| {
            let than_adu = 10f64.powf(f64::from(step) / STEPS_PER_TEN);
            let stars = self.all.iter().filter(|s| s.flux_adu > than_adu).count();
            StarsBrighter { than_adu, stars }
        };
        (first..first + COUNTED_STEPS).map(of).take_while(|b| b.stars > 0).collect()
    }
}

/// Measures the stars of a channel. `full_adu` is its largest value, where that is known.
pub fn measure_stars<P: Pixels>(
    above: &Above<P>,
    peaks: &[Peak],
    full_adu: Option<f64>,
    workers: &impl Workers,
) -> Stars {
    let looked = &peaks[..peaks.len().min(MOST)];
    // A first look at the brightest that do not clip gives the aperture of all.
    let first = Aperture { radius: 0.5 * (APERTURE_PX[0] + APERTURE_PX[1]) };
    let typical: Vec<Star> = looked
        .iter()
        .filter_map(|p| first.star(above, p, full_adu))
        .filter(|s| !s.saturated)
        .take(TYPICAL_OF)
        .collect();
    let hfr = middle(stars_alone(typical).iter().map(|s| s.hfr_px))
        .map_or(1.5, |hfr| hfr / above.channel.step as f64);
    let own = Aperture { radius: (APERTURE_PER_HFR * hfr).clamp(APERTURE_PX[0], APERTURE_PX[1]) };
    const PART: usize = 250;
    let parts = workers.each(looked.len().div_ceil(PART), &|part| {
        let some = &looked[part * PART..((part + 1) * PART).min(looked.len())];
        wide(StarsOf { aperture: &own, above, peaks: some, full_adu })
    });
    let found: Vec<Star> = parts.into_iter().flatten().collect();
    let measured = found.len();
    let all = stars_alone(found);
    // What was found and not measured is of the faintest: taken as stars in the same share.
    let count = peaks.len() * all.len() / measured.max(1);
    Stars { count, aperture_px: own.radius * above.channel.step as f64, all }
}

/// Those that are as small and round as stars are in this frame, whatever its focus.
fn stars_alone(found: Vec<Star>) -> Vec<Star> {
    let quarter = |most: usize| {
        let saying = found.iter().filter(|s| !s.saturated && s.sigmas >= SAYING_SIGMAS);
        let mut sizes: Vec<f64> = saying.take(most).map(|s| s.hfr_px).collect();
        sizes.sort_by(f64::total_cmp);
        sizes.get(sizes.len() / 4).copied()
    };
    // Of a field of knots hardly a quarter may be stars: rather of what stands out most.
    let Some(of_star) = quarter(MOST).zip(quarter(BRIGHTEST)).map(|(a, b)| a.min(b)) else {
        return found;
    };
    let is_star = |s: &Star| {
        s.saturated
            || (s.hfr_px <= LARGER_THAN_A_STAR * of_star && s.elongation <= LONGER_THAN_A_STAR)
    };
    found.into_iter().filter(is_star).collect()
}

/// The stars of some peaks.
struct StarsOf<'a, P> {
    aperture: &'a Aperture,
    above: &'a Above<'a, P>,
    peaks: &'a [Peak],
    full_adu: Option<f64>,
}

impl<P: Pixels> Wide for StarsOf<'_, P> {
    type Output = Vec<Star>;

    #[inline(always)]
    fn call(self) -> Vec<Star> {
        let star = |p: &Peak| self.aperture.star(self.above, p, self.full_adu);
        self.peaks.iter().filter_map(star).collect()
    }
}

/// A circle around a star, px of the channel.
struct Aperture {
    radius: f64,
}

impl Aperture {
    #[inline(always)]
    fn star<P: Pixels>(
        &self,
        above: &Above<P>,
        peak: &Peak,
        full_adu: Option<f64>,
    ) -> Option<Star> {
        let (mut stamp, most) = self.stamp(above, peak)?;
        let rest = self.ring(&stamp);
        stamp.values.iter_mut().for_each(|v| *v -= rest);
        let moments = Moments::of_star(&stamp, 1.3)?;
        let (flux, hfr) = self.grown(&stamp, moments.at)?;
        let step = above.channel.step as f64;
        let blur = above.channel.blur_px2();
        let own = Moments { at: moments.at, of: moments.of.map(|v| v * step * step) };
        let ellipse = own.without(blur).ellipse();
        let round = 0.5 * (blur[0] + blur[2]);
        // Of a Gaussian: half of the light within sigma sqrt(2 ln 2), full width 2.3548 sigma.
        let off = |wide: f64, per_sigma2: f64| {
            let of = (wide * step).powi(2);
            (of - per_sigma2 * round).max(0.1 * of).sqrt()
        };
        let two_ln2 = 2.0 * std::f64::consts::LN_2;
        let at = [0, 1].map(|i| peak.at[i] as f64 + moments.at[i]);
        Some(Star {
            at_px: above.channel.on_sensor(at),
            sigmas: f64::from(peak.sigmas),
            flux_adu: flux * step * step,
            peak_adu: f64::from(most) - above.background.level,
            hfr_px: off(hfr, two_ln2),
            fwhm_px: width(&stamp, moments.at).map(|w| off(w, 4.0 * two_ln2)),
            elongation: (ellipse.axes_px[0] / ellipse.axes_px[1]).max(1.0),
            toward_deg: ellipse.toward_deg,
            saturated: full_adu.is_some_and(|full| f64::from(most) >= FULL * full),
        })
    }

    /// The pixels around a peak less the background, and the largest of the nine in the middle as
    /// it stands in the frame. `None` where half of the aperture lies outside.
    fn stamp<P: Pixels>(&self, above: &Above<P>, peak: &Peak) -> Option<(Stamp, f32)> {
        let half = (self.radius + RING_PX).ceil() as isize;
        let side = (2 * half + 1) as usize;
        let [columns, rows] = above.channel.size.map(|n| n as isize);
        let [x, y] = peak.at.map(|v| v as isize);
        let near = (self.radius / 2.0) as isize;
        if x < near || y < near || x >= columns - near || y >= rows - near {
            return None;
        }
        let mut values = vec![f32::NAN; side * side];
        let (mut scratch, mut most) = (Scratch::default(), f32::MIN);
        let (from, to) = ((x - half).max(0), (x + half + 1).min(columns));
        for row in (y - half).max(0)..(y + half + 1).min(rows) {
            let start = (row - (y - half)) as usize * side + (from - (x - half)) as usize;
            let piece = &mut values[start..start + (to - from) as usize];
            above.channel.piece(above.pixels, row as usize, from as usize, &mut scratch, piece);
            if (row - y).abs() <= 1 {
                let middle = (x - from) as usize;
                let three = &piece[middle.saturating_sub(1)..(middle + 2).min(piece.len())];
                most = three.iter().fold(most, |m, v| m.max(*v));
            }
            let level = above.background.at([x as usize, row as usize]) as f32;
            piece.iter_mut().for_each(|v| *v -= level);
        }
        Some((Stamp { side, values }, most))
    }

    /// Median of the ring around the aperture.
    fn ring(&self, stamp: &Stamp) -> f32 {
        let inner = ((self.radius + 1.0) as f32).powi(2);
        let mut ring: Vec<f32> = Vec::with_capacity(stamp.values.len());
        for (y, row) in stamp.rows() {
            let outside = row.iter().enumerate().filter(|(i, v)| {
                let x = stamp.right_of_middle(*i);
                x * x + y * y > inner && v.is_finite()
            });
            ring.extend(outside.map(|(_, v)| *v));
        }
        if ring.is_empty() { 0.0 } else { crate::frame::tile::median(&mut ring) }
    }

    /// The light in the aperture and the radius that holds half of it, px of the channel. `None`
    /// where there is none.
    #[inline(always)]
    fn grown(&self, stamp: &Stamp, at: [f64; 2]) -> Option<(f64, f64)> {
        let steps = (self.radius * STEPS_PER_PX).ceil() as usize;
        // What lies beyond the aperture is gathered in one more step, and not counted.
        let mut curve = vec![0.0; steps + 1];
        let radius = self.radius as f32;
        let last = radius * STEPS_PER_PX as f32;
        let [inside, outside] = [-0.75, 0.75].map(|half| (radius + half).powi(2));
        let [at_x, at_y] = at.map(|v| v as f32);
        let mut shared = |x: f32, y: f32, v: f32, parts: &[[f32; 2]]| {
            let share = f64::from(v) / parts.len() as f64;
            let mut bins = [0i32; MOST_PARTS];
            for (bin, [dx, dy]) in bins.iter_mut().zip(parts) {
                let (dx, dy) = (x + dx, y + dy);
                let step = (dx * dx + dy * dy).sqrt() * STEPS_PER_PX as f32;
                *bin = if step < last { step as i32 } else { steps as i32 };
            }
            bins[..parts.len()].iter().for_each(|bin| curve[*bin as usize] += share);
        };
        for (row_y, row) in stamp.rows() {
            let y = row_y - at_y;
            if y * y > outside {
                continue;
            }
            for (i, v) in row.iter().enumerate() {
                let x = stamp.right_of_middle(i) - at_x;
                let r2 = x * x + y * y;
                if v.is_nan() || r2 > outside {
                    continue;
                }
                match r2 {
                    _ if r2 < FINE_PX * FINE_PX => shared(x, y, *v, &PARTS),
                    _ if r2 > inside => shared(x, y, *v, &EDGE_PARTS),
                    _ => shared(x, y, *v, &[[0.0; 2]]),
                }
            }
        }
        curve.truncate(steps);
        let flux: f64 = curve.iter().sum();
        if flux <= 0.0 {
            return None;
        }
        let mut sum = 0.0;
        for (i, light) in curve.iter().enumerate() {
            if sum + light >= 0.5 * flux {
                let within = if *light > 0.0 { (0.5 * flux - sum) / light } else { 0.5 };
                return Some((flux, (i as f64 + within) / STEPS_PER_PX));
            }
            sum += light;
        }
        None
    }
}

/// Full width at half maximum of a star, px of the channel: of a Moffat profile of index 3 through
/// its brighter pixels, whose light to the power -1/3 grows with the square of the distance along a
/// straight line. `None` where too few pixels tell, or the line falls.
fn width(stamp: &Stamp, at: [f64; 2]) -> Option<f64> {
    let near = 7.0f64.min((stamp.side / 2) as f64);
    let mut inside: Vec<(f64, f64)> = Vec::with_capacity(200);
    for (row_y, row) in stamp.rows() {
        let y2 = (f64::from(row_y) - at[1]).powi(2);
        for (i, v) in row.iter().enumerate() {
            let r2 = (f64::from(stamp.right_of_middle(i)) - at[0]).powi(2) + y2;
            if r2 < near * near && !v.is_nan() {
                inside.push((r2, f64::from(*v)));
            }
        }
    }
    let peak = inside.iter().map(|p| p.1).fold(0.0, f64::max);
    let (mut n, mut w0, mut wx, mut wy, mut wxx, mut wxy) = (0, 0.0, 0.0, 0.0, 0.0, 0.0);
    for (r2, v) in inside {
        let v = v / peak;
        if v < TELLING || v.is_nan() {
            continue;
        }
        let light = v.powf(-1.0 / 3.0);
        // Equal errors of the light: those of its power go with its fourth thirds.
        let w = v.powf(8.0 / 3.0);
        n += 1;
        (w0, wx, wy) = (w0 + w, wx + w * r2, wy + w * light);
        (wxx, wxy) = (wxx + w * r2 * r2, wxy + w * r2 * light);
    }
    let determinant = w0 * wxx - wx * wx;
    if n < 3 || determinant <= 0.0 {
        return None;
    }
    let slope = (w0 * wxy - wx * wy) / determinant;
    let start = (wy - slope * wx) / w0;
    let alpha2 = start / slope;
    (slope > 0.0 && start > 0.0 && alpha2.is_finite())
        .then(|| 2.0 * (alpha2 * (2f64.powf(1.0 / 3.0) - 1.0)).sqrt())
}
