//! The scenario: one open document for a whole comparison.
//!
//! Field names carry their units. Unknown keys are refused. [`check`] says which values are accepted; a scenario that passed is a
//! [`crate::Checked`].

pub(crate) mod check;
pub(crate) mod choices;
pub(crate) mod defaults;
pub(crate) mod document;
pub(crate) mod exposure;
pub(crate) mod field_error;
pub(crate) mod limits;
pub(crate) mod rig;
pub(crate) mod site;
pub(crate) mod sky;
pub(crate) mod target;

pub use check::{Checked, FieldRange, MAX_CONTENDERS, MAX_EXPOSURES, MAX_SENSOR_PIXELS, check_rig, ranges_of};
pub use choices::{Choices, Purpose, SplitMode, SubCriterion, TestFrame, Uncertainty};
pub use document::{FormatName, Scenario};
pub use exposure::{Calibration, Exposure, Filter, Passband};
pub use field_error::FieldError;
pub use limits::NightLimits;
pub use rig::{CfaColour, Contender, Dark, GainRow, Optics, Sensor};
pub use site::Site;
pub use sky::{Moon, Sky};
pub use target::{Continuum, LinesRayleigh, Target, TargetKind};
