//! The gain ladder: every setting of the camera with what it gives, and the one to use.

use serde::Serialize;
use utoipa::ToSchema;

use crate::decide::sub::criteria::advised_sub_s;
use crate::decide::sub::view::peak_rate;
use crate::decide::uncertainty::draws::{PathDraws, Range, by_light};
use crate::light::units::mag_from_linear;
use crate::path::rates::Rates;
use crate::path::sensor::GainPoint;
use crate::scenario::choices::{GainSub, Purpose, SubCriterion};
use crate::scenario::document::Scenario;
use crate::scenario::rig::Contender;
use crate::signal::model::LightPath;
use crate::signal::sub::plateau;
use crate::wording::seconds;

/// Information that differs by less than this is a tie, broken by range: 4 % of signal to noise,
/// which nobody sees (common practice, no source). It was 5 % of information while each setting was
/// judged in its own sub; in a sub that is kept that named the demo's gain 150 over its step at
/// 100, for 6 % of the time, which no imager would sign.
const TIE: f64 = 0.08;

/// One option.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct GainOption {
    /// Gain setting, or ISO.
    pub setting: f64,
    /// Electrons per ADU.
    pub e_per_adu: f64,
    /// Read noise with quantisation, e-.
    pub read_noise_e: f64,
    /// Full scale, e-.
    pub full_scale_e: f64,
    /// The smallest offset that is safe: see [`GainPoint::safe_offset_adu`].
    pub safe_offset_adu: f64,
    /// Dynamic range log2(full scale / read noise), stops.
    pub range_stops: f64,
    /// The sub at which it is judged, s: the user's own, or the one by the chosen school at this
    /// gain, within the mount's limit.
    pub sub_s: f64,
    /// Its range, s.
    pub sub_range_s: Range,
    /// Stars brighter than this clip in that sub, V mag; null where the sky alone fills the pixel.
    pub star_clips_v_mag: Option<f64>,
    /// How full the target's brightest part makes a pixel in that sub.
    pub core_fill: f64,
    /// Its range in a sub of that length.
    pub core_fill_range: Range,
    /// Information per hour at that sub, as a share of the best option's best.
    pub information: f64,
    /// Its range.
    pub information_range: Range,
    /// Whether stars and core stay within the chosen limits.
    pub within_limits: bool,
}

/// Gain and sub chosen together.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct GainPair {
    /// The setting.
    pub setting: f64,
    /// The sub that goes with it, s.
    pub sub_s: f64,
    /// Index of the exposure by which both were judged.
    pub exposure: usize,
}

/// The decision on gain.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct GainDecision {
    /// The setting in use.
    pub yours: f64,
    /// The setting to use.
    pub advised: f64,
    /// Other settings that are advised at the ends of what is uncertain; empty where the advice
    /// stands.
    pub also_advised: Vec<f64>,
    /// The sub at which all settings were judged, s; null where each was judged at its own.
    pub at_sub_s: Option<f64>,
    /// What to take where gain and sub are chosen together.
    pub pair: GainPair,
    /// "gain" or "ISO".
    pub scale: &'static str,
    /// The options, lowest setting first.
    pub options: Vec<GainOption>,
    /// Why, in a sentence.
    pub text: String,
    /// The numbers behind it.
    pub reasons: Vec<String>,
}

/// Whether settings read like ISO values: a hundred and doubling.
fn is_iso(contender: &Contender) -> bool {
    let g = &contender.sensor.gains;
    g.len() >= 3
        && g[0].setting >= 50.0
        && g.windows(2).all(|w| (w[1].setting / w[0].setting - 2.0).abs() < 0.3)
}

/// The ladder of one contender under one state of sky and target: `r` are the rates of the channel
/// that decides.
fn options_at(
    s: &Scenario,
    contender: &Contender,
    at: usize,
    path: &LightPath,
    r: &Rates,
    judged_at: GainSub,
) -> Vec<GainOption> {
    let own = &path.exposures[at].instrument;
    let n = own.binning;
    let star_v0 = r.star_v0 * own.star_peak_share();
    let peak = peak_rate(s, r);
    let one = |row: &crate::scenario::rig::GainRow| {
        let gain = contender.sensor.at_gain_binned(row.setting, contender.exposures[at].binning);
        let sub_s = match judged_at {
            GainSub::Kept => kept_sub_s(s, contender, at, path),
            GainSub::Own => option_sub_s(s, contender, at, path, &gain, r),
        };
        let room = gain.full_scale_e - (r.background() + r.dark) * sub_s;
        let star_clips_v_mag = mag_from_linear(room / (star_v0 * sub_s)).filter(|m| m.is_finite());
        let core_fill = peak * sub_s / gain.full_scale_e;
        let information = path.instrument.sub_terms_at(r, &gain).information(sub_s);
        GainOption {
            setting: row.setting,
            e_per_adu: gain.e_per_adu,
            read_noise_e: gain.read_noise_e * n,
            full_scale_e: gain.full_scale_e * n * n,
            range_stops: (gain.full_scale_e * n / gain.read_noise_e).log2(),
            safe_offset_adu: gain.safe_offset_adu(),
            sub_s,
            sub_range_s: Range::of_three([sub_s; 3]),
            star_clips_v_mag,
            core_fill,
            core_fill_range: Range::of_three([core_fill; 3]),
            information,
            information_range: Range::of_three([information; 3]),
            within_limits: core_fill <= s.choices.core_fill
                && star_clips_v_mag.is_some_and(|m| m <= s.choices.star_clips_v_mag),
        }
    };
    let mut options: Vec<GainOption> = contender.sensor.gains.iter().map(one).collect();
    let most = options.iter().map(|g| g.information).fold(f64::MIN_POSITIVE, f64::max);
    options.iter_mut().for_each(|g| g.information /= most);
    options
}

/// The option to use: of those within the limits (of all where none is) the widest range among the
/// most informative.
fn pick(options: &[GainOption]) -> &GainOption {
    let allowed = || {
        options
            .iter()
            .filter(|g| g.within_limits || options.iter().all(|other| !other.within_limits))
    };
    let top = allowed().map(|g| g.information).fold(0.0, f64::max);
    let tie = allowed().filter(|g| g.information >= top * (1.0 - TIE));
    tie.max_by(|a, b| a.range_stops.total_cmp(&b.range_stops)).unwrap_or(&options[0])
}

/// Climbs the ladder of one contender, judged by its exposure with the largest share of the clock.
pub fn decide_gain(
    s: &Scenario,
    contender: &Contender,
    path: &LightPath,
    draws: PathDraws,
) -> GainDecision {
    // Of equal shares the first.
    let at = (0..path.exposures.len())
        .rev()
        .max_by(|&a, &b| path.exposures[a].share.total_cmp(&path.exposures[b].share))
        .unwrap_or(0);
    let deciding = path.exposures[at].deciding();
    let live = s.choices.purpose == Purpose::Live;
    let judged_at = s.choices.gain_sub;
    let ladder = |r: &Rates, judged_at| options_at(s, contender, at, path, r, judged_at);
    let mut options = ladder(deciding.nominal(), judged_at);
    let together = ladder(deciding.nominal(), GainSub::Own);
    let pair = pick(&together);
    let pair = GainPair { setting: pair.setting, sub_s: pair.sub_s, exposure: at };
    let peaks = draws.range(|scales, centres| {
        peak_rate(s, &deciding.rates(scales, centres.get(at).copied().unwrap_or(0.0)))
    });
    // Little, middling and much light among what was drawn.
    let ends = by_light(draws.rates(deciding, at)).map(|r| ladder(&r, judged_at));
    for (i, option) in options.iter_mut().enumerate() {
        let of =
            |f: fn(&GainOption) -> f64| Range::of_three([0, 1, 2].map(|d: usize| f(&ends[d][i])));
        (option.sub_range_s, option.information_range) = (of(|g| g.sub_s), of(|g| g.information));
        let n2 = path.exposures[at].instrument.binning.powi(2);
        option.core_fill_range = peaks.map(|p| p * n2 * option.sub_s / option.full_scale_e);
    }
    let best = pick(&options).clone();
    let mut also_advised: Vec<f64> =
        ends.iter().map(|end| pick(end).setting).filter(|other| *other != best.setting).collect();
    also_advised.sort_by(f64::total_cmp);
    also_advised.dedup();
    let scale = if is_iso(contender) { "ISO" } else { "gain" };
    let yours = options.iter().min_by(|a, b| {
        (a.setting - contender.gain).abs().total_cmp(&(b.setting - contender.gain).abs())
    });
    let mut text = words(s, &options, &best, yours, contender.gain, live);
    if !also_advised.is_empty() {
        let others: Vec<String> = also_advised.iter().map(f64::to_string).collect();
        text += &format!("; {} if sky or target are misjudged", others.join(" or "));
    }
    let reasons = vec![
        format!(
            "{scale} {}: read noise {:.2} e-, full scale {:.0} e-, range log2({:.0} / {:.2}) = \
                {:.1} stops, sub {}.",
            best.setting,
            best.read_noise_e,
            best.full_scale_e,
            best.full_scale_e,
            best.read_noise_e,
            best.range_stops,
            seconds(best.sub_s)
        ),
        format!(
            "Of the settings in {judged} stars of V {} and the core stay below full scale, those \
                with the most information per hour; of these the widest range.",
            s.choices.star_clips_v_mag,
            judged = match (live, judged_at) {
                (true, _) => format!("subs of {}, for live viewing,", seconds(best.sub_s)),
                (_, GainSub::Kept) => format!("your subs of {}", seconds(best.sub_s)),
                (_, GainSub::Own) => "whose own sub".to_owned(),
            }
        ),
        format!(
            "Gain and sub chosen together: {scale} {} with subs of {}.",
            pair.setting,
            seconds(pair.sub_s)
        ),
        match also_advised.is_empty() {
            true => {
                "With the least and with the most light of eight draws in ten the ladder names \
                the same setting."
                    .to_owned()
            }
            false => {
                "With the least or with the most light of eight draws in ten the ladder names \
                another setting."
                    .to_owned()
            }
        },
    ];
    GainDecision {
        yours: contender.gain,
        advised: best.setting,
        also_advised,
        at_sub_s: (judged_at == GainSub::Kept || live).then_some(best.sub_s),
        pair,
        scale,
        options,
        text,
        reasons,
    }
}

/// The sub at which all options are judged where the user keeps it, s.
fn kept_sub_s(s: &Scenario, c: &Contender, at: usize, path: &LightPath) -> f64 {
    if s.choices.purpose == Purpose::Live {
        return live_sub_s(s, path);
    }
    c.exposures[at].sub_s
}

fn live_sub_s(s: &Scenario, path: &LightPath) -> f64 {
    s.choices.live_sub_s.min(path.instrument.longest_s.unwrap_or(f64::INFINITY))
}

/// The sub at which an option is judged where each has its own, s.
fn option_sub_s(
    s: &Scenario,
    c: &Contender,
    at: usize,
    path: &LightPath,
    gain: &GainPoint,
    r: &Rates,
) -> f64 {
    if s.choices.purpose == Purpose::Live {
        return live_sub_s(s, path);
    }
    if s.choices.school == SubCriterion::Best {
        // The start of the plateau does the same work and clips less: that is where a ladder is
        // judged.
        return plateau(&path.instrument.sub_terms_at(r, gain)).from_s.max(1.0);
    }
    advised_sub_s(s, c, at, path, gain, r)
}

fn words(
    s: &Scenario,
    options: &[GainOption],
    best: &GainOption,
    yours: Option<&GainOption>,
    set: f64,
    live: bool,
) -> String {
    let at = options.iter().position(|g| g.setting == best.setting).unwrap_or(0);
    // A step is where the read noise falls by more than a fifth from one option to the next.
    let step = at > 0 && options[at].read_noise_e < 0.8 * options[at - 1].read_noise_e;
    let why = if !best.within_limits {
        format!(
            "stars of V {} or the core clip at every setting; here least information is lost",
            s.choices.star_clips_v_mag
        )
    } else if live {
        "least read noise in short subs, for live viewing".to_owned()
    } else if step {
        format!(
            "the read noise drops here to {:.1} e-, and the range is still {:.1} stops",
            best.read_noise_e, best.range_stops
        )
    } else if at == 0 {
        format!("the widest range, {:.1} stops, at no cost in time", best.range_stops)
    } else {
        format!("the most per hour without clipping, {:.1} stops", best.range_stops)
    };
    let against = match yours {
        Some(_) if (set - best.setting).abs() < 1e-9 => "; yours".to_owned(),
        Some(y) if y.information < 0.95 * best.information => {
            format!(
                "; your {set} takes {:.0} % more time",
                (best.information / y.information - 1.0) * 100.0
            )
        }
        Some(y) if (y.range_stops - best.range_stops).abs() > 0.5 => {
            format!("; your {set} has {:.1} stops", y.range_stops)
        }
        Some(_) => format!("; your {set} is about as good"),
        None => String::new(),
    };
    let sub = seconds(best.sub_s);
    let assumed = match (live, s.choices.gain_sub) {
        (true, _) => format!("in {sub} subs"),
        (_, GainSub::Kept) => format!("in your {sub} subs"),
        (_, GainSub::Own) => format!("with {sub} subs"),
    };
    format!("{} {assumed}: {why}{against}", best.setting)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::common::ic_443;

    fn option(
        setting: f64,
        read_noise_e: f64,
        stops: f64,
        information: f64,
        within_limits: bool,
    ) -> GainOption {
        let flat = |x| Range::of_three([x; 3]);
        GainOption {
            setting,
            e_per_adu: 0.5,
            read_noise_e,
            full_scale_e: read_noise_e * stops.exp2(),
            range_stops: stops,
            safe_offset_adu: 5.0 * read_noise_e / 0.5,
            sub_s: 60.0,
            sub_range_s: flat(60.0),
            star_clips_v_mag: Some(12.0),
            core_fill: 0.5,
            core_fill_range: flat(0.5),
            information,
            information_range: flat(information),
            within_limits,
        }
    }

    /// A ladder with its step at 100.
    fn ladder() -> Vec<GainOption> {
        vec![
            option(0.0, 3.4, 13.9, 0.90, true),
            option(50.0, 3.0, 13.2, 0.92, true),
            option(100.0, 1.5, 13.4, 0.99, true),
            option(200.0, 1.3, 11.9, 1.0, true),
        ]
    }

    #[test]
    fn of_the_most_informative_the_widest_range_is_picked() {
        assert_eq!(pick(&ladder()).setting, 100.0);
        // Within five per cent of the best is a tie: then the lowest gain has the widest range.
        let mut even = ladder();
        even[0].information = 0.96;
        assert_eq!(pick(&even).setting, 0.0);
    }

    #[test]
    fn what_clips_is_not_picked_unless_everything_does() {
        let mut clips = ladder();
        clips[2].within_limits = false;
        clips[3].within_limits = false;
        assert_eq!(pick(&clips).setting, 0.0);
        clips.iter_mut().for_each(|r| r.within_limits = false);
        assert_eq!(pick(&clips).setting, 100.0);
    }

    /// The sentence on a ladder's pick with the gain set to `set`.
    fn sentence(options: &[GainOption], set: f64, live: bool) -> String {
        let yours = options.iter().find(|r| r.setting == set);
        words(&ic_443(), options, pick(options), yours, set, live)
    }

    #[test]
    fn the_reason_is_the_one_that_applies() {
        let options = ladder();
        assert_eq!(
            sentence(&options, 100.0, false),
            "100 in your 60 s subs: the read noise drops here to 1.5 e-, and the range is still 13.4 \
                stops; yours"
        );
        assert_eq!(
            sentence(&options, 0.0, false),
            "100 in your 60 s subs: the read noise drops here to 1.5 e-, and the range is still 13.4 \
                stops; your 0 takes 10 % more time"
        );
        assert!(
            sentence(&options, 200.0, false).ends_with("; your 200 has 11.9 stops"),
            "{}",
            sentence(&options, 200.0, false)
        );
        assert!(
            sentence(&options, 100.0, true)
                .starts_with("100 in 60 s subs: least read noise in short subs, for live viewing")
        );
        let mut even = ladder();
        even[0].information = 0.96;
        assert_eq!(
            sentence(&even, 0.0, false),
            "0 in your 60 s subs: the widest range, 13.9 stops, at no cost in time; yours"
        );
        let mut tight = ladder();
        tight.iter_mut().for_each(|r| r.within_limits = false);
        assert!(
            sentence(&tight, 100.0, false)
                .contains("clip at every setting; here least information is lost")
        );
        // Neither the first option nor a step.
        let gentle = vec![option(0.0, 2.0, 13.0, 0.5, true), option(50.0, 1.9, 12.9, 1.0, true)];
        assert!(
            sentence(&gentle, 50.0, false).starts_with(
                "50 in your 60 s subs: the most per hour without clipping, 12.9 stops"
            )
        );
    }

    #[test]
    fn settings_that_double_are_iso() {
        let mut c = ic_443().contenders.remove(0);
        assert!(!is_iso(&c));
        let row = c.sensor.gains[0];
        c.sensor.gains = [100.0, 200.0, 400.0, 800.0]
            .map(|setting| crate::scenario::rig::GainRow { setting, ..row })
            .to_vec();
        assert!(is_iso(&c));
        c.sensor.gains.truncate(2);
        assert!(!is_iso(&c), "two settings do not tell");
    }
}
