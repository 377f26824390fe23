//! The smallest set of filters that serves every picture within a tenth of the best.

use crate::decide::to_buy::needs::{Offer, Picture};
use crate::decide::to_buy::question::SmallestSet;
use crate::library::gear::GearFilter;
use crate::wording::listed;

/// A set within this factor of the best in every picture's time is as good.
const AS_GOOD: f64 = 1.10;

/// The smallest set within a tenth of the best, found by adding what brings most until all is
/// served, then leaving out what is not missed, the dearest that is not owned first.
pub(super) fn smallest_set(offer: &Offer, pictures: &[Picture]) -> SmallestSet {
    let everything = offer.everything();
    let goals: Vec<(Vec<usize>, f64)> = pictures
        .iter()
        .map(|p| {
            let needs = p.within(&everything);
            let best = p.time(&needs, &everything);
            (needs, best)
        })
        .collect();
    // How far a set is from the best: a light that is not served weighs more than any time.
    let lag = |have: &[bool]| -> f64 {
        let of = |(p, (needs, best)): (&Picture, &(Vec<usize>, f64))| {
            let served: Vec<usize> = needs.iter().copied().filter(|n| p.served(*n, have)).collect();
            let missing = (needs.len() - served.len()) as f64;
            if missing > 0.0 || needs.is_empty() {
                return 100.0 * missing;
            }
            (p.time(needs, have) / best / AS_GOOD).ln().max(0.0)
        };
        pictures.iter().zip(&goals).map(of).sum()
    };
    let mut have = vec![false; everything.len()];
    have[0] = true;
    let price = |f: usize| offer.filters[f - 1].filter.price.unwrap_or(0.0);
    let owned = |f: usize| offer.filters[f - 1].mine;
    while lag(&have) > 1e-9 {
        let now = lag(&have);
        let with = |f: usize| {
            let mut next = have.clone();
            next[f] = true;
            lag(&next)
        };
        let best = (1..have.len()).filter(|f| !have[*f]).min_by(|a, b| {
            // Of what brings as much, what is owned, then what is cheap.
            with(*a)
                .total_cmp(&with(*b))
                .then(owned(*b).cmp(&owned(*a)))
                .then(price(*a).total_cmp(&price(*b)))
        });
        match best {
            Some(f) if with(f) < now - 1e-12 => have[f] = true,
            _ => break,
        }
    }
    let left = lag(&have);
    let mut chosen: Vec<usize> = (1..have.len()).filter(|f| have[*f]).collect();
    chosen.sort_by(|a, b| owned(*a).cmp(&owned(*b)).then(price(*b).total_cmp(&price(*a))));
    for f in chosen.clone() {
        have[f] = false;
        if lag(&have) > left + 1e-9 {
            have[f] = true;
        } else {
            chosen.retain(|other| *other != f);
        }
    }
    chosen.sort_by_key(|f| (!owned(*f), *f));
    told_set(offer, &chosen)
}

fn told_set(offer: &Offer, chosen: &[usize]) -> SmallestSet {
    let filters: Vec<&GearFilter> = chosen.iter().map(|f| offer.filters[f - 1]).collect();
    let names: Vec<String> = filters.iter().map(|f| f.filter.name.clone()).collect();
    let owned = filters.iter().filter(|f| f.mine).count();
    let buy: Vec<&&GearFilter> = filters.iter().filter(|f| !f.mine).collect();
    let prices: Option<Vec<f64>> = buy.iter().map(|f| f.filter.price).collect();
    let price = prices.map(|p| p.iter().sum());
    let list: Vec<&str> = names.iter().map(String::as_str).collect();
    let text = if filters.is_empty() {
        "No filter at all: every picture comes as fast without one.".to_owned()
    } else if buy.is_empty() {
        format!("What you own serves all of it within 10 % of the best: {}.", listed(&list))
    } else {
        let cost = price
            .map_or("for prices that are not given".to_owned(), |p| format!("for {p:.0} more"));
        format!(
            "{} serve every kind at every place within 10 % of the best; {} of them to buy, {cost}.",
            listed(&list),
            buy.len()
        )
    };
    SmallestSet { ids: filters.iter().map(|f| f.id.clone()).collect(), names, owned, price, text }
}
