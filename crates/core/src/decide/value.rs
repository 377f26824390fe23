//! What a purchase is worth here: hours saved per year for the price.

use serde::Serialize;
use utoipa::ToSchema;

use crate::decide::basis::Basis;
use crate::decide::differences::{Told, told};
use crate::decide::uncertainty::draws::{Draws, Range};
use crate::library::gear::Gear;
use crate::light::lines::Quantity;
use crate::path::scales::Scales;
use crate::scenario::document::Scenario;
use crate::scenario::rig::{Contender, Optics};
use crate::signal::model::LightPath;
use crate::wording::{clock, times, two_figures};

/// What one path saves against the first.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Worth {
    /// Price of rig and filters together; null where the rig has none.
    pub price: Option<f64>,
    /// What of it is not owned, by the shelf.
    pub to_buy: Vec<String>,
    /// Its price; null where one of them has none.
    pub to_buy_price: Option<f64>,
    /// How much more has to be paid for it than for the first path; null where a price that differs
    /// is not known.
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
            to_buy: Vec::new(),
            to_buy_price: None,
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

/// A wheel that a mono camera needs where none is there (typical, from memory).
const WHEEL_PRICE: f64 = 250.0;

/// What a path asks to be bought.
#[derive(Clone, Debug, Default, PartialEq)]
struct Bill {
    /// What it is, in words.
    items: Vec<String>,
    /// Its price; `None` where one of them has none.
    price: Option<f64>,
}

/// What has to be bought for a path, by the shelf: what is owned there costs nothing more. Of a rig
/// whose parts are not on the shelf the path's own price counts.
fn bill(c: &Contender, shelf: &Gear) -> Bill {
    let (mut items, mut prices) = (Vec::new(), Vec::new());
    let optics = shelf.optics.iter().find(|o| same_telescope(&o.optics, &c.optics));
    let camera = shelf.cameras.iter().find(|k| k.sensor.name == c.sensor.name);
    let (own_optics, own_camera) = (optics.is_some_and(|o| o.mine), camera.is_some_and(|k| k.mine));
    let parts = [
        (own_optics, optics.map(|o| o.name.as_str()), optics.and_then(|o| o.price)),
        (own_camera, camera.map(|k| k.sensor.name.as_str()), camera.and_then(|k| k.price)),
    ];
    if let (Some(rig), false) = (c.price, own_optics && own_camera) {
        // The rig's price as it was given, less what is there of it.
        let there: f64 = parts.iter().filter(|p| p.0).filter_map(|p| p.2).sum();
        items.push("the rig".to_owned());
        prices.push(Some((rig - there).max(0.0)));
    } else {
        for (own, name, price) in parts {
            if !own {
                items.push(name.unwrap_or("a telescope or camera").to_owned());
                prices.push(price);
            }
        }
        if !own_camera && c.sensor.cfa.is_none() && c.exposures.len() > 1 {
            items.push("a wheel".to_owned());
            prices.push(Some(WHEEL_PRICE));
        }
    }
    for f in c.exposures.iter().filter_map(|e| e.filter.as_ref()) {
        let owned = shelf.filters.iter().any(|g| g.mine && g.filter.name == f.name);
        if !owned && !items.contains(&f.name) {
            items.push(f.name.clone());
            prices.push(f.price);
        }
    }
    Bill { items, price: prices.into_iter().sum() }
}

/// Whether two telescopes are one, whatever their reducer.
fn same_telescope(a: &Optics, b: &Optics) -> bool {
    (a.aperture_mm, a.focal_length_mm, a.obstruction_mm)
        == (b.aperture_mm, b.focal_length_mm, b.obstruction_mm)
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

/// How much more has to be paid for a path than for the first, with what is owned; `None` where a
/// price that differs is not known.
fn extra_price(first: &Contender, c: &Contender, shelf: &Gear) -> Option<f64> {
    let [a, b] = [first, c].map(|c| bill(c, shelf));
    if let (Some(a), Some(b)) = (a.price, b.price) {
        return Some(b - a);
    }
    let same_rig = first.optics == c.optics && first.sensor == c.sensor;
    same_rig.then(|| filters_price(c) - filters_price(first))
}

/// Price of each hour that is saved in the first year; `None` for what costs nothing more, or saves
/// less than a twentieth of the year.
fn price_per_hour(extra_price: Option<f64>, saved_h: f64, year_h: f64) -> Option<f64> {
    extra_price.filter(|p| *p > 0.0 && saved_h > 0.05 * year_h).map(|p| p / saved_h)
}

/// The value of every path against the first: path by path, a [`Worth`] for all that the first path
/// is for, and one for each quantity. Rows that are judged by one basis answer the same question.
///
/// With N clear nights of h hours a year, the first path's pictures take N h hours; the same
/// pictures through another path take N h t / t_first, and the rest is saved.
pub fn values(s: &Scenario, paths: &[LightPath], draws: &Draws, shelf: &Gear) -> Vec<Vec<Worth>> {
    let bills: Vec<Bill> = s.contenders.iter().map(|c| bill(c, shelf)).collect();
    let extra = |i: usize| extra_price(&s.contenders[0], &s.contenders[i], shelf);
    let extras: Vec<Option<f64>> = (0..s.contenders.len()).map(extra).collect();
    let mut out: Vec<Vec<Worth>> = vec![Vec::new(); paths.len()];
    for basis in Basis::all(s, paths) {
        // Draw by draw, so that what both paths share cancels.
        let drawn = |i: usize| -> Vec<Option<f64>> {
            let shares = paths[i].shares();
            draws.of(i).iter().map(|(d, c)| basis.time_s(&paths[i], &shares, d, c)).collect()
        };
        let of_first = drawn(0);
        for (i, path) in paths.iter().enumerate() {
            let own = if i == 0 { of_first.clone() } else { drawn(i) };
            out[i].push(worth(s, &basis, (i, extras[i]), [&paths[0], path], [&of_first, &own]));
        }
    }
    for (all, bill) in out.iter_mut().zip(bills) {
        for w in all {
            (w.to_buy, w.to_buy_price) = (bill.items.clone(), bill.price);
        }
    }
    out
}

/// The worth of the path at `i` against the first, with the times of both in every draw.
fn worth(
    s: &Scenario,
    basis: &Basis,
    (i, extra_price): (usize, Option<f64>),
    [first, path]: [&LightPath; 2],
    [of_first, own]: [&[Option<f64>]; 2],
) -> Worth {
    let c = &s.contenders[i];
    let year_h = s.choices.clear_nights_per_year * s.choices.hours_per_night;
    let mut out = Worth {
        price: c.price.map(|rig| rig + filters_price(c)),
        extra_price,
        quantity: basis.quantity,
        ..Worth::nothing()
    };
    let Some(t) = basis.time_s(path, &path.shares(), &Scales::ONE, &[]) else {
        return Worth { text: basis.missing(path), ..out };
    };
    let reached = own.iter().flatten().count() * 10 >= own.len() * 9;
    let times = if reached {
        Range::of(own.iter().map(|t| t.unwrap_or(f64::INFINITY)).collect())
    } else {
        None
    };
    out.pictures_per_year = Some(year_h * 3600.0 / t);
    out.pictures_range = times.map(|r| r.map(|t| year_h * 3600.0 / t));
    let Some(t_first) = basis.time_s(first, &first.shares(), &Scales::ONE, &[]) else {
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
    Worth { text: words(i, &basis.label(), &out, year_h), ..out }
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
        Some(p) if p.abs() < 0.5 => "with nothing more to buy".to_owned(),
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
    use crate::library::gear::Library;

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

    /// A shelf on which nothing stands.
    fn bare() -> Gear {
        Gear { optics: Vec::new(), cameras: Vec::new(), filters: Vec::new() }
    }

    #[test]
    fn rigs_without_a_price_are_compared_only_where_they_are_the_same() {
        let (a, b) = (priced(&[("Ha", 100.0)], None), priced(&[("Ha 3", 330.0)], None));
        assert_eq!(extra_price(&a, &b, &bare()), Some(230.0));
        assert_eq!(extra_price(&b, &a, &bare()), Some(-230.0));
        let mut other = b.clone();
        other.optics.aperture_mm += 1.0;
        assert_eq!(extra_price(&a, &other, &bare()), None);
        let (with, without) =
            (priced(&[("Ha", 100.0)], Some(2000.0)), Contender { price: Some(1500.0), ..other });
        assert_eq!(extra_price(&with, &without, &bare()), Some(-270.0));
    }

    /// A colour camera that is owned against a mono one that is not: camera, wheel and filters.
    #[test]
    fn what_is_owned_costs_nothing_more() {
        let mut shelf = Library::shipped().expect("the library").gear;
        let camera = |id: &str, shelf: &Gear| {
            shelf.cameras.iter().find(|k| k.id == id).expect("a camera").clone()
        };
        let mut a = priced(&[("dual", 260.0)], None);
        a.optics = shelf.optics.iter().find(|o| o.id == "refractor-90").expect("it").optics.clone();
        a.sensor = camera("colour-26", &shelf).sensor;
        let mut b = priced(&[("Ha 3", 330.0), ("OIII 3", 330.0)], None);
        (b.optics, b.sensor) = (a.optics.clone(), camera("mono-26", &shelf).sensor);
        for o in &mut shelf.optics {
            o.mine = o.id == "refractor-90";
        }
        for k in &mut shelf.cameras {
            k.mine = k.id == "colour-26";
        }
        let mono = bill(&b, &shelf);
        assert_eq!(mono.items[1..], ["a wheel", "Ha 3", "OIII 3"]);
        assert_eq!(mono.price, Some(2300.0 + 250.0 + 660.0));
        assert_eq!(extra_price(&a, &b, &shelf), Some(2300.0 + 250.0 + 660.0 - 260.0));
        // A rig that is owned whole costs its filters alone, whatever it was priced at.
        a.price = Some(3100.0);
        assert_eq!(bill(&a, &shelf).price, Some(260.0));
        b.price = Some(3750.0);
        assert_eq!(bill(&b, &shelf).price, Some(3750.0 - 1200.0 + 660.0));
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
            to_buy: Vec::new(),
            to_buy_price: None,
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
