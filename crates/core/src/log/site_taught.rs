//! What a night teaches about the site: how bright its zenith is, whether lamps go out at some hour,
//! how large stars are, what the air takes.

use crate::frame::tile::{OF_MAD, middle};
use crate::log::beside::FrameBeside;
use crate::log::offer::{Estimate, Lesson, Offer, Terms, offer};
use crate::scenario::site::{Site, SiteFigure};

/// A frame tells of the zenith where moon and twilight make less than this of its background, its
/// target less than that, and its starlight more than this share of the clearest.
const PASSING: f64 = 0.3;
const OF_TARGET: f64 = 0.1;
const CLEAR: f64 = 0.93;
/// A filter through which the sky was clear less often than so, against the one through which it was
/// clear most often, was used behind cloud.
const CLEAR_AS_OFTEN: f64 = 0.5;
/// Frames that a figure of a night needs.
const LEAST_FRAMES: usize = 5;
/// What the model of a clear sky itself is worth, mag (from memory).
const MODEL_MAG: f64 = 0.02;
/// Zeniths of usual clear nights differ by this, mag: airglow and haze (from memory).
const NIGHTS_MAG: f64 = 0.15;
/// A zenith that nobody measured is known to this, mag: the width of a Bortle class.
const STATED_MAG: f64 = 0.5;
/// Seeing that nobody measured, and by how much usual nights differ in it, as shares of it (from
/// memory).
const STATED_SEEING: f64 = 0.3;
const NIGHTS_SEEING: f64 = 0.2;
/// Stars this much larger or smaller than promised are worth an offer.
const SEEING_OFF: f64 = 0.25;

/// Whether a frame could tell of the zenith, were it clear.
fn could_tell(f: &FrameBeside) -> bool {
    f.predicted.passing_share < PASSING && f.predicted.target_share < OF_TARGET
}

/// Frames that tell of the zenith; one with swollen stars does as well as any other. Starlight is
/// known against the clearest frames of the same filter: one that was used behind cloud alone has
/// hardly a frame as clear as its clearest, for cloud is never even, and tells nothing.
pub(crate) fn telling(frames: &[FrameBeside]) -> Vec<&FrameBeside> {
    let clear = |f: &&FrameBeside| f.transparency.map_or(f.kept, |t| t > CLEAR);
    let of = |e: usize| frames.iter().filter(move |f| f.exposure == e && could_tell(f));
    let share = |e: usize| of(e).filter(clear).count() as f64 / of(e).count().max(1) as f64;
    let best = frames.iter().map(|f| share(f.exposure)).fold(0.0, f64::max);
    let tells =
        |f: &&FrameBeside| could_tell(f) && clear(f) && share(f.exposure) >= CLEAR_AS_OFTEN * best;
    frames.iter().filter(tells).collect()
}

/// Zeniths of the frames that tell of it, by time, each with its exposure and mag.
pub(crate) fn zeniths(frames: &[FrameBeside]) -> Vec<(f64, usize, f64)> {
    let told = telling(frames).into_iter();
    told.filter_map(|f| Some((f.at_s, f.exposure, f.zenith_v_mag?))).collect()
}

/// The middle of some zeniths, with what it is uncertain by: the scatter of frames, the spread
/// between filters, and the model.
pub(crate) fn zenith_of(all: &[(f64, usize, f64)]) -> Option<Estimate> {
    if all.len() < LEAST_FRAMES {
        return None;
    }
    let value = middle(all.iter().map(|z| z.2))?;
    let scatter = OF_MAD * middle(all.iter().map(|z| (z.2 - value).abs()))?;
    let mut filters: Vec<usize> = all.iter().map(|z| z.1).collect();
    filters.sort_unstable();
    filters.dedup();
    let of = |e: usize| middle(all.iter().filter(|z| z.1 == e).map(|z| z.2));
    let middles: Vec<f64> = filters.iter().filter_map(|e| of(*e)).collect();
    let ends = middles.iter().fold([f64::MAX, f64::MIN], |[l, h], m| [l.min(*m), h.max(*m)]);
    let between = (ends[1] - ends[0]) / (2.0 * (middles.len() as f64).sqrt());
    let sd = (scatter / (all.len() as f64).sqrt()).hypot(between).hypot(MODEL_MAG);
    Some(Estimate { value, sd })
}

/// A moment at which the sky stepped: seconds since 1970 UTC, by how much darker it is after, mag,
/// and the standard deviation of that.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Step {
    pub(crate) at_s: f64,
    pub(crate) darker_mag: Estimate,
}

/// Frames on each side of a step, a step's least height, mag, and in standard deviations.
const EACH_SIDE: usize = 4;
const LEAST_STEP_MAG: f64 = 0.12;
const SIGMAS: f64 = 6.0;
/// What is left of the scatter about a step, over that about a straight line: a slope is no step.
const STEP_OVER_SLOPE: f64 = 0.7;

/// Where the sky stepped, if it did. Filters are compared with themselves alone: one that was
/// changed is no step of the sky.
pub(crate) fn step(all: &[(f64, usize, f64)]) -> Option<Step> {
    let mut best: Option<(f64, Step)> = None;
    for i in EACH_SIDE..all.len().saturating_sub(EACH_SIDE - 1) {
        let at_s = 0.5 * (all[i - 1].0 + all[i].0);
        let Some((darker, weight)) = darker_after(all, at_s) else { continue };
        let left = scatter(all, |z| if z.0 > at_s { darker } else { 0.0 });
        let sd = left / weight.sqrt();
        if best.is_none_or(|(b, _)| left < b) {
            best = Some((left, Step { at_s, darker_mag: Estimate { value: darker, sd } }));
        }
    }
    let (left, found) = best?;
    let slope = slope(all);
    let origin = all[0].0;
    let about_line = scatter(all, |z| slope * (z.0 - origin));
    let Estimate { value, sd } = found.darker_mag;
    let clear = value.abs() > LEAST_STEP_MAG.max(SIGMAS * sd);
    (clear && left < STEP_OVER_SLOPE * about_line).then_some(found)
}

/// How much darker the frames after a moment are than those before it, filter by filter, mag, and
/// the weight of that; `None` where no filter has frames enough on both sides.
fn darker_after(all: &[(f64, usize, f64)], at_s: f64) -> Option<(f64, f64)> {
    let most = all.iter().map(|z| z.1).max()?;
    let (mut sum, mut weight) = (0.0, 0.0);
    for e in 0..=most {
        let of = |after: bool| {
            let own: Vec<f64> =
                all.iter().filter(|z| z.1 == e && (z.0 > at_s) == after).map(|z| z.2).collect();
            (own.len() as f64, own.iter().sum::<f64>() / own.len() as f64)
        };
        let ((n, before), (m, after)) = (of(false), of(true));
        if n >= EACH_SIDE as f64 && m >= EACH_SIDE as f64 {
            let w = n * m / (n + m);
            sum += w * (after - before);
            weight += w;
        }
    }
    (weight > 0.0).then(|| (sum / weight, weight))
}

/// Root mean square about each filter's mean of what a course leaves.
fn scatter(all: &[(f64, usize, f64)], course: impl Fn(&(f64, usize, f64)) -> f64) -> f64 {
    let most = all.iter().map(|z| z.1).max().unwrap_or(0);
    let mut sum = 0.0;
    for e in 0..=most {
        let left: Vec<f64> = all.iter().filter(|z| z.1 == e).map(|z| z.2 - course(z)).collect();
        let mean = left.iter().sum::<f64>() / left.len().max(1) as f64;
        sum += left.iter().map(|v| (v - mean).powi(2)).sum::<f64>();
    }
    (sum / all.len() as f64).sqrt()
}

/// Slope of the least squares' line through the night, each filter with its own height, mag/s.
fn slope(all: &[(f64, usize, f64)]) -> f64 {
    let most = all.iter().map(|z| z.1).max().unwrap_or(0);
    let (mut xy, mut xx) = (0.0, 0.0);
    for e in 0..=most {
        let own: Vec<_> = all.iter().filter(|z| z.1 == e).collect();
        let n = own.len().max(1) as f64;
        let [x, y] =
            [own.iter().map(|z| z.0).sum::<f64>() / n, own.iter().map(|z| z.2).sum::<f64>() / n];
        xy += own.iter().map(|z| (z.0 - x) * (z.2 - y)).sum::<f64>();
        xx += own.iter().map(|z| (z.0 - x).powi(2)).sum::<f64>();
    }
    if xx > 0.0 { xy / xx } else { 0.0 }
}

/// The offer of the zenith that a night showed, before any step of it.
pub(crate) fn zenith_offer(
    site: &Site,
    measured: Estimate,
    (frames, filters): (usize, &str),
) -> Option<Offer> {
    let sd = site.known_sd(SiteFigure::ZenithVMag, site.zenith_v_mag).unwrap_or(STATED_MAG);
    let now = Estimate { value: site.zenith_v_mag, sd };
    let brighter = now.value - measured.value;
    let word = if brighter > 0.0 { "brighter" } else { "darker" };
    let evidence = format!(
        "{frames} clear frames without moon ({filters}) speak of a zenith of {:.2} \u{b1} {:.2} V \
         mag/arcsec\u{b2}: {:.2} mag {word} than the site says.",
        measured.value,
        measured.sd,
        brighter.abs()
    );
    let terms = Terms { nights_sd: NIGHTS_MAG, least: 0.1 };
    offer((Lesson::Zenith, " V mag/arcsec\u{b2}"), (now, measured), terms, evidence)
}

/// The offer of an hour at which lamps go out, by a step of the sky less what lamps are known to
/// darken.
pub(crate) fn lamps_offer(site: &Site, step: &Step) -> Option<Offer> {
    let hour = site.solar_hour(step.at_s);
    let known = site.darker_at(hour);
    let now = Estimate { value: known, sd: STATED_MAG };
    let measured = Estimate { value: known + step.darker_mag.value, ..step.darker_mag };
    let evidence = format!(
        "Within each filter the sky is {:.2} \u{b1} {:.2} mag {} from then on, in one step: lamps \
         go {}.",
        step.darker_mag.value.abs(),
        step.darker_mag.sd,
        if step.darker_mag.value > 0.0 { "darker" } else { "brighter" },
        if step.darker_mag.value > 0.0 { "out" } else { "on" },
    );
    // Lamps are switched at the same hour every night.
    let terms = Terms { nights_sd: 0.05, least: LEAST_STEP_MAG };
    let mut told = offer((Lesson::LampsOff, " mag"), (now, measured), terms, evidence)?;
    told.from_solar_hour = Some(hour);
    Some(told)
}

/// The offer of the seeing: the lower quarter of what stars come to at the zenith, for focus and
/// guiding make them larger, never smaller.
pub(crate) fn seeing_offer(site: &Site, frames: &[FrameBeside]) -> Option<Offer> {
    let mut all: Vec<f64> = frames
        .iter()
        .filter(|f| f.kept)
        .filter_map(|f| Some(f.fwhm_arcsec? / f.predicted.fwhm_arcsec))
        .filter(|r| *r > 0.0)
        .collect();
    if all.len() < LEAST_FRAMES {
        return None;
    }
    all.sort_by(f64::total_cmp);
    let now = site.seeing_fwhm_arcsec?;
    let [lower, median] = [all[all.len() / 4], all[all.len() / 2]];
    let sd = site.known_sd(SiteFigure::SeeingFwhmArcsec, now).unwrap_or(STATED_SEEING * now);
    let measured = Estimate {
        value: now * lower,
        sd: now * (median - lower).max(0.03) / (all.len() as f64).sqrt(),
    };
    let evidence = format!(
        "A quarter of {} frames have stars of {:.1}\u{2033} or less at the zenith, half of {:.1}\u{2033}; \
         the site says {now:.1}\u{2033}. Guiding and focus are in it.",
        all.len(),
        now * lower,
        now * median
    );
    let terms = Terms { nights_sd: NIGHTS_SEEING * now, least: SEEING_OFF * now };
    offer((Lesson::Seeing, "\u{2033}"), (Estimate { value: now, sd }, measured), terms, evidence)
}

/// Airmasses that an extinction needs between its ends, and how sure it must be, mag.
const AIRMASSES: f64 = 0.5;
/// Extinctions of usual clear nights differ by this, mag to an airmass (from memory).
const NIGHTS_K_MAG: f64 = 0.05;
/// Frames with less starlight than this against the clearest are behind cloud.
const CLOUDY: f64 = 0.8;

/// The offer of the extinction: what the stars of one field lose as they sink. Transparency was
/// told with the extinction as it is believed: what still goes with the airmass is its error, taken
/// to be the same through all filters, as that of dust and haze about is.
pub(crate) fn extinction_offer(site: &Site, frames: &[FrameBeside], k_v: f64) -> Option<Offer> {
    let all: Vec<(f64, usize, f64)> = frames
        .iter()
        .filter(|f| f.kept)
        .filter_map(|f| {
            let t = f.transparency.filter(|t| *t > CLOUDY)?;
            Some((f.airmass?, f.exposure, -2.5 * t.log10()))
        })
        .collect();
    let ends = all.iter().fold([f64::MAX, f64::MIN], |[l, h], a| [l.min(a.0), h.max(a.0)]);
    if all.len() < 2 * LEAST_FRAMES || ends[1] - ends[0] < AIRMASSES {
        return None;
    }
    let more = slope(&all);
    let left = scatter(&all, |a| more * a.0);
    let mean = all.iter().map(|a| a.0).sum::<f64>() / all.len() as f64;
    let spread = all.iter().map(|a| (a.0 - mean).powi(2)).sum::<f64>().sqrt();
    let sd = site.known_sd(SiteFigure::KV, k_v).unwrap_or(NIGHTS_K_MAG);
    let measured = Estimate { value: k_v + more, sd: left / spread };
    let evidence = format!(
        "Between airmass {:.2} and {:.2} the stars lose {:.2} \u{b1} {:.2} mag to an airmass more \
         than believed.",
        ends[0], ends[1], more, measured.sd
    );
    let terms = Terms { nights_sd: NIGHTS_K_MAG, least: 0.05 };
    let now = Estimate { value: k_v, sd };
    offer((Lesson::Extinction, " mag to an airmass"), (now, measured), terms, evidence)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::library::{ShelfThing, demo_kit};
    use crate::log::predicted::Predicted;

    fn site() -> Site {
        let mut sites = demo_kit().into_iter().filter_map(|(_, e)| match e.thing {
            ShelfThing::Site(s) => Some(s),
            _ => None,
        });
        sites.next().expect("a site")
    }

    /// Zeniths a frame every two minutes through two filters in turns of ten, with a scatter that is
    /// the same on every run.
    fn course(at: impl Fn(f64, usize) -> f64) -> Vec<(f64, usize, f64)> {
        let one = |i: u32| {
            let (t, filter) = (120.0 * f64::from(i), (i / 10 % 2) as usize);
            let scatter = 0.01 * (f64::from(i * 7919 % 100) / 50.0 - 1.0);
            (t, filter, at(t, filter) + scatter)
        };
        (0..60).map(one).collect()
    }

    #[test]
    fn a_step_is_found_where_it_is_and_neither_a_slope_nor_a_filter_is_one() {
        let lamps = course(|t, _| 20.0 + if t > 3500.0 { 0.3 } else { 0.0 });
        let found = step(&lamps).expect("a step");
        assert!((found.at_s - 3540.0).abs() < 1.0, "{found:?}");
        assert!((found.darker_mag.value - 0.3).abs() < 0.01, "{found:?}");
        assert_eq!(step(&course(|t, _| 20.0 + 0.3 * t / 7200.0)), None);
        assert_eq!(step(&course(|_, filter| 20.0 + 0.3 * filter as f64)), None);
        assert_eq!(step(&course(|t, _| 20.0 + if t > 3500.0 { 0.1 } else { 0.0 })), None);
        assert_eq!(step(&lamps[..7]), None);
    }

    #[test]
    fn filters_that_disagree_make_a_zenith_unsure() {
        let alike = zenith_of(&course(|_, _| 20.0)).expect("a zenith");
        assert!((alike.value - 20.0).abs() < 0.01 && alike.sd < 0.03, "{alike:?}");
        let apart = zenith_of(&course(|_, filter| 20.0 + 0.4 * filter as f64)).expect("a zenith");
        assert!(apart.sd > 0.1, "{apart:?}");
        assert_eq!(zenith_of(&course(|_, _| 20.0)[..4]), None);
    }

    #[test]
    fn lamps_that_are_known_are_no_news_and_what_they_do_more_is_added() {
        let mut site = site();
        let at_s = 1_801_170_000.0;
        let step = |value| Step { at_s, darker_mag: Estimate { value, sd: 0.02 } };
        let hour = site.solar_hour(at_s);
        let new = lamps_offer(&site, &step(0.3)).expect("news");
        assert!((new.offered.value - 0.3).abs() < 0.01, "{new:?}");
        assert_eq!(new.from_solar_hour, Some(hour));
        site.by_hour = vec![[(hour - 0.1).rem_euclid(24.0), 0.3]];
        assert_eq!(lamps_offer(&site, &step(0.05)), None);
        let more = lamps_offer(&site, &step(0.2)).expect("more of them");
        assert!((more.measured.value - 0.5).abs() < 1e-12, "{more:?}");
        assert!(more.evidence.contains("0.20"), "{more:?}");
    }

    #[test]
    fn a_filter_that_was_used_behind_cloud_alone_tells_nothing_of_the_zenith() {
        let mut frames = sinking(|_| 1.0, 1.0);
        for (i, f) in frames.iter_mut().enumerate() {
            f.zenith_v_mag = Some(21.3);
            if f.exposure == 1 {
                f.zenith_v_mag = Some(21.0);
                // Against its own clearest frames two seem clear.
                f.transparency = Some(if i < 4 { 0.99 } else { 0.75 });
            }
        }
        let all = zeniths(&frames);
        assert_eq!(all.len(), 15);
        assert!(all.iter().all(|z| z.1 == 0), "{all:?}");
        // Of one that saw a clear sky half of the time the clear frames tell.
        frames.iter_mut().filter(|f| f.at_s > 3000.0).for_each(|f| f.transparency = Some(1.0));
        assert!(zeniths(&frames).iter().any(|z| z.1 == 1));
    }

    /// Frames of a field that sinks from airmass 1.1 to 2.
    fn sinking(transparency: impl Fn(f64) -> f64, fwhm_of_promised: f64) -> Vec<FrameBeside> {
        let one = |i: u32| {
            let airmass = 1.1 + 0.03 * f64::from(i);
            let predicted = Predicted::of_stars(2.5 * airmass.powf(0.6));
            FrameBeside {
                at_s: 300.0 * f64::from(i),
                exposure: (i % 2) as usize,
                kept: true,
                background_e_per_s: None,
                zenith_v_mag: None,
                fwhm_arcsec: Some(fwhm_of_promised * predicted.fwhm_arcsec),
                transparency: Some(transparency(airmass)),
                airmass: Some(airmass),
                predicted,
            }
        };
        (0..30).map(one).collect()
    }

    #[test]
    fn an_air_that_takes_more_than_believed_is_told_by_stars_that_sink() {
        let hazy = sinking(|x| 10f64.powf(-0.4 * 0.12 * (x - 1.1)), 1.0);
        let told = extinction_offer(&site(), &hazy, 0.2).expect("it differs");
        assert!((told.measured.value - 0.32).abs() < 0.005, "{told:?}");
        assert_eq!(extinction_offer(&site(), &sinking(|_| 1.0, 1.0), 0.2), None);
        // Over a tenth of an airmass nothing is told.
        assert_eq!(extinction_offer(&site(), &hazy[..4], 0.2), None);
    }

    #[test]
    fn stars_larger_than_promised_by_a_third_are_an_offer_and_by_a_tenth_are_not() {
        let mut site = site();
        site.seeing_fwhm_arcsec = Some(2.5);
        let told = seeing_offer(&site, &sinking(|_| 1.0, 1.4)).expect("it differs");
        assert!((told.measured.value - 3.5).abs() < 1e-9, "{told:?}");
        assert!(told.offered.value > 3.0 && told.offered.value < 3.5, "{told:?}");
        assert_eq!(seeing_offer(&site, &sinking(|_| 1.0, 1.1)), None);
        site.seeing_fwhm_arcsec = None;
        assert_eq!(seeing_offer(&site, &sinking(|_| 1.0, 1.4)), None);
    }
}
