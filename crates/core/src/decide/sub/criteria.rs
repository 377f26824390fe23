//! Every school's criterion side by side with what it costs, and the limits of a sub.

use serde::Serialize;
use utoipa::ToSchema;

use crate::decide::sub::frame;
use crate::decide::sub::view::{View, fastest, fastest_range, view};
use crate::decide::uncertainty::draws::{PathDraws, Range, by_light};
use crate::path::rates::Rates;
use crate::path::sensor::GainPoint;
use crate::scenario::choices::{Purpose, SubCriterion};
use crate::scenario::document::Scenario;
use crate::scenario::rig::Contender;
use crate::signal::channel::ChannelModel;
use crate::signal::model::LightPath;
use crate::signal::stack::subs_in;
use crate::signal::sub::{LONGEST_SUB_S, excess_sub_s, plateau, read_noise_excess, swamp_sub_s};
use crate::wording::{capital, seconds};

/// One school's answer.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Criterion {
    /// The school.
    pub school: SubCriterion,
    /// What it asks for, in a few words.
    pub label: String,
    /// The sub it gives, s; null where it gives none (no sky shines, no limit is set).
    pub sub_s: Option<f64>,
    /// Its range; null where it gives none in some draw.
    pub sub_range_s: Option<Range>,
    /// Information per hour at that sub as a share of the best; null without a sub.
    pub information: Option<f64>,
    /// Whole subs in the exposure's share of the clock.
    pub subs: u32,
    /// Room that the subs take on the disk, GB.
    pub disk_gb: f64,
    /// By how much read noise raises the noise at that sub, as a fraction.
    pub read_noise_excess: Option<f64>,
    /// What the choice costs, in a sentence.
    pub cost: String,
}

/// Where a sub runs into a limit.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct SubLimit {
    /// What happens there.
    pub label: String,
    /// Subs longer than this, s.
    pub beyond_s: f64,
    /// Its range; null for a limit that no light moves.
    pub range_s: Option<Range>,
}

/// The sub by the chosen school and purpose under one state of sky and target, within the mount's
/// limit, s.
pub(super) fn advised(v: &View, deciding: &ChannelModel, r: &Rates) -> f64 {
    let longest = v.model.instrument.longest_s.unwrap_or(LONGEST_SUB_S);
    let best = || plateau(&v.model.instrument.sub_terms_at(r, v.gain));
    let wanted = match v.choices.school {
        _ if v.choices.purpose == Purpose::Live => v.choices.live_sub_s,
        // Anywhere on the plateau is as good: rather there where enough frames fit and the core
        // does not clip.
        SubCriterion::Best => {
            let p = best();
            p.best_s.min(v.frames_limit_s()).min(v.core_clips_s(r)).max(p.from_s)
        }
        school => school_sub(v, deciding, school, r).unwrap_or_else(|| best().best_s),
    };
    wanted.min(longest)
}

/// What a school asks for under one state of sky and target, s; `None` where it gives no length.
pub(super) fn school_sub(
    v: &View,
    deciding: &ChannelModel,
    school: SubCriterion,
    r: &Rates,
) -> Option<f64> {
    let c = v.choices;
    let terms = v.model.instrument.sub_terms_at(r, v.gain);
    let background = r.background() + r.dark;
    let sub_s = match school {
        SubCriterion::Best => Some(plateau(&terms).best_s),
        SubCriterion::Excess => excess_sub_s(&terms, c.excess),
        SubCriterion::Swamp => swamp_sub_s(&terms, c.swamp_factor),
        SubCriterion::HistogramAdu => {
            (background > 0.0).then(|| c.histogram_adu * v.gain.e_per_adu / background)
        }
        SubCriterion::HistogramFraction => {
            (background > 0.0).then(|| c.histogram_fraction * v.gain.full_scale_e / background)
        }
        SubCriterion::TestShot => test_shot_s(v, deciding, r),
        SubCriterion::Longest => v.model.instrument.longest_s.map(|l| l.min(v.core_clips_s(r))),
        SubCriterion::ManyFrames => Some(v.frames_limit_s()),
    };
    sub_s.filter(|t| t.is_finite() && *t > 0.0)
}

pub(super) fn school_label(v: &View, school: SubCriterion) -> String {
    let c = v.choices;
    match school {
        SubCriterion::Best => "most information per hour".into(),
        SubCriterion::Excess => format!("read noise adds {:.0} %", c.excess * 100.0),
        SubCriterion::Swamp => format!("sky is {} × read noise²", c.swamp_factor),
        SubCriterion::HistogramAdu => format!("peak {:.0} ADU above the offset", c.histogram_adu),
        SubCriterion::HistogramFraction => {
            format!("peak at {:.0} % of full scale", c.histogram_fraction * 100.0)
        }
        SubCriterion::TestShot if v.exposure.test_frame.is_some() => {
            "your test frame, sky 10 × read noise²".into()
        }
        SubCriterion::TestShot => format!("target faintly seen (SNR {})", c.faint_snr),
        SubCriterion::Longest => "as long as the mount holds".into(),
        SubCriterion::ManyFrames => format!("{:.0} frames or more", c.least_frames),
    }
}

pub(super) fn criterion(
    v: &View,
    deciding: &ChannelModel,
    school: SubCriterion,
    share: &impl Fn(f64) -> f64,
    drawn: &[Rates],
) -> Criterion {
    let r = deciding.nominal();
    let sub_s = school_sub(v, deciding, school, r);
    let sub_range_s = match school {
        SubCriterion::Best => Some(Range::of_three(
            by_light(drawn.to_vec())
                .map(|r| plateau(&v.model.instrument.sub_terms_at(&r, v.gain)).best_s),
        )),
        _ => drawn
            .iter()
            .map(|r| school_sub(v, deciding, school, r))
            .collect::<Option<Vec<f64>>>()
            .and_then(Range::of),
    };
    let information = sub_s.map(share);
    let subs = sub_s.map_or(0.0, |t| subs_in(v.clock_s(), t, v.model.instrument.between_s));
    Criterion {
        school,
        label: school_label(v, school),
        sub_s,
        sub_range_s,
        information,
        subs: subs as u32,
        disk_gb: subs * v.gb_per_sub(),
        read_noise_excess: sub_s
            .filter(|_| r.total() > 0.0)
            .map(|t| read_noise_excess(v.gain.read_noise_e, r.total(), t)),
        cost: cost(v, r, sub_s, information, subs),
    }
}

/// The shortest sub that shows the target faintly, or, from a test frame, that swamps the read
/// noise ten times. What a frame measured is not uncertain.
fn test_shot_s(v: &View, deciding: &ChannelModel, r: &Rates) -> Option<f64> {
    let r2 = v.gain.read_noise_e.powi(2);
    if v.exposure.test_frame.is_some() {
        // Every other length here is of the model's sky: one of another sky beside them would mix
        // two.
        return frame::told(v, deciding)
            .filter(|f| f.agrees)
            // Of another colour than the one that decides, it scales the sky of that.
            .map(|f| {
                let nominal = deciding.nominal();
                let expected = nominal.background() + nominal.dark;
                10.0 * r2 / (expected * f.measured_e_per_s / f.expected_e_per_s)
            });
    }
    // SNR = S t n / sqrt((rate t + R^2) n) = k, solved for t.
    let (signal, n, k2) =
        (r.target_sum() * deciding.pixels, deciding.pixels, v.choices.faint_snr.powi(2));
    let b = k2 * n * r.total();
    (signal > 0.0).then(|| {
        (b + (b * b + 4.0 * signal * signal * k2 * n * r2).sqrt()) / (2.0 * signal * signal)
    })
}

pub(super) fn cost(
    v: &View,
    r: &Rates,
    sub_s: Option<f64>,
    information: Option<f64>,
    subs: f64,
) -> String {
    let (Some(t), Some(share)) = (sub_s, information) else {
        return "Gives no length here.".into();
    };
    let mut parts = Vec::new();
    let core = v.core_clips_s(r);
    if t > core {
        parts.push(format!("the core clips from {}", seconds(core)));
    }
    if v.model.instrument.longest_s.is_some_and(|l| t > l) {
        parts.push("longer than the mount holds".into());
    }
    match subs {
        n if n < 1.0 => parts.push("not one fits into its share of the clock".into()),
        n if n < 2.0 => parts.push("only one frame".into()),
        n if n < v.choices.least_frames => {
            parts.push(format!("only {n:.0} frames to reject outliers from"))
        }
        _ => {}
    }
    if v.disk_from_s().is_some_and(|least| t < least) {
        parts.push("more than the disk holds".into());
    }
    let lost = 1.0 / share - 1.0;
    if lost > 0.05 {
        parts.push(format!("{:.0} % more time for the same picture", lost * 100.0));
    }
    match parts.is_empty() {
        true => "Costs nothing: on the plateau.".into(),
        false => capital(&parts.join("; ")) + ".",
    }
}

pub(super) fn limits(v: &View, draws: PathDraws) -> Vec<SubLimit> {
    let mut out = Vec::new();
    let mut by_light = |label: String, f: &dyn Fn(&Rates) -> f64| {
        let beyond_s = fastest(v, f);
        out.push(SubLimit { label, beyond_s, range_s: Some(fastest_range(v, draws, f)) });
    };
    if v.s.target.peak_factor > 1.0 || v.choices.core_fill < 1.0 {
        by_light("core clips".into(), &|r| v.core_clips_s(r));
    }
    by_light(format!("stars of V {} clip", v.choices.star_clips_v_mag), &|r| v.star_clips_s(r));
    if let Some(limit) = v.model.instrument.longest_s {
        out.push(SubLimit { label: "mount's limit".into(), beyond_s: limit, range_s: None });
    }
    let frames = v.frames_limit_s();
    if frames > 0.0 {
        out.push(SubLimit {
            label: format!("under {:.0} frames", v.choices.least_frames),
            beyond_s: frames,
            range_s: None,
        });
    }
    out
}

/// The advised sub of one exposure at one gain under given rates of its deciding channel, s.
pub(crate) fn advised_sub_s(
    s: &Scenario,
    contender: &Contender,
    at: usize,
    path: &LightPath,
    gain: &GainPoint,
    rates: &Rates,
) -> f64 {
    let v = view(s, contender, at, path, gain);
    advised(&v, v.model.deciding(), rates)
}
