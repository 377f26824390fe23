//! Transmission and efficiency curves as text: CSV in the dialects that spreadsheets write, and ECSV.
//!
//! Reading says what it understood, so that a user can check it before anything is saved.

use salt_lamp_core::light::Curve;
use serde::Serialize;
use thiserror::Error;
use utoipa::ToSchema;

/// Most rows that are read.
pub const MOST_ROWS: usize = 100_000;

/// A curve that was read, and how it was understood.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct CurveReading {
    /// The curve, wavelength in nm and fraction 0-1.
    pub curve: Curve,
    /// What was understood, a statement each: separator, decimal mark, units.
    pub understood: Vec<String>,
    /// What was mended, a statement each with its row.
    pub mended: Vec<String>,
}

/// Why a text is no curve. Rows count from one, as an editor counts lines.
#[derive(Clone, Debug, PartialEq, Error)]
pub enum CurveReadError {
    /// Nothing in it.
    #[error("the text holds no rows of numbers; give two columns, wavelength and transmission")]
    Empty,
    /// Too many rows.
    #[error("{0} rows are more than the {MOST_ROWS} that are read; thin the curve out")]
    TooLong(usize),
    /// A row with a cell that is no number.
    #[error("row {row}: \"{cell}\" is not a number")]
    NotANumber {
        /// The row, from one.
        row: usize,
        /// What stood there.
        cell: String,
    },
    /// A row with too few columns.
    #[error("row {row}: one column only; give wavelength and transmission, separated by comma, semicolon, tab or blanks")]
    OneColumn {
        /// The row, from one.
        row: usize,
    },
    /// A value that no transmission has.
    #[error("row {row}: the value {value} is {what}; transmissions run from 0 to 1 or from 0 to 100 per cent")]
    Value {
        /// The row, from one.
        row: usize,
        /// What stood there.
        value: f64,
        /// Negative, or too large.
        what: &'static str,
    },
    /// One wavelength with two values.
    #[error("row {row}: the wavelength {wavelength} stands in row {other} too, with another value")]
    Duplicate {
        /// The row, from one.
        row: usize,
        /// The row it repeats.
        other: usize,
        /// The wavelength as it stood there.
        wavelength: f64,
    },
    /// A unit that is not known.
    #[error("the unit \"{0}\" is not known; give nm, Angstrom or um")]
    Unit(String),
    /// What remains is no curve.
    #[error("{0}")]
    Curve(String),
}

impl CurveReadError {
    /// The row that is wrong, from one, where one row is.
    pub fn row(&self) -> Option<usize> {
        match *self {
            Self::NotANumber { row, .. } | Self::OneColumn { row } | Self::Value { row, .. } | Self::Duplicate { row, .. } => Some(row),
            _ => None,
        }
    }
}

struct Dialect {
    separator: Option<char>,
    decimal_comma: bool,
}

impl Dialect {
    /// Semicolons or tabs free the comma for decimals; otherwise a comma separates, unless blanks do.
    fn of(lines: &[(usize, &str)]) -> Self {
        let body: String = lines.iter().map(|(_, l)| *l).collect::<Vec<_>>().join("\n");
        let separator = [';', '\t'].into_iter().find(|&c| body.contains(c));
        match separator {
            Some(c) => Self { separator: Some(c), decimal_comma: body.contains(',') },
            None => {
                // "450,5 0,93" has a comma in each cell and blanks between; "450, 0.93" has a comma before its blank.
                let blanks = lines.iter().all(|(_, l)| l.split_whitespace().count() >= 2 && !l.contains(", "));
                if blanks {
                    Self { separator: None, decimal_comma: body.contains(',') }
                } else {
                    Self { separator: Some(','), decimal_comma: false }
                }
            }
        }
    }

    fn cells<'t>(&self, line: &'t str) -> Vec<&'t str> {
        let trim = |c: &'t str| c.trim().trim_matches('"');
        match self.separator {
            Some(c) => line.split(c).map(trim).collect(),
            None => line.split_whitespace().map(trim).collect(),
        }
    }

    fn number(&self, cell: &str) -> Option<f64> {
        let text = if self.decimal_comma { cell.replace(',', ".") } else { cell.to_owned() };
        text.trim_end_matches('%').trim().parse().ok().filter(|v: &f64| v.is_finite())
    }

    fn said(&self) -> String {
        let separator = match self.separator {
            Some(';') => "semicolons",
            Some('\t') => "tabs",
            Some(_) => "commas",
            None => "blanks",
        };
        format!("columns separated by {separator}, decimal {}", if self.decimal_comma { "comma" } else { "point" })
    }
}

/// Reads a curve out of CSV, ECSV or text pasted from a spreadsheet.
///
/// # Errors
/// The row that is wrong and what is accepted. Rows out of order are sorted, repeated ones dropped, and that is said.
pub fn read_curve(text: &str) -> Result<CurveReading, CurveReadError> {
    let mut declared_unit = None;
    let mut lines: Vec<(usize, &str)> = Vec::new();
    for (i, line) in text.trim_start_matches('\u{feff}').lines().enumerate() {
        if let Some(comment) = line.trim_start().strip_prefix('#') {
            declared_unit = declared_unit.or_else(|| ecsv_unit(comment));
        } else if !line.trim().is_empty() {
            lines.push((i + 1, line));
        }
    }
    if lines.len() > MOST_ROWS {
        return Err(CurveReadError::TooLong(lines.len()));
    }
    let numeric = |d: &Dialect, l: &str| d.cells(l).first().is_some_and(|c| d.number(c).is_some());
    // Separators are judged by the rows of numbers: a header may hold commas of its own.
    let rows_only: Vec<_> = lines
        .iter()
        .copied()
        .filter(|(_, l)| l.trim_start().trim_start_matches('"').starts_with(|c: char| c.is_ascii_digit() || c == '.' || c == '-'))
        .collect();
    if rows_only.is_empty() {
        return Err(CurveReadError::Empty);
    }
    let dialect = Dialect::of(&rows_only);
    let mut understood = vec![dialect.said()];
    let mut header = None;
    if let Some(&(_, first)) = lines.first()
        && !numeric(&dialect, first)
    {
        header = Some(first.to_lowercase());
        understood.push(format!("a header, \"{}\"", first.trim()));
        lines.remove(0);
    }
    if lines.is_empty() {
        return Err(CurveReadError::Empty);
    }
    let mut points = Vec::with_capacity(lines.len());
    let mut per_cent_sign = false;
    for &(row, line) in &lines {
        let cells = dialect.cells(line);
        if cells.len() < 2 {
            return Err(CurveReadError::OneColumn { row });
        }
        let number = |cell: &str| dialect.number(cell).ok_or_else(|| CurveReadError::NotANumber { row, cell: cell.to_owned() });
        per_cent_sign |= cells[1].ends_with('%');
        points.push((row, number(cells[0])?, number(cells[1])?));
    }
    let mut mended = Vec::new();
    sort(&mut points, &mut mended)?;
    let per_nm = wavelength_unit(&points, header.as_deref(), declared_unit.as_deref(), &mut understood)?;
    let scale = value_scale(&points, header.as_deref(), per_cent_sign, &mut understood)?;
    let curve = Curve(points.iter().map(|&(_, w, v)| [round(w * per_nm), round((v * scale).max(0.0))]).collect());
    understood.push(format!(
        "{} rows from {} to {} nm",
        points.len(),
        round(points[0].1 * per_nm),
        round(points[points.len() - 1].1 * per_nm)
    ));
    curve.check().map_err(|e| CurveReadError::Curve(e.to_string()))?;
    Ok(CurveReading { curve, understood, mended })
}

/// Nine figures: what a unit conversion adds beyond them is noise.
fn round(x: f64) -> f64 {
    (x * 1e9).round() / 1e9
}

fn sort(points: &mut Vec<(usize, f64, f64)>, mended: &mut Vec<String>) -> Result<(), CurveReadError> {
    if let Some(i) = points.windows(2).position(|w| w[1].1 < w[0].1) {
        points.sort_by(|a, b| a.1.total_cmp(&b.1));
        mended.push(format!(
            "rows were not in order from row {}; they are sorted by wavelength now",
            points.get(i + 1).map_or(i + 2, |p| p.0)
        ));
    }
    let mut kept: Vec<(usize, f64, f64)> = Vec::with_capacity(points.len());
    for &point in points.iter() {
        match kept.last() {
            Some(last) if last.1 == point.1 && last.2 == point.2 => {
                mended.push(format!("row {} repeats row {}; it is dropped", point.0, last.0))
            }
            Some(last) if last.1 == point.1 => return Err(CurveReadError::Duplicate { row: point.0, other: last.0, wavelength: point.1 }),
            _ => kept.push(point),
        }
    }
    *points = kept;
    Ok(())
}

/// Factor from the file's unit of wavelength to nm.
fn wavelength_unit(
    points: &[(usize, f64, f64)],
    header: Option<&str>,
    declared: Option<&str>,
    understood: &mut Vec<String>,
) -> Result<f64, CurveReadError> {
    let named = |text: &str| match text {
        t if t.contains("angstrom") || t.contains('å') || t == "aa" => Some((0.1, "angstrom")),
        t if t.contains("um") || t.contains("µm") || t.contains("micro") => Some((1000.0, "micrometres")),
        t if t.contains("nm") || t.contains("nano") => Some((1.0, "nanometres")),
        _ => None,
    };
    let by_name = match declared {
        Some(unit) => Some(named(&unit.to_lowercase()).ok_or_else(|| CurveReadError::Unit(unit.to_owned()))?),
        None => header.and_then(named),
    };
    let middle = points[points.len() / 2].1;
    let (factor, unit, why) = match by_name {
        Some((factor, unit)) => (factor, unit, "as named"),
        None if middle > 2500.0 => (0.1, "angstrom", "by their size"),
        None if middle < 10.0 => (1000.0, "micrometres", "by their size"),
        None => (1.0, "nanometres", "by their size"),
    };
    understood.push(format!("wavelengths in {unit}, {why}"));
    Ok(factor)
}

/// Factor from the file's values to fractions.
fn value_scale(
    points: &[(usize, f64, f64)],
    header: Option<&str>,
    sign: bool,
    understood: &mut Vec<String>,
) -> Result<f64, CurveReadError> {
    let most = points.iter().map(|p| p.2).fold(f64::MIN, f64::max);
    let named = sign || header.is_some_and(|h| h.contains('%') || h.contains("percent") || h.contains("per cent"));
    let per_cent = named || most > 1.5;
    let limit = if per_cent { 100.5 } else { 1.005 };
    for &(row, _, value) in points {
        // A spectrometer's noise may dip a little below nothing or rise above all.
        if value < -0.01 * limit {
            return Err(CurveReadError::Value { row, value, what: "negative" });
        }
        if value > limit {
            return Err(CurveReadError::Value { row, value, what: "too large" });
        }
    }
    let why = if named { "as named" } else { "by their size" };
    understood.push(if per_cent { format!("values in per cent, {why}") } else { format!("values from 0 to 1, {why}") });
    let over = most * if per_cent { 0.01 } else { 1.0 };
    Ok(if per_cent { 0.01 } else { 1.0 } / over.max(1.0))
}

/// The unit of the first column in an ECSV header line such as `- {name: wavelength, unit: nm, datatype: float64}`.
fn ecsv_unit(comment: &str) -> Option<String> {
    let entry = comment.trim().strip_prefix("- {")?.strip_suffix('}')?;
    let name = entry.split(',').find_map(|kv| kv.trim().strip_prefix("name:"))?.trim();
    name.to_lowercase().contains("wave").then_some(())?;
    entry.split(',').find_map(|kv| kv.trim().strip_prefix("unit:")).map(|u| u.trim().to_owned())
}

/// Writes a curve as ECSV (version 1.0), which `astropy.table.Table.read` reads with its unit.
pub fn write_ecsv(name: &str, value: &str, curve: &Curve) -> String {
    let quoted = serde_json::to_string(name).unwrap_or_default();
    let mut text = format!(
        "# %ECSV 1.0\n# ---\n# datatype:\n# - {{name: wavelength, unit: nm, datatype: float64}}\n# - {{name: {value}, datatype: float64}}\n# meta: !!omap\n# - {{name: {quoted}}}\n# schema: astropy-2.0\nwavelength {value}\n"
    );
    for [nm, v] in &curve.0 {
        text += &format!("{nm} {v}\n");
    }
    text
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn points(text: &str) -> Vec<[f64; 2]> {
        read_curve(text).unwrap().curve.0
    }

    #[test]
    fn dialects_of_spreadsheets() {
        let want = vec![[450.5, 0.93], [460.0, 0.5]];
        for text in [
            "450.5,0.93\n460,0.5\n",
            "wavelength nm,transmission\n450.5,0.93\n460,0.5",
            "450,5;0,93\n460;0,5",
            "450.5\t0.93\r\n460\t0.5\r\n",
            "450.5 0.93\n460 0.5",
            "450,5 0,93\n460 0,5",
            "4505,93\n4600,50",
            "Angstrom;per cent\n4505;93\n4600;50",
            "450.5, 93 %\n460, 50 %",
            "0.4505,0.93\n0.46,0.5",
            "\u{feff}nm;T %\n450,5;93\n460;50",
            "# made by hand\n450.5,0.93\n\n460,0.5",
        ] {
            assert_eq!(points(text), want, "{text}");
        }
    }

    #[test]
    fn what_was_understood_is_said() {
        let r = read_curve("450,5;93\n460;50").unwrap();
        assert!(r.understood[0].contains("semicolons") && r.understood[0].contains("decimal comma"));
        assert!(r.understood.iter().any(|u| u.contains("per cent")) && r.understood.iter().any(|u| u.contains("nanometres")));
        assert!(r.mended.is_empty());
    }

    #[test]
    fn wrong_rows_are_named() {
        let row = |text: &str| read_curve(text).unwrap_err().row();
        assert_eq!(row("450,0.9\n460,high\n470,0.1"), Some(2));
        assert_eq!(row("nm,T\n450,0.9\n460"), Some(3));
        assert_eq!(row("450,0.9\n460,-0.2\n470,0.1"), Some(2));
        assert_eq!(row("450,0.9\n460,120\n470,0.1"), Some(2));
        assert_eq!(row("450,0.9\n460,0.5\n460,0.6"), Some(3));
        assert_eq!(read_curve("hello"), Err(CurveReadError::Empty));
        assert_eq!(read_curve(""), Err(CurveReadError::Empty));
        assert!(matches!(read_curve("450,0.9"), Err(CurveReadError::Curve(_))));
        let long = (0..200_000).map(|i| format!("{},0.5", 300.0 + f64::from(i) * 0.001)).collect::<Vec<_>>().join("\n");
        assert_eq!(read_curve(&long), Err(CurveReadError::TooLong(200_000)));
    }

    #[test]
    fn order_and_repeats_are_mended_and_said() {
        let r = read_curve("470,0.1\n450,0.9\n460,0.5\n460,0.5").unwrap();
        assert_eq!(r.curve.0, vec![[450.0, 0.9], [460.0, 0.5], [470.0, 0.1]]);
        assert_eq!(r.mended.len(), 2);
        assert!(r.mended.iter().all(|m| m.contains("row")));
    }

    #[test]
    fn ecsv_names_its_unit() {
        let text = write_ecsv("A \"name\"", "transmission", &Curve(vec![[450.0, 0.5], [451.0, 0.25]]));
        assert_eq!(points(&text), vec![[450.0, 0.5], [451.0, 0.25]]);
        let angstrom = text.replace("unit: nm", "unit: Angstrom").replace("\n450 ", "\n4500 ").replace("\n451 ", "\n4510 ");
        assert_eq!(points(&angstrom), vec![[450.0, 0.5], [451.0, 0.25]]);
        assert_eq!(read_curve(&text.replace("unit: nm", "unit: parsec")), Err(CurveReadError::Unit("parsec".into())));
    }

    proptest! {
        #[test]
        fn what_is_written_is_read_back(values in proptest::collection::vec(0.0..1.0f64, 2..200)) {
            let curve = Curve(values.iter().enumerate().map(|(i, v)| [400.0 + i as f64, round(*v).max(1e-6)]).collect());
            prop_assert_eq!(read_curve(&write_ecsv("x", "transmission", &curve)).unwrap().curve, curve);
        }

        #[test]
        fn no_text_makes_it_panic(text in "\\PC{0,200}") {
            let _ = read_curve(&text);
        }
    }
}
