//! TIFF images, and the raw files of stock cameras (DNG first of all), by libraries.

use std::io::Cursor;
use std::panic::{AssertUnwindSafe, catch_unwind};

use rawloader::{RawImage, RawImageData};
use salt_lamp_core::frame::Layout;
use salt_lamp_core::frame::header::HeaderRead;
use salt_lamp_core::scenario::CfaColour;
use tiff::decoder::{Decoder, DecodingResult, Limits};
use tiff::tags::Tag;

use super::picture::{Picture, Store};
use super::tiff_bounds::{self, Walked};
use super::{FrameError, FrameFile, MOST_PIXELS};

/// Reads a TIFF or a raw file. `from_anywhere` is for bytes that somebody sent: of raw files only DNG
/// is then read, whose every part is looked at before the library is.
pub(super) fn read(file: &str, bytes: &[u8], from_anywhere: bool) -> Result<FrameFile, FrameError> {
    let name = file.to_lowercase();
    let walked = match tiff_bounds::walk(bytes) {
        None if from_anywhere => return Err(FrameError::NotAFrame { file: file.to_owned() }),
        None => None,
        Some(walked) => Some(walked.map_err(|why| FrameError::unreadable(file, why))?),
    };
    if name.ends_with(".tif") || name.ends_with(".tiff") {
        return tiff(file, bytes);
    }
    let walked = walked.unwrap_or_default();
    if from_anywhere && !walked.is_dng {
        let why = "of stock cameras' raw files only DNG is taken by upload; `salt-lamp measure` \
            reads others";
        return Err(FrameError::unreadable(file, why));
    }
    raw(file, bytes, &walked)
}

/// What a library breaks over is an error of the file.
fn guarded<T>(file: &str, work: impl FnOnce() -> Result<T, String>) -> Result<T, FrameError> {
    match catch_unwind(AssertUnwindSafe(work)) {
        Ok(Ok(done)) => Ok(done),
        Ok(Err(why)) => Err(FrameError::unreadable(file, why)),
        Err(_) => Err(FrameError::unreadable(file, "it is damaged")),
    }
}

fn tiff(file: &str, bytes: &[u8]) -> Result<FrameFile, FrameError> {
    let (size, samples, store, most_adu) = guarded(file, || {
        let mut limits = Limits::default();
        limits.decoding_buffer_size = MOST_PIXELS * 4;
        let mut decoder =
            Decoder::new(Cursor::new(bytes)).map_err(|e| e.to_string())?.with_limits(limits);
        let (columns, rows) = decoder.dimensions().map_err(|e| e.to_string())?;
        let size = [columns as usize, rows as usize];
        let count = size[0].saturating_mul(size[1]);
        if count == 0 || count > MOST_PIXELS {
            return Err(format!("it is {columns} x {rows} pixels"));
        }
        let samples = decoder.find_tag_unsigned::<u16>(Tag::SamplesPerPixel);
        let samples = usize::from(samples.map_err(|e| e.to_string())?.unwrap_or(1));
        // No method of TIFF gains more on pixels that are all alike.
        if count.saturating_mul(samples) / 2000 > bytes.len() {
            return Err(format!("it announces {columns} x {rows} pixels in {} bytes", bytes.len()));
        }
        let image = decoder.read_image().map_err(|e| e.to_string())?;
        let (store, most) = match image {
            DecodingResult::U16(v) => (Store::Words(v), Some(65535.0)),
            DecodingResult::U8(v) => {
                (Store::Words(v.into_iter().map(u16::from).collect()), Some(255.0))
            }
            DecodingResult::U32(v) => {
                (Store::Floats(v.into_iter().map(|x| x as f32).collect()), Some(4_294_967_295.0))
            }
            DecodingResult::F32(v) => (Store::Floats(v), None),
            DecodingResult::F64(v) => {
                (Store::Floats(v.into_iter().map(|x| x as f32).collect()), None)
            }
            _ => {
                return Err(
                    "its samples are of a kind that is not read; 8, 16 and 32 bit are".into()
                );
            }
        };
        let values = match &store {
            Store::Words(v) => v.len(),
            Store::Floats(v) => v.len(),
            Store::File { .. } => 0,
        };
        if samples == 0 || values < count * samples {
            return Err("its pixels are not all there".into());
        }
        Ok((size, samples, store, most))
    })?;
    let whole = matches!(store, Store::Words(_));
    let mut read = HeaderRead::default();
    read.assumed.push("A TIFF says nothing of exposure, filter or gain: say it here.".into());
    let picture = Picture {
        size,
        layout: if samples >= 3 { Layout::Rgb } else { Layout::Mono },
        store,
        bottom_up: false,
        interleaved: (samples > 1).then_some(samples),
        whole,
        most_adu,
    };
    Ok(FrameFile { file: file.to_owned(), read, picture })
}

fn raw(file: &str, bytes: &[u8], walked: &Walked) -> Result<FrameFile, FrameError> {
    // Its size first, before its pixels: with nothing else to go by, what the library does not know
    // is no frame.
    let decoded = |dummy: bool| {
        let mut reader = Cursor::new(bytes);
        let image = if dummy {
            rawloader::decode_dummy(&mut reader)
        } else {
            rawloader::decode(&mut reader)
        };
        image.map_err(|e| e.to_string())
    };
    let Ok(sized) = guarded(file, || decoded(true)) else {
        return Err(if walked.is_dng {
            FrameError::unreadable(file, "it is damaged, or of a kind of DNG that is not read")
        } else {
            FrameError::NotAFrame { file: file.to_owned() }
        });
    };
    let count = sized.width.saturating_mul(sized.height);
    if count == 0 || count > MOST_PIXELS || count / 2000 > bytes.len() {
        let why =
            format!("it is {} x {} pixels in {} bytes", sized.width, sized.height, bytes.len());
        return Err(FrameError::unreadable(file, why));
    }
    let image = guarded(file, || decoded(false))?;
    let mut read = exif(walked);
    let black = f64::from(image.blacklevels[0]);
    if black > 0.0 {
        read.header.offset_adu = Some(black);
        read.understood.insert("offset_adu".into(), "BlackLevel".into());
    }
    let picture = guarded(file, || pixels(image))?;
    Ok(FrameFile { file: file.to_owned(), read, picture })
}

/// What the walk found of the camera's own words.
fn exif(walked: &Walked) -> HeaderRead {
    let mut read = HeaderRead::default();
    let h = &mut read.header;
    h.exposure_s = walked.exposure_s;
    h.gain = walked.iso;
    h.focal_length_mm = walked.focal_length_mm;
    h.start = walked.begun.as_deref().and_then(exif_time);
    for (field, key, there) in [
        ("exposure_s", "ExposureTime", h.exposure_s.is_some()),
        ("gain", "ISOSpeedRatings", h.gain.is_some()),
        ("start", "DateTimeOriginal", h.start.is_some()),
        ("focal_length_mm", "FocalLength", h.focal_length_mm.is_some()),
    ] {
        if there {
            read.understood.insert(field.into(), key.into());
        }
    }
    if read.header.start.is_some() {
        read.assumed.push("Its clock's zone is not known: the time is the camera's own.".into());
    }
    read
}

/// A camera's time, "2027:01:28 18:40:00", as a header writes it.
fn exif_time(text: &str) -> Option<String> {
    let (day, time) = text.trim().split_once(' ')?;
    let at = format!("{}T{time}", day.replace(':', "-"));
    at.parse::<jiff::civil::DateTime>().ok().map(|t| t.to_string())
}

fn pixels(image: RawImage) -> Result<Picture, String> {
    let size = [image.width / image.cpp.max(1), image.height];
    let colours: Vec<CfaColour> =
        image.cfa.name.chars().filter_map(CfaColour::from_letter).collect();
    let layout = match (image.cpp, image.cfa.name.len()) {
        (1, 4) => <[CfaColour; 4]>::try_from(colours).map_or(Layout::Mono, Layout::Cfa),
        (1, 0) => Layout::Mono,
        (3, _) => Layout::Rgb,
        (n, _) => return Err(format!("it has {n} values a pixel in a pattern that is not read")),
    };
    let most_adu = Some(f64::from(image.whitelevels[0])).filter(|w| *w > 0.0);
    let (store, whole, values) = match image.data {
        RawImageData::Integer(v) => {
            let n = v.len();
            (Store::Words(v), true, n)
        }
        RawImageData::Float(v) => {
            let n = v.len();
            (Store::Floats(v), false, n)
        }
    };
    if values < size[0] * size[1] * image.cpp {
        return Err("its pixels are not all there".into());
    }
    let interleaved = (image.cpp > 1).then_some(image.cpp);
    Ok(Picture { size, layout, store, bottom_up: false, interleaved, whole, most_adu })
}
