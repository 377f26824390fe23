//! Coordinates as people write them, read and written both ways.

use crate::night::ephemeris::Direction;

/// Right ascension as "06h 17m 13.2s".
pub fn ra_text(ra_deg: f64) -> String {
    let tenths = (ra_deg.rem_euclid(360.0) / 15.0 * 36_000.0).round() as u64 % 864_000;
    format!(
        "{:02}h {:02}m {:02}.{}s",
        tenths / 36_000,
        tenths / 600 % 60,
        tenths / 10 % 60,
        tenths % 10
    )
}

/// Declination as "+22° 31′ 05″".
pub fn dec_text(dec_deg: f64) -> String {
    let s = (dec_deg.abs() * 3600.0).round() as u64;
    let sign = if dec_deg < 0.0 && s > 0 { '−' } else { '+' };
    format!("{sign}{:02}° {:02}′ {:02}″", s / 3600, s / 60 % 60, s % 60)
}

/// One angle: numbers with their marks taken away, and whether hours were meant.
fn angle(part: &str) -> Option<(f64, usize, bool)> {
    let negative = part.trim_start().starts_with(['-', '−', '–']);
    let hours = part.contains(['h', 'H']);
    let clean: String =
        part.chars().map(|c| if c.is_ascii_digit() || c == '.' { c } else { ' ' }).collect();
    let numbers: Vec<f64> =
        clean.split_whitespace().map(str::parse).collect::<Result<_, _>>().ok()?;
    if numbers.is_empty() || numbers.len() > 3 || numbers.iter().skip(1).any(|n| *n >= 60.0) {
        return None;
    }
    let value = numbers.iter().rev().fold(0.0, |sum, n| sum / 60.0 + n);
    Some((if negative { -value } else { value }, numbers.len(), hours))
}

/// Reads a pair of coordinates in any usual form: "06 17 13 +22 31 05", "6h17m13s, +22°31′05″",
/// "94.304 22.518", "06:17:13 22:31:05". Two plain numbers are degrees; a right ascension in three
/// parts, or with an h, is hours.
///
/// # Errors
/// What was wrong, and what is accepted.
///
/// ```
/// use salt_lamp_core::night::{dec_text, parse, ra_text};
///
/// let at = parse("06 17 13 +22 31 05").expect("coordinates");
/// let texts = (ra_text(at.ra_deg), dec_text(at.dec_deg));
/// assert_eq!(texts, ("06h 17m 13.0s".to_owned(), "+22° 31′ 05″".to_owned()));
/// ```
pub fn parse(text: &str) -> Result<Direction, String> {
    let accepted = "give right ascension and declination, such as \"06 17 13 +22 31 05\", \
        \"6h17m13s +22°31′05″\" or \"94.304 22.518\"";
    let text = text.trim();
    let wrong = || format!("\"{text}\" is no pair of coordinates; {accepted}");
    // Where the second angle begins: at a sign, else at a comma or semicolon, else in the middle of
    // the numbers.
    let sign =
        text.char_indices().skip(1).find(|(_, c)| ['+', '-', '−', '–'].contains(c)).map(|(i, _)| i);
    let (first, second) = if let Some(i) = sign {
        (text[..i].to_owned(), text[i..].to_owned())
    } else if let Some(i) = text.find([',', ';']) {
        (text[..i].to_owned(), text[i + 1..].to_owned())
    } else {
        let words: Vec<&str> = text.split_whitespace().collect();
        if words.len() < 2 || !words.len().is_multiple_of(2) {
            return Err(wrong());
        }
        (words[..words.len() / 2].join(" "), words[words.len() / 2..].join(" "))
    };
    let (ra, parts, hours) = angle(&first).ok_or_else(wrong)?;
    let (dec, _, _) = angle(&second).ok_or_else(wrong)?;
    let ra_deg = if hours || parts > 1 { ra * 15.0 } else { ra };
    if !(0.0..360.0).contains(&ra_deg) {
        return Err(format!(
            "the right ascension, {ra_deg:.4} degrees, is not between 0 and 360; {accepted}"
        ));
    }
    if !(-90.0..=90.0).contains(&dec) {
        return Err(format!(
            "the declination, {dec:.4} degrees, is not between -90 and 90; {accepted}"
        ));
    }
    Ok(Direction { ra_deg, dec_deg: dec })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn usual_forms_are_read() {
        for text in [
            "06 17 13 +22 31 05",
            "6h17m13s, +22°31′05″",
            "6h 17m 13.0s  +22d 31m 05s",
            "06:17:13 +22:31:05",
            "06:17:13, 22:31:05",
            "06 17 13 22 31 05",
            "94.304166667 22.518055556",
            "94.304166667, +22.518055556",
            "RA 06h 17m 13s Dec +22° 31' 05\"",
        ] {
            let d = parse(text).unwrap_or_else(|e| panic!("{e}"));
            assert!(
                (d.ra_deg - 94.304_166_67).abs() < 1e-6 && (d.dec_deg - 22.518_055_56).abs() < 1e-6,
                "{text}: {d:?}"
            );
        }
        let south = parse("00 24 05.4 −72 04 53").unwrap();
        assert!(
            (south.dec_deg + 72.081_388_9).abs() < 1e-6 && (south.ra_deg - 6.0225).abs() < 1e-9
        );
        assert!(parse("00 24 05 -00 30 00").unwrap().dec_deg < 0.0);
    }

    #[test]
    fn wrong_forms_say_what_is_accepted() {
        for text in
            ["", "IC 443", "12", "25 00 00 +10 00 00", "10 00 00 +95 00 00", "10 61 00 +10 00 00"]
        {
            assert!(parse(text).unwrap_err().contains("such as"), "{text}");
        }
    }

    proptest! {
        #[test]
        fn what_is_written_is_read_back(ra in 0.0..359.99f64, dec in -89.9..89.9f64) {
            let d = parse(&format!("{} {}", ra_text(ra), dec_text(dec))).unwrap();
            prop_assert!((d.ra_deg - ra).abs() < 0.5 * 15.0 / 3600.0
                && (d.dec_deg - dec).abs() < 0.6 / 3600.0, "{ra} {dec}: {d:?}");
        }
    }
}
