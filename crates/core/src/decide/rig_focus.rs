//! How exact the focus of a rig must be, and how its filters move it: of use when the camera is
//! screwed on, not in any sum of light.

use serde::Serialize;
use utoipa::ToSchema;

use crate::library::kit::RigParts;
use crate::path::optics::{GLASS_INDEX, filter_focus_shift_mm};

/// How a slot's filter moves the focus.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct SlotFocus {
    /// The slot's number.
    pub number: u32,
    /// The filter's thickness, mm; null where it is not known.
    pub thickness_mm: Option<f64>,
    /// How far it moves the focus away from the telescope, mm: t (1 - 1/n).
    pub shift_mm: Option<f64>,
    /// The back focus that must be set with it in the light, mm.
    pub back_focus_mm: Option<f64>,
}

/// How exact the focus must be, and how the filters move it.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct RigFocus {
    /// Depth of focus either way at 550 nm, um: 2 lambda N^2.
    pub depth_um: f64,
    /// Slot by slot, those that hold a filter.
    pub slots: Vec<SlotFocus>,
    /// Whether all filters whose thickness is known move the focus alike, within the depth; null
    /// where fewer than two are known.
    pub parfocal: Option<bool>,
    /// All of it in a sentence or two.
    pub words: String,
}

/// How exact the focus must be, and how the filters move it.
pub fn rig_focus(parts: &RigParts) -> RigFocus {
    let optics = parts.optics();
    let depth_um = optics.depth_of_focus_um(550.0);
    let slots: Vec<SlotFocus> = (parts.rig.slots.iter().zip(&parts.filters))
        .filter_map(|(slot, filter)| filter.map(|f| (slot.number, f.filter.thickness_mm)))
        .map(|(number, thickness_mm)| {
            let shift_mm = thickness_mm.map(|t| filter_focus_shift_mm(t, GLASS_INDEX));
            let back_focus_mm = parts.rig.back_focus_mm.zip(shift_mm).map(|(b, s)| b + s);
            SlotFocus { number, thickness_mm, shift_mm, back_focus_mm }
        })
        .collect();
    let shifts: Vec<f64> = slots.iter().filter_map(|s| s.shift_mm).collect();
    let apart_mm = shifts.iter().copied().fold(f64::NEG_INFINITY, f64::max)
        - shifts.iter().copied().fold(f64::INFINITY, f64::min);
    let parfocal = (shifts.len() > 1).then_some(apart_mm * 1e3 <= depth_um);
    let ratio = optics.focal_ratio();
    let words = focus_words(parts.rig.back_focus_mm, depth_um, ratio, &shifts, parfocal);
    RigFocus { depth_um, slots, parfocal, words }
}

/// What the filters do to the focus, and how exact it must be at this focal ratio, in words.
fn focus_words(
    back_focus_mm: Option<f64>,
    depth_um: f64,
    ratio: f64,
    shifts_mm: &[f64],
    parfocal: Option<bool>,
) -> String {
    let mut words =
        format!("At f/{ratio:.1} the focus must be right to {depth_um:.0} um either way.");
    if let Some(shift) = shifts_mm.iter().copied().reduce(f64::max) {
        words += &format!(
            " A filter moves it {shift:.2} mm away from the telescope, a third of its thickness"
        );
        words += &match back_focus_mm {
            Some(b) => format!(": set the back focus to {:.1} mm instead of {b:.1} mm.", b + shift),
            None => ": add that to the back focus.".to_owned(),
        };
    }
    match parfocal {
        Some(true) => words += " By their thickness the filters share one focus.",
        Some(false) => words += " The filters differ in thickness: focus anew after each change.",
        None => {}
    }
    words
}
