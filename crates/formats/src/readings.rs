//! What a sky meter or a cloud watcher wrote down, minute by minute: JSON lines, or a table of
//! comma-separated values with a head.

use serde_json::Value;

use crate::guiding::time_s;

/// Readings that are taken at most: a minute's for ten years.
const MOST: usize = 5_300_000;

/// A reading.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Reading {
    /// When, seconds since 1970 UTC.
    pub at_s: f64,
    /// What was read.
    pub value: f64,
}

/// What is read, and how instruments name it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Instrument {
    /// Brightness of the zenith, V mag/arcsec^2.
    SkyMeter,
    /// Share of the sky that is clouded, 0-1.
    CloudWatcher,
}

const TIMES: [&str; 5] = ["at", "at_utc", "time_utc", "time", "utc"];

impl Instrument {
    fn names(self) -> &'static [&'static str] {
        match self {
            Self::SkyMeter => {
                &["sky_v_mag", "sky_v_mag_arcsec2", "sky_mag_arcsec2", "mag_arcsec2", "mag"]
            }
            Self::CloudWatcher => &["cover", "cloud_cover", "clouds"],
        }
    }

    fn range(self) -> [f64; 2] {
        match self {
            Self::SkyMeter => [2.0, 24.0],
            Self::CloudWatcher => [0.0, 1.0],
        }
    }

    fn accepted(self) -> &'static str {
        match self {
            Self::SkyMeter => {
                "give a line a reading: {\"at\": \"2027-01-28T20:15:00Z\", \"sky_v_mag\": 20.31}, or a \
                 table with the columns at_utc and sky_v_mag_arcsec2"
            }
            Self::CloudWatcher => {
                "give a line a reading: {\"at\": \"2027-01-28T20:15:00Z\", \"cover\": 0.4}, or a table \
                 with the columns at_utc and cover"
            }
        }
    }

    fn reading(self, at: Option<f64>, value: Option<f64>, line: usize) -> Result<Reading, String> {
        let wrong = |what: String| format!("line {line}: {what}; {}", self.accepted());
        let at_s = at.ok_or_else(|| wrong("there is no time in it".into()))?;
        let value = value.ok_or_else(|| wrong("there is no number in it".into()))?;
        let [low, high] = self.range();
        if !(low..=high).contains(&value) {
            return Err(wrong(format!("{value} is not between {low} and {high}")));
        }
        Ok(Reading { at_s, value })
    }
}

/// Reads all readings, in the order of time. A last line that is still being written is left out.
///
/// # Errors
/// In words, with the line: what is wrong, and what is accepted.
pub fn read_readings(what: Instrument, text: &str) -> Result<Vec<Reading>, String> {
    let whole = text.rfind('\n').map_or(text, |end| &text[..end]);
    let first = whole.trim_start();
    if first.is_empty() {
        return Err(format!("it is empty; {}", what.accepted()));
    }
    let mut all = if first.starts_with('{') { lines(what, whole)? } else { table(what, whole)? };
    all.sort_by(|a, b| a.at_s.total_cmp(&b.at_s));
    Ok(all)
}

fn lines(what: Instrument, text: &str) -> Result<Vec<Reading>, String> {
    let mut all = Vec::new();
    for (i, line) in text.lines().enumerate().filter(|(_, l)| !l.trim().is_empty()).take(MOST) {
        let object: Value = serde_json::from_str(line)
            .map_err(|e| format!("line {}: {e}; {}", i + 1, what.accepted()))?;
        let of = |names: &[&str]| names.iter().find_map(|n| object.get(*n));
        let at = of(&TIMES).and_then(|v| match v {
            Value::String(s) => time_s(s),
            other => other.as_f64(),
        });
        all.push(what.reading(at, of(what.names()).and_then(Value::as_f64), i + 1)?);
    }
    Ok(all)
}

fn table(what: Instrument, text: &str) -> Result<Vec<Reading>, String> {
    let mut reader = csv::ReaderBuilder::new().comment(Some(b'#')).from_reader(text.as_bytes());
    let head = reader.headers().map_err(|e| e.to_string())?.clone();
    let column = |names: &[&str]| {
        head.iter().position(|h| names.iter().any(|n| h.trim().eq_ignore_ascii_case(n)))
    };
    let (Some(time), Some(value)) = (column(&TIMES), column(what.names())) else {
        return Err(format!("its columns are not known; {}", what.accepted()));
    };
    let mut all = Vec::new();
    for (i, row) in reader.records().take(MOST).enumerate() {
        let row = row.map_err(|e| format!("line {}: {e}", i + 2))?;
        let field = |c: usize| row.get(c).unwrap_or_default().trim();
        all.push(what.reading(time_s(field(time)), field(value).parse().ok(), i + 2)?);
    }
    Ok(all)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lines_and_tables_are_one_and_come_in_the_order_of_time() {
        let lines = "{\"at\": \"2027-01-28T20:16:00Z\", \"sky_v_mag\": 20.3}\n\
            {\"time\": 1801167300, \"mag\": 20.1}\n";
        let table = "# a meter\nat_utc,x,sky_v_mag_arcsec2\n2027-01-28T20:16:00,1,20.3\n\
            2027-01-28T20:15:00Z,2,20.1\n";
        let read = |text| read_readings(Instrument::SkyMeter, text).expect("readings");
        assert_eq!(read(lines), read(table));
        assert_eq!(read(lines)[0], Reading { at_s: 1_801_167_300.0, value: 20.1 });
        // The last line is under way.
        assert_eq!(read(&format!("{table}2027-01-28T20:1")).len(), 2);
    }

    #[test]
    fn what_is_wrong_is_said_with_its_line() {
        let wrong = |text: &str| read_readings(Instrument::CloudWatcher, text).expect_err("wrong");
        for (text, said) in [
            ("", "empty"),
            ("a,b\n1,2\n", "columns"),
            ("at_utc,cover\nyesterday,0.3\n", "line 2: there is no time"),
            ("at_utc,cover\n2027-01-28T20:16:00Z,1.3\n", "line 2: 1.3 is not between 0 and 1"),
            ("{\"at\": \"2027-01-28T20:16:00Z\"}\n", "line 1: there is no number"),
            ("{\"at\": \n", "line 1"),
        ] {
            let told = wrong(text);
            assert!(told.contains(said), "{text:?}: {told}");
        }
    }
}
