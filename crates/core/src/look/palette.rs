//! From planes of electrons to a picture: quantities, palettes, one stretch for all crops.

use crate::light::lines::Quantity;
use crate::look::plane::Plane;
use crate::look::planes::Planes;
use crate::look::view::{Match, Palette, Stretch};
use crate::path::filter::response::BROAD_NM;
use crate::path::sky::part::{PerSkyPart, SkyPart};

/// Where the background lies between black and white before the curve: the usual curve brings it to
/// about a quarter, as automatic stretches do (common practice, no source).
const BACKGROUND_LEVEL: f64 = 0.07;

/// Target means above the background that reach full white.
const WHITE_TARGETS: f64 = 12.0;

/// A plane so many times wider than the next is luminance, not a colour.
const LUMINANCE_OVER_COLOUR: f64 = 1.5;

/// What a channel of the picture stands for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Light {
    /// One line, through filters that pass little else.
    Line(Quantity),
    /// H-alpha and [S II] together.
    RedLines,
    /// All light of a wide band.
    Broad,
}

/// One channel of the picture: which planes it is made of, with weights, and what background and
/// target are in it.
#[derive(Clone, Debug)]
pub struct Mix {
    /// (index of the plane, weight).
    pub parts: Vec<(usize, f64)>,
    /// What it stands for.
    pub light: Light,
    /// Sky of the mix by its parts (natural, lamps, moon, twilight), e-/s.
    pub sky: PerSkyPart<f64>,
    /// Dark current of the mix, e-/s.
    pub dark: f64,
    /// Target's mean in the mix, e-/s.
    pub target: f64,
    /// A sunlike star of V magnitude zero, all its light in one pixel, e-/s: what channels are
    /// balanced by.
    pub white: f64,
}

impl Mix {
    /// Sky, e-/s.
    pub fn sky_sum(&self) -> f64 {
        self.sky.iter().sum()
    }

    /// Sky and dark current, e-/s.
    pub fn background(&self) -> f64 {
        self.sky_sum() + self.dark
    }
}

/// What a picture is made of.
#[derive(Clone, Debug, Default)]
pub struct Colours {
    /// Red, green and blue; `None` for a channel that has nothing to show.
    pub rgb: [Option<Mix>; 3],
    /// Brightness of its own, where a luminance filter gives one: colours come from `rgb` then, and
    /// light from here.
    pub luminance: Option<Mix>,
    /// Whether channels keep their ratios after balance on a sunlike star; false where each is
    /// stretched for itself.
    pub balanced: bool,
}

impl Colours {
    fn grey(mix: Option<Mix>) -> Self {
        Self { rgb: [mix.clone(), mix.clone(), mix], luminance: None, balanced: false }
    }

    /// All mixes, luminance last.
    pub fn all(&self) -> impl Iterator<Item = &Mix> {
        self.rgb.iter().chain([&self.luminance]).flatten()
    }
}

impl Planes {
    /// Planes that pass a quantity, weighted by inverse variance: S / (S + B + D) of each;
    /// where the target sends none of it, all that would pass it alike.
    fn mix_of(&self, q: Quantity) -> Option<Mix> {
        let carry = |test: &dyn Fn(&Plane) -> bool, weight: &dyn Fn(&Plane) -> f64| {
            let own = self.planes.iter().enumerate().filter(|(_, p)| test(p));
            own.map(|(i, p)| (i, weight(p))).collect::<Vec<(usize, f64)>>()
        };
        let mut parts =
            carry(&|p| p.of(q) > 0.0, &|p| p.of(q) * p.share / p.rates.total().max(1e-12));
        if parts.is_empty() {
            parts = carry(&|p| p.passes[q], &|p| p.share);
        }
        let narrow = parts.iter().all(|(i, _)| self.planes[*i].equivalent_width_nm <= BROAD_NM);
        let light = if narrow { Light::Line(q) } else { Light::Broad };
        self.mean(parts).map(|mix| Mix { light, ..mix })
    }

    /// The mean of some planes by weights.
    fn mean(&self, parts: Vec<(usize, f64)>) -> Option<Mix> {
        let sum: f64 = parts.iter().map(|p| p.1).sum();
        (sum > 0.0).then(|| self.sum(parts.into_iter().map(|(i, w)| (i, w / sum)).collect()))
    }

    /// The sum of some planes times weights.
    fn sum(&self, parts: Vec<(usize, f64)>) -> Mix {
        let total = |f: &dyn Fn(&Plane) -> f64| {
            parts.iter().map(|(i, w)| w * f(&self.planes[*i])).sum::<f64>()
        };
        let sky = PerSkyPart(SkyPart::ALL).map(|part| total(&|p| p.rates.sky[part]));
        let (dark, white) = (total(&|p| p.rates.dark), total(&|p| p.rates.star_v0).max(1e-12));
        let target = total(&|p| p.rates.target_sum()).max(1e-12);
        Mix { sky, dark, white, target, light: Light::Broad, parts }
    }

    /// The mean of the planes that a test picks, each by its share of the pixels.
    fn picked(&self, test: impl Fn(&Plane) -> bool) -> Option<Mix> {
        let own = self.planes.iter().enumerate().filter(|(_, p)| test(p));
        self.mean(own.map(|(i, p)| (i, p.share)).collect())
    }

    /// H-alpha of narrow planes on top of a broad red: half and half, each brought to the same
    /// star, so that stars keep their colour and the line stands out.
    fn with_line(&self, red: Mix, test: impl Fn(&Plane) -> bool) -> Mix {
        let narrow =
            |p: &Plane| p.equivalent_width_nm <= BROAD_NM && p.of(Quantity::Ha) > 0.0 && test(p);
        let Some(line) = self.picked(narrow) else { return red };
        let scale = 0.5 * red.white / line.white;
        let halved = red.parts.iter().map(|(i, w)| (*i, 0.5 * w));
        self.sum(halved.chain(line.parts.iter().map(|(i, w)| (*i, w * scale))).collect())
    }

    /// The lines that narrow planes record.
    fn lines(&self) -> Vec<Quantity> {
        let lines = Quantity::ALL.into_iter().filter(|q| *q != Quantity::Continuum);
        lines.filter(|q| self.planes.iter().any(|p| p.of(*q) > 0.0)).collect()
    }

    /// Whether colours of an array that record no line pass enough of the target's own continuum to
    /// give it a hue: starlight there, and a target that shines in it as it does beside the line.
    fn continuum_has_hue(&self) -> bool {
        let over_white = |p: &Plane| p.rates.target_sum() / p.rates.star_v0.max(1e-12);
        let most = self.planes.iter().map(over_white).fold(0.0, f64::max);
        let lightest = self.planes.iter().map(|p| p.rates.star_v0).fold(0.0, f64::max);
        let lit = self.planes.iter().filter(|p| {
            let dark = p.rates.star_v0 < 0.2 * lightest || over_white(p) < 0.3 * most;
            p.channel != "mono" && !dark
        });
        lit.count() == 3
    }

    /// The luminance of a set of filters: the broad plane that is much wider than three others.
    fn luminance(&self) -> Option<usize> {
        let mut broad: Vec<usize> = (0..self.planes.len())
            .filter(|&i| self.planes[i].equivalent_width_nm > BROAD_NM)
            .collect();
        let width = |i: &usize| self.planes[*i].equivalent_width_nm;
        broad.sort_by(|a, b| width(b).total_cmp(&width(a)));
        match broad[..] {
            [widest, next, _, _, ..] if width(&widest) > LUMINANCE_OVER_COLOUR * width(&next) => {
                Some(widest)
            }
            _ => None,
        }
    }

    /// What a picture in a palette is made of.
    pub fn colours(&self, palette: Palette, single: Quantity) -> Colours {
        let q = |q| self.mix_of(q);
        match palette {
            Palette::Single => Colours::grey(q(single)),
            Palette::Hoo => Colours {
                rgb: [q(Quantity::Ha), q(Quantity::Oiii), q(Quantity::Oiii)],
                ..Colours::default()
            },
            Palette::Sho => Colours {
                rgb: [q(Quantity::Sii), q(Quantity::Ha), q(Quantity::Oiii)],
                ..Colours::default()
            },
            Palette::Natural => self.natural(),
        }
    }

    fn natural(&self) -> Colours {
        let broad = |p: &Plane| p.equivalent_width_nm > BROAD_NM;
        let any_broad = self.planes.iter().any(broad);
        // One line has no hue of its own beside others: it is grey.
        if let ([one], false) = (&self.lines()[..], any_broad || self.continuum_has_hue()) {
            return Colours::grey(self.mix_of(*one));
        }
        let balanced = |rgb| Colours { rgb, luminance: None, balanced: true };
        if self.planes.iter().any(|p| p.channel != "mono") {
            let of = |name: &str| self.picked(|p| p.channel == name && (broad(p) || !any_broad));
            let red = of("r")
                .map(|r| if any_broad { self.with_line(r, |p| p.channel == "r") } else { r });
            return balanced([red, of("g"), of("b")]);
        }
        let luminance = self.luminance();
        let colour = |from_nm: f64, to_nm: f64| {
            let own = (0..self.planes.len()).filter(|&i| {
                let p = &self.planes[i];
                Some(i) != luminance && broad(p) && (from_nm..to_nm).contains(&p.star.wavelength_nm)
            });
            self.mean(own.map(|i| (i, self.planes[i].share)).collect())
        };
        if let (Some(red), Some(green), Some(blue)) =
            (colour(590.0, 900.0), colour(500.0, 590.0), colour(300.0, 500.0))
        {
            let luminance = luminance.map(|i| self.sum(vec![(i, 1.0)]));
            return Colours {
                luminance,
                ..balanced([Some(self.with_line(red, |_| true)), Some(green), Some(blue)])
            };
        }
        if let Some(white) = self.picked(broad) {
            // Without all three colours a broad path is grey, with what it has of H-alpha in red.
            return balanced([
                Some(self.with_line(white.clone(), |_| true)),
                Some(white.clone()),
                Some(white),
            ]);
        }
        let red = match (self.mix_of(Quantity::Ha), self.mix_of(Quantity::Sii)) {
            (Some(ha), Some(sii)) => {
                let parts = ha.parts.iter().chain(&sii.parts).map(|(i, w)| (*i, 0.5 * w)).collect();
                self.mean(parts).map(|mix| Mix { light: Light::RedLines, ..mix })
            }
            (ha, sii) => ha.or(sii),
        };
        let teal = self.mix_of(Quantity::Oiii).or_else(|| self.mix_of(Quantity::Hb));
        Colours { rgb: [red, teal.clone(), teal], ..Colours::default() }
    }
}

/// How one picture channel is scaled before the stretch: v = (e/s - black) * gain, where 0 is black
/// and 1 white.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Scaling {
    /// Subtracted, e-/s.
    pub black: f64,
    /// Factor to screen units.
    pub gain: f64,
}

/// The scaling of a mix. `brightest` is the brightest target of the channels that keep their
/// ratios, over a sunlike star; `common` the largest white of all crops, for [`Match::Exposure`],
/// in electrons per second.
pub fn scaling(mix: &Mix, mode: Match, brightest: Option<f64>, common: f64) -> Scaling {
    match mode {
        Match::Background => {
            let target = brightest.map_or(mix.target, |b| b * mix.white);
            let gain = (1.0 - BACKGROUND_LEVEL) / (WHITE_TARGETS * target);
            Scaling { black: mix.background() - BACKGROUND_LEVEL / gain, gain }
        }
        Match::Exposure => Scaling { black: 0.0, gain: 1.0 / common.max(1e-12) },
    }
}

/// The brightest target of channels that keep their ratios, over a sunlike star; `None` where each
/// is scaled for itself.
pub fn brightest(colours: &Colours) -> Option<f64> {
    colours
        .balanced
        .then(|| colours.rgb.iter().flatten().map(|m| m.target / m.white).fold(0.0, f64::max))
        .filter(|b| *b > 0.0)
}

/// What reaches white where exposure is matched, e-/s.
pub fn white_e_per_s(mix: &Mix) -> f64 {
    mix.background() * 1.5 + WHITE_TARGETS * mix.target
}

/// The stretch, 0-1 to 0-1. `strength` from 0 (straight) to 1.
///
/// Asinh: asinh(v / b) / asinh(1 / b) (Lupton et al. 2004). Midtones: ((m - 1) v) / ((2 m - 1) v -
/// m), the rational curve through (0, 0), (m, 0.5), (1, 1).
pub fn stretched(v: f64, stretch: Stretch, strength: f64) -> f64 {
    let v = v.clamp(0.0, 1.0);
    match stretch {
        Stretch::Linear => v,
        Stretch::Asinh => {
            let b = 10f64.powf(-0.2 - 1.6 * strength);
            (v / b).asinh() / (1.0 / b).asinh()
        }
        Stretch::Midtones => {
            let m = 0.5 - 0.42 * strength;
            ((m - 1.0) * v) / ((2.0 * m - 1.0) * v - m)
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn stretches_keep_black_and_white_and_their_order() {
        for stretch in [Stretch::Linear, Stretch::Asinh, Stretch::Midtones] {
            for strength in [0.0, 0.5, 1.0] {
                let f = |v| stretched(v, stretch, strength);
                assert!(f(0.0).abs() < 1e-12 && (f(1.0) - 1.0).abs() < 1e-12);
                assert!((1..50).all(|i| f(f64::from(i) / 50.0) > f(f64::from(i - 1) / 50.0)));
            }
        }
        assert!((stretched(0.08, Stretch::Midtones, 1.0) - 0.5).abs() < 1e-12);
    }
}
