//! What a frame holds, measured: how bright its background is and how much it scatters, where it
//! slopes, its stars with their size and shape, and what all this says against the model of the
//! light path.
//!
//! A frame's pixels are asked for piece by piece and never stand in memory a second time: one pass
//! over them gives level and scatter on a mesh of tiles, a second one finds stars on what the tiles
//! leave. Every colour of a filter array is measured on its own pixels. How a file holds its pixels
//! and what its header means is not known here; nor is anything stored.

pub mod background;
pub mod channel;
pub mod detect;
pub mod header;
pub mod matching;
pub mod measure;
pub mod measured;
pub mod moments;
pub mod patch;
pub mod pixels;
pub mod plate;
pub mod slope;
pub mod stars;
pub mod tile;
pub mod verdict;
mod wide;

pub use header::{FrameKind, HeaderFields};
pub use measure::measure;
pub use measured::{ChannelMeasured, FrameMeasured, SizesOfPart};
pub use patch::{BoxMeasured, FrameBox, measure_box};
pub use pixels::{Layout, Pixels};
