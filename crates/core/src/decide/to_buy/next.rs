//! The answer: what is owned, what one filter more would bring, and the smallest set.

use crate::decide::to_buy::needs::{Offer, Picture, picture};
use crate::decide::to_buy::question::{BuyQuestion, NextFilter, PictureTime, ToBuy};
use crate::decide::to_buy::set::smallest_set;
use crate::library::gear::GearFilter;
use crate::light::lines::{HA_NM, NII_NM};
use crate::light::tables::Tables;
use crate::path::filter::response::BROAD_NM;
use crate::path::filter::weights::FilterInCone;
use crate::wording::{clock, listed};

/// What to buy: see the module.
pub fn to_buy(q: &BuyQuestion, tables: &Tables) -> ToBuy {
    let offer = Offer::new(q);
    let pictures: Vec<Picture> = (0..q.places.len())
        .flat_map(|place| q.kinds.iter().map(move |kind| (place, kind)))
        .map(|(place, kind)| picture(q, &offer, place, kind, tables))
        .collect();
    let (owned, everything) = (offer.owned(), offer.everything());
    let finite = |t: f64| (t.is_finite() && t > 0.0).then_some(t);
    let told = |p: &Picture| PictureTime {
        place: q.places[p.place].name.clone(),
        kind: p.kind.name.clone(),
        now_s: finite(p.time(&p.within(&owned), &owned)),
        missing: p
            .all()
            .into_iter()
            .filter(|n| !p.served(*n, &owned))
            .map(|n| p.needs[n].label.clone())
            .collect(),
        best_s: finite(p.time(&p.within(&everything), &everything)),
    };
    let mut next: Vec<NextFilter> = (1..everything.len())
        .filter(|f| !owned[*f])
        .map(|f| next_filter(q, &offer, &pictures, &owned, f))
        .filter(|n| n.saved_h_per_year + n.opened_h_per_year > 0.5)
        .collect();
    let brings = |n: &NextFilter| n.saved_h_per_year + n.opened_h_per_year;
    next.sort_by(|a, b| brings(b).total_cmp(&brings(a)));
    ToBuy {
        places: q.places.iter().map(|p| p.name.clone()).collect(),
        pictures: pictures.iter().map(told).collect(),
        next,
        set: smallest_set(&offer, &pictures),
    }
}

/// What the filter at `f` adds to those that are owned.
fn next_filter(
    q: &BuyQuestion,
    offer: &Offer,
    pictures: &[Picture],
    owned: &[bool],
    f: usize,
) -> NextFilter {
    let filter = offer.filters[f - 1];
    let mut with = owned.to_vec();
    with[f] = true;
    let mut saved_h = vec![0.0; q.places.len()];
    let mut opened_h = 0.0;
    // What it does to each picture, the largest first.
    let mut reasons: Vec<(f64, String)> = Vec::new();
    for p in pictures {
        let (kind, place) = (within_a_sentence(&p.kind.name), &q.places[p.place].name);
        let before = p.within(owned);
        let (now, then) = (p.time(&before, owned), p.time(&before, &with));
        if !before.is_empty() && then < 0.995 * now {
            let hours = p.hours * (1.0 - then / now);
            saved_h[p.place] += hours;
            let text = format!("{kind} at {place} in {} instead of {}", clock(then), clock(now));
            reasons.push((hours, text));
        }
        let new: Vec<&str> = p
            .all()
            .into_iter()
            .filter(|n| !p.served(*n, owned) && p.served(*n, &with))
            .map(|n| p.needs[n].label.as_str())
            .collect();
        if !new.is_empty() {
            let hours = p.hours * new.len() as f64 / p.needs.len() as f64;
            opened_h += hours;
            reasons.push((hours, format!("{} for {kind} at {place}", listed(&new))));
        }
    }
    // Wider than what is owned, it gains by nitrogen's lines beside H-alpha: that wants saying.
    let nitrogen = saved_by_nitrogen(q, offer, owned, f);
    reasons.sort_by(|a, b| b.0.total_cmp(&a.0));
    let why: Vec<&str> = reasons.iter().take(2).map(|r| r.1.as_str()).collect();
    let saved: f64 = saved_h.iter().sum();
    let price = filter.filter.price;
    NextFilter {
        id: filter.id.clone(),
        name: filter.filter.name.clone(),
        price,
        saved_h,
        saved_h_per_year: saved,
        opened_h_per_year: opened_h,
        price_per_hour: price.filter(|_| saved > 0.5).map(|p| p / saved),
        why: format!("{}{nitrogen}", why.join("; ")),
    }
}

/// What there is to say where a filter beats one that is owned by letting nitrogen's lines through
/// beside H-alpha; nothing elsewhere.
fn saved_by_nitrogen(q: &BuyQuestion, offer: &Offer, owned: &[bool], f: usize) -> &'static str {
    let passes = |filter: &GearFilter| {
        let cone = FilterInCone::new(Some(&filter.filter), &q.rig.optics, 0.0);
        let at = |nm: f64| cone.at_normal_incidence(nm) > 0.5;
        let narrow = cone.visible().0 < BROAD_NM;
        (narrow && at(HA_NM), at(NII_NM))
    };
    let narrower = |i: usize| owned[i] && passes(offer.filters[i - 1]) == (true, false);
    if passes(offer.filters[f - 1]) == (true, true) && (1..owned.len()).any(narrower) {
        "; it passes [N II] beside H-alpha, which yours does not"
    } else {
        ""
    }
}

/// A kind's name within a sentence: "planetary nebula", but "H II region".
fn within_a_sentence(name: &str) -> String {
    let mut letters = name.chars();
    match (letters.next(), letters.next()) {
        (Some(first), Some(second)) if second.is_lowercase() => {
            first.to_lowercase().chain(name.chars().skip(1)).collect()
        }
        _ => name.to_owned(),
    }
}
