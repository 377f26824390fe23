//! Pixels as they stand in a file's bytes, or as they were unpacked.

use std::sync::Arc;

use salt_lamp_core::frame::{Layout, Pixels};

/// How a pixel stands in the bytes, big-endian as in FITS.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Sample {
    /// One byte, unsigned.
    U8,
    /// Two, signed.
    I16,
    /// Four, signed.
    I32,
    /// Eight, signed.
    I64,
    /// Four, IEEE 754.
    F32,
    /// Eight, IEEE 754.
    F64,
}

impl Sample {
    /// That of a BITPIX; `None` of none.
    pub fn of_bitpix(bitpix: i64) -> Option<Self> {
        Some(match bitpix {
            8 => Self::U8,
            16 => Self::I16,
            32 => Self::I32,
            64 => Self::I64,
            -32 => Self::F32,
            -64 => Self::F64,
            _ => return None,
        })
    }

    pub fn bytes(self) -> usize {
        match self {
            Self::U8 => 1,
            Self::I16 => 2,
            Self::I32 | Self::F32 => 4,
            Self::I64 | Self::F64 => 8,
        }
    }

    pub fn is_whole(self) -> bool {
        !matches!(self, Self::F32 | Self::F64)
    }

    /// Smallest and largest value of whole numbers.
    pub fn ends(self) -> Option<[f64; 2]> {
        match self {
            Self::U8 => Some([0.0, 255.0]),
            Self::I16 => Some([-32768.0, 32767.0]),
            Self::I32 => Some([-2_147_483_648.0, 2_147_483_647.0]),
            _ => None,
        }
    }
}

/// What the stored numbers mean: `zero + scale * stored`, and which of them means none.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Scaling {
    pub scale: f64,
    pub zero: f64,
    pub blank: Option<i64>,
}

/// Where the values stand.
pub(super) enum Store {
    /// As in the file, from a byte on.
    File { bytes: Arc<Vec<u8>>, from: usize, sample: Sample, scaling: Scaling },
    /// Unpacked, scaled, plane after plane, or the values of a pixel side by side.
    Floats(Vec<f32>),
    /// Unpacked whole numbers.
    Words(Vec<u16>),
}

/// The pixels of a file.
pub struct Picture {
    pub(super) size: [usize; 2],
    pub(super) layout: Layout,
    pub(super) store: Store,
    /// Whether the file's first row is the lowest.
    pub(super) bottom_up: bool,
    /// Whether the values of a pixel stand side by side, so many of them.
    pub(super) interleaved: Option<usize>,
    pub(super) whole: bool,
    pub(super) most_adu: Option<f64>,
}

impl Picture {
    /// The same pixels of another layout, where they have as many values.
    pub fn with_layout(mut self, layout: Layout) -> Self {
        if (self.layout == Layout::Rgb) == (layout == Layout::Rgb) {
            self.layout = layout;
        }
        self
    }
}

impl Pixels for Picture {
    fn size(&self) -> [usize; 2] {
        self.size
    }

    fn layout(&self) -> Layout {
        self.layout
    }

    fn whole_numbers(&self) -> bool {
        self.whole
    }

    fn most_adu(&self) -> Option<f64> {
        self.most_adu
    }

    #[inline(always)]
    fn piece(&self, plane: usize, row: usize, from: usize, out: &mut [f32]) {
        let [columns, rows] = self.size;
        let row = if self.bottom_up { rows - 1 - row } else { row };
        let (start, step) = match self.interleaved {
            Some(n) => ((row * columns + from) * n + plane, n),
            None => ((plane * rows + row) * columns + from, 1),
        };
        match &self.store {
            Store::Floats(all) => {
                let own = all[start..].iter().step_by(step);
                out.iter_mut().zip(own).for_each(|(o, v)| *o = *v);
            }
            Store::Words(all) => {
                let own = all[start..].iter().step_by(step);
                out.iter_mut().zip(own).for_each(|(o, v)| *o = f32::from(*v));
            }
            Store::File { bytes, from, sample, scaling } => {
                let start = from + start * sample.bytes();
                let own = &bytes[start..start + out.len() * sample.bytes()];
                values(own, *sample, scaling, out);
            }
        }
    }
}

/// Values from bytes.
#[inline(always)]
fn values(bytes: &[u8], sample: Sample, scaling: &Scaling, out: &mut [f32]) {
    let Scaling { scale, zero, blank } = *scaling;
    if sample == Sample::I16 && scale == 1.0 && zero == 32768.0 && blank.is_none() {
        // Unsigned numbers, as nearly all cameras write them.
        for (o, b) in out.iter_mut().zip(bytes.as_chunks().0) {
            *o = f32::from(u16::from_be_bytes(*b) ^ 0x8000);
        }
        return;
    }
    let whole = |v: i64| {
        if Some(v) == blank { f32::NAN } else { (zero + scale * v as f64) as f32 }
    };
    let real = |v: f64| (zero + scale * v) as f32;
    match sample {
        Sample::U8 => out.iter_mut().zip(bytes).for_each(|(o, b)| *o = whole(i64::from(*b))),
        Sample::I16 => each(bytes, out, |b| whole(i64::from(i16::from_be_bytes(b)))),
        Sample::I32 => each(bytes, out, |b| whole(i64::from(i32::from_be_bytes(b)))),
        Sample::I64 => each(bytes, out, |b| whole(i64::from_be_bytes(b))),
        Sample::F32 => each(bytes, out, |b| real(f64::from(f32::from_be_bytes(b)))),
        Sample::F64 => each(bytes, out, |b| real(f64::from_be_bytes(b))),
    }
}

fn each<const N: usize>(bytes: &[u8], out: &mut [f32], value: impl Fn([u8; N]) -> f32) {
    for (o, b) in out.iter_mut().zip(bytes.as_chunks().0) {
        *o = value(*b);
    }
}
