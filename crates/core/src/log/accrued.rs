//! What the kept frames of a night bring to a campaign: what they really hold, not what was planned.
//!
//! A frame's worth is the square of the signal that is expected in it, at the transparency that its
//! stars told and through the air that it looked through, over the variance that its background
//! really has. A night that was darker than planned brings more than its minutes, one behind thin
//! cloud less.

use std::collections::BTreeMap;

use serde::Serialize;
use utoipa::ToSchema;

use crate::campaign::document::{Campaign, Shot};
use crate::decide::goals::{purpose, wanted};
use crate::frame::header::HeaderFields;
use crate::frame::measured::FrameMeasured;
use crate::light::lines::Quantity;
use crate::light::tables::Tables;
use crate::path::scales::Scales;
use crate::path::sky::air::airmass;
use crate::scenario::field_error::FieldError;
use crate::scenario::rig::Contender;
use crate::signal::model::{ExposureModel, LightPath, Model};

/// A kept frame of the sky, and through which exposure of the campaign's light path it was taken.
#[derive(Clone, Copy, Debug)]
pub struct KeptFrame<'a> {
    /// It.
    pub measured: &'a FrameMeasured,
    /// Index of the exposure.
    pub exposure: usize,
    /// Starlight against the clearest frames of its night, about 0-1, where it is known.
    pub transparency: Option<f64>,
    /// Airmass, where it is known.
    pub airmass: Option<f64>,
    /// Extinction through its filter, mag to an airmass.
    pub k_mag: f64,
}

/// What a night brought to one exposure.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Accrued {
    /// As the campaign counts it.
    pub shot: Shot,
    /// Exposure of the kept frames, s.
    pub kept_s: f64,
    /// So long under the sky that the campaign was planned with is worth as much, s.
    pub worth_s: f64,
    /// Median variance of the frames' backgrounds over that of the planned sky; null where none has
    /// its gain.
    pub noise: Option<f64>,
    /// Median transparency of the kept frames; null where none was matched.
    pub transparency: Option<f64>,
}

/// Counts the kept frames of a night for light path `path` of a campaign, in the order of its
/// exposures; exposures without a frame are left out, and so are frames of exposures that the path
/// does not have.
///
/// # Errors
/// Fields of the campaign's scenario that are wrong.
pub fn accrued(
    frames: &[KeptFrame],
    campaign: &Campaign,
    path: usize,
    tables: &Tables,
) -> Result<Vec<Accrued>, Vec<FieldError>> {
    let scenario = campaign.scenario.clone().check()?;
    let model = Model::nominal(&scenario, tables);
    let s = scenario.scenario();
    let Some(own) = s.contenders.get(path).zip(model.paths.get(path)) else {
        return Ok(Vec::new());
    };
    let planned_airmass = airmass(s.sky.target_altitude_deg);
    let of = |exposure: usize| {
        let seen: Vec<&KeptFrame> = frames.iter().filter(|f| f.exposure == exposure).collect();
        (!seen.is_empty()).then(|| one(&seen, exposure, own, planned_airmass))
    };
    Ok((0..own.1.exposures.len()).filter_map(of).collect())
}

/// What the frames of one exposure bring.
fn one(
    frames: &[&KeptFrame],
    exposure: usize,
    (contender, path): (&Contender, &LightPath),
    planned_airmass: f64,
) -> Accrued {
    let e = &path.exposures[exposure];
    let first = purpose(e);
    let others = wanted(path).into_iter().filter(|q| Some(*q) != first);
    let quantities: Vec<Quantity> = first.into_iter().chain(others).collect();
    let mut shot = Shot {
        path: None,
        exposure,
        subs: frames.len() as u32,
        snr2: 0.0,
        lines_snr2: BTreeMap::new(),
    };
    let (mut kept_s, mut worth_s, mut noises) = (0.0, 0.0, Vec::new());
    for f in frames {
        let sub_s = f.measured.read.header.exposure_s.filter(|t| *t > 0.0).unwrap_or(e.sub_s);
        let passed = passed(f, planned_airmass);
        let variance = variance_e2(f.measured, contender, e);
        noises.extend(variance.map(|v| v / planned_e2(e, sub_s, e.deciding().name)));
        kept_s += sub_s;
        for (i, q) in quantities.iter().enumerate() {
            // What is counted was kept.
            let taken = 1.0 / e.instrument.kept(1.0, sub_s);
            let planned = e.snr2(*q, sub_s, taken, &Scales::ONE, 0.0);
            if planned <= 0.0 {
                continue;
            }
            let held = held(f, (e, *q), (sub_s, passed), contender);
            *shot.lines_snr2.entry(*q).or_default() += planned * held;
            if i == 0 {
                shot.snr2 += planned * held;
                worth_s += sub_s * held;
            }
        }
    }
    let middle = |values: Vec<f64>| crate::frame::tile::middle(values.into_iter());
    Accrued {
        shot,
        kept_s,
        worth_s,
        noise: middle(noises),
        transparency: middle(frames.iter().filter_map(|f| f.transparency).collect()),
    }
}

/// Light of the target in a frame over that of the planned sky.
fn passed(f: &KeptFrame, planned_airmass: f64) -> f64 {
    let air = f.airmass.map_or(1.0, |x| 10f64.powf(-0.4 * f.k_mag * (x - planned_airmass)));
    f.transparency.unwrap_or(1.0).clamp(0.0, 1.0) * air
}

/// The square of a frame's signal to noise over that of a planned one: with S electrons of the
/// target in a pixel, V those of the planned background with the read noise, p the light that passed
/// and W the variance that was measured, p^2 (S + V) / (p S + W).
fn held(
    f: &KeptFrame,
    (e, q): (&ExposureModel, Quantity),
    (sub_s, passed): (f64, f64),
    contender: &Contender,
) -> f64 {
    let leading = e.leading(q);
    let signal_e = leading.nominal().of(q) * sub_s;
    let planned_e2 = planned_e2(e, sub_s, leading.name);
    let own_e2 = channel_variance_e2(f.measured, leading.name, contender, e).unwrap_or(planned_e2);
    passed * passed * (signal_e + planned_e2) / (passed * signal_e + own_e2)
}

/// Variance of sky, dark current and read noise in a pixel of a channel under the planned sky, e-^2.
fn planned_e2(e: &ExposureModel, sub_s: f64, channel: &str) -> f64 {
    let rates = e.channels.iter().find(|c| c.name == channel).map(|c| *c.nominal());
    let light = rates.map_or(0.0, |r| (r.background() + r.dark) * sub_s);
    light + e.instrument.gain.read_noise_e.powi(2)
}

fn variance_e2(frame: &FrameMeasured, c: &Contender, e: &ExposureModel) -> Option<f64> {
    channel_variance_e2(frame, e.deciding().name, c, e)
}

/// Variance of a frame's background in a channel to a pixel of the sensor, e-^2; `None` where the
/// channel is not there or has no noise.
fn channel_variance_e2(
    frame: &FrameMeasured,
    channel: &str,
    contender: &Contender,
    e: &ExposureModel,
) -> Option<f64> {
    let own = frame.channels.iter().find(|c| c.channel == channel)?;
    let h = &frame.read.header;
    let n = h.binning.unwrap_or(1.0).max(1.0);
    let e_per_adu = e_per_adu(h, contender, e);
    Some((own.sigma_adu * e_per_adu / n).powi(2)).filter(|v| *v > 0.0)
}

/// Electrons to an ADU: what the header says, else the kit's at its gain.
fn e_per_adu(h: &HeaderFields, contender: &Contender, e: &ExposureModel) -> f64 {
    let of_kit = || {
        let binning = h.binning.unwrap_or(e.instrument.binning).max(1.0) as u32;
        contender.sensor.at_gain_binned(h.gain.unwrap_or(contender.gain), binning).e_per_adu
    };
    h.e_per_adu.unwrap_or_else(of_kit)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::campaign::progress::snr2_per_sub;
    use crate::common::{campaign_of_ic_443 as campaign, tables};
    use crate::log::quality::tests::frame_of_the_sky;

    /// A frame of the first exposure whose background varies by `noise` times the planned one.
    fn as_planned(c: &Campaign, noise: f64) -> FrameMeasured {
        let checked = c.scenario.clone().check().expect("the demo is right");
        let model = Model::nominal(&checked, &tables());
        let e = &model.paths[c.contender].exposures[0];
        let mut frame = frame_of_the_sky();
        frame.read.header.exposure_s = Some(e.sub_s);
        frame.read.header.e_per_adu = Some(0.25);
        frame.channels[0].channel = e.deciding().name.to_owned();
        let variance_e2 = noise * planned_e2(e, e.sub_s, e.deciding().name);
        frame.channels[0].sigma_adu = variance_e2.sqrt() / 0.25;
        frame
    }

    /// Signal and noise of what the first exposure is for, e- in a pixel of one sub: the square of
    /// their ratio with `light` of the light and `noise` times the background's variance.
    fn snr2(c: &Campaign, light: f64, noise: f64) -> f64 {
        let checked = c.scenario.clone().check().expect("the demo is right");
        let model = Model::nominal(&checked, &tables());
        let e = &model.paths[c.contender].exposures[0];
        let q = purpose(e).expect("it is for something");
        let signal_e = light * e.leading(q).nominal().of(q) * e.sub_s;
        signal_e.powi(2) / (signal_e + noise * planned_e2(e, e.sub_s, e.leading(q).name))
    }

    fn counted(c: &Campaign, frames: &[FrameMeasured], transparency: Option<f64>) -> Accrued {
        let kept =
            |measured| KeptFrame { measured, exposure: 0, transparency, airmass: None, k_mag: 0.2 };
        let kept: Vec<KeptFrame> = frames.iter().map(kept).collect();
        let mut all = accrued(&kept, c, c.contender, &tables()).expect("counted");
        assert_eq!(all.len(), 1);
        all.remove(0)
    }

    #[test]
    fn frames_as_planned_are_worth_what_subs_by_hand_are() {
        let c = campaign();
        let frames = vec![as_planned(&c, 1.0); 12];
        let got = counted(&c, &frames, Some(1.0));
        let checked = c.scenario.clone().check().expect("right");
        let per_sub = &snr2_per_sub(&checked, c.contender, &tables())[0];
        assert_eq!((got.shot.exposure, got.shot.subs), (0, 12));
        assert!((got.shot.snr2 / (12.0 * per_sub[0].1) - 1.0).abs() < 1e-9, "{got:?}");
        for (q, each) in per_sub {
            assert!((got.shot.lines_snr2[q] / (12.0 * each) - 1.0).abs() < 1e-9, "{q:?}");
        }
        assert!((got.worth_s / got.kept_s - 1.0).abs() < 1e-9);
        assert!((got.noise.expect("known") - 1.0).abs() < 1e-9);
    }

    #[test]
    fn thin_cloud_and_a_brighter_sky_take_what_they_take() {
        let c = campaign();
        let clear = counted(&c, &[as_planned(&c, 1.0)], Some(1.0)).shot.snr2;
        for (light, noise) in [(0.8, 1.0), (1.0, 2.0), (1.0, 0.5), (0.5, 1.3)] {
            let got = counted(&c, &[as_planned(&c, noise)], Some(light)).shot.snr2;
            let expected = snr2(&c, light, noise) / snr2(&c, 1.0, 1.0);
            assert!((got / clear / expected - 1.0).abs() < 1e-9, "{light} {noise}");
        }
        // A faint line: light counts nearly squared.
        let thin = snr2(&c, 0.8, 1.0) / snr2(&c, 1.0, 1.0);
        assert!((0.64..0.70).contains(&thin), "{thin}");
    }

    #[test]
    fn what_looked_through_more_air_holds_less_and_binned_frames_count_alike() {
        let c = campaign();
        let (frame, planned) = (as_planned(&c, 1.0), airmass(c.scenario.sky.target_altitude_deg));
        let at = |x: f64| {
            let kept = KeptFrame {
                measured: &frame,
                exposure: 0,
                transparency: Some(1.0),
                airmass: Some(x),
                k_mag: 0.2,
            };
            accrued(&[kept], &c, c.contender, &tables()).expect("counted")[0].worth_s
        };
        // 0.2 mag leave 0.832 of the light.
        let expected = snr2(&c, 0.832, 1.0) / snr2(&c, 1.0, 1.0);
        assert!((at(planned + 1.0) / at(planned) / expected - 1.0).abs() < 2e-3);
        let whole = counted(&c, std::slice::from_ref(&frame), None);
        let mut binned = frame.clone();
        binned.read.header.binning = Some(2.0);
        binned.channels[0].sigma_adu *= 2.0;
        let binned = counted(&c, &[binned], None);
        assert!((binned.worth_s / whole.worth_s - 1.0).abs() < 1e-9);
    }

    #[test]
    fn frames_of_no_exposure_count_nothing() {
        let c = campaign();
        let frame = as_planned(&c, 1.0);
        let kept = KeptFrame {
            measured: &frame,
            exposure: 9,
            transparency: None,
            airmass: None,
            k_mag: 0.2,
        };
        assert_eq!(accrued(&[kept], &c, c.contender, &tables()), Ok(Vec::new()));
        assert_eq!(accrued(&[], &c, 99, &tables()), Ok(Vec::new()));
    }
}
