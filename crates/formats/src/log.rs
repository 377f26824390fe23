//! A night's frames as a table: a line a frame, units in the names or, in ECSV 1.0 (Astropy APE 6),
//! beside them.

use salt_lamp_core::frame::FrameMeasured;
use salt_lamp_core::log::FrameJudged;
use serde::Deserialize;

use crate::safe;

/// Which kind of table.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum LogTable {
    /// Comma-separated values.
    #[default]
    Csv,
    /// The same with units and types before them.
    Ecsv,
}

/// A frame of the table.
#[derive(Clone, Copy, Debug)]
pub struct LogLine<'a> {
    /// What was measured.
    pub measured: &'a FrameMeasured,
    /// What it was worth.
    pub judged: Option<&'a FrameJudged>,
    /// Whether it is kept.
    pub kept: bool,
    /// Why somebody kept it or put it aside.
    pub why: &'a str,
}

/// Columns: name, unit of ECSV, type of ECSV.
const COLUMNS: [(&str, &str, &str); 23] = [
    ("file", "", "string"),
    ("type", "", "string"),
    ("object", "", "string"),
    ("start_utc", "", "string"),
    ("filter", "", "string"),
    ("exposure_s", "s", "float64"),
    ("gain", "", "float64"),
    ("sensor_c", "deg_C", "float64"),
    ("background_adu", "adu", "float64"),
    ("background_e_per_s", "electron / s", "float64"),
    ("sigma_adu", "adu", "float64"),
    ("stars", "", "int64"),
    ("hfr_px", "pix", "float64"),
    ("fwhm_arcsec", "arcsec", "float64"),
    ("elongation", "", "float64"),
    ("transparency", "", "float64"),
    ("airmass", "", "float64"),
    ("guiding_arcsec", "arcsec", "float64"),
    ("shift_x_px", "pix", "float64"),
    ("shift_y_px", "pix", "float64"),
    ("turned_deg", "deg", "float64"),
    ("kept", "", "bool"),
    ("reasons", "", "string"),
];

/// The table. Free text is made safe against spreadsheets.
pub fn log_table(lines: &[LogLine], format: LogTable) -> String {
    let names: Vec<&str> = COLUMNS.iter().map(|(n, ..)| *n).collect();
    let mut out = String::new();
    if format == LogTable::Ecsv {
        out.push_str("# %ECSV 1.0\n# ---\n# delimiter: ','\n# datatype:\n");
        for (name, unit, kind) in COLUMNS {
            let unit = if unit.is_empty() { String::new() } else { format!(", unit: {unit}") };
            out.push_str(&format!("# - {{name: {name}{unit}, datatype: {kind}}}\n"));
        }
    }
    out.push_str(&names.join(","));
    out.push('\n');
    for line in lines {
        out.push_str(&row(line, format).join(","));
        out.push('\n');
    }
    out
}

fn row(l: &LogLine, format: LogTable) -> Vec<String> {
    let h = &l.measured.read.header;
    let text = |t: &str| match format {
        LogTable::Csv => safe::csv_quoted(t),
        LogTable::Ecsv => safe::ecsv_quoted(t),
    };
    let number = |n: Option<f64>| n.map_or_else(String::new, |n| n.to_string());
    let kind = serde_json::to_value(h.kind).ok();
    let kind = kind.as_ref().and_then(|k| k.as_str()).unwrap_or_default();
    let j = l.judged;
    let reasons: Vec<&str> = j.map_or_else(Vec::new, |j| {
        let of_rules = j.reasons.iter().map(|r| r.text.as_str());
        of_rules.chain(Some(l.why).filter(|w| !w.is_empty())).collect()
    });
    let kept = match (format, l.kept) {
        (LogTable::Csv, kept) => kept.to_string(),
        (LogTable::Ecsv, true) => "True".to_owned(),
        (LogTable::Ecsv, false) => "False".to_owned(),
    };
    vec![
        text(&l.measured.file),
        text(kind),
        text(h.object.as_deref().unwrap_or_default()),
        text(h.start.as_deref().unwrap_or_default()),
        text(h.filter.as_deref().unwrap_or_default()),
        number(h.exposure_s),
        number(h.gain),
        number(h.sensor_c),
        number(j.map(|j| j.background_adu)),
        number(j.and_then(|j| j.background_e_per_s)),
        number(j.map(|j| j.sigma_adu)),
        j.map_or_else(String::new, |j| j.stars.to_string()),
        number(j.and_then(|j| j.hfr_px)),
        number(j.and_then(|j| j.fwhm_arcsec)),
        number(j.and_then(|j| j.elongation)),
        number(j.and_then(|j| j.transparency)),
        number(j.and_then(|j| j.airmass)),
        number(j.and_then(|j| j.guiding_arcsec)),
        number(j.and_then(|j| Some(j.shift_px?[0]))),
        number(j.and_then(|j| Some(j.shift_px?[1]))),
        number(j.and_then(|j| j.turned_deg)),
        kept,
        text(&reasons.join(" ")),
    ]
}
