//! Which frames are good, and why the others are not.
//!
//! Each measure of a frame is held against its group by a robust z-score (the distance from the
//! median over 1.4826 times the median absolute deviation) and against walls that no group moves.
//! A reason names the measure, what it was, and where the line is.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::frame::header::FrameKind;
use crate::frame::measured::{ChannelMeasured, FrameMeasured};
use crate::frame::tile::{OF_MAD, middle};
use crate::log::transparency::{AgainstReference, FrameStars, against_reference, starlike};

/// Starlight that a frame must have of the clearest's: below, cloud took it.
pub const LEAST_TRANSPARENCY: f64 = 0.7;
/// Half-flux radius over the group's median, at most.
pub const MOST_GROWN: f64 = 1.3;
/// Longer over shorter axis of the stars, at most (common practice, no source).
pub const MOST_ELONGATION: f64 = 1.5;
/// Background over that of the frames around it, at most (common practice, no source).
pub const MOST_JUMP: f64 = 1.3;
/// Share of pixels that are full, at most (common practice, no source).
pub const MOST_CLIPPED: f64 = 0.02;
/// The guider's errors against the night's median, at most (common practice, no source).
pub const MOST_GUIDING: f64 = 2.0;
/// Stars against the group's median, at least (common practice, no source).
pub const LEAST_STARS: f64 = 0.5;
/// A measure so many robust standard deviations to the bad side is odd.
pub const ODD_Z: f64 = 6.0;
/// A group of fewer frames has no scatter to go by.
const LEAST_GROUP: usize = 6;
/// Objects of a frame so many times as large as its stars are knots for the greater part.
const KNOTS: f64 = 1.4;
/// A frame whose faintest stars are so many times brighter than the group's usual ones counts to no
/// depth of theirs.
const MOST_SHALLOW: f64 = 2.0;
/// Frames around one whose background it is held against.
const AROUND: usize = 7;

/// What a frame is put aside by.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Rule {
    /// Starlight is missing.
    Cloud,
    /// Stars are larger than those of the others.
    Size,
    /// Stars are drawn out.
    Shape,
    /// The background stands above that of the frames around it.
    Background,
    /// Too much of it is full.
    Clipped,
    /// Stars are missing.
    Stars,
    /// The guider lost its hold.
    Guiding,
}

/// Why a frame is put aside.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Reason {
    /// The measure.
    pub rule: Rule,
    /// What it was and where the line is, in a sentence.
    pub text: String,
}

/// A frame of a night.
#[derive(Clone, Copy, Debug)]
pub struct NightFrame<'a> {
    /// It.
    pub measured: &'a FrameMeasured,
    /// When it began, seconds since 1970 UTC, where that is known.
    pub start_s: Option<f64>,
    /// Airmass, where it is known.
    pub airmass: Option<f64>,
    /// Root mean square of the guider's errors in it, arcsec, where they are known.
    pub guiding_arcsec: Option<f64>,
}

/// What a frame was worth.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct FrameJudged {
    /// The channel that was judged: `mono`, of a mosaic `g`.
    pub channel: String,
    /// Background over the offset, ADU; over nothing where no offset is known.
    pub background_adu: f64,
    /// The same as electrons a second in a pixel, where gain and offset are known.
    pub background_e_per_s: Option<f64>,
    /// Scatter of single pixels, ADU.
    pub sigma_adu: f64,
    /// Stars; of frames of the sky down to a depth that nearly all of their group reach.
    pub stars: usize,
    /// Half-flux radius, px.
    pub hfr_px: Option<f64>,
    /// Full width at half maximum, px.
    pub fwhm_px: Option<f64>,
    /// The same, arcsec, where pixel and focal length are known.
    pub fwhm_arcsec: Option<f64>,
    /// Longer over shorter axis.
    pub elongation: Option<f64>,
    /// Share of pixels that are full, 0-1.
    pub clipped_share: f64,
    /// Starlight against the clearest frames of its group, about 0-1.
    pub transparency: Option<f64>,
    /// Airmass.
    pub airmass: Option<f64>,
    /// Root mean square of the guider's errors, arcsec.
    #[serde(default)]
    pub guiding_arcsec: Option<f64>,
    /// How far its middle is from that of its group's reference, px right and down.
    #[schema(value_type = Option<Vec<f64>>)]
    pub shift_px: Option<[f64; 2]>,
    /// How far it is turned against that, degrees.
    pub turned_deg: Option<f64>,
    /// Why it should be put aside; empty of a good one, and of frames that are not of the sky.
    pub reasons: Vec<Reason>,
}

/// The channel by which a frame is judged: the only one, or green.
pub fn judged_channel(frame: &FrameMeasured) -> Option<&ChannelMeasured> {
    frame.channels.iter().find(|c| c.channel == "g").or_else(|| frame.channels.first())
}

/// What makes frames comparable.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
struct Group {
    filter: String,
    /// Thousandths of a second.
    exposure: i64,
    gain: i64,
    object: String,
    size: [usize; 2],
}

/// A setting as a key: in thousandths, -1 where it is not known.
fn thousandths(v: Option<f64>) -> i64 {
    v.map_or(-1, |v| (v * 1000.0).round() as i64)
}

/// Gain and binning, on which the level of no light hangs.
fn readout(f: &FrameMeasured) -> [i64; 2] {
    [f.read.header.gain, f.read.header.binning].map(thousandths)
}

fn group(f: &FrameMeasured) -> Group {
    let h = &f.read.header;
    Group {
        filter: h.filter.clone().unwrap_or_default(),
        exposure: thousandths(h.exposure_s),
        gain: thousandths(h.gain),
        object: h.object.clone().unwrap_or_default(),
        size: [f.columns, f.rows],
    }
}

/// Level of no light at a gain by the night's own bias frames, ADU, by gain and binning.
fn offsets(frames: &[NightFrame]) -> BTreeMap<[i64; 2], f64> {
    let mut all: BTreeMap<[i64; 2], Vec<f64>> = BTreeMap::new();
    for f in frames.iter().filter(|f| f.measured.read.header.kind == Some(FrameKind::Bias)) {
        let level = judged_channel(f.measured).map(|c| c.level_adu);
        all.entry(readout(f.measured)).or_default().extend(level);
    }
    all.into_iter().filter_map(|(k, v)| Some((k, middle(v.into_iter())?))).collect()
}

fn offset_of(f: &FrameMeasured, offsets: &BTreeMap<[i64; 2], f64>) -> Option<f64> {
    f.read.header.offset_adu.or_else(|| offsets.get(&readout(f)).copied())
}

/// Judges the frames of a night, each against those of its filter, length, gain and object;
/// `None` for one that has no channel. `k_mag` gives the extinction through a filter of a name, mag
/// to an airmass.
pub fn night_judged(
    frames: &[NightFrame],
    k_mag: &dyn Fn(Option<&str>) -> f64,
) -> Vec<Option<FrameJudged>> {
    let offsets = offsets(frames);
    let mut out: Vec<Option<FrameJudged>> =
        frames.iter().map(|f| figures(f, offset_of(f.measured, &offsets))).collect();
    let mut groups: BTreeMap<Group, Vec<usize>> = BTreeMap::new();
    for (i, f) in frames.iter().enumerate() {
        // A frame that does not say what it is counts as one of the sky where it shows stars.
        let stars = judged_channel(f.measured).map_or(0, |c| c.stars);
        let light = f.measured.read.header.kind.map_or(stars > 0, |k| k == FrameKind::Light);
        if light && out[i].is_some() {
            groups.entry(group(f.measured)).or_default().push(i);
        }
    }
    for (key, mut own) in groups {
        own.sort_by(|a, b| {
            let start = |i: &usize| frames[*i].start_s.unwrap_or(0.0);
            start(a).total_cmp(&start(b)).then(a.cmp(b))
        });
        let filter = Some(key.filter.as_str()).filter(|f| !f.is_empty());
        laid_on_each_other(frames, &own, k_mag(filter), &mut out);
        counted_alike(frames, &own, &mut out);
        let group = GroupSeen::new(&own, &out);
        for (place, i) in own.iter().enumerate() {
            let reasons = out[*i].as_ref().map(|j| group.reasons(place, j));
            if let (Some(j), Some(reasons)) = (out[*i].as_mut(), reasons) {
                j.reasons = reasons;
            }
        }
    }
    out
}

fn figures(f: &NightFrame, offset_adu: Option<f64>) -> Option<FrameJudged> {
    let c = judged_channel(f.measured)?;
    let h = &f.measured.read.header;
    let background_adu = c.level_adu - offset_adu.unwrap_or(0.0);
    let e_per_s = |offset: f64| {
        let s = h.exposure_s.filter(|s| *s > 0.0)?;
        Some((c.level_adu - offset) * h.e_per_adu? / s)
    };
    // Knots of a nebula are no stars: they tell neither size nor shape.
    let small = middle(starlike(c).iter().filter(|s| !s.clipped).map(|s| s.hfr_px));
    // A hot pixel of a dark is no star.
    let is_light = h.kind.is_none_or(|k| k == FrameKind::Light);
    let hfr_px = small.or(c.hfr_px).filter(|_| is_light);
    let knots = small.zip(c.hfr_px).is_some_and(|(small, all)| all > KNOTS * small);
    let fwhm_px = match (knots, small.zip(c.hfr_px)) {
        (true, Some((small, all))) => c.fwhm_px.map(|f| f * small / all),
        _ => c.fwhm_px,
    };
    let scale = h.pixel_scale_arcsec();
    Some(FrameJudged {
        channel: c.channel.clone(),
        background_adu,
        background_e_per_s: c.background_e_per_s.or_else(|| offset_adu.and_then(e_per_s)),
        sigma_adu: c.sigma_adu,
        stars: c.stars,
        hfr_px,
        fwhm_px: fwhm_px.filter(|_| is_light),
        fwhm_arcsec: fwhm_px.filter(|_| is_light).zip(scale).map(|(px, arcsec)| px * arcsec),
        elongation: c.elongation.filter(|_| is_light && !knots),
        clipped_share: c.clipped_share,
        transparency: None,
        airmass: f.airmass.or(h.airmass),
        guiding_arcsec: f.guiding_arcsec,
        shift_px: None,
        turned_deg: None,
        reasons: Vec::new(),
    })
}

fn laid_on_each_other(
    frames: &[NightFrame],
    own: &[usize],
    k_mag: f64,
    out: &mut [Option<FrameJudged>],
) {
    let seen: Vec<(usize, FrameStars)> = own
        .iter()
        .filter_map(|i| {
            let f = frames[*i].measured;
            let airmass = out[*i].as_ref()?.airmass;
            let size = [f.columns, f.rows];
            Some((*i, FrameStars { channel: judged_channel(f)?, size, airmass }))
        })
        .collect();
    let stars: Vec<FrameStars> = seen.iter().map(|(_, s)| *s).collect();
    for ((i, _), laid) in seen.iter().zip(against_reference(&stars, k_mag)) {
        let AgainstReference { transparency, shift_px, turned_deg, .. } = laid;
        if let Some(j) = out[*i].as_mut() {
            (j.transparency, j.shift_px, j.turned_deg) = (transparency, shift_px, turned_deg);
        }
    }
}

/// Counts the stars of a group to one depth: a brighter sky hides faint stars, and that is no
/// cloud. A frame much shallower than the others (dawn) does not make theirs so.
fn counted_alike(frames: &[NightFrame], own: &[usize], out: &mut [Option<FrameJudged>]) {
    let channel = |i: usize| judged_channel(frames[i].measured);
    let depths = || own.iter().filter_map(|i| channel(*i)?.depth_adu);
    let Some(usual) = middle(depths()) else { return };
    let common = depths().filter(|d| *d <= MOST_SHALLOW * usual).fold(0.0, f64::max);
    for i in own {
        let Some(steps) = channel(*i).map(|c| &c.brighter).filter(|b| !b.is_empty()) else {
            continue;
        };
        let deep = steps.iter().find(|b| b.than_adu >= common).map_or(0, |b| b.stars);
        if let Some(j) = out[*i].as_mut() {
            j.stars = deep;
        }
    }
}

/// Median and robust standard deviation.
#[derive(Clone, Copy, Debug, Default)]
struct Spread {
    median: f64,
    sigma: f64,
}

impl Spread {
    fn of(values: impl Iterator<Item = f64> + Clone) -> Option<Self> {
        let median = middle(values.clone())?;
        let sigma = OF_MAD * middle(values.map(|v| (v - median).abs()))?;
        Some(Self { median, sigma })
    }

    /// How many standard deviations above the median; 0 where there is no scatter.
    fn z(&self, value: f64) -> f64 {
        if self.sigma > 0.0 { (value - self.median) / self.sigma } else { 0.0 }
    }
}

/// What the frames of a group have in common.
struct GroupSeen {
    count: usize,
    hfr: Option<Spread>,
    elongation: Option<Spread>,
    stars: Option<Spread>,
    guiding: Option<Spread>,
    /// In the order of time.
    backgrounds: Vec<f64>,
}

impl GroupSeen {
    fn new(own: &[usize], out: &[Option<FrameJudged>]) -> Self {
        let all: Vec<&FrameJudged> = own.iter().filter_map(|i| out[*i].as_ref()).collect();
        Self {
            count: all.len(),
            hfr: Spread::of(all.iter().filter_map(|j| j.hfr_px)),
            elongation: Spread::of(all.iter().filter_map(|j| j.elongation)),
            stars: Spread::of(all.iter().map(|j| j.stars as f64)),
            guiding: Spread::of(all.iter().filter_map(|j| j.guiding_arcsec)),
            backgrounds: all.iter().map(|j| j.background_adu).collect(),
        }
    }

    /// Median background of the frames around a place, that one left out.
    fn around(&self, place: usize) -> Option<f64> {
        let n = self.backgrounds.len();
        let from = place.saturating_sub(AROUND / 2).min(n.saturating_sub(AROUND));
        let to = (from + AROUND).min(n);
        middle((from..to).filter(|k| *k != place).map(|k| self.backgrounds[k]))
    }

    fn reasons(&self, place: usize, j: &FrameJudged) -> Vec<Reason> {
        let mut all = Vec::new();
        let mut say = |rule, text| all.push(Reason { rule, text });
        let many = self.count >= LEAST_GROUP;
        if let Some(t) = j.transparency.filter(|t| *t < LEAST_TRANSPARENCY) {
            say(
                Rule::Cloud,
                format!(
                    "Cloud: {:.0} % of the starlight of the clearest frames came through; at least \
                 {:.0} % is kept.",
                    100.0 * t,
                    100.0 * LEAST_TRANSPARENCY
                ),
            );
        }
        if let Some((hfr, s)) = j.hfr_px.zip(self.hfr) {
            let grown = hfr / s.median;
            if grown > MOST_GROWN || many && s.z(hfr) > ODD_Z && grown > 1.1 {
                say(
                    Rule::Size,
                    format!(
                        "Stars {grown:.2} times as large as usual: focus, or seeing. Half-flux radius \
                     {hfr:.2} px, the night's median {:.2} px.",
                        s.median
                    ),
                );
            }
        }
        if let Some((e, s)) = j.elongation.zip(self.elongation) {
            let odd = many && s.z(e) > ODD_Z && e > s.median + 0.1;
            // A rig whose stars are always drawn out has another trouble than this frame.
            if e > MOST_ELONGATION && e > s.median + 0.1 || odd {
                say(
                    Rule::Shape,
                    format!(
                        "Stars drawn out, {e:.2} to 1: guiding, wind or a knock. The night's median is \
                     {:.2} to 1.",
                        s.median
                    ),
                );
            }
        }
        if let Some((g, s)) = j.guiding_arcsec.zip(self.guiding).filter(|(_, s)| s.median > 0.0) {
            let grown = g / s.median;
            if many && grown > MOST_GUIDING {
                say(
                    Rule::Guiding,
                    format!(
                        "The guider was {g:.2}\u{2033} off as a root mean square, {grown:.1} times \
                         the night's median; at most {MOST_GUIDING:.0} times is kept."
                    ),
                );
            }
        }
        if let Some(around) = self.around(place).filter(|a| *a > 0.0) {
            let jump = j.background_adu / around;
            if jump > MOST_JUMP {
                say(
                    Rule::Background,
                    format!(
                        "The background jumped to {jump:.1} times that of the frames around it: a \
                     light, dawn, or cloud that is lit."
                    ),
                );
            }
        }
        if j.clipped_share > MOST_CLIPPED {
            say(
                Rule::Clipped,
                format!(
                    "{:.0} % of its pixels are full; at most {:.0} % is kept.",
                    100.0 * j.clipped_share,
                    100.0 * MOST_CLIPPED
                ),
            );
        }
        if let Some(s) = self.stars.filter(|s| s.median > 0.0) {
            let share = j.stars as f64 / s.median;
            // Where starlight or focus is said already, the stars are missing for that.
            if share < LEAST_STARS && all.is_empty() {
                all.push(Reason { rule: Rule::Stars, text: format!(
                    "{} stars where the night's median is {:.0}: cloud, dew, or something stood \
                     before it.",
                    j.stars, s.median
                ) });
            }
        }
        all
    }
}

#[cfg(test)]
#[path = "quality_tests.rs"]
pub(crate) mod tests;
