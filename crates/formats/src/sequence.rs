//! A night's plan as the plain table that a person copies to whatever runs the camera: a row a
//! block, with all that must be set for it. CSV and JSON.

use salt_lamp_core::night::Plan;
use serde::Serialize;
use utoipa::ToSchema;

use crate::plan::{PlanHead, PlanTarget, rfc3339};
use crate::safe;

/// The published sequence document.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SequenceDocument {
    /// Always `salt-lamp-sequence`.
    pub format: &'static str,
    /// Always 1.
    #[schema(minimum = 1, maximum = 1)]
    pub version: u32,
    /// The site.
    pub site: String,
    /// IANA time zone.
    pub zone: String,
    /// Evening's date.
    pub date: String,
    /// A row a block, by their beginnings.
    pub rows: Vec<SequenceRow>,
}

/// One row of a sequence: what is set, and how many subs are taken so.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SequenceRow {
    /// Start, RFC 3339 in UTC.
    pub start: String,
    /// The target.
    pub target: String,
    /// Right ascension of the frame's middle, degrees, ICRS.
    #[schema(minimum = 0, maximum = 360)]
    pub ra_deg: f64,
    /// Declination of the frame's middle, degrees, ICRS.
    #[schema(minimum = -90, maximum = 90)]
    pub dec_deg: f64,
    /// The same in hours and degrees with minutes and seconds.
    pub coordinates: String,
    /// Position angle of the frame's up, degrees from north through east; null where none was
    /// chosen.
    pub position_angle_deg: Option<f64>,
    /// The light path.
    pub path: String,
    /// The filter.
    pub filter: String,
    /// Number of its slot in the wheel or drawer; null where the kit does not say.
    pub slot: Option<u32>,
    /// Gain setting of the camera.
    pub gain: f64,
    /// Pixels of the sensor that are read as one, along a side.
    #[schema(minimum = 1)]
    pub binning: u32,
    /// Length of a sub, s.
    #[schema(minimum = 0.001, maximum = 7200.0)]
    pub sub_s: f64,
    /// How many subs.
    #[schema(minimum = 0)]
    pub count: u32,
    /// A dither after every so many subs.
    #[schema(minimum = 1)]
    pub dither_every: u32,
    /// Focus before the first sub.
    pub refocus_first: bool,
    /// Focus again every so many minutes; null for never.
    pub refocus_every_min: Option<f64>,
    /// When the mount flips within it, RFC 3339 in UTC; null for never.
    pub flip: Option<String>,
}

/// How one exposure is set.
#[derive(Clone, Debug)]
pub struct Setting {
    /// Number of the filter's slot.
    pub slot: Option<u32>,
    /// Binning.
    pub binning: u32,
}

/// A target of a night with its plan, and how its camera is set.
#[derive(Clone, Debug)]
pub struct SequencePart<'a> {
    /// What and where.
    pub target: PlanTarget,
    /// Position angle of the frame's up, degrees.
    pub position_angle_deg: Option<f64>,
    /// Its plan.
    pub plan: &'a Plan,
    /// The light path.
    pub path: String,
    /// Gain setting.
    pub gain: f64,
    /// How each exposure is set.
    pub settings: Vec<Setting>,
    /// A dither after every so many subs.
    pub dither_every: u32,
    /// Focus on every change of filter.
    pub refocus_on_change: bool,
    /// Focus every so many minutes; null for never.
    pub refocus_every_min: Option<f64>,
}

/// The JSON Schema (draft 2020-12) of the sequence document.
pub fn sequence_json_schema() -> serde_json::Value {
    crate::scenario::json_schema::<SequenceDocument>("salt-lamp-sequence")
}

/// The plans of a night as one table, a row a block.
pub fn sequence(head: &PlanHead, parts: &[SequencePart]) -> SequenceDocument {
    let mut rows: Vec<(f64, SequenceRow)> = Vec::new();
    for p in parts {
        for b in &p.plan.blocks {
            let set = p.settings.get(b.exposure);
            let row = SequenceRow {
                start: rfc3339(b.from_s),
                target: p.target.target.clone(),
                ra_deg: p.target.ra_deg,
                dec_deg: p.target.dec_deg,
                coordinates: p.target.coordinates.clone(),
                position_angle_deg: p.position_angle_deg,
                path: p.path.clone(),
                filter: b.filter.clone(),
                slot: set.and_then(|s| s.slot),
                gain: p.gain,
                binning: set.map_or(1, |s| s.binning),
                sub_s: b.sub_s,
                count: b.subs,
                dither_every: p.dither_every,
                refocus_first: p.refocus_on_change,
                refocus_every_min: p.refocus_every_min,
                flip: b.flip_s.map(rfc3339),
            };
            rows.push((b.from_s, row));
        }
    }
    rows.sort_by(|a, b| a.0.total_cmp(&b.0));
    SequenceDocument {
        format: "salt-lamp-sequence",
        version: 1,
        site: head.site.clone(),
        zone: head.zone.clone(),
        date: head.date.clone(),
        rows: rows.into_iter().map(|r| r.1).collect(),
    }
}

const CSV_HEAD: &str = "start_utc,target,ra_deg,dec_deg,coordinates,position_angle_deg,path,filter,\
    slot,gain,binning,sub_s,count,dither_every_subs,refocus_first,refocus_every_min,flip_utc";

/// The sequence as CSV: bare numbers with their units in the headings; what is not known is empty.
pub fn sequence_csv(s: &SequenceDocument) -> String {
    let number = |n: Option<f64>| n.map_or(String::new(), |n| n.to_string());
    let mut out = format!("{CSV_HEAD}\r\n");
    for r in &s.rows {
        let row = [
            r.start.clone(),
            safe::csv_quoted(&r.target),
            format!("{:.6}", r.ra_deg),
            format!("{:.6}", r.dec_deg),
            safe::csv_quoted(&r.coordinates),
            number(r.position_angle_deg),
            safe::csv_quoted(&r.path),
            safe::csv_quoted(&r.filter),
            r.slot.map_or(String::new(), |n| n.to_string()),
            r.gain.to_string(),
            r.binning.to_string(),
            r.sub_s.to_string(),
            r.count.to_string(),
            r.dither_every.to_string(),
            if r.refocus_first { "yes" } else { "no" }.to_owned(),
            number(r.refocus_every_min),
            r.flip.clone().unwrap_or_default(),
        ];
        out += &(row.join(",") + "\r\n");
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use salt_lamp_core::night::Block;
    use std::collections::BTreeMap;

    fn block(exposure: usize, filter: &str, from_s: f64) -> Block {
        Block {
            exposure,
            filter: filter.into(),
            from_s,
            to_s: from_s + 3600.0,
            subs: 11,
            sub_s: 300.0,
            refocuses: 1,
            flip_s: (exposure == 1).then_some(from_s + 900.0),
            snr2: 4.0,
            lines_snr2: BTreeMap::new(),
            locked: false,
            why: String::new(),
        }
    }

    fn part<'a>(name: &str, plan: &'a Plan) -> SequencePart<'a> {
        let coordinates = "06h 17m 00.0s +22\u{b0} 34\u{2032} 12\u{2033}".to_owned();
        let target = PlanTarget { target: name.into(), ra_deg: 94.25, dec_deg: 22.57, coordinates };
        SequencePart {
            target,
            position_angle_deg: Some(12.5),
            plan,
            path: "mono, three lines".into(),
            gain: 100.0,
            settings: vec![
                Setting { slot: Some(4), binning: 1 },
                Setting { slot: None, binning: 2 },
            ],
            dither_every: 2,
            refocus_on_change: true,
            refocus_every_min: None,
        }
    }

    fn head() -> PlanHead {
        PlanHead { site: "s".into(), zone: "UTC".into(), date: "2027-01-28".into() }
    }

    #[test]
    fn rows_stand_by_their_beginnings_with_all_that_is_set() {
        let first = Plan { blocks: vec![block(0, "H-alpha", 1.8e9)], ..Plan::default() };
        let before = Plan { blocks: vec![block(1, "[O III]", 1.8e9 - 7200.0)], ..Plan::default() };
        let s = sequence(&head(), &[part("IC 443", &first), part("NGC 2403", &before)]);
        let told: Vec<_> =
            s.rows.iter().map(|r| (r.target.as_str(), r.slot, r.binning, r.count)).collect();
        assert_eq!(told, [("NGC 2403", None, 2, 11), ("IC 443", Some(4), 1, 11)]);
        let csv = sequence_csv(&s);
        let lines: Vec<&str> = csv.split("\r\n").collect();
        assert_eq!(lines[0].split(',').count(), 17);
        assert_eq!(
            lines[2],
            "2027-01-15T08:00:00Z,\"IC 443\",94.250000,22.570000,\"06h 17m 00.0s +22\u{b0} 34\u{2032} \
             12\u{2033}\",12.5,\"mono, three lines\",H-alpha,4,100,1,300,11,2,yes,,"
        );
        assert!(lines[1].ends_with(",,100,2,300,11,2,yes,,2027-01-15T06:15:00Z"), "{}", lines[1]);
    }

    #[test]
    fn the_document_keeps_its_schema() {
        let plan = Plan { blocks: vec![block(0, "H-alpha", 1.8e9)], ..Plan::default() };
        let document = serde_json::to_value(sequence(&head(), &[part("IC 443", &plan)])).unwrap();
        let schema = jsonschema::validator_for(&sequence_json_schema()).expect("a schema");
        assert!(schema.is_valid(&document), "{document}");
        let mut spoilt = document;
        spoilt["rows"][0]["count"] = serde_json::json!("many");
        assert!(!schema.is_valid(&spoilt));
    }
}
