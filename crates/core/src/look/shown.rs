//! What the eye makes out at the stretch that is shown: steps of brightness on the screen, not
//! electrons against noise alone.

use crate::look::palette::{Colours, Mix, Scaling, brightest, scaling, stretched};
use crate::look::planes::Planes;
use crate::look::star::StarProfile;
use crate::look::view::LookView;
use crate::path::scene::STAR_TEMPERATURE_K;

/// The least step of brightness that the rim of a ring shows by, of black to white (from memory:
/// five of 255 levels).
const EDGE_STEP: f64 = 0.02;

/// The least step over the spread of a pixel's noise: over many pixels the eye finds what is well
/// below the noise of one (from memory).
const EDGE_OVER_NOISE: f64 = 0.3;

/// The least difference of brightness between the corners that a slow slope is minded by, of black
/// to white. From memory, and set between two facts of practice with their figures seen: sixty
/// degrees from a full moon luminance on galaxies comes out at 0.3 to 0.6 and is minded, a bright
/// nebula through narrow bands at 0.06 to 0.19 and is not.
pub const SLOPE_STEP: f64 = 0.2;

/// One picture's channels and how they are brought to the screen.
pub struct Shown<'a> {
    planes: &'a Planes,
    view: &'a LookView,
    mixes: Vec<(Mix, Scaling)>,
    /// How many of the first mixes are red, green and blue.
    colours: usize,
    /// Spread of a pixel's noise in each plane's stack, e-/s.
    noise_e_per_s: Vec<f64>,
}

impl<'a> Shown<'a> {
    /// A picture as `view` asks; `white` is what all pictures share where exposure is matched.
    pub fn new(
        planes: &'a Planes,
        colours: &Colours,
        view: &'a LookView,
        white: f64,
        noise_e_per_s: Vec<f64>,
    ) -> Self {
        let top = brightest(colours);
        let of = |m: &Mix, top: Option<f64>| (m.clone(), scaling(m, view.matched, top, white));
        let mut mixes: Vec<_> = colours.rgb.iter().flatten().map(|m| of(m, top)).collect();
        let count = mixes.len();
        mixes.extend(colours.luminance.iter().map(|m| of(m, None)));
        Self { planes, view, mixes, colours: count, noise_e_per_s }
    }

    fn on_screen(&self, v: f64) -> f64 {
        stretched(v, self.view.stretch, self.view.strength)
    }

    /// Brightness of a mix's background with so many electrons per second in each plane on top.
    fn level(&self, (mix, scale): &(Mix, Scaling), of: &dyn Fn(usize) -> f64) -> f64 {
        let more: f64 = mix.parts.iter().map(|(i, w)| w * of(*i)).sum();
        self.on_screen((mix.background() - scale.black + more) * scale.gain)
    }

    /// The largest step on the screen, 0-1, that so many electrons per second on top of the
    /// background make in any channel, and the spread of a pixel's noise there.
    pub fn step(&self, of: &dyn Fn(usize) -> f64) -> [f64; 2] {
        let each = self.mixes.iter().map(|mix| {
            let ground = self.level(mix, &|_| 0.0);
            let variance: f64 =
                mix.0.parts.iter().map(|(i, w)| (w * self.noise_e_per_s[*i]).powi(2)).sum();
            let ground_v = (mix.0.background() - mix.1.black) * mix.1.gain;
            let noise = self.on_screen(ground_v + variance.sqrt() * mix.1.gain) - ground;
            [self.level(mix, of) - ground, noise]
        });
        each.max_by(|a, b| a[0].total_cmp(&b[0])).unwrap_or([0.0; 2])
    }

    /// The step of brightness that so many electrons per second on top of the background make, 0-1:
    /// the luminance's where there is one, else the mean of the colours.
    pub fn brightness_step(&self, of: &dyn Fn(usize) -> f64) -> f64 {
        let (colours, luminance) = self.mixes.split_at(self.colours);
        let own = if luminance.is_empty() { colours } else { luminance };
        let each = own.iter().map(|mix| self.level(mix, of) - self.level(mix, &|_| 0.0));
        each.sum::<f64>() / own.len().max(1) as f64
    }

    /// Whether a rim that adds so many electrons per second shows.
    pub fn edge_shows(&self, of: &dyn Fn(usize) -> f64) -> bool {
        let [step, noise] = self.step(of);
        step >= EDGE_STEP.max(EDGE_OVER_NOISE * noise)
    }

    /// Stars brighter than this show a ring of a share of their light, spread over so many pixels
    /// in the planes of one exposure; V mag.
    pub fn ring_from_v_mag(&self, exposure: usize, share_per_px: f64) -> Option<f64> {
        let shows = |v_mag: f64| {
            let star = 10f64.powf(-0.4 * v_mag) * share_per_px;
            self.edge_shows(&|i: usize| {
                let p = &self.planes.planes[i];
                if p.exposure == exposure { p.rates.star_v0 * star } else { 0.0 }
            })
        };
        last_that(shows, [-12.0, 20.0])
    }

    /// How large a sunlike star of a magnitude stands on the screen, arcsec across: out to half way
    /// from the background to white, in red, green and blue (one entry for a grey picture), and in
    /// all that is shown.
    pub fn star_arcsec(&self, v_mag: f64, profiles: &[StarProfile; 2]) -> (Vec<f64>, f64) {
        let width = |mix: &(Mix, Scaling)| {
            let ground = self.level(mix, &|_| 0.0);
            let half = ground + (1.0 - ground) / 2.0;
            let lit = |r_px: f64| {
                self.level(mix, &|i| {
                    let p = &self.planes.planes[i];
                    let star = p.rates.star_v0 * 10f64.powf(-0.4 * v_mag);
                    let [visible, infrared] = p.star.of(STAR_TEMPERATURE_K);
                    let at = |k: usize| profiles[k].at(r_px * r_px);
                    star * (visible * at(0) + infrared * at(1))
                }) >= half
            };
            2.0 * last_that(lit, [0.0, 4000.0]).unwrap_or(0.0) * self.planes.scale_arcsec
        };
        let each: Vec<f64> = self.mixes.iter().map(width).collect();
        let (rgb, luminance) = each.split_at(self.colours);
        let all = luminance.first().copied();
        (rgb.to_vec(), all.unwrap_or_else(|| rgb.iter().copied().fold(0.0, f64::max)))
    }
}

/// The last value of a span up to which something holds; `None` where it does not hold at its
/// beginning.
fn last_that(holds: impl Fn(f64) -> bool, [mut low, mut high]: [f64; 2]) -> Option<f64> {
    if !holds(low) {
        return None;
    }
    for _ in 0..44 {
        let middle = f64::midpoint(low, high);
        if holds(middle) { low = middle } else { high = middle }
    }
    Some(low)
}
