//! The truth: a procedural target on the sky, the same for every light path. Layers of light by
//! quantity, dark lanes, and stars.
//!
//! Every value is a pure function of seed and position, so that no order of work can change it.
//! Structure finer than the star disc is left out instead of being blurred away.

use rand::{RngExt, SeedableRng};
use rand_pcg::Pcg64Mcg;

use crate::library::stars::{CatalogueStar, Stars};
use crate::light::lines::Quantity;
use crate::path::target::temperature_from_b_v;
use crate::scenario::pointing::Pointing;
use crate::scenario::target::TargetKind;
use crate::workers::Workers;

/// Layers in the order of [`Quantity::ALL`].
pub const LAYERS: usize = Quantity::ALL.len();

/// A star of the field.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Star {
    /// Position from the field's centre, arcsec to the right.
    pub x_arcsec: f64,
    /// Position from the field's centre, arcsec up.
    pub y_arcsec: f64,
    /// V magnitude.
    pub v_mag: f64,
    /// Temperature of its blackbody, K.
    pub temperature_k: f64,
}

/// What is asked of a field.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct FieldSpec {
    /// Kind of target.
    pub kind: TargetKind,
    /// Seed.
    pub seed: u32,
    /// Width and height, arcsec.
    pub size_arcsec: [f64; 2],
    /// Span over which the target's own structure is laid out, arcsec.
    pub object_arcsec: f64,
    /// How many times brighter the brightest part is than the mean.
    pub peak_factor: f64,
    /// Full width at half maximum of a star, arcsec.
    pub fwhm_arcsec: f64,
    /// No structure: the target's mean everywhere, and no stars.
    pub flat: bool,
    /// Where the field looks; its brighter stars are then the real ones.
    pub at: Option<Pointing>,
}

/// The truth on a grid, to be read between its nodes.
#[derive(Clone, Debug)]
pub struct Field {
    spec: FieldSpec,
    columns: usize,
    rows: usize,
    /// Relative brightness, mean one over the part of interest, by layer.
    layers: [Vec<f32>; LAYERS],
    /// The stars, brightest first.
    pub stars: Vec<Star>,
}

/// Stars per square degree brighter than V 8 (middle galactic latitudes, from memory) and their
/// growth per magnitude.
const STARS_V8_PER_DEG2: f64 = 1.0;

const GROWTH_DEX_PER_MAG: f64 = 0.36;

const FAINTEST_V: f64 = 18.5;

const MOST_STARS: usize = 60_000;

/// Down to where the catalogue of stars is whole.
const REAL_TO_V: f64 = 10.0;

/// B - V of a star of which it is not known: about the sun's.
const USUAL_B_V: f64 = 0.65;

/// An integer hash (the finaliser of SplitMix64, Steele et al. 2014).
fn hash(seed: u64, x: i64, y: i64) -> u64 {
    let mut z = seed
        ^ (x as u64).wrapping_mul(0x9E37_79B9_7F4A_7C15)
        ^ (y as u64).wrapping_mul(0xC2B2_AE3D_27D4_EB4F);
    z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
    z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
    z ^ (z >> 31)
}

fn unit(seed: u64, x: i64, y: i64) -> f64 {
    (hash(seed, x, y) >> 11) as f64 / (1u64 << 53) as f64
}

/// Value noise: random values at whole numbers, joined smoothly; 0-1.
fn value_noise(seed: u64, x: f64, y: f64) -> f64 {
    let (i, j) = (x.floor(), y.floor());
    let smooth = |t: f64| t * t * t * (t * (t * 6.0 - 15.0) + 10.0);
    let (u, v) = (smooth(x - i), smooth(y - j));
    let (i, j) = (i as i64, j as i64);
    let (a, b) = (unit(seed, i, j), unit(seed, i + 1, j));
    let (c, d) = (unit(seed, i, j + 1), unit(seed, i + 1, j + 1));
    (a + (b - a) * u) * (1.0 - v) + (c + (d - c) * u) * v
}

/// Fractal noise, 0-1: octaves down to the finest detail, each half as strong.
fn fractal(seed: u64, x: f64, y: f64, octaves: u32) -> f64 {
    let (mut sum, mut weight, mut norm, mut f) = (0.0, 1.0, 0.0, 1.0);
    for o in 0..octaves {
        sum += weight * value_noise(seed.wrapping_add(u64::from(o) * 7919), x * f, y * f);
        norm += weight;
        weight *= 0.55;
        f *= 2.03;
    }
    sum / norm
}

/// Ridges: bright where fractal noise crosses its middle; 0-1.
fn ridges(seed: u64, x: f64, y: f64, octaves: u32, sharp: f64) -> f64 {
    (1.0 - (2.0 * fractal(seed, x, y, octaves) - 1.0).abs() * 2.2).max(0.0).powf(sharp)
}

impl Field {
    /// Lays the truth out on a grid of `columns` across. `workers` does the rows; the truth does
    /// not depend on how.
    pub fn new(spec: FieldSpec, columns: usize, workers: &impl Workers) -> Self {
        let rows = ((columns as f64) * spec.size_arcsec[1] / spec.size_arcsec[0]).round().max(2.0)
            as usize;
        let mut layers: [Vec<f32>; LAYERS] = Default::default();
        if spec.flat {
            layers.iter_mut().for_each(|l| *l = vec![1.0; columns * rows]);
            return Self { spec, columns, rows, layers, stars: Vec::new() };
        }
        // Octaves until a feature is as small as a star.
        let octaves =
            ((spec.object_arcsec / 2.5 / spec.fwhm_arcsec).log2().floor().clamp(1.0, 7.0)) as u32;
        let row = |j: usize| -> Vec<[f64; LAYERS]> {
            let y =
                (0.5 - (j as f64 + 0.5) / rows as f64) * spec.size_arcsec[1] / spec.object_arcsec;
            let x = |i: usize| {
                ((i as f64 + 0.5) / columns as f64 - 0.5) * spec.size_arcsec[0] / spec.object_arcsec
            };
            (0..columns)
                .map(|i| structure(spec.kind, u64::from(spec.seed), x(i), y, octaves))
                .collect()
        };
        for values in workers.each(rows, &row).into_iter().flatten() {
            layers.iter_mut().zip(values).for_each(|(layer, v)| layer.push(v.max(0.0) as f32));
        }
        for layer in &mut layers {
            normalise(layer);
        }
        reach_peak(&spec, &mut layers);
        let stars = stars(&spec);
        Self { spec, columns, rows, layers, stars }
    }

    /// Whether this is the truth of a specification on a grid of `columns`.
    pub fn is_of(&self, spec: &FieldSpec, columns: usize) -> bool {
        self.spec == *spec && self.columns == columns
    }

    /// What it was made of.
    pub fn spec(&self) -> &FieldSpec {
        &self.spec
    }

    /// Relative brightness of all layers at a position from the centre, arcsec right and up,
    /// between the nodes by both axes.
    pub fn at(&self, x_arcsec: f64, y_arcsec: f64) -> [f32; LAYERS] {
        let gx = (x_arcsec / self.spec.size_arcsec[0] + 0.5) * self.columns as f64 - 0.5;
        let gy = (0.5 - y_arcsec / self.spec.size_arcsec[1]) * self.rows as f64 - 0.5;
        let (gx, gy) =
            (gx.clamp(0.0, (self.columns - 1) as f64), gy.clamp(0.0, (self.rows - 1) as f64));
        let (i, j) = ((gx as usize).min(self.columns - 2), (gy as usize).min(self.rows - 2));
        let (u, v) = ((gx - i as f64) as f32, (gy - j as f64) as f32);
        let k = j * self.columns + i;
        let mut out = [0.0; LAYERS];
        for (o, l) in out.iter_mut().zip(&self.layers) {
            let top = l[k] + (l[k + 1] - l[k]) * u;
            let low = l[k + self.columns] + (l[k + self.columns + 1] - l[k + self.columns]) * u;
            *o = top + (low - top) * v;
        }
        out
    }
}

/// The truth along a line across the field: between its columns it is read like [`Field::at`].
pub struct FieldRow {
    /// Each layer at each column.
    pub columns: Vec<[f32; LAYERS]>,
    size_arcsec: f64,
}

impl FieldRow {
    /// The column to the left of `x_arcsec`, and how far on to the next it lies, 0-1.
    pub fn place(&self, x_arcsec: f64) -> (usize, f64) {
        let n = self.columns.len();
        let g = ((x_arcsec / self.size_arcsec + 0.5) * n as f64 - 0.5).clamp(0.0, (n - 1) as f64);
        let i = (g as usize).min(n - 2);
        (i, g - i as f64)
    }
}

impl Field {
    /// The truth along the line at `y_arcsec`.
    pub fn along(&self, y_arcsec: f64) -> FieldRow {
        let middle =
            |i: usize| ((i as f64 + 0.5) / self.columns as f64 - 0.5) * self.spec.size_arcsec[0];
        FieldRow {
            columns: (0..self.columns).map(|i| self.at(middle(i), y_arcsec)).collect(),
            size_arcsec: self.spec.size_arcsec[0],
        }
    }
}

/// Relative brightness of each layer at a position in units of the object's span.
fn structure(kind: TargetKind, seed: u64, x: f64, y: f64, octaves: u32) -> [f64; LAYERS] {
    let r = x.hypot(y);
    let cloud = |s: u64, scale: f64| fractal(seed ^ s, x * scale + 13.0, y * scale - 7.0, octaves);
    let lane = |s: u64| 1.0 - 0.75 * ridges(seed ^ s, x * 2.2, y * 2.2, octaves.min(5), 3.0);
    // H-alpha, [O III], [S II], H-beta, continuum.
    match kind {
        TargetKind::HIiRegion => {
            let body = (1.3 - 1.1 * r).max(0.12);
            let lane = lane(2);
            let ha = body * (0.15 + cloud(1, 3.0).powf(2.2) * 2.2) * lane;
            let oiii = (1.0 - 1.7 * r).max(0.03) * (0.3 + cloud(3, 2.2));
            let sii = body * (0.1 + ridges(seed ^ 4, x * 3.0, y * 3.0, octaves, 2.5) * 1.4) * lane;
            [ha, oiii, sii, ha, 0.4 + 0.6 * fractal(seed ^ 5, x * 2.0, y * 2.0, 3)]
        }
        TargetKind::PlanetaryNebula => {
            let wobble = 0.03 * (cloud(1, 4.0) - 0.5);
            let shell = |radius: f64, width: f64| (-((r - radius - wobble) / width).powi(2)).exp();
            let fill = 1.0 / (1.0 + ((r - 0.3) / 0.02).exp());
            let grain = 0.6 + 0.8 * cloud(2, 8.0);
            let ha = (shell(0.26, 0.05) + 0.3 * fill) * grain;
            let oiii = (shell(0.21, 0.07) + 0.7 * fill) * (0.7 + 0.6 * cloud(3, 5.0));
            let sii = shell(0.29, 0.03) * grain;
            [ha, oiii, sii, ha, 0.3 * fill]
        }
        TargetKind::SupernovaRemnant => {
            let arc = (-((r - 0.36) / 0.14).powi(2)).exp()
                * (0.35 + 0.65 * (0.5 + 0.5 * (y.atan2(x) - 0.6).cos()));
            let thread = |s: u64, f: f64| {
                ridges(
                    seed ^ s,
                    x * f + 0.25 * fractal(seed ^ (s + 9), x * 3.0, y * 3.0, 2),
                    y * f,
                    octaves,
                    4.0,
                )
            };
            let shared = thread(1, 4.5);
            let ha = arc * (0.12 + 1.5 * shared + 0.6 * thread(2, 9.0));
            let oiii = arc * (0.08 + 1.6 * thread(3, 4.0));
            let sii = arc * (0.1 + 1.5 * shared + 0.4 * thread(4, 8.0));
            [ha, oiii, sii, ha, 0.2 + 0.2 * cloud(5, 2.0)]
        }
        TargetKind::ReflectionNebula => {
            let glow = |cx: f64, cy: f64, w: f64| (-((x - cx).hypot(y - cy) / w)).exp();
            let dust = 0.25 + cloud(1, 2.6).powf(1.8) * 1.6;
            let light = glow(-0.08, 0.05, 0.16) + 0.7 * glow(0.16, -0.12, 0.12) + 0.08;
            [
                0.3 * cloud(2, 3.0),
                0.0,
                0.2 * cloud(3, 3.0),
                0.3 * cloud(2, 3.0),
                light * dust * lane(4),
            ]
        }
        TargetKind::Galaxy | TargetKind::GalaxyWithHIi => {
            // Tilted to an axial ratio of 0.6; logarithmic arms of 33 degrees pitch (its tangent is
            // twice that of 18).
            let (u, v) = (x * 0.86 + y * 0.5, (y * 0.86 - x * 0.5) / 0.6);
            let d = u.hypot(v);
            let phase = 2.0 * (v.atan2(u) - d.max(1e-3).ln() / 18f64.to_radians().tan() * 0.5);
            let arms = (0.5 + 0.5 * phase.cos()).powi(2);
            let disc = (-d / 0.13).exp();
            let bulge = (-(d / 0.035).powi(2)).exp();
            let grain = 0.55 + 0.9 * cloud(1, 9.0);
            let stars = disc * (0.35 + 1.1 * arms) * grain + 1.6 * bulge;
            let knots = ridges(seed ^ 2, x * 11.0, y * 11.0, octaves.min(4), 9.0)
                * arms
                * disc.sqrt()
                * 2.5;
            let lit = if kind == TargetKind::GalaxyWithHIi { knots } else { 0.3 * disc * arms };
            [lit, 0.5 * lit, 0.6 * lit, lit, stars]
        }
        TargetKind::DarkNebula => {
            let thick = (cloud(1, 2.4).powf(1.5) * 2.2 - 0.4 - 0.6 * r).max(0.0);
            let through = (-3.0 * thick).exp();
            let glow = (0.6 + 0.4 * cloud(2, 2.0)) * through;
            [glow, 0.2 * glow, 0.4 * glow, glow, glow + 0.15 * thick.min(1.0)]
        }
        TargetKind::Cluster => {
            let haze = (-(r / 0.25).powi(2)).exp();
            [0.3 * cloud(1, 2.0), 0.0, 0.0, 0.3 * cloud(1, 2.0), haze + 0.05]
        }
    }
}

/// Scales a layer so that its mean over the part of interest (where it is at least a quarter of its
/// brightest tenth) is one.
fn normalise(layer: &mut [f32]) {
    let mut sorted: Vec<f32> = layer.iter().step_by(7).copied().collect();
    sorted.sort_by(f32::total_cmp);
    let top = sorted[(sorted.len() - 1) * 9 / 10];
    let (mut sum, mut n) = (0.0f64, 0.0);
    for v in layer.iter().filter(|v| **v >= 0.25 * top && **v > 0.0) {
        sum += f64::from(*v);
        n += 1.0;
    }
    if n > 0.0 {
        let f = (n / sum) as f32;
        layer.iter_mut().for_each(|v| *v *= f);
    }
}

/// Bends the brightest tenth of each layer so that its very brightest part is the peak; the rest
/// stays as it is.
fn reach_peak(spec: &FieldSpec, layers: &mut [Vec<f32>; LAYERS]) {
    if spec.peak_factor <= 1.0 {
        return;
    }
    for layer in layers {
        let mut sorted: Vec<f32> = layer.iter().step_by(7).copied().collect();
        sorted.sort_by(f32::total_cmp);
        let from = f64::from(sorted[(sorted.len() - 1) * 9 / 10]);
        let most = f64::from(layer.iter().copied().fold(0.0, f32::max));
        if most <= from || spec.peak_factor <= from {
            continue;
        }
        let rise = spec.peak_factor - most;
        for v in layer.iter_mut().filter(|v| f64::from(**v) > from) {
            let t = (f64::from(*v) - from) / (most - from);
            // Up: only the last of the way, so that the mean hardly moves. Down: in proportion.
            let add = if rise > 0.0 { rise * t.powi(6) } else { rise * t };
            *v = (f64::from(*v) + add) as f32;
        }
    }
}

/// Stars over the field: counts that grow by a factor per magnitude, uniform positions, a cluster's
/// in a heap.
fn stars(spec: &FieldSpec) -> Vec<Star> {
    let mut rng = Pcg64Mcg::seed_from_u64(u64::from(spec.seed) ^ 0x5745_4152);
    let deg2 = spec.size_arcsec[0] * spec.size_arcsec[1] / 3600.0f64.powi(2);
    let total = deg2 * STARS_V8_PER_DEG2 * 10f64.powf(GROWTH_DEX_PER_MAG * (FAINTEST_V - 8.0));
    let extra = if spec.kind == TargetKind::Cluster { 180 } else { 0 };
    let count = (total as usize).clamp(12, MOST_STARS);
    let mut out: Vec<Star> = (0..count + extra)
        .map(|i| {
            let (u, a, b): (f64, f64, f64) = (rng.random(), rng.random(), rng.random());
            // The count up to m grows as 10^(g m): invert it.
            let v_mag = (FAINTEST_V + u.max(1e-9).log10() / GROWTH_DEX_PER_MAG).max(4.0);
            let (mut x, mut y) = ((a - 0.5) * spec.size_arcsec[0], (b - 0.5) * spec.size_arcsec[1]);
            if i >= count {
                let radius = 0.12 * spec.object_arcsec * (-2.0 * (1.0 - a).max(1e-9).ln()).sqrt();
                (x, y) = (
                    radius * (std::f64::consts::TAU * b).cos(),
                    radius * (std::f64::consts::TAU * b).sin(),
                );
            }
            let temperature_k = 3200.0 * (rng.random_range(0.0..1.0f64) * 1.35).exp();
            Star {
                x_arcsec: x,
                y_arcsec: y,
                v_mag: if i >= count { v_mag - 3.0 } else { v_mag },
                temperature_k,
            }
        })
        .collect();
    if let Some(at) = &spec.at {
        // The brighter stars are those that stand there, the others as many as usual.
        out.retain(|s| s.v_mag > REAL_TO_V);
        out.extend(real_stars(spec, at));
    } else if let Some(first) = out.first_mut() {
        // One star bright enough to show a ghost, off the middle.
        *first = Star {
            x_arcsec: -0.27 * spec.object_arcsec,
            y_arcsec: 0.22 * spec.object_arcsec,
            v_mag: 7.0,
            temperature_k: 9000.0,
        };
    }
    out.sort_by(|a, b| a.v_mag.total_cmp(&b.v_mag));
    out
}

/// The catalogue's stars down to [`REAL_TO_V`] over the field.
fn real_stars(spec: &FieldSpec, at: &Pointing) -> Vec<Star> {
    let [half_width, half_height] = spec.size_arcsec.map(|a| a / 2.0);
    let radius_deg = half_width.hypot(half_height) / 3600.0;
    let place = |s: CatalogueStar| {
        let [x_arcsec, y_arcsec] = at.right_up_arcsec(s.ra_deg, s.dec_deg)?;
        let inside = x_arcsec.abs() <= half_width && y_arcsec.abs() <= half_height;
        inside.then(|| Star {
            x_arcsec,
            y_arcsec,
            v_mag: s.v_mag,
            temperature_k: temperature_from_b_v(s.b_v.unwrap_or(USUAL_B_V)),
        })
    };
    let around = Stars::nameless().around(at.ra_deg, at.dec_deg, radius_deg, REAL_TO_V);
    around.into_iter().filter_map(place).collect()
}

#[cfg(test)]
#[path = "field_tests.rs"]
mod tests;
