//! The store on real files.
//!
//! One program: each more would be linked again whenever a line beneath it changes.

mod campaigns;
mod common;
mod guard;
mod kit_migration;
mod many_writers;
mod scenarios;
mod shelf;
