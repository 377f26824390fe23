//! A small picture of a frame, for lists and for a glance.

use salt_lamp_core::frame::{FrameMeasured, Layout, Pixels};

use super::{FrameError, FrameFile, Picture};
use salt_lamp_core::workers::Workers;

/// Longest side of the picture, px.
const LONGEST: usize = 480;
/// The background stands so many of its standard deviations above black; a small picture averages
/// pixels, whose noise is smaller.
const BLACK_SIGMAS: f64 = 1.0;
/// Where the stretch leaves the straight line, in standard deviations.
const SOFT_SIGMAS: f64 = 1.5;
/// What is white, in standard deviations.
const WHITE_SIGMAS: f64 = 300.0;

impl FrameFile {
    /// Measures it and draws it small. `shown` are level and scatter, ADU, by which it is drawn:
    /// those of the frame beside which it will stand, or `None` for its own. Returns what was
    /// measured, the picture as PNG, and by which level and scatter it was drawn.
    ///
    /// # Errors
    /// As [`FrameFile::measure`].
    pub fn measure_and_draw(
        self,
        shown: impl FnOnce(&FrameMeasured) -> Option<[f64; 2]>,
        workers: &impl Workers,
    ) -> Result<(FrameMeasured, Vec<u8>, [f64; 2]), FrameError> {
        let Self { file, read, picture } = self;
        let measured = salt_lamp_core::frame::measure(&file, read, &picture, workers)
            .map_err(|why| FrameError::unreadable(&file, why))?;
        let own = measured.channels.iter().find(|c| c.channel == "g").or(measured.channels.first());
        let own = own.map_or([0.0, 1.0], |c| [c.level_adu, c.sigma_adu]);
        let shown = shown(&measured).unwrap_or(own);
        let png = small(&picture, shown)
            .map_err(|e| FrameError::unreadable(&file, format!("it cannot be drawn: {e}")))?;
        Ok((measured, png, shown))
    }
}

/// A picture in greys: blocks of pixels as their mean, through an asinh stretch.
fn small(picture: &Picture, [level, sigma]: [f64; 2]) -> Result<Vec<u8>, png::EncodingError> {
    let [columns, rows] = picture.size();
    // A block holds whole squares of a filter array, or a mosaic would show as a pattern.
    let step = columns.max(rows).div_ceil(LONGEST).next_multiple_of(2);
    let [wide, high] = [(columns / step).max(1), (rows / step).max(1)];
    let planes = if picture.layout() == Layout::Rgb { 3 } else { 1 };
    let sigma = sigma.max(1e-6);
    let white = (WHITE_SIGMAS / SOFT_SIGMAS).asinh();
    let mut grey = vec![0u8; wide * high];
    let mut line = vec![0f32; columns];
    // Of each column of a row of blocks: what its pixels have over the level, and how many they are.
    let (mut sums, mut counts) = (vec![0f32; columns], vec![0f32; columns]);
    for (j, out) in grey.chunks_exact_mut(wide).enumerate() {
        sums.fill(0.0);
        counts.fill(0.0);
        for row in (j * step..(j + 1) * step).take_while(|r| *r < rows) {
            for plane in 0..planes {
                picture.piece(plane, row, 0, &mut line);
                for ((sum, count), v) in sums.iter_mut().zip(&mut counts).zip(&line) {
                    let over = *v - level as f32;
                    let is_number = over.abs() < f32::INFINITY;
                    *sum += if is_number { over } else { 0.0 };
                    *count += if is_number { 1.0 } else { 0.0 };
                }
            }
        }
        for (o, (sum, count)) in out.iter_mut().zip(sums.chunks(step).zip(counts.chunks(step))) {
            let [sum, count] =
                [sum, count].map(|all| all.iter().map(|v| f64::from(*v)).sum::<f64>());
            let value = sum / count.max(1.0) / sigma + BLACK_SIGMAS;
            let stretched = (value / SOFT_SIGMAS).asinh() / white;
            *o = (255.0 * stretched.clamp(0.0, 1.0)).round() as u8;
        }
    }
    let mut out = Vec::new();
    let mut encoder = png::Encoder::new(&mut out, wide as u32, high as u32);
    encoder.set_color(png::ColorType::Grayscale);
    encoder.set_depth(png::BitDepth::Eight);
    encoder.set_compression(png::Compression::Balanced);
    encoder.write_header()?.write_image_data(&grey)?;
    Ok(out)
}
