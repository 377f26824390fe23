//! Frames of one's own beside each other, so that the eye compares what can be compared: the same
//! piece of sky laid upon each other by its stars, one stretch, and either one exposure or one
//! background for both.
//!
//! Each pixel shown is a pixel of its frame, the nearest one: to mix neighbours would take noise
//! away from the frame that is turned and leave it in the other.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::frame::channel::{Channel, Scratch};
use crate::frame::measured::FrameMeasured;
use crate::frame::patch::BoxMeasured;
use crate::frame::pixels::Pixels;
use crate::log::quality::judged_channel;
use crate::trial::eye::Greys;

/// What is made alike before frames are shown.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Alike {
    /// Light in a second: what one frame has less, it shows less.
    #[default]
    Exposure,
    /// The sky's light: each frame as if its sky were equally bright.
    Background,
}

impl Alike {
    /// Why it matters.
    pub fn told(self) -> &'static str {
        match self {
            Self::Exposure => {
                "Matched in light a second: a frame through less glass or cloud looks dimmer, and a dim frame \
                 looks sharper than it is, for the wings of its stars sink into black."
            }
            Self::Background => {
                "Matched in the sky's light: what stands out of the sky can be compared, and a brighter sky no \
                 longer looks like more picture."
            }
        }
    }
}

/// A piece of a frame, pixel by pixel from its upper left, in ADU; not a number where it leaves the
/// frame.
#[derive(Clone, Debug, PartialEq)]
pub struct Piece {
    /// Columns and rows.
    pub size: [usize; 2],
    /// ADU.
    pub adu: Vec<f32>,
}

/// Largest piece along a side, pixels.
pub const MOST_SIDE: usize = 1200;

/// The piece of a channel of a frame that lies where `place` says, for each pixel of a square of
/// `side` about `middle` of the frame it is laid upon; `None` where it lies off the frame altogether,
/// or the frame has no such channel.
pub fn piece_of(
    pixels: &impl Pixels,
    channel: &str,
    (middle, side): ([f64; 2], usize),
    place: &dyn Fn([f64; 2]) -> [f64; 2],
) -> Option<Piece> {
    let all = Channel::all(pixels);
    let own = all.iter().find(|c| c.name == channel).or_else(|| all.first())?;
    let side = side.clamp(1, MOST_SIDE);
    let step = own.step as f64;
    // Places on the channel's own grid; a filter array's pixel stands for its square.
    let at = |i: usize, j: usize| {
        let of = |k: usize, m: f64| m - side as f64 / 2.0 + k as f64;
        let [x, y] = place([of(i, middle[0]), of(j, middle[1])]);
        [(x / step).round(), (y / step).round()]
    };
    let corners = [at(0, 0), at(side - 1, 0), at(0, side - 1), at(side - 1, side - 1)];
    let range = |axis: usize, most: usize| {
        let of = corners.iter().map(|c| c[axis]);
        let (low, high) = of.fold((f64::MAX, f64::MIN), |(l, h), v| (l.min(v), h.max(v)));
        let (low, high) = ((low - 1.0).max(0.0), (high + 2.0).min(most as f64));
        (low < high).then_some((low as usize, high as usize))
    };
    let (from, to) = range(0, own.size[0])?;
    let (top, bottom) = range(1, own.size[1])?;
    let wide = to - from;
    let mut scratch = Scratch::default();
    let mut source = vec![0f32; wide * (bottom - top)];
    for (row, line) in source.chunks_exact_mut(wide).enumerate() {
        own.piece(pixels, top + row, from, &mut scratch, line);
    }
    let pick = |k: usize| {
        let [x, y] = at(k % side, k / side);
        let inside =
            (from as f64..to as f64).contains(&x) && (top as f64..bottom as f64).contains(&y);
        if inside { source[(y as usize - top) * wide + x as usize - from] } else { f32::NAN }
    };
    Some(Piece { size: [side, side], adu: (0..side * side).map(pick).collect() })
}

/// The mean of pieces of one size, pixel by pixel over those that have one: a stack.
pub fn stacked(pieces: &[Piece]) -> Option<Piece> {
    let first = pieces.first()?;
    let mean = |k: usize| {
        let of = pieces.iter().filter_map(|p| p.adu.get(k)).filter(|v| v.is_finite());
        let (sum, n) = of.fold((0f32, 0f32), |(s, n), v| (s + v, n + 1.0));
        if n > 0.0 { sum / n } else { f32::NAN }
    };
    Some(Piece { size: first.size, adu: (0..first.adu.len()).map(mean).collect() })
}

/// How the ADU of a frame become what is shown: its level, and how many ADU are one unit.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Shown {
    /// Background with the offset, ADU.
    pub level_adu: f64,
    /// Units of one ADU: electrons a second, or shares of the sky's light.
    pub per_adu: f64,
}

impl Shown {
    /// Of a frame with its level, offset, gain and length; what is not known counts as one.
    pub fn of(
        alike: Alike,
        (level_adu, offset_adu): (f64, Option<f64>),
        (e_per_adu, sub_s): (Option<f64>, Option<f64>),
    ) -> Self {
        let per_adu = match alike {
            Alike::Exposure => e_per_adu.unwrap_or(1.0) / sub_s.filter(|s| *s > 0.0).unwrap_or(1.0),
            Alike::Background => 1.0 / (level_adu - offset_adu.unwrap_or(0.0)).max(1.0),
        };
        Self { level_adu, per_adu }
    }

    fn units(&self, adu: f32) -> f64 {
        (f64::from(adu) - self.level_adu) * self.per_adu
    }
}

/// A piece in greys, a byte a pixel; `sigma` is what one standard deviation of the first frame's
/// background is in units, by which all are stretched alike.
pub fn drawn(piece: &Piece, shown: &Shown, sigma: f64) -> Vec<u8> {
    let greys = Greys::of(sigma);
    piece.adu.iter().map(|v| greys.of_value(shown.units(*v))).collect()
}

/// The second piece less the first, in greys about the middle: six of the first frame's standard
/// deviations are black, or white.
pub fn difference([a, b]: [(&Piece, &Shown); 2], sigma: f64) -> Vec<u8> {
    let one = |(x, y): (&f32, &f32)| {
        let d = (b.1.units(*y) - a.1.units(*x)) / (6.0 * sigma.max(1e-30));
        if d.is_finite() { (127.5 + 127.5 * d.clamp(-1.0, 1.0)).round() as u8 } else { 0 }
    };
    a.0.adu.iter().zip(&b.0.adu).map(one).collect()
}

/// What a box of a channel holds.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct BoxInElectrons {
    /// `mono`, `r`, `g` or `b`.
    pub channel: String,
    /// Light over the frame's background, electrons in a pixel.
    pub over_e: f64,
    /// Noise of one pixel, electrons.
    pub scatter_e: f64,
}

/// A frame and a box of it in electrons.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct InElectrons {
    /// Background over the offset, electrons in a pixel; null where gain or offset is not known.
    pub background_e: Option<f64>,
    /// Noise that so many electrons make by themselves (their root), electrons; what read noise and
    /// dark current add comes on top. Null where the background is not known.
    pub background_noise_e: Option<f64>,
    /// The box, channel by channel; empty where the gain is not known.
    pub boxes: Vec<BoxInElectrons>,
}

/// A measured frame and a box of it in electrons; `kit_offset_adu` is its camera's level of no light by
/// the kit, for a frame that does not say its own, ADU.
pub fn in_electrons(
    frame: &FrameMeasured,
    kit_offset_adu: Option<f64>,
    boxes: &[BoxMeasured],
) -> InElectrons {
    let h = &frame.read.header;
    let level = |name: &str| frame.channels.iter().find(|c| c.channel == name).map(|c| c.level_adu);
    let one = |b: &BoxMeasured| {
        let gain = h.e_per_adu?;
        Some(BoxInElectrons {
            channel: b.channel.to_owned(),
            over_e: (b.mean_adu - level(b.channel)?) * gain,
            scatter_e: b.noise_adu * gain,
        })
    };
    let own = judged_channel(frame).map(|c| c.level_adu);
    let background_e = own
        .zip(h.offset_adu.or(kit_offset_adu))
        .zip(h.e_per_adu)
        .map(|((level, offset), gain)| (level - offset) * gain);
    InElectrons {
        background_e,
        background_noise_e: background_e.map(|e| e.max(0.0).sqrt()),
        boxes: boxes.iter().filter_map(one).collect(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::frame::pixels::Layout;

    /// Each pixel says where it is.
    struct Ruled;

    impl Pixels for Ruled {
        fn size(&self) -> [usize; 2] {
            [60, 40]
        }
        fn layout(&self) -> Layout {
            Layout::Mono
        }
        fn whole_numbers(&self) -> bool {
            true
        }
        fn most_adu(&self) -> Option<f64> {
            None
        }
        fn piece(&self, _: usize, row: usize, from: usize, out: &mut [f32]) {
            out.iter_mut().enumerate().for_each(|(i, v)| *v = (row * 100 + from + i) as f32);
        }
    }

    #[test]
    fn a_piece_is_the_frame_s_own_pixels_where_the_stars_say() {
        let as_it_is = piece_of(&Ruled, "mono", ([20.0, 20.0], 4), &|p| p).expect("on it");
        assert_eq!(as_it_is.adu[0], 1818.0);
        assert_eq!(as_it_is.adu[15], 2121.0);
        // A frame that was turned over: the pixel on the other side.
        let turned = piece_of(&Ruled, "mono", ([20.0, 20.0], 4), &|[x, y]| [59.0 - x, 39.0 - y]);
        assert_eq!(turned.expect("on it").adu[0], 2141.0);
        let off = piece_of(&Ruled, "mono", ([1.0, 1.0], 4), &|p| p).expect("partly");
        assert!(off.adu[0].is_nan() && off.adu[15] == 202.0, "{:?}", off.adu);
        assert_eq!(piece_of(&Ruled, "mono", ([-90.0, 20.0], 4), &|p| p), None);
    }

    #[test]
    fn a_box_is_told_in_electrons_and_nothing_is_made_up() {
        let mut frame = crate::log::quality::tests::frame_of_the_sky();
        let h = &mut frame.read.header;
        (h.e_per_adu, h.offset_adu) = (Some(0.5), Some(500.0));
        frame.channels[0].level_adu = 700.0;
        let name = if frame.channels[0].channel == "g" { "g" } else { "mono" };
        let own = BoxMeasured {
            channel: name,
            mean_adu: 710.0,
            sd_adu: 0.3,
            pixels: 400,
            noise_adu: 4.0,
        };
        let told = in_electrons(&frame, Some(400.0), &[own]);
        assert_eq!((told.background_e, told.background_noise_e), (Some(100.0), Some(10.0)));
        assert_eq!((told.boxes[0].over_e, told.boxes[0].scatter_e), (5.0, 2.0));
        // The kit's level of no light stands in for one that the frame does not say.
        frame.read.header.offset_adu = None;
        assert_eq!(in_electrons(&frame, Some(400.0), &[own]).background_e, Some(150.0));
        assert_eq!(in_electrons(&frame, None, &[own]).background_e, None);
        frame.read.header.e_per_adu = None;
        let told = in_electrons(&frame, Some(400.0), &[own]);
        assert!(told.background_e.is_none() && told.boxes.is_empty());
    }

    #[test]
    fn a_stack_is_the_mean_of_those_that_have_a_pixel() {
        let of = |adu: &[f32]| Piece { size: [2, 1], adu: adu.to_vec() };
        let all = stacked(&[of(&[1.0, f32::NAN]), of(&[3.0, 5.0])]).expect("two");
        assert_eq!(all.adu, [2.0, 5.0]);
    }

    #[test]
    fn half_the_exposure_of_the_same_light_is_shown_alike() {
        let piece = |over: f32| Piece { size: [1, 1], adu: vec![500.0 + over] };
        let gain = Some(0.5);
        let [long, short] = [(200.0, 600.0), (100.0, 300.0)].map(|(sky, s)| {
            Shown::of(Alike::Exposure, (500.0 + sky, Some(500.0)), (gain, Some(s)))
        });
        let sigma = 10.0 * long.per_adu;
        assert_eq!(drawn(&piece(260.0), &long, sigma), drawn(&piece(130.0), &short, sigma));
        assert_eq!(difference([(&piece(260.0), &long), (&piece(130.0), &short)], sigma), [128]);
        assert!(drawn(&piece(260.0), &long, sigma) > drawn(&piece(220.0), &long, sigma));
        // Through twice the glass: alike where the sky is made alike.
        let [one, two] = [(200.0, 1.0), (400.0, 1.0)].map(|(sky, _)| {
            Shown::of(Alike::Background, (500.0 + sky, Some(500.0)), (gain, Some(600.0)))
        });
        let sigma = 10.0 * one.per_adu;
        assert_eq!(drawn(&piece(260.0), &one, sigma), drawn(&piece(520.0), &two, sigma));
    }
}
