//! A set of broad colour filters as a set: what falls into the gaps between them under the lamps of
//! this place, and which of them share the light of [O III].

use crate::light::lamp::Lamp;
use crate::light::lines::{HA_NM, OIII_NM, SODIUM_NM};
use crate::path::filter::colour_band::ColourBand;
use crate::path::filter::weights::FilterInCone;
use crate::scenario::document::Scenario;
use crate::scenario::exposure::{Exposure, Filter};
use crate::scenario::rig::Contender;
use crate::wording::listed;

/// A filter passes a line from this transmission on.
const PASSES: f64 = 0.5;

/// Luminance is none of the colours, nor is a line.
fn is_colour(filter: &FilterInCone) -> bool {
    matches!(filter.colour_band(), ColourBand::Red | ColourBand::Green | ColourBand::Blue)
}

/// What a set of colours does as a set; `None` for fewer than three broad filters.
pub(super) fn set_report(s: &Scenario, c: &Contender) -> Option<String> {
    let cone = |e: &Exposure| {
        let f = FilterInCone::new(e.filter.as_ref(), &c.optics, 0.0);
        let name = e.filter.as_ref().map(|f| f.name.clone())?;
        is_colour(&f).then(|| {
            let at = |nm: f64| f.at_normal_incidence(nm) >= PASSES;
            (name, [at(OIII_NM), at(SODIUM_NM), at(HA_NM)])
        })
    };
    let set: Vec<(String, [bool; 3])> = c.exposures.iter().filter_map(cone).collect();
    if set.len() < 3 {
        return None;
    }
    let passing = |k: usize| -> Vec<&str> {
        set.iter().filter(|(_, at)| at[k]).map(|(name, _)| name.as_str()).collect()
    };
    let sodium_share: f64 = [Lamp::HighPressureSodium, Lamp::LowPressureSodium]
        .iter()
        .filter_map(|lamp| s.sky.lamps.get(lamp))
        .sum();
    let mut parts = Vec::new();
    let sodium = passing(1);
    if sodium.is_empty() {
        parts.push(if sodium_share > 0.05 {
            format!("its gap keeps sodium out, {:.0} % of the lamps here", sodium_share * 100.0)
        } else {
            "its gap at sodium buys nothing here: the lamps have next to none".to_owned()
        });
    } else if sodium_share > 0.05 {
        parts.push(format!(
            "{} lets sodium in, {:.0} % of the lamps here: a set with a gap would keep it out",
            listed(&sodium),
            sodium_share * 100.0
        ));
    }
    parts.push(match &passing(0)[..] {
        [] => "[O III] falls into a gap: a planetary nebula loses its green".to_owned(),
        [one] => format!("[O III] is in {one} alone, and comes out in that colour"),
        both => format!("{} share [O III], which comes out teal", listed(both)),
    });
    if passing(2).is_empty() {
        parts.push("H-alpha falls outside: nebulae lose their red".to_owned());
    }
    parts.extend(mixed_sets(c));
    let names: Vec<&str> = set.iter().map(|(name, _)| name.as_str()).collect();
    Some(format!("{}: {}.", listed(&names), parts.join("; ")))
}

/// A gap between neighbours that is not sodium's is wider than this where two sets are mixed, nm
/// (common practice, no source).
const SEAM_NM: f64 = 8.0;

/// What filters of unlike sets lose beside each other: light that falls between them, and one
/// focus for all.
fn mixed_sets(c: &Contender) -> Vec<String> {
    let mut set: Vec<(u32, u32, &Filter)> =
        c.exposures.iter().filter_map(|e| edges(c, e)).collect();
    set.sort_by_key(|(first, ..)| *first);
    let mut out: Vec<String> = set
        .windows(2)
        .filter_map(|w| {
            let (from, to) = (f64::from(w[0].1), f64::from(w[1].0));
            let sodium = from < SODIUM_NM && to > SODIUM_NM;
            (to - from > SEAM_NM && !sodium).then(|| {
                format!(
                    "between {} and {} {:.0} nm fall to neither, as if of two sets",
                    w[0].2.name,
                    w[1].2.name,
                    to - from
                )
            })
        })
        .collect();
    let mut thick: Vec<f64> = set.iter().filter_map(|(.., f)| f.thickness_mm).collect();
    thick.sort_by(f64::total_cmp);
    if let [thinnest, .., thickest] = thick[..]
        && thickest - thinnest > 0.05
    {
        out.push(format!("of {thinnest} to {thickest} mm glass: each wants a focus of its own"));
    }
    out
}

/// From where to where a filter of a colour set passes, nm; `None` for luminance and for lines.
fn edges<'a>(c: &Contender, e: &'a Exposure) -> Option<(u32, u32, &'a Filter)> {
    let cone = FilterInCone::new(e.filter.as_ref(), &c.optics, 0.0);
    is_colour(&cone).then_some(())?;
    let passes = |nm: &u32| cone.at_normal_incidence(f64::from(*nm)) >= PASSES;
    let first = (380..720).find(passes)?;
    let last = (380..720).rev().find(passes)?;
    Some((first, last, e.filter.as_ref()?))
}
