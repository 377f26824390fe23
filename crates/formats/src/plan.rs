//! A night's plan as iCalendar (RFC 5545), CSV and JSON.

use chrono::{DateTime, Utc};
use icalendar::{Alarm, Calendar, Component, Event, EventLike};
use salt_lamp_core::night::{Block, Plan, PlanTotal};
use serde::Serialize;
use utoipa::ToSchema;

/// The published plan document.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct PlanDocument {
    /// Always `salt-lamp-plan`.
    pub format: &'static str,
    /// Always 1.
    pub version: u32,
    /// The target.
    pub target: String,
    /// Right ascension and declination, degrees, ICRS.
    pub ra_deg: f64,
    /// Declination, degrees, ICRS.
    pub dec_deg: f64,
    /// The same in hours and degrees with minutes and seconds.
    pub coordinates: String,
    /// The site.
    pub site: String,
    /// IANA time zone.
    pub zone: String,
    /// Evening's date.
    pub date: String,
    /// Be ready to set up from here, RFC 3339 in UTC; null for an empty plan.
    pub setup_from: Option<String>,
    /// The night is over, RFC 3339 in UTC.
    pub finished: Option<String>,
    /// The blocks.
    pub blocks: Vec<PlanBlock>,
    /// What each exposure gets.
    pub totals: Vec<PlanTotal>,
    /// What does not fit.
    pub notes: Vec<String>,
}

/// One block of the document.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct PlanBlock {
    /// Filter.
    pub filter: String,
    /// Start, RFC 3339 in UTC.
    pub from: String,
    /// End, RFC 3339 in UTC.
    pub to: String,
    /// Whole subs.
    pub subs: u32,
    /// Length of a sub, s.
    pub sub_s: f64,
    /// Refocuses.
    pub refocuses: u32,
    /// Meridian flip, RFC 3339 in UTC; null for none.
    pub flip: Option<String>,
    /// Why it stands there.
    pub why: String,
}

/// What the files say besides the plan.
#[derive(Clone, Debug)]
pub struct PlanHead {
    /// The target.
    pub target: String,
    /// Right ascension, degrees.
    pub ra_deg: f64,
    /// Declination, degrees.
    pub dec_deg: f64,
    /// Sexagesimal.
    pub coordinates: String,
    /// The site.
    pub site: String,
    /// IANA time zone.
    pub zone: String,
    /// Evening's date.
    pub date: String,
}

/// The JSON Schema (draft 2020-12) of the plan document.
pub fn plan_json_schema() -> serde_json::Value {
    crate::scenario::json_schema::<PlanDocument>("salt-lamp-plan")
}

fn utc(unix_s: f64) -> DateTime<Utc> {
    DateTime::from_timestamp(unix_s.round() as i64, 0).unwrap_or_default()
}

fn rfc3339(unix_s: f64) -> String {
    utc(unix_s).format("%Y-%m-%dT%H:%M:%SZ").to_string()
}

/// The plan as the published document.
pub fn plan_document(head: &PlanHead, plan: &Plan) -> PlanDocument {
    let block = |b: &Block| PlanBlock {
        filter: b.filter.clone(),
        from: rfc3339(b.from_s),
        to: rfc3339(b.to_s),
        subs: b.subs,
        sub_s: b.sub_s,
        refocuses: b.refocuses,
        flip: b.flip_s.map(rfc3339),
        why: b.why.clone(),
    };
    PlanDocument {
        format: "salt-lamp-plan",
        version: 1,
        target: head.target.clone(),
        ra_deg: head.ra_deg,
        dec_deg: head.dec_deg,
        coordinates: head.coordinates.clone(),
        site: head.site.clone(),
        zone: head.zone.clone(),
        date: head.date.clone(),
        setup_from: plan.setup_from_s.map(rfc3339),
        finished: plan.finished_s.map(rfc3339),
        blocks: plan.blocks.iter().map(block).collect(),
        totals: plan.totals.clone(),
        notes: plan.notes.clone(),
    }
}

/// The plan as CSV, a row a block, times in UTC.
pub fn plan_csv(plan: &Plan) -> String {
    let mut out = "from_utc,to_utc,filter,subs,sub_s,refocuses,flip_utc,why\r\n".to_owned();
    let mut writer = csv::WriterBuilder::new().terminator(csv::Terminator::CRLF).from_writer(Vec::new());
    for b in &plan.blocks {
        let flip = b.flip_s.map(rfc3339).unwrap_or_default();
        let row = [
            rfc3339(b.from_s),
            rfc3339(b.to_s),
            b.filter.clone(),
            b.subs.to_string(),
            b.sub_s.to_string(),
            b.refocuses.to_string(),
            flip,
            b.why.clone(),
        ];
        // Writing to memory does not fail.
        let _ = writer.write_record(&row);
    }
    out += &String::from_utf8(writer.into_inner().unwrap_or_default()).unwrap_or_default();
    out
}

/// The plan as iCalendar: set-up, every block and flats as events, with alarms at the start, at the flip and at the end.
pub fn plan_ics(head: &PlanHead, plan: &Plan) -> String {
    let mut calendar = Calendar::new();
    calendar.name(&format!("{} from {}", head.target, head.site));
    let event = |name: &str, from: f64, to: f64, text: &str, alarm: Option<&str>| {
        let mut e = Event::new();
        e.summary(name).description(text).location(&head.site).starts(utc(from)).ends(utc(to));
        // The same plan gives the same identity: importing it again replaces it.
        e.uid(&format!("{}-{from:.0}-{}@salt-lamp", head.date, name.len()));
        if let Some(words) = alarm {
            e.alarm(Alarm::display(words, -chrono::Duration::minutes(5)));
        }
        e.done()
    };
    let place = format!("{} at {}", head.target, head.coordinates);
    if let (Some(setup), Some(first)) = (plan.setup_from_s, plan.blocks.first()) {
        calendar.push(event("Set up", setup, first.from_s, &place, Some("Set up the telescope: the plan starts soon")));
    }
    for b in &plan.blocks {
        let text = format!("{} x {} s. {} {place}.", b.subs, b.sub_s, b.why);
        calendar.push(event(&format!("{}: {} x {} s", b.filter, b.subs, b.sub_s), b.from_s, b.to_s, &text, None));
        if let Some(flip) = b.flip_s {
            calendar.push(event("Meridian flip", flip, flip + 300.0, &place, Some("Meridian flip: stay near the mount")));
        }
    }
    if let (Some(last), Some(finished)) = (plan.last_sub_s, plan.finished_s) {
        calendar.push(event("Flats and end", last, finished.max(last + 60.0), &place, Some("The last sub ends: flats, then pack up")));
    }
    calendar.done().to_string()
}
