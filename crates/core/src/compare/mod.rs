//! What an answer means, in words: the verdict on each light path and the difference between two.
//! Sentences are made here and nowhere else, and say no more than the numbers hold.

mod bench;
mod matrix;
mod words;

pub use bench::{BenchAnswer, Curves, RowWords, SnrCurve, Verdict, bench};
pub use matrix::{Cell, Column, Matrix, matrix};
pub use words::{ABOUT_EQUAL, clock, seconds, times};
