//! What a purchase is worth here: hours saved per year for the price.

use serde::Serialize;
use utoipa::ToSchema;

use super::model::{PathModel, Scales};
use super::split::wanted;
use crate::compare::{clock, times};
use crate::light::Quantity;
use crate::scenario::{Contender, Scenario};

/// What one path saves against the first.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Worth {
    /// Price of rig and filters together; null where the rig has none.
    pub price: Option<f64>,
    /// How much more than the first path; null where the rigs differ and one has no price.
    pub extra_price: Option<f64>,
    /// The quantity by which it is judged: the slowest that both record.
    pub quantity: Option<Quantity>,
    /// Time to the goal in that quantity over the first path's.
    pub time_ratio: Option<f64>,
    /// Hours a year that the first path would spend and this one saves; negative where it spends more.
    pub hours_saved_per_year: Option<f64>,
    /// Extra price for each hour saved in one year; null where nothing is saved or no price is known.
    pub price_per_hour_saved: Option<f64>,
    /// Pictures that reach the goal in a year.
    pub pictures_per_year: Option<f64>,
    /// What it means, in a sentence.
    pub text: String,
}

/// Price of a rig's filters, each bought once.
fn filters_price(c: &Contender) -> f64 {
    let mut seen: Vec<&str> = Vec::new();
    let mut sum = 0.0;
    for f in c.exposures.iter().filter_map(|e| e.filter.as_ref()) {
        if !seen.contains(&f.name.as_str()) {
            seen.push(&f.name);
            sum += f.price.unwrap_or(0.0);
        }
    }
    sum
}

/// How much more a path costs than the first; `None` where the rigs differ and one of them has no price.
fn extra_price(first: &Contender, c: &Contender) -> Option<f64> {
    let rigs = match (first.price, c.price) {
        (Some(a), Some(b)) => b - a,
        _ if first.optics == c.optics && first.sensor == c.sensor => 0.0,
        _ => return None,
    };
    Some(rigs + filters_price(c) - filters_price(first))
}

/// The value of every path against the first.
///
/// With N clear nights of h hours a year, the first path's pictures take N h hours; the same pictures through another path take
/// N h t / t_first, and the rest is saved.
pub fn values(s: &Scenario, paths: &[PathModel]) -> Vec<Worth> {
    let year_h = s.choices.clear_nights_per_year * s.choices.hours_per_night;
    let time = |p: &PathModel, q: Quantity| p.time_s(q, s.goal_snr, &p.shares(), &Scales::ONE, &[]);
    let first = paths.first();
    paths
        .iter()
        .zip(&s.contenders)
        .enumerate()
        .map(|(i, (path, c))| {
            let shared = wanted(path).into_iter().filter(|q| first.is_some_and(|f| f.records(*q)));
            let slowest = shared.filter_map(|q| Some((q, time(path, q)?, time(first?, q)?))).max_by(|a, b| a.1.total_cmp(&b.1));
            let price = c.price.map(|rig| rig + filters_price(c));
            let extra_price = s.contenders.first().and_then(|f| extra_price(f, c));
            let Some((q, t, t_first)) = slowest else {
                let text = "shares no quantity with A that both reach".to_owned();
                return Worth {
                    price,
                    extra_price,
                    quantity: None,
                    time_ratio: None,
                    hours_saved_per_year: None,
                    price_per_hour_saved: None,
                    pictures_per_year: None,
                    text,
                };
            };
            let saved_h = year_h * (1.0 - t / t_first);
            let per_hour = extra_price.filter(|p| *p > 0.0 && saved_h > 0.05 * year_h).map(|p| p / saved_h);
            let text = words(i, q, t / t_first, saved_h, extra_price, per_hour, year_h);
            Worth {
                price,
                extra_price,
                quantity: Some(q),
                time_ratio: Some(t / t_first),
                hours_saved_per_year: Some(saved_h),
                price_per_hour_saved: per_hour,
                pictures_per_year: Some(year_h * 3600.0 / t),
                text,
            }
        })
        .collect()
}

fn words(i: usize, q: Quantity, ratio: f64, saved_h: f64, extra: Option<f64>, per_hour: Option<f64>, year_h: f64) -> String {
    if i == 0 {
        return format!("the baseline, {} of exposure a year", clock(year_h * 3600.0));
    }
    let label = q.label();
    let price = match extra {
        Some(p) if p >= 0.0 => format!("for {p:.0} more"),
        Some(p) => format!("and costs {:.0} less", -p),
        None => "for a price that is not given".into(),
    };
    if (ratio - 1.0).abs() < crate::compare::ABOUT_EQUAL {
        format!("saves no time in {label} {price}")
    } else if saved_h > 0.0 {
        let each = per_hour.map_or(String::new(), |p| format!(": {p:.1} for each hour in the first year"));
        format!("{} for the same {label}: saves {saved_h:.0} h a year {price}{each}", times(ratio))
    } else {
        format!("{} for the same {label}, {price}", times(ratio))
    }
}
