//! The directories of a TIFF-like file, walked before a library reads it: every value that they
//! announce must lie within the file, so that no library makes room for what is not there (TIFF 6.0,
//! section 2; DNG specification 1.4).

use std::collections::HashSet;

/// Directories that a file may have.
const MOST_DIRECTORIES: usize = 64;
/// The largest side of an image or tile, pixels.
const LARGEST_SIDE: u64 = 100_000;

const SUB_DIRECTORIES: u16 = 330;
const EXIF: u16 = 34_665;
const GPS: u16 = 34_853;
const DNG_VERSION: u16 = 50_706;
/// Width and length of an image and of a tile.
const SIDES: [u16; 4] = [256, 257, 322, 323];
const SAMPLES_PER_PIXEL: u16 = 277;
/// Of EXIF 2.3: exposure, ISO, when, focal length.
const EXPOSURE_TIME: u16 = 33_434;
const ISO: u16 = 34_855;
const BEGUN: u16 = 36_867;
const FOCAL_LENGTH: u16 = 37_386;
/// Tags whose values are looked at, and how many of them at most.
const TOLD: [u16; 9] = [SUB_DIRECTORIES, EXIF, GPS, 256, 257, 322, 323, SAMPLES_PER_PIXEL, ISO];
const MOST_VALUES: u64 = MOST_DIRECTORIES as u64;
/// Kind of an unsigned fraction.
const FRACTION: u64 = 5;

/// What the walk found.
#[derive(Clone, Debug, Default, PartialEq)]
pub(super) struct Walked {
    /// Whether it says that it is a DNG.
    pub is_dng: bool,
    /// Exposure, s.
    pub exposure_s: Option<f64>,
    /// ISO setting.
    pub iso: Option<f64>,
    /// Focal length, mm.
    pub focal_length_mm: Option<f64>,
    /// When it began, as the camera writes it.
    pub begun: Option<String>,
}

struct Walk<'a> {
    bytes: &'a [u8],
    is_little: bool,
    found: Walked,
    seen: HashSet<usize>,
    todo: Vec<usize>,
}

impl Walk<'_> {
    fn number(&self, at: usize, size: usize) -> Option<u64> {
        let own = self.bytes.get(at..at.checked_add(size)?)?;
        let fold = |sum: u64, b: &u8| sum << 8 | u64::from(*b);
        Some(if self.is_little { own.iter().rev().fold(0, fold) } else { own.iter().fold(0, fold) })
    }

    fn directory(&mut self, at: usize) -> Result<(), String> {
        let cut = || "a directory of it is cut off".to_owned();
        let count = self.number(at, 2).ok_or_else(cut)? as usize;
        for i in 0..count {
            self.entry(at + 2 + 12 * i)?;
        }
        let next = self.number(at + 2 + 12 * count, 4).ok_or_else(cut)? as usize;
        if next != 0 {
            self.todo.push(next);
        }
        Ok(())
    }

    fn entry(&mut self, at: usize) -> Result<(), String> {
        let field = |from: usize, size: usize| {
            self.number(at + from, size).ok_or_else(|| "a directory of it is cut off".to_owned())
        };
        let (tag, kind, count) = (field(0, 2)? as u16, field(2, 2)?, field(4, 4)?);
        let size: u64 = match kind {
            1 | 2 | 6 | 7 => 1,
            3 | 8 => 2,
            4 | 9 | 11 | 13 => 4,
            5 | 10 | 12 => 8,
            // A kind of some program's own: nobody reads it.
            _ => return Ok(()),
        };
        let length = count * size;
        let from = if length <= 4 { at as u64 + 8 } else { field(8, 4)? };
        if from + length > self.bytes.len() as u64 {
            return Err(format!("tag {tag} announces {length} bytes that are not there"));
        }
        let at = |i: u64| self.number((from + i * size) as usize, size as usize);
        let values: Vec<u64> = if TOLD.contains(&tag) {
            (0..count.min(MOST_VALUES)).filter_map(at).collect()
        } else {
            Vec::new()
        };
        let first = values.first().copied();
        if SIDES.contains(&tag) && first.is_some_and(|n| n == 0 || n > LARGEST_SIDE) {
            return Err(format!("tag {tag}, a side, is {}", values[0]));
        }
        if tag == SAMPLES_PER_PIXEL && first.is_some_and(|n| n == 0 || n > 16) {
            return Err(format!("it has {} values a pixel", values[0]));
        }
        let half = |more: u64| self.number((from + more) as usize, 4).map(|n| n as f64);
        let fraction = if kind == FRACTION && count > 0 { half(0).zip(half(4)) } else { None };
        let fraction = fraction.filter(|(n, d)| *n > 0.0 && *d > 0.0).map(|(n, d)| n / d);
        let text = || {
            let own = self.bytes.get(from as usize..(from + length.min(40)) as usize)?;
            Some(String::from_utf8_lossy(own).trim_end_matches('\0').to_owned())
        };
        match tag {
            SUB_DIRECTORIES | EXIF | GPS => self.todo.extend(values.iter().map(|at| *at as usize)),
            DNG_VERSION => self.found.is_dng = true,
            EXPOSURE_TIME => self.found.exposure_s = fraction,
            FOCAL_LENGTH => self.found.focal_length_mm = fraction,
            ISO => self.found.iso = first.map(|n| n as f64),
            BEGUN => self.found.begun = text(),
            _ => {}
        }
        Ok(())
    }
}

/// Walks the directories; `None` where the bytes are no file of this family.
///
/// # Errors
/// What announces more than there is.
pub(super) fn walk(bytes: &[u8]) -> Option<Result<Walked, String>> {
    let is_little = match bytes.get(..2)? {
        b"II" => true,
        b"MM" => false,
        _ => return None,
    };
    let mut walk =
        Walk { bytes, is_little, found: Walked::default(), seen: HashSet::new(), todo: Vec::new() };
    // Files of more than 4 GB are built otherwise.
    const BIG: u64 = 43;
    if walk.number(2, 2)? == BIG {
        return None;
    }
    let first = walk.number(4, 4)? as usize;
    walk.todo.push(first);
    while let Some(at) = walk.todo.pop() {
        if !walk.seen.insert(at) {
            continue;
        }
        if walk.seen.len() > MOST_DIRECTORIES {
            return Some(Err(format!("it has more than {MOST_DIRECTORIES} directories")));
        }
        if let Err(why) = walk.directory(at) {
            return Some(Err(why));
        }
    }
    Some(Ok(walk.found))
}
