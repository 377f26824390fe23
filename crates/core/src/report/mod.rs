//! What an answer means, in words: the verdict on each light path and the difference between two.
//! Sentences are made here and nowhere else, and say no more than the numbers hold.

pub(crate) mod bench;
pub(crate) mod card;
pub(crate) mod table;
pub(crate) mod verdict;

pub use bench::{BenchAnswer, Curves, RowWords, SnrCurve, bench};
pub use card::{Card, CardPath, card};
pub use table::{Cell, Column, Matrix, matrix};
pub use verdict::{Verdict, VerdictOn};
