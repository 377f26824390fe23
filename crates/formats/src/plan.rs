//! A night's plan as iCalendar (RFC 5545), CSV and JSON.

use std::collections::BTreeMap;

use chrono::{DateTime, Utc};
use icalendar::{Alarm, Calendar, Component, Event, EventLike};
use salt_lamp_core::night::{Block, Plan, PlanTotal};
use serde::Serialize;
use utoipa::ToSchema;

use crate::safe;

/// Who wrote a calendar (RFC 5545, 3.7.3).
pub(crate) const PRODID: &str = "-//Salt Lamp//Night plan 1//EN";

/// The published plan document.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct PlanDocument {
    /// Always `salt-lamp-plan`.
    pub format: &'static str,
    /// Always 1.
    #[schema(minimum = 1, maximum = 1)]
    pub version: u32,
    /// The target.
    pub target: String,
    /// Right ascension and declination, degrees, ICRS.
    #[schema(minimum = 0, maximum = 360)]
    pub ra_deg: f64,
    /// Declination, degrees, ICRS.
    #[schema(minimum = -90, maximum = 90)]
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
    /// The blocks of all targets, in their order.
    pub blocks: Vec<PlanBlock>,
    /// What each exposure gets of the first target.
    pub totals: Vec<PlanTotal>,
    /// What does not fit.
    pub notes: Vec<String>,
    /// How long a meridian flip with recentring takes, s.
    #[schema(minimum = 0.0, maximum = 3600.0)]
    pub flip_lasts_s: f64,
    /// The second target of the night; null for none.
    pub second: Option<SecondPlan>,
    /// Its third target and those after it.
    pub further: Vec<SecondPlan>,
}

/// A further target of a plan.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SecondPlan {
    /// What it is and where.
    #[serde(flatten)]
    pub target: PlanTarget,
    /// What each exposure gets of it.
    pub totals: Vec<PlanTotal>,
    /// What does not fit.
    pub notes: Vec<String>,
}

/// A target of a plan.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct PlanTarget {
    /// Its name.
    pub target: String,
    /// Right ascension, degrees, ICRS.
    #[schema(minimum = 0, maximum = 360)]
    pub ra_deg: f64,
    /// Declination, degrees, ICRS.
    #[schema(minimum = -90, maximum = 90)]
    pub dec_deg: f64,
    /// The same in hours and degrees with minutes and seconds.
    pub coordinates: String,
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
    #[schema(minimum = 0)]
    pub subs: u32,
    /// Length of a sub, s.
    #[schema(minimum = 0.001, maximum = 7200.0)]
    pub sub_s: f64,
    /// Refocuses.
    #[schema(minimum = 0)]
    pub refocuses: u32,
    /// Meridian flip, RFC 3339 in UTC; null for none.
    pub flip: Option<String>,
    /// Why it stands there.
    pub why: String,
    /// Whose block it is.
    pub target: String,
}

/// What the files say besides the plans.
#[derive(Clone, Debug)]
pub struct PlanHead {
    /// The site.
    pub site: String,
    /// IANA time zone.
    pub zone: String,
    /// Evening's date.
    pub date: String,
}

/// The targets of a night in their order, each with its plan.
pub type PlanParts<'a> = [(PlanTarget, &'a Plan)];

/// The JSON Schema (draft 2020-12) of the plan document.
pub fn plan_json_schema() -> serde_json::Value {
    crate::scenario::json_schema::<PlanDocument>("salt-lamp-plan")
}

/// A moment to the second. Times of a night lie between 1980 and 2091: they have a date.
pub(crate) fn utc(unix_s: f64) -> DateTime<Utc> {
    DateTime::from_timestamp(unix_s.round() as i64, 0).unwrap_or(DateTime::UNIX_EPOCH)
}

/// A time, seconds since 1970 UTC, as RFC 3339 to the second.
pub fn rfc3339(unix_s: f64) -> String {
    utc(unix_s).format("%Y-%m-%dT%H:%M:%SZ").to_string()
}

/// The blocks of all targets by their beginnings.
fn in_time<'a>(parts: &'a PlanParts) -> Vec<(&'a PlanTarget, &'a Block)> {
    let mut all: Vec<(&PlanTarget, &Block)> =
        parts.iter().flat_map(|(t, p)| p.blocks.iter().map(move |b| (t, b))).collect();
    all.sort_by(|a, b| a.1.from_s.total_cmp(&b.1.from_s));
    all
}

/// The plan as the published document.
///
/// # Panics
/// Where there is no target at all.
pub fn plan_document(head: &PlanHead, parts: &PlanParts) -> PlanDocument {
    let block = |target: &PlanTarget, b: &Block| PlanBlock {
        filter: b.filter.clone(),
        from: rfc3339(b.from_s),
        to: rfc3339(b.to_s),
        subs: b.subs,
        sub_s: b.sub_s,
        refocuses: b.refocuses,
        flip: b.flip_s.map(rfc3339),
        why: b.why.clone(),
        target: target.target.clone(),
    };
    let further = |(t, p): &(PlanTarget, &Plan)| SecondPlan {
        target: t.clone(),
        totals: p.totals.clone(),
        notes: p.notes.clone(),
    };
    let ends = || parts.iter().map(|(_, p)| p);
    let (first, plan) = &parts[0];
    PlanDocument {
        format: "salt-lamp-plan",
        version: 1,
        target: first.target.clone(),
        ra_deg: first.ra_deg,
        dec_deg: first.dec_deg,
        coordinates: first.coordinates.clone(),
        site: head.site.clone(),
        zone: head.zone.clone(),
        date: head.date.clone(),
        setup_from: ends().filter_map(|p| p.setup_from_s).reduce(f64::min).map(rfc3339),
        finished: ends().filter_map(|p| p.finished_s).reduce(f64::max).map(rfc3339),
        blocks: in_time(parts).into_iter().map(|(t, b)| block(t, b)).collect(),
        totals: plan.totals.clone(),
        notes: plan.notes.clone(),
        flip_lasts_s: plan.flip_lasts_s,
        second: parts.get(1).map(further),
        further: parts.iter().skip(2).map(further).collect(),
    }
}

const CSV_HEAD: &str = "target,ra_deg,dec_deg,coordinates,filter,from_utc,to_utc,subs,sub_s,\
    refocuses,flip_utc,site,zone,why";

/// The plan as CSV, a row a block: bare numbers with their units in the headings, times in UTC with
/// their zone.
pub fn plan_csv(head: &PlanHead, parts: &PlanParts) -> String {
    let mut out = format!("{CSV_HEAD}\r\n");
    for (target, b) in in_time(parts) {
        let row = [
            safe::csv_quoted(&target.target),
            format!("{:.6}", target.ra_deg),
            format!("{:.6}", target.dec_deg),
            safe::csv_quoted(&target.coordinates),
            safe::csv_quoted(&b.filter),
            rfc3339(b.from_s),
            rfc3339(b.to_s),
            b.subs.to_string(),
            b.sub_s.to_string(),
            b.refocuses.to_string(),
            b.flip_s.map_or(String::new(), rfc3339),
            safe::csv_quoted(&head.site),
            safe::csv_quoted(&head.zone),
            safe::csv_quoted(&b.why),
        ];
        out += &(row.join(",") + "\r\n");
    }
    out
}

/// The plan as iCalendar: set-up, every block, the move to a second target, and flats as events,
/// with alarms at the start, at a flip, at a move and at the end.
pub fn plan_ics(head: &PlanHead, parts: &PlanParts) -> String {
    let mut calendar = Calendar::empty();
    for (key, value) in [("VERSION", "2.0"), ("PRODID", PRODID), ("CALSCALE", "GREGORIAN")] {
        calendar.append_property((key, value));
    }
    let names: Vec<String> = parts
        .iter()
        .filter(|(_, p)| !p.blocks.is_empty())
        .map(|(t, _)| safe::one_line(&t.target))
        .collect();
    calendar.name(&format!("{} from {}", names.join(", then "), safe::one_line(&head.site)));
    let location = safe::one_line(&head.site);
    // Target, evening and running number: the plan of the same evening, made anew, replaces the one
    // that was imported before.
    let mut numbers: BTreeMap<String, u32> = BTreeMap::new();
    let mut event =
        |target: &PlanTarget, name: &str, from: f64, to: f64, text: &str, alarm: Option<&str>| {
            let key = format!("{}-{}", safe::slug(&target.target), safe::slug(&head.date));
            let number = numbers.entry(key.clone()).and_modify(|n| *n += 1).or_insert(1);
            let mut e = Event::new();
            e.summary(&safe::one_line(name))
                .description(&safe::one_line(text))
                .location(&location)
                .starts(utc(from))
                .ends(utc(to));
            e.uid(&format!("{key}-{number}@salt-lamp"));
            if let Some(words) = alarm {
                let mut alarm = Alarm::display(words, -chrono::Duration::minutes(5));
                alarm.uid(&format!("{key}-{number}-alarm@salt-lamp"));
                e.alarm(alarm);
            }
            e.done()
        };
    let mut before: Option<f64> = None;
    let begins = |p: &Plan| p.blocks.first().map_or(f64::INFINITY, |b| b.from_s);
    let mut by_time: Vec<&(PlanTarget, &Plan)> = parts.iter().collect();
    by_time.sort_by(|a, b| begins(a.1).total_cmp(&begins(b.1)));
    for (target, plan) in by_time {
        let place = format!("{} at {}", target.target, target.coordinates);
        let Some(first) = plan.blocks.first() else { continue };
        if let Some(setup) = plan.setup_from_s {
            calendar.push(event(
                target,
                "Set up",
                setup,
                first.from_s,
                &place,
                Some("Set up the telescope: the plan starts soon"),
            ));
        }
        // One that stands on a mount of its own is set up, not moved to.
        if let Some(last) = before.filter(|_| plan.setup_from_s.is_none()) {
            let name = format!("Move to {}", target.target);
            calendar.push(event(
                target,
                &name,
                last,
                first.from_s.max(last + 60.0),
                &place,
                Some("Move to the next target and centre it"),
            ));
        }
        for b in &plan.blocks {
            let text = format!("{} x {} s. {} {place}.", b.subs, b.sub_s, b.why);
            let own = if parts.len() > 1 { format!("{}, ", target.target) } else { String::new() };
            let title = format!("{own}{}: {} x {} s", b.filter, b.subs, b.sub_s);
            calendar.push(event(target, &title, b.from_s, b.to_s, &text, None));
            if let Some(flip) = b.flip_s {
                let end = flip + plan.flip_lasts_s.max(60.0);
                calendar.push(event(
                    target,
                    "Meridian flip",
                    flip,
                    end,
                    &place,
                    Some("Meridian flip: stay near the mount"),
                ));
            }
        }
        if let (Some(last), Some(finished)) = (plan.last_sub_s, plan.finished_s) {
            calendar.push(event(
                target,
                "Flats and end",
                last,
                finished.max(last + 60.0),
                &place,
                Some("The last sub ends: flats, then pack up"),
            ));
        }
        before = plan.last_sub_s;
    }
    calendar.done().to_string()
}

#[cfg(test)]
#[path = "plan_tests.rs"]
mod tests;
