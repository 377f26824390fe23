//! Ghosts of bright stars: light that two faces before the sensor throw back and forth, out of
//! focus. Every pair of faces makes a ring of its own size.

use serde::Serialize;
use utoipa::ToSchema;

use crate::light::units::ARCSEC_PER_RAD;
use crate::path::optics::GLASS_INDEX;
use crate::path::rates::Rates;
use crate::scenario::exposure::Filter;
use crate::scenario::rig::{Contender, Optics};
use crate::signal::channel::ChannelModel;
use crate::signal::model::ExposureModel;
use crate::signal::stack::subs_in;

/// Share of the light that a sensor throws back (from memory).
pub const SENSOR_REFLECTANCE: f64 = 0.1;

/// Share that each face of a sensor's coated window throws back (from memory).
const WINDOW_REFLECTANCE: f64 = 0.01;

/// Share of a band's light that a face of a filter of the common kind throws back, where none is
/// stated; a better one throws back a tenth of it (common practice, no source).
const USUAL_REFLECTANCE: f64 = 0.04;

/// Thickness of a filter where none is stated, mm (common practice, no source).
const USUAL_THICKNESS_MM: f64 = 2.0;

/// From a sensor to its window, and to the window's far side, mm (from memory).
const WINDOW_MM: [f64; 2] = [3.0, 4.0];

/// From filter to sensor where no gap is stated, mm (common practice, no source).
pub const USUAL_GAP_MM: f64 = 15.0;

/// Between which faces light goes back and forth.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Between {
    /// Both faces of the filter.
    FilterFaces,
    /// Filter and the sensor's window.
    FilterAndWindow,
    /// Filter and sensor.
    FilterAndSensor,
    /// The sensor and its own window, filter or not.
    WindowAndSensor,
}

impl Between {
    /// As people call it.
    pub fn words(self) -> &'static str {
        match self {
            Self::FilterFaces => "inside the filter",
            Self::FilterAndWindow => "between filter and window",
            Self::FilterAndSensor => "between filter and sensor",
            Self::WindowAndSensor => "between window and sensor",
        }
    }
}

/// A ghost: light thrown back by one face and again by another, out of focus.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct Ghost {
    /// Between which faces.
    pub between: Between,
    /// The way between them, in air of the same defocus, mm: glass counts by its thickness over its
    /// index.
    pub gap_mm: f64,
    /// Outer diameter on the sensor, mm: 2 g / N for a gap of g mm at focal ratio N.
    pub diameter_mm: f64,
    /// Outer diameter, arcsec.
    pub diameter_arcsec: f64,
    /// Outer diameter, pixels.
    pub diameter_px: f64,
    /// Diameter of the hole that the obstruction leaves, arcsec.
    pub hole_arcsec: f64,
    /// Share of a star's light in the ghost: both reflectances.
    pub share: f64,
    /// Stars brighter than this show it in the stack: one standard deviation above the background
    /// of a pixel. V mag.
    pub shows_from_v_mag: f64,
    /// Stars brighter than this show it plainly, at any stretch: a fifth of the background. V mag.
    pub plain_from_v_mag: f64,
}

impl Ghost {
    /// Diameter of its hole, pixels.
    pub fn hole_px(&self) -> f64 {
        self.hole_arcsec * self.diameter_px / self.diameter_arcsec
    }

    /// What a star of so many electrons per second adds to each pixel of its ring, e-/s; `None`
    /// where no stretch shows it on a background.
    pub fn level_e_per_s(&self, e_per_s: f64, background_e_per_s: f64) -> Option<f64> {
        let level = e_per_s * self.share / self.area_px();
        (level > FLOOR * background_e_per_s).then_some(level)
    }

    /// Area of its ring, pixels.
    pub fn area_px(&self) -> f64 {
        std::f64::consts::FRAC_PI_4 * (self.diameter_px.powi(2) - self.hole_px().powi(2))
    }
}

/// A ghost below this share of the background is shown by no stretch, and is not drawn.
const FLOOR: f64 = 3e-4;

/// How bright against the background a ring is that everybody sees (common practice, no source).
const PLAIN: f64 = 0.2;

/// A pair of faces.
struct Faces {
    between: Between,
    gap_mm: f64,
    share: f64,
}

/// The pairs of faces before a sensor that throw light back and forth behind a filter or none.
///
/// Where the rig states gaps, those are the ways from filter (or, without one, window) to sensor;
/// else the filter stands `gap_mm` before the sensor, and the window where windows usually do.
fn faces(c: &Contender, filter: Option<&Filter>, gap_mm: f64) -> Vec<Faces> {
    let window = Faces {
        between: Between::WindowAndSensor,
        gap_mm: WINDOW_MM[0],
        share: SENSOR_REFLECTANCE * WINDOW_REFLECTANCE,
    };
    let Some(filter) = filter else {
        let stated = c.ghost_gaps_mm.iter().map(|&gap_mm| Faces { gap_mm, ..window });
        let stated: Vec<Faces> = stated.collect();
        return if stated.is_empty() { vec![window] } else { stated };
    };
    let own = filter.rear_reflectance.unwrap_or(USUAL_REFLECTANCE);
    let glass_mm = filter.thickness_mm.unwrap_or(USUAL_THICKNESS_MM);
    let to_sensor = |gap_mm: f64| Faces {
        between: Between::FilterAndSensor,
        gap_mm,
        share: SENSOR_REFLECTANCE * own,
    };
    let mut out = vec![Faces {
        between: Between::FilterFaces,
        gap_mm: glass_mm / GLASS_INDEX,
        share: own * own,
    }];
    if c.ghost_gaps_mm.is_empty() {
        if gap_mm > WINDOW_MM[1] {
            out.push(Faces {
                between: Between::FilterAndWindow,
                gap_mm: gap_mm - WINDOW_MM[1],
                share: own * WINDOW_REFLECTANCE,
            });
        }
        out.extend([to_sensor(gap_mm), window]);
    } else {
        out.extend(c.ghost_gaps_mm.iter().map(|&gap_mm| to_sensor(gap_mm)));
    }
    out
}

/// The ghosts of one exposure, seen in a channel of `rates` that owns `pixel_share` of the pixels,
/// from the smallest to the largest. `gap_mm` is the way from filter to sensor where the rig states
/// none, `clock_s` the time on the clock.
///
/// A ghost's light is the star's electrons times both reflectances, over the annulus's area; its
/// diameter is that of the cone after going twice through the gap. A pixel of the picture has its
/// colour in the colour's share of the subs, and in no more: there ghost and noise stand.
fn ghosts(
    c: &Contender,
    exposure: (usize, &ExposureModel),
    (rates, pixel_share): (&Rates, f64),
    gap_mm: f64,
    clock_s: f64,
) -> Vec<Ghost> {
    let e = &c.exposures[exposure.0];
    let own = &exposure.1.instrument;
    let subs = own.kept(subs_in(clock_s * e.share, e.sub_s, own.between_s), e.sub_s).max(1.0)
        * pixel_share;
    let seconds = subs * e.sub_s;
    let noise_e =
        ((rates.background() + rates.dark) * seconds + subs * own.gain.read_noise_e.powi(2)).sqrt();
    let one = |f: Faces| {
        let ring = Ring::new(&c.optics, f.gap_mm);
        let area_px = ring.area_arcsec2() / own.scale_arcsec.powi(2);
        // A star of V 0 lights a pixel of the ring with so much.
        let per_px_v0 = rates.star_v0 * f.share / area_px;
        let plain = PLAIN * rates.background();
        Ghost {
            between: f.between,
            gap_mm: f.gap_mm,
            diameter_mm: ring.diameter_mm,
            diameter_arcsec: ring.outer_arcsec,
            diameter_px: ring.outer_arcsec / own.scale_arcsec,
            hole_arcsec: ring.hole_arcsec,
            share: f.share,
            shows_from_v_mag: 2.5 * (per_px_v0 * seconds / noise_e).log10(),
            plain_from_v_mag: 2.5 * (per_px_v0 / plain).log10(),
        }
    };
    let throwing = faces(c, e.filter.as_ref(), gap_mm).into_iter().filter(|f| f.share > 0.0);
    let mut out: Vec<Ghost> = throwing.map(one).collect();
    out.sort_by(|a, b| a.gap_mm.total_cmp(&b.gap_mm));
    out
}

/// The ghosts of one exposure as its brightest channel shows them.
pub fn ghosts_of(
    c: &Contender,
    exposure: (usize, &ExposureModel),
    gap_mm: f64,
    clock_s: f64,
) -> Vec<Ghost> {
    let v0 = |ch: &ChannelModel| ch.nominal().star_v0;
    let brightest = exposure.1.channels.iter().max_by(|a, b| v0(a).total_cmp(&v0(b)));
    brightest.map_or(Vec::new(), |ch| {
        ghosts(c, exposure, (ch.nominal(), ch.pixel_share), gap_mm, clock_s)
    })
}

/// Diameter of the widest ghost that any exposure throws, arcsec.
pub fn widest_ghost_arcsec(c: &Contender, gap_mm: f64) -> f64 {
    let gaps = c.exposures.iter().flat_map(|e| faces(c, e.filter.as_ref(), gap_mm));
    let widest_mm = gaps.map(|f| f.gap_mm).fold(0.0, f64::max);
    Ring::new(&c.optics, widest_mm).outer_arcsec
}

/// The geometry of a ghost.
struct Ring {
    diameter_mm: f64,
    outer_arcsec: f64,
    hole_arcsec: f64,
}

impl Ring {
    fn new(optics: &Optics, gap_mm: f64) -> Self {
        let diameter_mm = 2.0 * gap_mm / optics.focal_ratio();
        let outer_arcsec = diameter_mm / optics.effective_focal_length_mm() * ARCSEC_PER_RAD;
        Self { diameter_mm, outer_arcsec, hole_arcsec: outer_arcsec * optics.obstruction_ratio() }
    }

    fn area_arcsec2(&self) -> f64 {
        std::f64::consts::FRAC_PI_4 * (self.outer_arcsec.powi(2) - self.hole_arcsec.powi(2))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::common::ic_443;
    use crate::light::tables::Tables;
    use crate::path::sky::part::PerSkyPart;
    use crate::signal::model::Model;

    fn ghosts_of(c: &Contender, rates: &Rates, share: f64, gap_mm: f64) -> Vec<Ghost> {
        let mut s = ic_443();
        s.contenders = vec![c.clone()];
        let tables = Tables::shipped().expect("tables");
        let model = Model::nominal(&s.check().expect("accepted"), &tables);
        ghosts(c, (0, &model.paths[0].exposures[0]), (rates, share), gap_mm, 14_400.0)
    }

    fn rates() -> Rates {
        Rates { sky: PerSkyPart([0.2, 0.3, 0.0, 0.0]), dark: 0.1, star_v0: 4e7, ..Rates::default() }
    }

    /// By hand: f/4 after a reducer of 0.8 on 500 mm, a gap of 10 mm: 5 mm across, 5 / 400 of a
    /// radian.
    #[test]
    fn a_ghost_by_hand() {
        let mut c = ic_443().contenders.remove(0);
        (c.optics.aperture_mm, c.optics.obstruction_mm) = (100.0, 30.0);
        (c.optics.focal_length_mm, c.optics.reducer) = (500.0, 0.8);
        c.sensor.pixel_um = 3.76;
        c.exposures[0].filter.as_mut().unwrap().rear_reflectance = Some(0.02);
        let of = |share| {
            let all = ghosts_of(&c, &rates(), share, 10.0);
            all.into_iter().find(|g| g.between == Between::FilterAndSensor).expect("a filter")
        };
        let g = of(1.0);
        assert!(
            (g.diameter_mm - 5.0).abs() < 1e-12 && (g.diameter_px - 5000.0 / 3.76).abs() < 0.01,
            "{g:?}"
        );
        assert!(
            (g.diameter_arcsec - 5.0 / 400.0 * 206_264.8).abs() < 0.01
                && (g.hole_arcsec / g.diameter_arcsec - 0.3).abs() < 1e-12
        );
        assert!((g.share - 0.1 * 0.02).abs() < 1e-15);
        // A star of that magnitude stands one standard deviation above the background of a pixel.
        let e = &c.exposures[0];
        let taken = subs_in(14_400.0 * e.share, e.sub_s, c.between_s());
        let subs = crate::signal::stack::kept(taken, e.sub_s, c.loss_per_hour);
        let seconds = subs * e.sub_s;
        let annulus_px =
            std::f64::consts::PI * ((2500.0f64 / 3.76).powi(2) - (750.0f64 / 3.76).powi(2));
        assert!((g.area_px() / annulus_px - 1.0).abs() < 1e-5);
        let star_e = 4e7 * 10f64.powf(-0.4 * g.shows_from_v_mag) * seconds;
        let noise_e = (0.6 * seconds + subs * c.sensor.at_gain(c.gain).read_noise_e.powi(2)).sqrt();
        assert!((star_e * 0.002 / annulus_px / noise_e - 1.0).abs() < 1e-3, "{g:?}");
        // A brighter one lies a fifth of the background above it, whatever the noise.
        let plain_e_per_s = 4e7 * 10f64.powf(-0.4 * g.plain_from_v_mag) * 0.002 / annulus_px;
        assert!((plain_e_per_s / (0.2 * 0.5) - 1.0).abs() < 1e-3, "{g:?}");
        // A colour that owns a quarter of the pixels has a quarter of the subs in the picture: half
        // the signal to noise, three quarters of a magnitude.
        let less = g.shows_from_v_mag - of(0.25).shows_from_v_mag;
        assert!((less - 2.5 * 2f64.log10()).abs() < 1e-9, "{less}");
    }

    #[test]
    fn every_pair_of_faces_makes_a_ring_of_its_own() {
        let mut c = ic_443().contenders.remove(0);
        let filter = c.exposures[0].filter.as_mut().unwrap();
        (filter.rear_reflectance, filter.thickness_mm) = (Some(0.05), Some(3.0));
        let told = |c: &Contender| -> Vec<(Between, f64, f64)> {
            let all = ghosts_of(c, &rates(), 1.0, 15.0);
            all.iter().map(|g| (g.between, g.gap_mm, (g.share * 1e6).round())).collect()
        };
        // Glass of 3 mm is 2 mm of air.
        assert_eq!(
            told(&c),
            [
                (Between::FilterFaces, 2.0, 2500.0),
                (Between::WindowAndSensor, 3.0, 1000.0),
                (Between::FilterAndWindow, 11.0, 500.0),
                (Between::FilterAndSensor, 15.0, 5000.0)
            ]
        );
        // What a rig states takes the place of what is usual.
        c.ghost_gaps_mm = vec![4.0, 2.5];
        assert_eq!(
            told(&c),
            [
                (Between::FilterFaces, 2.0, 2500.0),
                (Between::FilterAndSensor, 2.5, 5000.0),
                (Between::FilterAndSensor, 4.0, 5000.0)
            ]
        );
        // A filter that throws nothing back makes none; without one the window still does.
        c.exposures[0].filter.as_mut().unwrap().rear_reflectance = Some(0.0);
        assert_eq!(told(&c), []);
        c.ghost_gaps_mm.clear();
        c.exposures[0].filter = None;
        assert_eq!(told(&c), [(Between::WindowAndSensor, 3.0, 1000.0)]);
        let widest = widest_ghost_arcsec(&c, 15.0);
        assert!((widest - 2.0 * 15.0 / 5.5 / 495.0 * 206_264.806).abs() < 0.1, "{widest}");
    }
}
