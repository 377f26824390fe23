//! A FITS file's image: the primary one or that of the first image extension (FITS standard 4.0),
//! compressed tiles (4.0, section 10) by a library.

use std::sync::Arc;

use salt_lamp_core::frame::Layout;
use salt_lamp_core::frame::header::HeaderRead;
use salt_lamp_core::scenario::CfaColour;

use super::cards::{BLOCK, Cards};
use super::meaning::meaning;
use super::picture::{Picture, Sample, Scaling, Store};
use super::{FrameError, FrameFile, MOST_PIXELS};

/// Headers that are looked into for an image.
const MOST_HEADERS: usize = 64;

/// Pixels to a byte of compressed tiles, at most: gzip gains a thousand at its best.
const MOST_GAINED: usize = 2000;

/// An image as a header announces it.
struct Announced {
    cards: Cards,
    /// Where its data begin.
    from: usize,
    columns: usize,
    rows: usize,
    planes: usize,
    sample: Sample,
    compressed: bool,
}

pub(super) fn read(file: &str, bytes: Arc<Vec<u8>>) -> Result<FrameFile, FrameError> {
    let (primary, image) = find(file, &bytes)?;
    // What the image's own header does not say, the primary one may.
    let mut cards = image.cards.clone();
    for (key, value) in primary.0 {
        cards.0.entry(key).or_insert(value);
    }
    let Announced { columns, rows, planes, sample, .. } = image;
    let mut read = meaning(&cards, [columns, rows]);
    let bottom_up = row_order(&cards, &mut read);
    let layout = match planes {
        3 => Layout::Rgb,
        _ => pattern(&cards, [columns, rows], bottom_up, &mut read),
    };
    let scaling = Scaling {
        scale: cards.of_key("BSCALE").unwrap_or(1.0),
        zero: cards.of_key("BZERO").unwrap_or(0.0),
        blank: cards.whole("BLANK").filter(|_| sample.is_whole()),
    };
    let whole = sample.is_whole() && scaling.scale == 1.0 && scaling.zero.fract() == 0.0;
    let most_adu = cards
        .number(&["SATURATE", "SATLEVEL", "MAXLIN"])
        .map(|(_, n)| n)
        .filter(|n| *n > 0.0)
        .or_else(|| Some(sample.ends().filter(|_| whole)?[1] + scaling.zero));
    let store = if image.compressed {
        // The most that the methods gain, on pixels that are all alike.
        let count = columns * rows * planes;
        if count / MOST_GAINED > bytes.len() {
            let why = format!("it announces {columns} x {rows} pixels in {} bytes", bytes.len());
            return Err(FrameError::unreadable(file, why));
        }
        unpacked(file, &bytes, image.from, count)?
    } else {
        Store::File { bytes, from: image.from, sample, scaling }
    };
    let picture = Picture {
        size: [columns, rows],
        layout,
        store,
        bottom_up,
        interleaved: None,
        whole,
        most_adu,
    };
    Ok(FrameFile { file: file.to_owned(), read, picture })
}

/// The primary header, and the first image.
fn find(file: &str, bytes: &[u8]) -> Result<(Cards, Announced), FrameError> {
    let cut = |needs: usize| FrameError::CutOff {
        file: file.to_owned(),
        has: bytes.len() as u64,
        needs: needs as u64,
    };
    let mut from = 0;
    let mut primary = None;
    for _ in 0..MOST_HEADERS {
        let Some((cards, data)) = Cards::of_file(bytes, from) else {
            // A header that has not all come yet, or no more headers.
            if primary.is_none() || from < bytes.len() && bytes[from..].starts_with(b"XTENSION") {
                return Err(cut(bytes.len().div_ceil(BLOCK) * BLOCK + BLOCK));
            }
            break;
        };
        let length = data_bytes(file, &cards)?;
        let image = announced(file, &cards, data)?;
        let end = data.saturating_add(length);
        if let Some(image) = image {
            if end > bytes.len() {
                return Err(cut(end));
            }
            return Ok((primary.unwrap_or_else(|| image.cards.clone()), image));
        }
        primary.get_or_insert(cards);
        from = end.div_ceil(BLOCK).saturating_mul(BLOCK);
        if from >= bytes.len() {
            break;
        }
    }
    Err(FrameError::unreadable(
        file,
        "there is no image in it: neither a primary one nor one in an extension",
    ))
}

/// How many bytes of data a header announces, without what fills its last block.
fn data_bytes(file: &str, cards: &Cards) -> Result<usize, FrameError> {
    let wrong = |why: String| FrameError::unreadable(file, why);
    let bitpix = cards.whole("BITPIX").ok_or_else(|| wrong("BITPIX is missing".into()))?;
    let sample = Sample::of_bitpix(bitpix).ok_or_else(|| {
        wrong(format!("BITPIX is {bitpix}; 8, 16, 32, 64, -32 and -64 are accepted"))
    })?;
    let axes = cards.whole("NAXIS").ok_or_else(|| wrong("NAXIS is missing".into()))?;
    if !(0..=999).contains(&axes) {
        return Err(wrong(format!("NAXIS is {axes}; 0 to 999 are accepted")));
    }
    let mut count = usize::from(axes > 0);
    for i in 1..=axes {
        let key = format!("NAXIS{i}");
        let n = cards.whole(&key).and_then(|n| usize::try_from(n).ok());
        let n = n.ok_or_else(|| wrong(format!("{key} is missing or no count")))?;
        count =
            count.checked_mul(n).ok_or_else(|| wrong("its size is beyond all bounds".into()))?;
    }
    let more = cards.whole("PCOUNT").and_then(|n| usize::try_from(n).ok()).unwrap_or(0);
    let groups = cards.whole("GCOUNT").and_then(|n| usize::try_from(n).ok()).unwrap_or(1);
    count
        .checked_add(more)
        .and_then(|n| n.checked_mul(groups.max(1)))
        .and_then(|n| n.checked_mul(sample.bytes()))
        .ok_or_else(|| wrong("its size is beyond all bounds".into()))
}

/// The image of a header; `None` where it announces none.
fn announced(file: &str, cards: &Cards, from: usize) -> Result<Option<Announced>, FrameError> {
    let kind = cards.text(&["XTENSION"]).map(|(_, text)| text.to_owned());
    let compressed = cards.text(&["ZIMAGE"]).is_some_and(|(_, t)| t.starts_with('T'));
    match kind.as_deref() {
        None | Some("IMAGE") => {}
        Some("BINTABLE") if compressed => {}
        Some(_) => return Ok(None),
    }
    let z = if compressed { "Z" } else { "" };
    let whole = |key: &str| cards.whole(&format!("{z}{key}"));
    let axes = whole("NAXIS").unwrap_or(0);
    let n = |i: i64| whole(&format!("NAXIS{i}")).and_then(|n| usize::try_from(n).ok()).unwrap_or(0);
    if axes == 0 || (axes == 1 && !compressed) {
        return Ok(None);
    }
    let wrong = |why: String| Err(FrameError::unreadable(file, why));
    let planes = if axes >= 3 { n(3) } else { 1 };
    if axes > 3 && (4..=axes).any(|i| n(i) != 1) || planes != 1 && planes != 3 {
        return wrong(format!(
            "{axes} axes with {planes} planes; one plane, or three for red, green and blue, are \
                read"
        ));
    }
    let (columns, rows) = (n(1), n(2));
    if columns == 0 || rows == 0 {
        return wrong(format!("it is {columns} x {rows} pixels: there is nothing in it"));
    }
    if columns.saturating_mul(rows).saturating_mul(planes) > MOST_PIXELS {
        let most = MOST_PIXELS / 1_000_000;
        return wrong(format!(
            "it announces {columns} x {rows} pixels; at most {most} MP are read"
        ));
    }
    let is_tile = |i: i64| {
        let side = cards.whole(&format!("ZTILE{i}"));
        side.is_none_or(|t| t >= 1 && t as u64 <= n(i).max(1) as u64)
    };
    if compressed && !(1..=axes).all(is_tile) {
        return wrong("its tiles (ZTILE1, ZTILE2) are larger than the image".into());
    }
    let Some(sample) = whole("BITPIX").and_then(Sample::of_bitpix) else {
        return wrong(format!("{z}BITPIX is none of 8, 16, 32, 64, -32 and -64"));
    };
    Ok(Some(Announced { cards: cards.clone(), from, columns, rows, planes, sample, compressed }))
}

/// The pixels of compressed tiles. What the library cannot take for an image is an error, and so is
/// what it breaks over.
fn unpacked(file: &str, bytes: &[u8], data: usize, count: usize) -> Result<Store, FrameError> {
    let work = || {
        let all = fitsio_pure::hdu::parse_fits(bytes).map_err(|e| e.to_string())?;
        let hdu = all.iter().find(|h| h.data_start == data).ok_or("its table is damaged")?;
        let mut out = vec![0f32; count];
        fitsio_pure::image::read_image_physical_into_f32(bytes, hdu, &mut out)
            .map_err(|e| e.to_string())?;
        Ok::<_, String>(out)
    };
    match std::panic::catch_unwind(work) {
        Ok(Ok(values)) => Ok(Store::Floats(values)),
        Ok(Err(why)) => Err(FrameError::unreadable(file, format!("its compressed tiles: {why}"))),
        Err(_) => Err(FrameError::unreadable(file, "its compressed tiles are damaged")),
    }
}

/// Whether the file's first row is the picture's lowest, as FITS counts where nothing else is said.
fn row_order(cards: &Cards, read: &mut HeaderRead) -> bool {
    match cards.text(&["ROWORDER"]) {
        Some((_, order)) => !order.to_uppercase().starts_with("TOP"),
        None => {
            let said =
                "No ROWORDER: the first row is taken for the picture's lowest, as FITS counts.";
            read.assumed.push(said.into());
            true
        }
    }
}

/// The colours of the upper left pixels, where the header says a pattern.
fn pattern(cards: &Cards, [_, rows]: [usize; 2], bottom_up: bool, read: &mut HeaderRead) -> Layout {
    let Some((key, text)) = cards.text(&["BAYERPAT", "COLORTYP", "CFAPAT"]) else {
        return Layout::Mono;
    };
    let colours: Vec<CfaColour> = text.chars().filter_map(CfaColour::from_letter).collect();
    let Ok(colours) = <[CfaColour; 4]>::try_from(colours) else {
        read.assumed
            .push(format!("{key} is \"{text}\", which is no pattern of 2 x 2: taken as mono."));
        return Layout::Mono;
    };
    let shift = |key: &str| cards.whole(key).map_or(0, |n| n.rem_euclid(2) as usize);
    let (right, up) = (shift("XBAYROFF"), shift("YBAYROFF"));
    read.understood.insert("cfa".into(), key.into());
    if bottom_up {
        read.assumed.push(format!("{key} is taken to count from the file's first pixel."));
    }
    // Row of the file at a row from the top.
    let of_file = |row: usize| if bottom_up { rows - 1 - row } else { row };
    let at = |i: usize| {
        let (x, y) = (i % 2, of_file(i / 2));
        colours[(y + up) % 2 * 2 + (x + right) % 2]
    };
    if rows < 2 { Layout::Mono } else { Layout::Cfa([at(0), at(1), at(2), at(3)]) }
}
