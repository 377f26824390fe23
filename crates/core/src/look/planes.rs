//! What each channel of each exposure collects, pixel by pixel, before any noise: electrons per second on the contender's own grid.

use super::LookView;
use super::field::{Field, LAYERS, Star};
use super::ghost::{Ghost, Seen, ghost, gradient};
use crate::evaluate::PreparedContender;
use crate::filter::FilterInCone;
use crate::light::{GRID_FIRST_NM, Quantity, blackbody_photons};
use crate::path::Rates;
use crate::scenario::{Contender, Scenario};

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
    pub records: [bool; 5],
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
    pub fn new(s: &Scenario, c: &Contender, prepared: &PreparedContender, field: &Field, view: &LookView) -> Self {
        let scale_arcsec = prepared.scale_arcsec;
        let [width, height] = field.spec().size_arcsec.map(|a| ((a / scale_arcsec).round() as usize).max(8));
        let channels = c.sensor.channels();
        let middle = |n: usize| n as f64 / 2.0 - 0.5;
        // The truth at every pixel, once for all exposures and channels.
        let truth: Vec<[f32; LAYERS]> = (0..height)
            .flat_map(|j| {
                (0..width).map(move |i| field.at((i as f64 - middle(width)) * scale_arcsec, (middle(height) - j as f64) * scale_arcsec))
            })
            .collect();
        let mut ghosts = Vec::new();
        let mut planes = Vec::new();
        for (i, (e, p)) in c.exposures.iter().zip(&prepared.exposures).enumerate() {
            let weights = FilterInCone::new(e.filter.as_ref(), &c.optics, 0.0).weights();
            let brightest = p.channels.iter().max_by(|a, b| a.rates.star_v0.total_cmp(&b.rates.star_v0)).map(|c| c.rates);
            let halo = brightest.and_then(|r| ghost(c, i, &r, view.gap_mm, s.total_s));
            for (channel, own) in channels.iter().zip(&p.channels) {
                let response = channel.response_on_grid();
                let (mut sum, mut moment) = (0.0, 0.0);
                for (k, (w, r)) in weights.iter().zip(&response).enumerate() {
                    sum += w * r;
                    moment += w * r * (GRID_FIRST_NM + k as f64);
                }
                let wavelength_nm = if sum > 0.0 { moment / sum } else { 550.0 };
                let slope = gradient(s, c, i, Seen { rates: &own.rates, pixels: own.stack.pixels, wavelength_nm });
                let mut plane = Plane {
                    exposure: i,
                    channel: own.name,
                    share: own.pixel_share,
                    wavelength_nm,
                    equivalent_width_nm: p.equivalent_width_nm,
                    rates: own.rates,
                    records: own.records,
                    e_per_s: Vec::with_capacity(width * height),
                    target_e_per_s: Vec::new(),
                };
                plane.fill(&truth, [width, height], scale_arcsec, slope.percent / sensor_diagonal_deg(c), view.moon_direction_deg);
                if !view.flat {
                    plane.add_stars(
                        &field.stars,
                        [width, height],
                        scale_arcsec,
                        s.seeing_fwhm_arcsec.hypot(2.355 * view.guiding_rms_arcsec),
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

    /// Target and sky; the sky slopes by `percent_per_deg` towards `direction_deg` (counted from up, to the left).
    fn fill(&mut self, truth: &[[f32; LAYERS]], [width, height]: [usize; 2], scale: f64, percent_per_deg: f64, direction_deg: f64) {
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

    /// Stars as Gaussians, and the ghosts of bright ones.
    fn add_stars(&mut self, stars: &[Star], [width, height]: [usize; 2], scale: f64, fwhm_arcsec: f64, halo: Option<&Ghost>) {
        let sigma_px = (fwhm_arcsec / 2.354_82 / scale).max(0.35);
        for star in stars {
            let colour = star_colour(star.temperature_k, self.wavelength_nm);
            let e_per_s = self.rates.star_v0 * colour * 10f64.powf(-0.4 * star.v_mag);
            let cx = star.x_arcsec / scale + width as f64 / 2.0 - 0.5;
            let cy = height as f64 / 2.0 - 0.5 - star.y_arcsec / scale;
            // Out to where a star falls below a thousandth of the background.
            let floor = 1e-3 * (self.rates.background() + self.rates.dark).max(1e-6);
            let peak = e_per_s / (std::f64::consts::TAU * sigma_px * sigma_px);
            if peak < floor {
                continue;
            }
            let reach = sigma_px * (2.0 * (peak / floor).ln()).sqrt() + 1.0;
            let mut splat = |reach: f64, value: &dyn Fn(f64, f64) -> f64| {
                let (x0, x1) = ((cx - reach).floor().max(0.0) as usize, (cx + reach).ceil().min(width as f64 - 1.0));
                let (y0, y1) = ((cy - reach).floor().max(0.0) as usize, (cy + reach).ceil().min(height as f64 - 1.0));
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
            splat(reach, &|dx, dy| peak * (-(dx * dx + dy * dy) / (2.0 * sigma_px * sigma_px)).exp());
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

/// How much more of a star of temperature T than of one of 6000 K a band at a wavelength sees, at the same V.
pub fn star_colour(temperature_k: f64, wavelength_nm: f64) -> f64 {
    let ratio = |t: f64| blackbody_photons(t, wavelength_nm) / blackbody_photons(t, 550.0);
    ratio(temperature_k) / ratio(6000.0)
}

impl Plane {
    /// Rate of a quantity at the target's mean, e-/s per pixel.
    pub fn of(&self, q: Quantity) -> f64 {
        if self.records[q as usize] { self.rates.of(q) } else { 0.0 }
    }
}
