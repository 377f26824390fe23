//! The core from outside: behaviour, facts of the trade, and tables of other people's making.
//!
//! One program: ten would be linked ten times whenever a line of the core changes.

mod campaigns;
mod charts;
mod checks;
mod common;
mod coverage;
mod decisions;
mod facts;
mod forecast_nights;
mod goals;
mod look;
mod night;
mod nights;
mod outside;
mod outside_decisions;
mod picture;
mod plan;
mod properties;
mod sky_objects;
mod snapshot;
mod to_buy;
mod trials;
mod weigh;
