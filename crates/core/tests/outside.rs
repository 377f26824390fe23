//! The core against things outside the project: tables made by general-purpose reference libraries,
//! see reference/README.md for the script and version behind each.

use crate::common::{bands, number, reference, tables};
use salt_lamp_core::library::{ecliptic_latitude_deg, galactic_latitude_deg};
use salt_lamp_core::light::{
    Curve, Lamp, PHOTONS_PER_RAYLEIGH, PerQuantity, Spectrum, ab_photon_rate, blackbody_photons,
    grid_nm, rayleigh_from_erg,
};
use salt_lamp_core::path::Rates;
use salt_lamp_core::path::filter::{FilterInCone, band_centre_shifted_nm};
use salt_lamp_core::path::sky::{Air, PerSkyPart, airmass, moon_mag_krisciunas_schaefer};
use salt_lamp_core::scenario::{Calibration, Filter, Moon};
use salt_lamp_core::signal::{StackTerms, noise_equivalent_pixels};

#[test]
fn the_ccd_equation_agrees_with_astropy() {
    for row in reference("ccd_equation.csv") {
        let [sub_s, source, sky, dark, read_noise_e, pixels, snr] =
            row.iter().map(|c| number(c)).collect::<Vec<_>>()[..]
        else {
            panic!("{row:?}")
        };
        // astropy's form has no noise of the calibration frames: so many darks that theirs
        // vanishes.
        let calibration = Calibration { dark_frames: 1e12, ..Calibration::default() };
        let rates = Rates {
            target: PerQuantity([source, 0.0, 0.0, 0.0, 0.0, source]),
            sky: PerSkyPart([sky, 0.0, 0.0, 0.0]),
            dark,
            star_v0: 0.0,
        };
        let ours = StackTerms::new(&rates, sub_s, read_noise_e, pixels, calibration)
            .snr(source * sub_s, 1.0);
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
        let (kelvin, band, colour) =
            (number(&row[0]), row[1].chars().next().expect("a band"), number(&row[2]));
        let body = Spectrum::from_fn(|nm| blackbody_photons(kelvin, nm));
        let mag = |b| tables.band(b).ab_mag(&body).expect("light");
        let ours = mag(band) - mag('V');
        assert!((ours - colour).abs() < 0.005, "{kelvin} K, {band}: {ours} against {colour}");
    }
}

#[test]
fn moonlight_agrees_with_specsim() {
    for row in reference("moonlight.csv") {
        let [phase_angle_deg, separation_deg, altitude_deg, target_altitude_deg, k_v, v_mag] =
            row.iter().map(|c| number(c)).collect::<Vec<_>>()[..]
        else {
            panic!("{row:?}")
        };
        let moon = Moon { phase_angle_deg, altitude_deg, separation_deg };
        let ours =
            moon_mag_krisciunas_schaefer(&moon, target_altitude_deg, k_v).expect("a risen moon");
        assert!((ours - v_mag).abs() < 0.01, "{row:?}: {ours}");
    }
}

/// Where a direction stands against the ecliptic and the Milky Way.
#[test]
fn latitudes_above_both_planes_agree_with_astropy() {
    for row in reference("planes.csv") {
        let [ra, dec, beta, b] = row.iter().map(|c| number(c)).collect::<Vec<_>>()[..] else {
            panic!("{row:?}")
        };
        assert!((ecliptic_latitude_deg(ra, dec) - beta).abs() < 0.01, "{row:?}");
        assert!((galactic_latitude_deg(ra, dec) - b).abs() < 0.01, "{row:?}");
    }
}

/// The noise under a star that is fitted, against profiles integrated over their pixels.
#[test]
fn noise_equivalent_area_agrees_with_photutils() {
    for row in reference("noise_equivalent_area.csv") {
        let (fwhm_px, pixels) = (number(&row[0]), number(&row[1]));
        let ours = noise_equivalent_pixels(fwhm_px);
        assert!((ours / pixels - 1.0).abs() < 2e-3, "{row:?}: {ours}");
    }
}

#[test]
fn airmass_agrees_with_pvlib_and_high_up_with_astropy() {
    for row in reference("airmass.csv") {
        let [altitude_deg, young, secant] = row.iter().map(|c| number(c)).collect::<Vec<_>>()[..]
        else {
            panic!("{row:?}")
        };
        let ours = airmass(altitude_deg);
        assert!((ours / young - 1.0).abs() < 1e-3, "{row:?}: {ours}");
        if altitude_deg >= 30.0 {
            assert!((ours / secant - 1.0).abs() < 5e-3, "{row:?}: {ours}");
        }
    }
}

#[test]
fn molecular_extinction_agrees_with_two_published_formulas() {
    // A k_v below what molecules alone take leaves no aerosols; ozone stays, as it is published.
    let molecules = Air::new(0.0, Some(0.05), 1.0);
    let ozone: Vec<(f64, f64)> =
        reference("ozone.csv").iter().map(|r| (number(&r[0]), number(&r[1]))).collect();
    for row in reference("rayleigh.csv") {
        let [nm, bird, hansen] = row.iter().map(|c| number(c)).collect::<Vec<_>>()[..] else {
            panic!("{row:?}")
        };
        let taken = Curve(ozone.iter().map(|&(nm, k)| [nm, k]).collect()).at(nm);
        let ours = molecules.k(nm) - taken;
        for published in [bird, hansen] {
            assert!((ours - published).abs() < 0.03 * published + 0.006, "{row:?}: {ours}");
        }
        // Where ozone takes nothing, molecules stand alone.
        assert!(taken > 0.0 || (ours / bird - 1.0).abs() < 0.03, "{row:?}: {ours}");
    }
}

/// Zenith extinction measured over Kitt Peak (2 096 m), in the table that specsim ships: with the
/// table's own V value for the air of that site, every other wavelength follows within 0.015 mag.
#[test]
fn extinction_follows_the_measured_table_of_kitt_peak() {
    let rows: Vec<(f64, f64)> =
        reference("extinction.csv").iter().map(|r| (number(&r[0]), number(&r[1]))).collect();
    let k_v = rows.iter().find(|r| r.0 == 550.0).expect("V").1;
    let air = Air::new(2096.0, Some(k_v), 1.0);
    for (nm, published) in rows {
        assert!(
            (air.k(nm) - published).abs() < 0.015,
            "{nm} nm: {} against {published}",
            air.k(nm)
        );
    }
}

#[test]
fn extinction_through_a_site_agrees_with_the_sky_of_la_palma() {
    // King 1985, RGO/La Palma Technical Note 31 (values from memory): at 2.4 km on a clear night
    // 0.12 mag at 550 nm, 0.25 to 0.35 at 400 nm, below 0.08 at 700 nm.
    let air = Air::new(2400.0, Some(0.12), 1.0);
    assert!((air.k(550.0) - 0.12).abs() < 1e-9);
    assert!((0.25..0.35).contains(&air.k(400.0)), "{}", air.k(400.0));
    assert!(air.k(700.0) < 0.08, "{}", air.k(700.0));
}

#[test]
fn photons_of_the_sun_and_of_blackbodies_agree_with_pvlib_and_colour_science() {
    let tables = tables();
    let sun_550 = tables.sunlight.continuum_at(550.0);
    for row in reference("photons.csv") {
        let (nm, relative) = (number(&row[1]), number(&row[2]));
        let ours = match row[0].strip_prefix("blackbody_") {
            Some(kelvin) => {
                blackbody_photons(number(kelvin), nm) / blackbody_photons(number(kelvin), 550.0)
            }
            None => tables.sunlight.continuum_at(nm) / sun_550,
        };
        assert!((ours / relative - 1.0).abs() < 1e-3, "{row:?}: {ours}");
    }
}

#[test]
fn lamps_keep_the_photons_of_the_published_tables() {
    let tables = tables();
    for row in reference("lamp_shares.csv") {
        let lamp = Lamp::ALL.into_iter().find(|l| l.key() == row[0]).expect("a lamp");
        let (from, to, share) = (number(&row[1]), number(&row[2]), number(&row[3]));
        // Without the scattering that ours carries.
        let spectrum = tables.lamp(lamp).clone().shaped(|nm| nm / 550.0);
        let photons = |from: f64, to: f64| {
            let inside = |nm: f64| nm >= from && nm < to;
            let continuum: f64 = grid_nm()
                .zip(&spectrum.continuum)
                .filter(|(nm, _)| inside(*nm))
                .map(|(_, v)| v)
                .sum();
            continuum
                + spectrum
                    .lines
                    .iter()
                    .filter(|l| inside(l.wavelength_nm))
                    .map(|l| l.photons)
                    .sum::<f64>()
        };
        let ours = photons(from, to) / photons(380.0, 780.5);
        assert!((ours - share).abs() < 0.006, "{row:?}: {ours}");
    }
}

/// A real multilayer (three cavities of quarter-wave layers) by the transfer-matrix method. Its
/// curve at normal incidence goes in as a sampled filter; the effective index that makes ours
/// follow its shift at an angle is 1.66 here, between the indices of its layers (1.46 and 2.25),
/// and then the average over fast cones follows too.
#[test]
fn cone_averages_agree_with_a_multilayer_by_the_transfer_matrix_method() {
    const N_EFF: f64 = 1.66;
    let rows = reference("multilayer.csv");
    let of = |kind: &str, at: f64| -> Vec<[f64; 2]> {
        rows.iter()
            .filter(|r| r[0] == kind && number(&r[1]) == at)
            .map(|r| [number(&r[2]), number(&r[3])])
            .collect()
    };
    let head_on = of("angle", 0.0);
    // Where half of the peak passes on either side: the band's middle.
    let middle = |curve: &[[f64; 2]]| {
        let sum: f64 = curve.iter().map(|p| p[1]).sum();
        curve.iter().map(|p| p[0] * p[1]).sum::<f64>() / sum
    };
    for angle in [3.0, 6.0, 9.0, 12.0, 14.0] {
        let shifted = band_centre_shifted_nm(middle(&head_on), angle, N_EFF);
        assert!(
            (middle(&of("angle", angle)) - shifted).abs() < 0.12,
            "{angle} degrees: {} against {shifted}",
            middle(&of("angle", angle))
        );
    }
    let filter = Filter {
        curve: Some(Curve(head_on)),
        bands: None,
        n_eff: N_EFF,
        ..bands("multilayer", 3.0, &[656.3])
    };
    for (ratio, obstruction) in [(5.5, 0.0), (2.8, 0.47), (2.0, 0.46)] {
        let mut optics = crate::common::ic_443().contenders.remove(0).optics;
        optics.focal_length_mm = optics.aperture_mm * ratio;
        optics.obstruction_mm = optics.aperture_mm * obstruction;
        let cone = FilterInCone::new(Some(&filter), &optics, 0.0);
        for [nm, published] in of(&format!("cone_{obstruction}"), ratio) {
            assert!(
                (cone.at(nm) - published).abs() < 0.05,
                "f/{ratio} at {nm} nm: {} against {published}",
                cone.at(nm)
            );
        }
    }
}
