//! The published answer to a scenario. Fields may be added; none changes its meaning within version 1.

use serde::Serialize;
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::light::lines::Quantity;
use crate::light::units::mag_from_linear;
use crate::path::filter::report::LineTransmission;
use crate::path::sky::parts::total_mag;
use crate::path::sky::twilight::TWILIGHT_UNTIL_DEG;
use crate::path::stages::Stages;
use crate::scenario::check::Checked;
use crate::scenario::document::Scenario;
use crate::scenario::rig::Contender;
use crate::signal::prepare::{Prepared, PreparedChannel, PreparedContender, PreparedExposure};
use crate::signal::stack::subs_in;
use crate::signal::star::{StarTerms, star_peak_share};
use crate::signal::sub::{excess_sub_s, plateau, read_noise_excess, swamp_sub_s};

/// The name of the answer's format.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, ToSchema)]
pub enum EvaluationFormat {
    /// The only value.
    #[default]
    #[serde(rename = "salt-lamp-evaluation")]
    Evaluation,
}

/// The answer to a scenario.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Evaluation {
    /// Always `salt-lamp-evaluation`.
    pub format: EvaluationFormat,
    /// Always 1.
    pub version: u32,
    /// The sky towards the target.
    pub sky: SkyAnswer,
    /// The contenders in the scenario's order.
    pub contenders: Vec<ContenderAnswer>,
    /// What the user should know about the input, such as a value taken from the end of a table.
    pub warnings: Vec<Warning>,
}

/// Something worth knowing about one field of the scenario.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, ToSchema)]
pub struct Warning {
    /// Path of the field.
    pub path: String,
    /// What was done about it, in a sentence.
    pub message: String,
}

/// V brightness of the sky towards the target, mag/arcsec^2; null for no light.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct SkyAnswer {
    /// Natural sky.
    pub natural_v_mag: Option<f64>,
    /// Lamps.
    pub artificial_v_mag: Option<f64>,
    /// Moonlight.
    pub moon_v_mag: Option<f64>,
    /// Twilight.
    pub twilight_v_mag: Option<f64>,
    /// All together.
    pub total_v_mag: Option<f64>,
    /// Airmass of the target.
    pub airmass: f64,
    /// Extinction at 550 nm, mag per airmass.
    pub k_v: f64,
}

/// One light path.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct ContenderAnswer {
    /// Its name.
    pub name: String,
    /// Pixel scale, arcsec.
    pub pixel_scale_arcsec: f64,
    /// Focal ratio after the reducer.
    pub focal_ratio: f64,
    /// Temperature of the sensor: its set point, or the air's plus its rise, degrees Celsius.
    pub sensor_temperature_c: f64,
    /// Its exposures in order.
    pub exposures: Vec<ExposureAnswer>,
    /// What it reaches in each quantity that it records.
    pub quantities: BTreeMap<Quantity, QuantityAnswer>,
}

/// One exposure of a light path.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct ExposureAnswer {
    /// Name of the filter; null for none.
    pub filter: Option<String>,
    /// Integral of the filter's transmission in this telescope's cone, nm.
    pub equivalent_width_nm: f64,
    /// Whole subs that fit.
    pub subs: u32,
    /// Length of a sub, s.
    pub sub_s: f64,
    /// Time on the clock, s.
    pub clock_s: f64,
    /// Its channels.
    pub channels: Vec<ChannelAnswer>,
    /// Its sub, judged by the channel that carries most of the signal.
    pub sub_exposure: SubAnswer,
    /// What is left of each quantity's light after each stage.
    pub stages: BTreeMap<Quantity, StagesAnswer>,
    /// What the filter passes of each line in this cone, head-on, and for copies at the ends of its tolerance.
    pub transmissions: BTreeMap<Quantity, LineTransmission>,
    /// Sky over each quantity before and after the filter, in the channel that sees the quantity best.
    pub sky_over_signal: BTreeMap<Quantity, SkyOverSignal>,
}

/// How many sky electrons there are for one of the quantity.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct SkyOverSignal {
    /// Without the filter.
    pub before_filter: f64,
    /// With it; null where nothing of the quantity passes.
    pub after_filter: Option<f64>,
}

/// Fractions of the light that reaches the top of the atmosphere over the full aperture.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct StagesAnswer {
    /// After the air.
    pub atmosphere: f64,
    /// After obstruction, mirrors and lenses.
    pub optics: f64,
    /// After the filter.
    pub filter: f64,
    /// Counted as electrons over all pixels.
    pub sensor: f64,
}

/// One channel of an exposure.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct ChannelAnswer {
    /// `mono`, `r`, `g` or `b`.
    pub channel: &'static str,
    /// Share of the pixels.
    pub pixel_share: f64,
    /// Electrons per second and pixel by source.
    pub rates_e_per_s: RatesAnswer,
    /// Read noise with quantisation noise, e-.
    pub read_noise_e: f64,
    /// Full scale, e-.
    pub full_scale_e: f64,
    /// By how much read noise raises the noise of a sub, as a fraction; null where nothing shines.
    pub read_noise_excess: Option<f64>,
    /// Sky electrons in a sub over the read noise squared.
    pub background_per_read_noise2: f64,
    /// Stars brighter than this clip, V mag; null where the sky alone fills the pixel.
    pub clip_star_v_mag: Option<f64>,
    /// Faintest star at signal to noise 5 in the stack, V mag; null where nothing was exposed.
    pub limiting_star_v_mag: Option<f64>,
    /// Signal to noise of the scenario's star in the stack, in an aperture of 1.6 FWHM.
    pub star_snr: f64,
    /// How full the brightest part of the target makes a pixel in one sub; above 1 it clips.
    pub peak_fraction_of_full_scale: f64,
    /// Signal to noise of the whole target in one pixel of one sub.
    pub snr_sub_px: f64,
    /// Signal to noise of each recorded quantity in the stack, on the square of detail.
    pub snr: BTreeMap<Quantity, f64>,
    /// Share of the target's electrons that belongs to each quantity.
    pub purity: BTreeMap<Quantity, f64>,
    /// Target over sky, for each recorded quantity; null where no sky shines.
    pub contrast: BTreeMap<Quantity, Option<f64>>,
    /// Its sub-exposure.
    pub sub_exposure: SubAnswer,
}

/// Electrons per second and pixel by source.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
#[allow(missing_docs)]
pub struct RatesAnswer {
    pub ha: f64,
    pub oiii: f64,
    pub sii: f64,
    pub hb: f64,
    pub continuum: f64,
    pub natural: f64,
    pub artificial: f64,
    pub moon: f64,
    pub twilight: f64,
    pub dark: f64,
}

/// Lengths of a sub by several criteria, s.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct SubAnswer {
    /// The channel that this is about.
    pub channel: &'static str,
    /// Read noise adds 5 % to the noise of sky and dark current; null where there is neither.
    pub excess_5pct_s: Option<f64>,
    /// Sky electrons are ten times the read noise squared; null where no sky shines.
    pub swamp_10x_s: Option<f64>,
    /// Most information per hour of clock, within the mount's limit.
    pub best_s: f64,
    /// From and to where the information per hour is at least 95 % of the best.
    pub plateau_s: [f64; 2],
    /// The brightest part of the target clips in subs longer than this.
    pub core_clips_s: f64,
    /// The mount's limit; null for none.
    pub longest_s: Option<f64>,
}

/// What a light path reaches in one quantity.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct QuantityAnswer {
    /// Signal to noise in the given time, whole subs.
    pub snr: f64,
    /// Time on the clock to the goal, s; null where it is out of reach.
    pub time_to_goal_s: Option<f64>,
    /// Target over sky in the channel that sees the quantity best; null where no sky shines.
    pub contrast: Option<f64>,
}

impl From<Stages> for StagesAnswer {
    fn from(s: Stages) -> Self {
        Self { atmosphere: s.atmosphere, optics: s.optics, filter: s.filter, sensor: s.sensor }
    }
}

impl Prepared {
    /// The published answer.
    pub fn answer(&self, scenario: &Checked) -> Evaluation {
        let s = scenario.scenario();
        let [natural_v_mag, artificial_v_mag, moon_v_mag, twilight_v_mag] = self.sky_mags;
        Evaluation {
            format: EvaluationFormat::Evaluation,
            version: 1,
            sky: SkyAnswer {
                natural_v_mag,
                artificial_v_mag,
                moon_v_mag,
                twilight_v_mag,
                total_v_mag: total_mag(&self.sky_mags),
                airmass: self.scene.sky.air.airmass,
                k_v: self.scene.sky.air.k(550.0),
            },
            contenders: s.contenders.iter().zip(&self.contenders).map(|(c, p)| p.answer(s, c)).collect(),
            warnings: self.warnings(s),
        }
    }

    fn warnings(&self, s: &Scenario) -> Vec<Warning> {
        let mut out = Vec::new();
        let mut warn = |path: String, message: String| out.push(Warning { path, message });
        if s.sky.sun_altitude_deg > TWILIGHT_UNTIL_DEG {
            warn(
                "sky.sun_altitude_deg".into(),
                "The sun is higher than -5 degrees: the twilight model ends there, so the sky is brighter than shown.".into(),
            );
        }
        if s.sky.zenith_v_mag > s.sky.natural_v_mag {
            warn(
                "sky.zenith_v_mag".into(),
                format!("Darker than the natural sky ({} mag/arcsec^2): taken as a site without lamps.", s.sky.natural_v_mag),
            );
        }
        for (i, (c, p)) in s.contenders.iter().zip(&self.contenders).enumerate() {
            if p.gain.clamped {
                let (lo, hi) = (c.sensor.gains[0].setting, c.sensor.gains[c.sensor.gains.len() - 1].setting);
                warn(
                    format!("contenders[{i}].gain"),
                    format!("Setting {} lies outside the gain table ({lo} to {hi}): its nearest end was taken.", c.gain),
                );
            }
            for (j, e) in p.exposures.iter().enumerate() {
                let ratio = c.optics.focal_ratio();
                let made_for = c.exposures[j].filter.as_ref().and_then(|f| f.design_focal_ratios);
                if let Some([fast, slow]) = made_for.filter(|[fast, slow]| !(*fast * 0.95..=*slow * 1.05).contains(&ratio)) {
                    let message = format!(
                        "The filter is made for f/{fast:.1} to f/{slow:.1}; this telescope is f/{ratio:.1}, so its band lies elsewhere than meant."
                    );
                    warn(format!("contenders[{i}].exposures[{j}].filter"), message);
                }
                for (q, t) in e.transmissions.iter().filter(|(_, t)| t.too_narrow) {
                    let head_on = t.head_on * 100.0;
                    let message = format!(
                        "Too narrow for f/{:.1}: the cone slides the band, and {:.0} % of the {} passes instead of {head_on:.0} %. A wider band or one made for fast light keeps more.",
                        ratio,
                        t.in_cone * 100.0,
                        q.label()
                    );
                    warn(format!("contenders[{i}].exposures[{j}].filter"), message);
                }
                if let Some(limit) = c.optics.longest_sub_s.filter(|&limit| e.sub_s > limit) {
                    warn(format!("contenders[{i}].exposures[{j}].sub_s"), format!("Longer than the {limit} s that the mount keeps round."));
                }
            }
        }
        out
    }
}

impl PreparedContender {
    fn answer(&self, s: &Scenario, c: &Contender) -> ContenderAnswer {
        let exposures: Vec<_> =
            self.exposures.iter().zip(&c.exposures).map(|(p, e)| p.answer(s, self, e.filter.as_ref().map(|f| f.name.clone()))).collect();
        let quantities = Quantity::ALL.into_iter().filter(|&q| self.records(q)).map(|q| {
            let best = exposures.iter().flat_map(|e| &e.channels).filter_map(|c| c.snr.get(&q).map(|snr| (snr, c.contrast[&q])));
            let contrast = best.max_by(|a, b| a.0.total_cmp(b.0)).and_then(|b| b.1);
            (q, QuantityAnswer { snr: self.snr(q, s.total_s, true), time_to_goal_s: self.time_to_goal_s(q, s.goal_snr), contrast })
        });
        let quantities = quantities.collect();
        ContenderAnswer {
            name: c.name.clone(),
            pixel_scale_arcsec: self.scale_arcsec,
            focal_ratio: c.optics.focal_ratio(),
            sensor_temperature_c: c.sensor_temperature(s.sky.ambient_c),
            exposures,
            quantities,
        }
    }
}

impl PreparedExposure {
    fn answer(&self, s: &Scenario, contender: &PreparedContender, filter: Option<String>) -> ExposureAnswer {
        let clock_s = s.total_s * self.share;
        let subs = subs_in(clock_s, self.sub_s, self.between_s);
        let channels: Vec<_> = self.channels.iter().map(|c| c.answer(s, self.sub_s, subs, contender)).collect();
        let signal = |c: &ChannelAnswer| c.snr.values().copied().fold(0.0, f64::max);
        let leading = channels.iter().max_by(|a, b| signal(a).total_cmp(&signal(b)));
        let sub_exposure = leading.map(|c| c.sub_exposure.clone()).unwrap_or_else(|| unreachable!("an exposure has a channel"));
        let stages = Quantity::ALL.into_iter().zip(self.stages).filter_map(|(q, s)| Some((q, s?.into()))).collect();
        ExposureAnswer {
            filter,
            equivalent_width_nm: self.equivalent_width_nm,
            subs: subs as u32,
            sub_s: self.sub_s,
            clock_s,
            channels,
            sub_exposure,
            stages,
            transmissions: self.transmissions.clone(),
            sky_over_signal: self.sky_over_signal(),
        }
    }
}

impl PreparedExposure {
    fn sky_over_signal(&self) -> BTreeMap<Quantity, SkyOverSignal> {
        let of = |q: Quantity| {
            let best = self.channels.iter().max_by(|a, b| a.open.of(q).total_cmp(&b.open.of(q)))?;
            let over = |r: &crate::path::rates::Rates| (r.of(q) > 0.0).then(|| r.background() / r.of(q));
            let after_filter = if best.records[q as usize] { over(&best.rates) } else { None };
            Some((q, SkyOverSignal { before_filter: over(&best.open)?, after_filter }))
        };
        Quantity::ALL.into_iter().filter_map(of).collect()
    }
}

impl PreparedChannel {
    fn answer(&self, s: &Scenario, sub_s: f64, subs: f64, contender: &PreparedContender) -> ChannelAnswer {
        let (r, gain) = (&self.rates, contender.gain);
        let (target, background, total) = (r.target_sum(), r.background(), r.total());
        let peak_rate = target * s.target.peak_factor + background + r.dark;
        let recorded = || Quantity::ALL.into_iter().filter(|&q| self.records[q as usize]);
        let room = gain.full_scale_e - (background + r.dark) * sub_s;
        let star = StarTerms {
            v0_e_per_s: r.star_v0,
            background_e_per_s: background + r.dark,
            read_noise_e: gain.read_noise_e,
            sub_s,
            subs,
            fwhm_arcsec: s.seeing_fwhm_arcsec,
            scale_arcsec: contender.scale_arcsec,
            pixel_share: self.pixel_share,
        };
        let star_per_s = r.star_v0 * star_peak_share(s.seeing_fwhm_arcsec, contender.scale_arcsec);
        let [ha, oiii, sii, hb, continuum] = r.target;
        let [natural, artificial, moon, twilight] = r.sky;
        ChannelAnswer {
            channel: self.name,
            pixel_share: self.pixel_share,
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
            snr: recorded().map(|q| (q, self.snr(q, sub_s, subs))).collect(),
            purity: recorded().map(|q| (q, r.of(q) / target)).collect(),
            contrast: recorded().map(|q| (q, (background > 0.0).then(|| r.of(q) / background))).collect(),
            sub_exposure: self.sub_answer(peak_rate, gain.full_scale_e),
        }
    }

    fn sub_answer(&self, peak_rate: f64, full_scale_e: f64) -> SubAnswer {
        let p = plateau(&self.sub);
        SubAnswer {
            channel: self.name,
            excess_5pct_s: excess_sub_s(&self.sub, 0.05),
            swamp_10x_s: swamp_sub_s(&self.sub, 10.0),
            best_s: p.best_s,
            plateau_s: [p.from_s, p.to_s],
            core_clips_s: full_scale_e / peak_rate.max(1e-12),
            longest_s: self.sub.longest_s,
        }
    }
}
