//! Which column of a table is the wavelength and which the value, in which units, and in which
//! order.

use thiserror::Error;

/// Most rows that are read.
pub const MOST_ROWS: usize = 100_000;

/// Columns that a user chose by hand; what is left open is chosen by heading, or by what stands in
/// it.
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
    #[error(
        "row {row}: one column only; give wavelength and transmission, separated by comma, \
            semicolon, tab or blanks"
    )]
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
    #[error(
        "row {row}: the value {value} is {what}; transmissions run from 0 to 1 or from 0 to 100 \
            per cent"
    )]
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
            Self::NotANumber { row, .. }
            | Self::OneColumn { row }
            | Self::Value { row, .. }
            | Self::Duplicate { row, .. } => Some(row),
            _ => None,
        }
    }
}

/// How the rows of a text are written.
pub(crate) struct Dialect {
    separator: Option<char>,
    pub(crate) decimal_comma: bool,
}

impl Dialect {
    /// Semicolons or tabs free the comma for decimals; otherwise a comma separates, unless blanks
    /// do.
    pub(crate) fn of(lines: &[(usize, &str)]) -> Self {
        let body: String = lines.iter().map(|(_, l)| *l).collect::<Vec<_>>().join("\n");
        let separator = [';', '\t'].into_iter().find(|&c| body.contains(c));
        match separator {
            Some(c) => Self { separator: Some(c), decimal_comma: body.contains(',') },
            None => {
                // "450,5 0,93" has a comma in each cell and blanks between; "450, 0.93" has a comma
                // before its blank.
                let blanks = lines
                    .iter()
                    .all(|(_, l)| l.split_whitespace().count() >= 2 && !l.contains(", "));
                if blanks {
                    Self { separator: None, decimal_comma: body.contains(',') }
                } else {
                    Self { separator: Some(','), decimal_comma: false }
                }
            }
        }
    }

    pub(crate) fn cells<'t>(&self, line: &'t str) -> Vec<&'t str> {
        let trim = |c: &'t str| c.trim().trim_matches('"');
        match self.separator {
            Some(c) => line.split(c).map(trim).collect(),
            None => line.split_whitespace().map(trim).collect(),
        }
    }

    pub(crate) fn number(&self, cell: &str) -> Option<f64> {
        let text = if self.decimal_comma { cell.replace(',', ".") } else { cell.to_owned() };
        text.trim_end_matches('%').trim().parse().ok().filter(|v: &f64| v.is_finite())
    }

    pub(crate) fn said(&self) -> String {
        let separator = match self.separator {
            Some(';') => "semicolons",
            Some('\t') => "tabs",
            Some(_) => "commas",
            None => "blanks",
        };
        format!(
            "columns separated by {separator}, decimal {}",
            if self.decimal_comma { "comma" } else { "point" }
        )
    }
}

pub(crate) fn is_wavelength(heading: &str) -> bool {
    let h = heading.to_lowercase();
    ["wave", "lambda", "\u{3bb}"].iter().any(|w| h.contains(w))
        || ["nm", "um", "\u{b5}m", "angstrom", "aa"].contains(&h.trim())
}

pub(crate) fn is_value(heading: &str) -> bool {
    let h = heading.to_lowercase();
    let words = ["trans", "effic", "qe", "respon", "throughput"];
    (words.iter().any(|w| h.contains(w))
        || ["t", "t %", "t(%)", "t (%)", "%t", "value"].contains(&h.trim()))
        && !h.contains("err")
        && !h.contains("sigma")
}

/// Which column is the wavelength and which the value: as chosen; else by heading; else the first
/// that ascends within what light spans, and the first behind it that holds fractions or per cents.
pub(crate) fn pick_columns(
    columns: &[String],
    named: bool,
    cells: &[(usize, Vec<&str>)],
    dialect: &Dialect,
    chosen: ChosenColumns,
) -> Result<(usize, usize), CurveReadError> {
    let count = columns.len();
    for (column, what) in [(chosen.wavelength, "wavelength"), (chosen.value, "value")] {
        if let Some(c) = column.filter(|c| *c >= count) {
            return Err(CurveReadError::Column {
                column: c + 1,
                what,
                why: format!("the text has {count} columns"),
            });
        }
    }
    if chosen.wavelength.is_some() && chosen.wavelength == chosen.value {
        let column = chosen.value.unwrap_or(0) + 1;
        return Err(CurveReadError::Column {
            column,
            what: "value",
            why: "it is the wavelength".into(),
        });
    }
    let values = |c: usize| -> Vec<f64> {
        cells.iter().filter_map(|(_, row)| dialect.number(row.get(c)?)).collect()
    };
    let light = |c: usize| {
        let v = values(c);
        let within = |lo: f64, hi: f64| v.iter().all(|x| (lo..=hi).contains(x));
        let ascends =
            v.windows(2).filter(|w| w[1] > w[0]).count() * 10 >= v.len().saturating_sub(1) * 9;
        v.len() == cells.len()
            && ascends
            && (within(100.0, 3000.0) || within(1000.0, 30_000.0) || within(0.2, 1.5))
    };
    let fraction = |c: usize| values(c).iter().all(|x| (-1.0..=101.0).contains(x));
    let open = |c: &usize, other: Option<usize>| Some(*c) != other;
    let wavelength = chosen.wavelength.or_else(|| {
        (0..count).find(|c| named && open(c, chosen.value) && is_wavelength(&columns[*c]))
    });
    let wavelength = wavelength.or_else(|| {
        if count > 2 { (0..count).find(|c| open(c, chosen.value) && light(*c)) } else { None }
    });
    let wavelength = wavelength.unwrap_or(usize::from(chosen.value == Some(0)));
    let others = || (0..count).filter(move |c| *c != wavelength);
    let value = chosen.value.or_else(|| others().find(|c| named && is_value(&columns[*c])));
    let to_the_right =
        others().filter(|c| *c > wavelength).chain(others().filter(|c| *c < wavelength));
    let value = value
        .or_else(|| to_the_right.clone().find(|c| fraction(*c)))
        .or_else(|| to_the_right.clone().next());
    Ok((wavelength, value.unwrap_or(1 - wavelength.min(1))))
}

/// Nine figures: what a unit conversion adds beyond them is noise.
pub(crate) fn round(x: f64) -> f64 {
    (x * 1e9).round() / 1e9
}

pub(crate) fn sort(
    points: &mut Vec<(usize, f64, f64)>,
    mended: &mut Vec<String>,
) -> Result<(), CurveReadError> {
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
            Some(last) if last.1 == point.1 => {
                return Err(CurveReadError::Duplicate {
                    row: point.0,
                    other: last.0,
                    wavelength: point.1,
                });
            }
            _ => kept.push(point),
        }
    }
    *points = kept;
    Ok(())
}

/// Factor from the file's unit of wavelength to nm.
pub(crate) fn wavelength_unit(
    points: &[(usize, f64, f64)],
    header: Option<&str>,
    declared: Option<&str>,
    understood: &mut Vec<String>,
) -> Result<f64, CurveReadError> {
    let named = |text: &str| match text {
        t if t.contains("angstrom") || t.contains('å') || t == "aa" => Some((0.1, "angstrom")),
        t if t.contains("um") || t.contains("µm") || t.contains("micro") => {
            Some((1000.0, "micrometres"))
        }
        t if t.contains("nm") || t.contains("nano") => Some((1.0, "nanometres")),
        _ => None,
    };
    let by_name = match declared {
        Some(unit) => {
            Some(named(&unit.to_lowercase()).ok_or_else(|| CurveReadError::Unit(unit.to_owned()))?)
        }
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
pub(crate) fn value_scale(
    points: &[(usize, f64, f64)],
    header: Option<&str>,
    sign: bool,
    understood: &mut Vec<String>,
) -> Result<f64, CurveReadError> {
    let most = points.iter().map(|p| p.2).fold(f64::MIN, f64::max);
    let named = sign
        || header
            .is_some_and(|h| h.contains('%') || h.contains("percent") || h.contains("per cent"));
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
    understood.push(if per_cent {
        format!("values in per cent, {why}")
    } else {
        format!("values from 0 to 1, {why}")
    });
    let over = most * if per_cent { 0.01 } else { 1.0 };
    Ok(if per_cent { 0.01 } else { 1.0 } / over.max(1.0))
}
