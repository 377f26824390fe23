//! The scenario: one open document for a whole comparison.
//!
//! Field names carry their units. Unknown keys are refused. [`check`] says which values are
//! accepted; a scenario that passed is a [`crate::Checked`].

pub(crate) mod cfa;
pub(crate) mod check;
pub(crate) mod choices;
pub(crate) mod defaults;
pub(crate) mod document;
pub(crate) mod document_check;
pub(crate) mod exposure;
pub(crate) mod field_error;
pub(crate) mod frame_check;
pub(crate) mod frame_plan;
pub(crate) mod goal;
pub(crate) mod limits;
pub(crate) mod pointing;
pub(crate) mod rig;
pub(crate) mod site;
pub(crate) mod sky;
pub(crate) mod target;
pub(crate) mod wanted;

pub use cfa::CfaColour;
pub use check::{
    Checked, DARKER_MAG, FieldRange, GLOW, MAX_CONTENDERS, MAX_EXPOSURES, MAX_SENSOR_PIXELS,
    check_rig, ranges_of,
};
pub use choices::{Choices, GainSub, Purpose, SplitMode, SubCriterion, TestFrame, Uncertainty};
pub use defaults::{MOST_OVERLAP, PANEL_OVERLAP};
pub use document::{FormatName, Scenario};
pub use exposure::{Calibration, Exposure, Filter, Passband};
pub use field_error::FieldError;
pub use frame_plan::{FieldRig, FramePlan, MAX_PANELS, Panel};
pub use goal::{
    CLEAN_SNR, Goal, GoalPurpose, PartFactor, PartLight, SEEN_SNR, SMOOTH_SNR, TargetPart,
};
pub use limits::{LocalTime, NightLimits};
pub use pointing::Pointing;
pub use rig::{BinningMode, Contender, Dark, Dither, Following, GainRow, Mount, Optics, Sensor};
pub use site::{KnownFigure, Site, SiteFigure, darker_at, solar_hour};
pub use sky::{Moon, Sky, lit_share};
pub use target::{Continuum, Known, LinesRayleigh, Target, TargetKind};
