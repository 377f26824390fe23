//! The light paths that a rig's filters make: a mono set with its shares, luminance and colours, each
//! dual band, a pair that gives S-H-O on a colour camera, none at all. Which of them a target asks
//! for is said too, so that a comparison of one's own light paths begins with one click.
//!
//! What a filter is, is told by what it passes, not by what is written on its box.

use serde::Serialize;
use utoipa::ToSchema;

use crate::decide::sub::criteria::advised_sub_s;
use crate::library::gear::FilterKind;
use crate::library::kit::RigParts;
use crate::library::rig::Holder;
use crate::library::shelf::ShelfFilter;
use crate::light::lines::{LINES, Quantity};
use crate::light::tables::Tables;
use crate::path::filter::response::BROAD_NM;
use crate::path::filter::weights::FilterInCone;
use crate::scenario::check::Checked;
use crate::scenario::document::Scenario;
use crate::scenario::exposure::Exposure;
use crate::scenario::rig::{Contender, Optics};
use crate::scenario::target::{Target, TargetKind};
use crate::signal::model::Model;
use crate::signal::sub::plateau;
use crate::wording::listed;

/// From this transmission of a line's light on, a filter counts as one for that line.
const MADE_FOR: f64 = 0.2;

/// Share of the clock that luminance gets beside red, green and blue (common practice, no source).
const LUMINANCE_SHARE: f64 = 0.5;

/// Lines by which a set is named, in the order in which they are.
const SET_LINES: [Quantity; 4] = [Quantity::Ha, Quantity::Oiii, Quantity::Sii, Quantity::Hb];

/// What a set of filters is for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SetFor {
    /// Lines of emission.
    Lines,
    /// Starlight: galaxies, clusters, dust.
    Continuum,
}

/// A light path that a rig's filters make.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct WheelSet {
    /// Names it among the rig's sets.
    pub key: String,
    /// What it is called, such as "H-alpha, [O III], [S II] 3 nm".
    pub name: String,
    /// What it is for.
    pub made_for: SetFor,
    /// Indices of its slots, in order; null for no filter.
    pub slots: Vec<Option<usize>>,
    /// Each one's share of the clock.
    pub shares: Vec<f64>,
    /// Whether a target of its kind starts with it.
    pub first_choice: bool,
}

/// A filter of a slot, told by what it passes.
struct Known<'a> {
    slot: usize,
    filter: &'a ShelfFilter,
    /// Which of [`SET_LINES`] it is made for.
    lines: [bool; SET_LINES.len()],
    /// Integral of its transmission, nm.
    width_nm: f64,
    /// Mean wavelength of what it passes, nm.
    centre_nm: f64,
}

impl<'a> Known<'a> {
    fn new(slot: usize, filter: &'a ShelfFilter, optics: &Optics) -> Self {
        let cone = FilterInCone::new(Some(&filter.filter), optics, 0.0);
        // [N II] goes with H-alpha, and makes no filter one for it.
        let passes = |q: Quantity| {
            let mut own = LINES.iter().filter(|l| l.quantity == q && !l.is_nii());
            own.any(|l| cone.at_normal_incidence(l.wavelength_nm) >= MADE_FOR)
        };
        let lines = SET_LINES.map(passes);
        let (width_nm, centre_nm) = cone.visible();
        Self { slot, filter, lines, width_nm, centre_nm }
    }

    fn is_broad(&self) -> bool {
        self.width_nm > BROAD_NM && self.filter.family != FilterKind::MultiBand
    }

    fn lines_count(&self) -> usize {
        self.lines.iter().filter(|l| **l).count()
    }

    /// Luminance, red, green or blue of a set, as 0 to 3.
    fn in_lrgb(&self) -> Option<usize> {
        if self.filter.family != FilterKind::Lrgb {
            return None;
        }
        Some(match (self.width_nm, self.centre_nm) {
            (w, _) if w > 200.0 => 0,
            (_, c) if c > 590.0 => 1,
            (_, c) if c > 500.0 => 2,
            _ => 3,
        })
    }
}

/// The light paths that the filters of a rig make, those that most start with first.
pub fn wheel_sets(parts: &RigParts) -> Vec<WheelSet> {
    let optics = parts.optics();
    let known: Vec<Known> = (parts.filters.iter().enumerate())
        .filter_map(|(slot, filter)| filter.map(|f| Known::new(slot, f, &optics)))
        .collect();
    let mut sets = Vec::new();
    if parts.camera.sensor.cfa.is_some() {
        colour_sets(&known, &mut sets);
    } else {
        mono_sets(&known, &mut sets);
    }
    let empty = parts.filters.iter().any(Option::is_none)
        || parts.filters.is_empty()
        || parts.rig.holder == Holder::Drawer;
    if empty {
        let first_choice = sets.iter().all(|s| s.made_for != SetFor::Continuum);
        sets.push(WheelSet {
            key: "none".to_owned(),
            name: "no filter".to_owned(),
            made_for: SetFor::Continuum,
            slots: vec![None],
            shares: vec![1.0],
            first_choice,
        });
    }
    sets
}

/// A set of these filters with equal shares of the clock.
fn set_of(key: String, name: String, made_for: SetFor, filters: &[&Known]) -> WheelSet {
    let share = 1.0 / filters.len() as f64;
    WheelSet {
        key,
        name,
        made_for,
        slots: filters.iter().map(|f| Some(f.slot)).collect(),
        shares: vec![share; filters.len()],
        first_choice: true,
    }
}

fn own_set(f: &Known, made_for: SetFor) -> WheelSet {
    set_of(format!("slot-{}", f.slot + 1), f.filter.filter.name.clone(), made_for, &[f])
}

/// Single lines as sets, each as wide as the others of its set; luminance with its colours.
fn mono_sets(known: &[Known], sets: &mut Vec<WheelSet>) {
    let singles = |line: usize| {
        let mut of_line: Vec<&Known> = known
            .iter()
            .filter(|f| !f.is_broad() && f.lines_count() == 1 && f.lines[line])
            .collect();
        of_line.sort_by(|a, b| a.width_nm.total_cmp(&b.width_nm));
        of_line
    };
    let by_line: Vec<Vec<&Known>> = (0..SET_LINES.len()).map(singles).collect();
    let most = by_line.iter().map(Vec::len).max().unwrap_or(0);
    for k in 0..most {
        let lines: Vec<usize> = (0..SET_LINES.len()).filter(|l| by_line[*l].len() > k).collect();
        let filters: Vec<&Known> = lines.iter().map(|l| by_line[*l][k]).collect();
        let names: Vec<&str> = lines.iter().map(|l| SET_LINES[*l].label()).collect();
        let widths = filters.iter().map(|f| nominal_width_nm(f));
        let (narrow, wide) =
            widths.fold((f64::INFINITY, 0.0_f64), |(low, high), w| (low.min(w), high.max(w)));
        let width = if wide > narrow * 1.1 {
            format!("{narrow:.0} to {wide:.0} nm")
        } else {
            format!("{narrow:.0} nm")
        };
        let name = format!("{} {width}", listed(&names));
        sets.push(set_of(format!("lines-{}", k + 1), name, SetFor::Lines, &filters));
    }
    lrgb_sets(known, sets);
    for f in known.iter().filter(|f| f.lines_count() > 1 || f.is_broad()) {
        if f.in_lrgb().is_some_and(|c| c > 0) {
            continue;
        }
        let made_for = if f.is_broad() { SetFor::Continuum } else { SetFor::Lines };
        sets.push(WheelSet { first_choice: false, ..own_set(f, made_for) });
    }
}

fn lrgb_sets(known: &[Known], sets: &mut Vec<WheelSet>) {
    let of = |colour| known.iter().find(|f| f.in_lrgb() == Some(colour));
    let [l, Some(r), Some(g), Some(b)] = [0, 1, 2, 3].map(of) else { return };
    if let Some(l) = l {
        let rest = (1.0 - LUMINANCE_SHARE) / 3.0;
        sets.push(WheelSet {
            shares: vec![LUMINANCE_SHARE, rest, rest, rest],
            ..set_of("lrgb".to_owned(), "L, R, G, B".to_owned(), SetFor::Continuum, &[l, r, g, b])
        });
    }
    let rgb = set_of("rgb".to_owned(), "R, G, B".to_owned(), SetFor::Continuum, &[r, g, b]);
    sets.push(WheelSet { first_choice: l.is_none(), ..rgb });
}

/// On a colour camera each filter is a path of its own; two dual bands may make a pair.
fn colour_sets(known: &[Known], sets: &mut Vec<WheelSet>) {
    let narrow = || known.iter().filter(|f| !f.is_broad() && f.lines_count() > 0);
    let (ha, sii) = (0, 2);
    let with_ha = narrow().find(|f| f.lines_count() > 1 && f.lines[ha] && !f.lines[sii]);
    let with_sii = narrow().find(|f| f.lines_count() > 1 && f.lines[sii] && !f.lines[ha]);
    if let (Some(a), Some(b)) = (with_ha, with_sii) {
        let name = format!("{} + {}", a.filter.filter.name, b.filter.filter.name);
        sets.push(set_of("pair".to_owned(), name, SetFor::Lines, &[a, b]));
    }
    for f in narrow() {
        // The half of a pair that has no H-alpha is seldom shot alone.
        let alone = with_ha.is_some() && with_sii.is_some_and(|b| b.slot == f.slot);
        sets.push(WheelSet { first_choice: !alone, ..own_set(f, SetFor::Lines) });
    }
    for f in known.iter().filter(|f| f.is_broad()) {
        if f.in_lrgb().is_none_or(|c| c == 0) {
            sets.push(own_set(f, SetFor::Continuum));
        }
    }
}

/// The width on a filter's box: of its bands, else of what it passes.
fn nominal_width_nm(f: &Known) -> f64 {
    let bands = f.filter.filter.bands.iter().flatten();
    bands.map(|b| b.fwhm_nm).reduce(f64::min).unwrap_or(f.width_nm)
}

/// Which of a rig's sets a target asks for: for lines every set of lines, with the first broad one
/// beside it to be measured against; for starlight the broad ones. Never none where there is any.
pub fn sets_for(target: &Target, sets: &[WheelSet]) -> Vec<usize> {
    let all_of = |made_for, most: usize| {
        let fits = move |s: &WheelSet| s.made_for == made_for && s.first_choice;
        sets.iter().enumerate().filter(move |(_, s)| fits(s)).map(|(i, _)| i).take(most)
    };
    let lines_first = match target.kind {
        TargetKind::HIiRegion | TargetKind::PlanetaryNebula | TargetKind::SupernovaRemnant => true,
        TargetKind::ReflectionNebula
        | TargetKind::Galaxy
        | TargetKind::DarkNebula
        | TargetKind::Cluster
        | TargetKind::GalaxyWithHIi => target.continuum.is_none(),
    };
    let chosen: Vec<usize> = if lines_first {
        all_of(SetFor::Lines, usize::MAX).chain(all_of(SetFor::Continuum, 1)).collect()
    } else {
        // Of galaxies only those that are known for their H II regions ask for a line.
        let lines = usize::from(target.kind == TargetKind::GalaxyWithHIi);
        all_of(SetFor::Continuum, usize::MAX).chain(all_of(SetFor::Lines, lines)).collect()
    };
    if chosen.is_empty() { (0..sets.len().min(1)).collect() } else { chosen }
}

/// The light path of one of a rig's sets, its subs still to be fitted ([`with_advised_subs`]).
pub fn light_path_of(parts: &RigParts, set: &WheelSet) -> Contender {
    let exposure = |(slot, share): (&Option<usize>, &f64)| Exposure {
        filter: slot.and_then(|i| parts.filters[i]).map(|f| f.filter.clone()),
        sub_s: START_SUB_S,
        binning: parts.rig.binning,
        share: *share,
        weight: 1.0,
        test_frame: None,
    };
    let exposures = set.slots.iter().zip(&set.shares).map(exposure).collect();
    // As long as a name may be.
    let name = format!("{}, {}", parts.name, set.name).chars().take(200).collect();
    parts.light_path(name, exposures)
}

/// Every filter of a rig, and none where a slot is empty or there are no filters, each with the same
/// share of the clock: for questions about the rig as a whole. `None` where a rig can expose nothing.
pub fn whole_rig(parts: &RigParts) -> Option<Contender> {
    let sets = wheel_sets(parts);
    let mut slots: Vec<Option<usize>> = sets.iter().flat_map(|s| s.slots.clone()).collect();
    slots.sort_unstable();
    slots.dedup();
    let share = 1.0 / slots.len() as f64;
    let set = WheelSet {
        key: String::new(),
        name: "every filter".to_owned(),
        made_for: SetFor::Lines,
        shares: vec![share; slots.len()],
        slots,
        first_choice: true,
    };
    (!set.slots.is_empty()).then(|| light_path_of(parts, &set))
}

/// A sub to start from, s.
const START_SUB_S: f64 = 60.0;

/// Lengths that people set, s.
const SAID_S: [f64; 20] = [
    1.0, 2.0, 3.0, 5.0, 8.0, 10.0, 15.0, 20.0, 30.0, 45.0, 60.0, 90.0, 120.0, 180.0, 240.0, 300.0,
    420.0, 600.0, 900.0, 1200.0,
];

/// A sub that gathers a little less than the shortest on the plateau is still one to start with.
const NEARLY: f64 = 0.9;

/// The same comparison with a sub for every exposure to start with: the shortest length that people
/// set and that gathers about as much an hour as any, no longer than the school of the choices
/// advises (a core that clips, a mount). Among lengths that are as good, shorter ones clip fewer
/// stars and lose less to a gust.
pub fn with_advised_subs(scenario: Checked, tables: &Tables) -> Scenario {
    let model = Model::new(&scenario, tables);
    let mut s = scenario.scenario().clone();
    for (i, path) in model.paths.iter().enumerate() {
        for at in 0..path.exposures.len() {
            let (c, exposure) = (&s.contenders[i], &path.exposures[at]);
            let (gain, rates) = (&exposure.instrument.gain, exposure.deciding().nominal());
            let advised_s = advised_sub_s(&s, c, at, path, gain, rates);
            let enough_s = plateau(&exposure.instrument.sub_terms_at(rates, gain)).from_s;
            let longest_s = c.optics.longest_sub_s.unwrap_or(f64::INFINITY).min(advised_s);
            s.contenders[i].exposures[at].sub_s = said_s(NEARLY * enough_s, longest_s);
        }
    }
    s
}

/// The shortest length that people set and that is at least so long; where none is within what is
/// allowed, the longest that is.
fn said_s(least_s: f64, longest_s: f64) -> f64 {
    let allowed = || SAID_S.into_iter().filter(|s| *s <= longest_s);
    allowed().find(|s| *s >= least_s).or_else(|| allowed().next_back()).unwrap_or(longest_s)
}

#[cfg(test)]
#[path = "wheel_tests.rs"]
mod tests;
