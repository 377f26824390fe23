//! What a guider wrote down: a table of times and errors, from which each frame's guiding follows.

use crate::frame::start_unix_s;

/// Lines that are read at most: a line a second for a week.
const MOST_LINES: usize = 700_000;

/// One error of the guider.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct GuideError {
    /// When, seconds since 1970 UTC.
    pub at_s: f64,
    /// Square of the distance from where the star should be, arcsec^2.
    pub error2: f64,
}

/// A time: seconds since 1970, or ISO 8601, in UTC where it names no zone.
pub(crate) fn time_s(text: &str) -> Option<f64> {
    let text = text.trim();
    if let Ok(seconds) = text.parse::<f64>() {
        return (1e8..4e9).contains(&seconds).then_some(seconds);
    }
    // Without a zone it is UTC.
    start_unix_s(text).or_else(|| start_unix_s(&format!("{text}Z")))
}

/// Reads a guider's table: a column of times named `at_utc`, `time_utc` or `time`, and errors as
/// `ra_arcsec` and `dec_arcsec`, or as one `error_arcsec`.
///
/// # Errors
/// In words: columns that are missing, a row that is no number.
pub fn read_guiding(text: &str) -> Result<Vec<GuideError>, String> {
    let mut reader = csv::ReaderBuilder::new().flexible(false).from_reader(text.as_bytes());
    let head = reader.headers().map_err(|e| e.to_string())?.clone();
    let named = |names: &[&str]| {
        head.iter().position(|h| names.iter().any(|n| h.trim().eq_ignore_ascii_case(n)))
    };
    let accepted = "give a table with the columns at_utc and error_arcsec, or at_utc, ra_arcsec and \
        dec_arcsec";
    let time = named(&["at_utc", "time_utc", "time"]).ok_or(accepted)?;
    let errors = match (named(&["ra_arcsec"]), named(&["dec_arcsec"]), named(&["error_arcsec"])) {
        (_, _, Some(one)) => vec![one],
        (Some(ra), Some(dec), None) => vec![ra, dec],
        _ => return Err(accepted.to_owned()),
    };
    let mut all = Vec::new();
    for (i, row) in reader.records().enumerate() {
        let wrong = |what: &str| format!("row {}: {what}", i + 2);
        if i >= MOST_LINES {
            return Err(wrong("the table is longer than a week of seconds"));
        }
        let row = row.map_err(|e| wrong(&e.to_string()))?;
        let field = |column: usize| row.get(column).unwrap_or_default().trim();
        let at_s = time_s(field(time)).ok_or_else(|| {
            wrong(&format!("\"{}\" is no time; give 2027-01-28T20:15:00Z", field(time)))
        })?;
        let mut error2 = 0.0;
        for column in &errors {
            let e: f64 =
                field(*column).parse().ok().filter(|e: &f64| e.abs() < 1e4).ok_or_else(|| {
                    wrong(&format!("\"{}\" is no error in arcsec", field(*column)))
                })?;
            error2 += e * e;
        }
        all.push(GuideError { at_s, error2 });
    }
    all.sort_by(|a, b| a.at_s.total_cmp(&b.at_s));
    Ok(all)
}

/// Root mean square of the errors within a frame, arcsec; `None` where none falls into it.
pub fn guiding_over(errors: &[GuideError], start_s: f64, exposure_s: f64) -> Option<f64> {
    let from = errors.partition_point(|e| e.at_s < start_s);
    let to = errors.partition_point(|e| e.at_s <= start_s + exposure_s);
    let own = &errors[from..to];
    let sum: f64 = own.iter().map(|e| e.error2).sum();
    (!own.is_empty()).then(|| (sum / own.len() as f64).sqrt())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_guider_s_table_gives_each_frame_its_root_mean_square() {
        let text = "time,ra_arcsec,dec_arcsec,note\n\
            2027-01-28T20:00:02,0.3,0.4,\n2027-01-28T20:00:00Z,-0.6,0.8,gust\n\
            1801167004.5,0,2,\n";
        let all = read_guiding(text).expect("read");
        assert_eq!(all.len(), 3);
        let start = all[0].at_s;
        assert_eq!(all[1].at_s - start, 2.0);
        let rms = guiding_over(&all, start, 2.0).expect("errors in it");
        assert!((rms - ((1.0 + 0.25) / 2.0f64).sqrt()).abs() < 1e-12, "{rms}");
        assert_eq!(guiding_over(&all, start + 100.0, 60.0), None);
        let one = read_guiding("at_utc,error_arcsec\n2027-01-28T20:00:00Z,0.7\n").expect("read");
        assert_eq!(guiding_over(&one, one[0].at_s - 5.0, 60.0), Some(0.7));
    }

    #[test]
    fn what_is_wrong_is_named_with_its_row() {
        for (text, said) in [
            ("a,b\n1,2\n", "at_utc"),
            ("at_utc,ra_arcsec\n2027-01-28T20:00:00Z,1\n", "dec_arcsec"),
            ("at_utc,error_arcsec\nyesterday,1\n", "row 2: \"yesterday\" is no time"),
            ("at_utc,error_arcsec\n2027-01-28T20:00:00Z,wide\n", "row 2: \"wide\" is no error"),
            ("at_utc,error_arcsec\n2027-01-28T20:00:00Z\n", "row 2"),
        ] {
            let why = read_guiding(text).expect_err(text);
            assert!(why.contains(said), "{why}");
        }
    }
}
