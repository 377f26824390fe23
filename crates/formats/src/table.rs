//! Tables as CSV, ECSV (with units, for astropy) and Markdown.

use salt_lamp_core::report::{Cell, Column, Matrix};

use crate::safe;

/// How a table is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum TableFormat {
    /// Comma-separated values (RFC 4180).
    Csv,
    /// Enhanced CSV 1.0.
    Ecsv,
    /// A Markdown table.
    Markdown,
}

fn number(x: f64) -> String {
    let digits = (6 - x.abs().max(1e-9).log10().floor() as i32).clamp(0, 9) as usize;
    let text = format!("{x:.digits$}");
    if text.contains('.') {
        text.trim_end_matches('0').trim_end_matches('.').to_owned()
    } else {
        text
    }
}

/// Writes a table.
pub fn write_table(table: &Matrix, format: TableFormat) -> String {
    match format {
        TableFormat::Csv => {
            let head: Vec<&str> = table.columns.iter().map(|c| c.key.as_str()).collect();
            let mut out = head.join(",") + "\r\n";
            for row in &table.rows {
                let cells: Vec<String> =
                    row.iter().map(|c| cell(c, &safe::csv_quoted, "")).collect();
                out += &(cells.join(",") + "\r\n");
            }
            out
        }
        TableFormat::Ecsv => {
            let mut out = "# %ECSV 1.0\n# ---\n# delimiter: ','\n# datatype:\n".to_owned();
            for c in &table.columns {
                let unit = c.unit.map_or(String::new(), |u| format!("unit: {u}, "));
                let kind = if c.is_text { "string" } else { "float64" };
                out += &format!(
                    "# - {{name: {}, {unit}datatype: {kind}, description: {}}}\n",
                    c.key,
                    safe::yaml(&heading(c))
                );
            }
            out += &format!(
                "# meta: !!omap\n# - {{title: {}}}\n# schema: astropy-2.0\n",
                safe::yaml(&table.title)
            );
            let head: Vec<&str> = table.columns.iter().map(|c| c.key.as_str()).collect();
            out += &(head.join(",") + "\n");
            for row in &table.rows {
                let cells: Vec<String> =
                    row.iter().map(|c| cell(c, &safe::ecsv_quoted, "nan")).collect();
                out += &(cells.join(",") + "\n");
            }
            out
        }
        TableFormat::Markdown => {
            let head: Vec<String> = table
                .columns
                .iter()
                .map(|c| c.unit.map_or(heading(c), |u| format!("{} ({u})", heading(c))))
                .map(|h| safe::markdown(&h))
                .collect();
            let rule: Vec<&str> =
                table.columns.iter().map(|c| if c.is_text { ":--" } else { "--:" }).collect();
            let mut out = format!("| {} |\n| {} |\n", head.join(" | "), rule.join(" | "));
            for row in &table.rows {
                let short = |c: &Cell| match c {
                    Cell::Number(x) => rounded(*x),
                    other => cell(other, &safe::markdown, "–"),
                };
                out += &format!("| {} |\n", row.iter().map(short).collect::<Vec<_>>().join(" | "));
            }
            out
        }
    }
}

fn heading(c: &Column) -> String {
    if c.group.is_empty() { c.label.clone() } else { format!("{} {}", c.group, c.label) }
}

/// Three figures, as a person reads them.
fn rounded(x: f64) -> String {
    let digits = (2 - x.abs().max(1e-3).log10().floor() as i32).clamp(0, 4) as usize;
    format!("{x:.digits$}")
}

fn cell(c: &Cell, text: &dyn Fn(&str) -> String, none: &str) -> String {
    match c {
        Cell::Text(t) => text(t),
        Cell::Number(x) => number(*x),
        Cell::None => none.to_owned(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn table() -> Matrix {
        let column = |key: &str, unit, is_text| Column {
            key: key.into(),
            group: String::new(),
            label: key.into(),
            unit,
            is_text,
        };
        Matrix {
            title: "A \"test\"".into(),
            columns: vec![column("name", None, true), column("time_h", Some("h"), false)],
            rows: vec![
                vec![Cell::Text("=SUM(1), \"x\" | y".into()), Cell::Number(1234.5678)],
                vec![Cell::Text("b".into()), Cell::None],
            ],
        }
    }

    #[test]
    fn text_is_quoted_and_no_formula() {
        let csv = write_table(&table(), TableFormat::Csv);
        assert_eq!(csv, "name,time_h\r\n\"'=SUM(1), \"\"x\"\" | y\",1234.568\r\nb,\r\n");
    }

    #[test]
    fn markdown_escapes_its_bars() {
        let md = write_table(&table(), TableFormat::Markdown);
        assert!(
            md.contains("| time\\_h (h) |")
                && md.contains("\\| y | 1235 |")
                && md.contains("| b | – |"),
            "{md}"
        );
    }

    #[test]
    fn numbers_keep_their_figures() {
        assert_eq!(number(0.000123456), "0.000123456");
        assert_eq!(number(12.0), "12");
        assert_eq!(number(100.0), "100");
        assert_eq!(number(0.0), "0");
    }
}
