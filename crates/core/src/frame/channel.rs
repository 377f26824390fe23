//! One channel of a frame as an image of its own: all pixels of a mono camera, the pixels of one
//! colour of a filter array, or one of three planes.

use crate::frame::pixels::{Layout, Pixels};
use crate::scenario::cfa::CfaColour;

/// One channel of a frame.
#[derive(Clone, Debug)]
pub struct Channel {
    /// `mono`, `r`, `g` or `b`.
    pub name: &'static str,
    /// Columns and rows of its own image.
    pub size: [usize; 2],
    /// Pixels of the sensor to a pixel of the channel along each side: 2 for a filter array.
    pub step: usize,
    plane: usize,
    /// Column and row of its pixels in each square of `step`.
    sites: Vec<[usize; 2]>,
}

impl Channel {
    /// The channels of a frame. A colour of which the array has no pixel is left out.
    pub fn all(pixels: &impl Pixels) -> Vec<Self> {
        let [columns, rows] = pixels.size();
        let plane =
            |name, plane| Self { name, size: [columns, rows], step: 1, plane, sites: vec![[0, 0]] };
        match pixels.layout() {
            Layout::Mono => vec![plane("mono", 0)],
            Layout::Rgb => vec![plane("r", 0), plane("g", 1), plane("b", 2)],
            // Too small for a square of the array.
            Layout::Cfa(_) if columns < 2 || rows < 2 => vec![plane("mono", 0)],
            Layout::Cfa(pattern) => [CfaColour::R, CfaColour::G, CfaColour::B]
                .into_iter()
                .map(|colour| Self {
                    name: colour.key(),
                    size: [columns / 2, rows / 2],
                    step: 2,
                    plane: 0,
                    sites: (0..4)
                        .filter(|i| pattern[*i] == colour)
                        .map(|i| [i % 2, i / 2])
                        .collect(),
                })
                .filter(|c| !c.sites.is_empty())
                .collect(),
        }
    }

    /// Pixels of the sensor that are of this channel, to each pixel of the channel.
    pub fn sites(&self) -> usize {
        self.sites.len()
    }

    /// The pixels of one site in a row of the channel from a column on.
    #[inline(always)]
    pub fn piece_of_site(
        &self,
        pixels: &impl Pixels,
        (site, row): (usize, usize),
        from: usize,
        scratch: &mut Vec<f32>,
        out: &mut [f32],
    ) {
        if self.step == 1 {
            return pixels.piece(self.plane, row, from, out);
        }
        let [dx, dy] = self.sites[site];
        let last = pixels.size()[0] - 2 * from;
        scratch.resize((2 * out.len()).min(last), 0.0);
        pixels.piece(self.plane, 2 * row + dy, 2 * from, scratch);
        for (value, pair) in out.iter_mut().zip(scratch.chunks_exact(2)) {
            *value = pair[dx];
        }
    }

    /// The channel's image in a row from a column on: where two pixels of a square are of the
    /// colour, their mean.
    #[inline(always)]
    pub fn piece(
        &self,
        pixels: &impl Pixels,
        row: usize,
        from: usize,
        scratch: &mut Scratch,
        out: &mut [f32],
    ) {
        self.piece_of_site(pixels, (0, row), from, &mut scratch.pairs, out);
        if self.sites.len() < 2 {
            return;
        }
        scratch.second.resize(out.len(), 0.0);
        let mut second = std::mem::take(&mut scratch.second);
        self.piece_of_site(pixels, (1, row), from, &mut scratch.pairs, &mut second);
        out.iter_mut().zip(&second).for_each(|(a, b)| *a = 0.5 * (*a + b));
        scratch.second = second;
    }

    /// Where the middle of a pixel of the channel stands on the sensor, pixels from the middle of
    /// the upper left one.
    pub fn on_sensor(&self, at: [f64; 2]) -> [f64; 2] {
        let step = self.step as f64;
        let mean = |axis: usize| {
            self.sites.iter().map(|s| s[axis] as f64).sum::<f64>() / self.sites.len() as f64
        };
        [at[0] * step + mean(0), at[1] * step + mean(1)]
    }

    /// What gathering a star's light in this channel's pixels adds to the moments of its profile
    /// (x^2, xy, y^2), px^2 of the sensor: a pixel of the channel stands for a square of `step`,
    /// not of one; two sites of a diagonal are half a pixel from their mean.
    pub fn blur_px2(&self) -> [f64; 3] {
        let step = self.step as f64;
        let square = (step * step - 1.0) / 12.0;
        let [a, b] = [self.sites[0], self.sites[self.sites.len() - 1]];
        let d = |axis: usize| (a[axis] as f64 - b[axis] as f64) / 2.0;
        [square + d(0) * d(0), d(0) * d(1), square + d(1) * d(1)]
    }
}

/// Memory that reading a channel uses again and again.
#[derive(Debug, Default)]
pub struct Scratch {
    pairs: Vec<f32>,
    second: Vec<f32>,
}
