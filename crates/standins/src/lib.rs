//! Stand-ins for devices that the product speaks of and does not own: they ship with it, play the
//! same night for the same seed, and write down what they did, so that what is read from their files
//! can be held against the truth.
//!
//! The camera renders the subs of a plan by the model of the simulated picture, each under the sky
//! of its own minute, with bias, dark and flat frames; clouds pass, focus drifts, guiding is lost
//! and a satellite comes by. A sky meter and a cloud watcher see the same sky, minute by minute.

pub mod camera;
pub mod instruments;
pub mod night;
pub mod shot;
pub mod truth;
pub mod weather;

pub use camera::Camera;
pub use instruments::{CloudReading, Instruments, SkyReading};
pub use night::{Night, StandinError, read_plan};
pub use shot::{Kind, Shot};
pub use truth::Truth;
pub use weather::{Cloud, Conditions, Weather};
