//! Bytes to core types and back. Knows no database and no HTTP.

pub mod curve;
pub(crate) mod curve_columns;
pub mod fits;
pub mod frame;
pub mod guiding;
pub mod header;
pub mod log;
pub mod log_record;
pub mod picture;
pub mod plan;
pub mod readings;
pub mod safe;
pub mod scenario;
pub mod sequence;
pub mod simulated;
pub mod table;
pub mod trial;

pub use scenario::{ReadError, read_scenario};
