//! What each channel of each exposure collects, pixel by pixel, before any noise: electrons per
//! second on the contender's own grid.

use crate::light::lines::{PerQuantity, Quantity};
use crate::light::spectrum::GRID_FIRST_NM;
use crate::light::units::blackbody_photons;
use crate::look::field::{Field, LAYERS, Star};
use crate::look::ghost::{Ghost, Seen, ghost, gradient};
use crate::look::star::StarProfile;
use crate::look::view::LookView;
use crate::path::filter::weights::FilterInCone;
use crate::path::rates::Rates;
use crate::scenario::document::Scenario;
use crate::scenario::rig::Contender;
use crate::signal::model::LightPath;

/// One channel of one exposure over the crop.
#[derive(Clone, Debug)]
pub struct Plane {
    /// Index of the exposure.
    pub exposure: usize,
    /// `mono`, `r`, `g` or `b`.
    pub channel: &'static str,
    /// Share of the pixels.
    pub share: f64,
    /// Mean wavelength that it sees of a star, nm.
    pub wavelength_nm: f64,
    /// Integral of the filter's transmission, nm.
    pub equivalent_width_nm: f64,
    /// Rates of a pixel at the target's mean.
    pub rates: Rates,
    /// Quantities that it records.
    pub records: PerQuantity<bool>,
    /// Electrons per second and pixel, row by row from the top.
    pub e_per_s: Vec<f32>,
    /// The same without the sky and dark current.
    pub target_e_per_s: Vec<f32>,
}

/// A contender's crop before any noise.
#[derive(Clone, Debug)]
pub struct Planes {
    /// Pixels across and down.
    pub size: [usize; 2],
    /// Pixel scale, arcsec.
    pub scale_arcsec: f64,
    /// The planes.
    pub planes: Vec<Plane>,
    /// Ghost of each exposure.
    pub ghosts: Vec<Option<Ghost>>,
}

const ARCSEC_PER_DEG: f64 = 3600.0;

impl Planes {
    /// Counts one contender's electrons over the crop.
    pub fn new(
        s: &Scenario,
        c: &Contender,
        path: &LightPath,
        field: &Field,
        view: &LookView,
    ) -> Self {
        let scale_arcsec = path.instrument.scale_arcsec;
        let [width, height] =
            field.spec().size_arcsec.map(|a| ((a / scale_arcsec).round() as usize).max(8));
        let channels = c.sensor.channels();
        let middle = |n: usize| n as f64 / 2.0 - 0.5;
        // The truth at every pixel, once for all exposures and channels.
        let truth: Vec<[f32; LAYERS]> = (0..height)
            .flat_map(|j| {
                (0..width).map(move |i| {
                    field.at(
                        (i as f64 - middle(width)) * scale_arcsec,
                        (middle(height) - j as f64) * scale_arcsec,
                    )
                })
            })
            .collect();
        let mut ghosts = Vec::new();
        let mut planes = Vec::new();
        for (i, (e, p)) in c.exposures.iter().zip(&path.exposures).enumerate() {
            let weights = FilterInCone::new(e.filter.as_ref(), &c.optics, 0.0).weights();
            let brightest = p
                .channels
                .iter()
                .max_by(|a, b| a.nominal().star_v0.total_cmp(&b.nominal().star_v0))
                .map(|c| (*c.nominal(), c.pixel_share));
            let halo = brightest
                .and_then(|(r, share)| ghost(c, i, (&r, share), view.gap_mm, s.clock_s(c)));
            for (channel, own) in channels.iter().zip(&p.channels) {
                let response = channel.response_on_grid();
                let (mut sum, mut moment) = (0.0, 0.0);
                for (k, (w, r)) in weights.iter().zip(&response).enumerate() {
                    sum += w * r;
                    moment += w * r * (GRID_FIRST_NM + k as f64);
                }
                let wavelength_nm = if sum > 0.0 { moment / sum } else { 550.0 };
                let slope = gradient(
                    s,
                    c,
                    i,
                    Seen { rates: own.nominal(), pixels: own.pixels, wavelength_nm },
                );
                let mut plane = Plane {
                    exposure: i,
                    channel: own.name,
                    share: own.pixel_share,
                    wavelength_nm,
                    equivalent_width_nm: p.equivalent_width_nm,
                    rates: *own.nominal(),
                    records: own.records,
                    e_per_s: Vec::with_capacity(width * height),
                    target_e_per_s: Vec::new(),
                };
                plane.fill(
                    &truth,
                    [width, height],
                    scale_arcsec,
                    slope.percent / sensor_diagonal_deg(c),
                    view.moon_direction_deg,
                );
                if !view.flat {
                    plane.add_stars(
                        &field.stars,
                        [width, height],
                        scale_arcsec,
                        view.star_fwhm_arcsec(s),
                        halo.as_ref(),
                    );
                }
                planes.push(plane);
            }
            ghosts.push(halo);
        }
        Self { size: [width, height], scale_arcsec, planes, ghosts }
    }
}

fn sensor_diagonal_deg(c: &Contender) -> f64 {
    let scale = c.optics.pixel_scale_arcsec(c.sensor.pixel_um);
    f64::from(c.sensor.columns).hypot(f64::from(c.sensor.rows)) * scale / ARCSEC_PER_DEG
}

impl Plane {
    /// As its slope is asked for, with `square` pixels of the sensor on the square of detail.
    pub(super) fn seen(&self, square: f64) -> Seen<'_> {
        Seen { rates: &self.rates, pixels: self.share * square, wavelength_nm: self.wavelength_nm }
    }

    /// Target and sky; the sky slopes by `percent_per_deg` towards `direction_deg` (counted from
    /// up, to the left).
    fn fill(
        &mut self,
        truth: &[[f32; LAYERS]],
        [width, height]: [usize; 2],
        scale: f64,
        percent_per_deg: f64,
        direction_deg: f64,
    ) {
        let r = &self.rates;
        let sky = r.background();
        let (sin, cos) = direction_deg.to_radians().sin_cos();
        self.target_e_per_s.reserve(width * height);
        let target = r.target.map(|t| t as f32);
        for j in 0..height {
            let y = (height as f64 / 2.0 - 0.5 - j as f64) * scale;
            for i in 0..width {
                let x = (i as f64 + 0.5 - width as f64 / 2.0) * scale;
                let light: f32 = truth[j * width + i].iter().zip(target).map(|(l, t)| l * t).sum();
                let tilt = 1.0 + percent_per_deg / 100.0 * (y * cos - x * sin) / ARCSEC_PER_DEG;
                self.target_e_per_s.push(light);
                self.e_per_s.push(light + (sky * tilt + r.dark) as f32);
            }
        }
    }

    /// Stars with their wings, and the ghosts of bright ones.
    fn add_stars(
        &mut self,
        stars: &[Star],
        [width, height]: [usize; 2],
        scale: f64,
        fwhm_arcsec: f64,
        halo: Option<&Ghost>,
    ) {
        let profile = StarProfile::new(fwhm_arcsec, scale);
        for star in stars {
            let colour = star_colour(star.temperature_k, self.wavelength_nm);
            let e_per_s = self.rates.star_v0 * colour * 10f64.powf(-0.4 * star.v_mag);
            let cx = star.x_arcsec / scale + width as f64 / 2.0 - 0.5;
            let cy = height as f64 / 2.0 - 0.5 - star.y_arcsec / scale;
            // Out to where a star falls below a thousandth of the background.
            let floor = 1e-3 * (self.rates.background() + self.rates.dark).max(1e-6);
            let Some(reach) = profile.reach_px(e_per_s, floor) else { continue };
            let mut splat = |reach: f64, value: &dyn Fn(f64, f64) -> f64| {
                let (x0, x1) = (
                    (cx - reach).floor().max(0.0) as usize,
                    (cx + reach).ceil().min(width as f64 - 1.0),
                );
                let (y0, y1) = (
                    (cy - reach).floor().max(0.0) as usize,
                    (cy + reach).ceil().min(height as f64 - 1.0),
                );
                if x1 < 0.0 || y1 < 0.0 {
                    return;
                }
                for j in y0..=y1 as usize {
                    for i in x0..=x1 as usize {
                        let v = value(i as f64 - cx, j as f64 - cy) as f32;
                        self.e_per_s[j * width + i] += v;
                        self.target_e_per_s[j * width + i] += v;
                    }
                }
            };
            splat(reach + 1.0, &|dx, dy| e_per_s * profile.at(dx * dx + dy * dy));
            if let Some(h) = halo.filter(|_| star.v_mag < 12.0) {
                let (outer, inner) = (h.diameter_px / 2.0, h.hole_arcsec / scale / 2.0);
                let area = std::f64::consts::PI * (outer * outer - inner * inner);
                let level = e_per_s * h.share / area.max(1.0);
                splat(outer + 1.0, &|dx, dy| {
                    let r = dx.hypot(dy);
                    if r <= outer && r >= inner { level } else { 0.0 }
                });
            }
        }
    }
}

/// How much more of a star of temperature T than of one of 6000 K a band at a wavelength sees, at
/// the same V.
pub fn star_colour(temperature_k: f64, wavelength_nm: f64) -> f64 {
    let ratio = |t: f64| blackbody_photons(t, wavelength_nm) / blackbody_photons(t, 550.0);
    ratio(temperature_k) / ratio(6000.0)
}

impl Plane {
    /// Rate of a quantity at the target's mean, e-/s per pixel.
    pub fn of(&self, q: Quantity) -> f64 {
        if self.records[q] { self.rates.of(q) } else { 0.0 }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::path::sky::part::PerSkyPart;

    const SIZE: [usize; 2] = [61, 41];

    /// A plane of one square arcsecond a pixel: ten electrons per second of sky, four of H-alpha, a
    /// star of V 0 of a million.
    fn plane() -> Plane {
        let mut rates = Rates { dark: 0.5, star_v0: 1e6, ..Rates::default() };
        rates.target[Quantity::Ha] = 4.0;
        rates.sky = PerSkyPart([6.0, 4.0, 0.0, 0.0]);
        Plane {
            exposure: 0,
            channel: "mono",
            share: 1.0,
            wavelength_nm: 550.0,
            equivalent_width_nm: 7.0,
            rates,
            records: PerQuantity([true, false, false, false, false, false]),
            e_per_s: Vec::new(),
            target_e_per_s: Vec::new(),
        }
    }

    fn filled(percent_per_deg: f64, direction_deg: f64) -> Plane {
        let mut p = plane();
        let mut light = [0.0; LAYERS];
        light[Quantity::Ha as usize] = 1.0;
        p.fill(&vec![light; SIZE[0] * SIZE[1]], SIZE, 60.0, percent_per_deg, direction_deg);
        p
    }

    fn at(p: &Plane, i: usize, j: usize) -> f64 {
        f64::from(p.e_per_s[j * SIZE[0] + i])
    }

    #[test]
    fn a_plain_field_holds_target_sky_and_dark_current() {
        let p = filled(0.0, 0.0);
        assert!(
            p.e_per_s.iter().all(|v| (*v - 14.5).abs() < 1e-5)
                && p.target_e_per_s.iter().all(|v| *v == 4.0)
        );
        assert_eq!((p.of(Quantity::Ha), p.of(Quantity::Oiii)), (4.0, 0.0));
    }

    #[test]
    fn the_sky_slopes_towards_the_moon_and_keeps_its_mean() {
        // Ten per cent a degree; a pixel is a minute, so that twenty rows up from the middle are a
        // third of a degree.
        let (up, left) = (filled(10.0, 0.0), filled(10.0, 90.0));
        let third = 10.0 * 0.1 / 3.0;
        assert!(
            (at(&up, 30, 0) - 14.5 - third).abs() < 1e-4
                && (at(&up, 30, 40) - 14.5 + third).abs() < 1e-4
        );
        assert!((at(&up, 0, 20) - 14.5).abs() < 1e-4, "nothing slopes across");
        assert!(
            (at(&left, 0, 20) - 14.5 - 0.5).abs() < 1e-4
                && (at(&left, 60, 20) - 14.5 + 0.5).abs() < 1e-4
        );
        for p in [up, left] {
            let mean =
                p.e_per_s.iter().map(|v| f64::from(*v)).sum::<f64>() / p.e_per_s.len() as f64;
            assert!((mean - 14.5).abs() < 1e-4);
            assert!(p.target_e_per_s.iter().all(|v| *v == 4.0), "the target does not slope");
        }
    }

    fn star(x_arcsec: f64, y_arcsec: f64, v_mag: f64) -> Star {
        Star { x_arcsec, y_arcsec, v_mag, temperature_k: 6000.0 }
    }

    /// Light of stars alone in a plane of one arcsecond a pixel.
    fn of_stars(stars: &[Star], halo: Option<&Ghost>) -> Plane {
        let mut p = filled(0.0, 0.0);
        p.add_stars(stars, SIZE, 1.0, 3.0, halo);
        p.e_per_s.iter_mut().for_each(|v| *v -= 14.5);
        p
    }

    #[test]
    fn a_star_keeps_its_light_and_stands_in_its_place() {
        let p = of_stars(&[star(5.0, -3.0, 5.0)], None);
        let sum: f64 = p.e_per_s.iter().map(|v| f64::from(*v)).sum();
        assert!((sum / 1e4 - 1.0).abs() < 0.01, "{sum}");
        let brightest = (0..p.e_per_s.len())
            .max_by(|&a, &b| p.e_per_s[a].total_cmp(&p.e_per_s[b]))
            .expect("pixels");
        // Five to the right and three down of the middle of 61 by 41.
        assert_eq!((brightest % SIZE[0], brightest / SIZE[0]), (35, 23));
        // One pixel aside, with half of the peak at half of the full width: (1 + (2/3)^2 (2^(1/3) -
        // 1))^3.
        let aside = (1.0 + 4.0 / 9.0 * (2f64.cbrt() - 1.0)).powi(3);
        assert!((at(&p, 35, 23) / at(&p, 36, 23) - aside).abs() < 0.01);
    }

    #[test]
    fn stars_beyond_the_border_only_leave_what_reaches_in() {
        let edge = of_stars(&[star(30.0, 0.0, 5.0)], None);
        let sum: f64 = edge.e_per_s.iter().map(|v| f64::from(*v)).sum();
        assert!((0.4e4..0.7e4).contains(&sum), "about half of it: {sum}");
        let far = of_stars(
            &[
                star(4000.0, 0.0, 5.0),
                star(-4000.0, 0.0, 5.0),
                star(0.0, 4000.0, 5.0),
                star(0.0, -4000.0, 5.0),
            ],
            None,
        );
        assert!(far.e_per_s.iter().all(|v| v.abs() < 1e-4));
    }

    #[test]
    fn a_ghost_is_an_even_ring_with_its_share_of_the_star() {
        let ghost = Ghost {
            diameter_mm: 0.1,
            diameter_arcsec: 30.0,
            diameter_px: 30.0,
            hole_arcsec: 10.0,
            share: 0.01,
            shows_from_v_mag: 6.0,
            plain_from_v_mag: 4.0,
        };
        let (with, without) = (
            of_stars(&[star(0.0, 0.0, 2.0)], Some(&ghost)),
            of_stars(&[star(0.0, 0.0, 2.0)], None),
        );
        let ring: Vec<f64> =
            with.e_per_s.iter().zip(&without.e_per_s).map(|(a, b)| f64::from(a - b)).collect();
        let flux = 1e6 * 10f64.powf(-0.8) * 0.01;
        assert!(
            (ring.iter().sum::<f64>() / flux - 1.0).abs() < 0.05,
            "{} of {flux}",
            ring.iter().sum::<f64>()
        );
        let level = |i: usize| ring[20 * SIZE[0] + i];
        // Five pixels from the middle lies the hole's rim, fifteen the outer one.
        assert!(level(30).abs() < 1e-3 && level(33).abs() < 1e-3 && level(47).abs() < 1e-3);
        assert!(level(37) > 0.0 && (level(37) - level(43)).abs() < 1e-2 * level(37));
        // A faint star's ghost is not drawn.
        let faint = of_stars(&[star(0.0, 0.0, 12.5)], Some(&ghost));
        assert_eq!(faint.e_per_s, of_stars(&[star(0.0, 0.0, 12.5)], None).e_per_s);
    }

    #[test]
    fn red_stars_are_brighter_in_red_at_the_same_v() {
        assert_eq!(star_colour(6000.0, 450.0), 1.0);
        assert!(star_colour(3500.0, 656.0) > 1.3 && star_colour(3500.0, 450.0) < 0.7);
        assert!(star_colour(12_000.0, 656.0) < 0.9 && star_colour(12_000.0, 450.0) > 1.1);
        assert!((star_colour(3500.0, 550.0) - 1.0).abs() < 1e-12, "V is V");
    }
}
