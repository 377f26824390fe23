//! What a night teaches about the glow of towns: how much faster than believed the light of lamps
//! grows towards the horizon in one direction.
//!
//! Through an exposure the lamps' light over that of the zenith is 1 + 0.6 g (X - 1) at an airmass
//! of X, and g is the direction's. A target that sinks into one direction says both: how bright the
//! zenith is, by where the line begins, and g, by how steep it is. Each filter has a beginning of its
//! own; what is steep is common to all that look that way.

use crate::log::beside::FrameBeside;
use crate::log::offer::{Estimate, Lesson, Offer, Terms, offer};
use crate::log::site_taught::telling;
use crate::path::sky::air::airmass;
use crate::path::sky::artificial::lamp_growth;
use crate::scenario::limits::around_the_circle;
use crate::scenario::site::Site;

/// Width of a direction, degrees.
const SECTOR_DEG: f64 = 45.0;
/// Frames that a direction needs, and airmasses between its ends.
const LEAST_FRAMES: usize = 8;
const AIRMASSES: f64 = 0.4;
/// Lamps at the zenith over natural light: under fewer their growth is nobody's business.
const LEAST_LAMPS: f64 = 0.3;
/// Differences of a glow that are nobody's business.
const LEAST_OFF: f64 = 0.4;
/// How well a glow is known that nobody measured (from memory: one direction against another).
const STATED: f64 = 1.0;
/// How well the growth of lamps' light is known, as a share of it, and what nights differ by (from
/// memory).
const MODEL: f64 = 0.15;
const NIGHTS: f64 = 0.2;
/// A glow is within these.
const RANGE: [f64; 2] = [0.0, 10.0];

/// A glow that a night showed.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Glow {
    /// What is offered.
    pub(crate) offer: Offer,
    /// Brightness of the zenith by the same frames, V mag/arcsec^2.
    pub(crate) zenith_v_mag: f64,
}

/// A frame's lamps over natural light as they stand there.
struct Lamps {
    exposure: usize,
    azimuth_deg: f64,
    beyond: f64,
    over: f64,
}

/// The offer of a direction's glow, by frames that tell of the sky, where they all speak of one
/// evening.
pub(crate) fn glow_offer(site: &Site, frames: &[FrameBeside]) -> Option<Glow> {
    let now_at = |azimuth| around_the_circle(&site.glow, azimuth).unwrap_or(1.0);
    let one = |f: &FrameBeside| {
        let (altitude, azimuth_deg) = (f.predicted.altitude_deg, f.predicted.azimuth_deg);
        let zenith = f.predicted.lamps_over_natural(f.zenith_v_mag?);
        let over = zenith * lamp_growth(altitude, now_at(azimuth_deg));
        let beyond = airmass(altitude) - 1.0;
        (over > 0.0).then_some(Lamps { exposure: f.exposure, azimuth_deg, beyond, over })
    };
    let all: Vec<Lamps> = telling(frames).into_iter().filter_map(one).collect();
    // Of all directions that a frame is the first of, the one that most frames are in.
    let within = |from: f64| {
        let own = all.iter().filter(move |l| (l.azimuth_deg - from).rem_euclid(360.0) < SECTOR_DEG);
        own.collect::<Vec<_>>()
    };
    let own = all.iter().map(|l| within(l.azimuth_deg)).max_by_key(Vec::len)?;
    let ends =
        own.iter().fold([f64::MAX, f64::MIN], |[a, b], l| [a.min(l.beyond), b.max(l.beyond)]);
    if own.len() < LEAST_FRAMES || ends[1] - ends[0] < AIRMASSES {
        return None;
    }
    let (slope, zeniths, sd) = fitted(&own);
    let lamps = zeniths.iter().sum::<f64>() / zeniths.len() as f64;
    if lamps < LEAST_LAMPS {
        return None;
    }
    // Growth by one airmass at a glow of one.
    let usual = lamp_growth(30.0, 1.0) - 1.0;
    let per_glow = usual / (airmass(30.0) - 1.0);
    let value = (slope / per_glow).clamp(RANGE[0], RANGE[1]);
    let measured = Estimate { value, sd: (sd / per_glow).hypot(MODEL * value) };
    let first = own[0].azimuth_deg;
    let turn = |l: &&Lamps| (l.azimuth_deg - first + 180.0).rem_euclid(360.0) - 180.0;
    let weight: f64 = own.iter().map(|l| l.beyond).sum();
    let azimuth =
        (first + own.iter().map(|l| l.beyond * turn(l)).sum::<f64>() / weight).rem_euclid(360.0);
    let now = Estimate { value: now_at(azimuth), sd: STATED };
    let evidence = format!(
        "Between airmass {:.2} and {:.2} towards {:.0}\u{b0} the lamps' light grows by {:.2} \u{b1} {:.2} \
         of its zenith to an airmass; {:.2} was believed ({} frames).",
        1.0 + ends[0],
        1.0 + ends[1],
        azimuth,
        slope,
        sd,
        per_glow * now.value,
        own.len()
    );
    let terms = Terms { nights_sd: NIGHTS * value, least: LEAST_OFF };
    let mut told = offer((Lesson::Glow, " times the usual"), (now, measured), terms, evidence)?;
    told.azimuth_deg = Some(azimuth.round().rem_euclid(360.0));
    let zenith_v_mag = frames.first()?.predicted.zenith_of_lamps(lamps)?;
    Some(Glow { offer: told, zenith_v_mag })
}

/// Least squares of A (1 + s x) with a height A for each filter and one slope s: the slope, the
/// heights, and the slope's standard deviation.
fn fitted(own: &[&Lamps]) -> (f64, Vec<f64>, f64) {
    const ROUNDS: usize = 200;
    let mut filters: Vec<usize> = own.iter().map(|l| l.exposure).collect();
    filters.sort_unstable();
    filters.dedup();
    let index = |l: &Lamps| filters.iter().position(|f| *f == l.exposure).unwrap_or(0);
    let (mut slope, mut heights) = (0.0, vec![0.0; filters.len()]);
    for _ in 0..ROUNDS {
        let mut sums = vec![[0.0; 2]; filters.len()];
        for l in own {
            let grown = 1.0 + slope * l.beyond;
            sums[index(l)][0] += l.over * grown;
            sums[index(l)][1] += grown * grown;
        }
        heights.iter_mut().zip(&sums).for_each(|(h, [xy, xx])| *h = xy / xx);
        let of = |l: &&Lamps| {
            let x = heights[index(l)] * l.beyond;
            [x * (l.over - heights[index(l)]), x * x]
        };
        let [xy, xx] = own.iter().map(of).fold([0.0; 2], |a, b| [a[0] + b[0], a[1] + b[1]]);
        slope = if xx > 0.0 { xy / xx } else { 0.0 };
    }
    let left = |l: &&Lamps| (l.over / (heights[index(l)] * (1.0 + slope * l.beyond)) - 1.0).powi(2);
    let rms = (own.iter().map(left).sum::<f64>() / own.len() as f64).sqrt();
    let mut spread = 0.0;
    for (i, _) in filters.iter().enumerate() {
        let of: Vec<f64> = own.iter().filter(|l| index(l) == i).map(|l| l.beyond).collect();
        let mean = of.iter().sum::<f64>() / of.len() as f64;
        spread += of.iter().map(|x| (x - mean).powi(2)).sum::<f64>();
    }
    // What a line loses of its certainty with a height of its own: it grows with itself.
    (slope, heights, (1.0 + slope) * rms.max(0.01) / spread.sqrt().max(1e-6))
}

/// Puts a direction's glow into a table: what it says of others, half a right angle away and more,
/// stays.
pub(crate) fn glow_in(table: &mut Vec<[f64; 2]>, azimuth_deg: f64, glow: f64) {
    let apart = |a: f64, b: f64| ((a - b + 180.0).rem_euclid(360.0) - 180.0).abs();
    let at = |azimuth: f64| around_the_circle(table, azimuth).unwrap_or(1.0);
    let beside = [-SECTOR_DEG, SECTOR_DEG].map(|d| {
        let azimuth = (azimuth_deg + d).rem_euclid(360.0);
        [azimuth, at(azimuth)]
    });
    let mut own: Vec<[f64; 2]> = if table.is_empty() {
        vec![[(azimuth_deg + 180.0).rem_euclid(360.0), 1.0]]
    } else {
        table.clone()
    };
    own.retain(|g| apart(g[0], azimuth_deg) > SECTOR_DEG);
    own.extend(beside);
    own.push([azimuth_deg, glow]);
    own.sort_by(|a, b| a[0].total_cmp(&b[0]));
    own.dedup_by(|a, b| a[0] == b[0]);
    *table = own;
}

#[cfg(test)]
mod tests {
    use super::*;

    fn lamps(exposure: usize, height: f64, slope: f64, x: f64) -> Lamps {
        Lamps { exposure, azimuth_deg: 200.0, beyond: x, over: height * (1.0 + slope * x) }
    }

    #[test]
    fn each_filter_has_a_height_and_all_one_slope() {
        let mut all = Vec::new();
        for i in 0..10 {
            let x = 0.1 * f64::from(i);
            all.push(lamps(0, 2.0, 1.5, x));
            all.push(lamps(1, 2.3, 1.5, 0.5 * x));
        }
        let (slope, heights, _) = fitted(&all.iter().collect::<Vec<_>>());
        assert!((slope - 1.5).abs() < 1e-6, "{slope}");
        assert!((heights[0] - 2.0).abs() < 1e-6 && (heights[1] - 2.3).abs() < 1e-6, "{heights:?}");
    }

    #[test]
    fn a_direction_s_glow_leaves_the_others_alone() {
        let mut table = Vec::new();
        glow_in(&mut table, 200.0, 2.5);
        let at = |t: &[[f64; 2]], a| around_the_circle(t, a).expect("a table");
        assert_eq!(at(&table, 200.0), 2.5);
        for azimuth in [0.0, 90.0, 150.0, 250.0, 300.0] {
            assert!((at(&table, azimuth) - 1.0).abs() < 1e-12, "{azimuth}: {table:?}");
        }
        // Over north, and in place of what was measured near by.
        glow_in(&mut table, 350.0, 3.0);
        glow_in(&mut table, 355.0, 2.0);
        assert_eq!((at(&table, 355.0), at(&table, 200.0)), (2.0, 2.5));
        assert!(table.windows(2).all(|w| w[0][0] < w[1][0]), "{table:?}");
    }
}
