//! Generic gear, lamp mixes and target presets to start from. All values are typical, from memory;
//! a user replaces them by their own.

use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::library::bortle::{BORTLE, BortleClass};
use crate::library::presets::{TargetPreset, presets};
use crate::light::lamp::Lamp;
use crate::light::lines::{EmissionLine, LINES};
use crate::scenario::document::Scenario;
use crate::scenario::exposure::Filter;
use crate::scenario::goal::GoalPurpose;
use crate::scenario::rig::{Optics, Sensor};

/// A telescope to choose.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct GearOptics {
    /// Stable id.
    pub id: String,
    /// What it is, in general words.
    pub name: String,
    /// Where the values come from.
    pub note: String,
    /// Typical price in the user's currency.
    pub price: Option<f64>,
    /// Owned, and not only on offer.
    #[serde(default)]
    pub mine: bool,
    /// The values.
    pub optics: Optics,
}

/// A camera to choose.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct GearCamera {
    /// Stable id.
    pub id: String,
    /// Where the values come from.
    pub note: String,
    /// The gain setting that most start from.
    pub usual_gain: f64,
    /// The temperature at which most run it, degrees Celsius.
    pub usual_temperature_c: f64,
    /// Typical price in the user's currency.
    pub price: Option<f64>,
    /// Owned, and not only on offer.
    #[serde(default)]
    pub mine: bool,
    /// The values.
    pub sensor: Sensor,
}

/// Families of filters.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs)]
pub enum FilterKind {
    Broad,
    LightPollution,
    MultiBand,
    SingleLine,
    Lrgb,
}

/// On which cameras a filter is of use.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs)]
pub enum FilterFits {
    Any,
    Mono,
    Colour,
}

impl FilterFits {
    /// Whether it is of use on a colour camera, or on a mono one.
    pub fn on(self, colour: bool) -> bool {
        match self {
            Self::Any => true,
            Self::Mono => !colour,
            Self::Colour => colour,
        }
    }
}

/// A filter to choose.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct GearFilter {
    /// Stable id.
    pub id: String,
    /// Its family.
    pub kind: FilterKind,
    /// Where the values come from.
    pub note: String,
    /// On which cameras it is of use.
    pub fits: FilterFits,
    /// Owned, and not only on offer.
    #[serde(default)]
    pub mine: bool,
    /// The values.
    pub filter: Filter,
}

/// Shipped gear.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Gear {
    /// Telescopes.
    pub optics: Vec<GearOptics>,
    /// Cameras.
    pub cameras: Vec<GearCamera>,
    /// Filters.
    pub filters: Vec<GearFilter>,
}

/// A mix of lamps by name.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct LampMix {
    /// What kind of place has it.
    pub name: &'static str,
    /// Fractions of V light, summing to 1.
    pub lamps: BTreeMap<Lamp, f64>,
}

/// An emission line by its name.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct NamedLine {
    /// Its name, such as "[O III]".
    pub name: &'static str,
    /// Wavelength in air, nm.
    pub wavelength_nm: f64,
}

/// The lines of the model by name, [N II] apart from H-alpha.
fn named_lines() -> Vec<NamedLine> {
    let named = |l: &EmissionLine| NamedLine {
        name: if l.is_nii() { "[N II]" } else { l.quantity.label() },
        wavelength_nm: l.wavelength_nm,
    };
    LINES.iter().map(named).collect()
}

/// How clean a part may be asked to be.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct GoalLevel {
    /// What a picture is for that asks it.
    pub purpose: GoalPurpose,
    /// That in words.
    pub label: &'static str,
    /// What a part is then: "clean".
    pub word: &'static str,
    /// The signal to noise that it takes.
    pub snr: f64,
}

fn goal_levels() -> Vec<GoalLevel> {
    let level = |purpose: GoalPurpose| GoalLevel {
        purpose,
        label: purpose.label(),
        word: purpose.word(),
        snr: purpose.snr(),
    };
    GoalPurpose::ALL.map(level).to_vec()
}

/// Everything to choose from when nothing is measured yet.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Library {
    /// Telescopes, cameras, filters.
    #[serde(flatten)]
    pub gear: Gear,
    /// What targets typically emit.
    pub targets: Vec<TargetPreset>,
    /// Emission lines.
    pub lines: Vec<NamedLine>,
    /// How clean the parts of a target may be asked to be.
    pub goal_levels: Vec<GoalLevel>,
    /// Lamp mixes.
    pub lamp_mixes: Vec<LampMix>,
    /// Bortle classes as ranges of brightness.
    pub bortle: Vec<BortleClass>,
    /// Invented comparisons to start from.
    pub examples: Vec<Example>,
}

/// An invented comparison.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Example {
    /// Stable id.
    pub id: &'static str,
    /// The comparison.
    pub scenario: Scenario,
}

const EXAMPLES: [(&str, &str); 4] = [
    ("larch-lane-ic-443", include_str!("../../../../data/demo/larch-lane-ic-443.json")),
    ("larch-lane-ngc-7822", include_str!("../../../../data/demo/larch-lane-ngc-7822.json")),
    ("heron-lake-ngc-2403", include_str!("../../../../data/demo/heron-lake-ngc-2403.json")),
    ("heron-lake-ngc-7129", include_str!("../../../../data/demo/heron-lake-ngc-7129.json")),
];

impl Library {
    /// The shipped library.
    ///
    /// # Errors
    /// Only if the shipped file is damaged; a test reads it.
    pub fn shipped() -> Result<Self, serde_json::Error> {
        let gear = serde_json::from_str(include_str!("../../../../data/gear.json"))?;
        let examples = EXAMPLES
            .into_iter()
            .map(|(id, text)| {
                let mut scenario: Scenario = serde_json::from_str(text)?;
                scenario.goals = scenario.target.usual_goals();
                Ok(Example { id, scenario })
            })
            .collect::<Result<_, _>>()?;
        Ok(Self {
            gear,
            targets: presets(),
            lines: named_lines(),
            goal_levels: goal_levels(),
            lamp_mixes: lamp_mixes(),
            bortle: BORTLE.to_vec(),
            examples,
        })
    }
}

/// Lamp mixes of common kinds of place (from memory).
fn lamp_mixes() -> Vec<LampMix> {
    let mix =
        |name, lamps: &[(Lamp, f64)]| LampMix { name, lamps: lamps.iter().copied().collect() };
    vec![
        mix("New white LED", &[(Lamp::Led3000k, 0.4), (Lamp::Led4000k, 0.6)]),
        mix("Warm LED", &[(Lamp::Led3000k, 0.9), (Lamp::HighPressureSodium, 0.1)]),
        mix(
            "Mostly LED, some sodium",
            &[(Lamp::Led3000k, 0.35), (Lamp::Led4000k, 0.45), (Lamp::HighPressureSodium, 0.2)],
        ),
        mix(
            "Half LED, half sodium",
            &[(Lamp::Led3000k, 0.2), (Lamp::Led4000k, 0.3), (Lamp::HighPressureSodium, 0.5)],
        ),
        mix("Old sodium", &[(Lamp::HighPressureSodium, 0.9), (Lamp::LowPressureSodium, 0.1)]),
        mix(
            "Old town: sodium, mercury, halide",
            &[(Lamp::HighPressureSodium, 0.5), (Lamp::Mercury, 0.25), (Lamp::MetalHalide, 0.25)],
        ),
        mix("Sports ground: metal halide", &[(Lamp::MetalHalide, 0.8), (Lamp::Led4000k, 0.2)]),
    ]
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::scenario::check::Checker;

    #[test]
    fn all_shipped_gear_is_accepted_and_its_ids_are_unique() {
        let library = Library::shipped().unwrap();
        let mut c = Checker::default();
        library.gear.optics.iter().for_each(|o| c.optics(&o.id, &o.optics));
        library.gear.cameras.iter().for_each(|k| c.sensor(&k.id, &k.sensor));
        library.gear.filters.iter().for_each(|f| c.filter(&f.id, &f.filter));
        assert_eq!(c.errors, []);
        let ids = library
            .gear
            .optics
            .iter()
            .map(|o| &o.id)
            .chain(library.gear.cameras.iter().map(|c| &c.id))
            .chain(library.gear.filters.iter().map(|f| &f.id));
        let mut ids: Vec<_> = ids.collect();
        let all = ids.len();
        ids.sort();
        ids.dedup();
        assert_eq!(ids.len(), all);
    }

    #[test]
    fn all_examples_are_accepted() {
        for example in Library::shipped().unwrap().examples {
            assert!(example.scenario.check().is_ok(), "{}", example.id);
        }
    }

    #[test]
    fn lamp_mixes_sum_to_one() {
        for mix in lamp_mixes() {
            assert!((mix.lamps.values().sum::<f64>() - 1.0).abs() < 1e-9, "{}", mix.name);
        }
    }
}
