//! A month or a year of nights for one target at one place: dark hours, moonless share, what each
//! filter gathers, the best dates.

use serde::Serialize;
use utoipa::ToSchema;

use crate::light::lines::Quantity;
use crate::night::ephemeris::{Direction, Ephemeris, EphemerisError, Place};
use crate::night::rate::{Moment, NightRig};
use crate::night::view::moment;
use crate::scenario::limits::NightLimits;
use crate::scenario::target::TargetKind;
use crate::workers::Workers;

/// Step within a night, s.
const STEP_S: f64 = 1200.0;

const DAY_S: f64 = 86_400.0;

/// Best dates that are named.
const NAMED: usize = 5;

/// One night of a calendar.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct CalendarNight {
    /// Its local noon, seconds since 1970 UTC.
    pub noon_s: f64,
    /// Hours dark enough.
    pub dark_h: f64,
    /// Of these, hours with the target above its limit.
    pub usable_h: f64,
    /// Of those, hours without a moon in the sky.
    pub moonless_h: f64,
    /// Share of the moon's disc that is lit, 0-1.
    pub moon_lit: f64,
    /// (Signal to noise)^2 that a whole night through each exposure gathers in what it is for.
    pub gathered: Vec<f64>,
    /// The same for every line that somebody wants of an exposure: see [`NightRig::lines`].
    #[serde(skip)]
    pub lines: Vec<Vec<f64>>,
}

/// The best nights of one exposure.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct BestDates {
    /// Index of the exposure.
    pub exposure: usize,
    /// What it is for.
    pub quantity: Option<Quantity>,
    /// Its name on this target.
    pub quantity_name: Option<&'static str>,
    /// Indices of the nights, best first, at most five.
    pub nights: Vec<usize>,
}

/// A span of nights.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct YearView {
    /// The nights in order.
    pub nights: Vec<CalendarNight>,
    /// The best of them for each exposure.
    pub best: Vec<BestDates>,
}

impl YearView {
    /// Proposes no night in the light of a line for what only reflects starlight; its nights
    /// themselves stay.
    pub fn proposed_for(mut self, kind: TargetKind) -> Self {
        if kind == TargetKind::ReflectionNebula {
            for b in self.best.iter_mut().filter(|b| b.quantity != Some(Quantity::Continuum)) {
                b.nights.clear();
            }
        }
        self
    }
}

/// Nights that share an ephemeris: tabling sun and moon is most of the work, and each of these
/// spans is a task of its own.
const NIGHTS_A_TASK: usize = 46;

/// Sees every night of a list of local noons; `workers` does the work.
///
/// # Errors
/// Where sun and moon cannot be placed.
pub fn year_view(
    place: Place,
    noons_s: &[f64],
    target: Direction,
    limits: &NightLimits,
    rig: Option<&NightRig>,
    workers: &impl Workers,
) -> Result<YearView, EphemerisError> {
    let spans: Vec<&[f64]> = noons_s.chunks(NIGHTS_A_TASK).collect();
    let seen = workers.each(spans.len(), &|i| {
        let (first, last) = (spans[i][0], spans[i][spans[i].len() - 1]);
        let e = Ephemeris::new(place, first, last + DAY_S)?;
        Ok(spans[i]
            .iter()
            .map(|&noon_s| seen_night(&e, noon_s, &target.vector(), limits, rig))
            .collect::<Vec<_>>())
    });
    let nights: Vec<CalendarNight> =
        seen.into_iter().collect::<Result<Vec<_>, _>>()?.into_iter().flatten().collect();
    let exposures = rig.map_or(0, NightRig::len);
    let best = (0..exposures)
        .map(|x| {
            let mut order: Vec<usize> =
                (0..nights.len()).filter(|&i| nights[i].gathered[x] > 0.0).collect();
            order.sort_by(|&a, &b| nights[b].gathered[x].total_cmp(&nights[a].gathered[x]));
            order.truncate(NAMED);
            let quantity = rig.and_then(|r| r.purpose(x));
            let quantity_name = rig.zip(quantity).map(|(r, q)| r.name_of(q));
            BestDates { exposure: x, quantity, quantity_name, nights: order }
        })
        .collect();
    Ok(YearView { nights, best })
}

/// One part of a night in which an hour is worth about the same: with the moon down, or up.
#[derive(Clone, Debug, PartialEq)]
pub struct NightPart {
    /// How long the target may be shot in it, h.
    pub hours: f64,
    /// (Signal to noise)^2 per hour of every line that somebody wants of an exposure, exposure by
    /// exposure: see [`NightRig::lines`].
    pub per_h: Vec<Vec<f64>>,
}

impl NightPart {
    /// (Signal to noise)^2 per hour of an exposure in what it is for; zero where it is for nothing.
    pub fn own_per_h(&self, exposure: usize) -> f64 {
        self.of_line(exposure, 0)
    }

    /// (Signal to noise)^2 per hour of one of an exposure's lines; zero where it has no such line.
    pub fn of_line(&self, exposure: usize, line: usize) -> f64 {
        self.per_h.get(exposure).and_then(|lines| lines.get(line)).copied().unwrap_or(0.0)
    }
}

/// A night of the weeks ahead, its dark part and its moonlit one apart.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct MonthNight {
    /// The parts that it has, at most two.
    pub parts: Vec<NightPart>,
}

/// Sees every night of a list of local noons in its parts.
///
/// # Errors
/// Where sun and moon cannot be placed.
pub fn month_view(
    place: Place,
    noons_s: &[f64],
    target: Direction,
    limits: &NightLimits,
    rig: &NightRig,
) -> Result<Vec<MonthNight>, EphemerisError> {
    let (Some(first), Some(last)) = (noons_s.first(), noons_s.last()) else {
        return Ok(Vec::new());
    };
    let e = Ephemeris::new(place, *first, last + DAY_S)?;
    let target = target.vector();
    let empty = || NightPart {
        hours: 0.0,
        per_h: (0..rig.len()).map(|x| vec![0.0; rig.lines(x).len()]).collect(),
    };
    let night = |noon_s: &f64| {
        let hours = limits.hours(*noon_s, noon_s + DAY_S);
        let mut parts = [empty(), empty()];
        for t in steps(*noon_s) {
            if e.altitude_deg(&e.sun(t), t) >= limits.sun_below_deg {
                continue;
            }
            let Some(m) = usable_moment(&e, &target, t, limits, hours) else { continue };
            let light = rig.light_at(&m);
            let part = &mut parts[usize::from(m.moon.altitude_deg > 0.0)];
            part.hours += STEP_S / 3600.0;
            for (x, sums) in part.per_h.iter_mut().enumerate() {
                let each = rig.lines_per_h(x, &light);
                sums.iter_mut().zip(each).for_each(|(s, per_h)| *s += STEP_S / 3600.0 * per_h);
            }
        }
        let parts = parts.into_iter().filter(|p| p.hours > 0.0).map(|mut p| {
            p.per_h.iter_mut().flatten().for_each(|s| *s /= p.hours);
            p
        });
        MonthNight { parts: parts.collect() }
    };
    Ok(noons_s.iter().map(night).collect())
}

/// The middles of a night's steps from its noon on.
fn steps(noon_s: f64) -> impl Iterator<Item = f64> {
    (0..(DAY_S / STEP_S) as usize).map(move |i| noon_s + (i as f64 + 0.5) * STEP_S)
}

/// The moment of a target at a time in the dark; `None` where it stands below its limit or the
/// clock's hours are over.
fn usable_moment(
    e: &Ephemeris,
    target: &[f64; 3],
    t: f64,
    limits: &NightLimits,
    (opens_s, closes_s): (f64, f64),
) -> Option<Moment> {
    let v = e.fixed(target, t);
    let altitude = e.altitude_deg(&v, t);
    let up =
        altitude > limits.altitude_above_deg && altitude > limits.horizon_at(e.azimuth_deg(&v, t));
    (up && (opens_s..=closes_s).contains(&t)).then(|| moment(e, target, t))
}

/// One night of the calendar.
fn seen_night(
    e: &Ephemeris,
    noon_s: f64,
    target: &[f64; 3],
    limits: &NightLimits,
    rig: Option<&NightRig>,
) -> CalendarNight {
    let mut n = CalendarNight {
        noon_s,
        dark_h: 0.0,
        usable_h: 0.0,
        moonless_h: 0.0,
        moon_lit: (1.0 + e.phase_angle_deg(noon_s + DAY_S / 2.0).to_radians().cos()) / 2.0,
        gathered: vec![0.0; rig.map_or(0, NightRig::len)],
        lines: rig
            .map_or_else(Vec::new, |r| (0..r.len()).map(|x| vec![0.0; r.lines(x).len()]).collect()),
    };
    let hours = limits.hours(noon_s, noon_s + DAY_S);
    for t in steps(noon_s) {
        if e.altitude_deg(&e.sun(t), t) >= limits.sun_below_deg {
            continue;
        }
        n.dark_h += STEP_S / 3600.0;
        let Some(m) = usable_moment(e, target, t, limits, hours) else { continue };
        n.usable_h += STEP_S / 3600.0;
        if m.moon.altitude_deg <= 0.0 {
            n.moonless_h += STEP_S / 3600.0;
        }
        if let Some(rig) = rig {
            let light = rig.light_at(&m);
            for (x, sum) in n.gathered.iter_mut().enumerate() {
                let each = rig.lines_per_h(x, &light);
                n.lines[x]
                    .iter_mut()
                    .zip(&each)
                    .for_each(|(s, per_h)| *s += STEP_S / 3600.0 * per_h);
                *sum += STEP_S / 3600.0
                    * rig.purpose(x).and_then(|_| each.first().copied()).unwrap_or(0.0);
            }
        }
    }
    n
}
