//! How bright a target's lines are, by what a patch of it holds over a background in several
//! channels and filters.
//!
//! Every channel of every exposure says one thing: so many electrons a second over the background
//! are the sum of what each line sends there. What one rayleigh of a line sends is the light path's,
//! at the frame's altitude and through its air; the brightnesses that fit all channels best, each by
//! its own error, are the lines'. A line that no channel tells from another is not told.

use serde::Serialize;
use utoipa::ToSchema;

use crate::campaign::document::Campaign;
use crate::frame::header::HeaderFields;
use crate::frame::patch::BoxMeasured;
use crate::light::lines::Quantity;
use crate::light::tables::Tables;
use crate::log::predicted::NightModel;
use crate::scenario::field_error::FieldError;
use crate::scenario::site::Site;
use crate::scenario::target::LinesRayleigh;

/// Lines that are solved for; H-alpha with [N II] beside it, in the target's ratio.
const SOLVED: [Quantity; 4] = [Quantity::Ha, Quantity::Oiii, Quantity::Sii, Quantity::Hb];
/// [N II] over H-alpha of a target that says nothing of it (from memory: a usual H II region).
const USUAL_NII: f64 = 0.3;
/// What gain, throughput and air leave uncertain of every brightness alike (from memory).
const COMMON: f64 = 0.05;
/// A line whose own information is less than this share of what it has alone is told by no channel
/// apart from another.
const APART: f64 = 1e-3;

/// How much of the sky may differ between a patch and its background, a degree apart: glow of lamps,
/// and what flats leave (from memory).
const SLOPE_A_DEGREE: f64 = 0.015;

/// A frame with boxes on it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct BoxedFrame {
    /// Index of the exposure.
    pub exposure: usize,
    /// When it began, seconds since 1970 UTC.
    pub start_s: f64,
    /// Starlight against the clearest frames, about 0-1.
    pub transparency: f64,
    /// How far the two boxes are from each other, degrees.
    pub apart_deg: f64,
}

/// What a patch holds over its background in one channel of one frame.
#[derive(Clone, Debug, PartialEq)]
pub struct PatchSub {
    /// Index of the exposure.
    pub exposure: usize,
    /// `mono`, `r`, `g` or `b`.
    pub channel: String,
    /// Middle of the frame, seconds since 1970 UTC.
    pub at_s: f64,
    /// Starlight against the clearest frames, about 0-1.
    pub transparency: f64,
    /// Patch less background, e-/s in a pixel of the sensor.
    pub over_e_per_s: f64,
    /// Its standard deviation.
    pub sd_e_per_s: f64,
}

impl PatchSub {
    /// What boxes on the target hold over those beside it, channel by channel; the sky's slope between
    /// them is part of the error. Empty where the exposure or gain is not known.
    pub fn of_boxes(
        h: &HeaderFields,
        [on, beside]: [&[BoxMeasured]; 2],
        of: BoxedFrame,
    ) -> Vec<Self> {
        let Some((sub_s, e_per_adu)) = h.exposure_s.filter(|s| *s > 0.0).zip(h.e_per_adu) else {
            return Vec::new();
        };
        let binning = h.binning.unwrap_or(1.0).max(1.0);
        let e_per_s = e_per_adu / (sub_s * binning * binning);
        let one = |a: &BoxMeasured| {
            let b = beside.iter().find(|b| b.channel == a.channel)?;
            let sky_adu = (b.mean_adu - h.offset_adu.unwrap_or(0.0)).max(0.0);
            let slope_adu = SLOPE_A_DEGREE * of.apart_deg * sky_adu;
            let sd_adu = a.sd_adu.hypot(b.sd_adu).hypot(slope_adu);
            Some(Self {
                exposure: of.exposure,
                channel: a.channel.to_owned(),
                at_s: of.start_s + sub_s / 2.0,
                transparency: of.transparency,
                over_e_per_s: (a.mean_adu - b.mean_adu) * e_per_s,
                sd_e_per_s: (sd_adu * e_per_s).max(f64::MIN_POSITIVE),
            })
        };
        on.iter().filter_map(one).collect()
    }
}

/// A line's brightness.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct LineMeasured {
    /// Which.
    pub quantity: Quantity,
    /// Its brightness in the patch, rayleigh; of H-alpha with [N II].
    pub rayleigh: f64,
    /// Its standard deviation, rayleigh, what is uncertain of the rig included.
    pub sd_rayleigh: f64,
}

/// Lines of a patch.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct LinesMeasured {
    /// Those that could be told.
    pub lines: Vec<LineMeasured>,
    /// The same as a target keeps them; what was not told is as it was believed.
    pub as_lines: LinesRayleigh,
    /// Channels of frames that they come from.
    pub channels: usize,
    /// Squares of the residuals over their errors, to a degree of freedom; null where there is none.
    pub misfit: Option<f64>,
}

/// Solves for the lines. `None` where no channel of the path records a line of these frames.
///
/// # Errors
/// Fields of the campaign's scenario that are wrong.
pub fn lines_of(
    subs: &[PatchSub],
    (campaign, path): (&Campaign, usize),
    site: &Site,
    tables: &Tables,
) -> Result<Option<LinesMeasured>, Vec<FieldError>> {
    let believed = campaign.scenario.target.lines_rayleigh;
    let nii = if believed.ha > 0.0 { believed.nii / believed.ha } else { USUAL_NII };
    // Of one rayleigh of each line, and nothing else.
    let mut unit = campaign.clone();
    unit.scenario.target.lines_rayleigh = LinesRayleigh {
        ha: 1.0 / (1.0 + nii),
        nii: nii / (1.0 + nii),
        oiii: 1.0,
        sii: 1.0,
        hb: 1.0,
    };
    unit.scenario.target.continuum = None;
    let ends = subs.iter().fold([f64::MAX, f64::MIN], |[a, b], s| [a.min(s.at_s), b.max(s.at_s)]);
    let Some(model) = NightModel::new((&unit, path), site, ends, tables)? else { return Ok(None) };
    let equation = |s: &PatchSub| {
        // A wide filter shows stars and dust in their own light: what it holds over the sky is no line.
        if model.is_broad(s.exposure) {
            return None;
        }
        let rates = model.target_at(s.exposure, &s.channel, s.at_s)?;
        let own = SOLVED.map(|q| rates[q] * s.transparency / s.sd_e_per_s);
        Some((own, s.over_e_per_s / s.sd_e_per_s))
    };
    let all: Vec<([f64; SOLVED.len()], f64)> = subs.iter().filter_map(equation).collect();
    let Some((told, x)) = solved(&all) else { return Ok(None) };
    let left: f64 = all
        .iter()
        .map(|(a, y)| (y - a.iter().zip(&x).map(|(a, (x, _))| a * x).sum::<f64>()).powi(2))
        .sum();
    let freedom = all.len().saturating_sub(told.iter().filter(|t| **t).count());
    let misfit = (freedom > 0).then(|| left / freedom as f64);
    let lines: Vec<LineMeasured> = SOLVED
        .iter()
        .enumerate()
        .filter(|(i, _)| told[*i])
        .map(|(i, q)| {
            // Frames that fit worse than their errors say are less sure.
            let own = x[i].1 * misfit.unwrap_or(1.0).max(1.0).sqrt();
            LineMeasured { quantity: *q, rayleigh: x[i].0, sd_rayleigh: own.hypot(COMMON * x[i].0) }
        })
        .collect();
    let of = |q: Quantity, was: f64| {
        lines.iter().find(|l| l.quantity == q).map_or(was, |l| l.rayleigh.max(0.0))
    };
    let ha = of(Quantity::Ha, believed.ha + believed.nii);
    let as_lines = LinesRayleigh {
        ha: ha / (1.0 + nii),
        nii: ha * nii / (1.0 + nii),
        oiii: of(Quantity::Oiii, believed.oiii),
        sii: of(Quantity::Sii, believed.sii),
        hb: of(Quantity::Hb, believed.hb),
    };
    Ok(Some(LinesMeasured { lines, as_lines, channels: all.len(), misfit }))
}

/// Which unknowns are told, and each with its standard deviation.
type Solution<const N: usize> = ([bool; N], [(f64, f64); N]);

/// Least squares: which unknowns are told, and each with its standard deviation. Unknowns that the
/// equations do not tell apart from the others are left out, the least sure first.
fn solved<const N: usize>(all: &[([f64; N], f64)]) -> Option<Solution<N>> {
    let mut told: [bool; N] = std::array::from_fn(|i| all.iter().any(|(a, _)| a[i] > 0.0));
    // A line that sends next to nothing anywhere is not recorded.
    let strength: [f64; N] = std::array::from_fn(|i| all.iter().map(|(a, _)| a[i] * a[i]).sum());
    let most = strength.iter().copied().fold(0.0, f64::max);
    (0..N).for_each(|i| told[i] &= strength[i] > 1e-6 * most);
    loop {
        let used: Vec<usize> = (0..N).filter(|i| told[*i]).collect();
        if used.is_empty() {
            return None;
        }
        match normal(all, &used) {
            Some(found) => {
                let mut out = [(0.0, 0.0); N];
                used.iter().zip(found).for_each(|(i, f)| out[*i] = f);
                return Some((told, out));
            }
            None => {
                let weakest = used.iter().min_by(|a, b| strength[**a].total_cmp(&strength[**b]))?;
                told[*weakest] = false;
            }
        }
    }
}

/// The normal equations by Cholesky's decomposition; `None` where two unknowns are not told apart.
fn normal<const N: usize>(all: &[([f64; N], f64)], used: &[usize]) -> Option<Vec<(f64, f64)>> {
    let n = used.len();
    let sum = |f: &dyn Fn(&[f64; N], f64) -> f64| all.iter().map(|(a, y)| f(a, *y)).sum::<f64>();
    let m: Vec<Vec<f64>> =
        used.iter().map(|i| used.iter().map(|j| sum(&|a, _| a[*i] * a[*j])).collect()).collect();
    let v: Vec<f64> = used.iter().map(|i| sum(&|a, y| a[*i] * y)).collect();
    let mut l = vec![vec![0.0; n]; n];
    for i in 0..n {
        for j in 0..=i {
            let rest = m[i][j] - (0..j).map(|k| l[i][k] * l[j][k]).sum::<f64>();
            l[i][j] = if i == j {
                if rest < APART * m[i][i] {
                    return None;
                }
                rest.sqrt()
            } else {
                rest / l[j][j]
            };
        }
    }
    let solve = |v: &[f64]| {
        let mut y = vec![0.0; n];
        for i in 0..n {
            y[i] = (v[i] - (0..i).map(|k| l[i][k] * y[k]).sum::<f64>()) / l[i][i];
        }
        for i in (0..n).rev() {
            y[i] = (y[i] - (i + 1..n).map(|k| l[k][i] * y[k]).sum::<f64>()) / l[i][i];
        }
        y
    };
    let x = solve(&v);
    let sd = (0..n).map(|i| {
        let unit: Vec<f64> = (0..n).map(|k| f64::from(u8::from(k == i))).collect();
        solve(&unit)[i].sqrt()
    });
    Some(x.into_iter().zip(sd).collect())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::common::{campaign_of_ic_443, tables};
    use crate::library::{ShelfThing, demo_kit};
    use crate::night::ephemeris::unix_midnight;
    use rand::{RngExt, SeedableRng};
    use rand_pcg::Pcg64Mcg;

    /// A dual band on a colour camera over an hour: what each channel holds of the truth, with noise
    /// that is drawn anew for every seed.
    fn seen(truth: LinesRayleigh, relative_sd: f64, seed: u64) -> LinesMeasured {
        let mut campaign = campaign_of_ic_443();
        let path = 1;
        campaign.contender = path;
        let site = demo_kit().into_iter().find_map(|(_, e)| match e.thing {
            ShelfThing::Site(s) => Some(s),
            _ => None,
        });
        let site = site.expect("a site");
        let dusk = unix_midnight(2027, 1, 11).expect("a day") + 4.0 * 3600.0;
        let mut held = campaign.clone();
        held.scenario.target.lines_rayleigh = truth;
        held.scenario.target.continuum = None;
        let model = NightModel::new((&held, path), &site, [dusk, dusk + 3600.0], &tables());
        let model = model.expect("accepted").expect("a path");
        let mut rng = Pcg64Mcg::seed_from_u64(seed);
        let mut deviate = || (0..12).map(|_| rng.random::<f64>()).sum::<f64>() - 6.0;
        let mut subs = Vec::new();
        for i in 0..6 {
            let (at_s, transparency) = (dusk + 600.0 * f64::from(i), 1.0 - 0.05 * f64::from(i));
            for channel in ["r", "g", "b"] {
                let rates = model.target_at(0, channel, at_s).expect("a channel");
                let e: f64 = SOLVED.iter().map(|q| rates[*q]).sum::<f64>() * transparency;
                let sd = relative_sd * 0.05;
                subs.push(PatchSub {
                    exposure: 0,
                    channel: channel.into(),
                    at_s,
                    transparency,
                    over_e_per_s: e + sd * deviate(),
                    sd_e_per_s: sd,
                });
            }
        }
        lines_of(&subs, (&campaign, path), &site, &tables()).expect("accepted").expect("lines")
    }

    #[test]
    fn lines_of_a_dual_band_come_back_within_their_errors() {
        let nii = campaign_of_ic_443().scenario.target.lines_rayleigh;
        let ratio = nii.nii / nii.ha;
        let truth = LinesRayleigh { ha: 60.0, nii: 60.0 * ratio, oiii: 15.0, sii: 0.0, hb: 0.0 };
        let exact = seen(truth, 1e-6, 1);
        let of = |m: &LinesMeasured, q: Quantity| {
            *m.lines.iter().find(|l| l.quantity == q).unwrap_or_else(|| panic!("{q:?}: {m:?}"))
        };
        let ha = 60.0 * (1.0 + ratio);
        assert!((of(&exact, Quantity::Ha).rayleigh / ha - 1.0).abs() < 1e-4, "{exact:?}");
        assert!((of(&exact, Quantity::Oiii).rayleigh / 15.0 - 1.0).abs() < 1e-4, "{exact:?}");
        assert!((exact.as_lines.ha / 60.0 - 1.0).abs() < 1e-4, "{exact:?}");
        // Its errors hold: of a hundred nights about two thirds lie within one, nearly all within two.
        let (mut one, mut two) = (0, 0);
        for seed in 0..100 {
            let m = of(&seen(truth, 1.0, seed), Quantity::Oiii);
            // What is uncertain of the rig is the same on all of them, and is not drawn here.
            let own = (m.sd_rayleigh.powi(2) - (COMMON * m.rayleigh).powi(2)).sqrt();
            let off = (m.rayleigh - 15.0).abs() / own;
            one += usize::from(off < 1.0);
            two += usize::from(off < 2.0);
        }
        assert!((55..=85).contains(&one) && two >= 88, "{one} {two}");
    }

    #[test]
    fn boxes_become_electrons_a_second_in_a_pixel_of_the_sensor() {
        let of = |channel, mean_adu, sd_adu| BoxMeasured {
            channel,
            mean_adu,
            sd_adu,
            pixels: 100,
            noise_adu: 10.0 * sd_adu,
        };
        let on = [of("r", 700.0, 3.0), of("g", 600.0, 1.0)];
        let beside = [of("r", 500.0, 4.0)];
        let mut h = HeaderFields {
            exposure_s: Some(100.0),
            e_per_adu: Some(0.5),
            binning: Some(2.0),
            ..HeaderFields::default()
        };
        let mut of = BoxedFrame { exposure: 1, start_s: 1000.0, transparency: 0.9, apart_deg: 0.0 };
        let told = PatchSub::of_boxes(&h, [&on, &beside], of);
        // 200 ADU are 100 e-, in 100 s, over four pixels; green has nothing beside it.
        assert_eq!(told.len(), 1);
        assert!((told[0].over_e_per_s - 0.25).abs() < 1e-12, "{told:?}");
        assert!((told[0].sd_e_per_s - 5.0 * 0.5 / 400.0).abs() < 1e-12, "{told:?}");
        assert_eq!((told[0].at_s, told[0].exposure, told[0].transparency), (1050.0, 1, 0.9));
        // Two degrees apart 3 % of the sky, 200 ADU over the offset, may be another one.
        (of.apart_deg, h.offset_adu) = (2.0, Some(300.0));
        let far = PatchSub::of_boxes(&h, [&on, &beside], of);
        let sd_adu = 5.0f64.hypot(0.03 * 200.0);
        assert!((far[0].sd_e_per_s - sd_adu * 0.5 / 400.0).abs() < 1e-12, "{far:?}");
        h.e_per_adu = None;
        assert!(PatchSub::of_boxes(&h, [&on, &beside], of).is_empty());
    }

    #[test]
    fn unknowns_that_are_told_come_back_and_others_are_left_out() {
        // Red holds the first alone, green and blue the second in two strengths.
        let rows = [[2.0, 0.0, 0.0], [0.1, 1.5, 0.0], [0.0, 1.0, 0.0]];
        let truth = [30.0, 8.0, 0.0];
        let all: Vec<([f64; 3], f64)> =
            rows.iter().map(|a| (*a, a.iter().zip(truth).map(|(a, t)| a * t).sum())).collect();
        let (told, x) = solved(&all).expect("two of them");
        assert_eq!(told, [true, true, false]);
        assert!((x[0].0 - 30.0).abs() < 1e-9 && (x[1].0 - 8.0).abs() < 1e-9, "{x:?}");
        assert!((x[0].1 - 0.5).abs() < 0.01, "{x:?}");
        // Two that always come together: the weaker one is not told.
        let both = [([1.0, 0.5], 10.0), ([2.0, 1.0], 20.0)];
        let (told, x) = solved(&both).expect("one of them");
        assert_eq!(told, [true, false]);
        assert!((x[0].0 - 10.0).abs() < 1e-9);
        assert_eq!(solved::<2>(&[]), None);
    }
}
