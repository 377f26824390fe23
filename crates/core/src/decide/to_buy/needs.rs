//! What a kind of target needs at a place, and how long each filter takes for it.

use crate::decide::to_buy::question::{BuyKind, BuyQuestion};
use crate::library::gear::GearFilter;
use crate::light::lines::Quantity;
use crate::light::tables::Tables;
use crate::path::filter::colour_band::ColourBand;
use crate::path::filter::weights::FilterInCone;
use crate::path::scales::Scales;
use crate::path::scene::Scene;
use crate::scenario::document::Scenario;
use crate::scenario::rig::Contender;
use crate::signal::aim::Aim;
use crate::signal::instrument::leading;
use crate::signal::rig::{FilterRates, Rig};

/// Colour may be so many times coarser than luminance before a picture looks blotched (from
/// memory).
pub const COLOUR_COARSER: f64 = 3.0;

/// Where it is asked whether a sensor sees infrared and whether a filter keeps it out, nm: clear of
/// the edge of every cut.
pub(crate) const DEEP_INFRARED_NM: f64 = 800.0;

/// A sensor that still answers with this share of its peak there wants a filter that cuts it.
pub(crate) const INFRARED_SHARE: f64 = 0.1;

/// What a picture needs of one exposure.
pub(super) struct Need {
    pub(super) label: String,
    /// Clock time through each filter, none first, s; infinite where it does not serve.
    times: Vec<f64>,
    /// Whether a filter may serve it together with others.
    line: bool,
}

/// A kind of target at a place.
pub(super) struct Picture<'a> {
    pub(super) place: usize,
    pub(super) kind: &'a BuyKind,
    pub(super) needs: Vec<Need>,
    /// Hours a year that go into such pictures.
    pub(super) hours: f64,
}

/// Ways of sharing up to three things out.
const PARTITIONS: [&[&[&[usize]]]; 4] = [
    &[&[]],
    &[&[&[0]]],
    &[&[&[0], &[1]], &[&[0, 1]]],
    &[&[&[0], &[1], &[2]], &[&[0, 1], &[2]], &[&[0, 2], &[1]], &[&[1, 2], &[0]], &[&[0, 1, 2]]],
];

impl Picture<'_> {
    /// Whether a need is served by one of the filters.
    pub(super) fn served(&self, need: usize, have: &[bool]) -> bool {
        let times = &self.needs[need].times;
        have.iter().zip(times).any(|(own, t)| *own && t.is_finite())
    }

    /// Clock time until all of `needs` are met with the filters that there are, s.
    pub(super) fn time(&self, needs: &[usize], have: &[bool]) -> f64 {
        let block = |block: &[usize]| {
            let slowest =
                |f: usize| block.iter().map(|n| self.needs[*n].times[f]).fold(0.0, f64::max);
            (0..have.len()).filter(|f| have[*f]).map(slowest).fold(f64::INFINITY, f64::min)
        };
        let (lines, alone): (Vec<usize>, Vec<usize>) =
            needs.iter().copied().partition(|n| self.needs[*n].line);
        let single: f64 = alone.iter().map(|n| block(&[*n])).sum();
        // More than three lines are not shared out: no target has them among its goals.
        let (shared, rest) = lines.split_at(lines.len().min(3));
        let rest: f64 = rest.iter().map(|n| block(&[*n])).sum();
        let of = |way: &&&[&[usize]]| -> f64 {
            way.iter().map(|b| block(&b.iter().map(|i| shared[*i]).collect::<Vec<_>>())).sum()
        };
        let best =
            PARTITIONS[shared.len()].iter().map(|way| of(&way)).fold(f64::INFINITY, f64::min);
        single + rest + best
    }

    pub(super) fn all(&self) -> Vec<usize> {
        (0..self.needs.len()).collect()
    }

    /// The needs that these filters serve.
    pub(super) fn within(&self, have: &[bool]) -> Vec<usize> {
        self.all().into_iter().filter(|n| self.served(*n, have)).collect()
    }
}

/// The filters of a question as the rig sees them.
pub(super) struct Offer<'a> {
    /// Those that are of use on its camera.
    pub(super) filters: Vec<&'a GearFilter>,
}

impl<'a> Offer<'a> {
    pub(super) fn new(q: &BuyQuestion<'a>) -> Self {
        let colour = q.rig.sensor.cfa.is_some();
        Self { filters: q.filters.iter().filter(|f| f.fits.on(colour)).collect() }
    }

    /// None, and what is owned.
    pub(super) fn owned(&self) -> Vec<bool> {
        std::iter::once(true).chain(self.filters.iter().map(|f| f.mine)).collect()
    }

    /// None, and everything.
    pub(super) fn everything(&self) -> Vec<bool> {
        vec![true; self.filters.len() + 1]
    }
}

/// Whether a sensor sees enough infrared for a filter to have to cut it.
pub(crate) fn sees_infrared(rig: &Contender) -> bool {
    let channels = rig.sensor.channels();
    let peak = |nm: f64| channels.iter().map(|c| c.response(nm)).fold(0.0, f64::max);
    let most = (400..=700).map(|nm| peak(f64::from(nm))).fold(0.0, f64::max);
    peak(DEEP_INFRARED_NM) > INFRARED_SHARE * most
}

/// One filter (or none) behind the rig under one sky and target.
struct Through {
    band: ColourBand,
    /// Whether infrared does not pass.
    cuts_infrared: bool,
    rates: FilterRates,
}

impl Through {
    fn new(rig: &Rig, filter: Option<&GearFilter>) -> Self {
        let filter = filter.map(|f| &f.filter);
        let cone = FilterInCone::new(filter, &rig.contender().optics, 0.0);
        Self {
            band: cone.colour_band(),
            cuts_infrared: cone.at_normal_incidence(DEEP_INFRARED_NM) < INFRARED_SHARE,
            rates: rig.through_own_cone(filter),
        }
    }

    /// Clock time for a line, s: only where it stands for itself.
    fn line_s(&self, rig: &Rig, aim: &Aim) -> f64 {
        let q = aim.goal.quantity;
        let Some(best) = leading(&self.rates.channels, q) else { return f64::INFINITY };
        if !best.records[q] || !best.nominal().stands_alone(q) {
            return f64::INFINITY;
        }
        self.time_s(rig, aim)
    }

    /// Clock time for starlight in one band, s.
    fn broad_s(&self, rig: &Rig, aim: &Aim, band: ColourBand, cut_infrared: bool) -> f64 {
        let fits =
            self.band == band && self.rates.is_broad() && (!cut_infrared || self.cuts_infrared);
        if fits { self.time_s(rig, aim) } else { f64::INFINITY }
    }

    fn time_s(&self, rig: &Rig, aim: &Aim) -> f64 {
        let rate = rig.instrument.goal_rate(&self.rates.channels, aim, &Scales::ONE);
        rate.time_to_s(aim.snr).unwrap_or(f64::INFINITY)
    }
}

pub(super) fn picture<'a>(
    q: &BuyQuestion<'a>,
    offer: &Offer,
    place: usize,
    kind: &'a BuyKind,
    tables: &Tables,
) -> Picture<'a> {
    let at = &q.places[place];
    let mut s = Scenario::of(kind.target.clone(), at.sky.clone(), vec![q.rig.clone()]);
    s.seeing_fwhm_arcsec = at.seeing_fwhm_arcsec;
    let scene = Scene::new(&s, tables);
    let rig = Rig::new(&s, &scene, q.rig);
    let through: Vec<Through> = std::iter::once(None)
        .chain(offer.filters.iter().map(|f| Some(*f)))
        .map(|filter| Through::new(&rig, filter))
        .collect();
    let cut = sees_infrared(q.rig);
    let mut needs = Vec::new();
    for goal in &s.goals {
        let aim = Aim::new(&s, goal.quantity);
        if goal.quantity != Quantity::Continuum {
            needs.push(Need {
                label: s.target.name_of(goal.quantity).to_owned(),
                times: through.iter().map(|t| t.line_s(&rig, &aim)).collect(),
                line: true,
            });
            continue;
        }
        let broad = |label: &str, aim: &Aim, band: ColourBand, cut: bool| Need {
            label: label.to_owned(),
            times: through.iter().map(|t| t.broad_s(&rig, aim, band, cut)).collect(),
            line: false,
        };
        // Mono frames are focused filter by filter, and colours come from filters of their own.
        needs.push(broad("starlight", &aim, ColourBand::Any, cut && rig.is_colour()));
        if !rig.is_colour() {
            let coarse = Aim { snr: aim.snr / COLOUR_COARSER, ..aim };
            for (label, band) in
                [("red", ColourBand::Red), ("green", ColourBand::Green), ("blue", ColourBand::Blue)]
            {
                needs.push(broad(label, &coarse, band, false));
            }
        }
    }
    let year_h = at.nights_per_year * at.hours_per_night;
    Picture { place, kind, needs, hours: year_h / q.kinds.len().max(1) as f64 }
}
