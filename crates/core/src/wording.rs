//! Numbers as imagers say them.

/// Ratios closer to 1 than this are not told apart: the model's sky and lamps are not known better.
pub const ABOUT_EQUAL: f64 = 0.07;

/// A length of a sub: whole seconds to two figures, fractions below ten seconds.
pub fn seconds(s: f64) -> String {
    if s >= 10.0 {
        format!("{:.0} s", two_figures(s))
    } else if s >= 0.095 {
        format!("{} s", two_figures(s))
    } else {
        "under 0.1 s".to_owned()
    }
}

/// A text with its first letter large.
pub fn capital(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or_else(String::new, |l| l.to_uppercase().chain(letters).collect())
}

/// A side of a square on the sky, arcsec: two figures above ten, one place below.
pub fn arcsec(side: f64) -> String {
    format!("{}\u{2033}", two_figures(side))
}

/// A number to two figures.
pub fn two_figures(x: f64) -> f64 {
    let step = 10f64.powf(x.abs().max(1e-9).log10().floor() - 1.0);
    let rounded = (x / step).round() * step;
    (rounded * 1e6).round() / 1e6
}

/// A time on the clock: minutes, hours and minutes, or hours.
///
/// ```
/// assert_eq!(salt_lamp_core::wording::clock(15_000.0), "4 h 10 min");
/// ```
pub fn clock(s: f64) -> String {
    let minutes = (s / 60.0).round();
    if s < 90.0 {
        format!("{:.0} s", s.ceil())
    } else if minutes < 60.0 {
        format!("{minutes:.0} min")
    } else if minutes < 100.0 * 60.0 {
        let (h, m) = ((minutes / 60.0).floor(), minutes % 60.0);
        if m == 0.0 { format!("{h:.0} h") } else { format!("{h:.0} h {m:.0} min") }
    } else if s < 3600.0 * 10_000.0 {
        format!("{:.0} h", two_figures(s / 3600.0))
    } else {
        "more than 10 000 h".to_owned()
    }
}

/// A ratio of times: "about the same time", "twice the time", "40 % of the time".
pub fn times(ratio: f64) -> String {
    if (ratio - 1.0).abs() < ABOUT_EQUAL {
        "about the same time".to_owned()
    } else if (1.9..2.1).contains(&ratio) {
        "twice the time".to_owned()
    } else if (0.48..0.52).contains(&ratio) {
        "half the time".to_owned()
    } else if ratio < 1.0 {
        let percent = ratio * 100.0;
        if percent < 1.0 {
            "less than 1 % of the time".to_owned()
        } else {
            format!("{percent:.0} % of the time")
        }
    } else if ratio < 10.0 {
        format!("{ratio:.1} times the time")
    } else if ratio < 1000.0 {
        format!("{:.0} times the time", two_figures(ratio))
    } else {
        "more than a thousand times the time".to_owned()
    }
}

/// A share as per cent to a tenth: `4.1 %`, never broken into two lines.
pub fn per_cent(share: f64) -> String {
    format!("{:.1}\u{a0}%", 100.0 * share)
}

/// The same with its sign: `+4.1 %`, or a minus as it is printed.
pub fn signed_per_cent(share: f64) -> String {
    format!("{}{}", if share < 0.0 { "\u{2212}" } else { "+" }, per_cent(share.abs()))
}

/// Names as one lists them: "red, green and blue".
pub fn listed(names: &[&str]) -> String {
    match names {
        [] => String::new(),
        [one] => (*one).to_owned(),
        [all @ .., last] => format!("{} and {last}", all.join(", ")),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_read_as_people_say_them() {
        assert_eq!(seconds(183.4), "180 s");
        assert_eq!(seconds(3.12), "3.1 s");
        assert_eq!(clock(15_000.0), "4 h 10 min");
        assert_eq!(clock(7_200.0), "2 h");
        assert_eq!(clock(45.2), "46 s");
        assert_eq!(clock(3_599.0), "1 h");
        assert_eq!(clock(1_234_567.0), "340 h");
        assert_eq!(times(1.05), "about the same time");
        assert_eq!(times(2.0), "twice the time");
        assert_eq!(times(0.4), "40 % of the time");
        assert_eq!(times(3.21), "3.2 times the time");
        assert_eq!(per_cent(0.0412), "4.1\u{a0}%");
        assert_eq!(signed_per_cent(-0.2), "\u{2212}20.0\u{a0}%");
    }
}
