//! Which filter for this target here: every filter that fits a rig, by the time it needs for the
//! goal.

use serde::Serialize;
use utoipa::ToSchema;

use crate::decide::to_buy::needs::{DEEP_INFRARED_NM, INFRARED_SHARE, sees_infrared};
use crate::decide::uncertainty::draws::{Draws, Range};
use crate::library::gear::GearFilter;
use crate::light::lines::Quantity;
use crate::light::tables::Tables;
use crate::path::filter::report::line_transmissions;
use crate::path::filter::response::RECORDED_FROM;
use crate::path::filter::weights::FilterInCone;
use crate::path::scales::Scales;
use crate::path::scene::Scene;
use crate::scenario::check::Checked;
use crate::scenario::exposure::Filter;
use crate::scenario::rig::Contender;
use crate::signal::aim::Aim;
use crate::signal::rig::{FilterRates, Rig};
use crate::wording::{ABOUT_EQUAL, clock, times};

/// A filter's place in the ranking.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct RankedFilter {
    /// Id on the shelf; null for no filter.
    pub id: Option<String>,
    /// Its name.
    pub name: String,
    /// Clock time to the goal, s; null where it records nothing of the quantity.
    pub time_to_goal_s: Option<f64>,
    /// Its range, s.
    pub time_range_s: Option<Range>,
    /// Signal to noise in the scenario's time.
    pub snr: f64,
    /// The sub it was judged at: its own best within the mount's limit, s.
    pub sub_s: f64,
    /// Share of the quantity's electrons it keeps against no filter.
    pub signal_kept: f64,
    /// Share of the sky's electrons it keeps against no filter.
    pub sky_kept: f64,
    /// Whether it is made for what is judged: a narrow one for a line, a broad one for starlight,
    /// on a colour camera one that keeps infrared out. Others are of use only where there is
    /// nothing better.
    pub suits: bool,
    /// Why it stands where it does, in a sentence.
    pub why: String,
}

/// Ranks filters (none included) for one contender's rig and one quantity: shortest time first.
/// Filters that are of no use on the rig's kind of camera are left out. Each filter is used alone,
/// all of the clock through it.
pub fn rank_filters(
    scenario: &Checked,
    contender: usize,
    quantity: Quantity,
    filters: &[GearFilter],
    tables: &Tables,
) -> Vec<RankedFilter> {
    let s = scenario.scenario();
    let scene = Scene::new(s, tables);
    let Some(c) = s.contenders.get(contender) else { return Vec::new() };
    let rig = Rig::new(s, &scene, c);
    let open = rig.through_own_cone(None);
    let aim = Aim::new(s, quantity);
    let open_time = rig.instrument.goal_rate(&open.channels, &aim, &Scales::ONE).time_to_s(aim.snr);
    let draws = Draws::new(s);
    let infrared = quantity == Quantity::Continuum && rig.is_colour() && sees_infrared(c);
    let judge =
        |id: Option<String>, name: &str, through: &FilterRates, slide: Option<(f64, f64)>| {
            let best = rig.instrument.goal_rate(&through.channels, &aim, &Scales::ONE);
            let signal_kept = ratio(through.signal(quantity), open.signal(quantity));
            let sky_kept = ratio(through.sky(), open.sky());
            let time = if signal_kept >= RECORDED_FROM { best.time_to_s(aim.snr) } else { None };
            let under = |scales: &Scales| {
                let rate = rig.instrument.goal_rate_at(&through.channels, &aim, best.sub_s, scales);
                rate.time_to_s(aim.snr).unwrap_or(f64::INFINITY)
            };
            let time_range_s = time.map(|_| draws.of(0).range(|scales, _| under(scales)));
            let why = why(
                s.target.name_of(quantity),
                id.is_none(),
                signal_kept,
                sky_kept,
                time,
                open_time,
                slide,
            );
            RankedFilter {
                id,
                name: name.to_owned(),
                time_to_goal_s: time,
                time_range_s,
                snr: if time.is_some() {
                    let mean = rig.instrument.information_rate_at(
                        &through.channels,
                        quantity,
                        best.sub_s,
                        &Scales::ONE,
                    );
                    (mean.per_s * s.clock_s(c)).sqrt()
                } else {
                    0.0
                },
                sub_s: best.sub_s,
                signal_kept,
                sky_kept,
                suits: false,
                why,
            }
        };
    let mut none = judge(None, "No filter", &open, None);
    none.suits = suits(c, quantity, None, &open);
    if infrared {
        none.why += " Infrared beyond 700 nm counts in it: it bloats stars and washes colours out, so \
            a UV-IR cut is the least that this camera wants.";
    }
    let mut ranked = vec![none];
    for f in filters.iter().filter(|f| f.fits.on(rig.is_colour())) {
        let slide = line_transmissions(&f.filter, &c.optics, None, &s.target.lines_rayleigh)
            .get(&quantity)
            .filter(|t| t.too_narrow)
            .map(|t| (t.in_cone, t.head_on));
        let through = rig.through_own_cone(Some(&f.filter));
        let own = judge(Some(f.id.clone()), &f.filter.name, &through, slide);
        ranked.push(RankedFilter { suits: suits(c, quantity, Some(&f.filter), &through), ..own });
    }
    ranked.sort_by(|a, b| {
        a.time_to_goal_s
            .unwrap_or(f64::INFINITY)
            .total_cmp(&b.time_to_goal_s.unwrap_or(f64::INFINITY))
    });
    ranked
}

/// Whether a filter (or none) is made for what is judged: a narrow one for a line, a broad one for
/// starlight, on a colour camera that sees infrared one that keeps it out.
fn suits(c: &Contender, q: Quantity, f: Option<&Filter>, through: &FilterRates) -> bool {
    if q != Quantity::Continuum {
        return !through.is_broad() && f.is_some();
    }
    let keeps_out = || {
        let cone = FilterInCone::new(f, &c.optics, 0.0);
        cone.at_normal_incidence(DEEP_INFRARED_NM) < INFRARED_SHARE
    };
    through.is_broad() && (c.sensor.cfa.is_none() || !sees_infrared(c) || keeps_out())
}

fn ratio(a: f64, b: f64) -> f64 {
    if b > 0.0 { a / b } else { 0.0 }
}

/// A share in per cent with the figures it deserves.
fn percent(x: f64) -> String {
    match x * 100.0 {
        p if p >= 9.95 => format!("{p:.0} %"),
        p if p >= 0.095 => format!("{p:.1} %"),
        _ => "less than 0.1 %".to_owned(),
    }
}

fn why(
    label: &str,
    open: bool,
    signal: f64,
    sky: f64,
    time: Option<f64>,
    open_time: Option<f64>,
    slide: Option<(f64, f64)>,
) -> String {
    let Some(time) = time else { return format!("Blocks the {label}.") };
    if open {
        return format!("All of the {label} and all of the sky: {}.", clock(time));
    }
    let mut text =
        format!("Keeps {} of the {label} and {} of the sky", percent(signal), percent(sky));
    if let Some((cone, head_on)) = slide {
        text += &format!(
            "; the cone slides its band, {} instead of {}",
            percent(cone),
            percent(head_on)
        );
    }
    match open_time.map(|o| time / o) {
        Some(r) if r > 1.0 + ABOUT_EQUAL => {
            text + &format!(": it takes more light than noise, {} without it.", times(1.0 / r))
        }
        Some(r) if r > 1.0 - ABOUT_EQUAL => text + ": about the same as no filter.",
        Some(r) => text + &format!(": {} of no filter.", times(r)),
        None => text + ".",
    }
}
