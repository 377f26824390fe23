//! Cameras: gain tables, full scale, dark current, and the channels of a colour filter array.

use std::collections::BTreeMap;

use crate::light::curve::Curve;
use crate::scenario::rig::{CfaColour, Contender, Dark, Sensor};

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
    /// The camera at a gain setting: the table interpolated in the logarithm of each value, clamped at its ends.
    ///
    /// Quantisation noise e_per_adu / sqrt(12) is added to the read noise in quadrature.
    pub fn at_gain(&self, setting: f64) -> GainPoint {
        let after = self.gains.partition_point(|g| g.setting < setting);
        let (low, high) = (self.gains[after.saturating_sub(1)], self.gains[after.min(self.gains.len() - 1)]);
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
            clamped: setting < self.gains[0].setting || setting > self.gains[self.gains.len() - 1].setting,
        }
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
    /// Temperature of the sensor, degrees Celsius: the set point, or the air plus the rise without cooling.
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
    use crate::scenario::rig::GainRow;

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
                GainRow { setting: 100.0, e_per_adu: 1.0, read_noise_e: 2.0, full_well_e: 50_000.0 },
            ],
            dark: Dark { e_per_s: 0.01, at_c: 0.0, doubling_k: 6.3 },
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
    fn dark_current_doubles() {
        let d = sensor(None).dark;
        assert!((d.rate_e_per_s(6.3) - 0.02).abs() < 1e-12);
        assert!((d.rate_e_per_s(-12.6) - 0.0025).abs() < 1e-12);
    }
}
