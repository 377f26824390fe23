//! The length of a sub: every school's criterion side by side with what it costs, the limits, the
//! chart of information per hour, the conflict of two lines behind one filter, and a second short
//! set for bright cores.

pub(crate) mod conflict;
pub(crate) mod criteria;
pub(crate) mod decision;
pub(crate) mod frame;
pub(crate) mod view;

#[cfg(test)]
mod sub_tests;
