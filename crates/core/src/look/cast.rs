//! What colour a raw background leans to, and why: which part of the sky shines in it.

use serde::Serialize;
use utoipa::ToSchema;

use crate::look::palette::{Colours, Light, Mix};
use crate::look::view::Palette;
use crate::path::sky::part::{PerSkyPart, SkyPart};
use crate::scenario::target::Target;

/// Colours of background and target, in numbers and words. Dark current is taken off before
/// anything is said.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Cast {
    /// Sky in red : green : blue as the frames come, the least of them one; empty for one grey
    /// channel.
    pub raw_background: Vec<f64>,
    /// The same after balance on a sunlike star.
    pub background: Vec<f64>,
    /// Hue of the target after that balance, degrees, 0 red, 120 green, 240 blue; null for grey.
    pub target_hue_deg: Option<f64>,
    /// In a sentence or two.
    pub text: String,
    /// In a few words.
    pub short: String,
}

const NAMES: [&str; 3] = ["red", "green", "blue"];

/// What shines in each part of the sky.
const SHINES: PerSkyPart<&str> =
    PerSkyPart(["the natural sky", "the lamps", "the moon", "twilight"]);

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
    let beside =
        (0..3).filter(|k| *k != first).max_by(|&a, &b| v[a].total_cmp(&v[b])).unwrap_or(first);
    match (first.min(beside), first.max(beside)) {
        _ if v[beside] * NEUTRAL < v[first] => NAMES[first],
        (0, 1) => "yellow",
        (1, 2) => "teal",
        _ => "magenta",
    }
}

fn ratios(v: &[f64]) -> String {
    v.iter()
        .map(|x| if *x < 100.0 { format!("{x:.1}") } else { format!("{x:.0}") })
        .collect::<Vec<_>>()
        .join(" : ")
}

/// The part of the sky that makes a balanced channel stand out: the one whose own excess there is
/// largest.
fn culprit(three: &[&Mix], channel: usize) -> &'static str {
    let balanced = |k: usize, part: SkyPart| three[k].sky[part] / three[k].white;
    let excess = |part: SkyPart| {
        let others: f64 =
            (0..3).filter(|k| *k != channel).map(|k| balanced(k, part)).sum::<f64>() / 2.0;
        balanced(channel, part) - others
    };
    SHINES[SkyPart::ALL
        .into_iter()
        .max_by(|&a, &b| excess(a).total_cmp(&excess(b)))
        .unwrap_or(SkyPart::Natural)]
}

/// The cast of a picture: what the raw sky leans to and why, what is left after balance, and the
/// target's hue; for a palette that maps lines, which line stands where.
pub fn cast(colours: &Colours, palette: Palette, target: &Target) -> Cast {
    let said = |text: String, short: String| Cast {
        raw_background: Vec::new(),
        background: Vec::new(),
        target_hue_deg: None,
        text,
        short,
    };
    let three: Vec<&Mix> = colours.rgb.iter().flatten().collect();
    let same =
        three.len() == 3 && three[0].parts == three[1].parts && three[1].parts == three[2].parts;
    if palette == Palette::Single || same {
        let short = match three.first().map(|m| m.light) {
            Some(Light::Line(q)) => format!("{}, grey", target.name_of(q)),
            _ => "grey".to_owned(),
        };
        return said("One grey channel.".into(), short);
    }
    if !colours.balanced {
        let [text, short] = mapped(colours, target);
        return said(text, short);
    }
    let raw_background = over_least(&three.iter().map(|m| m.sky_sum()).collect::<Vec<_>>());
    let background = over_least(&three.iter().map(|m| m.sky_sum() / m.white).collect::<Vec<_>>());
    let white: Vec<f64> = three.iter().map(|m| m.white).collect();
    let hue = hue_deg(&three.iter().map(|m| m.target / m.white).collect::<Vec<_>>());
    let (raw, left) = (most(&raw_background), most(&background));
    let raw_words = if raw_background[raw] < NEUTRAL {
        format!("The raw sky is neutral ({})", ratios(&raw_background))
    } else {
        let why = if most(&white) == raw {
            "filter and pixels let most light through there".to_owned()
        } else {
            culprit(&three, raw).to_owned()
        };
        format!("The raw sky leans {} ({}): {why}", lean(&raw_background), ratios(&raw_background))
    };
    let left_words = if background[left] < NEUTRAL {
        format!("balanced on a sunlike star it is neutral ({})", ratios(&background))
    } else {
        format!(
            "balanced on a sunlike star it leans {} ({}), by {}",
            lean(&background),
            ratios(&background),
            culprit(&three, left)
        )
    };
    let name = hue.map_or("grey", hue_name);
    let sky = if background[left] < NEUTRAL { "neutral" } else { lean(&background) };
    Cast {
        text: format!("{raw_words}; {left_words}. The target is {name}."),
        short: format!("{name} target, {sky} sky"),
        raw_background,
        background,
        target_hue_deg: hue,
    }
}

/// Lines that a palette maps to colours, each stretched to its own brightness: which stands where,
/// and how much more strongly the weakest is stretched.
fn mapped(colours: &Colours, target: &Target) -> [String; 2] {
    let name = |m: &Mix| match m.light {
        Light::Line(q) => target.name_of(q),
        Light::RedLines => "H-alpha with [S II]",
        Light::Broad => "broad light",
    };
    let mut stands: Vec<(String, Vec<&str>)> = Vec::new();
    for (mix, colour) in colours.rgb.iter().zip(NAMES) {
        let light = mix.as_ref().map_or("nothing", |m| name(m)).to_owned();
        match stands.iter_mut().find(|s| s.0 == light) {
            Some(known) => known.1.push(colour),
            None => stands.push((light, vec![colour])),
        }
    }
    let short: Vec<String> =
        stands.iter().map(|(light, all)| format!("{light} {}", all.join(" and "))).collect();
    let own: Vec<&Mix> = colours.rgb.iter().flatten().collect();
    let by_target = |a: &&&Mix, b: &&&Mix| a.target.total_cmp(&b.target);
    let (weak, strong) = (own.iter().min_by(by_target), own.iter().max_by(by_target));
    let times = match (weak, strong) {
        (Some(weak), Some(strong)) if strong.target > NEUTRAL * weak.target => format!(
            ": {} {:.1} times as strongly as {}, with its noise and its stars",
            name(weak),
            strong.target / weak.target,
            name(strong)
        ),
        _ => String::new(),
    };
    let text =
        format!("{}; each line is stretched to its own brightness{times}.", short.join(", "));
    [text, short.join(", ")]
}

/// Hue of three channels, degrees; `None` where they differ by less than a tenth.
fn hue_deg(rgb: &[f64]) -> Option<f64> {
    let (max, min) = (
        rgb.iter().copied().fold(0.0, f64::max),
        rgb.iter().copied().fold(f64::INFINITY, f64::min),
    );
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
    fn hues_have_names() {
        assert_eq!(hue_deg(&[1.0, 0.0, 0.0]).map(hue_name), Some("red"));
        assert_eq!(hue_deg(&[0.0, 1.0, 1.0]).map(hue_name), Some("teal"));
        assert_eq!(hue_deg(&[1.0, 1.0, 0.99]), None);
        // A tenth apart is the least that has a hue.
        assert!(
            hue_deg(&[1.0, 0.91, 0.95]).is_none()
                && hue_deg(&[1.0, 0.89, 0.95]).is_some()
                && hue_deg(&[0.0; 3]).is_none()
        );
        // The middle and both ends of every name.
        let all = [
            (345, 15, "red"),
            (15, 45, "orange"),
            (45, 70, "yellow"),
            (70, 160, "green"),
            (160, 200, "teal"),
            (200, 260, "blue"),
        ];
        for (from, to, name) in all.into_iter().chain([(260, 300, "violet"), (300, 345, "magenta")])
        {
            let (first, last) = (f64::from(from), f64::from(to) - 0.1);
            assert_eq!((hue_name(first), hue_name(last)), (name, name), "{from} to {to}");
        }
        for (rgb, deg) in [
            ([1.0, 0.5, 0.0], 30.0),
            ([0.0, 1.0, 0.5], 150.0),
            ([0.5, 0.0, 1.0], 270.0),
            ([1.0, 0.0, 0.5], 330.0),
        ] {
            assert_eq!(hue_deg(&rgb), Some(deg));
        }
    }
}
