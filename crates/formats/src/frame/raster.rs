//! TIFF images, and the raw files of stock cameras (DNG first of all), by libraries.

use std::io::Cursor;
use std::panic::{AssertUnwindSafe, catch_unwind};

use rawler::rawsource::RawSource;
use rawler::{RawImage, RawImageData};
use salt_lamp_core::frame::Layout;
use salt_lamp_core::frame::header::{HeaderFields, HeaderRead};
use salt_lamp_core::scenario::CfaColour;
use tiff::decoder::{Decoder, DecodingResult, Limits};
use tiff::tags::Tag;

use super::picture::{Picture, Store};
use super::{FrameError, FrameFile, MOST_PIXELS, tiff_bounds};

/// Reads a TIFF or a raw file. `from_anywhere` is for bytes that somebody sent: of raw files only DNG
/// is then read, whose every part is looked at before the library is.
pub(super) fn read(
    file: &str,
    bytes: Vec<u8>,
    from_anywhere: bool,
) -> Result<FrameFile, FrameError> {
    let name = file.to_lowercase();
    let walked = match tiff_bounds::walk(&bytes) {
        None if from_anywhere => return Err(FrameError::NotAFrame { file: file.to_owned() }),
        None => None,
        Some(walked) => Some(walked.map_err(|why| FrameError::unreadable(file, why))?),
    };
    if name.ends_with(".tif") || name.ends_with(".tiff") {
        return tiff(file, &bytes);
    }
    if from_anywhere && !walked.is_some_and(|w| w.is_dng) {
        let why = "of stock cameras' raw files only DNG is taken by upload; `salt-lamp measure` \
            reads others";
        return Err(FrameError::unreadable(file, why));
    }
    raw(file, &bytes)
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

fn raw(file: &str, bytes: &[u8]) -> Result<FrameFile, FrameError> {
    let source = RawSource::new_from_slice(bytes);
    let Ok(decoder) = guarded(file, || rawler::get_decoder(&source).map_err(|e| e.to_string()))
    else {
        return Err(FrameError::NotAFrame { file: file.to_owned() });
    };
    let params = rawler::decoders::RawDecodeParams::default();
    let (image, meta) = guarded(file, || {
        // Its size first, before its pixels.
        let image = decoder.raw_image(&source, &params, true).map_err(|e| e.to_string())?;
        let count = image.width.saturating_mul(image.height);
        if count == 0 || count > MOST_PIXELS || count / 2000 > bytes.len() {
            let has = bytes.len();
            return Err(format!("it is {} x {} pixels in {has} bytes", image.width, image.height));
        }
        let image = decoder.raw_image(&source, &params, false).map_err(|e| e.to_string())?;
        let meta = decoder.raw_metadata(&source, &params).ok();
        Ok((image, meta))
    })?;
    let (picture, mut read) = guarded(file, || pixels(image))?;
    let exif = meta.map(|m| m.exif).unwrap_or_default();
    let h = &mut read.header;
    h.exposure_s = exif.exposure_time.filter(|r| r.d != 0).map(|r| f64::from(r.n) / f64::from(r.d));
    h.gain = exif
        .iso_speed_ratings
        .map(f64::from)
        .or(exif.iso_speed.map(f64::from))
        .or(exif.recommended_exposure_index.map(f64::from));
    h.start = exif.date_time_original.as_deref().and_then(exif_time);
    h.focal_length_mm =
        exif.focal_length.filter(|r| r.d != 0 && r.n != 0).map(|r| f64::from(r.n) / f64::from(r.d));
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
    Ok(FrameFile { file: file.to_owned(), read, picture })
}

/// A camera's time, "2027:01:28 18:40:00", as a header writes it.
fn exif_time(text: &str) -> Option<String> {
    let (day, time) = text.trim().split_once(' ')?;
    let at = format!("{}T{time}", day.replace(':', "-"));
    at.parse::<jiff::civil::DateTime>().ok().map(|t| t.to_string())
}

fn pixels(image: RawImage) -> Result<(Picture, HeaderRead), String> {
    let size = [image.width, image.height];
    let layout = match (image.cpp, image.camera.cfa.name.len()) {
        (1, 4) => {
            let colour = |i: usize| match image.camera.cfa.color_at(i / 2, i % 2) {
                0 => Some(CfaColour::R),
                1 => Some(CfaColour::G),
                2 => Some(CfaColour::B),
                _ => None,
            };
            match [colour(0), colour(1), colour(2), colour(3)] {
                [Some(a), Some(b), Some(c), Some(d)] => Layout::Cfa([a, b, c, d]),
                _ => Layout::Mono,
            }
        }
        (1, 0) => Layout::Mono,
        (3, _) => Layout::Rgb,
        (n, _) => return Err(format!("it has {n} values a pixel in a pattern that is not read")),
    };
    let most_adu = image.whitelevel.0.first().map(|v| f64::from(*v));
    let mut read = HeaderRead { header: HeaderFields::default(), ..HeaderRead::default() };
    let black = image.blacklevel.levels.first().map(|r| f64::from(r.n) / f64::from(r.d.max(1)));
    if let Some(black) = black {
        read.header.offset_adu = Some(black);
        read.understood.insert("offset_adu".into(), "BlackLevel".into());
    }
    let interleaved = (image.cpp > 1).then_some(image.cpp);
    let (store, whole) = match image.data {
        RawImageData::Integer(v) => (Store::Words(v), true),
        RawImageData::Float(v) => (Store::Floats(v), false),
    };
    let values = match &store {
        Store::Words(v) => v.len(),
        Store::Floats(v) => v.len(),
        Store::File { .. } => 0,
    };
    if values < size[0] * size[1] * image.cpp {
        return Err("its pixels are not all there".into());
    }
    let picture = Picture { size, layout, store, bottom_up: false, interleaved, whole, most_adu };
    Ok((picture, read))
}
