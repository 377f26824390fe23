//! What a purchase is worth here: hours saved per year for the price.

use serde::Serialize;
use utoipa::ToSchema;

use crate::decide::differences::{Told, told};
use crate::decide::goals::wanted;
use crate::decide::uncertainty::draws::{Draws, Range};
use crate::light::lines::Quantity;
use crate::path::scales::Scales;
use crate::scenario::document::Scenario;
use crate::scenario::rig::Contender;
use crate::signal::model::LightPath;
use crate::wording::{clock, times, two_figures};

/// What one path saves against the first.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Worth {
    /// Price of rig and filters together; null where the rig has none.
    pub price: Option<f64>,
    /// How much more than the first path; null where the rigs differ and one has no price.
    pub extra_price: Option<f64>,
    /// The quantity by which it is judged; null for all that the first path is for together.
    pub quantity: Option<Quantity>,
    /// Time to the goal in that quantity over the first path's.
    pub time_ratio: Option<f64>,
    /// Its range.
    pub time_ratio_range: Option<Range>,
    /// Whether its time differs from the first path's, or not, or whether that cannot be told.
    pub told: Told,
    /// Hours a year that the first path would spend and this one saves; negative where it spends
    /// more.
    pub hours_saved_per_year: Option<f64>,
    /// Its range.
    pub hours_saved_range: Option<Range>,
    /// Extra price for each hour saved in one year; null where nothing is saved or no price is
    /// known.
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

impl Worth {
    /// Nothing known yet.
    fn nothing() -> Self {
        Self {
            price: None,
            extra_price: None,
            quantity: None,
            time_ratio: None,
            time_ratio_range: None,
            told: Told::Differs,
            hours_saved_per_year: None,
            hours_saved_range: None,
            price_per_hour_saved: None,
            price_per_hour_range: None,
            pictures_per_year: None,
            pictures_range: None,
            text: String::new(),
        }
    }
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

/// How much more a path costs than the first; `None` where the rigs differ and one of them has no
/// price.
fn extra_price(first: &Contender, c: &Contender) -> Option<f64> {
    let rigs = match (first.price, c.price) {
        (Some(a), Some(b)) => b - a,
        _ if first.optics == c.optics && first.sensor == c.sensor => 0.0,
        _ => return None,
    };
    Some(rigs + filters_price(c) - filters_price(first))
}

/// Price of each hour that is saved in the first year; `None` for what costs nothing more, or saves
/// less than a twentieth of the year.
fn price_per_hour(extra_price: Option<f64>, saved_h: f64, year_h: f64) -> Option<f64> {
    extra_price.filter(|p| *p > 0.0 && saved_h > 0.05 * year_h).map(|p| p / saved_h)
}

/// By what purchases can be judged: every quantity that one of the paths is for, and all that the
/// first one is for together.
fn judged_by(paths: &[LightPath]) -> Vec<Option<Quantity>> {
    let mut quantities: Vec<Quantity> = paths.iter().flat_map(wanted).collect();
    quantities.sort();
    quantities.dedup();
    std::iter::once(None).chain(quantities.into_iter().map(Some)).collect()
}

/// The question of one basis: the quantities that all paths must bring to the goal.
struct Judged<'a> {
    s: &'a Scenario,
    basis: Option<Quantity>,
    quantities: Vec<Quantity>,
}

impl Judged<'_> {
    /// Time until the slowest of them is there; `None` where one is not recorded or out of reach.
    fn time_s(&self, path: &LightPath, scales: &Scales, centres: &[f64]) -> Option<f64> {
        let shares = path.shares();
        let times = self
            .quantities
            .iter()
            .map(|q| path.time_s(*q, self.s.goal_snr, &shares, scales, centres));
        times.into_iter().try_fold(0.0f64, |most, t| Some(most.max(t?)))
    }

    fn label(&self) -> String {
        let names: Vec<&str> = self.quantities.iter().map(|q| self.s.target.name_of(*q)).collect();
        match &names[..] {
            [] => "nothing".to_owned(),
            [one] => (*one).to_owned(),
            [first @ .., last] => format!("{} and {last}", first.join(", ")),
        }
    }

    /// Why a path cannot be compared.
    fn missing(&self, path: &LightPath) -> String {
        match self.quantities.iter().find(|q| !path.records(**q)) {
            Some(q) => format!("records no {}", self.s.target.name_of(*q)),
            None => format!("does not reach SNR {} in {}", self.s.goal_snr, self.label()),
        }
    }
}

/// The value of every path against the first: path by path, a [`Worth`] for all that the first path
/// is for, and one for each quantity. Rows that are judged by one basis answer the same question.
///
/// With N clear nights of h hours a year, the first path's pictures take N h hours; the same
/// pictures through another path take N h t / t_first, and the rest is saved.
pub fn values(s: &Scenario, paths: &[LightPath], draws: &Draws) -> Vec<Vec<Worth>> {
    let Some(first) = paths.first() else { return Vec::new() };
    let mut out: Vec<Vec<Worth>> = vec![Vec::new(); paths.len()];
    for basis in judged_by(paths) {
        let judged =
            Judged { s, basis, quantities: basis.map_or_else(|| wanted(first), |q| vec![q]) };
        // Draw by draw, so that what both paths share cancels.
        let drawn = |i: usize| -> Vec<Option<f64>> {
            draws.of(i).iter().map(|(d, c)| judged.time_s(&paths[i], d, c)).collect()
        };
        let of_first = drawn(0);
        for (i, path) in paths.iter().enumerate() {
            let own = if i == 0 { of_first.clone() } else { drawn(i) };
            out[i].push(worth(&judged, i, [first, path], [&of_first, &own]));
        }
    }
    out
}

/// The worth of the path at `i` against the first, with the times of both in every draw.
fn worth(
    judged: &Judged,
    i: usize,
    [first, path]: [&LightPath; 2],
    [of_first, own]: [&[Option<f64>]; 2],
) -> Worth {
    let s = judged.s;
    let c = &s.contenders[i];
    let year_h = s.choices.clear_nights_per_year * s.choices.hours_per_night;
    let extra_price = s.contenders.first().and_then(|f| extra_price(f, c));
    let mut out = Worth {
        price: c.price.map(|rig| rig + filters_price(c)),
        extra_price,
        quantity: judged.basis,
        ..Worth::nothing()
    };
    let Some(t) = judged.time_s(path, &Scales::ONE, &[]) else {
        return Worth { text: judged.missing(path), ..out };
    };
    let reached = own.iter().flatten().count() * 10 >= own.len() * 9;
    let times = if reached {
        Range::of(own.iter().map(|t| t.unwrap_or(f64::INFINITY)).collect())
    } else {
        None
    };
    out.pictures_per_year = Some(year_h * 3600.0 / t);
    out.pictures_range = times.map(|r| r.map(|t| year_h * 3600.0 / t));
    let Some(t_first) = judged.time_s(first, &Scales::ONE, &[]) else {
        return Worth { text: format!("{}, which A does not reach", clock(t)), ..out };
    };
    let ratio = t / t_first;
    let ratios = own.iter().zip(of_first).filter_map(|(a, b)| Some((*a)? / (*b)?)).collect();
    let time_ratio_range = Range::of(ratios);
    let hours = |ratio: f64| year_h * (1.0 - ratio);
    let saved_h = hours(ratio);
    let hours_saved_range = time_ratio_range.map(|r| r.map(hours));
    let per_hour = price_per_hour(extra_price, saved_h, year_h);
    out = Worth {
        time_ratio: Some(ratio),
        time_ratio_range,
        told: told(ratio, time_ratio_range.as_ref()),
        hours_saved_per_year: Some(saved_h),
        hours_saved_range,
        price_per_hour_saved: per_hour,
        price_per_hour_range: per_hour
            .zip(hours_saved_range)
            .filter(|(_, h)| h.low > 0.0)
            .zip(extra_price)
            .map(|((_, h), p)| h.map(|h| p / h)),
        ..out
    };
    Worth { text: words(i, &judged.label(), &out, year_h), ..out }
}

/// A range in brackets where it is told apart: " (60 to 110)".
fn open(r: Option<Range>) -> String {
    r.filter(Range::is_open)
        .map_or(String::new(), |r| format!(" ({} to {})", two_figures(r.low), two_figures(r.high)))
}

fn words(i: usize, label: &str, w: &Worth, year_h: f64) -> String {
    if i == 0 {
        return format!("the baseline, {} of exposure a year", clock(year_h * 3600.0));
    }
    let (ratio, saved_h) = (w.time_ratio.unwrap_or(1.0), w.hours_saved_per_year.unwrap_or(0.0));
    let price = match w.extra_price {
        Some(p) if p >= 0.0 => format!("for {p:.0} more"),
        Some(p) => format!("and costs {:.0} less", -p),
        None => "for a price that is not given".into(),
    };
    if w.told == Told::NoDifference {
        format!("saves no time in {label} {price}")
    } else if let (Told::CannotBeTold, Some(h)) = (w.told, w.hours_saved_range) {
        let (low, high) = (two_figures(h.low), two_figures(h.high));
        format!(
            "whether it saves time in {label} cannot be told ({low} to {high} h a year), {price}"
        )
    } else if saved_h > 0.0 {
        let each = w.price_per_hour_saved.map_or(String::new(), |p| {
            format!(": {p:.1}{} for each hour in the first year", open(w.price_per_hour_range))
        });
        format!(
            "{} for the same {label}: saves {saved_h:.0} h{} a year {price}{each}",
            times(ratio),
            open(w.hours_saved_range)
        )
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
        assert_eq!(
            filters_price(&priced(&[("Ha", 100.0), ("OIII", 150.0), ("Ha", 100.0)], None)),
            250.0
        );
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
        let (with, without) =
            (priced(&[("Ha", 100.0)], Some(2000.0)), Contender { price: Some(1500.0), ..other });
        assert_eq!(extra_price(&with, &without), Some(-270.0));
    }

    #[test]
    fn an_hour_that_costs_nothing_more_has_no_price() {
        assert_eq!(price_per_hour(Some(200.0), 100.0, 200.0), Some(2.0));
        assert_eq!(price_per_hour(Some(0.0), 100.0, 200.0), None);
        assert_eq!(price_per_hour(Some(-50.0), 100.0, 200.0), None);
        assert_eq!(
            price_per_hour(Some(200.0), 10.0, 200.0),
            None,
            "a twentieth of the year is not told apart"
        );
        assert_eq!(price_per_hour(None, 100.0, 200.0), None);
    }

    fn of_ratio(extra_price: Option<f64>, ratio: f64) -> Worth {
        let range = Range { low: ratio * 0.9, middle: ratio, high: ratio * 1.1 };
        let hours = range.map(|r| 200.0 * (1.0 - r));
        Worth {
            price: None,
            extra_price,
            quantity: Some(Quantity::Ha),
            time_ratio: Some(ratio),
            time_ratio_range: Some(range),
            told: told(ratio, Some(&range)),
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
        let of = |extra, ratio| words(1, "H-alpha", &of_ratio(extra, ratio), 200.0);
        assert_eq!(
            words(0, "H-alpha", &of_ratio(None, 1.0), 200.0),
            "the baseline, 200 h of exposure a year"
        );
        assert_eq!(
            of(Some(190.0), 0.5),
            "half the time for the same H-alpha: saves 100 h (90 to 110) a year for 190 more: \
                1.9 (1.7 to 2.1) for each hour in the first year"
        );
        assert_eq!(of(Some(190.0), 1.02), "saves no time in H-alpha for 190 more");
        let wide = Range { low: 0.6, middle: 1.0, high: 1.5 };
        let open = Worth {
            told: told(1.0, Some(&wide)),
            hours_saved_range: Some(wide.map(|r| 200.0 * (1.0 - r))),
            ..of_ratio(Some(190.0), 1.0)
        };
        assert_eq!(
            words(1, "H-alpha", &open, 200.0),
            "whether it saves time in H-alpha cannot be told (-100 to 80 h a year), for 190 more"
        );
        assert_eq!(
            of(Some(-50.0), 1.5),
            "1.5 times the time (1.4 to 1.7) for the same H-alpha, and costs 50 less"
        );
        assert!(of(None, 0.5).ends_with("for a price that is not given"), "{}", of(None, 0.5));
    }
}
