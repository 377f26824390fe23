//! Bytes to core types and back. Knows no database and no HTTP.

pub mod curve;
pub mod scenario;
pub mod table;

pub use scenario::{ReadError, read_scenario};
