//! From planes of electrons to a picture: quantities, palettes, one stretch for all crops, and the cast in words.

use serde::Serialize;
use utoipa::ToSchema;

use crate::light::lines::Quantity;
use crate::look::planes::{Plane, Planes};
use crate::look::view::{Match, Palette, Stretch};
use crate::path::filter::response::BROAD_NM;
use crate::path::sky::part::{PerSkyPart, SkyPart};

/// Brightness of the background on screen, 0-1.
const BACKGROUND_LEVEL: f64 = 0.12;

/// Target means above the background that reach full white.
const WHITE_TARGETS: f64 = 12.0;

/// A plane so many times wider than the next is luminance, not a colour.
const LUMINANCE_OVER_COLOUR: f64 = 1.5;

/// One channel of the picture: which planes it is made of, with weights, and what background and target are in it.
#[derive(Clone, Debug)]
pub struct Mix {
    /// (index of the plane, weight).
    pub parts: Vec<(usize, f64)>,
    /// Sky of the mix by its parts (natural, lamps, moon, twilight), e-/s.
    pub sky: PerSkyPart<f64>,
    /// Dark current of the mix, e-/s.
    pub dark: f64,
    /// Target's mean in the mix, e-/s.
    pub target: f64,
    /// A sunlike star of V magnitude zero, all its light in one pixel, e-/s: what channels are balanced by.
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
    /// Brightness of its own, where a luminance filter gives one: colours come from `rgb` then, and light from here.
    pub luminance: Option<Mix>,
    /// Whether channels keep their ratios after balance on a sunlike star; false where each is stretched for itself.
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
    /// Planes that carry a quantity, weighted by inverse variance: S / (S + B + D) of each.
    fn mix_of(&self, q: Quantity) -> Option<Mix> {
        let carry = self.planes.iter().enumerate().filter(|(_, p)| p.of(q) > 0.0);
        let parts = carry.map(|(i, p)| (i, p.of(q) * p.share / p.rates.total().max(1e-12))).collect();
        self.mean(parts, |p| p.of(q))
    }

    /// The mean of some planes by weights.
    fn mean(&self, parts: Vec<(usize, f64)>, target: impl Fn(&Plane) -> f64) -> Option<Mix> {
        let sum: f64 = parts.iter().map(|p| p.1).sum();
        (sum > 0.0).then(|| self.sum(parts.into_iter().map(|(i, w)| (i, w / sum)).collect(), target))
    }

    /// The sum of some planes times weights.
    fn sum(&self, parts: Vec<(usize, f64)>, target: impl Fn(&Plane) -> f64) -> Mix {
        let total = |f: &dyn Fn(&Plane) -> f64| parts.iter().map(|(i, w)| w * f(&self.planes[*i])).sum::<f64>();
        let sky = PerSkyPart(SkyPart::ALL).map(|part| total(&|p| p.rates.sky[part]));
        let (dark, white) = (total(&|p| p.rates.dark), total(&|p| p.rates.star_v0).max(1e-12));
        Mix { sky, dark, white, target: total(&target).max(1e-12), parts }
    }

    /// The mean of the planes that a test picks, each by its share of the pixels.
    fn picked(&self, test: impl Fn(&Plane) -> bool) -> Option<Mix> {
        let own = self.planes.iter().enumerate().filter(|(_, p)| test(p));
        self.mean(own.map(|(i, p)| (i, p.share)).collect(), |p| p.rates.target_sum())
    }

    /// H-alpha of narrow planes on top of a broad red: half and half, each brought to the same star, so that stars keep their colour
    /// and the line stands out.
    fn with_line(&self, red: Mix, test: impl Fn(&Plane) -> bool) -> Mix {
        let narrow = |p: &Plane| p.equivalent_width_nm <= BROAD_NM && p.of(Quantity::Ha) > 0.0 && test(p);
        let Some(line) = self.picked(narrow) else { return red };
        let scale = 0.5 * red.white / line.white;
        let halved = red.parts.iter().map(|(i, w)| (*i, 0.5 * w));
        self.sum(halved.chain(line.parts.iter().map(|(i, w)| (*i, w * scale))).collect(), |p| p.rates.target_sum())
    }

    /// The lines that narrow planes record.
    fn lines(&self) -> Vec<Quantity> {
        let lines = Quantity::ALL.into_iter().filter(|q| *q != Quantity::Continuum);
        lines.filter(|q| self.planes.iter().any(|p| p.of(*q) > 0.0)).collect()
    }

    /// The luminance of a set of filters: the broad plane that is much wider than three others.
    fn luminance(&self) -> Option<usize> {
        let mut broad: Vec<usize> = (0..self.planes.len()).filter(|&i| self.planes[i].equivalent_width_nm > BROAD_NM).collect();
        let width = |i: &usize| self.planes[*i].equivalent_width_nm;
        broad.sort_by(|a, b| width(b).total_cmp(&width(a)));
        match broad[..] {
            [widest, next, _, _, ..] if width(&widest) > LUMINANCE_OVER_COLOUR * width(&next) => Some(widest),
            _ => None,
        }
    }

    /// What a picture in a palette is made of.
    pub fn colours(&self, palette: Palette, single: Quantity) -> Colours {
        let q = |q| self.mix_of(q);
        match palette {
            Palette::Single => Colours::grey(q(single)),
            Palette::Hoo => Colours { rgb: [q(Quantity::Ha), q(Quantity::Oiii), q(Quantity::Oiii)], ..Colours::default() },
            Palette::Sho => Colours { rgb: [q(Quantity::Sii), q(Quantity::Ha), q(Quantity::Oiii)], ..Colours::default() },
            Palette::Natural => self.natural(),
        }
    }

    fn natural(&self) -> Colours {
        let broad = |p: &Plane| p.equivalent_width_nm > BROAD_NM;
        let any_broad = self.planes.iter().any(broad);
        // One line has no hue of its own beside others: it is grey.
        if let ([one], false) = (&self.lines()[..], any_broad) {
            return Colours::grey(self.mix_of(*one));
        }
        let balanced = |rgb| Colours { rgb, luminance: None, balanced: true };
        if self.planes.iter().any(|p| p.channel != "mono") {
            let of = |name: &str| self.picked(|p| p.channel == name && (broad(p) || !any_broad));
            let red = of("r").map(|r| if any_broad { self.with_line(r, |p| p.channel == "r") } else { r });
            return balanced([red, of("g"), of("b")]);
        }
        let luminance = self.luminance();
        let colour = |from_nm: f64, to_nm: f64| {
            let own = (0..self.planes.len()).filter(|&i| {
                let p = &self.planes[i];
                Some(i) != luminance && broad(p) && (from_nm..to_nm).contains(&p.wavelength_nm)
            });
            self.mean(own.map(|i| (i, self.planes[i].share)).collect(), |p| p.rates.target_sum())
        };
        if let (Some(red), Some(green), Some(blue)) = (colour(590.0, 900.0), colour(500.0, 590.0), colour(300.0, 500.0)) {
            let luminance = luminance.map(|i| self.sum(vec![(i, 1.0)], |p| p.rates.target_sum()));
            return Colours { luminance, ..balanced([Some(self.with_line(red, |_| true)), Some(green), Some(blue)]) };
        }
        if let Some(white) = self.picked(broad) {
            // Without all three colours a broad path is grey, with what it has of H-alpha in red.
            return balanced([Some(self.with_line(white.clone(), |_| true)), Some(white.clone()), Some(white)]);
        }
        let red = match (self.mix_of(Quantity::Ha), self.mix_of(Quantity::Sii)) {
            (Some(ha), Some(sii)) => {
                let parts = ha.parts.iter().chain(&sii.parts).map(|(i, w)| (*i, 0.5 * w)).collect();
                self.mean(parts, |p| p.rates.target_sum())
            }
            (ha, sii) => ha.or(sii),
        };
        let teal = self.mix_of(Quantity::Oiii).or_else(|| self.mix_of(Quantity::Hb));
        Colours { rgb: [red, teal.clone(), teal], ..Colours::default() }
    }
}

/// How one picture channel is scaled before the stretch: v = (e/s - black) * gain, where 0 is black and 1 white.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Scaling {
    /// Subtracted, e-/s.
    pub black: f64,
    /// Factor to screen units.
    pub gain: f64,
}

/// The scaling of a mix. `brightest` is the brightest target of the channels that keep their ratios, over a sunlike star; `common`
/// the largest white of all crops, for [`Match::Exposure`], in electrons per second.
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

/// The brightest target of channels that keep their ratios, over a sunlike star; `None` where each is scaled for itself.
pub fn brightest(colours: &Colours) -> Option<f64> {
    colours.balanced.then(|| colours.rgb.iter().flatten().map(|m| m.target / m.white).fold(0.0, f64::max)).filter(|b| *b > 0.0)
}

/// What reaches white where exposure is matched, e-/s.
pub fn white_e_per_s(mix: &Mix) -> f64 {
    mix.background() * 1.5 + WHITE_TARGETS * mix.target
}

/// The stretch, 0-1 to 0-1. `strength` from 0 (straight) to 1.
///
/// Asinh: asinh(v / b) / asinh(1 / b) (Lupton et al. 2004). Midtones: ((m - 1) v) / ((2 m - 1) v - m), the rational curve through
/// (0, 0), (m, 0.5), (1, 1).
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

/// Colours of background and target, in numbers and words. Dark current is taken off before anything is said.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Cast {
    /// Sky in red : green : blue as the frames come, the least of them one; empty for one grey channel.
    pub raw_background: Vec<f64>,
    /// The same after balance on a sunlike star.
    pub background: Vec<f64>,
    /// Hue of the target after that balance, degrees, 0 red, 120 green, 240 blue; null for grey.
    pub target_hue_deg: Option<f64>,
    /// In a sentence or two.
    pub text: String,
}

const NAMES: [&str; 3] = ["red", "green", "blue"];

/// What shines in each part of the sky.
const SHINES: PerSkyPart<&str> = PerSkyPart(["the natural sky", "the lamps", "the moon", "twilight"]);

/// Channels that differ by less are called neutral.
const NEUTRAL: f64 = 1.1;

fn over_least(values: &[f64]) -> Vec<f64> {
    let least = values.iter().copied().fold(f64::INFINITY, f64::min).max(1e-12);
    values.iter().map(|v| v / least).collect()
}

fn most(values: &[f64]) -> usize {
    (0..values.len()).max_by(|&a, &b| values[a].total_cmp(&values[b])).unwrap_or(0)
}

/// What a channel that stands out is called, with the one beside it where the two are close.
fn lean(v: &[f64]) -> &'static str {
    let first = most(v);
    let beside = (0..3).filter(|k| *k != first).max_by(|&a, &b| v[a].total_cmp(&v[b])).unwrap_or(first);
    match (first.min(beside), first.max(beside)) {
        _ if v[beside] * NEUTRAL < v[first] => NAMES[first],
        (0, 1) => "yellow",
        (1, 2) => "teal",
        _ => "magenta",
    }
}

fn ratios(v: &[f64]) -> String {
    v.iter().map(|x| if *x < 100.0 { format!("{x:.1}") } else { format!("{x:.0}") }).collect::<Vec<_>>().join(" : ")
}

/// The part of the sky that makes a balanced channel stand out: the one whose own excess there is largest.
fn culprit(three: &[&Mix], channel: usize) -> &'static str {
    let balanced = |k: usize, part: SkyPart| three[k].sky[part] / three[k].white;
    let excess = |part: SkyPart| {
        let others: f64 = (0..3).filter(|k| *k != channel).map(|k| balanced(k, part)).sum::<f64>() / 2.0;
        balanced(channel, part) - others
    };
    SHINES[SkyPart::ALL.into_iter().max_by(|&a, &b| excess(a).total_cmp(&excess(b))).unwrap_or(SkyPart::Natural)]
}

/// The cast of a picture: what the raw sky leans to and why, what is left after balance, and the target's hue.
pub fn cast(colours: &Colours, palette: Palette) -> Cast {
    let three: Vec<&Mix> = colours.rgb.iter().flatten().collect();
    let same = three.len() == 3 && three[0].parts == three[1].parts && three[1].parts == three[2].parts;
    if palette == Palette::Single || three.len() < 3 || same {
        let text = match () {
            () if palette == Palette::Single || same => "One grey channel.",
            () => "Not every channel of this palette has light.",
        };
        return Cast { raw_background: Vec::new(), background: Vec::new(), target_hue_deg: None, text: text.into() };
    }
    let raw_background = over_least(&three.iter().map(|m| m.sky_sum()).collect::<Vec<_>>());
    let background = over_least(&three.iter().map(|m| m.sky_sum() / m.white).collect::<Vec<_>>());
    let white: Vec<f64> = three.iter().map(|m| m.white).collect();
    let hue = hue_deg(&three.iter().map(|m| m.target / m.white).collect::<Vec<_>>());
    let (raw, left) = (most(&raw_background), most(&background));
    let raw_words = if raw_background[raw] < NEUTRAL {
        format!("The raw sky is neutral ({})", ratios(&raw_background))
    } else {
        let why =
            if most(&white) == raw { "filter and pixels let most light through there".to_owned() } else { culprit(&three, raw).to_owned() };
        format!("The raw sky leans {} ({}): {why}", lean(&raw_background), ratios(&raw_background))
    };
    let left_words = if background[left] < NEUTRAL {
        format!("balanced on a sunlike star it is neutral ({})", ratios(&background))
    } else {
        format!("balanced on a sunlike star it leans {} ({}), by {}", lean(&background), ratios(&background), culprit(&three, left))
    };
    let target = hue.map_or("grey", hue_name);
    Cast { text: format!("{raw_words}; {left_words}. The target is {target}."), raw_background, background, target_hue_deg: hue }
}

/// Hue of three channels, degrees; `None` where they differ by less than a tenth.
fn hue_deg(rgb: &[f64]) -> Option<f64> {
    let (max, min) = (rgb.iter().copied().fold(0.0, f64::max), rgb.iter().copied().fold(f64::INFINITY, f64::min));
    if max <= 0.0 || min / max > 0.9 {
        return None;
    }
    let d = max - min;
    let h = match rgb.iter().position(|v| *v == max)? {
        0 => (rgb[1] - rgb[2]) / d,
        1 => (rgb[2] - rgb[0]) / d + 2.0,
        _ => (rgb[0] - rgb[1]) / d + 4.0,
    };
    Some((h * 60.0).rem_euclid(360.0))
}

fn hue_name(deg: f64) -> &'static str {
    match deg {
        d if !(15.0..345.0).contains(&d) => "red",
        d if d < 45.0 => "orange",
        d if d < 70.0 => "yellow",
        d if d < 160.0 => "green",
        d if d < 200.0 => "teal",
        d if d < 260.0 => "blue",
        d if d < 300.0 => "violet",
        _ => "magenta",
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

    #[test]
    fn hues_have_names() {
        assert_eq!(hue_deg(&[1.0, 0.0, 0.0]).map(hue_name), Some("red"));
        assert_eq!(hue_deg(&[0.0, 1.0, 1.0]).map(hue_name), Some("teal"));
        assert_eq!(hue_deg(&[1.0, 1.0, 0.99]), None);
        // A tenth apart is the least that has a hue.
        assert!(hue_deg(&[1.0, 0.91, 0.95]).is_none() && hue_deg(&[1.0, 0.89, 0.95]).is_some() && hue_deg(&[0.0; 3]).is_none());
        // The middle and both ends of every name.
        let all = [(345, 15, "red"), (15, 45, "orange"), (45, 70, "yellow"), (70, 160, "green"), (160, 200, "teal"), (200, 260, "blue")];
        for (from, to, name) in all.into_iter().chain([(260, 300, "violet"), (300, 345, "magenta")]) {
            let (first, last) = (f64::from(from), f64::from(to) - 0.1);
            assert_eq!((hue_name(first), hue_name(last)), (name, name), "{from} to {to}");
        }
        for (rgb, deg) in [([1.0, 0.5, 0.0], 30.0), ([0.0, 1.0, 0.5], 150.0), ([0.5, 0.0, 1.0], 270.0), ([1.0, 0.0, 0.5], 330.0)] {
            assert_eq!(hue_deg(&rgb), Some(deg));
        }
    }
}
