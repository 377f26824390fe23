//! Transmission and efficiency curves as text: CSV in the dialects that spreadsheets write, and
//! ECSV.
//!
//! Reading says what it understood, so that a user can check it before anything is saved.

use salt_lamp_core::light::Curve;
use serde::Serialize;
use utoipa::ToSchema;

pub use crate::curve_columns::{ChosenColumns, CurveReadError, MOST_ROWS};
use crate::curve_columns::{
    Dialect, is_wavelength, pick_columns, round, sort, value_scale, wavelength_unit,
};

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

/// Reads a curve out of CSV, ECSV or text pasted from a spreadsheet.
///
/// # Errors
/// The row that is wrong and what is accepted. Rows out of order are sorted, repeated ones dropped,
/// and that is said.
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
        .filter(|(_, l)| {
            l.trim_start()
                .trim_start_matches('"')
                .starts_with(|c: char| c.is_ascii_digit() || c == '.' || c == '-')
        })
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
    let columns: Vec<String> = (0..count)
        .map(|i| {
            headings
                .get(i)
                .filter(|h| !h.is_empty())
                .cloned()
                .unwrap_or_else(|| format!("column {}", i + 1))
        })
        .collect();
    let cells: Vec<(usize, Vec<&str>)> =
        lines.iter().map(|&(row, line)| (row, dialect.cells(line))).collect();
    let picked = pick_columns(&columns, !headings.is_empty(), &cells, &dialect, chosen)?;
    if count > 2 {
        let ignored: Vec<&str> = (0..count)
            .filter(|i| *i != picked.0 && *i != picked.1)
            .map(|i| columns[i].as_str())
            .collect();
        understood.push(format!(
            "\"{}\" as wavelength and \"{}\" as value; not read: {}",
            columns[picked.0],
            columns[picked.1],
            ignored.join(", ")
        ));
        // What names a unit for one column says nothing of the others.
        header = (!headings.is_empty())
            .then(|| format!("{} {}", columns[picked.0], columns[picked.1]).to_lowercase());
    }
    let declared_unit =
        declared_units.iter().find(|(name, _)| *name == columns[picked.0]).or_else(|| {
            // An ECSV header names its columns by itself.
            declared_units.iter().find(|(name, _)| is_wavelength(name))
        });
    let declared_unit = declared_unit.map(|(_, unit)| unit.clone());
    let (mut points, per_cent_sign) = points_of(&cells, picked, &dialect)?;
    let mut mended = Vec::new();
    sort(&mut points, &mut mended)?;
    let per_nm =
        wavelength_unit(&points, header.as_deref(), declared_unit.as_deref(), &mut understood)?;
    let scale = value_scale(&points, header.as_deref(), per_cent_sign, &mut understood)?;
    let curve = Curve(
        points.iter().map(|&(_, w, v)| [round(w * per_nm), round((v * scale).max(0.0))]).collect(),
    );
    understood.push(format!(
        "{} rows from {} to {} nm",
        points.len(),
        round(points[0].1 * per_nm),
        round(points[points.len() - 1].1 * per_nm)
    ));
    curve.check().map_err(|e| CurveReadError::Curve(e.to_string()))?;
    Ok(CurveReading {
        curve,
        understood,
        mended,
        columns,
        wavelength_column: picked.0,
        value_column: picked.1,
    })
}

/// Row of the text, wavelength, value.
type Point = (usize, f64, f64);

/// Row, wavelength and value of every row, as they stand there; and whether a value had a per cent
/// sign.
fn points_of(
    rows: &[(usize, Vec<&str>)],
    (wavelength, value): (usize, usize),
    dialect: &Dialect,
) -> Result<(Vec<Point>, bool), CurveReadError> {
    let mut points = Vec::with_capacity(rows.len());
    let mut per_cent_sign = false;
    for (row, cells) in rows {
        let row = *row;
        let cell =
            |column: usize| cells.get(column).copied().ok_or(CurveReadError::OneColumn { row });
        let number = |cell: &str| {
            dialect
                .number(cell)
                .ok_or_else(|| CurveReadError::NotANumber { row, cell: cell.to_owned() })
        };
        let (w, v) = (cell(wavelength)?, cell(value)?);
        per_cent_sign |= v.ends_with('%');
        points.push((row, number(w)?, number(v)?));
    }
    Ok((points, per_cent_sign))
}

/// Name and unit of a column in an ECSV header line such as `- {name: wavelength, unit: nm,
/// datatype: float64}`.
fn ecsv_unit(comment: &str) -> Option<(String, String)> {
    let entry = comment.trim().strip_prefix("- {")?.strip_suffix('}')?;
    let of = |key: &str| {
        entry.split(',').find_map(|kv| kv.trim().strip_prefix(key)).map(|v| v.trim().to_owned())
    };
    Some((of("name:")?, of("unit:")?))
}

/// Writes curves as ECSV (version 1.0), which `astropy.table.Table.read` reads with its unit: a row
/// at every wavelength at which one of them has a point, the others read between theirs.
pub fn write_ecsv(name: &str, curves: &[(&str, &Curve)]) -> String {
    let mut text =
        "# %ECSV 1.0\n# ---\n# datatype:\n# - {name: wavelength, unit: nm, datatype: float64}\n"
            .to_owned();
    for (label, _) in curves {
        text += &format!("# - {{name: {label}, datatype: float64}}\n");
    }
    text += &format!(
        "# meta: !!omap\n# - {{name: {}}}\n# schema: astropy-2.0\n",
        crate::safe::yaml(name)
    );
    let labels: Vec<&str> = curves.iter().map(|c| c.0).collect();
    text += &format!("wavelength {}\n", labels.join(" "));
    let mut wavelengths: Vec<f64> =
        curves.iter().flat_map(|(_, c)| c.0.iter().map(|p| p[0])).collect();
    wavelengths.sort_by(f64::total_cmp);
    wavelengths.dedup();
    for nm in wavelengths {
        let values: Vec<String> = curves.iter().map(|(_, c)| round(c.at(nm)).to_string()).collect();
        text += &format!("{nm} {}\n", values.join(" "));
    }
    text
}

#[cfg(test)]
#[path = "curve_tests.rs"]
mod tests;
