//! The plan of a night: which filter in which block, how many subs, and why it stands there.

pub(crate) mod nights;
pub(crate) mod planner;
pub(crate) mod schedule;
pub(crate) mod search;
pub(crate) mod slots;
pub(crate) mod spec;
pub(crate) mod targets;

#[cfg(test)]
mod planner_tests;
#[cfg(test)]
mod schedule_tests;
