//! How fast a campaign's nights really went, against what their subs are worth under its planned sky.

use crate::campaign::document::Campaign;
use crate::light::lines::Quantity;
use crate::wording::listed;

/// A pace that is measured over so many nights counts as much as the belief that all goes as planned.
pub(crate) const NIGHTS_OF_BELIEF: f64 = 1.0;
/// Nights from which a pace counts.
pub(crate) const LEAST_NIGHTS: usize = 2;
/// Standard deviation of the logarithm of what a clear night brings against the next: clearness,
/// seeing, what focusing and the mount take (from memory: a quarter).
pub(crate) const NIGHT_LN: f64 = 0.25;
/// No night of kept subs is worth less or more than this of what was planned; what is says that a
/// count was typed wrongly.
const BELIEVED: [f64; 2] = [0.05, 5.0];
/// A pace this near to the planned one is not worth a word.
const AS_PLANNED: f64 = 0.05;

/// How fast nights went through one exposure.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Pace {
    /// What a kept sub brought over what it would under the planned sky: the geometric mean of the
    /// nights, drawn towards one while they are few, and one before the second.
    pub ratio: f64,
    /// Nights that it is of.
    pub nights: usize,
}

/// The pace of every exposure of the campaign's own light path. `per_sub` is what one sub of each
/// adds under the planned sky, what the exposure is for first, as
/// [`crate::campaign::progress::snr2_per_sub`] gives it.
pub fn paces(campaign: &Campaign, per_sub: &[Vec<(Quantity, f64)>]) -> Vec<Pace> {
    let one = |(exposure, per_sub): (usize, &Vec<(Quantity, f64)>)| {
        let planned = per_sub.first().map_or(0.0, |(_, snr2)| *snr2);
        let ratios: Vec<f64> = campaign
            .nights
            .iter()
            .filter(|n| !n.planned)
            .flat_map(|n| &n.shots)
            .filter(|s| campaign.is_own(s) && s.exposure == exposure && s.subs > 0)
            .map(|s| s.snr2 / (f64::from(s.subs) * planned))
            .filter(|r| (BELIEVED[0]..BELIEVED[1]).contains(r))
            .collect();
        let n = ratios.len() as f64;
        let sum: f64 = ratios.iter().map(|r| r.ln()).sum();
        let counts = ratios.len() >= LEAST_NIGHTS;
        let ratio = if counts { (sum / (n + NIGHTS_OF_BELIEF)).exp() } else { 1.0 };
        Pace { ratio, nights: ratios.len() }
    };
    per_sub.iter().enumerate().map(one).collect()
}

/// Paces that differ from what was planned, in a sentence; empty where none does. `filters` are the
/// names of the exposures' filters.
pub fn pace_told(paces: &[Pace], filters: &[&str]) -> String {
    let off = paces.iter().zip(filters).filter(|(p, _)| (p.ratio - 1.0).abs() > AS_PLANNED);
    let said: Vec<String> =
        off.map(|(p, name)| format!("{:.0} % through {name}", 100.0 * p.ratio)).collect();
    let said: Vec<&str> = said.iter().map(String::as_str).collect();
    match listed(&said) {
        none if none.is_empty() => none,
        all => format!(
            "By the nights so far a kept sub brings {all} of what was planned; the finish counts with that."
        ),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::campaign::document::{CampaignNight, Shot};
    use crate::common::campaign_of_ic_443;
    use std::collections::BTreeMap;

    #[test]
    fn a_pace_is_believed_as_nights_come_and_typed_nonsense_is_not() {
        let mut campaign = campaign_of_ic_443();
        let per_sub = vec![vec![(Quantity::Ha, 2.0)], vec![(Quantity::Oiii, 1.0)]];
        let night = |subs: u32, snr2: f64| CampaignNight {
            date: "2027-01-10".into(),
            shots: vec![Shot { path: None, exposure: 0, subs, snr2, lines_snr2: BTreeMap::new() }],
            blocks: Vec::new(),
            struck_out: Vec::new(),
            note: String::new(),
            planned: false,
        };
        let ratio = |c: &Campaign| paces(c, &per_sub)[0].ratio;
        // Half of what was planned: one night says nothing yet, of two two thirds are believed.
        campaign.nights.push(night(10, 10.0));
        assert_eq!(ratio(&campaign), 1.0);
        campaign.nights.push(night(10, 10.0));
        assert!((ratio(&campaign) - 0.5f64.powf(2.0 / 3.0)).abs() < 1e-12);
        for _ in 0..6 {
            campaign.nights.push(night(10, 10.0));
        }
        assert!((ratio(&campaign) - 0.5f64.powf(8.0 / 9.0)).abs() < 1e-12);
        campaign.nights.push(night(10, 1e6));
        let own = paces(&campaign, &per_sub);
        assert_eq!((own[0].nights, own[1].nights, own[1].ratio), (8, 0, 1.0));
        let told = pace_told(&own, &["H-alpha", "[O III]"]);
        assert!(told.contains("54 % through H-alpha") && !told.contains("O III"), "{told}");
        campaign.nights.iter_mut().for_each(|n| n.planned = true);
        assert_eq!(ratio(&campaign), 1.0);
        assert_eq!(pace_told(&paces(&campaign, &per_sub), &["H-alpha", "[O III]"]), "");
    }
}
