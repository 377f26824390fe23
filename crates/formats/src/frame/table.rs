//! Measured frames as a table: a line a channel.

use salt_lamp_core::frame::FrameMeasured;

use crate::safe;

/// Columns of the table, in order; units stand in the names.
const COLUMNS: [&str; 24] = [
    "file",
    "type",
    "start",
    "exposure_s",
    "filter",
    "gain",
    "channel",
    "level_adu",
    "sigma_adu",
    "min_adu",
    "max_adu",
    "clipped_share",
    "zero_share",
    "slope_percent",
    "slope_toward_deg",
    "stars",
    "stars_clipped",
    "hfr_px",
    "fwhm_px",
    "elongation",
    "elongation_toward_deg",
    "aperture_px",
    "background_e_per_s",
    "problems",
];

/// The table as CSV.
pub fn frame_table(frames: &[FrameMeasured]) -> String {
    let mut rows = vec![COLUMNS.map(str::to_owned).to_vec()];
    let number = |n: Option<f64>| n.map_or_else(String::new, |n| n.to_string());
    for f in frames {
        let h = &f.read.header;
        let kind = serde_json::to_value(h.kind).unwrap_or_default();
        for c in &f.channels {
            rows.push(vec![
                safe::csv(&f.file),
                kind.as_str().unwrap_or_default().to_owned(),
                h.start.clone().unwrap_or_default(),
                number(h.exposure_s),
                safe::csv(h.filter.as_deref().unwrap_or_default()),
                number(h.gain),
                c.channel.clone(),
                c.level_adu.to_string(),
                c.sigma_adu.to_string(),
                c.min_adu.to_string(),
                c.max_adu.to_string(),
                c.clipped_share.to_string(),
                c.zero_share.to_string(),
                c.slope_percent.to_string(),
                c.slope_toward_deg.to_string(),
                c.stars.to_string(),
                c.stars_clipped.to_string(),
                number(c.hfr_px),
                number(c.fwhm_px),
                number(c.elongation),
                number(c.elongation_toward_deg),
                c.aperture_px.to_string(),
                number(c.background_e_per_s),
                safe::csv(&f.problems.join(" ")),
            ]);
        }
    }
    let mut out = csv::WriterBuilder::new().from_writer(Vec::new());
    for row in &rows {
        if out.write_record(row).is_err() {
            break;
        }
    }
    String::from_utf8(out.into_inner().unwrap_or_default()).unwrap_or_default()
}
