//! The core against things outside the project: tables made by general-purpose reference libraries, see
//! reference/README.md for the script and version behind each.

mod common;

use common::{number, reference, tables};
use salt_lamp_core::integration::StackTerms;
use salt_lamp_core::light::{PHOTONS_PER_RAYLEIGH, Spectrum, ab_photon_rate, blackbody_photons, rayleigh_from_erg};
use salt_lamp_core::path::Rates;
use salt_lamp_core::scenario::Calibration;

#[test]
fn the_ccd_equation_agrees_with_astropy() {
    for row in reference("ccd_equation.csv") {
        let [sub_s, source, sky, dark, read_noise_e, pixels, snr] = row.iter().map(|c| number(c)).collect::<Vec<_>>()[..] else {
            panic!("{row:?}")
        };
        // astropy's form has no noise of the calibration frames: so many darks that theirs vanishes.
        let calibration = Calibration { dark_frames: 1e12, ..Calibration::default() };
        let rates = Rates { target: [source, 0.0, 0.0, 0.0, 0.0], sky: [sky, 0.0, 0.0, 0.0], dark, star_v0: 0.0 };
        let ours = StackTerms::new(&rates, sub_s, read_noise_e, pixels, calibration).snr(source * sub_s, 1.0);
        assert!((ours / snr - 1.0).abs() < 1e-8, "{row:?}: {ours}");
    }
}

#[test]
fn rayleigh_and_ab_agree_with_astropy() {
    for row in reference("units.csv") {
        let (value, nm, result) = (number(&row[1]), number(&row[2]), number(&row[3]));
        let ours = match row[0].as_str() {
            "rayleigh_to_photons" => value * PHOTONS_PER_RAYLEIGH,
            "ab_to_photons_per_nm" => ab_photon_rate(value, nm),
            "erg_of_one_rayleigh" => value * result / rayleigh_from_erg(result, nm),
            other => panic!("{other}"),
        };
        // astropy takes 3631 Jy as 10^(-48.6/2.5) erg: a few parts in 100 000 apart.
        assert!((ours / result - 1.0).abs() < 1e-4, "{row:?}: {ours}");
    }
}

#[test]
fn synthetic_colours_agree_with_speclite() {
    let tables = tables();
    for row in reference("photometry.csv") {
        let (kelvin, band, colour) = (number(&row[0]), row[1].chars().next().expect("a band"), number(&row[2]));
        let body = Spectrum::from_fn(|nm| blackbody_photons(kelvin, nm));
        let mag = |b| tables.band(b).ab_mag(&body).expect("light");
        let ours = mag(band) - mag('V');
        assert!((ours - colour).abs() < 0.005, "{kelvin} K, {band}: {ours} against {colour}");
    }
}
