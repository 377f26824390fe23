//! A header by its meaning, in the dialects in which capture programs, observatories and plate
//! solvers write (FITS 4.0 for what it defines; the dialects are common practice, no source).

use jiff::civil::DateTime;
use salt_lamp_core::frame::FrameKind;
use salt_lamp_core::frame::header::{HeaderFields, HeaderRead};

use super::cards::Cards;
use crate::header::{solved, told};

/// A header under reading: a field is taken from the first of its keys that says something.
struct Reader<'a> {
    cards: &'a Cards,
    read: HeaderRead,
}

impl Reader<'_> {
    fn from(&mut self, field: &str, key: &str) {
        self.read.understood.insert(field.to_owned(), key.to_owned());
    }

    fn number(&mut self, field: &str, keys: &[&'static str], ends: [f64; 2]) -> Option<f64> {
        let own = |k: &&'static str| {
            let n = self.cards.of_key(k)?;
            (ends[0]..=ends[1]).contains(&n).then_some((*k, n))
        };
        let (key, n) = keys.iter().find_map(own)?;
        self.from(field, key);
        Some(n)
    }

    fn text(&mut self, field: &str, keys: &[&'static str]) -> Option<String> {
        let (key, text) = self.cards.text(keys).map(|(k, t)| (k, t.to_owned()))?;
        self.from(field, key);
        Some(text.chars().take(120).collect())
    }

    /// An angle in degrees, or sexagesimal.
    fn angle(&mut self, field: &str, keys: &[&'static str], most: f64) -> Option<f64> {
        let (key, text) = self.cards.text(keys).map(|(k, t)| (k, t.to_owned()))?;
        let parts: Vec<f64> = text
            .split([' ', ':'])
            .filter(|p| !p.is_empty())
            .map_while(|p| p.parse().ok())
            .collect();
        let sign = if text.trim_start().starts_with('-') { -1.0 } else { 1.0 };
        let size = parts.iter().rev().fold(0.0, |sum, p| sum / 60.0 + p.abs());
        let angle = sign * size;
        if parts.is_empty() || angle.abs() > most {
            return None;
        }
        self.from(field, key);
        Some(angle)
    }

    fn assume(&mut self, what: impl Into<String>) {
        self.read.assumed.push(what.into());
    }
}

/// What a header of a frame of so many columns and rows says.
pub(super) fn meaning(cards: &Cards, [columns, rows]: [usize; 2]) -> HeaderRead {
    let mut r = Reader { cards, read: HeaderRead::default() };
    let mut h = HeaderFields {
        kind: kind(&mut r),
        exposure_s: r.number(
            "exposure_s",
            &["EXPTIME", "EXPOSURE", "EXP_TIME", "ITIME"],
            [0.0, 1e5],
        ),
        start: start(&mut r),
        filter: r.text("filter", &["FILTER", "FILTER1", "FILTNAME", "INSFLNAM", "FILTERS"]),
        e_per_adu: r.number("e_per_adu", &["EGAIN", "E_GAIN", "GAINADU"], [1e-6, 1e4]),
        ..HeaderFields::default()
    };
    gain(&mut r, &mut h);
    h.offset = r.number("offset", &["OFFSET", "BLKLEVEL", "BRIGHTNE"], [0.0, 1e6]);
    h.sensor_c =
        r.number("sensor_c", &["CCD-TEMP", "CCDTEMP", "SENSTEMP", "DET-TEMP"], [-150.0, 80.0]);
    h.set_c = r.number("set_c", &["SET-TEMP", "SETTEMP", "CCDTSET"], [-150.0, 80.0]);
    h.binning = r.number("binning", &["XBINNING", "BINX", "CCDXBIN"], [1.0, 16.0]);
    h.pixel_um = r.number("pixel_um", &["XPIXSZ", "PIXSIZE1", "PIXSIZE", "PIXELSZ"], [0.1, 200.0]);
    h.focal_length_mm = r.number("focal_length_mm", &["FOCALLEN", "FOCAL"], [1.0, 1e6]);
    place(&mut r, &mut h, [columns, rows]);
    h.object = r.text("object", &["OBJECT", "OBJNAME", "TARGET"]);
    h.airmass = r.number("airmass", &["AIRMASS"], [0.99, 40.0]);
    h.pier_side = r.text("pier_side", &["PIERSIDE", "PIER"]).and_then(|side| {
        let side = side.to_lowercase();
        ["east", "west"].into_iter().find(|s| side.starts_with(&s[..1])).map(str::to_owned)
    });
    let steps = ["FOCPOS", "FOCUSPOS", "FOCUSER", "FOCPOSN", "FOCUS"];
    h.focuser_steps = r.number("focuser_steps", &steps, [-1e9, 1e9]);
    h.focuser_c = r.number("focuser_c", &["FOCTEMP", "FOCUSTEM", "FOCUSTMP"], [-90.0, 90.0]);
    h.latitude_deg = r.angle("latitude_deg", &["SITELAT", "LAT-OBS", "OBSLAT", "LATITUDE"], 90.0);
    let long = ["SITELONG", "LONG-OBS", "OBSLONG", "LONGITUD"];
    h.longitude_deg = r.angle("longitude_deg", &long, 360.0);
    let high = ["SITEELEV", "ALT-OBS", "OBSALT", "SITEALT", "ELEVATIO"];
    h.height_m = r.number("height_m", &high, [-500.0, 9000.0]);
    h.camera = r.text("camera", &["INSTRUME", "CAMERA", "DETECTOR"]);
    h.telescope = r.text("telescope", &["TELESCOP"]);
    r.read.header = h;
    r.read
}

fn kind(r: &mut Reader) -> Option<FrameKind> {
    for key in ["IMAGETYP", "FRAME", "FRAMETYP", "OBSTYPE", "IMGTYPE"] {
        if let Some(kind) = r.cards.text(&[key]).and_then(|(_, word)| FrameKind::from_word(word)) {
            r.from("type", key);
            return Some(kind);
        }
    }
    r.assume("It does not say what it is: taken as a light frame.");
    None
}

/// GAIN is a camera's setting in some dialects and electrons per ADU in others.
fn gain(r: &mut Reader, h: &mut HeaderFields) {
    h.gain = r.number("gain", &["GAIN", "ISO", "ISOSPEED"], [0.0, 1e7]);
    let is_ratio = |g: f64| g > 0.0 && g < 20.0 && g.fract() != 0.0;
    if h.e_per_adu.is_none() && h.gain.is_some_and(is_ratio) {
        let key = r.read.understood.remove("gain").unwrap_or_default();
        r.assume(format!(
            "{key} is no whole number: taken as electrons per ADU, not as a setting."
        ));
        r.from("e_per_adu", &key);
        h.e_per_adu = h.gain.take();
    }
}

/// Seconds since 1970 of a start as [`HeaderFields::start`] has it; `None` where its zone is not
/// known.
pub fn start_unix_s(start: &str) -> Option<f64> {
    start.parse::<jiff::Timestamp>().ok().map(|t| t.as_millisecond() as f64 / 1000.0)
}

/// When it began, in UTC where that is said.
fn start(r: &mut Reader) -> Option<String> {
    let (date, local) = (r.cards.text(&["DATE-OBS"]), r.cards.text(&["DATE-LOC", "LOCALTIM"]));
    if let Some((key, text)) = date {
        let time = r.cards.text(&["TIME-OBS", "UT", "UTC", "UTSTART", "TM-START"]);
        let mut from = key.to_owned();
        let whole = match time {
            Some((k, time)) if !text.contains('T') => {
                from = format!("{key}, {k}");
                format!("{text}T{time}")
            }
            _ => text.to_owned(),
        };
        let same_as_local = local.is_some_and(|(_, l)| l.trim_end_matches('Z') == whole);
        let is_local =
            r.cards.text(&["TIMESYS"]).is_some_and(|(_, t)| t.to_lowercase().contains("local"));
        if let Some(at) = moment(&whole) {
            r.from("start", &from);
            if is_local || same_as_local {
                r.assume(format!(
                    "{key} seems to be local time: its zone is not known, and it is left without \
                        one."
                ));
                return Some(at.to_string());
            }
            if !text.contains('T') && time.is_none() {
                r.assume(format!("{key} says the day alone: the hour is not known."));
            }
            return Some(format!("{at}Z"));
        }
    }
    let (key, text) = local.map(|(k, t)| (k, t.to_owned()))?;
    let at = moment(&text)?;
    r.from("start", key);
    r.assume(format!("{key} is local time: its zone is not known."));
    Some(at.to_string())
}

/// A moment as headers write it: ISO 8601, or the old day/month/year of the century's last years.
fn moment(text: &str) -> Option<DateTime> {
    let text = text.trim().trim_end_matches('Z');
    if let Ok(at) = text.parse::<DateTime>() {
        return Some(at);
    }
    let (day, time) = text.split_once('T').unwrap_or((text, "00:00:00"));
    let parts: Vec<i16> = day.split('/').map_while(|p| p.parse().ok()).collect();
    let [day, month, year] = parts[..] else { return None };
    format!("{:04}-{month:02}-{day:02}T{time}", 1900 + year).parse().ok()
}

/// Where it looked: by a plate solution, else by the mount's word.
fn place(r: &mut Reader, h: &mut HeaderFields, [columns, rows]: [usize; 2]) {
    // Compressed images say their size elsewhere.
    let mut cards = r.cards.clone();
    cards.0.insert("NAXIS1".into(), columns.to_string());
    cards.0.insert("NAXIS2".into(), rows.to_string());
    let mut found = crate::header::Found::default();
    let place = match solved(&cards, &mut found) {
        Some((at, scale)) => {
            h.scale_arcsec = Some(scale);
            r.from("scale_arcsec", "CD1_1 to CD2_2");
            Some((at, true, "CRVAL1, CRVAL2"))
        }
        None => match told(&cards, &mut found) {
            Ok(Some((at, turned))) => Some((at, turned, "RA, DEC")),
            Ok(None) => None,
            Err(why) => {
                found.assumed.push(format!("Its place is not used: {why}."));
                None
            }
        },
    };
    if let Some((at, turned, keys)) = place
        && at.ra_deg.is_finite()
        && (-90.0..=90.0).contains(&at.dec_deg)
    {
        let keys = found.keys_of("Middle").unwrap_or(keys).to_owned();
        (h.ra_deg, h.dec_deg) = (Some(at.ra_deg.rem_euclid(360.0)), Some(at.dec_deg));
        r.from("ra_deg", &keys);
        r.from("dec_deg", &keys);
        if turned {
            h.position_angle_deg = Some(at.position_angle_deg);
            let keys = found.keys_of("Position angle").unwrap_or(&keys).to_owned();
            r.from("position_angle_deg", &keys);
        }
    }
    r.read.assumed.append(&mut found.assumed);
}

#[cfg(test)]
#[path = "meaning_tests.rs"]
mod tests;
