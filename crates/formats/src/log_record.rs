//! A target's record as text to paste beside a picture, and as a table.

use salt_lamp_core::log::{RecordLine, TargetRecord};

use crate::safe;

/// Hours and minutes: "3 h 20 min".
fn clock(s: f64) -> String {
    let minutes = (s / 60.0).round() as u64;
    match (minutes / 60, minutes % 60) {
        (0, m) => format!("{m} min"),
        (h, 0) => format!("{h} h"),
        (h, m) => format!("{h} h {m} min"),
    }
}

fn seconds(s: Option<f64>) -> String {
    s.map_or_else(|| "? s".to_owned(), |s| format!("{s} s"))
}

/// "gain 100, -10 °C, moon 82 % lit, up for half of it".
fn circumstances(l: &RecordLine) -> String {
    let moon = l.moon.map(|m| {
        let up = match m.up_share {
            0.0 => "down".to_owned(),
            1.0 => "up".to_owned(),
            share => format!("up for {:.0} % of the frames", 100.0 * share),
        };
        format!("moon {:.0} % lit, {up}", m.lit_percent)
    });
    let all = [
        l.total.gain.map(|g| format!("gain {g}")),
        l.total.sensor_c.map(|c| format!("{c:.0} °C")),
        l.total.fwhm_arcsec.map(|f| format!("stars {f:.1}″")),
        moon,
    ];
    all.into_iter().flatten().collect::<Vec<_>>().join(", ")
}

/// The record as plain text, as one pastes it beside a picture.
pub fn record_text(r: &TargetRecord) -> String {
    let mut out = format!("{}: {} in all\n", r.object, clock(r.kept_s));
    for s in &r.sums {
        let filter = s.filter.as_deref().unwrap_or("No filter");
        let nights =
            if s.nights == 1 { "one night".to_owned() } else { format!("{} nights", s.nights) };
        out.push_str(&format!(
            "{filter}: {} × {} = {}, {nights}\n",
            s.kept,
            seconds(s.exposure_s),
            clock(s.kept_s)
        ));
    }
    let mut night = "";
    for l in &r.lines {
        if l.night != night {
            let camera =
                if l.camera.is_empty() { String::new() } else { format!(", {}", l.camera) };
            out.push_str(&format!("\n{}{camera}\n", l.night));
            night = &l.night;
        }
        let filter = l.total.filter.as_deref().unwrap_or("No filter");
        let told = circumstances(l);
        let told = if told.is_empty() { told } else { format!(" ({told})") };
        out.push_str(&format!(
            "  {filter}: {} of {} × {}{told}\n",
            l.total.kept,
            l.total.taken,
            seconds(l.total.exposure_s)
        ));
    }
    out
}

/// The record as comma-separated values, a line a night and filter. Free text is made safe against
/// spreadsheets.
pub fn record_csv(r: &TargetRecord) -> String {
    let names = [
        "night",
        "object",
        "camera",
        "filter",
        "exposure_s",
        "gain",
        "sensor_c",
        "taken",
        "kept",
        "kept_s",
        "worth_frames",
        "fwhm_arcsec",
        "moon_lit_percent",
        "moon_up_share",
    ];
    let mut out = names.join(",") + "\n";
    let number = |n: Option<f64>| n.map_or_else(String::new, |n| n.to_string());
    for l in &r.lines {
        let t = &l.total;
        let row = [
            l.night.clone(),
            safe::csv_quoted(&r.object),
            safe::csv_quoted(&l.camera),
            safe::csv_quoted(t.filter.as_deref().unwrap_or_default()),
            number(t.exposure_s),
            number(t.gain),
            number(t.sensor_c),
            t.taken.to_string(),
            t.kept.to_string(),
            t.kept_s.to_string(),
            t.worth.to_string(),
            number(t.fwhm_arcsec),
            number(l.moon.map(|m| m.lit_percent)),
            number(l.moon.map(|m| m.up_share)),
        ];
        out.push_str(&row.join(","));
        out.push('\n');
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use salt_lamp_core::log::{FilterTotal, MoonOver};

    fn record() -> TargetRecord {
        let line = |night: &str, filter: Option<&str>, kept: usize| RecordLine {
            night: night.to_owned(),
            camera: "Mono, 26 MP".to_owned(),
            moon: (kept > 15).then_some(MoonOver { lit_percent: 81.6, up_share: 0.5 }),
            total: FilterTotal {
                kind: None,
                object: None,
                filter: filter.map(str::to_owned),
                exposure_s: Some(300.0),
                gain: Some(100.0),
                taken: kept + 1,
                kept,
                kept_s: 300.0 * kept as f64,
                worth: 0.9 * kept as f64,
                fwhm_arcsec: Some(2.34),
                sensor_c: Some(-10.0),
            },
        };
        let lines = vec![
            line("2027-01-10", Some("=Ha"), 20),
            line("2027-01-10", None, 10),
            line("2027-01-12", Some("=Ha"), 6),
        ];
        TargetRecord::new("IC 443", lines)
    }

    #[test]
    fn the_text_says_dates_filters_subs_and_sums() {
        let expected = "IC 443: 3 h in all\n\
            =Ha: 26 × 300 s = 2 h 10 min, 2 nights\n\
            No filter: 10 × 300 s = 50 min, one night\n\
            \n2027-01-10, Mono, 26 MP\n\
            \x20 =Ha: 20 of 21 × 300 s (gain 100, -10 °C, stars 2.3″, moon 82 % lit, up for 50 % of \
            the frames)\n\
            \x20 No filter: 10 of 11 × 300 s (gain 100, -10 °C, stars 2.3″)\n\
            \n2027-01-12, Mono, 26 MP\n\
            \x20 =Ha: 6 of 7 × 300 s (gain 100, -10 °C, stars 2.3″)\n";
        assert_eq!(record_text(&record()), expected);
    }

    #[test]
    fn the_table_is_safe_to_open_and_reads_back() {
        let text = record_csv(&record());
        let rows: Vec<Vec<String>> = csv::Reader::from_reader(text.as_bytes())
            .records()
            .map(|r| r.expect("a row").iter().map(str::to_owned).collect())
            .collect();
        assert_eq!(rows.len(), 3);
        assert_eq!(rows[0][2], "Mono, 26 MP");
        assert_ne!(&rows[0][3][..1], "=", "a spreadsheet would compute it");
        assert_eq!([&rows[0][7], &rows[0][8], &rows[0][9]], ["21", "20", "6000"]);
        assert_eq!([&rows[1][12], &rows[1][13]], ["", ""]);
    }
}
