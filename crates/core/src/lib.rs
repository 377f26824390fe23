//! The rules of deep-sky imaging, as pure computation.
//!
//! A reader walks through its rooms in the order in which light and decisions go, and each room may
//! use only those before it: [`light`] (units, spectra, lines, bands) · [`scenario`] (the document:
//! what is accepted, what is left out) · [`library`] (gear, the shelf, the catalogue) · [`path`]
//! (target, sky, filter, optics and sensor to electrons per second) · [`signal`] (one sub, a stack,
//! a star, the model of a light path) · [`evaluate`] (the published answer) · [`decide`] (sub,
//! gain, time, differences, ranges) · [`report`] (sentences and tables) · [`look`] (the simulated
//! picture) · [`night`] (where things stand, and the plan) · [`campaign`] (goals over many nights) ·
//! [`frame`] (what a frame holds, and the verdict on it) · [`log`] (a night's frames, understood) ·
//! [`trial`] (fair comparisons).
//! Beside them stand [`wording`] (numbers as imagers say them) and [`workers`] (threads that the
//! caller hands in).
//!
//! ```
//! use salt_lamp_core::decide::{Study, decide};
//! use salt_lamp_core::library::Library;
//! use salt_lamp_core::light::{Quantity, Tables};
//!
//! let library = Library::shipped().expect("it ships with the program");
//! let tables = Tables::shipped().expect("they ship with the program");
//! let scenario = library.examples[0].scenario.clone().check().expect("every field is accepted");
//! // One study answers every question about the scenario.
//! let study = Study::new(scenario, &tables);
//! let ha = &study.evaluation.contenders[0].quantities[&Quantity::Ha];
//! assert!(ha.snr > 0.0 && ha.time_to_goal_s.is_some());
//! let decisions = decide(&study, &library.gear);
//! assert!(decisions.paths[0].subs[0].plateau_s[0] <= decisions.paths[0].subs[0].best_s);
//! ```
//!
//! Nothing here reads a file, a clock or the network, and nothing is random: the same document and
//! the same [`light::Tables`] give the same answer, to the bit.

pub mod campaign;
pub mod decide;
pub mod evaluate;
pub mod frame;
pub mod library;
pub mod light;
pub mod log;
pub mod look;
pub mod night;
pub mod path;
pub mod report;
pub mod scenario;
pub mod signal;
pub mod trial;
pub mod wording;
pub mod workers;

pub use evaluate::{Evaluation, evaluate};
pub use scenario::{Checked, FieldError, Scenario};

// The tests beside the code read the same scenarios as those of behaviour, which know the crate by
// its outer name.
#[cfg(test)]
extern crate self as salt_lamp_core;
#[cfg(test)]
#[path = "../tests/common/mod.rs"]
mod common;
