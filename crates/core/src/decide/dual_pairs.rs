//! The pair of dual-band filters that gives S-H-O with a colour camera.

use serde::Serialize;
use utoipa::ToSchema;

use crate::decide::max_min::least_served_shares;
use crate::decide::uncertainty::draws::{PathDraws, Range, between};
use crate::library::gear::{FilterFits, FilterKind, GearFilter};
use crate::light::lines::Quantity;
use crate::path::scales::Scales;
use crate::path::scene::Scene;
use crate::scenario::document::Scenario;
use crate::scenario::rig::Contender;
use crate::signal::aim::Aim;
use crate::signal::instrument::InformationRate;
use crate::signal::rig::{FilterRates, Rig};
use crate::wording::clock;

const LINES_OF_SHO: [Quantity; 3] = [Quantity::Sii, Quantity::Ha, Quantity::Oiii];

/// A pair of dual-band filters on a colour camera.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct DualPair {
    /// Ids on the shelf.
    pub ids: [String; 2],
    /// Names.
    pub names: [String; 2],
    /// Share of the clock of each.
    pub shares: [f64; 2],
    /// Signal to noise in the given time in [S II], H-alpha and [O III].
    pub snr: [f64; 3],
    /// Time until all three reach the goal, s.
    pub time_to_goal_s: f64,
    /// Its range with the clock split as it is, s.
    pub time_range_s: Range,
    /// In a sentence.
    pub text: String,
}

/// Pairs of multi-band filters that together record [S II], H-alpha and [O III] on a colour camera,
/// fastest first; at most three.
pub fn dual_pairs(
    s: &Scenario,
    scene: &Scene,
    contender: &Contender,
    filters: &[GearFilter],
    draws: PathDraws,
) -> Vec<DualPair> {
    let rig = Rig::new(s, scene, contender);
    let l = &s.target.lines_rayleigh;
    if !rig.is_colour() || l.sii <= 0.0 || l.ha <= 0.0 || l.oiii <= 0.0 {
        return Vec::new();
    }
    let multi: Vec<&GearFilter> = filters
        .iter()
        .filter(|f| f.kind == FilterKind::MultiBand && f.fits != FilterFits::Mono)
        .collect();
    // Squares of the part of each goal per second in S, H and O, each filter at the sub of its
    // weakest line.
    let lines_of = |f: &GearFilter, through: &FilterRates, q: Quantity| {
        !through.is_broad() && passes(&f.filter, q)
    };
    let through: Vec<FilterRates> =
        multi.iter().map(|f| rig.through_own_cone(Some(&f.filter))).collect();
    let aims = LINES_OF_SHO.map(|q| Aim::new(s, q));
    let best_rate = |f: &FilterRates, q: Quantity| {
        let aim = &aims[LINES_OF_SHO.iter().position(|l| *l == q).unwrap_or(0)];
        rig.instrument.goal_rate(&f.channels, aim, &Scales::ONE)
    };
    let best: Vec<[Option<InformationRate>; 3]> = multi
        .iter()
        .zip(&through)
        .map(|(f, t)| LINES_OF_SHO.map(|q| lines_of(f, t, q).then(|| best_rate(t, q))))
        .collect();
    let rates: Vec<Vec<f64>> =
        best.iter().map(|b| [0, 1, 2].map(|k| progress(b[k], &aims[k])).to_vec()).collect();
    // The same at the same subs under another sky and target.
    let drawn = |i: usize, scales: &Scales| -> [f64; 3] {
        let channels = &through[i].channels;
        [0, 1, 2].map(|k| {
            best[i][k].map_or(0.0, |b| {
                let rate = rig.instrument.goal_rate_at(channels, &aims[k], b.sub_s, scales);
                progress(Some(rate), &aims[k])
            })
        })
    };
    let mut pairs: Vec<DualPair> = Vec::new();
    for a in 0..multi.len() {
        for b in a + 1..multi.len() {
            let gains = [rates[a].clone(), rates[b].clone()];
            if (0..3).any(|k| gains[0][k] + gains[1][k] <= 0.0) {
                continue;
            }
            let shares = least_served_shares(&gains, 2);
            let per_s: Vec<f64> =
                (0..3).map(|k| shares[0] * gains[0][k] + shares[1] * gains[1][k]).collect();
            let least = per_s.iter().copied().fold(f64::INFINITY, f64::min);
            if least <= 0.0 {
                continue;
            }
            let time_to_goal_s = 1.0 / least;
            pairs.push(DualPair {
                ids: [multi[a].id.clone(), multi[b].id.clone()],
                names: [multi[a].filter.name.clone(), multi[b].filter.name.clone()],
                shares: [shares[0], shares[1]],
                snr: [0, 1, 2].map(|k| (per_s[k] * s.clock_s(contender)).sqrt() * aims[k].snr),
                time_to_goal_s,
                time_range_s: Range::of_three([time_to_goal_s; 3]),
                text: String::new(),
            });
        }
    }
    pairs.sort_by(|a, b| a.time_to_goal_s.total_cmp(&b.time_to_goal_s));
    pairs.truncate(3);
    for pair in &mut pairs {
        let [Some(a), Some(b)] =
            [0, 1].map(|i: usize| multi.iter().position(|f| f.id == pair.ids[i]))
        else {
            continue;
        };
        pair.time_range_s = draws.range(|scales, _| {
            let (x, y) = (drawn(a, scales), drawn(b, scales));
            let least = (0..3)
                .map(|k| pair.shares[0] * x[k] + pair.shares[1] * y[k])
                .fold(f64::INFINITY, f64::min);
            if least > 0.0 { 1.0 / least } else { f64::INFINITY }
        });
        pair.text = format!(
            "{} for {} and {} for {} of your {}: S, H and O reach {} in {} ({}).",
            pair.names[0],
            clock(pair.shares[0] * s.clock_s(contender)),
            pair.names[1],
            clock(pair.shares[1] * s.clock_s(contender)),
            clock(s.clock_s(contender)),
            s.goals_words(),
            clock(pair.time_to_goal_s),
            between(&pair.time_range_s)
        );
    }
    pairs
}

/// Square of the part of a goal that a second brings at a rate.
fn progress(rate: Option<InformationRate>, aim: &Aim) -> f64 {
    rate.map_or(0.0, |r| r.per_s / (aim.snr * aim.snr))
}

/// Whether a filter has a band over the line; a curve always counts.
fn passes(f: &crate::scenario::exposure::Filter, q: Quantity) -> bool {
    let lines = || crate::light::lines::LINES.iter().filter(move |l| l.quantity == q);
    f.bands.as_ref().is_none_or(|bands| {
        lines().any(|l| bands.iter().any(|b| (l.wavelength_nm - b.centre_nm).abs() < b.fwhm_nm))
    })
}
