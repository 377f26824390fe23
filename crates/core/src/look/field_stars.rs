//! The stars before a target: the catalogue's down to where it is whole, where a place is known,
//! and below that as many as usual.

use rand::{RngExt, SeedableRng};
use rand_pcg::Pcg64Mcg;

use crate::library::stars::{CatalogueStar, Stars};
use crate::light::units::temperature_from_b_v;
use crate::look::field_spec::{FieldSpec, Star};
use crate::scenario::pointing::Pointing;
use crate::scenario::target::TargetKind;

/// Stars per square degree brighter than V 8 (middle galactic latitudes, from memory) and their
/// growth per magnitude.
const STARS_V8_PER_DEG2: f64 = 1.0;

const GROWTH_DEX_PER_MAG: f64 = 0.36;

const FAINTEST_V: f64 = 18.5;

const MOST_STARS: usize = 60_000;

/// Beyond the border only stars brighter than this are taken along: fainter ones reach in with
/// nothing that shows.
const BEYOND_V_MAG: f64 = 8.0;

/// Down to where the catalogue of stars is whole.
const REAL_TO_V: f64 = 10.0;

/// B - V of a star of which it is not known: about the sun's.
const USUAL_B_V: f64 = 0.65;

/// Stars over the field: counts that grow by a factor per magnitude, uniform positions, a cluster's
/// in a heap.
pub(super) fn stars(spec: &FieldSpec) -> Vec<Star> {
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
                    radius * (std::f64::consts::TAU * b).cos() - spec.centre_arcsec[0],
                    radius * (std::f64::consts::TAU * b).sin() - spec.centre_arcsec[1],
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
    }
    out.sort_by(|a, b| a.v_mag.total_cmp(&b.v_mag));
    out
}

/// The catalogue's stars down to [`REAL_TO_V`] over the field, and the bright ones around it.
fn real_stars(spec: &FieldSpec, at: &Pointing) -> Vec<Star> {
    let [half_width, half_height] = spec.size_arcsec.map(|a| a / 2.0);
    let [right, up] = spec.centre_arcsec;
    let [east, north] = at.east_north_of(right, up);
    let middle = at.moved(east / 60.0, north / 60.0);
    let radius_deg = (half_width.hypot(half_height) + spec.beyond_arcsec) / 3600.0;
    let place = |s: CatalogueStar| {
        let [x, y] = at.right_up_arcsec(s.ra_deg, s.dec_deg)?;
        let (x_arcsec, y_arcsec) = (x - right, y - up);
        let beyond = if s.v_mag < BEYOND_V_MAG { spec.beyond_arcsec } else { 0.0 };
        let inside =
            x_arcsec.abs() <= half_width + beyond && y_arcsec.abs() <= half_height + beyond;
        inside.then(|| Star {
            x_arcsec,
            y_arcsec,
            v_mag: s.v_mag,
            temperature_k: temperature_from_b_v(s.b_v.unwrap_or(USUAL_B_V)),
        })
    };
    let around = Stars::nameless().around(middle.ra_deg, middle.dec_deg, radius_deg, REAL_TO_V);
    around.into_iter().filter_map(place).collect()
}
