//! What a purchase is worth here: hours saved per year for the price.

use serde::Serialize;
use utoipa::ToSchema;

use super::draws::{Range, two_figures};
use super::model::{PathModel, Scales};
use super::ranges::QuantityRange;
use super::split::wanted;
use crate::compare::{clock, times};
use crate::light::Quantity;
use crate::scenario::{Contender, Scenario};
use std::collections::BTreeMap;

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
    /// Its range.
    pub time_ratio_range: Option<Range>,
    /// Whether that is no difference within what is uncertain.
    pub about_equal: bool,
    /// Hours a year that the first path would spend and this one saves; negative where it spends more.
    pub hours_saved_per_year: Option<f64>,
    /// Its range.
    pub hours_saved_range: Option<Range>,
    /// Extra price for each hour saved in one year; null where nothing is saved or no price is known.
    pub price_per_hour_saved: Option<f64>,
    /// Its range; null where within the range nothing may be saved.
    pub price_per_hour_range: Option<Range>,
    /// Pictures that reach the goal in a year.
    pub pictures_per_year: Option<f64>,
    /// Its range.
    pub pictures_range: Option<Range>,
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
pub fn values(s: &Scenario, paths: &[PathModel], ranges: &[BTreeMap<Quantity, QuantityRange>]) -> Vec<Worth> {
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
                    time_ratio_range: None,
                    about_equal: false,
                    hours_saved_per_year: None,
                    hours_saved_range: None,
                    price_per_hour_saved: None,
                    price_per_hour_range: None,
                    pictures_per_year: None,
                    pictures_range: None,
                    text,
                };
            };
            let (ratio, range) = (t / t_first, ranges[i].get(&q));
            let time_ratio_range = range.and_then(|r| r.time_over_first);
            let hours = |ratio: f64| year_h * (1.0 - ratio);
            let saved_h = hours(ratio);
            let hours_saved_range = time_ratio_range.map(|r| r.map(hours));
            let dearer = extra_price.filter(|p| *p > 0.0);
            let per_hour = dearer.filter(|_| saved_h > 0.05 * year_h).map(|p| p / saved_h);
            let per_hour_range =
                per_hour.zip(hours_saved_range).filter(|(_, h)| h.low > 0.0).zip(dearer).map(|((_, h), p)| h.map(|h| p / h));
            let worth = Worth {
                price,
                extra_price,
                quantity: Some(q),
                time_ratio: Some(ratio),
                time_ratio_range,
                about_equal: super::no_difference(ratio, time_ratio_range.as_ref()),
                hours_saved_per_year: Some(saved_h),
                hours_saved_range,
                price_per_hour_saved: per_hour,
                price_per_hour_range: per_hour_range,
                pictures_per_year: Some(year_h * 3600.0 / t),
                pictures_range: range.and_then(|r| r.time_to_goal_s).map(|r| r.map(|t| year_h * 3600.0 / t)),
                text: String::new(),
            };
            Worth { text: words(i, q, &worth, year_h), ..worth }
        })
        .collect()
}

/// A range in brackets where it is told apart: " (60 to 110)".
fn open(r: Option<Range>) -> String {
    r.filter(Range::is_open).map_or(String::new(), |r| format!(" ({} to {})", two_figures(r.low), two_figures(r.high)))
}

fn words(i: usize, q: Quantity, w: &Worth, year_h: f64) -> String {
    if i == 0 {
        return format!("the baseline, {} of exposure a year", clock(year_h * 3600.0));
    }
    let (label, ratio, saved_h) = (q.label(), w.time_ratio.unwrap_or(1.0), w.hours_saved_per_year.unwrap_or(0.0));
    let price = match w.extra_price {
        Some(p) if p >= 0.0 => format!("for {p:.0} more"),
        Some(p) => format!("and costs {:.0} less", -p),
        None => "for a price that is not given".into(),
    };
    if w.about_equal {
        format!("saves no time in {label} {price}")
    } else if saved_h > 0.0 {
        let each = w
            .price_per_hour_saved
            .map_or(String::new(), |p| format!(": {p:.1}{} for each hour in the first year", open(w.price_per_hour_range)));
        format!("{} for the same {label}: saves {saved_h:.0} h{} a year {price}{each}", times(ratio), open(w.hours_saved_range))
    } else {
        format!("{}{} for the same {label}, {price}", times(ratio), open(w.time_ratio_range))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::common::{bands, ic_443, through};

    fn priced(prices: &[(&str, f64)], rig: Option<f64>) -> Contender {
        let filters = prices.iter().map(|(name, p)| {
            let mut f = bands(name, 7.0, &[656.3]);
            f.price = Some(*p);
            Some(f)
        });
        Contender { price: rig, ..through(&ic_443().contenders[0], filters.collect(), 60.0) }
    }

    #[test]
    fn a_filter_used_twice_is_bought_once() {
        assert_eq!(filters_price(&priced(&[("Ha", 100.0), ("OIII", 150.0), ("Ha", 100.0)], None)), 250.0);
        assert_eq!(filters_price(&through(&ic_443().contenders[0], vec![None], 60.0)), 0.0);
    }

    #[test]
    fn rigs_without_a_price_are_compared_only_where_they_are_the_same() {
        let (a, b) = (priced(&[("Ha", 100.0)], None), priced(&[("Ha 3", 330.0)], None));
        assert_eq!(extra_price(&a, &b), Some(230.0));
        assert_eq!(extra_price(&b, &a), Some(-230.0));
        let mut other = b.clone();
        other.optics.aperture_mm += 1.0;
        assert_eq!(extra_price(&a, &other), None);
        let (with, without) = (priced(&[("Ha", 100.0)], Some(2000.0)), Contender { price: Some(1500.0), ..other });
        assert_eq!(extra_price(&with, &without), Some(-270.0));
    }

    fn worth(extra_price: Option<f64>, ratio: f64) -> Worth {
        let range = Range { low: ratio * 0.9, middle: ratio, high: ratio * 1.1 };
        let hours = range.map(|r| 200.0 * (1.0 - r));
        Worth {
            price: None,
            extra_price,
            quantity: Some(Quantity::Ha),
            time_ratio: Some(ratio),
            time_ratio_range: Some(range),
            about_equal: (ratio - 1.0).abs() < 0.07,
            hours_saved_per_year: Some(200.0 * (1.0 - ratio)),
            hours_saved_range: Some(hours),
            price_per_hour_saved: extra_price.map(|p| p / (200.0 * (1.0 - ratio))),
            price_per_hour_range: extra_price.map(|p| hours.map(|h| p / h)),
            pictures_per_year: None,
            pictures_range: None,
            text: String::new(),
        }
    }

    #[test]
    fn a_purchase_is_told_by_what_it_saves_and_costs() {
        let of = |extra, ratio| words(1, Quantity::Ha, &worth(extra, ratio), 200.0);
        assert_eq!(words(0, Quantity::Ha, &worth(None, 1.0), 200.0), "the baseline, 200 h of exposure a year");
        assert_eq!(
            of(Some(190.0), 0.5),
            "half the time for the same H-alpha: saves 100 h (90 to 110) a year for 190 more: 1.9 (1.7 to 2.1) for each hour in the first year"
        );
        assert_eq!(of(Some(190.0), 1.02), "saves no time in H-alpha for 190 more");
        assert_eq!(of(Some(-50.0), 1.5), "1.5 times the time (1.4 to 1.7) for the same H-alpha, and costs 50 less");
        assert!(of(None, 0.5).ends_with("for a price that is not given"), "{}", of(None, 0.5));
    }
}
