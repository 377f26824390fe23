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
    /// Every column of the text, by its heading or its number.
    pub columns: Vec<String>,
    /// Index of the column that was read as the wavelength.
    pub wavelength_column: usize,
    /// Index of the column that was read as the value.
    pub value_column: usize,
}

/// Columns that a user chose by hand; what is left open is chosen by heading, or by what stands in it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct ChosenColumns {
    /// Index of the wavelength's column.
    pub wavelength: Option<usize>,
    /// Index of the value's column.
    pub value: Option<usize>,
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
    /// A column that is not there, or that is chosen twice.
    #[error("column {column} cannot be the {what}: {why}")]
    Column {
        /// The column, from one.
        column: usize,
        /// What it was chosen for.
        what: &'static str,
        /// Why not.
        why: String,
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
    read_curve_of(text, ChosenColumns::default())
}

/// The same with columns chosen by hand.
///
/// # Errors
/// As for [`read_curve`], and for columns that the text does not have.
pub fn read_curve_of(text: &str, chosen: ChosenColumns) -> Result<CurveReading, CurveReadError> {
    let mut declared_units: Vec<(String, String)> = Vec::new();
    let mut lines: Vec<(usize, &str)> = Vec::new();
    for (i, line) in text.trim_start_matches('\u{feff}').lines().enumerate() {
        if let Some(comment) = line.trim_start().strip_prefix('#') {
            declared_units.extend(ecsv_unit(comment));
        } else if !line.trim().is_empty() {
            lines.push((i + 1, line));
        }
    }
    if lines.len() > MOST_ROWS {
        return Err(CurveReadError::TooLong(lines.len()));
    }
    // A heading is a line without a single number among its cells.
    let numeric = |d: &Dialect, l: &str| d.cells(l).iter().any(|c| d.number(c).is_some());
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
    let mut headings: Vec<String> = Vec::new();
    if let Some(&(_, first)) = lines.first()
        && !numeric(&dialect, first)
    {
        headings = dialect.cells(first).into_iter().map(str::to_owned).collect();
        header = Some(first.to_lowercase());
        understood.push(format!("a header, \"{}\"", first.trim()));
        lines.remove(0);
    }
    let Some(&(row, first)) = lines.first() else { return Err(CurveReadError::Empty) };
    let count = dialect.cells(first).len();
    if count < 2 {
        return Err(CurveReadError::OneColumn { row });
    }
    // A heading of another number of words than the rows have columns names none of them.
    if headings.len() != count {
        headings.clear();
    }
    let columns: Vec<String> =
        (0..count).map(|i| headings.get(i).filter(|h| !h.is_empty()).cloned().unwrap_or_else(|| format!("column {}", i + 1))).collect();
    let cells: Vec<(usize, Vec<&str>)> = lines.iter().map(|&(row, line)| (row, dialect.cells(line))).collect();
    let picked = pick_columns(&columns, !headings.is_empty(), &cells, &dialect, chosen)?;
    if count > 2 {
        let ignored: Vec<&str> = (0..count).filter(|i| *i != picked.0 && *i != picked.1).map(|i| columns[i].as_str()).collect();
        understood.push(format!(
            "\"{}\" as wavelength and \"{}\" as value; not read: {}",
            columns[picked.0],
            columns[picked.1],
            ignored.join(", ")
        ));
        // What names a unit for one column says nothing of the others.
        header = (!headings.is_empty()).then(|| format!("{} {}", columns[picked.0], columns[picked.1]).to_lowercase());
    }
    let declared_unit = declared_units.iter().find(|(name, _)| *name == columns[picked.0]).or_else(|| {
        // An ECSV header names its columns by itself.
        declared_units.iter().find(|(name, _)| is_wavelength(name))
    });
    let declared_unit = declared_unit.map(|(_, unit)| unit.clone());
    let mut points = Vec::with_capacity(lines.len());
    let mut per_cent_sign = false;
    for (row, cells) in &cells {
        let row = *row;
        let cell = |column: usize| cells.get(column).copied().ok_or(CurveReadError::OneColumn { row });
        let number = |cell: &str| dialect.number(cell).ok_or_else(|| CurveReadError::NotANumber { row, cell: cell.to_owned() });
        let (w, v) = (cell(picked.0)?, cell(picked.1)?);
        per_cent_sign |= v.ends_with('%');
        points.push((row, number(w)?, number(v)?));
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
    Ok(CurveReading { curve, understood, mended, columns, wavelength_column: picked.0, value_column: picked.1 })
}

fn is_wavelength(heading: &str) -> bool {
    let h = heading.to_lowercase();
    ["wave", "lambda", "\u{3bb}"].iter().any(|w| h.contains(w)) || ["nm", "um", "\u{b5}m", "angstrom", "aa"].contains(&h.trim())
}

fn is_value(heading: &str) -> bool {
    let h = heading.to_lowercase();
    let words = ["trans", "effic", "qe", "respon", "throughput"];
    (words.iter().any(|w| h.contains(w)) || ["t", "t %", "t(%)", "t (%)", "%t", "value"].contains(&h.trim()))
        && !h.contains("err")
        && !h.contains("sigma")
}

/// Which column is the wavelength and which the value: as chosen; else by heading; else the first that ascends within what light
/// spans, and the first behind it that holds fractions or per cents.
fn pick_columns(
    columns: &[String],
    named: bool,
    cells: &[(usize, Vec<&str>)],
    dialect: &Dialect,
    chosen: ChosenColumns,
) -> Result<(usize, usize), CurveReadError> {
    let count = columns.len();
    for (column, what) in [(chosen.wavelength, "wavelength"), (chosen.value, "value")] {
        if let Some(c) = column.filter(|c| *c >= count) {
            return Err(CurveReadError::Column { column: c + 1, what, why: format!("the text has {count} columns") });
        }
    }
    if chosen.wavelength.is_some() && chosen.wavelength == chosen.value {
        let column = chosen.value.unwrap_or(0) + 1;
        return Err(CurveReadError::Column { column, what: "value", why: "it is the wavelength".into() });
    }
    let values = |c: usize| -> Vec<f64> { cells.iter().filter_map(|(_, row)| dialect.number(row.get(c)?)).collect() };
    let light = |c: usize| {
        let v = values(c);
        let within = |lo: f64, hi: f64| v.iter().all(|x| (lo..=hi).contains(x));
        let ascends = v.windows(2).filter(|w| w[1] > w[0]).count() * 10 >= v.len().saturating_sub(1) * 9;
        v.len() == cells.len() && ascends && (within(100.0, 3000.0) || within(1000.0, 30_000.0) || within(0.2, 1.5))
    };
    let fraction = |c: usize| values(c).iter().all(|x| (-1.0..=101.0).contains(x));
    let open = |c: &usize, other: Option<usize>| Some(*c) != other;
    let wavelength = chosen.wavelength.or_else(|| (0..count).find(|c| named && open(c, chosen.value) && is_wavelength(&columns[*c])));
    let wavelength = wavelength.or_else(|| if count > 2 { (0..count).find(|c| open(c, chosen.value) && light(*c)) } else { None });
    let wavelength = wavelength.unwrap_or(usize::from(chosen.value == Some(0)));
    let others = || (0..count).filter(move |c| *c != wavelength);
    let value = chosen.value.or_else(|| others().find(|c| named && is_value(&columns[*c])));
    let behind = others().filter(|c| *c > wavelength).chain(others().filter(|c| *c < wavelength));
    let value = value.or_else(|| behind.clone().find(|c| fraction(*c))).or_else(|| behind.clone().next());
    Ok((wavelength, value.unwrap_or(1 - wavelength.min(1))))
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

/// Name and unit of a column in an ECSV header line such as `- {name: wavelength, unit: nm, datatype: float64}`.
fn ecsv_unit(comment: &str) -> Option<(String, String)> {
    let entry = comment.trim().strip_prefix("- {")?.strip_suffix('}')?;
    let of = |key: &str| entry.split(',').find_map(|kv| kv.trim().strip_prefix(key)).map(|v| v.trim().to_owned());
    Some((of("name:")?, of("unit:")?))
}

/// Writes curves as ECSV (version 1.0), which `astropy.table.Table.read` reads with its unit: a row at every wavelength at which one of
/// them has a point, the others read between theirs.
pub fn write_ecsv(name: &str, curves: &[(&str, &Curve)]) -> String {
    let mut text = "# %ECSV 1.0\n# ---\n# datatype:\n# - {name: wavelength, unit: nm, datatype: float64}\n".to_owned();
    for (label, _) in curves {
        text += &format!("# - {{name: {label}, datatype: float64}}\n");
    }
    text += &format!("# meta: !!omap\n# - {{name: {}}}\n# schema: astropy-2.0\n", crate::safe::yaml(name));
    let labels: Vec<&str> = curves.iter().map(|c| c.0).collect();
    text += &format!("wavelength {}\n", labels.join(" "));
    let mut wavelengths: Vec<f64> = curves.iter().flat_map(|(_, c)| c.0.iter().map(|p| p[0])).collect();
    wavelengths.sort_by(f64::total_cmp);
    wavelengths.dedup();
    for nm in wavelengths {
        let values: Vec<String> = curves.iter().map(|(_, c)| round(c.at(nm)).to_string()).collect();
        text += &format!("{nm} {}\n", values.join(" "));
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
    fn of_several_columns_the_headed_one_is_read_and_the_others_are_named() {
        let want = vec![[450.0, 0.9], [460.0, 0.5]];
        for text in [
            "index,wavelength nm,transmission,od\n1,450,0.9,0.05\n2,460,0.5,0.3",
            "wavelength (nm);reflection;transmission\n450;0.1;0.9\n460;0.5;0.5",
            "OD\tT %\tnm\n0.05\t90\t450\n0.3\t50\t460",
            // Without headings: what ascends like light, and the first fractions behind it.
            "1,450,0.9\n2,460,0.5",
            "450,0.9,0.01\n460,0.5,0.02",
        ] {
            let r = read_curve(text).unwrap();
            assert_eq!(r.curve.0, want, "{text}: {:?}", r.understood);
            assert!(r.understood.iter().any(|u| u.contains("not read:")), "{:?}", r.understood);
            assert_eq!(r.columns.len(), text.lines().next().unwrap().split([',', ';', '\t']).count());
        }
        let two = read_curve("450,0.9\n460,0.5").unwrap();
        assert!(!two.understood.iter().any(|u| u.contains("not read")), "{:?}", two.understood);
        assert_eq!(
            (two.columns.as_slice(), two.wavelength_column, two.value_column),
            (&["column 1".to_owned(), "column 2".into()][..], 0, 1)
        );
    }

    #[test]
    fn both_columns_can_be_chosen_by_hand() {
        let text = "wavelength,transmission,reflection\n450,0.9,0.1\n460,0.5,0.4";
        let of = |wavelength, value| read_curve_of(text, ChosenColumns { wavelength, value });
        assert_eq!(of(None, Some(2)).unwrap().curve.0, vec![[450.0, 0.1], [460.0, 0.4]]);
        assert_eq!(of(Some(0), Some(1)).unwrap().curve.0, vec![[450.0, 0.9], [460.0, 0.5]]);
        assert!(matches!(of(Some(3), None), Err(CurveReadError::Column { column: 4, .. })));
        assert!(matches!(of(Some(1), Some(1)), Err(CurveReadError::Column { column: 2, .. })));
    }

    #[test]
    fn a_camera_s_colours_stand_beside_its_efficiency() {
        let (qe, red) = (Curve(vec![[400.0, 0.5], [600.0, 0.9]]), Curve(vec![[500.0, 0.0], [600.0, 1.0]]));
        let text = write_ecsv("camera", &[("quantum_efficiency", &qe), ("r", &red)]);
        assert!(text.contains("\nwavelength quantum_efficiency r\n400 0.5 0\n500 0.7 0\n600 0.9 1\n"), "{text}");
        // Read back, the efficiency is what its heading says.
        assert_eq!(points(&text), vec![[400.0, 0.5], [500.0, 0.7], [600.0, 0.9]]);
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
        let text = write_ecsv("A \"name\"", &[("transmission", &Curve(vec![[450.0, 0.5], [451.0, 0.25]]))]);
        assert_eq!(points(&text), vec![[450.0, 0.5], [451.0, 0.25]]);
        let angstrom = text.replace("unit: nm", "unit: Angstrom").replace("\n450 ", "\n4500 ").replace("\n451 ", "\n4510 ");
        assert_eq!(points(&angstrom), vec![[450.0, 0.5], [451.0, 0.25]]);
        assert_eq!(read_curve(&text.replace("unit: nm", "unit: parsec")), Err(CurveReadError::Unit("parsec".into())));
    }

    proptest! {
        #[test]
        fn what_is_written_is_read_back(values in proptest::collection::vec(0.0..1.0f64, 2..200)) {
            let curve = Curve(values.iter().enumerate().map(|(i, v)| [400.0 + i as f64, round(*v).max(1e-6)]).collect());
            prop_assert_eq!(read_curve(&write_ecsv("x", &[("transmission", &curve)])).unwrap().curve, curve);
        }

        #[test]
        fn no_text_makes_it_panic(text in "\\PC{0,200}") {
            let _ = read_curve(&text);
        }
    }
}
