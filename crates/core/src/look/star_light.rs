//! How much of a star's light a channel sees, by the star's colour: its blackbody integrated over
//! the channel's whole sensitivity, and apart from that the infrared, which a lens does not focus
//! with the rest.

use crate::light::lines::INFRARED_NM;
use crate::light::spectrum::{GRID_FIRST_NM, Spectrum};
use crate::light::tables::Tables;
use crate::light::units::ARCSEC_PER_RAD;
use crate::look::star::StarProfile;
use crate::path::filter::weights::FilterInCone;
use crate::path::scene::STAR_TEMPERATURE_K;
use crate::path::sky::air::Air;
use crate::path::target::continuum_spectrum;
use crate::scenario::exposure::Filter;
use crate::scenario::rig::{Contender, Optics};
use crate::scenario::target::Continuum;

/// Temperatures between which a star's light is interpolated: 6000 K times powers of 2^(1/6).
const NODES: usize = 27;

/// Of them in a doubling of temperature.
const PER_DOUBLE: f64 = 6.0;

/// Of them, 6000 K.
const SUNLIKE: usize = 8;

/// How far from focus a corrected lens leaves the infrared, as a share of its focal length (from
/// memory: apochromatic lenses, about 850 nm).
const INFRARED_DEFOCUS: f64 = 1.0 / 4000.0;

/// Stars of V magnitude zero of every temperature, as they arrive at the telescope.
pub struct StarSpectra(Vec<Spectrum>);

impl StarSpectra {
    /// Stars seen through the air.
    pub fn new(tables: &Tables, air: &Air) -> Self {
        let of = |i: usize| {
            let temperature_k =
                STAR_TEMPERATURE_K * ((i as f64 - SUNLIKE as f64) / PER_DOUBLE).exp2();
            let star = Continuum { v_mag_arcsec2: 0.0, temperature_k, b_v: None };
            continuum_spectrum(tables, &star).shaped(|nm| air.transmission(nm))
        };
        Self((0..NODES).map(of).collect())
    }
}

/// What one channel sees of stars of equal V, over what it sees of a sunlike one.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct StarLight {
    /// Up to [`INFRARED_NM`], at each temperature.
    visible: [f64; NODES],
    /// Beyond it.
    infrared: [f64; NODES],
    /// Mean wavelength of what it sees of a sunlike star, nm.
    pub wavelength_nm: f64,
}

impl StarLight {
    /// Of each channel of a camera behind a filter, or none.
    pub fn of_channels(spectra: &StarSpectra, c: &Contender, filter: Option<&Filter>) -> Vec<Self> {
        let weights = FilterInCone::new(filter, &c.optics, 0.0).weights();
        let channels = c.sensor.channels();
        channels.iter().map(|ch| Self::new(spectra, &weights, &ch.response_on_grid())).collect()
    }

    /// Of a channel of `response` behind a filter of `weights`, both on the spectral grid.
    pub fn new(spectra: &StarSpectra, weights: &[f64], response: &[f64]) -> Self {
        let part = |star: &Spectrum, infrared: bool, moment: bool| -> f64 {
            let nodes = weights.iter().zip(response).zip(&star.continuum).enumerate();
            nodes
                .map(|(k, ((w, r), s))| (GRID_FIRST_NM + k as f64, w * r * s))
                .filter(|(nm, _)| (*nm > INFRARED_NM) == infrared)
                .map(|(nm, e)| if moment { nm * e } else { e })
                .sum()
        };
        let sun = &spectra.0[SUNLIKE];
        let of_sun = part(sun, false, false) + part(sun, true, false);
        let over = |x: f64| if of_sun > 0.0 { x / of_sun } else { 0.0 };
        let each = |infrared| std::array::from_fn(|i| over(part(&spectra.0[i], infrared, false)));
        let moment = over(part(sun, false, true) + part(sun, true, true));
        Self {
            visible: each(false),
            infrared: each(true),
            wavelength_nm: if moment > 0.0 { moment } else { 550.0 },
        }
    }

    /// A star of a temperature: what is seen of it up to the infrared and beyond, each over all
    /// that is seen of a sunlike star of equal V.
    pub fn of(&self, temperature_k: f64) -> [f64; 2] {
        let at = ((temperature_k / STAR_TEMPERATURE_K).log2() * PER_DOUBLE + SUNLIKE as f64)
            .clamp(0.0, (NODES - 1) as f64);
        let i = (at as usize).min(NODES - 2);
        let u = at - i as f64;
        [&self.visible, &self.infrared].map(|v| v[i] + (v[i + 1] - v[i]) * u)
    }

    /// All that is seen of a star of a temperature, over a sunlike star of equal V.
    pub fn all_of(&self, temperature_k: f64) -> f64 {
        self.of(temperature_k).iter().sum()
    }

    /// Share of a sunlike star's light beyond [`INFRARED_NM`].
    pub fn infrared_share(&self) -> f64 {
        self.infrared[SUNLIKE]
    }
}

#[cfg(test)]
impl StarLight {
    /// Of a channel that sees all stars of equal V alike.
    pub fn grey() -> Self {
        Self { visible: [1.0; NODES], infrared: [0.0; NODES], wavelength_nm: 550.0 }
    }
}

/// Profiles of a star's visible light and of its infrared on a grid of pixels, where what is visible
/// is `fwhm_arcsec` wide.
pub fn profiles(optics: &Optics, fwhm_arcsec: f64, scale_arcsec: f64) -> [StarProfile; 2] {
    [fwhm_arcsec, infrared_fwhm_arcsec(optics, fwhm_arcsec)]
        .map(|fwhm| StarProfile::new(fwhm, scale_arcsec))
}

/// Full width at half maximum of the infrared image of a star, arcsec, through optics that focus
/// what is visible to `fwhm_arcsec`: a lens leaves it out of focus, a mirror does not.
///
/// Out of focus by a share s of the focal length, light of a cone of focal ratio N spreads over s /
/// N radians. A telescope without an obstruction is taken for one of lenses.
pub fn infrared_fwhm_arcsec(optics: &Optics, fwhm_arcsec: f64) -> f64 {
    if optics.obstruction_mm > 0.0 {
        return fwhm_arcsec;
    }
    fwhm_arcsec.hypot(INFRARED_DEFOCUS / optics.focal_ratio() * ARCSEC_PER_RAD)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::common::ic_443;
    use crate::light::spectrum::GRID_LEN;

    fn spectra() -> StarSpectra {
        let tables = Tables::shipped().expect("tables");
        StarSpectra::new(&tables, &Air::new(0.0, None, 1.0))
    }

    fn band(from_nm: f64, to_nm: f64) -> StarLight {
        let inside = |k: usize| (from_nm..to_nm).contains(&(GRID_FIRST_NM + k as f64));
        let weights: Vec<f64> = (0..GRID_LEN).map(|k| f64::from(u8::from(inside(k)))).collect();
        StarLight::new(&spectra(), &weights, &vec![0.8; GRID_LEN])
    }

    #[test]
    fn red_stars_are_brighter_in_red_at_the_same_v() {
        let (red, blue) = (band(600.0, 680.0), band(420.0, 500.0));
        assert!((red.all_of(6000.0) - 1.0).abs() < 1e-12);
        assert!(red.all_of(3500.0) > 1.25 && blue.all_of(3500.0) < 0.75);
        assert!(red.all_of(12_000.0) < 0.95 && blue.all_of(12_000.0) > 1.1);
        assert!((red.wavelength_nm - 639.0).abs() < 3.0, "{}", red.wavelength_nm);
        assert_eq!(red.infrared_share(), 0.0);
        // Beyond the last temperatures it stays as there.
        assert_eq!(red.of(1000.0), red.of(2381.0));
    }

    #[test]
    fn the_infrared_is_told_apart() {
        let open = band(400.0, 1000.0);
        let [visible, infrared] = open.of(3500.0);
        assert!(
            infrared > 1.5 * open.infrared_share() && visible + infrared == open.all_of(3500.0)
        );
        assert!((0.3..0.6).contains(&open.infrared_share()), "{}", open.infrared_share());
    }

    /// Against colour-science's blackbodies above the air, in boxes of red and blue over green, and
    /// on the same side of white as their colour on a screen: see reference/README.md. Between the
    /// temperatures of the table a straight line errs by less than a hundredth.
    #[test]
    fn blackbody_stars_come_out_in_colour_science_s_colours() {
        let tables = Tables::shipped().expect("tables");
        let above = StarSpectra::new(&tables, &Air::new(0.0, None, 0.0));
        let boxed = |from_nm: f64, to_nm: f64| {
            let weight = |k: usize| match GRID_FIRST_NM + k as f64 {
                nm if nm == from_nm || nm == to_nm => 0.5,
                nm if nm > from_nm && nm < to_nm => 1.0,
                _ => 0.0,
            };
            let weights: Vec<f64> = (0..GRID_LEN).map(weight).collect();
            StarLight::new(&above, &weights, &vec![0.8; GRID_LEN])
        };
        let [red, green, blue] = [boxed(600.0, 680.0), boxed(510.0, 580.0), boxed(420.0, 500.0)];
        let text = include_str!("../../../../reference/blackbody_colours.csv");
        for line in text.lines().skip(1) {
            let n: Vec<f64> = line.split(',').map(|c| c.parse().unwrap()).collect();
            let over = |b: &StarLight| b.all_of(n[0]) / green.all_of(n[0]);
            let got = [over(&red), over(&blue)];
            assert!(
                (got[0] / n[1] - 1.0).abs() < 0.01 && (got[1] / n[2] - 1.0).abs() < 0.01,
                "{line}: {got:?}"
            );
            let reddish = n[3] - n[4];
            assert!(reddish.abs() < 0.01 || (got[0] > got[1]) == (reddish > 0.0), "{line}");
        }
    }

    /// 1 / 4000 of the focal length off focus in a cone of f/5.5: 206 265 / 22 000 arcsec.
    #[test]
    fn a_lens_leaves_the_infrared_out_of_focus_and_a_mirror_does_not() {
        let s = ic_443();
        let (lens, mirror) = (&s.contenders[0].optics, &s.contenders[1].optics);
        assert!((infrared_fwhm_arcsec(lens, 2.5) - 2.5f64.hypot(9.376)).abs() < 0.01);
        assert_eq!(infrared_fwhm_arcsec(mirror, 2.5), 2.5);
    }
}
