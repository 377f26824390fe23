//! Names as each format can carry them: the one place that knows what a line break, a bar or a
//! formula does where.
//!
//! A name is whatever a user typed or a document held. Each writer asks here, by its format, and
//! writes nothing of a user's by itself.

/// Text on one line: line breaks, tabs and other control characters become blanks, blanks in a row
/// one.
pub fn one_line(text: &str) -> String {
    let breaks = |c: char| c.is_control() || matches!(c, '\u{2028}' | '\u{2029}' | '\u{feff}');
    let flat: String = text.chars().map(|c| if breaks(c) { ' ' } else { c }).collect();
    flat.split(' ').filter(|w| !w.is_empty()).collect::<Vec<_>>().join(" ")
}

/// A cell of CSV before its quotes: one line, and no formula for a spreadsheet to run. The quotes
/// are the writer's (RFC 4180).
pub fn csv(text: &str) -> String {
    let flat = one_line(text);
    if flat.starts_with(['=', '+', '-', '@']) { format!("'{flat}") } else { flat }
}

/// A cell of CSV with the quotes that it needs.
pub fn csv_quoted(text: &str) -> String {
    quoted(&csv(text))
}

/// A cell of ECSV, which knows its types: text is text whatever it begins with.
pub fn ecsv_quoted(text: &str) -> String {
    quoted(&one_line(text))
}

fn quoted(text: &str) -> String {
    if text.contains([',', '"', ' ']) || text.is_empty() {
        format!("\"{}\"", text.replace('"', "\"\""))
    } else {
        text.to_owned()
    }
}

/// A cell of a Markdown table: one line in which nothing is a bar, a link, HTML or emphasis.
pub fn markdown(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for c in one_line(text).chars() {
        if "\\|`*_[]<>~".contains(c) {
            out.push('\\');
        }
        out.push(c);
    }
    out
}

/// A scalar of YAML, as in the header of ECSV: double quotes and JSON's escapes, which YAML shares.
pub fn yaml(text: &str) -> String {
    serde_json::Value::from(one_line(text)).to_string()
}

/// What tells a thing apart in an identifier: ASCII letters and digits, others as dashes; never
/// empty.
pub fn slug(text: &str) -> String {
    let dashed: String = text
        .chars()
        .map(|c| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '-' })
        .collect();
    let parts: Vec<&str> = dashed.split('-').filter(|p| !p.is_empty()).collect();
    if parts.is_empty() { "target".to_owned() } else { parts.join("-") }
}

#[cfg(test)]
mod tests {
    use super::*;

    const NASTY: &str =
        "=cmd|' /C calc'!A0\r\nBEGIN:VALARM\u{2028}| a [link](x) `b` <i>\t\"q\", end";

    #[test]
    fn every_line_break_is_a_blank() {
        assert_eq!(one_line(" a\r\nb\n\nc\td\u{85}e\u{2028}f\u{2029}g\u{0} "), "a b c d e f g");
        for text in [csv(NASTY), ecsv_quoted(NASTY), markdown(NASTY), yaml(NASTY)] {
            assert!(text.lines().count() == 1 && !text.chars().any(char::is_control), "{text}");
        }
    }

    #[test]
    fn a_formula_is_text() {
        for (text, safe) in [
            ("=1+1", "'=1+1"),
            ("+5", "'+5"),
            ("-5 C", "'-5 C"),
            ("@SUM(A1)", "'@SUM(A1)"),
            ("\t=1", "'=1"),
            ("a=b", "a=b"),
        ] {
            assert_eq!(csv(text), safe);
        }
        assert_eq!(csv_quoted("=1, \"2\""), "\"'=1, \"\"2\"\"\"");
        assert_eq!(ecsv_quoted("=1"), "=1");
    }

    #[test]
    fn markdown_says_what_was_typed() {
        assert_eq!(markdown("[O III] | 3 nm"), "\\[O III\\] \\| 3 nm");
        assert_eq!(markdown("a\\b <i>"), "a\\\\b \\<i\\>");
    }

    #[test]
    fn identifiers_are_plain() {
        assert_eq!(slug("NGC 7822 / Ced 214"), "ngc-7822-ced-214");
        assert_eq!(slug("\u{201e}\u{201c}\r\n"), "target");
    }
}
