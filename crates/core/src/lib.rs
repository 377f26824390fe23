//! The rules of deep-sky imaging, as pure computation.
//!
//! A reader walks through its rooms in the order in which light and decisions go, and each room may use only those before it:
//! [`light`] (units, spectra, lines, bands) · [`scenario`] (the document: what is accepted, what is left out) · [`library`] (gear, the
//! shelf, the catalogue) · [`path`] (target, sky, filter, optics and sensor to electrons per second) · [`signal`] (one sub, a stack, a
//! star, the model of a light path) · [`evaluate`] (the published answer) · [`decide`] (sub, gain, time, differences, ranges) ·
//! [`report`] (sentences and tables) · [`look`] (the simulated picture) · [`night`] (where things stand, and the plan) ·
//! [`campaign`] (goals over many nights). Beside them stand [`wording`] (numbers as imagers say them) and [`workers`] (threads that
//! the caller hands in).
//!
//! Nothing here reads a file, a clock or the network, and nothing is random: the same document and the
//! same [`light::Tables`] give the same answer, to the bit.

pub mod campaign;
pub mod decide;
pub mod evaluate;
pub mod library;
pub mod light;
pub mod look;
pub mod night;
pub mod path;
pub mod report;
pub mod scenario;
pub mod signal;
pub mod wording;
pub mod workers;

pub use evaluate::{Evaluation, evaluate};
pub use scenario::{Checked, FieldError, Scenario};

// The tests beside the code read the same scenarios as those of behaviour, which know the crate by its outer name.
#[cfg(test)]
extern crate self as salt_lamp_core;
#[cfg(test)]
#[path = "../tests/common/mod.rs"]
mod common;
