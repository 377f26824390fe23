//! What each channel of each exposure collects, pixel by pixel, before any noise: electrons per
//! second on the contender's own grid.

use crate::light::lines::{LINES, PerQuantity, Quantity};
use crate::look::drawing::{Grid, Tilt};
use crate::look::field::Field;
use crate::look::ghost::{Ghost, ghosts_of};
use crate::look::gradient::{Seen, gradient};
use crate::look::plane::Plane;
use crate::look::star::StarProfile;
use crate::look::star_light::{StarLight, StarSpectra, profiles};
use crate::look::structure::LAYERS;
use crate::look::view::LookView;
use crate::path::filter::response::RECORDED_FROM;
use crate::path::filter::weights::FilterInCone;
use crate::path::sensor::Channel;
use crate::scenario::document::Scenario;
use crate::scenario::exposure::Exposure;
use crate::scenario::rig::Contender;
use crate::signal::model::LightPath;

/// A contender's crop before any noise.
#[derive(Clone, Debug)]
pub struct Planes {
    /// Pixels across and down.
    pub size: [usize; 2],
    /// Pixel scale, arcsec.
    pub scale_arcsec: f64,
    /// The planes.
    pub planes: Vec<Plane>,
    /// Ghosts of each exposure.
    pub ghosts: Vec<Vec<Ghost>>,
    /// Profiles of a star's visible light and of its infrared.
    pub profiles: [StarProfile; 2],
}

const ARCSEC_PER_DEG: f64 = 3600.0;

/// What all contenders of a look share: the scene, the truth on the sky, and how it is looked at.
pub struct Sight<'a> {
    /// The scenario.
    pub scenario: &'a Scenario,
    /// The truth.
    pub field: &'a Field,
    /// Stars of every colour as they arrive.
    pub stars: &'a StarSpectra,
    /// How it is looked at.
    pub view: &'a LookView,
}

impl Planes {
    /// Counts one contender's electrons over the crop.
    pub fn new(sight: &Sight, c: &Contender, path: &LightPath) -> Self {
        let Sight { scenario: s, field, view, .. } = *sight;
        let scale_arcsec = path.instrument.scale_arcsec;
        let [width, height] =
            field.spec().size_arcsec.map(|a| ((a / scale_arcsec).round() as usize).max(8));
        let grid = Grid { size: [width, height], scale_arcsec };
        let channels = c.sensor.channels();
        // The truth at every pixel, once for all exposures and channels.
        let truth: Vec<[f32; LAYERS]> = (0..height)
            .flat_map(|j| {
                (0..width).map(move |i| {
                    let [x, y] = grid.arcsec(i, j);
                    field.at(x, y)
                })
            })
            .collect();
        let fwhm_arcsec = view.star_fwhm_arcsec(s);
        let profiles = profiles(&c.optics, fwhm_arcsec, scale_arcsec);
        let mut all_ghosts = Vec::new();
        let mut planes = Vec::new();
        for (i, (e, p)) in c.exposures.iter().zip(&path.exposures).enumerate() {
            let own = ghosts_of(c, (i, p), view.gap_mm, s.clock_s(c));
            let stars = StarLight::of_channels(sight.stars, c, e.filter.as_ref());
            let through = lines_through(c, e, &channels);
            for ((own_channel, star), passes) in p.channels.iter().zip(stars).zip(through) {
                let seen = Seen {
                    rates: own_channel.nominal(),
                    pixels: own_channel.pixels,
                    wavelength_nm: star.wavelength_nm,
                };
                let slope = gradient(s, c, i, seen);
                let mut plane = Plane {
                    exposure: i,
                    channel: own_channel.name,
                    share: own_channel.pixel_share,
                    star,
                    equivalent_width_nm: p.equivalent_width_nm,
                    rates: *own_channel.nominal(),
                    records: own_channel.records,
                    passes,
                    e_per_s: Vec::with_capacity(width * height),
                    target_e_per_s: Vec::new(),
                };
                let tilt = Tilt {
                    percent_per_deg: slope.percent / sensor_diagonal_deg(c),
                    direction_deg: view.moon_direction_deg,
                    from_arcsec: view.at_arcsec(),
                };
                plane.fill(&truth, grid, tilt);
                if !view.flat {
                    plane.add_stars(&field.stars, grid, &profiles, &own);
                }
                planes.push(plane);
            }
            all_ghosts.push(own);
        }
        Self { size: [width, height], scale_arcsec, planes, ghosts: all_ghosts, profiles }
    }
}

/// Which lines come through a filter and each channel's pixels at least half as well as through the
/// best channel's.
fn lines_through(c: &Contender, e: &Exposure, channels: &[Channel]) -> Vec<PerQuantity<bool>> {
    let filter = FilterInCone::new(e.filter.as_ref(), &c.optics, 0.0);
    let reaches = |channel: &Channel, q: Quantity| {
        let lines = LINES.iter().filter(|l| l.quantity == q);
        let each = lines.map(|l| filter.at(l.wavelength_nm) * channel.response(l.wavelength_nm));
        each.fold(0.0, f64::max)
    };
    let of = |channel: &Channel| {
        PerQuantity(Quantity::JUDGED).map(|q| {
            let best = channels.iter().map(|ch| reaches(ch, q)).fold(0.0, f64::max);
            best > RECORDED_FROM && reaches(channel, q) >= 0.5 * best
        })
    };
    channels.iter().map(of).collect()
}

fn sensor_diagonal_deg(c: &Contender) -> f64 {
    let scale = c.optics.pixel_scale_arcsec(c.sensor.pixel_um);
    f64::from(c.sensor.columns).hypot(f64::from(c.sensor.rows)) * scale / ARCSEC_PER_DEG
}
