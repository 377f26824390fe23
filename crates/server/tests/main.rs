//! The server through its API, as a client asks it.
//!
//! One program: each more would be linked again whenever a line beneath it changes.

mod access_api;
mod api;
mod caching;
#[path = "../../store/tests/common/mod.rs"]
mod common;
mod contract;
mod damage_api;
mod decide_api;
mod extremes;
mod frames_api;
mod framing_api;
mod goals_api;
mod help;
mod kit_api;
mod limits_api;
mod log_api;
mod log_campaign_api;
mod log_taught_api;
mod look_api;
mod night_api;
mod shelf_api;
mod stars_api;
mod tonight_api;
mod trials_api;
