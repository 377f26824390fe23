//! A box of a frame, channel by channel: its mean light without what stands out of it.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::frame::channel::{Channel, Scratch};
use crate::frame::pixels::Pixels;
use crate::frame::tile::{OF_MAD, middle};

/// Values further from the middle than so many robust deviations are stars or hot pixels, and cut.
const CUT: f64 = 3.0;
const CUTS: usize = 5;
/// Pixels that a box must have of a channel.
const LEAST_PIXELS: usize = 20;

/// A box on a frame, pixels from the upper left corner.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FrameBox {
    /// Its left column.
    pub x: usize,
    /// Its upper row.
    pub y: usize,
    /// Columns.
    pub width: usize,
    /// Rows.
    pub height: usize,
}

/// What a channel holds in a box.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct BoxMeasured {
    /// `mono`, `r`, `g` or `b`.
    pub channel: &'static str,
    /// Mean of what is left, ADU.
    pub mean_adu: f64,
    /// Standard deviation of that mean, ADU.
    pub sd_adu: f64,
    /// Pixels that are left.
    pub pixels: usize,
    /// Noise of one pixel, ADU: the root mean square of differences of neighbours in a row over the
    /// root of two, for whatever is wider than a pixel (a nebula, the wings of faint stars) is hardly
    /// in them. Of frames whose pixels were mixed (turned, scaled) it is too small.
    pub noise_adu: f64,
}

impl FrameBox {
    /// The same box about another middle, moved to lie within a frame; `None` where it is larger.
    pub fn about(&self, middle: [f64; 2], [columns, rows]: [usize; 2]) -> Option<Self> {
        let place = |m: f64, size: usize, most: usize| {
            let last = most.checked_sub(size)?;
            Some((m - size as f64 / 2.0).round().clamp(0.0, last as f64) as usize)
        };
        Some(Self {
            x: place(middle[0], self.width, columns)?,
            y: place(middle[1], self.height, rows)?,
            ..*self
        })
    }

    /// Its middle, pixels.
    pub fn middle(&self) -> [f64; 2] {
        [self.x as f64 + self.width as f64 / 2.0, self.y as f64 + self.height as f64 / 2.0]
    }
}

/// Measures a box in every channel of a frame; channels of which too little lies in it are left out.
pub fn measure_box(pixels: &impl Pixels, at: &FrameBox) -> Vec<BoxMeasured> {
    let [columns, rows] = pixels.size();
    let mut scratch = Scratch::default();
    let mut one = |c: &Channel| {
        let (from, to) = (at.x / c.step, (at.x + at.width).min(columns) / c.step);
        let (top, bottom) = (at.y / c.step, (at.y + at.height).min(rows) / c.step);
        let (mut values, mut steps) = (Vec::new(), Vec::new());
        let mut line = vec![0f32; to.saturating_sub(from)];
        for row in top..bottom {
            c.piece(pixels, row, from, &mut scratch, &mut line);
            values.extend(line.iter().filter(|v| v.is_finite()).map(|v| f64::from(*v)));
            let own = line.windows(2).map(|w| f64::from(w[1]) - f64::from(w[0]));
            steps.extend(own.filter(|d| d.is_finite()));
        }
        let (mean_adu, sd_adu, pixels) = cut_mean(values)?;
        let (_, step_sd_adu, step_count) = cut_mean(steps)?;
        let noise_adu = step_sd_adu * (step_count as f64 / 2.0).sqrt();
        Some(BoxMeasured { channel: c.name, mean_adu, sd_adu, pixels, noise_adu })
    };
    Channel::all(pixels).iter().filter_map(&mut one).collect()
}

/// Mean of what an iterated cut about the median leaves, its standard deviation, and how many.
fn cut_mean(mut values: Vec<f64>) -> Option<(f64, f64, usize)> {
    for _ in 0..CUTS {
        let median = middle(values.iter().copied())?;
        let scatter = OF_MAD * middle(values.iter().map(|v| (v - median).abs()))?;
        let before = values.len();
        if scatter > 0.0 {
            values.retain(|v| (v - median).abs() <= CUT * scatter);
        }
        if values.len() == before {
            break;
        }
    }
    let n = values.len() as f64;
    if values.len() < LEAST_PIXELS {
        return None;
    }
    let mean = values.iter().sum::<f64>() / n;
    let variance = values.iter().map(|v| (v - mean).powi(2)).sum::<f64>() / (n - 1.0);
    Some((mean, (variance / n).sqrt(), values.len()))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::frame::pixels::Layout;
    use crate::scenario::cfa::CfaColour::{B, G, R};
    use rand::{RngExt, SeedableRng};
    use rand_pcg::Pcg64Mcg;

    /// Colours of a level each, with a star in the box.
    struct Mosaic;

    impl Pixels for Mosaic {
        fn size(&self) -> [usize; 2] {
            [64, 48]
        }
        fn layout(&self) -> Layout {
            Layout::Cfa([R, G, G, B])
        }
        fn whole_numbers(&self) -> bool {
            false
        }
        fn most_adu(&self) -> Option<f64> {
            None
        }
        fn piece(&self, _: usize, row: usize, from: usize, out: &mut [f32]) {
            for (i, v) in out.iter_mut().enumerate() {
                let x = from + i;
                let level = [[100.0, 200.0], [200.0, 400.0]][row % 2][x % 2];
                let grain = ((x * 31 + row * 17) % 7) as f32 - 3.0;
                let star =
                    if (20..24).contains(&x) && (20..24).contains(&row) { 5000.0 } else { 0.0 };
                *v = level + grain + star;
            }
        }
    }

    #[test]
    fn each_colour_has_its_own_mean_and_a_star_is_cut() {
        let all = measure_box(&Mosaic, &FrameBox { x: 8, y: 8, width: 32, height: 32 });
        let of = |name: &str| *all.iter().find(|m| m.channel == name).expect("a colour");
        for (name, level) in [("r", 100.0), ("g", 200.0), ("b", 400.0)] {
            let m = of(name);
            assert!((m.mean_adu - level).abs() < 0.3 && m.sd_adu < 0.3, "{m:?}");
            assert_eq!(m.pixels, 256 - 4, "{m:?}");
        }
        assert!(measure_box(&Mosaic, &FrameBox { x: 60, y: 44, width: 30, height: 30 }).is_empty());
    }

    /// A slope from edge to edge with noise of 5 ADU on it.
    struct Slope(Vec<f32>);

    impl Pixels for Slope {
        fn size(&self) -> [usize; 2] {
            [100, 100]
        }
        fn layout(&self) -> Layout {
            Layout::Mono
        }
        fn whole_numbers(&self) -> bool {
            false
        }
        fn most_adu(&self) -> Option<f64> {
            None
        }
        fn piece(&self, _: usize, row: usize, from: usize, out: &mut [f32]) {
            let noise = &self.0[row * 100 + from..];
            out.iter_mut().enumerate().for_each(|(i, v)| *v = (from + i) as f32 + 5.0 * noise[i]);
        }
    }

    #[test]
    fn noise_is_told_from_structure() {
        let mut rng = Pcg64Mcg::seed_from_u64(4);
        let of_chance = |_| (0..12).map(|_| rng.random::<f32>()).sum::<f32>() - 6.0;
        let slope = Slope((0..10_000).map(of_chance).collect());
        let m = measure_box(&slope, &FrameBox { x: 0, y: 0, width: 100, height: 100 })[0];
        // Ten thousand pixels know it to one in a hundred; a cut at three takes one more.
        assert!((m.noise_adu / 5.0 - 1.0).abs() < 0.03, "{m:?}");
        let scatter = m.sd_adu * (m.pixels as f64).sqrt();
        assert!(scatter > 28.0, "a slope of 100 scatters by 29: {m:?}");
    }

    #[test]
    fn a_box_stays_on_the_frame() {
        let own = FrameBox { x: 10, y: 10, width: 20, height: 10 };
        assert_eq!(own.middle(), [20.0, 15.0]);
        let moved = own.about([2.0, 100.0], [64, 48]).expect("it fits");
        assert_eq!(moved, FrameBox { x: 0, y: 38, width: 20, height: 10 });
        assert_eq!(own.about([2.0, 2.0], [16, 48]), None);
    }
}
