//! How a target of each kind is built: procedural light by layer, a pure function of seed and
//! place. Structure finer than the star disc is left out instead of being blurred away.

use crate::light::lines::Quantity;
use crate::scenario::target::TargetKind;

/// Layers in the order of [`Quantity::ALL`].
pub const LAYERS: usize = Quantity::ALL.len();

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

/// Relative brightness of each layer at a position in units of the object's span.
pub(super) fn structure(
    kind: TargetKind,
    seed: u64,
    x: f64,
    y: f64,
    octaves: u32,
) -> [f64; LAYERS] {
    let r = x.hypot(y);
    let cloud = |s: u64, scale: f64| fractal(seed ^ s, x * scale + 13.0, y * scale - 7.0, octaves);
    let lane = |s: u64| 1.0 - 0.75 * ridges(seed ^ s, x * 2.2, y * 2.2, octaves.min(5), 3.0);
    // H-alpha, [O III], [S II], H-beta, continuum.
    match kind {
        TargetKind::HIiRegion => {
            let body = (1.3 - 1.1 * r).max(0.12);
            let lane = lane(2);
            let ha = body * (0.15 + cloud(1, 3.0).powf(2.2) * 2.2) * lane;
            // What lights the core lights all of it: [O III] and the dust's light are strong there
            // too.
            let oiii = (1.0 - 1.7 * r).max(0.03) * (0.3 + cloud(3, 2.2)) * (0.4 + ha);
            let sii = body * (0.1 + ridges(seed ^ 4, x * 3.0, y * 3.0, octaves, 2.5) * 1.4) * lane;
            let dust = 0.4 + 0.6 * fractal(seed ^ 5, x * 2.0, y * 2.0, 3);
            [ha, oiii, sii, ha, dust * (0.35 + ha)]
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
