//! What could be added to a path, from what is owned first: an hour of each colour for the stars,
//! H-alpha on top of a broadband picture, and what luminance is worth beside its colours.

use serde::Serialize;
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::decide::basis::Basis;
use crate::decide::colour_set::set_report;
use crate::decide::to_buy::needs::COLOUR_COARSER;
use crate::decide::uncertainty::draws::{PathDraws, Range, between};
use crate::decide::uncertainty::ranges::QuantityRange;
use crate::library::gear::GearFilter;
use crate::light::lines::Quantity;
use crate::path::filter::colour_band::ColourBand;
use crate::path::filter::weights::FilterInCone;
use crate::path::scales::Scales;
use crate::path::scene::Scene;
use crate::scenario::document::Scenario;
use crate::scenario::rig::Contender;
use crate::signal::aim::{Aim, clean_arcsec};
use crate::signal::channel::ChannelModel;
use crate::signal::model::LightPath;
use crate::signal::rig::{FilterRates, Rig};
use crate::wording::{arcsec, clock, seconds};

const HOUR_S: f64 = 3600.0;

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
    } else if s.wants(Quantity::Ha) && s.target.lines_rayleigh.ha > 0.0 {
        out.extend(line_on_top(s, &rig, contender, filters, draws));
    }
    out.extend(luminance_and_colour(path));
    out.extend(set_report(s, contender).map(|text| AddOn {
        name: "the colours as a set".to_owned(),
        clock_s: 0.0,
        clock_range_s: None,
        text,
    }));
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
        // Those that are owned first; each told by where it passes.
        let optics = &rig.contender().optics;
        let colour = |band: ColourBand| {
            let passes = |f: &&GearFilter| {
                FilterInCone::new(Some(&f.filter), optics, 0.0).colour_band() == band
            };
            let set = || filters.iter().filter(passes);
            let found = set().find(|f| f.mine).or_else(|| set().next())?;
            Some(rig.through_own_cone(Some(&found.filter)))
        };
        vec![colour(ColourBand::Red)?, colour(ColourBand::Green)?, colour(ColourBand::Blue)?]
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
    let left = (1.0 - clock_s / s.clock_s(rig.contender())).max(0.0).sqrt();
    let name = if rig.is_colour() {
        "an hour without a filter for the stars"
    } else {
        "an hour each of red, green and blue for the stars"
    };
    let cost = if left > 0.0 {
        format!(
            "taken from your {} it leaves {:.0} % of the lines' SNR",
            clock(s.clock_s(rig.contender())),
            left * 100.0
        )
    } else {
        format!(
            "it needs a night of its own: your {} are no longer than that",
            clock(s.clock_s(rig.contender()))
        )
    };
    let text = format!(
        "Stars in their colours down to V {depth:.1}{depths} in subs of {}; {cost}.",
        seconds(sub_s)
    );
    Some(AddOn { name: name.into(), clock_s, clock_range_s: None, text })
}

/// Hours of a line that are laid over a broadband picture to see what they bring (common practice,
/// no source).
const ADDED_S: f64 = 3.0 * HOUR_S;

/// A line that is added must come in less than this share of the broadband frames' own time (common
/// practice, no source).
const HELPS: f64 = 0.9;

/// A narrow filter for a line to lay over the broadband picture: the fastest that is owned, else
/// the fastest there is; none where the broadband frames do as well alone.
fn line_on_top(
    s: &Scenario,
    rig: &Rig,
    contender: &Contender,
    filters: &[GearFilter],
    draws: PathDraws,
) -> Option<AddOn> {
    let q = Quantity::Ha;
    let aim = Aim::new(s, q);
    let name = s.target.name_of(q);
    let judged = |f: &GearFilter| {
        let through = rig.through_own_cone(Some(&f.filter));
        let narrow = !through.is_broad() && through.channels.iter().any(|c| c.records[q]);
        let rate =
            narrow.then(|| rig.instrument.goal_rate(&through.channels, &aim, &Scales::ONE))?;
        Some((through, rate, rate.time_to_s(aim.snr)?))
    };
    let all =
        filters.iter().filter(|f| f.fits.on(rig.is_colour())).filter_map(|f| Some((f, judged(f)?)));
    let (f, (through, best, time)) =
        all.min_by(|a, b| b.0.mine.cmp(&a.0.mine).then(a.1.2.total_cmp(&b.1.2)))?;
    let first = &contender.exposures[0];
    let broad = rig.through_own_cone(first.filter.as_ref());
    let own = rig.instrument.goal_rate_at(&broad.channels, &aim, first.sub_s, &Scales::ONE);
    let alone_s = own.time_to_s(aim.snr);
    if alone_s.is_some_and(|t| time > HELPS * t) {
        return None;
    }
    let against = alone_s.map_or(String::new(), |t| {
        format!("; the broadband frames alone need {} for it", clock(t))
    });
    let range = draws.range(|scales, _| {
        let rate = rig.instrument.goal_rate_at(&through.channels, &aim, best.sub_s, scales);
        rate.time_to_s(aim.snr).unwrap_or(f64::INFINITY)
    });
    // The part's own signal to noise after the added hours, as the side of a square.
    let part_snr = aim.snr * (ADDED_S / time).sqrt();
    let side = clean_arcsec(part_snr, s.detail_arcsec, rig.instrument.finest_arcsec());
    let part = match s.target.kind.part_name(aim.goal.part, q) {
        "body" => String::new(),
        part => format!(" of the {part}"),
    };
    let whose = if f.mine { "your " } else { "" };
    let brings = side.map_or(String::new(), |side| {
        format!(
            "{} through {whose}{} bring {name}{part} clean at {}; ",
            clock(ADDED_S),
            f.filter.name,
            arcsec(side)
        )
    });
    let buy = match f.filter.price.filter(|_| !f.mine) {
        Some(price) => format!(" To buy, for {price:.0}."),
        None => String::new(),
    };
    Some(AddOn {
        name: format!("{name} on top of the broadband picture"),
        clock_s: time,
        clock_range_s: Some(range),
        text: format!(
            "{brings}{} takes {} ({}){against}.{buy}",
            s.goal_phrase(q),
            clock(time),
            between(&range)
        ),
    })
}

/// Luminance that is finer than what the colours can use by less than this is not called a waste:
/// the rule is a rough one.
const WASTED: f64 = 0.8;

/// What luminance is worth beside its colours: a picture's colour may be three times coarser than
/// its detail, and no more (from memory).
fn luminance_and_colour(path: &LightPath) -> Option<AddOn> {
    let broad: Vec<usize> =
        (0..path.exposures.len()).filter(|i| path.exposures[*i].is_broad()).collect();
    let width = |i: &usize| path.exposures[*i].equivalent_width_nm;
    let lum = *broad.iter().max_by(|a, b| width(a).total_cmp(&width(b)))?;
    let colours: Vec<usize> = broad.iter().copied().filter(|i| *i != lum).collect();
    if colours.len() < 3 || path.exposures[lum].channels.len() > 1 {
        return None;
    }
    let q = Quantity::Continuum;
    let part = path.goal_part(q);
    let clean = |i: usize| {
        let mut only = vec![0.0; path.exposures.len()];
        only[i] = path.exposures[i].share;
        path.clean_arcsec(q, part, (path.clock_s, &only), &Scales::ONE, &[])
    };
    let fine = clean(lum)?;
    let coarse = colours.iter().map(|i| clean(*i)).try_fold(0.0f64, |m, c| Some(m.max(c?)))?;
    let finest = path.finest_arcsec(q);
    let (own_s, each_s) =
        (path.clock_s * path.exposures[lum].share, path.clock_s * path.exposures[colours[0]].share);
    let given = format!("{} of luminance beside {} of each colour", clock(own_s), clock(each_s));
    // Luminance finer than a third of the colours' detail shows no more.
    let useful = (coarse / COLOUR_COARSER).max(finest);
    let text = if fine < WASTED * useful {
        let enough_s = own_s * (fine / useful).powi(2);
        format!(
            "{given} is more than the colours can use: they are clean at {}, so {} would do.",
            arcsec(coarse),
            clock(enough_s)
        )
    } else if fine > coarse {
        format!(
            "{given}: luminance is clean at {}, no finer than the colours at {}. More of it, or none.",
            arcsec(fine),
            arcsec(coarse)
        )
    } else {
        format!(
            "{given} go together: detail clean at {}, colours at {}.",
            arcsec(fine),
            arcsec(coarse)
        )
    };
    let name = "luminance and colours".to_owned();
    Some(AddOn { name, clock_s: own_s, clock_range_s: None, text })
}

/// Paths at equal clock: what each quantity reaches in the same time, best first, in a sentence a
/// quantity.
pub fn equal_clock(
    s: &Scenario,
    paths: &[LightPath],
    ranges: &[BTreeMap<Quantity, QuantityRange>],
) -> Vec<String> {
    let bases = Basis::all(s, paths);
    let letter = |i: usize| char::from(b'A' + i as u8);
    let sentence = |q: &Quantity| {
        let time = |p: &LightPath| p.time_s(*q, &p.shares(), &Scales::ONE, &[]);
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
            "{}: {} in {}{}{others}.",
            s.goal_phrase(*q),
            letter(*best),
            clock(*t),
            range(*best)
        ))
    };
    bases.iter().filter_map(|b| sentence(&b.quantity?)).collect()
}
