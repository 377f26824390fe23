//! The answer made from the model: signal to noise, stages, sub-exposures and stars of every path.

use std::collections::BTreeMap;

use crate::evaluate::answer::{
    ChannelAnswer, ContenderAnswer, Evaluation, EvaluationFormat, ExposureAnswer, QuantityAnswer, RatesAnswer, SkyAnswer, SkyOverSignal,
    StagesAnswer, SubAnswer,
};
use crate::evaluate::warnings::warnings;
use crate::light::lines::Quantity;
use crate::light::tables::Tables;
use crate::light::units::mag_from_linear;
use crate::path::rates::Rates;
use crate::path::scales::Scales;
use crate::path::sky::parts::total_mag;
use crate::path::stages::Stages;
use crate::scenario::check::Checked;
use crate::scenario::document::Scenario;
use crate::scenario::rig::Contender;
use crate::signal::channel::ChannelModel;
use crate::signal::instrument::Instrument;
use crate::signal::model::{ExposureModel, LightPath, Model};
use crate::signal::stack::subs_in;
use crate::signal::star::star_peak_share;
use crate::signal::sub::{excess_sub_s, plateau, read_noise_excess, swamp_sub_s};

/// Answers a checked scenario.
pub fn evaluate(scenario: &Checked, tables: &Tables) -> Evaluation {
    answered(scenario.scenario(), &Model::nominal(scenario, tables))
}

/// The published answer of a scenario whose electrons are counted.
pub fn answered(s: &Scenario, model: &Model) -> Evaluation {
    let [natural_v_mag, artificial_v_mag, moon_v_mag, twilight_v_mag] = model.sky_mags.0;
    let air = model.scene.sky.air;
    Evaluation {
        format: EvaluationFormat::Evaluation,
        version: 1,
        sky: SkyAnswer {
            natural_v_mag,
            artificial_v_mag,
            moon_v_mag,
            twilight_v_mag,
            total_v_mag: total_mag(&model.sky_mags),
            airmass: air.airmass,
            k_v: air.k(550.0),
        },
        contenders: s.contenders.iter().zip(&model.paths).map(|(c, path)| contender(s, c, path)).collect(),
        warnings: warnings(s, model),
    }
}

fn contender(s: &Scenario, c: &Contender, path: &LightPath) -> ContenderAnswer {
    let exposures: Vec<_> =
        path.exposures.iter().zip(&c.exposures).map(|(m, e)| exposure(s, path, m, e.filter.as_ref().map(|f| f.name.clone()))).collect();
    let shares = path.shares();
    let quantities = Quantity::ALL.into_iter().filter(|&q| path.records(q)).map(|q| {
        let best = exposures.iter().flat_map(|e| &e.channels).filter_map(|c| c.snr.get(&q).map(|snr| (snr, c.contrast[&q])));
        let contrast = best.max_by(|a, b| a.0.total_cmp(b.0)).and_then(|b| b.1);
        let time_to_goal_s = path.time_s(q, s.goal_snr, &shares, &Scales::ONE, &[]);
        (q, QuantityAnswer { snr: path.snr_of_whole_subs(q, s.total_s), time_to_goal_s, contrast })
    });
    let quantities = quantities.collect();
    ContenderAnswer {
        name: c.name.clone(),
        pixel_scale_arcsec: path.instrument.scale_arcsec,
        focal_ratio: c.optics.focal_ratio(),
        sensor_temperature_c: c.sensor_temperature(s.sky.ambient_c),
        exposures,
        quantities,
    }
}

fn exposure(s: &Scenario, path: &LightPath, m: &ExposureModel, filter: Option<String>) -> ExposureAnswer {
    let clock_s = s.total_s * m.share;
    let subs = subs_in(clock_s, m.sub_s, path.instrument.between_s);
    let channels: Vec<_> = m.channels.iter().map(|c| channel(s, &path.instrument, c, m.sub_s, subs)).collect();
    let signal = |c: &ChannelAnswer| c.snr.values().copied().fold(0.0, f64::max);
    let leading = channels.iter().max_by(|a, b| signal(a).total_cmp(&signal(b)));
    let sub_exposure = leading.map(|c| c.sub_exposure.clone()).unwrap_or_else(|| unreachable!("an exposure has a channel"));
    let stages = Quantity::ALL.into_iter().zip(m.stages.0).filter_map(|(q, s)| Some((q, shown(s?)))).collect();
    ExposureAnswer {
        filter,
        equivalent_width_nm: m.equivalent_width_nm,
        subs: subs as u32,
        sub_s: m.sub_s,
        clock_s,
        channels,
        sub_exposure,
        stages,
        transmissions: m.transmissions.clone(),
        sky_over_signal: sky_over_signal(m),
    }
}

fn shown(s: Stages) -> StagesAnswer {
    StagesAnswer { atmosphere: s.atmosphere, optics: s.optics, filter: s.filter, sensor: s.sensor }
}

fn sky_over_signal(m: &ExposureModel) -> BTreeMap<Quantity, SkyOverSignal> {
    let of = |q: Quantity| {
        let (best, open) = m.channels.iter().zip(&m.open).max_by(|a, b| a.1.of(q).total_cmp(&b.1.of(q)))?;
        let over = |r: &Rates| (r.of(q) > 0.0).then(|| r.background() / r.of(q));
        let after_filter = if best.records[q] { over(best.nominal()) } else { None };
        Some((q, SkyOverSignal { before_filter: over(open)?, after_filter }))
    };
    Quantity::ALL.into_iter().filter_map(of).collect()
}

fn channel(s: &Scenario, instrument: &Instrument, c: &ChannelModel, sub_s: f64, subs: f64) -> ChannelAnswer {
    let (r, gain) = (c.nominal(), instrument.gain);
    let (target, background, total) = (r.target_sum(), r.background(), r.total());
    let peak_rate = target * s.target.peak_factor + background + r.dark;
    let recorded = || Quantity::ALL.into_iter().filter(|&q| c.records[q]);
    let room = gain.full_scale_e - (background + r.dark) * sub_s;
    let star = instrument.star_terms(r, c.pixel_share, sub_s, subs);
    let star_per_s = r.star_v0 * star_peak_share(s.seeing_fwhm_arcsec, instrument.scale_arcsec);
    let [ha, oiii, sii, hb, continuum] = r.target.0;
    let [natural, artificial, moon, twilight] = r.sky.0;
    ChannelAnswer {
        channel: c.name,
        pixel_share: c.pixel_share,
        rates_e_per_s: RatesAnswer { ha, oiii, sii, hb, continuum, natural, artificial, moon, twilight, dark: r.dark },
        read_noise_e: gain.read_noise_e,
        full_scale_e: gain.full_scale_e,
        read_noise_excess: (total > 0.0).then(|| read_noise_excess(gain.read_noise_e, total, sub_s)),
        background_per_read_noise2: background * sub_s / gain.read_noise_e.powi(2),
        clip_star_v_mag: mag_from_linear(room / (star_per_s * sub_s)).filter(|m| m.is_finite()),
        limiting_star_v_mag: star.limit_v_mag(),
        star_snr: star.snr(s.star_v_mag),
        peak_fraction_of_full_scale: peak_rate * sub_s / gain.full_scale_e,
        snr_sub_px: if target > 0.0 { target * sub_s / (total * sub_s + gain.read_noise_e.powi(2)).sqrt() } else { 0.0 },
        snr: recorded().map(|q| (q, instrument.channel_snr2(r, q, c.pixels, sub_s, subs).sqrt())).collect(),
        purity: recorded().map(|q| (q, r.of(q) / target)).collect(),
        contrast: recorded().map(|q| (q, (background > 0.0).then(|| r.of(q) / background))).collect(),
        sub_exposure: sub_exposure(instrument, c, peak_rate),
    }
}

fn sub_exposure(instrument: &Instrument, c: &ChannelModel, peak_rate: f64) -> SubAnswer {
    let terms = instrument.sub_terms(c.nominal());
    let p = plateau(&terms);
    SubAnswer {
        channel: c.name,
        excess_5pct_s: excess_sub_s(&terms, 0.05),
        swamp_10x_s: swamp_sub_s(&terms, 10.0),
        best_s: p.best_s,
        plateau_s: [p.from_s, p.to_s],
        core_clips_s: instrument.gain.full_scale_e / peak_rate.max(1e-12),
        longest_s: terms.longest_s,
    }
}
