//! What could be added to a path: an hour of each colour for the stars, H-alpha on top of a broadband picture, and the pair of
//! dual-band filters that gives S-H-O with a colour camera.

use serde::Serialize;
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::decide::max_min::least_served_shares;
use crate::decide::split::wanted;
use crate::decide::uncertainty::draws::{PathDraws, Range, between};
use crate::decide::uncertainty::ranges::QuantityRange;
use crate::library::gear::{FilterFits, FilterKind, GearFilter};
use crate::light::lines::Quantity;
use crate::path::scales::Scales;
use crate::path::scene::Scene;
use crate::scenario::document::Scenario;
use crate::scenario::rig::Contender;
use crate::signal::model::PathModel;
use crate::signal::rig::{Behind, Pace, Rig};
use crate::signal::star::StarTerms;
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
    path: &PathModel,
    filters: &[GearFilter],
    draws: PathDraws,
) -> Vec<AddOn> {
    let rig = Rig::new(s, scene, contender);
    let broad = path.exposures.iter().any(|e| e.equivalent_width_nm > 40.0);
    let mut out = Vec::new();
    if !broad {
        out.extend(star_colours(s, &rig, contender, path, filters, draws));
    } else if s.target.lines_rayleigh.ha > 0.0 {
        out.extend(line_on_top(s, &rig, contender, filters, draws));
    }
    out
}

fn limit(s: &Scenario, contender: &Contender, path: &PathModel, behind: &Behind, sub_s: f64) -> Option<f64> {
    let subs = HOUR_S / (sub_s + path.between_s);
    let limits = behind.channels.iter().filter_map(|(_, share, r)| {
        let star = StarTerms {
            v0_e_per_s: r.star_v0,
            background_e_per_s: r.background() + r.dark,
            read_noise_e: contender.sensor.at_gain(contender.gain).read_noise_e,
            sub_s,
            subs,
            fwhm_arcsec: s.seeing_fwhm_arcsec,
            scale_arcsec: path.scale_arcsec,
            pixel_share: *share,
        };
        star.limit_v_mag()
    });
    limits.min_by(f64::total_cmp)
}

/// An hour of each colour (mono) or an hour without a filter (colour) for star colours.
fn star_colours(
    s: &Scenario,
    rig: &Rig,
    contender: &Contender,
    path: &PathModel,
    filters: &[GearFilter],
    draws: PathDraws,
) -> Option<AddOn> {
    let sets: Vec<Behind> = if rig.is_colour() {
        vec![rig.behind_own(None)]
    } else {
        let colour = |id: &str| filters.iter().find(|f| f.id == id && f.kind == FilterKind::Lrgb).map(|f| rig.behind_own(Some(&f.filter)));
        vec![colour("red")?, colour("green")?, colour("blue")?]
    };
    let sub_s = rig.pace(&sets[0], Quantity::Continuum).sub_s.clamp(5.0, 60.0);
    let depth_of = |sets: &[Behind]| sets.iter().filter_map(|b| limit(s, contender, path, b, sub_s)).min_by(f64::total_cmp);
    let depth = depth_of(&sets)?;
    let drawn = draws.range(|scales, _| depth_of(&sets.iter().map(|b| b.scaled(scales)).collect::<Vec<_>>()).unwrap_or(depth));
    let depths = if drawn.high - drawn.low > 0.05 { format!(" ({:.1} to {:.1})", drawn.low, drawn.high) } else { String::new() };
    let clock_s = HOUR_S * sets.len() as f64;
    let left = (1.0 - clock_s / s.total_s).max(0.0).sqrt();
    let name = if rig.is_colour() { "an hour without a filter for the stars" } else { "an hour each of red, green and blue for the stars" };
    let cost = if left > 0.0 {
        format!("taken from your {} it leaves {:.0} % of the lines' SNR", clock(s.total_s), left * 100.0)
    } else {
        format!("it needs a night of its own: your {} are no longer than that", clock(s.total_s))
    };
    let text = format!("Stars in their colours down to V {depth:.1}{depths} in subs of {}; {cost}.", seconds(sub_s));
    Some(AddOn { name: name.into(), clock_s, clock_range_s: None, text })
}

/// A 7 nm H-alpha filter to lay over the broadband picture.
fn line_on_top(s: &Scenario, rig: &Rig, contender: &Contender, filters: &[GearFilter], draws: PathDraws) -> Option<AddOn> {
    let f = filters.iter().find(|f| f.id == "ha-7")?;
    let behind = rig.behind_own(Some(&f.filter));
    let pace = rig.pace(&behind, Quantity::Ha);
    let time = pace.time_to_s(s.goal_snr)?;
    let own = rig.pace_at(&rig.behind_own(contender.exposures[0].filter.as_ref()), Quantity::Ha, contender.exposures[0].sub_s);
    let against = own.time_to_s(s.goal_snr).map_or(String::new(), |t| format!("; the broadband frames alone need {} for it", clock(t)));
    let range = draws
        .range(|scales, _| rig.pace_at(&behind.scaled(scales), Quantity::Ha, pace.sub_s).time_to_s(s.goal_snr).unwrap_or(f64::INFINITY));
    let text = format!("{} ({}) through {} bring H-alpha to SNR {}{against}.", clock(time), between(&range), f.filter.name, s.goal_snr);
    Some(AddOn { name: "H-alpha on top of the broadband picture".into(), clock_s: time, clock_range_s: Some(range), text })
}

/// Pairs of multi-band filters that together record [S II], H-alpha and [O III] on a colour camera, fastest first; at most three.
pub fn dual_pairs(s: &Scenario, scene: &Scene, contender: &Contender, filters: &[GearFilter], draws: PathDraws) -> Vec<DualPair> {
    let rig = Rig::new(s, scene, contender);
    let l = &s.target.lines_rayleigh;
    if !rig.is_colour() || l.sii <= 0.0 || l.ha <= 0.0 || l.oiii <= 0.0 {
        return Vec::new();
    }
    let multi: Vec<&GearFilter> = filters.iter().filter(|f| f.kind == FilterKind::MultiBand && f.fits != FilterFits::Mono).collect();
    // Squares of the signal to noise per second in S, H and O, each filter at the sub of its weakest line.
    let lines_of = |f: &GearFilter, behind: &Behind, q: Quantity| behind.equivalent_width_nm < 40.0 && passes(&f.filter, q);
    let behinds: Vec<Behind> = multi.iter().map(|f| rig.behind_own(Some(&f.filter))).collect();
    let paces: Vec<[Option<Pace>; 3]> =
        multi.iter().zip(&behinds).map(|(f, b)| LINES_OF_SHO.map(|q| lines_of(f, b, q).then(|| rig.pace(b, q)))).collect();
    let rates: Vec<Vec<f64>> = paces.iter().map(|p| p.iter().map(|p| p.map_or(0.0, |p| p.information_per_s)).collect()).collect();
    // The same at the same subs under another sky and target.
    let drawn = |i: usize, scales: &Scales| -> [f64; 3] {
        let behind = behinds[i].scaled(scales);
        [0, 1, 2].map(|k| paces[i][k].map_or(0.0, |p| rig.pace_at(&behind, LINES_OF_SHO[k], p.sub_s).information_per_s))
    };
    let mut pairs: Vec<DualPair> = Vec::new();
    for a in 0..multi.len() {
        for b in a + 1..multi.len() {
            let gains = [rates[a].clone(), rates[b].clone()];
            if (0..3).any(|k| gains[0][k] + gains[1][k] <= 0.0) {
                continue;
            }
            let shares = least_served_shares(&gains, 2);
            let per_s: Vec<f64> = (0..3).map(|k| shares[0] * gains[0][k] + shares[1] * gains[1][k]).collect();
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
        let [Some(a), Some(b)] = [0, 1].map(|i: usize| multi.iter().position(|f| f.id == pair.ids[i])) else { continue };
        pair.time_range_s = draws.range(|scales, _| {
            let (x, y) = (drawn(a, scales), drawn(b, scales));
            let least = (0..3).map(|k| pair.shares[0] * x[k] + pair.shares[1] * y[k]).fold(f64::INFINITY, f64::min);
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
    f.bands.as_ref().is_none_or(|bands| lines().any(|l| bands.iter().any(|b| (l.wavelength_nm - b.centre_nm).abs() < b.fwhm_nm)))
}

/// Paths at equal clock: what each quantity reaches in the same time, best first, in a sentence a quantity.
pub fn equal_clock(s: &Scenario, paths: &[PathModel], ranges: &[BTreeMap<Quantity, QuantityRange>]) -> Vec<String> {
    let mut quantities: Vec<Quantity> = paths.iter().flat_map(wanted).collect();
    quantities.sort();
    quantities.dedup();
    let letter = |i: usize| char::from(b'A' + i as u8);
    let sentence = |q: &Quantity| {
        let time = |p: &PathModel| p.time_s(*q, s.goal_snr, &p.shares(), &Scales::ONE, &[]);
        let mut order: Vec<(usize, f64)> = paths.iter().enumerate().filter_map(|(i, p)| Some((i, time(p)?))).collect();
        order.sort_by(|a, b| a.1.total_cmp(&b.1));
        let [(best, t), rest @ ..] = &order[..] else { return None };
        let range = |i: usize| ranges[i].get(q).and_then(|r| r.time_to_goal_s).map_or(String::new(), |r| format!(" ({})", between(&r)));
        let rest: Vec<String> = rest.iter().map(|(i, t)| format!("{} {}{}", letter(*i), clock(*t), range(*i))).collect();
        let others = if rest.is_empty() { String::new() } else { format!("; {} for the same", rest.join(", ")) };
        Some(format!("{}: {} reaches SNR {} in {}{}{others}.", q.label(), letter(*best), s.goal_snr, clock(*t), range(*best)))
    };
    quantities.iter().filter_map(sentence).collect()
}
