//! The answer made from the model: signal to noise, stages, sub-exposures and stars of every path.

use std::collections::BTreeMap;

use crate::evaluate::answer::{
    ChannelAnswer, ContenderAnswer, Evaluation, EvaluationFormat, ExposureAnswer, QuantityAnswer,
    RatesAnswer, SkyAnswer, SkyOverSignal, StagesAnswer, SubAnswer,
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
        contenders: s
            .contenders
            .iter()
            .zip(&model.paths)
            .map(|(c, path)| contender(s, c, path))
            .collect(),
        warnings: warnings(s, model),
    }
}

fn contender(s: &Scenario, c: &Contender, path: &LightPath) -> ContenderAnswer {
    let exposures: Vec<_> = path
        .exposures
        .iter()
        .zip(&c.exposures)
        .map(|(m, e)| exposure(s, path, m, e.filter.as_ref().map(|f| f.name.clone())))
        .collect();
    let shares = path.shares();
    let quantities = Quantity::JUDGED.into_iter().filter(|&q| path.records(q)).map(|q| {
        let best = exposures
            .iter()
            .flat_map(|e| &e.channels)
            .filter_map(|c| c.snr.get(&q).map(|snr| (snr, c.contrast[&q])));
        let contrast = best.max_by(|a, b| a.0.total_cmp(b.0)).and_then(|b| b.1);
        let time_to_goal_s = path.time_s(q, &shares, &Scales::ONE, &[]);
        let snr = path.snr_of_whole_subs(q, path.clock_s);
        let mixed_with = mixed_with(path, q);
        let mixed_with_name = mixed_with.map(|other| s.target.mixed_name(q, other));
        let clean = path.clean_parts(q);
        let clean_arcsec = clean.of(path.aims[q].goal.part);
        let answer = QuantityAnswer {
            snr,
            time_to_goal_s,
            clean_arcsec,
            clean: clean.into(),
            stars_to_v_mag: path.stars_to_v_mag(q),
            finest_arcsec: path.finest_arcsec(q),
            contrast,
            mixed_with,
            mixed_with_name,
        };
        (q, answer)
    });
    let quantities = quantities.collect();
    ContenderAnswer {
        name: c.name.clone(),
        pixel_scale_arcsec: path.instrument.scale_arcsec,
        focal_ratio: c.optics.focal_ratio(),
        clock_s: path.clock_s,
        sensor_temperature_c: c.sensor_temperature(s.sky.ambient_c),
        dark_e_per_s: c.sensor.dark.rate_e_per_s(c.sensor_temperature(s.sky.ambient_c)),
        dark_share: dark_share(path),
        exposures,
        quantities,
    }
}

/// The largest share of dark current in what is not the target.
fn dark_share(path: &LightPath) -> f64 {
    let channels = path.exposures.iter().flat_map(|e| &e.channels);
    let share = |c: &ChannelModel| {
        let r = c.nominal();
        r.dark / (r.dark + r.background()).max(f64::MIN_POSITIVE)
    };
    channels.map(share).fold(0.0, f64::max)
}

fn exposure(
    s: &Scenario,
    path: &LightPath,
    m: &ExposureModel,
    filter: Option<String>,
) -> ExposureAnswer {
    let clock_s = path.clock_s * m.share;
    let subs = subs_in(clock_s, m.sub_s, path.instrument.between_s);
    let channels: Vec<_> =
        m.channels.iter().map(|c| channel(s, &m.instrument, c, m.sub_s, subs)).collect();
    let signal = |c: &ChannelAnswer| c.snr.values().copied().fold(0.0, f64::max);
    let leading = channels.iter().max_by(|a, b| signal(a).total_cmp(&signal(b)));
    let sub_exposure = leading
        .map(|c| c.sub_exposure.clone())
        .unwrap_or_else(|| unreachable!("an exposure has a channel"));
    let stages = Quantity::JUDGED
        .into_iter()
        .zip(m.stages.0)
        .filter_map(|(q, s)| Some((q, shown(s?))))
        .collect();
    ExposureAnswer {
        filter,
        equivalent_width_nm: m.equivalent_width_nm,
        pixel_scale_arcsec: m.instrument.scale_arcsec * m.instrument.binning,
        subs_kept: path.instrument.kept(subs, m.sub_s),
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

/// The line from which a path cannot tell another, in the channel that sees it best.
fn mixed_with(path: &LightPath, q: Quantity) -> Option<Quantity> {
    let rates = path.best_channel(q)?.2.nominal();
    let lines = || Quantity::ALL.into_iter().filter(|l| *l != Quantity::Continuum);
    if q == Quantity::Continuum || rates.stands_alone(q) {
        return None;
    }
    // What the same name holds besides the line itself: beside H-alpha alone, [N II].
    let besides = |l: Quantity| match (q, l) {
        (Quantity::HaAlone, Quantity::Ha) => rates.nii(),
        _ => rates.of(l),
    };
    lines().filter(|l| *l != q).max_by(|a, b| besides(*a).total_cmp(&besides(*b)))
}

fn shown(s: Stages) -> StagesAnswer {
    StagesAnswer { atmosphere: s.atmosphere, optics: s.optics, filter: s.filter, sensor: s.sensor }
}

fn sky_over_signal(m: &ExposureModel) -> BTreeMap<Quantity, SkyOverSignal> {
    let of = |q: Quantity| {
        let (best, open) =
            m.channels.iter().zip(&m.open).max_by(|a, b| a.1.of(q).total_cmp(&b.1.of(q)))?;
        let over = |r: &Rates| (r.of(q) > 0.0).then(|| r.background() / r.of(q));
        let after_filter = if best.records[q] { over(best.nominal()) } else { None };
        Some((q, SkyOverSignal { before_filter: over(open)?, after_filter }))
    };
    Quantity::JUDGED.into_iter().filter_map(of).collect()
}

fn channel(
    s: &Scenario,
    instrument: &Instrument,
    c: &ChannelModel,
    sub_s: f64,
    subs: f64,
) -> ChannelAnswer {
    let (r, gain) = (c.nominal(), instrument.gain);
    let (target, background, total) = (r.target_sum(), r.background(), r.total());
    let peak_rate = target * s.target.peak_factor + background + r.dark;
    let recorded = || Quantity::JUDGED.into_iter().filter(|&q| c.records[q]);
    let room = gain.full_scale_e - (background + r.dark) * sub_s;
    let star = instrument.star_terms(r, c.pixel_share, sub_s, subs);
    let star_per_s = r.star_v0 * instrument.star_peak_share();
    // The answer tells what one pixel of the frame does: n x n of the sensor's.
    let n = instrument.binning;
    let [ha, oiii, sii, hb, continuum, ha_alone] = r.target.map(|rate| rate * n * n).0;
    let [natural, artificial, moon, twilight] = r.sky.map(|rate| rate * n * n).0;
    ChannelAnswer {
        channel: c.name,
        pixel_share: c.pixel_share,
        rates_e_per_s: RatesAnswer {
            ha,
            ha_alone,
            oiii,
            sii,
            hb,
            continuum,
            natural,
            artificial,
            moon,
            twilight,
            dark: r.dark * n * n,
        },
        read_noise_e: gain.read_noise_e * n,
        full_scale_e: gain.full_scale_e * n * n,
        read_noise_excess: (total > 0.0)
            .then(|| read_noise_excess(gain.read_noise_e, total, sub_s)),
        background_per_read_noise2: background * sub_s / gain.read_noise_e.powi(2),
        clip_star_v_mag: mag_from_linear(room / (star_per_s * sub_s)).filter(|m| m.is_finite()),
        limiting_star_v_mag: star.limit_v_mag(),
        star_snr: star.snr(s.star_v_mag),
        peak_fraction_of_full_scale: peak_rate * sub_s / gain.full_scale_e,
        snr_sub_px: if target > 0.0 {
            n * target * sub_s / (total * sub_s + gain.read_noise_e.powi(2)).sqrt()
        } else {
            0.0
        },
        snr: recorded()
            .map(|q| (q, instrument.channel_snr2(r, q, c.pixels, sub_s, subs).sqrt()))
            .collect(),
        purity: recorded().map(|q| (q, r.of(q) / target)).collect(),
        contrast: recorded()
            .map(|q| (q, (background > 0.0).then(|| r.of(q) / background)))
            .collect(),
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

#[cfg(test)]
mod tests {
    use crate::common::{bands, evaluate, ic_443, through};
    use crate::light::lines::Quantity;

    /// A camera without cooling follows the air: its dark current is told at that temperature, with
    /// its share of the background; the set point is without meaning.
    #[test]
    fn dark_current_is_told_at_the_sensor_s_own_temperature() {
        let mut s = ic_443();
        s.sky.ambient_c = 18.0;
        let c = &mut s.contenders[0];
        (c.sensor.rise_above_ambient_k, c.sensor_temperature_c) = (Some(7.3), -10.0);
        let warm = evaluate(&s);
        let own = &warm.contenders[0];
        assert!((own.sensor_temperature_c - 25.3).abs() < 1e-9);
        // 35.3 K above -10: 2^(35.3 / 6.3) times 0.0022.
        let expected = 0.0022 * (35.3f64 / 6.3).exp2();
        assert!((own.dark_e_per_s / expected - 1.0).abs() < 1e-9, "{}", own.dark_e_per_s);
        let shares = own.exposures.iter().flat_map(|e| &e.channels).map(|c| {
            let r = &c.rates_e_per_s;
            r.dark / (r.dark + r.natural + r.artificial + r.moon + r.twilight)
        });
        assert!((own.dark_share - shares.fold(0.0, f64::max)).abs() < 1e-12);
        s.sky.ambient_c = 0.0;
        assert!(evaluate(&s).contenders[0].dark_share < own.dark_share);
    }

    /// One filter that passes H-alpha and [S II] together on a colour camera: the red pixels cannot
    /// tell [S II] from the brighter H-alpha. Through filters of their own each stands for itself.
    #[test]
    fn a_line_that_drowns_in_another_is_told_as_mixed() {
        let mut s = ic_443();
        (s.target.lines_rayleigh.ha, s.target.lines_rayleigh.sii) = (100.0, 30.0);
        let both = bands("quad", 7.0, &[656.3, 672.4, 500.7]);
        s.contenders = vec![
            through(&s.contenders[1], vec![Some(both)], 120.0),
            through(
                &s.contenders[0],
                vec![Some(bands("Ha", 7.0, &[656.3])), Some(bands("SII", 7.0, &[672.4]))],
                120.0,
            ),
        ];
        let answer = evaluate(&s);
        let of = |i: usize, q: Quantity| answer.contenders[i].quantities[&q].mixed_with;
        assert_eq!(of(0, Quantity::Sii), Some(Quantity::Ha));
        assert_eq!((of(0, Quantity::Ha), of(0, Quantity::Oiii)), (None, None));
        assert_eq!((of(1, Quantity::Ha), of(1, Quantity::Sii)), (None, None));
    }
}
