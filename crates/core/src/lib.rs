//! The rules of deep-sky imaging, as pure computation.
//!
//! Light goes through this crate in the order in which it reaches a pixel: [`light`] (units, spectra,
//! photometric bands), [`target`] (what shines), [`sky`] (what shines besides), [`optics`], [`filter`],
//! [`sensor`], then [`path`] (electrons per second at each stage), [`exposure`] (one sub), and
//! [`integration`] (a stack of them). [`scenario`] is the document that names all of it, [`evaluate`]
//! the one call that answers it, and [`compare`] says in words what the answer means.
//!
//! Nothing here reads a file, a clock or the network, and nothing is random: the same document and the
//! same [`light::Tables`] give the same answer, to the bit.

pub mod bandwidth;
pub mod campaign;
pub mod catalogue;
pub mod check;
pub mod compare;
pub mod crew;
pub mod decide;
pub mod evaluate;
pub mod exposure;
pub mod filter;
pub mod filter_choice;
pub mod gear;
pub mod integration;
pub mod light;
pub mod look;
pub mod night;
pub mod optics;
pub mod path;
pub mod rig;
pub mod scenario;
pub mod sensor;
pub mod shelf;
pub mod sky;
pub mod spectrum_view;
pub mod star;
pub mod target;

pub use check::{Checked, FieldError};
pub use evaluate::{Evaluation, evaluate};
pub use scenario::Scenario;

// The tests beside the code read the same scenarios as those of behaviour, which know the crate by its outer name.
#[cfg(test)]
extern crate self as salt_lamp_core;
#[cfg(test)]
#[path = "../tests/common/mod.rs"]
mod common;
