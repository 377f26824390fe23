//! What stars of the catalogue tell of a rig and of the sky over it.
//!
//! A star of known magnitude sends a light path so many electrons a second as its throughput lets
//! through: what arrives over what the kit promises is the rig's throughput, haze included. The
//! sky's brightness follows twice: through the light path, which trusts the kit's figures, and
//! against the stars, which trusts none of them, for a wrong gain or a dusty mirror dims both alike.

use serde::Serialize;
use utoipa::ToSchema;

use crate::frame::measured::FrameMeasured;
use crate::frame::plate::{LEAST_STARS, Solved};
use crate::frame::tile::{OF_MAD, middle};
use crate::light::tables::Tables;
use crate::light::units::{linear_from_mag, mag_from_linear};
use crate::path::sky::air::airmass;
use crate::scenario::check::Checked;
use crate::signal::model::Model;

/// B - V of the star that the model's light is of, 6000 K (Ballesteros 2012, EPL 97, 34008).
const SUNLIKE_B_V: f64 = 0.58;
/// Stars with a known colour that a colour term needs, and how far their B - V must spread.
const LEAST_COLOURS: usize = 8;
const LEAST_SPREAD: f64 = 0.5;

/// What the catalogue's stars on a frame tell.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct Starlight {
    /// Stars of the catalogue that are not full.
    pub stars: usize,
    /// Their light over what the kit promises at the frame's airmass.
    pub of_promised: f64,
    /// Scatter of single stars about that, mag.
    pub scatter_mag: f64,
    /// Sky through the light path, V mag/arcsec^2; null where gain or offset is not known.
    pub sky_by_path_v_mag: Option<f64>,
    /// Sky against the stars, V mag/arcsec^2.
    pub sky_by_stars_v_mag: Option<f64>,
}

/// A frame that was solved, and what it was taken through.
#[derive(Clone, Copy, Debug)]
pub struct StarlightQuestion<'a> {
    /// The frame.
    pub frame: &'a FrameMeasured,
    /// Where it looks, and which of its stars are which.
    pub solved: &'a Solved,
    /// Index of the light path, and of its exposure.
    pub path: [usize; 2],
    /// Airmass, where it is known.
    pub airmass: Option<f64>,
    /// Extinction through the filter, mag to an airmass.
    pub k_mag: f64,
    /// Background over the offset, e-/s in a pixel, where it is known.
    pub background_e_per_s: Option<f64>,
}

/// Weighs the catalogue's stars against the light path. `None` where fewer than four of them are
/// whole, or the path or its channel is not there.
pub fn starlight(q: &StarlightQuestion, scenario: &Checked, tables: &Tables) -> Option<Starlight> {
    let model = Model::nominal(scenario, tables);
    let s = scenario.scenario();
    let [path, exposure] = q.path;
    let contender = s.contenders.get(path)?;
    let e = model.paths.get(path)?.exposures.get(exposure)?;
    let h = &q.frame.read.header;
    // The stars that were laid upon the catalogue are those of the judged channel.
    let own = crate::log::quality::judged_channel(q.frame)?;
    let channel = e.channels.iter().find(|c| c.name == own.channel)?;
    let rates = channel.nominal();
    let binning = h.binning.unwrap_or(1.0).max(1.0);
    let kit = contender.sensor.at_gain_binned(h.gain.unwrap_or(contender.gain), binning as u32);
    let e_per_adu = h.e_per_adu.unwrap_or(kit.e_per_adu);
    let sub_s = h.exposure_s.filter(|t| *t > 0.0).unwrap_or(e.sub_s);
    let planned = airmass(s.sky.target_altitude_deg);
    let air = q.airmass.map_or(1.0, |x| 10f64.powf(-0.4 * q.k_mag * (x - planned)));
    let promised = rates.star_v0 * air * sub_s;
    if promised <= 0.0 {
        return None;
    }
    let whole = q.solved.pairs.iter().filter_map(|(i, star)| {
        let seen = own.brightest.get(*i).filter(|b| !b.clipped && b.flux_adu > 0.0)?;
        let expected_e = promised * linear_from_mag(star.v_mag);
        Some((mag_from_linear(seen.flux_adu * e_per_adu / expected_e)?, star.b_v))
    });
    let fainter: Vec<(f64, Option<f64>)> = whole.collect();
    if fainter.len() < LEAST_STARS {
        return None;
    }
    let [fainter_mag, scatter_mag] = of_a_sunlike_star(&fainter)?;
    let of_promised = linear_from_mag(fainter_mag);
    let light = q.background_e_per_s.and_then(|b| {
        let over = (b / (binning * binning) - rates.dark) / rates.background();
        (over > 0.0).then_some(over)
    });
    let planned_v = mag_from_linear(
        model.sky_mags.iter().flatten().map(|mag| linear_from_mag(*mag)).sum::<f64>(),
    );
    let sky_by_path_v_mag = light.and_then(|l| Some(planned_v? + mag_from_linear(l)?));
    Some(Starlight {
        stars: fainter.len(),
        of_promised,
        scatter_mag,
        sky_by_path_v_mag,
        sky_by_stars_v_mag: sky_by_path_v_mag.map(|v| v - fainter_mag),
    })
}

/// How much fainter a star of the sun's colour comes out than was promised, and the scatter, mag: a
/// line in B - V through the stars whose colour is known where there are enough of them, by medians
/// of slopes (Theil 1950), else the median.
fn of_a_sunlike_star(fainter: &[(f64, Option<f64>)]) -> Option<[f64; 2]> {
    let coloured: Vec<(f64, f64)> = fainter.iter().filter_map(|(m, c)| Some((*m, (*c)?))).collect();
    let ends = coloured
        .iter()
        .fold([f64::MAX, f64::MIN], |[low, high], (_, c)| [low.min(*c), high.max(*c)]);
    let slope = if coloured.len() >= LEAST_COLOURS && ends[1] - ends[0] >= LEAST_SPREAD {
        let pairs = coloured.iter().enumerate().flat_map(|(i, a)| {
            coloured[i + 1..].iter().filter_map(move |b| {
                let apart = b.1 - a.1;
                (apart.abs() > 0.1).then(|| (b.0 - a.0) / apart)
            })
        });
        middle(pairs.collect::<Vec<_>>().into_iter()).unwrap_or(0.0)
    } else {
        0.0
    };
    let at_sun = fainter.iter().map(|(m, c)| m - slope * (c.unwrap_or(SUNLIKE_B_V) - SUNLIKE_B_V));
    let at_sun: Vec<f64> = at_sun.collect();
    let usual = middle(at_sun.iter().copied())?;
    let scatter = OF_MAD * middle(at_sun.iter().map(|m| (m - usual).abs()))?;
    Some([usual, scatter])
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::common::ic_443;
    use crate::frame::measured::BrightStar;
    use crate::frame::plate::Plate;
    use crate::library::stars::CatalogueStar;
    use crate::log::quality::tests::frame_of_the_sky;

    /// Stars that arrive with `of_promised` of their light, those that are redder by a magnitude
    /// fainter by `slope`, under a sky that is `sky` times as bright as planned.
    fn told(of_promised: f64, slope: f64, sky: f64, stars: usize) -> Option<Starlight> {
        let tables = Tables::shipped().expect("tables");
        let checked = ic_443().check().expect("the demo is right");
        let s = checked.scenario();
        let path = s.contenders.iter().position(|c| c.sensor.cfa.is_none()).expect("a mono path");
        let model = Model::nominal(&checked, &tables);
        let channel = &model.paths[path].exposures[0].channels[0];
        let rates = channel.nominal();
        let mut frame = frame_of_the_sky();
        (frame.read.header.e_per_adu, frame.read.header.exposure_s) = (Some(0.5), Some(100.0));
        let own = &mut frame.channels[0];
        own.channel = channel.name.to_owned();
        own.brightest.clear();
        let mut pairs = Vec::new();
        for i in 0..stars {
            let (v_mag, b_v) = (7.0 + 0.1 * i as f64, i as f64 * 0.07);
            let light = of_promised * linear_from_mag(v_mag + slope * (b_v - SUNLIKE_B_V));
            own.brightest.push(BrightStar {
                x_px: 0.0,
                y_px: 0.0,
                flux_adu: light * rates.star_v0 * 100.0 / 0.5,
                peak_adu: 1.0,
                hfr_px: 2.0,
                // The brightest two are full: what is left of them says nothing.
                clipped: i < 2,
            });
            own.brightest[i].flux_adu *= if i < 2 { 0.3 } else { 1.0 };
            let star =
                CatalogueStar { ra_deg: 0.0, dec_deg: 0.0, v_mag, b_v: Some(b_v), name: None };
            pairs.push((i, star));
        }
        let plate = Plate {
            ra_deg: 94.25,
            dec_deg: 22.57,
            position_angle_deg: 0.0,
            scale_arcsec: 1.0,
            mirrored: false,
            stars,
            rms_arcsec: 0.3,
        };
        let question = StarlightQuestion {
            frame: &frame,
            solved: &Solved { plate, pairs },
            path: [path, 0],
            airmass: None,
            k_mag: 0.2,
            background_e_per_s: Some(rates.dark + sky * rates.background()),
        };
        starlight(&question, &checked, &tables)
    }

    #[test]
    fn throughput_and_sky_are_found_again_through_a_colour_term() {
        let as_promised = told(1.0, 0.0, 1.0, 22).expect("stars");
        assert_eq!(as_promised.stars, 20);
        assert!((as_promised.of_promised - 1.0).abs() < 1e-9 && as_promised.scatter_mag < 1e-9);
        let planned = as_promised.sky_by_path_v_mag.expect("a sky");
        assert!((as_promised.sky_by_stars_v_mag.expect("a sky") - planned).abs() < 1e-9);
        let dusty = told(0.8, 0.15, 1.3, 22).expect("stars");
        assert!((dusty.of_promised - 0.8).abs() < 1e-9, "{dusty:?}");
        let by_path = dusty.sky_by_path_v_mag.expect("a sky") - planned;
        assert!((by_path + 2.5 * 1.3f64.log10()).abs() < 1e-9, "{by_path}");
        // The same electrons through a rig that loses a fifth are a sky that much brighter.
        let by_stars = dusty.sky_by_stars_v_mag.expect("a sky") - planned;
        assert!((by_stars + 2.5 * (1.3f64 / 0.8).log10()).abs() < 1e-9, "{by_stars}");
    }

    #[test]
    fn fewer_than_four_whole_stars_say_nothing() {
        assert_eq!(told(1.0, 0.0, 1.0, 5), None);
        assert!(told(1.0, 0.0, 1.0, 6).is_some());
    }
}
