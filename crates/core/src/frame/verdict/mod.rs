//! The verdict on a test frame: what its numbers say against the model of the light path it was
//! taken through. One sentence a question, each with the numbers behind it; what contradicts the
//! model is said, never swallowed.

mod answer;
mod gradient;
mod judge;
mod noise;
mod seen;
mod shapes;
mod target;

pub use answer::{Figure, FrameVerdict, Sentence, Standing};
pub use judge::judge;
pub use seen::Taken;
