//! What could be added to a path: an hour of each colour for the stars, H-alpha on top of a broadband picture, and the pair of
//! dual-band filters that gives S-H-O with a colour camera.

use serde::Serialize;
use utoipa::ToSchema;

use super::model::{PathModel, Scales};
use super::split::{least_served_shares, wanted};
use crate::compare::{clock, seconds};
use crate::gear::{FilterFits, FilterKind, GearFilter};
use crate::light::Quantity;
use crate::path::Scene;
use crate::rig::{Behind, Rig};
use crate::scenario::{Contender, Scenario};
use crate::star::StarTerms;

const HOUR_S: f64 = 3600.0;
const LINES_OF_SHO: [Quantity; 3] = [Quantity::Sii, Quantity::Ha, Quantity::Oiii];

/// Something that could be added to a path.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct AddOn {
    /// What it is.
    pub name: String,
    /// Its time on the clock, s.
    pub clock_s: f64,
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
    /// In a sentence.
    pub text: String,
}

/// Add-ons for one contender.
pub fn add_ons(s: &Scenario, scene: &Scene, contender: &Contender, path: &PathModel, filters: &[GearFilter]) -> Vec<AddOn> {
    let rig = Rig::new(s, scene, contender);
    let broad = path.exposures.iter().any(|e| e.equivalent_width_nm > 40.0);
    let mut out = Vec::new();
    if !broad {
        out.extend(star_colours(s, &rig, contender, path, filters));
    } else if s.target.lines_rayleigh.ha > 0.0 {
        out.extend(line_on_top(s, &rig, contender, filters));
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
fn star_colours(s: &Scenario, rig: &Rig, contender: &Contender, path: &PathModel, filters: &[GearFilter]) -> Option<AddOn> {
    let sets: Vec<Behind> = if rig.is_colour() {
        vec![rig.behind_own(None)]
    } else {
        let colour = |id: &str| filters.iter().find(|f| f.id == id && f.kind == FilterKind::Lrgb).map(|f| rig.behind_own(Some(&f.filter)));
        vec![colour("red")?, colour("green")?, colour("blue")?]
    };
    let sub_s = rig.pace(&sets[0], Quantity::Continuum).sub_s.clamp(5.0, 60.0);
    let depth = sets.iter().filter_map(|b| limit(s, contender, path, b, sub_s)).min_by(f64::total_cmp)?;
    let clock_s = HOUR_S * sets.len() as f64;
    let left = (1.0 - clock_s / s.total_s).max(0.0).sqrt();
    let name = if rig.is_colour() { "an hour without a filter for the stars" } else { "an hour each of red, green and blue for the stars" };
    let cost = if left > 0.0 {
        format!("taken from your {} it leaves {:.0} % of the lines' SNR", clock(s.total_s), left * 100.0)
    } else {
        format!("it needs a night of its own: your {} are no longer than that", clock(s.total_s))
    };
    let text = format!("Stars in their colours down to V {depth:.1} in subs of {}; {cost}.", seconds(sub_s));
    Some(AddOn { name: name.into(), clock_s, text })
}

/// A 7 nm H-alpha filter to lay over the broadband picture.
fn line_on_top(s: &Scenario, rig: &Rig, contender: &Contender, filters: &[GearFilter]) -> Option<AddOn> {
    let f = filters.iter().find(|f| f.id == "ha-7")?;
    let behind = rig.behind_own(Some(&f.filter));
    let pace = rig.pace(&behind, Quantity::Ha);
    let time = pace.time_to_s(s.goal_snr)?;
    let own = rig.pace_at(&rig.behind_own(contender.exposures[0].filter.as_ref()), Quantity::Ha, contender.exposures[0].sub_s);
    let against = own.time_to_s(s.goal_snr).map_or(String::new(), |t| format!("; the broadband frames alone need {} for it", clock(t)));
    let text = format!("{} through {} bring H-alpha to SNR {}{against}.", clock(time), f.filter.name, s.goal_snr);
    Some(AddOn { name: "H-alpha on top of the broadband picture".into(), clock_s: time, text })
}

/// Pairs of multi-band filters that together record [S II], H-alpha and [O III] on a colour camera, fastest first; at most three.
pub fn dual_pairs(s: &Scenario, scene: &Scene, contender: &Contender, filters: &[GearFilter]) -> Vec<DualPair> {
    let rig = Rig::new(s, scene, contender);
    let l = &s.target.lines_rayleigh;
    if !rig.is_colour() || l.sii <= 0.0 || l.ha <= 0.0 || l.oiii <= 0.0 {
        return Vec::new();
    }
    let multi: Vec<&GearFilter> = filters.iter().filter(|f| f.kind == FilterKind::MultiBand && f.fits != FilterFits::Mono).collect();
    // Squares of the signal to noise per second in S, H and O, each filter at the sub of its weakest line.
    let rates: Vec<Vec<f64>> = multi
        .iter()
        .map(|f| {
            let behind = rig.behind_own(Some(&f.filter));
            let narrow = behind.equivalent_width_nm < 40.0;
            LINES_OF_SHO.map(|q| if narrow && passes(&f.filter, q) { rig.pace(&behind, q).information_per_s } else { 0.0 }).to_vec()
        })
        .collect();
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
            let names = [multi[a].filter.name.clone(), multi[b].filter.name.clone()];
            let text = format!(
                "{} for {:.0} % of the clock and {} for {:.0} %: S, H and O reach SNR {} in {}.",
                names[0],
                shares[0] * 100.0,
                names[1],
                shares[1] * 100.0,
                s.goal_snr,
                clock(time_to_goal_s)
            );
            pairs.push(DualPair {
                ids: [multi[a].id.clone(), multi[b].id.clone()],
                names,
                shares: [shares[0], shares[1]],
                snr: [0, 1, 2].map(|k| (per_s[k] * s.total_s).sqrt()),
                time_to_goal_s,
                text,
            });
        }
    }
    pairs.sort_by(|a, b| a.time_to_goal_s.total_cmp(&b.time_to_goal_s));
    pairs.truncate(3);
    pairs
}

/// Whether a filter has a band over the line; a curve always counts.
fn passes(f: &crate::scenario::Filter, q: Quantity) -> bool {
    let lines = || crate::light::LINES.iter().filter(move |l| l.quantity == q);
    f.bands.as_ref().is_none_or(|bands| lines().any(|l| bands.iter().any(|b| (l.wavelength_nm - b.centre_nm).abs() < b.fwhm_nm)))
}

/// Paths at equal clock: what each quantity reaches in the same time, best first, in a sentence a quantity.
pub fn equal_clock(s: &Scenario, paths: &[PathModel]) -> Vec<String> {
    let mut quantities: Vec<Quantity> = paths.iter().flat_map(wanted).collect();
    quantities.sort();
    quantities.dedup();
    let letter = |i: usize| char::from(b'A' + i as u8);
    let sentence = |q: &Quantity| {
        let time = |p: &PathModel| p.time_s(*q, s.goal_snr, &p.shares(), &Scales::ONE, &[]);
        let mut order: Vec<(usize, f64)> = paths.iter().enumerate().filter_map(|(i, p)| Some((i, time(p)?))).collect();
        order.sort_by(|a, b| a.1.total_cmp(&b.1));
        let [(best, t), rest @ ..] = &order[..] else { return None };
        let rest: Vec<String> = rest.iter().map(|(i, t)| format!("{} {}", letter(*i), clock(*t))).collect();
        let others = if rest.is_empty() { String::new() } else { format!("; {} for the same", rest.join(", ")) };
        Some(format!("{}: {} reaches SNR {} in {}{others}.", q.label(), letter(*best), s.goal_snr, clock(*t)))
    };
    quantities.iter().filter_map(sentence).collect()
}
