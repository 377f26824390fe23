//! Cameras: gain tables, full scale, dark current, and the channels of a colour filter array.

use std::collections::BTreeMap;

use crate::light::curve::Curve;
use crate::scenario::cfa::CfaColour;
use crate::scenario::rig::{Contender, Dark, GainRow, Sensor};

/// What a camera does at one gain setting.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct GainPoint {
    /// Electrons per ADU.
    pub e_per_adu: f64,
    /// Read noise with quantisation noise, e-.
    pub read_noise_e: f64,
    /// Full scale, e-: min(full well, what the converter can count).
    pub full_scale_e: f64,
    /// The setting lay outside the table and its nearest end was taken.
    pub clamped: bool,
}

/// A read noise that falls below this share from one row of a gain table to the next is a step.
const STEP: f64 = 0.8;

/// An offset below so many times the read noise leaves more than one value in ten thousand of a
/// normal distribution below zero.
const SOME_ZEROS: f64 = 3.719;

/// A safe offset over the read noise: room for patterns (common practice, no source).
const SAFE_OFFSET: f64 = 5.0;

impl GainPoint {
    /// The smallest offset that is safe, ADU: five times the read noise, so that far fewer than one
    /// pixel in ten thousand reads zero in a bias frame.
    pub fn safe_offset_adu(&self) -> f64 {
        SAFE_OFFSET * self.read_noise_e / self.e_per_adu
    }

    /// Whether an offset leaves more than one bias pixel in ten thousand at zero.
    pub fn leaves_zeros(&self, offset_adu: f64) -> bool {
        offset_adu < SOME_ZEROS * self.read_noise_e / self.e_per_adu
    }
}

/// A group of like pixels.
#[derive(Clone, Debug, PartialEq)]
pub struct Channel<'a> {
    /// `mono`, `r`, `g` or `b`.
    pub name: &'static str,
    /// Share of the pixels, 0-1.
    pub pixel_share: f64,
    qe: &'a Curve,
    colour: Option<&'a Curve>,
}

impl Channel<'_> {
    /// Electrons per photon at one wavelength, 0-1.
    pub fn response(&self, wavelength_nm: f64) -> f64 {
        self.qe.at(wavelength_nm) * self.colour.map_or(1.0, |c| c.at(wavelength_nm))
    }

    /// Electrons per photon at every grid node.
    pub fn response_on_grid(&self) -> Vec<f64> {
        let mut response = self.qe.on_grid();
        if let Some(colour) = self.colour {
            response.iter_mut().zip(colour.on_grid()).for_each(|(r, c)| *r *= c);
        }
        response
    }
}

impl Sensor {
    /// The camera at a gain setting: the table interpolated in the logarithm of each value, clamped
    /// at its ends.
    ///
    /// Quantisation noise e_per_adu / sqrt(12) is added to the read noise in quadrature.
    pub fn at_gain(&self, setting: f64) -> GainPoint {
        let after = self.gains.partition_point(|g| g.setting < setting);
        let (low, high) =
            (self.gains[after.saturating_sub(1)], self.gains[after.min(self.gains.len() - 1)]);
        let span = high.setting - low.setting;
        let f = if span > 0.0 { ((setting - low.setting) / span).clamp(0.0, 1.0) } else { 0.0 };
        let between = |a: f64, b: f64| (a.ln() * (1.0 - f) + b.ln() * f).exp();
        let e_per_adu = between(low.e_per_adu, high.e_per_adu);
        let read = between(low.read_noise_e, high.read_noise_e);
        let full_well = between(low.full_well_e, high.full_well_e);
        let counts = 2f64.powi(self.bits as i32) - 1.0 - self.offset_adu;
        GainPoint {
            e_per_adu,
            read_noise_e: read.hypot(e_per_adu / 12f64.sqrt()),
            full_scale_e: full_well.min(counts * e_per_adu),
            clamped: setting < self.gains[0].setting
                || setting > self.gains[self.gains.len() - 1].setting,
        }
    }

    /// The camera at a gain setting with `factor` x `factor` pixels put together, told for one of
    /// the single pixels: its share of the binned pixel's read noise (the noise over the factor, as
    /// variances add) and of its full scale (that over the factor squared).
    pub fn at_gain_binned(&self, setting: f64, factor: u32) -> GainPoint {
        let single = self.at_gain(setting);
        let n = f64::from(factor);
        let own = self.binning.iter().find(|m| m.factor == factor);
        let (noise, well) = own.map_or((n, n * n), |m| (m.read_noise_ratio, m.full_well_ratio));
        GainPoint {
            read_noise_e: single.read_noise_e * noise / n,
            full_scale_e: single.full_scale_e * well / (n * n),
            ..single
        }
    }

    /// The two rows of the table between which a setting lies, where the camera switches from one
    /// to the other instead of changing gradually: the read noise falls by more than a fifth, and
    /// by more than a fifth faster than e-/ADU. What is read between such rows is a guess.
    pub fn gain_step(&self, setting: f64) -> Option<[GainRow; 2]> {
        let after = self.gains.partition_point(|g| g.setting < setting);
        let (low, high) = (self.gains.get(after.checked_sub(1)?)?, self.gains.get(after)?);
        let noise = high.read_noise_e / low.read_noise_e;
        let steps = noise < STEP && noise < STEP * high.e_per_adu / low.e_per_adu;
        (setting < high.setting && steps).then_some([*low, *high])
    }

    /// The channels: one for mono, one a colour for an array, in the order r, g, b.
    pub fn channels(&self) -> Vec<Channel<'_>> {
        let Some(pattern) = &self.cfa else {
            return vec![Channel { name: "mono", pixel_share: 1.0, qe: &self.qe, colour: None }];
        };
        let mut shares: BTreeMap<CfaColour, f64> = BTreeMap::new();
        for colour in pattern.chars().filter_map(CfaColour::from_letter) {
            *shares.entry(colour).or_default() += 0.25;
        }
        let curves = self.cfa_curves.as_ref();
        shares
            .into_iter()
            .map(|(colour, pixel_share)| Channel {
                name: colour.key(),
                pixel_share,
                qe: &self.qe,
                colour: curves.and_then(|c| c.get(&colour)),
            })
            .collect()
    }
}

impl Contender {
    /// Temperature of the sensor, degrees Celsius: the set point, or the air plus the rise without
    /// cooling.
    pub fn sensor_temperature(&self, ambient_c: f64) -> f64 {
        self.sensor.rise_above_ambient_k.map_or(self.sensor_temperature_c, |rise| ambient_c + rise)
    }
}

impl Dark {
    /// Dark current at a temperature, e-/s per pixel: doubles every `doubling_k`.
    pub fn rate_e_per_s(&self, temperature_c: f64) -> f64 {
        self.e_per_s * ((temperature_c - self.at_c) / self.doubling_k).exp2()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::scenario::rig::BinningMode;

    fn sensor(cfa: Option<&str>) -> Sensor {
        let flat = Curve(vec![[400.0, 0.5], [800.0, 0.5]]);
        let colours = [CfaColour::R, CfaColour::G, CfaColour::B].map(|c| (c, flat.clone()));
        Sensor {
            name: String::new(),
            pixel_um: 3.76,
            columns: 100,
            rows: 100,
            cfa: cfa.map(str::to_owned),
            qe: flat,
            cfa_curves: cfa.map(|_| colours.into()),
            bits: 12,
            offset_adu: 95.0,
            gains: vec![
                GainRow { setting: 0.0, e_per_adu: 4.0, read_noise_e: 8.0, full_well_e: 50_000.0 },
                GainRow {
                    setting: 100.0,
                    e_per_adu: 1.0,
                    read_noise_e: 2.0,
                    full_well_e: 50_000.0,
                },
            ],
            dark: Dark { e_per_s: 0.01, at_c: 0.0, doubling_k: 6.3 },
            binning: Vec::new(),
            rise_above_ambient_k: None,
            readout_s: 1.0,
        }
    }

    #[test]
    fn fact_1_a_bayer_sensor_gives_a_quarter_a_half_and_a_quarter() {
        let s = sensor(Some("GRBG"));
        let shares: Vec<_> = s.channels().iter().map(|c| (c.name, c.pixel_share)).collect();
        assert_eq!(shares, [("r", 0.25), ("g", 0.5), ("b", 0.25)]);
        assert_eq!(sensor(None).channels()[0].pixel_share, 1.0);
    }

    #[test]
    fn gain_is_interpolated_in_the_logarithm_and_clamped() {
        let s = sensor(None);
        let mid = s.at_gain(50.0);
        assert!((mid.e_per_adu - 2.0).abs() < 1e-12);
        assert!((mid.read_noise_e - 4f64.hypot(2.0 / 12f64.sqrt())).abs() < 1e-12);
        assert_eq!(mid.full_scale_e, 4000.0 * mid.e_per_adu);
        assert!(!mid.clamped);
        assert!(s.at_gain(150.0).clamped);
        assert_eq!(s.at_gain(150.0).e_per_adu, 1.0);
    }

    #[test]
    fn a_step_between_two_rows_is_known_as_one() {
        let row = |setting: f64, e_per_adu: f64, read_noise_e: f64| GainRow {
            setting,
            e_per_adu,
            read_noise_e,
            full_well_e: 10_000.0,
        };
        let mut s = sensor(None);
        // Read noise that falls as e-/ADU does is no step, however far the rows are apart.
        assert_eq!(s.gain_step(50.0), None);
        s.gains = vec![row(0.0, 0.8, 3.4), row(99.0, 0.25, 2.7), row(100.0, 0.248, 1.5)];
        let between = s.gain_step(99.5).expect("the camera switches there");
        assert_eq!((between[0].setting, between[1].setting), (99.0, 100.0));
        // On the rows themselves nothing is guessed; nor beside them.
        for setting in [-5.0, 0.0, 60.0, 99.0, 100.0, 130.0] {
            assert_eq!(s.gain_step(setting), None, "{setting}");
        }
    }

    #[test]
    fn pixels_put_together_share_their_noise_and_their_well() {
        let mut s = sensor(None);
        let single = s.at_gain(100.0);
        assert_eq!(s.at_gain_binned(100.0, 1), single);
        // After reading, noise and well are those of four pixels: for each nothing changes.
        assert_eq!(s.at_gain_binned(100.0, 2), single);
        // In the sensor, one read noise for four pixels, and one well of twice a single one's.
        s.binning = vec![BinningMode { factor: 2, read_noise_ratio: 1.0, full_well_ratio: 2.0 }];
        let own = s.at_gain_binned(100.0, 2);
        assert!((own.read_noise_e / single.read_noise_e - 0.5).abs() < 1e-12);
        assert!((own.full_scale_e / single.full_scale_e - 0.5).abs() < 1e-12);
        assert_eq!(s.at_gain_binned(100.0, 3), single, "no mode of its own");
    }

    #[test]
    fn dark_current_doubles() {
        let d = sensor(None).dark;
        assert!((d.rate_e_per_s(6.3) - 0.02).abs() < 1e-12);
        assert!((d.rate_e_per_s(-12.6) - 0.0025).abs() < 1e-12);
    }
}
