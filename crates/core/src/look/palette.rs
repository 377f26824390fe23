//! From planes of electrons to a picture: quantities, palettes, one stretch for all crops, and the cast in words.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::planes::Planes;
use crate::light::Quantity;

/// How colours are made.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Palette {
    /// Each light at its own hue.
    #[default]
    Natural,
    /// H-alpha red, [O III] green and blue.
    Hoo,
    /// [S II] red, H-alpha green, [O III] blue.
    Sho,
    /// One quantity, grey.
    Single,
}

impl Palette {
    /// The quantities that a picture in this palette is made of; `single` is that of a grey one.
    pub fn quantities(self, single: Quantity) -> Vec<Quantity> {
        match self {
            Self::Natural => Quantity::ALL.to_vec(),
            Self::Hoo => vec![Quantity::Ha, Quantity::Oiii],
            Self::Sho => vec![Quantity::Sii, Quantity::Ha, Quantity::Oiii],
            Self::Single => vec![single],
        }
    }
}

/// The curve from electrons to brightness.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Stretch {
    /// Straight.
    Linear,
    /// Inverse hyperbolic sine: straight in the faint, logarithmic in the bright.
    #[default]
    Asinh,
    /// The midtones function that puts the background at a chosen brightness.
    Midtones,
}

/// What the crops are made equal in before they are stretched.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Match {
    /// The background's level and the target's brightness: what remains is noise.
    #[default]
    Background,
    /// Nothing: electrons as they were counted. A brighter sky looks like more signal.
    Exposure,
}

/// Brightness of the background on screen, 0-1.
const BACKGROUND_LEVEL: f64 = 0.12;
/// Target means above the background that reach full white.
const WHITE_TARGETS: f64 = 12.0;

/// One channel of the picture: which planes it is made of, with weights, and what background and target are in it.
#[derive(Clone, Debug)]
pub struct Mix {
    /// (index of the plane, weight).
    pub parts: Vec<(usize, f64)>,
    /// Background of the mix, e-/s.
    pub background: f64,
    /// Target's mean in the mix, e-/s.
    pub target: f64,
}

impl Planes {
    /// Planes that carry a quantity, weighted by inverse variance: S / (S + B + D) of each.
    fn mix_of(&self, q: Quantity) -> Option<Mix> {
        let parts: Vec<(usize, f64)> = self
            .planes
            .iter()
            .enumerate()
            .filter(|(_, p)| p.of(q) > 0.0)
            .map(|(i, p)| (i, p.of(q) * p.share / p.rates.total().max(1e-12)))
            .collect();
        self.mix(parts, |p| p.of(q))
    }

    fn mix(&self, parts: Vec<(usize, f64)>, target: impl Fn(&super::planes::Plane) -> f64) -> Option<Mix> {
        let sum: f64 = parts.iter().map(|p| p.1).sum();
        if sum <= 0.0 {
            return None;
        }
        let parts: Vec<(usize, f64)> = parts.into_iter().map(|(i, w)| (i, w / sum)).collect();
        let total = |f: &dyn Fn(&super::planes::Plane) -> f64| parts.iter().map(|(i, w)| w * f(&self.planes[*i])).sum::<f64>();
        Some(Mix { background: total(&|p| p.rates.background() + p.rates.dark), target: total(&target).max(1e-12), parts })
    }

    /// Broad planes whose mean wavelength lies in a range.
    fn mix_between(&self, from_nm: f64, to_nm: f64) -> Option<Mix> {
        let inside = |p: &super::planes::Plane| (from_nm..to_nm).contains(&p.wavelength_nm);
        let parts = self.planes.iter().enumerate().filter(|(_, p)| inside(p)).map(|(i, p)| (i, p.share)).collect();
        self.mix(parts, |p| p.rates.target_sum())
    }

    /// Red, green and blue of a palette; `None` for a channel that has nothing to show.
    pub fn mixes(&self, palette: Palette, single: Quantity) -> [Option<Mix>; 3] {
        let q = |q| self.mix_of(q);
        match palette {
            Palette::Single => [q(single), q(single), q(single)],
            Palette::Hoo => [q(Quantity::Ha), q(Quantity::Oiii), q(Quantity::Oiii)],
            Palette::Sho => [q(Quantity::Sii), q(Quantity::Ha), q(Quantity::Oiii)],
            Palette::Natural => {
                let colour = self.planes.iter().any(|p| p.channel != "mono");
                if colour {
                    ["r", "g", "b"].map(|name| {
                        let own = self.planes.iter().enumerate().filter(|(_, p)| p.channel == name);
                        self.mix(own.map(|(i, p)| (i, p.share)).collect(), |p| p.rates.target_sum())
                    })
                } else if self.planes.iter().filter(|p| p.equivalent_width_nm > 40.0).count() >= 3 {
                    [self.mix_between(590.0, 900.0), self.mix_between(500.0, 590.0), self.mix_between(300.0, 500.0)]
                } else {
                    let red = q(Quantity::Ha).or_else(|| q(Quantity::Sii)).or_else(|| self.mix_between(300.0, 1100.0));
                    let teal = q(Quantity::Oiii).or_else(|| q(Quantity::Hb));
                    [red.clone(), teal.clone().or_else(|| red.clone()), teal.or(red)]
                }
            }
        }
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

/// The scaling of a mix. `common` is the largest white of all crops, for [`Match::Exposure`], in electrons per second.
pub fn scaling(mix: &Mix, mode: Match, common: f64) -> Scaling {
    match mode {
        Match::Background => {
            let gain = (1.0 - BACKGROUND_LEVEL) / (WHITE_TARGETS * mix.target);
            Scaling { black: mix.background - BACKGROUND_LEVEL / gain, gain }
        }
        Match::Exposure => Scaling { black: 0.0, gain: 1.0 / common.max(1e-12) },
    }
}

/// What reaches white where exposure is matched, e-/s.
pub fn white_e_per_s(mix: &Mix) -> f64 {
    mix.background * 1.5 + WHITE_TARGETS * mix.target
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

/// Colours of background and target, in numbers and words.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Cast {
    /// Background red : green : blue, the least of them one; empty for one grey channel.
    pub background: Vec<f64>,
    /// Hue of the target, degrees, 0 red, 120 green, 240 blue; null for grey.
    pub target_hue_deg: Option<f64>,
    /// In a sentence.
    pub text: String,
}

/// The cast of a picture made of three mixes.
pub fn cast(mixes: &[Option<Mix>; 3], palette: Palette) -> Cast {
    let three: Vec<&Mix> = mixes.iter().flatten().collect();
    if palette == Palette::Single || three.len() < 3 {
        let text = if palette == Palette::Single { "One grey channel." } else { "Not every channel of this palette has light." };
        return Cast { background: Vec::new(), target_hue_deg: None, text: text.into() };
    }
    let sky: Vec<f64> = three.iter().map(|m| m.background).collect();
    let least = sky.iter().copied().fold(f64::INFINITY, f64::min).max(1e-12);
    let background: Vec<f64> = sky.iter().map(|b| b / least).collect();
    let target: Vec<f64> = three.iter().map(|m| m.target).collect();
    let hue = hue_deg(&target);
    let names = ["red", "green", "blue"];
    let most = (0..3).max_by(|&a, &b| background[a].total_cmp(&background[b])).unwrap_or(0);
    let lean = if background[most] < 1.1 { "is neutral".to_owned() } else { format!("leans {}", names[most]) };
    let target_words = hue.map_or("grey".to_owned(), |h| hue_name(h).to_owned());
    let text =
        format!("Background {lean} {:.1} : {:.1} : {:.1}; the target is {target_words}.", background[0], background[1], background[2]);
    Cast { background, target_hue_deg: hue, text }
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
    }
}
