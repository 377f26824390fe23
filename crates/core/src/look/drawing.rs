//! Light drawn into a plane, pixel by pixel: target and sky, stars with their wings, ghosts.

use crate::look::field_spec::Star;
use crate::look::ghost::Ghost;
use crate::look::plane::Plane;
use crate::look::star::StarProfile;
use crate::look::structure::LAYERS;

const ARCSEC_PER_DEG: f64 = 3600.0;

/// The pixels of a crop.
#[derive(Clone, Copy)]
pub(super) struct Grid {
    pub size: [usize; 2],
    pub scale_arcsec: f64,
}

impl Grid {
    /// The middle of a pixel: arcsec right and up of the crop's middle.
    pub fn arcsec(self, i: usize, j: usize) -> [f64; 2] {
        let middle = |n: usize| n as f64 / 2.0 - 0.5;
        [
            (i as f64 - middle(self.size[0])) * self.scale_arcsec,
            (middle(self.size[1]) - j as f64) * self.scale_arcsec,
        ]
    }

    /// Where a star stands: pixels from the left and from the top.
    fn pixel(self, star: &Star) -> [f64; 2] {
        let [width, height] = self.size.map(|n| n as f64 / 2.0 - 0.5);
        [star.x_arcsec / self.scale_arcsec + width, height - star.y_arcsec / self.scale_arcsec]
    }

    /// Pixels from first to last on one axis that lie within `reach` of a place; none where it lies
    /// outside.
    fn within(self, axis: usize, at: f64, reach: f64) -> std::ops::Range<usize> {
        let n = self.size[axis] as f64;
        let from = (at - reach).ceil().clamp(0.0, n);
        from as usize..((at + reach).floor() + 1.0).clamp(from, n) as usize
    }
}

/// The slope of the sky over a crop.
#[derive(Clone, Copy)]
pub(super) struct Tilt {
    pub percent_per_deg: f64,
    /// Towards where it grows, degrees from up to the left.
    pub direction_deg: f64,
    /// Where the crop's middle lies from where the slope is nought, arcsec right and up.
    pub from_arcsec: [f64; 2],
}

impl Plane {
    /// Target and sky, which slopes.
    pub(super) fn fill(&mut self, truth: &[[f32; LAYERS]], grid: Grid, tilt: Tilt) {
        let r = &self.rates;
        let sky = r.background();
        let (sin, cos) = tilt.direction_deg.to_radians().sin_cos();
        self.target_e_per_s.reserve(truth.len());
        let target = r.target.map(|t| t as f32);
        for (k, layers) in truth.iter().enumerate() {
            let [x, y] = grid.arcsec(k % grid.size[0], k / grid.size[0]);
            let [x, y] = [x + tilt.from_arcsec[0], y + tilt.from_arcsec[1]];
            let light: f32 = layers.iter().zip(target).map(|(l, t)| l * t).sum();
            let factor = 1.0 + tilt.percent_per_deg / 100.0 * (y * cos - x * sin) / ARCSEC_PER_DEG;
            self.target_e_per_s.push(light);
            self.e_per_s.push(light + (sky * factor + r.dark) as f32);
        }
    }

    fn add(&mut self, k: usize, e_per_s: f32) {
        self.e_per_s[k] += e_per_s;
        self.target_e_per_s[k] += e_per_s;
    }

    /// Stars with their wings, visible light and infrared each with its own profile, and the ghosts
    /// of bright ones.
    pub(super) fn add_stars(
        &mut self,
        stars: &[Star],
        grid: Grid,
        profiles: &[StarProfile; 2],
        ghosts: &[Ghost],
    ) {
        let background = (self.rates.background() + self.rates.dark).max(1e-6);
        for star in stars {
            let v0 = self.rates.star_v0 * 10f64.powf(-0.4 * star.v_mag);
            let light = self.star.of(star.temperature_k).map(|share| share * v0);
            for (e_per_s, profile) in light.into_iter().zip(profiles) {
                // Out to where a star falls below a thousandth of the background.
                if let Some(reach) = profile.reach_px(e_per_s, 1e-3 * background) {
                    self.add_star(grid.pixel(star), grid, (e_per_s, profile, reach + 1.0));
                }
            }
            let e_per_s = light.iter().sum::<f64>();
            for ghost in ghosts {
                if let Some(level) = ghost.level_e_per_s(e_per_s, background) {
                    self.add_ring(grid.pixel(star), grid, (level, ghost));
                }
            }
        }
    }

    fn add_star(
        &mut self,
        [cx, cy]: [f64; 2],
        grid: Grid,
        (e_per_s, profile, reach): (f64, &StarProfile, f64),
    ) {
        for j in grid.within(1, cy, reach) {
            for i in grid.within(0, cx, reach) {
                let (dx, dy) = (i as f64 - cx, j as f64 - cy);
                let v = e_per_s * profile.at(dx * dx + dy * dy);
                self.add(j * grid.size[0] + i, v as f32);
            }
        }
    }

    fn add_ring(&mut self, [cx, cy]: [f64; 2], grid: Grid, (level, ghost): (f64, &Ghost)) {
        let (outer, inner) = (ghost.diameter_px / 2.0, ghost.hole_px() / 2.0);
        for j in grid.within(1, cy, outer) {
            let dy = j as f64 - cy;
            let chord = (outer * outer - dy * dy).max(0.0).sqrt();
            let hole = inner * inner - dy * dy;
            for i in grid.within(0, cx, chord) {
                let dx = i as f64 - cx;
                if dx * dx >= hole {
                    self.add(j * grid.size[0] + i, level as f32);
                }
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::light::lines::{PerQuantity, Quantity};
    use crate::look::ghost::Between;
    use crate::look::star_light::StarLight;
    use crate::path::rates::Rates;
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
            star: StarLight::grey(),
            equivalent_width_nm: 7.0,
            rates,
            records: PerQuantity([true, false, false, false, false, false]),
            passes: PerQuantity([true, false, false, false, false, true]),
            e_per_s: Vec::new(),
            target_e_per_s: Vec::new(),
        }
    }

    fn grid(scale_arcsec: f64) -> Grid {
        Grid { size: SIZE, scale_arcsec }
    }

    fn filled(percent_per_deg: f64, direction_deg: f64) -> Plane {
        let mut p = plane();
        let mut light = [0.0; LAYERS];
        light[Quantity::Ha as usize] = 1.0;
        let tilt = Tilt { percent_per_deg, direction_deg, from_arcsec: [0.0; 2] };
        p.fill(&vec![light; SIZE[0] * SIZE[1]], grid(60.0), tilt);
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
    fn of_stars(stars: &[Star], ghosts: &[Ghost]) -> Plane {
        let mut p = filled(0.0, 0.0);
        p.add_stars(stars, grid(1.0), &[StarProfile::new(3.0, 1.0); 2], ghosts);
        p.e_per_s.iter_mut().for_each(|v| *v -= 14.5);
        p
    }

    #[test]
    fn a_star_keeps_its_light_and_stands_in_its_place() {
        let p = of_stars(&[star(5.0, -3.0, 5.0)], &[]);
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
        let edge = of_stars(&[star(30.0, 0.0, 5.0)], &[]);
        let sum: f64 = edge.e_per_s.iter().map(|v| f64::from(*v)).sum();
        assert!((0.4e4..0.7e4).contains(&sum), "about half of it: {sum}");
        let far = of_stars(
            &[
                star(4000.0, 0.0, 5.0),
                star(-4000.0, 0.0, 5.0),
                star(0.0, 4000.0, 5.0),
                star(0.0, -4000.0, 5.0),
            ],
            &[],
        );
        assert!(far.e_per_s.iter().all(|v| v.abs() < 1e-4));
    }

    #[test]
    fn a_ghost_is_an_even_ring_with_its_share_of_the_star() {
        let ghost = Ghost {
            between: Between::FilterAndSensor,
            gap_mm: 1.0,
            diameter_mm: 0.1,
            diameter_arcsec: 30.0,
            diameter_px: 30.0,
            hole_arcsec: 10.0,
            share: 0.01,
            shows_from_v_mag: 6.0,
            plain_from_v_mag: 4.0,
        };
        let (with, without) =
            (of_stars(&[star(0.0, 0.0, 2.0)], &[ghost]), of_stars(&[star(0.0, 0.0, 2.0)], &[]));
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
        let faint = of_stars(&[star(0.0, 0.0, 14.5)], &[ghost]);
        assert_eq!(faint.e_per_s, of_stars(&[star(0.0, 0.0, 14.5)], &[]).e_per_s);
    }
}
