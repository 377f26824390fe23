//! What could be added to a path: an hour of each colour for the stars, H-alpha on top of a
//! broadband picture, and the pair of dual-band filters that gives S-H-O with a colour camera.

use serde::Serialize;
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::decide::goals::wanted;
use crate::decide::max_min::least_served_shares;
use crate::decide::uncertainty::draws::{PathDraws, Range, between};
use crate::decide::uncertainty::ranges::QuantityRange;
use crate::library::gear::{FilterFits, FilterKind, GearFilter};
use crate::light::lines::Quantity;
use crate::path::scales::Scales;
use crate::path::scene::Scene;
use crate::scenario::document::Scenario;
use crate::scenario::rig::Contender;
use crate::signal::channel::ChannelModel;
use crate::signal::instrument::InformationRate;
use crate::signal::model::LightPath;
use crate::signal::rig::{FilterRates, Rig};
use crate::wording::{clock, seconds};

const HOUR_S: f64 = 3600.0;

const LINES_OF_SHO: [Quantity; 3] = [Quantity::Sii, Quantity::Ha, Quantity::Oiii];

/// Something that could be added to a path.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct AddOn {
    /// What it is.
    pub name: String,
    /// Its time on the clock, s.
    pub clock_s: f64,
    /// Its range, s; null for a time that was chosen.
    pub clock_range_s: Option<Range>,
    /// What it gives and what it costs, in a sentence.
    pub text: String,
}

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

/// Add-ons for one contender.
pub fn add_ons(
    s: &Scenario,
    scene: &Scene,
    contender: &Contender,
    path: &LightPath,
    filters: &[GearFilter],
    draws: PathDraws,
) -> Vec<AddOn> {
    let rig = Rig::new(s, scene, contender);
    let broad = path.is_broad();
    let mut out = Vec::new();
    if !broad {
        out.extend(star_colours(s, &rig, filters, draws));
    } else if s.target.lines_rayleigh.ha > 0.0 {
        out.extend(line_on_top(s, &rig, contender, filters, draws));
    }
    out
}

/// The faintest star of an hour, V mag, in the channel that reaches least deep.
fn limit(rig: &Rig, through: &FilterRates, scales: &Scales, sub_s: f64) -> Option<f64> {
    let subs = HOUR_S / (sub_s + rig.instrument.between_s);
    let star = |c: &ChannelModel| {
        rig.instrument.star_terms(&c.rates(scales, 0.0), c.pixel_share, sub_s, subs).limit_v_mag()
    };
    through.channels.iter().filter_map(star).min_by(f64::total_cmp)
}

/// An hour of each colour (mono) or an hour without a filter (colour) for star colours.
fn star_colours(
    s: &Scenario,
    rig: &Rig,
    filters: &[GearFilter],
    draws: PathDraws,
) -> Option<AddOn> {
    let sets: Vec<FilterRates> = if rig.is_colour() {
        vec![rig.through_own_cone(None)]
    } else {
        let colour = |id: &str| {
            filters
                .iter()
                .find(|f| f.id == id && f.kind == FilterKind::Lrgb)
                .map(|f| rig.through_own_cone(Some(&f.filter)))
        };
        vec![colour("red")?, colour("green")?, colour("blue")?]
    };
    let sub_s = rig
        .instrument
        .information_rate(&sets[0].channels, Quantity::Continuum, &Scales::ONE)
        .sub_s
        .clamp(5.0, 60.0);
    let depth_of = |scales: &Scales| {
        sets.iter().filter_map(|set| limit(rig, set, scales, sub_s)).min_by(f64::total_cmp)
    };
    let depth = depth_of(&Scales::ONE)?;
    let drawn = draws.range(|scales, _| depth_of(scales).unwrap_or(depth));
    let depths = if drawn.high - drawn.low > 0.05 {
        format!(" ({:.1} to {:.1})", drawn.low, drawn.high)
    } else {
        String::new()
    };
    let clock_s = HOUR_S * sets.len() as f64;
    let left = (1.0 - clock_s / s.total_s).max(0.0).sqrt();
    let name = if rig.is_colour() {
        "an hour without a filter for the stars"
    } else {
        "an hour each of red, green and blue for the stars"
    };
    let cost = if left > 0.0 {
        format!(
            "taken from your {} it leaves {:.0} % of the lines' SNR",
            clock(s.total_s),
            left * 100.0
        )
    } else {
        format!("it needs a night of its own: your {} are no longer than that", clock(s.total_s))
    };
    let text = format!(
        "Stars in their colours down to V {depth:.1}{depths} in subs of {}; {cost}.",
        seconds(sub_s)
    );
    Some(AddOn { name: name.into(), clock_s, clock_range_s: None, text })
}

/// A 7 nm H-alpha filter to lay over the broadband picture.
fn line_on_top(
    s: &Scenario,
    rig: &Rig,
    contender: &Contender,
    filters: &[GearFilter],
    draws: PathDraws,
) -> Option<AddOn> {
    let f = filters.iter().find(|f| f.id == "ha-7")?;
    let through = rig.through_own_cone(Some(&f.filter));
    let best = rig.instrument.information_rate(&through.channels, Quantity::Ha, &Scales::ONE);
    let time = best.time_to_s(s.goal_snr)?;
    let first = &contender.exposures[0];
    let broad = rig.through_own_cone(first.filter.as_ref());
    let own = rig.instrument.information_rate_at(
        &broad.channels,
        Quantity::Ha,
        first.sub_s,
        &Scales::ONE,
    );
    let against = own.time_to_s(s.goal_snr).map_or(String::new(), |t| {
        format!("; the broadband frames alone need {} for it", clock(t))
    });
    let range = draws.range(|scales, _| {
        let rate =
            rig.instrument.information_rate_at(&through.channels, Quantity::Ha, best.sub_s, scales);
        rate.time_to_s(s.goal_snr).unwrap_or(f64::INFINITY)
    });
    let text = format!(
        "{} ({}) through {} bring H-alpha to SNR {}{against}.",
        clock(time),
        between(&range),
        f.filter.name,
        s.goal_snr
    );
    Some(AddOn {
        name: "H-alpha on top of the broadband picture".into(),
        clock_s: time,
        clock_range_s: Some(range),
        text,
    })
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
    // Squares of the signal to noise per second in S, H and O, each filter at the sub of its
    // weakest line.
    let lines_of = |f: &GearFilter, through: &FilterRates, q: Quantity| {
        !through.is_broad() && passes(&f.filter, q)
    };
    let through: Vec<FilterRates> =
        multi.iter().map(|f| rig.through_own_cone(Some(&f.filter))).collect();
    let best_rate =
        |f: &FilterRates, q| rig.instrument.information_rate(&f.channels, q, &Scales::ONE);
    let best: Vec<[Option<InformationRate>; 3]> = multi
        .iter()
        .zip(&through)
        .map(|(f, t)| LINES_OF_SHO.map(|q| lines_of(f, t, q).then(|| best_rate(t, q))))
        .collect();
    let rates: Vec<Vec<f64>> =
        best.iter().map(|b| b.iter().map(|b| b.map_or(0.0, |b| b.per_s)).collect()).collect();
    // The same at the same subs under another sky and target.
    let drawn = |i: usize, scales: &Scales| -> [f64; 3] {
        let channels = &through[i].channels;
        [0, 1, 2].map(|k| {
            best[i][k].map_or(0.0, |b| {
                rig.instrument.information_rate_at(channels, LINES_OF_SHO[k], b.sub_s, scales).per_s
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
            let time_to_goal_s = s.goal_snr * s.goal_snr / least;
            pairs.push(DualPair {
                ids: [multi[a].id.clone(), multi[b].id.clone()],
                names: [multi[a].filter.name.clone(), multi[b].filter.name.clone()],
                shares: [shares[0], shares[1]],
                snr: [0, 1, 2].map(|k| (per_s[k] * s.total_s).sqrt()),
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
            if least > 0.0 { s.goal_snr * s.goal_snr / least } else { f64::INFINITY }
        });
        pair.text = format!(
            "{} for {} and {} for {} of your {}: S, H and O reach SNR {} in {} ({}).",
            pair.names[0],
            clock(pair.shares[0] * s.total_s),
            pair.names[1],
            clock(pair.shares[1] * s.total_s),
            clock(s.total_s),
            s.goal_snr,
            clock(pair.time_to_goal_s),
            between(&pair.time_range_s)
        );
    }
    pairs
}

/// Whether a filter has a band over the line; a curve always counts.
fn passes(f: &crate::scenario::exposure::Filter, q: Quantity) -> bool {
    let lines = || crate::light::lines::LINES.iter().filter(move |l| l.quantity == q);
    f.bands.as_ref().is_none_or(|bands| {
        lines().any(|l| bands.iter().any(|b| (l.wavelength_nm - b.centre_nm).abs() < b.fwhm_nm))
    })
}

/// Paths at equal clock: what each quantity reaches in the same time, best first, in a sentence a
/// quantity.
pub fn equal_clock(
    s: &Scenario,
    paths: &[LightPath],
    ranges: &[BTreeMap<Quantity, QuantityRange>],
) -> Vec<String> {
    let mut quantities: Vec<Quantity> = paths.iter().flat_map(wanted).collect();
    quantities.sort();
    quantities.dedup();
    let letter = |i: usize| char::from(b'A' + i as u8);
    let sentence = |q: &Quantity| {
        let time = |p: &LightPath| p.time_s(*q, s.goal_snr, &p.shares(), &Scales::ONE, &[]);
        let mut order: Vec<(usize, f64)> =
            paths.iter().enumerate().filter_map(|(i, p)| Some((i, time(p)?))).collect();
        order.sort_by(|a, b| a.1.total_cmp(&b.1));
        let [(best, t), rest @ ..] = &order[..] else { return None };
        let range = |i: usize| {
            ranges[i]
                .get(q)
                .and_then(|r| r.time_to_goal_s)
                .map_or(String::new(), |r| format!(" ({})", between(&r)))
        };
        let rest: Vec<String> = rest
            .iter()
            .map(|(i, t)| format!("{} {}{}", letter(*i), clock(*t), range(*i)))
            .collect();
        let others = if rest.is_empty() {
            String::new()
        } else {
            format!("; {} for the same", rest.join(", "))
        };
        Some(format!(
            "{}: {} reaches SNR {} in {}{}{others}.",
            s.target.name_of(*q),
            letter(*best),
            s.goal_snr,
            clock(*t),
            range(*best)
        ))
    };
    quantities.iter().filter_map(sentence).collect()
}
