//! Frames in: FITS images of every type, compressed or not, TIFF, and the raw files of stock
//! cameras, as pixels that the core asks for and a header by its meaning.
//!
//! A file is read whole and its pixels stay as they stand in it: an uncompressed FITS image is never
//! copied. What a header declares is held against the file's length before anything is made for it.

mod cards;
mod fits_image;
mod meaning;
mod picture;
mod preview;
mod raster;
mod table;
mod tiff_bounds;

use std::path::Path;
use std::sync::Arc;

use salt_lamp_core::frame::header::HeaderRead;
use salt_lamp_core::frame::{FrameMeasured, measure};
use salt_lamp_core::workers::Workers;
use thiserror::Error;

pub use cards::Cards;
pub use meaning::start_unix_s;
pub use picture::Picture;
pub use table::frame_table;

/// The largest file that is read, bytes.
pub const MOST_BYTES: u64 = 1_600_000_000;
/// The most pixels of a frame.
pub const MOST_PIXELS: usize = 400_000_000;

/// Why a file gives no frame.
#[derive(Debug, Error)]
pub enum FrameError {
    /// It is none of the kinds that are read.
    #[error(
        "{file} is no frame: FITS (.fits, .fit, .fts, .fz), TIFF (.tif, .tiff) and camera raw \
            files \
        such as .dng are read"
    )]
    NotAFrame {
        /// Name of the file.
        file: String,
    },
    /// It ends before its pixels do.
    #[error(
        "{file} is cut off: {has} of the {needs} bytes that its header announces are there; \
            perhaps \
        it is still being written"
    )]
    CutOff {
        /// Name of the file.
        file: String,
        /// Bytes that are there.
        has: u64,
        /// Bytes that are announced.
        needs: u64,
    },
    /// Its header is wrong, or it is of a kind that is not read.
    #[error("{file} cannot be read: {why}")]
    Unreadable {
        /// Name of the file.
        file: String,
        /// What is wrong, and what is accepted.
        why: String,
    },
    /// The file itself cannot be read.
    #[error("{file} cannot be opened: {source}")]
    Io {
        /// Name of the file.
        file: String,
        /// Why.
        source: std::io::Error,
    },
}

impl FrameError {
    fn unreadable(file: &str, why: impl Into<String>) -> Self {
        Self::Unreadable { file: file.to_owned(), why: why.into() }
    }

    /// Whether more of it may come.
    pub fn may_grow(&self) -> bool {
        matches!(self, Self::CutOff { .. })
    }
}

/// A frame as it was read.
pub struct FrameFile {
    /// Name of the file.
    pub file: String,
    /// Its header by meaning.
    pub read: HeaderRead,
    /// Its pixels.
    pub picture: Picture,
}

/// Reads a frame from bytes that somebody sent. `file` is its name, by which errors call it. Of stock
/// cameras' raw files only DNG is read.
///
/// # Errors
/// [`FrameError`], each with the file's name.
pub fn read_frame(file: &str, bytes: impl Into<Arc<Vec<u8>>>) -> Result<FrameFile, FrameError> {
    read(file, bytes.into(), true)
}

fn read(file: &str, bytes: Arc<Vec<u8>>, from_anywhere: bool) -> Result<FrameFile, FrameError> {
    let is_fits = bytes.starts_with(b"SIMPLE  =");
    if is_fits {
        return fits_image::read(file, bytes);
    }
    if bytes.is_empty() {
        return Err(FrameError::unreadable(file, "it is empty"));
    }
    raster::read(file, &bytes, from_anywhere)
}

/// Reads a frame from a file.
///
/// # Errors
/// As [`read_frame`], but raw files of every kind that the library knows are read; also where the file cannot be opened or is larger than [`MOST_BYTES`].
pub fn open_frame(path: &Path) -> Result<FrameFile, FrameError> {
    let (file, bytes) = open_bytes(path)?;
    read_opened(&file, bytes)
}

/// Reads a frame from the bytes of a file of one's own: raw files of every kind that the library
/// knows are read.
///
/// # Errors
/// As [`read_frame`].
pub fn read_opened(file: &str, bytes: impl Into<Arc<Vec<u8>>>) -> Result<FrameFile, FrameError> {
    read(file, bytes.into(), false)
}

/// A file's name and its bytes.
///
/// # Errors
/// Where it cannot be opened or is larger than [`MOST_BYTES`].
pub fn open_bytes(path: &Path) -> Result<(String, Vec<u8>), FrameError> {
    let file = path.file_name().unwrap_or(path.as_os_str()).to_string_lossy().into_owned();
    let io = |source| FrameError::Io { file: file.clone(), source };
    let length = std::fs::metadata(path).map_err(io)?.len();
    if length > MOST_BYTES {
        let most = MOST_BYTES / 1_000_000;
        let why = format!("it has {} MB; at most {most} are read", length / 1_000_000);
        return Err(FrameError::unreadable(&file, why));
    }
    let bytes = std::fs::read(path).map_err(io)?;
    Ok((file, bytes))
}

impl FrameFile {
    /// Measures it.
    ///
    /// # Errors
    /// Where it holds no number.
    pub fn measure(self, workers: &impl Workers) -> Result<FrameMeasured, FrameError> {
        let Self { file, read, picture } = self;
        measure(&file, read, &picture, workers).map_err(|why| FrameError::unreadable(&file, why))
    }
}

#[cfg(test)]
mod tests;
