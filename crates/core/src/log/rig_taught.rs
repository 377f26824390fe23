//! What a night teaches about the rig: how much light comes through, what an ADU is worth, how
//! noisy reading and darkness are.

use crate::frame::header::{FrameKind, HeaderFields};
use crate::frame::measured::FrameMeasured;
use crate::frame::tile::{OF_MAD, middle};
use crate::log::beside::{FrameBeside, NightSub};
use crate::log::offer::{Estimate, Lesson, Offer, Terms, offer};
use crate::log::quality::judged_channel;
use crate::scenario::rig::{Contender, Sensor};

/// Starlight through one exposure over what the kit promises, and the scatter of single stars, mag.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct LightOf {
    /// Index of the exposure.
    pub exposure: usize,
    /// Light over what is promised.
    pub of_promised: f64,
    /// Scatter of single stars, mag.
    pub scatter_mag: f64,
    /// Stars.
    pub stars: usize,
}

impl LightOf {
    /// Light over what is promised, and what its stars' scatter leaves uncertain of it.
    pub fn estimate(&self) -> Estimate {
        let of_mag = self.scatter_mag / (self.stars.max(1) as f64).sqrt();
        Estimate { value: self.of_promised, sd: of_mag * self.of_promised / MAG_OF_A_SHARE }
    }
}

/// An ADU that is worth more than the kit says by this share, or less than this share of it, is told.
const MORE: f64 = 0.06;
const FAR_LESS: f64 = 0.75;
/// Read noise that a sensor's table is known to, as a share (from memory).
const STATED_NOISE: f64 = 0.3;
/// Dark current of one kind of camera (from memory: a factor of two).
const STATED_DARK: f64 = 1.0;
/// Dew, dust and haze: what throughputs of usual nights differ by.
const NIGHTS_LIGHT: f64 = 0.05;
/// What catalogue, colour and extinction leave uncertain of a throughput.
const MODEL_LIGHT: f64 = 0.01;
/// Frames that a figure of a night needs, and those of calibration.
const LEAST_FRAMES: usize = 5;
const LEAST_CALIBRATION: usize = 3;
/// Sky, electrons over those of reading, from which a background's scatter tells what an ADU is
/// worth.
const OVER_READING: f64 = 3.0;

/// Magnitudes to a small share of light: 2.5 / ln 10.
pub(crate) const MAG_OF_A_SHARE: f64 = 1.085_736;

/// Light through all exposures over what is promised, and its standard deviation.
pub(crate) fn light(of: &[LightOf]) -> Option<Estimate> {
    let value = middle(of.iter().map(|l| l.of_promised))?;
    let spread = OF_MAD * middle(of.iter().map(|l| (l.of_promised - value).abs()))?;
    let own = middle(of.iter().map(|l| l.estimate().sd))?;
    let n = of.len() as f64;
    Some(Estimate { value, sd: own.hypot(spread / n.sqrt()).hypot(MODEL_LIGHT) })
}

/// Starlight that is lost, mag, and whether the sky is dimmer by about as much: by half of it or more,
/// and no more than half as much again; differences under a twentieth of a magnitude are alike.
pub(crate) fn dimmed_alike(light: Estimate, sky_dimmer_mag: f64) -> bool {
    let lost_mag = lost_mag(light);
    (sky_dimmer_mag - lost_mag).abs() < 0.5 * lost_mag.abs().max(0.1)
}

/// Starlight that is lost against what is promised, mag.
pub(crate) fn lost_mag(light: Estimate) -> f64 {
    -2.5 * light.value.log10()
}

/// The offer of the telescope's throughput, where stars come through it dimmer or brighter than
/// promised and the sky with them: `sky_dimmer_mag` is by how much the background is darker than the
/// site says. Haze takes the stars alone.
pub(crate) fn throughput_offer(
    c: &Contender,
    (light, relative_sd): (Estimate, f64),
    sky_dimmer_mag: Option<f64>,
) -> Option<Offer> {
    if sky_dimmer_mag.is_some_and(|d| !dimmed_alike(light, d)) {
        return None;
    }
    let now = Estimate { value: c.optics.throughput, sd: relative_sd * c.optics.throughput };
    let measured = Estimate { value: now.value * light.value, sd: now.value * light.sd };
    let evidence = format!(
        "{:.0} \u{b1} {:.0} % of the starlight that the kit promises arrives, and the sky is dimmed \
         alike: mirrors, dust, or an optimistic figure.",
        100.0 * light.value,
        100.0 * light.sd
    );
    let terms = Terms { nights_sd: NIGHTS_LIGHT * now.value, least: 0.06 * now.value };
    let mut told = offer((Lesson::Throughput, ""), (now, measured), terms, evidence)?;
    told.offered.value = told.offered.value.min(1.0);
    Some(told)
}

/// Electrons to an ADU as the kit or the frame's header has it.
fn e_per_adu(h: &HeaderFields, c: &Contender) -> (f64, f64) {
    let binning = h.binning.unwrap_or(1.0).max(1.0) as u32;
    let kit = c.sensor.at_gain_binned(h.gain.unwrap_or(c.gain), binning);
    (kit.e_per_adu, kit.read_noise_e)
}

/// What is wrong with an ADU's worth at the night's gain, in a sentence: with S ADU of sky over the
/// offset and a scatter of s, S g electrons scatter by sqrt(S g + R^2), so that g = (S + sqrt(S^2 + 4
/// s^2 R^2)) / (2 s^2) (the photon transfer of one frame: Janesick, Photon Transfer, 2007). Faint
/// stars and nebulae scatter a background more, never less: a larger worth is proof, a smaller one
/// only where it is smaller by far. Frames whose sky does not stand well over reading say nothing.
pub(crate) fn gain_told(
    c: &Contender,
    subs: &[NightSub],
    frames: &[FrameBeside],
) -> Option<String> {
    let gain = subs.iter().find_map(|s| s.measured.read.header.gain).unwrap_or(c.gain);
    let smooth = |s: &&NightSub| {
        let at_s = s.start_s + s.measured.read.header.exposure_s.unwrap_or(0.0) / 2.0;
        let own = frames.iter().find(|f| f.at_s == at_s);
        s.kept && own.is_some_and(|f| f.predicted.target_share < 0.1)
    };
    let of = |s: &NightSub| {
        let h = &s.measured.read.header;
        let (kit, read_noise_e) = e_per_adu(h, c);
        let known = s.judged.background_e_per_s.is_some() && h.gain.is_none_or(|g| g == gain);
        let (sky, var) = (s.judged.background_adu, s.judged.sigma_adu.powi(2));
        if !known || var <= 0.0 {
            return None;
        }
        let g = (sky + (sky * sky + 4.0 * var * read_noise_e * read_noise_e).sqrt()) / (2.0 * var);
        (sky * g > OVER_READING * read_noise_e * read_noise_e).then_some(g / kit)
    };
    let all: Vec<f64> = subs.iter().filter(smooth).filter_map(of).collect();
    if all.len() < LEAST_FRAMES {
        return None;
    }
    let ratio = middle(all.iter().copied())?;
    let scatter = OF_MAD * middle(all.iter().map(|r| (r - ratio).abs()))?;
    let sd = (scatter / (all.len() as f64).sqrt()).hypot(0.01);
    let kit = c.sensor.at_gain(gain).e_per_adu;
    let (frames, own) = (all.len(), ratio * kit);
    if ratio > 1.0 + MORE.max(3.0 * sd) {
        Some(format!(
            "The backgrounds of {frames} frames scatter less than so many electrons can: an ADU is worth \
             {own:.3} e- at least, the kit says {kit:.3} at gain {gain}. Its gain table or the gain in \
             the headers is wrong; nothing is offered of sky and telescope."
        ))
    } else if ratio < FAR_LESS {
        Some(format!(
            "The backgrounds of {frames} frames scatter as {own:.3} e- to an ADU would make them, the kit \
             says {kit:.3} at gain {gain}: its gain table is wrong, or the frames are full of faint \
             stars; nothing is offered of sky and telescope."
        ))
    } else {
        None
    }
}

/// Frames of a kind at a gain.
fn of_kind<'a>(all: &'a [&FrameMeasured], kind: FrameKind, gain: f64) -> Vec<&'a FrameMeasured> {
    let own = |f: &&&FrameMeasured| {
        let h = &f.read.header;
        h.kind == Some(kind) && h.gain.is_none_or(|g| g == gain)
    };
    all.iter().filter(own).copied().collect()
}

/// The offer of the read noise by the night's bias frames.
pub(crate) fn noise_offer(c: &Contender, all: &[&FrameMeasured]) -> Option<Offer> {
    let gain = all.iter().find_map(|f| f.read.header.gain).unwrap_or(c.gain);
    let bias = of_kind(all, FrameKind::Bias, gain);
    if bias.len() < LEAST_CALIBRATION {
        return None;
    }
    let of = |f: &FrameMeasured| {
        let h = &f.read.header;
        let n = h.binning.unwrap_or(1.0).max(1.0);
        let (kit, _) = e_per_adu(h, c);
        Some(judged_channel(f)?.sigma_adu * h.e_per_adu.unwrap_or(kit) / n)
    };
    let values: Vec<f64> = bias.iter().filter_map(|f| of(f)).collect();
    let value = middle(values.iter().copied())?;
    // Sheppard's correction took what counting in whole ADU adds; the kit's figure is without it.
    let believed = own_read_noise(&c.sensor, gain);
    let spread = OF_MAD * middle(values.iter().map(|v| (v - value).abs()))?;
    let now = Estimate { value: believed, sd: STATED_NOISE * believed };
    let sd = (spread / (values.len() as f64).sqrt()).hypot(0.01 * value);
    let evidence = format!(
        "{} bias frames scatter by {value:.2} e-; the kit says {believed:.2} e- at gain {gain}.",
        values.len()
    );
    let terms = Terms { nights_sd: 0.01 * believed, least: 0.08 * believed };
    let of = (now, Estimate { value, sd });
    let mut told = offer((Lesson::ReadNoise, " e-"), of, terms, evidence)?;
    told.gain = Some(gain);
    Some(told)
}

/// Read noise at a gain without quantisation, e-.
fn own_read_noise(sensor: &Sensor, gain: f64) -> f64 {
    let at = sensor.at_gain(gain);
    let counting = at.e_per_adu / 12f64.sqrt();
    (at.read_noise_e.powi(2) - counting * counting).max(0.0).sqrt()
}

/// The offer of the dark current by the night's darks over its bias frames, at the temperature that
/// the kit states it for.
pub(crate) fn dark_offer(c: &Contender, all: &[&FrameMeasured]) -> Option<Offer> {
    let gain = all.iter().find_map(|f| f.read.header.gain).unwrap_or(c.gain);
    let (bias, darks) = (of_kind(all, FrameKind::Bias, gain), of_kind(all, FrameKind::Dark, gain));
    if bias.len() < LEAST_CALIBRATION || darks.len() < LEAST_CALIBRATION {
        return None;
    }
    let level = |f: &FrameMeasured| judged_channel(f).map(|c| c.level_adu);
    let none = middle(bias.iter().filter_map(|f| level(f)))?;
    let dark = &c.sensor.dark;
    let of = |f: &FrameMeasured| {
        let h = &f.read.header;
        let n = h.binning.unwrap_or(1.0).max(1.0);
        let (kit, _) = e_per_adu(h, c);
        let e = (level(f)? - none) * h.e_per_adu.unwrap_or(kit) / (n * n);
        let at_c = h.sensor_c.unwrap_or(c.sensor_temperature_c);
        let as_stated = dark.rate_e_per_s(at_c) / dark.e_per_s;
        let sub_s = h.exposure_s.filter(|s| *s > 0.0)?;
        // A level is told to about a hundredth of its scatter.
        let unsure = 0.02 * judged_channel(f)?.sigma_adu * h.e_per_adu.unwrap_or(kit);
        Some((e / sub_s / as_stated, unsure / sub_s / as_stated))
    };
    let values: Vec<(f64, f64)> = darks.iter().filter_map(|f| of(f)).collect();
    let value = middle(values.iter().map(|v| v.0))?;
    let unsure = middle(values.iter().map(|v| v.1))?;
    let spread = OF_MAD * middle(values.iter().map(|v| (v.0 - value).abs()))?;
    let now = Estimate { value: dark.e_per_s, sd: STATED_DARK * dark.e_per_s };
    let sd = (spread / (values.len() as f64).sqrt()).hypot(unsure);
    let evidence = format!(
        "{} darks over {} bias frames: {value:.4} e-/s in a pixel at {:.0} \u{b0}C; the kit says {:.4}.",
        values.len(),
        bias.len(),
        dark.at_c,
        dark.e_per_s
    );
    let terms = Terms { nights_sd: 0.02 * dark.e_per_s, least: 0.3 * dark.e_per_s };
    let of = (now, Estimate { value: value.max(0.0), sd });
    offer((Lesson::Dark, " e-/s"), of, terms, evidence)
}
