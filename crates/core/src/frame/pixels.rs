//! How a frame's pixels are asked for, whatever file holds them.

use crate::scenario::cfa::CfaColour;

/// What the pixels of a frame are of.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Layout {
    /// One value a pixel, of all light that comes through.
    Mono,
    /// A filter array: the colours of the upper left 2 x 2 pixels, row by row from the top.
    Cfa([CfaColour; 4]),
    /// Three values a pixel: red, green and blue in planes 0, 1 and 2.
    Rgb,
}

/// The pixels of a frame. Rows count from the top of the picture, columns from its left; values are
/// in ADU as the file means them (scaled and with its zero put on).
pub trait Pixels: Sync {
    /// Columns and rows, each at least 1.
    fn size(&self) -> [usize; 2];

    /// What they are of.
    fn layout(&self) -> Layout;

    /// Whether all values are whole numbers.
    fn whole_numbers(&self) -> bool;

    /// The largest value that the converter gives, ADU, where it is known.
    fn most_adu(&self) -> Option<f64>;

    /// Copies pixels of a row of a plane from a column on, as many as `out` has room for: not past
    /// the row's end. What is no number is given as NaN.
    fn piece(&self, plane: usize, row: usize, from: usize, out: &mut [f32]);
}
