//! A trial's run sheet as CSV and iCalendar (RFC 5545), and its frames as CSV or ECSV 1.0 (Astropy APE
//! 6) with the columns of the fit.

use icalendar::{Calendar, CalendarDateTime, Component, Event, EventLike};
use salt_lamp_core::night::LocalClock;
use salt_lamp_core::trial::{Sheet, TrialSlot, TrialTable, letter};

use crate::log::LogTable;
use crate::plan::{PRODID, rfc3339, utc};
use crate::safe;

/// What a run sheet is of.
#[derive(Clone, Copy, Debug)]
pub struct SheetHead<'a> {
    /// The trial's title.
    pub title: &'a str,
    /// Its target.
    pub target: &'a str,
    /// Name of the site.
    pub site: &'a str,
    /// The evening, such as 2027-01-10.
    pub date: &'a str,
    /// What each kind is called.
    pub names: &'a [String],
    /// Frames of a slot.
    pub frames: u32,
    /// Local time.
    pub clock: &'a LocalClock,
}

impl SheetHead<'_> {
    fn name(&self, s: &TrialSlot) -> &str {
        self.names.get(s.kind).map_or("", String::as_str)
    }
}

/// A run sheet, a line a slot: when, which, how many frames, and what is done before it.
pub fn sheet_csv(head: &SheetHead, sheet: &Sheet) -> String {
    let mut out = "block,kind,name,from_local,from_utc,to_utc,frames,before\r\n".to_owned();
    for s in &sheet.slots {
        let before = if s.change { "change and focus" } else { "" };
        let row = [
            (s.block + 1).to_string(),
            letter(s.kind).to_string(),
            safe::csv_quoted(head.name(s)),
            head.clock.hm(s.from_s),
            rfc3339(s.from_s),
            rfc3339(s.to_s),
            head.frames.to_string(),
            safe::csv_quoted(before),
        ];
        out += &(row.join(",") + "\r\n");
    }
    out
}

/// The same as events of a calendar, one a slot.
pub fn sheet_ics(head: &SheetHead, sheet: &Sheet) -> String {
    let mut calendar = Calendar::empty();
    for (key, value) in [("VERSION", "2.0"), ("PRODID", PRODID), ("CALSCALE", "GREGORIAN")] {
        calendar.append_property((key, value));
    }
    calendar.name(&safe::one_line(head.title));
    for (i, s) in sheet.slots.iter().enumerate() {
        let kind = letter(s.kind);
        let what = format!("{kind}: {} x {}", head.frames, safe::one_line(head.name(s)));
        let before = if s.change { "Change and focus before it. " } else { "" };
        let text = format!("{before}Block {} of {}.", s.block + 1, safe::one_line(head.target));
        let mut e = Event::new();
        e.summary(&what)
            .description(&text)
            .location(&safe::one_line(head.site))
            .starts(CalendarDateTime::from(utc(s.from_s)))
            .ends(CalendarDateTime::from(utc(s.to_s)));
        e.uid(&format!(
            "trial-{}-{}-{}@salt-lamp",
            safe::slug(head.title),
            safe::slug(head.date),
            i + 1
        ));
        calendar.push(e.done());
    }
    calendar.to_string()
}

/// A trial's frames: what was measured, then the columns of the fit, whose logarithm of `measure` it
/// fits by least squares.
pub fn trial_table(t: &TrialTable, format: LogTable) -> String {
    let known = t.known.iter().map(|k| (*k).to_owned());
    let matrix = t.columns.iter().map(|c| format!("x_{c}"));
    let names: Vec<(String, &str)> = ["frame", "kind", "start_utc"]
        .map(|n| (n.to_owned(), "string"))
        .into_iter()
        .chain(std::iter::once(("measure".to_owned(), "float64")))
        .chain(known.chain(matrix).map(|n| (n, "float64")))
        .collect();
    let mut out = String::new();
    if format == LogTable::Ecsv {
        out.push_str("# %ECSV 1.0\n# ---\n# delimiter: ','\n# datatype:\n");
        for (name, kind) in &names {
            out.push_str(&format!("# - {{name: {name}, datatype: {kind}}}\n"));
        }
    }
    let heads: Vec<&str> = names.iter().map(|n| n.0.as_str()).collect();
    out.push_str(&(heads.join(",") + "\n"));
    for r in &t.rows {
        let text = match format {
            LogTable::Csv => safe::csv_quoted(&r.name),
            LogTable::Ecsv => safe::ecsv_quoted(&r.name),
        };
        let known = r.known.iter().map(|k| k.map_or_else(String::new, |v| v.to_string()));
        let line = r.line.iter().map(f64::to_string);
        let row: Vec<String> =
            [text, r.kind.to_string(), rfc3339(r.start_s), r.measure.to_string()]
                .into_iter()
                .chain(known)
                .chain(line)
                .collect();
        out.push_str(&(row.join(",") + "\n"));
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use salt_lamp_core::trial::TrialRow;

    #[test]
    fn a_sheet_says_when_and_which() {
        let slot = |block, kind, from_s, change| TrialSlot {
            block,
            kind,
            from_s,
            to_s: from_s + 180.0,
            change,
        };
        let sheet = Sheet {
            span_s: None,
            slots: vec![slot(0, 0, 1.8e9, true), slot(0, 1, 1.8e9 + 300.0, true)],
            pairs: 1,
            told: Vec::new(),
        };
        let clock = LocalClock(vec![(0.0, 3600.0)]);
        let names = ["H-alpha, 3 nm".to_owned(), "=cmd".to_owned()];
        let head = SheetHead {
            title: "Two\nfilters",
            target: "IC 443",
            site: "Larch Lane",
            date: "2027-01-15",
            names: &names,
            frames: 1,
            clock: &clock,
        };
        let csv = sheet_csv(&head, &sheet);
        let lines: Vec<&str> = csv.lines().collect();
        assert_eq!(
            lines[1],
            "1,A,\"H-alpha, 3 nm\",09:00,2027-01-15T08:00:00Z,2027-01-15T08:03:00Z,1,\"change and focus\""
        );
        assert!(lines[2].contains(",B,'=cmd,"), "{}", lines[2]);
        let ics = sheet_ics(&head, &sheet);
        assert_eq!(ics.matches("BEGIN:VEVENT").count(), 2);
        assert!(ics.contains("DTSTART:20270115T080000Z") && ics.contains("Two filters"), "{ics}");
    }

    #[test]
    fn a_table_holds_what_was_measured_and_the_fit_s_columns() {
        let t = TrialTable {
            known: vec!["airmass"],
            columns: vec!["one".into(), "B".into()],
            rows: vec![TrialRow {
                name: "a b.fits".into(),
                kind: 'B',
                start_s: 1.8e9,
                measure: 2.5,
                known: vec![None],
                line: vec![1.0, 1.0],
            }],
        };
        let csv = trial_table(&t, LogTable::Csv);
        assert_eq!(
            csv,
            "frame,kind,start_utc,measure,airmass,x_one,x_B\n\"a b.fits\",B,2027-01-15T08:00:00Z,2.5,,1,1\n"
        );
        let ecsv = trial_table(&t, LogTable::Ecsv);
        assert!(
            ecsv.starts_with("# %ECSV 1.0\n")
                && ecsv.contains("# - {name: x_B, datatype: float64}")
        );
    }
}
