//! FITS images: electrons as 32-bit floating point, a camera's numbers as unsigned integers, with a
//! header that says how they came to be and where they look (FITS standard 4.0; WCS by Greisen &
//! Calabretta 2002 and Calabretta & Greisen 2002). A file holds one image, or several channels as
//! extensions with names.
//!
//! Only writing lives here, in a stream: a frame of 26 million pixels never stands in memory twice.

use std::io::{self, Write};

const BLOCK: usize = 2880;
const CARD: usize = 80;

/// A header value.
#[derive(Clone, Debug, PartialEq)]
pub enum Value {
    /// T or F.
    Logical(bool),
    /// A whole number.
    Integer(i64),
    /// A real number.
    Real(f64),
    /// Text, at most 68 characters; longer text is cut.
    Text(String),
}

/// Where an image looks.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Pointing {
    /// Right ascension of the middle, degrees, ICRS.
    pub ra_deg: f64,
    /// Declination of the middle, degrees, ICRS.
    pub dec_deg: f64,
    /// Position angle of the image's up direction, degrees from north through east.
    pub position_angle_deg: f64,
    /// Side of a pixel, arcsec.
    pub scale_arcsec: f64,
}

/// A header under construction.
#[derive(Clone, Debug, Default)]
pub struct Header {
    cards: Vec<String>,
}

/// How a pixel is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Pixels {
    /// 32-bit floating point.
    Float,
    /// Unsigned 16-bit integers, by the convention of BZERO 32768 (FITS standard 4.0, 4.4.2.5).
    Unsigned16,
    /// Unsigned 32-bit integers, by the same convention.
    Unsigned32,
}

impl Pixels {
    /// The narrowest that holds a converter's numbers.
    pub fn of_bits(bits: u32) -> Self {
        if bits <= 16 { Self::Unsigned16 } else { Self::Unsigned32 }
    }

    fn bytes(self) -> usize {
        if self == Self::Unsigned16 { 2 } else { 4 }
    }

    fn bitpix(self) -> i64 {
        match self {
            Self::Float => -32,
            Self::Unsigned16 => 16,
            Self::Unsigned32 => 32,
        }
    }

    /// Writes a row big-endian; unsigned values are shifted by half their range, which flips the
    /// highest bit.
    fn write(self, values: &[f32], out: &mut [u8]) {
        match self {
            Self::Float => out
                .chunks_exact_mut(4)
                .zip(values)
                .for_each(|(b, v)| b.copy_from_slice(&v.to_be_bytes())),
            Self::Unsigned16 => {
                out.chunks_exact_mut(2)
                    .zip(values)
                    .for_each(|(b, v)| b.copy_from_slice(&((*v as u16) ^ 0x8000).to_be_bytes()));
            }
            Self::Unsigned32 => {
                out.chunks_exact_mut(4).zip(values).for_each(|(b, v)| {
                    b.copy_from_slice(&((*v as u32) ^ 0x8000_0000).to_be_bytes())
                });
            }
        }
    }
}

impl Header {
    /// The header of a file of one two-dimensional image.
    pub fn image(columns: usize, rows: usize, pixels: Pixels) -> Self {
        let mut h = Self::default();
        h.set("SIMPLE", Value::Logical(true), "conforms to the FITS standard");
        h.axes(columns, rows, pixels);
        h.scaling(pixels);
        h
    }

    /// The header of a file whose images stand in extensions.
    pub fn of_extensions() -> Self {
        let mut h = Self::default();
        h.set("SIMPLE", Value::Logical(true), "conforms to the FITS standard");
        h.set("BITPIX", Value::Integer(8), "");
        h.set("NAXIS", Value::Integer(0), "images stand in the extensions");
        h.set("EXTEND", Value::Logical(true), "");
        h
    }

    /// The header of a named image in an extension.
    pub fn extension(name: &str, columns: usize, rows: usize, pixels: Pixels) -> Self {
        let mut h = Self::default();
        h.set("XTENSION", Value::Text("IMAGE".into()), "image extension");
        h.axes(columns, rows, pixels);
        h.set("PCOUNT", Value::Integer(0), "");
        h.set("GCOUNT", Value::Integer(1), "");
        h.set("EXTNAME", Value::Text(name.into()), "");
        h.scaling(pixels);
        h
    }

    fn axes(&mut self, columns: usize, rows: usize, pixels: Pixels) {
        let said = if pixels == Pixels::Float {
            "32-bit floating point"
        } else {
            "unsigned integers, see BZERO"
        };
        self.set("BITPIX", Value::Integer(pixels.bitpix()), said);
        self.set("NAXIS", Value::Integer(2), "");
        self.set("NAXIS1", Value::Integer(columns as i64), "pixels across");
        self.set("NAXIS2", Value::Integer(rows as i64), "pixels up");
    }

    fn scaling(&mut self, pixels: Pixels) {
        if pixels != Pixels::Float {
            self.set("BSCALE", Value::Integer(1), "");
            self.set("BZERO", Value::Integer(1 << (pixels.bytes() * 8 - 1)), "unsigned");
        }
        self.set(
            "ROWORDER",
            Value::Text("BOTTOM-UP".into()),
            "the first row is the picture's lowest",
        );
    }

    /// Writes the header alone, for a file whose images follow in extensions.
    ///
    /// # Errors
    /// Where writing fails.
    pub fn write_alone(&self, out: &mut impl Write) -> io::Result<()> {
        self.write(out)
    }

    /// Adds a card. The keyword is cut to eight characters; characters that FITS does not know
    /// become question marks.
    pub fn set(&mut self, keyword: &str, value: Value, comment: &str) {
        let text = match value {
            Value::Logical(v) => format!("{:>20}", if v { "T" } else { "F" }),
            Value::Integer(v) => format!("{v:>20}"),
            Value::Real(v) => format!("{:>20}", real(v)),
            Value::Text(v) => {
                let mut quoted = String::new();
                for c in v.chars() {
                    let c = if (' '..='~').contains(&c) { c } else { '?' };
                    let next = if c == '\'' { "''".to_owned() } else { c.to_string() };
                    if quoted.len() + next.len() > 68 {
                        break;
                    }
                    quoted += &next;
                }
                format!("'{quoted:<8}'")
            }
        };
        let keyword: String = keyword.chars().take(8).collect();
        let mut card = format!("{keyword:<8}= {text}");
        if !comment.is_empty() {
            card += &format!(" / {comment}");
        }
        card.truncate(CARD);
        self.cards.push(format!("{card:<CARD$}"));
    }

    /// Adds where the telescope pointed, in degrees and sexagesimal.
    pub fn aim(&mut self, p: &Pointing) {
        self.set("RA", Value::Real(p.ra_deg), "[deg] right ascension of the middle, ICRS");
        self.set("DEC", Value::Real(p.dec_deg), "[deg] declination of the middle, ICRS");
        self.set(
            "OBJCTRA",
            Value::Text(sexagesimal(p.ra_deg / 15.0, 2, false)),
            "[h m s] right ascension",
        );
        self.set(
            "OBJCTDEC",
            Value::Text(sexagesimal(p.dec_deg, 1, true)),
            "[deg ' \"] declination",
        );
    }

    /// Adds the world coordinates of a gnomonic projection about the image's middle, and the
    /// pointing in degrees and sexagesimal.
    pub fn point(&mut self, p: &Pointing, columns: usize, rows: usize) {
        self.aim(p);
        let (sin, cos) = p.position_angle_deg.to_radians().sin_cos();
        let s = p.scale_arcsec / 3600.0;
        self.set("RADESYS", Value::Text("ICRS".into()), "");
        self.set("WCSAXES", Value::Integer(2), "");
        self.set("CTYPE1", Value::Text("RA---TAN".into()), "gnomonic");
        self.set("CTYPE2", Value::Text("DEC--TAN".into()), "gnomonic");
        self.set("CUNIT1", Value::Text("deg".into()), "");
        self.set("CUNIT2", Value::Text("deg".into()), "");
        self.set("CRVAL1", Value::Real(p.ra_deg), "[deg]");
        self.set("CRVAL2", Value::Real(p.dec_deg), "[deg]");
        self.set("CRPIX1", Value::Real((columns as f64 + 1.0) / 2.0), "middle");
        self.set("CRPIX2", Value::Real((rows as f64 + 1.0) / 2.0), "middle");
        self.set("CD1_1", Value::Real(-s * cos), "[deg/px]");
        self.set("CD1_2", Value::Real(s * sin), "[deg/px]");
        self.set("CD2_1", Value::Real(s * sin), "[deg/px]");
        self.set("CD2_2", Value::Real(s * cos), "[deg/px]");
    }

    fn write(&self, out: &mut impl Write) -> io::Result<()> {
        let mut length = 0;
        for card in &self.cards {
            out.write_all(card.as_bytes())?;
            length += CARD;
        }
        out.write_all(format!("{:<CARD$}", "END").as_bytes())?;
        length += CARD;
        out.write_all(&vec![b' '; (BLOCK - length % BLOCK) % BLOCK])
    }
}

/// A real number as FITS wants it: with a point.
fn real(v: f64) -> String {
    let text = if v != 0.0 && !(1e-4..1e15).contains(&v.abs()) {
        format!("{v:.12E}")
    } else {
        format!("{v}")
    };
    if text.contains(['.', 'E']) { text } else { format!("{text}.0") }
}

/// Hours or degrees with minutes and seconds: "06 17 13.00", "+22 31 05.0".
pub fn sexagesimal(value: f64, decimals: usize, signed: bool) -> String {
    let unit = 10f64.powi(decimals as i32);
    let total = (value.abs() * 3600.0 * unit).round() as u64;
    let per_minute = 60 * unit as u64;
    let (whole, minutes, rest) =
        (total / (60 * per_minute), total / per_minute % 60, (total % per_minute) as f64 / unit);
    let whole = if signed { whole } else { whole % 24 };
    let sign = match (signed, value < 0.0) {
        (true, true) => "-",
        (true, false) => "+",
        _ => "",
    };
    let width = if decimals > 0 { decimals + 3 } else { 2 };
    format!("{sign}{whole:02} {minutes:02} {rest:0width$.decimals$}")
}

/// Writes an image whose rows are asked for from the top; in the file the lowest row comes first,
/// as FITS counts.
///
/// # Errors
/// Where writing fails.
pub fn write_image(
    out: &mut impl Write,
    header: &Header,
    columns: usize,
    rows: usize,
    row: impl Fn(usize, &mut [f32]),
) -> io::Result<()> {
    header.write(out)?;
    let mut values = vec![0f32; columns];
    let mut bytes = vec![0u8; columns * 4];
    for j in (0..rows).rev() {
        row(j, &mut values);
        Pixels::Float.write(&values, &mut bytes);
        out.write_all(&bytes)?;
    }
    pad(out, columns * rows * 4)
}

/// What an image is like: its size and how a pixel is written.
#[derive(Clone, Copy, Debug)]
pub struct Shape {
    /// Pixels across.
    pub columns: usize,
    /// Pixels up.
    pub rows: usize,
    /// How each is written.
    pub pixels: Pixels,
}

/// Writes an image in bands that several threads compute: `band(from, to)` gives the rows from..to,
/// top first.
///
/// # Errors
/// Where writing fails.
pub fn write_image_in_bands(
    out: &mut impl Write,
    header: &Header,
    Shape { columns, rows, pixels }: Shape,
    threads: usize,
    row: impl Fn(usize, &mut [f32]) + Sync,
) -> io::Result<()> {
    let wide = columns * pixels.bytes();
    const BAND: usize = 64;
    header.write(out)?;
    let mut upper = rows;
    while upper > 0 {
        // A few bands at a time, lowest first; each thread fills its own.
        let count = threads.max(1).min(upper.div_ceil(BAND));
        let mut bands: Vec<(usize, Vec<u8>)> = Vec::new();
        for _ in 0..count {
            let from = upper.saturating_sub(BAND);
            bands.push((from, vec![0u8; (upper - from) * wide]));
            upper = from;
        }
        std::thread::scope(|scope| {
            for (from, bytes) in &mut bands {
                let (row, from) = (&row, *from);
                scope.spawn(move || {
                    let mut values = vec![0f32; columns];
                    let high = bytes.len() / wide;
                    for (k, line) in bytes.chunks_exact_mut(wide).enumerate() {
                        row(from + high - 1 - k, &mut values);
                        pixels.write(&values, line);
                    }
                });
            }
        });
        for (_, bytes) in &bands {
            out.write_all(bytes)?;
        }
    }
    pad(out, wide * rows)
}

fn pad(out: &mut impl Write, length: usize) -> io::Result<()> {
    out.write_all(&vec![0u8; (BLOCK - length % BLOCK) % BLOCK])
}

#[cfg(test)]
#[path = "fits_tests.rs"]
mod tests;
