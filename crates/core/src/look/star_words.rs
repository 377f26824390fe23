//! How stars and the angles around them are called.

use crate::library::stars::CatalogueStar;

/// A magnitude to a tenth; a star of nearly zero is "0.0", not "-0.0".
pub(super) fn v_mag(v: f64) -> String {
    format!("{:.1}", (v * 10.0).round() / 10.0 + 0.0)
}

/// A star as people call it.
pub(super) fn called(s: &CatalogueStar) -> String {
    let name = s.name.as_deref().unwrap_or("a star");
    format!("{name} of V {}", v_mag(s.v_mag))
}

/// An angle as people say it.
pub(super) fn across(arcsec: f64) -> String {
    if arcsec < 100.0 { format!("{arcsec:.0}″") } else { format!("{:.1}′", arcsec / 60.0) }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_magnitude_of_nearly_zero_is_zero() {
        assert_eq!(
            (v_mag(-0.04), v_mag(0.04), v_mag(-1.26)),
            ("0.0".to_owned(), "0.0".to_owned(), "-1.3".to_owned())
        );
    }
}
