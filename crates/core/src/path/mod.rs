//! The light path: from the target through air, telescope and filter to electrons per second in
//! each channel of a sensor.

pub mod filter;
pub(crate) mod mount;
pub(crate) mod optics;
pub(crate) mod rates;
pub(crate) mod scales;
pub(crate) mod scene;
pub(crate) mod sensor;
pub mod sky;
pub(crate) mod spectrum;
pub(crate) mod stages;
pub(crate) mod target;

pub use optics::filter_focus_shift_mm;
pub use rates::{Rates, rates};
pub use scales::Scales;
pub use scene::Scene;
pub use sensor::{Channel, GainPoint};
pub use spectrum::{
    FilterCurve, LineMark, ResponseCurve, SkyCurve, SpectrumView, drawing_grid, drawn_curve,
    spectrum_view,
};
pub use stages::{Stages, stages};
pub use target::continuum_spectrum;
