//! What is not known exactly: draws of the inputs, and the ranges of the answers that follow from
//! them.

pub(crate) mod draws;
pub(crate) mod ranges;
