//! What frames belong to: the campaign whose target they are of, and the camera and the exposure of
//! it that their headers name.

use crate::campaign::document::{Campaign, Shot};
use crate::frame::header::FrameKind;
use crate::frame::measured::FrameMeasured;
use crate::library::catalogue::names::same_name;
use crate::log::naming::meant;
use crate::night::ephemeris::{Direction, separation_deg};

/// Frames whose middle is nearer to a campaign's than this are of it, degrees: two fields of a
/// usual telescope (common practice, no source).
const NEAR_DEG: f64 = 1.5;
/// Name of an exposure without a filter.
pub const NO_FILTER: &str = "no filter";

/// Whether a frame of the sky is of a campaign's target: by its name, else by its place.
pub fn is_of(frame: &FrameMeasured, c: &Campaign) -> bool {
    let h = &frame.read.header;
    if h.kind.is_some_and(|k| k != FrameKind::Light) {
        return false;
    }
    if h.object.as_deref().is_some_and(|o| same_name(o, &c.scenario.target.name)) {
        return true;
    }
    let at = |ra_deg, dec_deg| Direction { ra_deg, dec_deg }.vector();
    let framed = at(c.framing.ra_deg, c.framing.dec_deg);
    let own = h.ra_deg.zip(h.dec_deg).map(|(ra, dec)| at(ra, dec));
    own.is_some_and(|own| separation_deg(&own, &framed) < NEAR_DEG)
}

/// Names of a light path's filters in the order of its exposures; none where the campaign has no
/// such path.
pub fn filters_of(c: &Campaign, path: usize) -> Vec<&str> {
    let exposures = c.scenario.contenders.get(path).map_or(&[][..], |c| &c.exposures);
    exposures.iter().map(|e| e.filter.as_ref().map_or(NO_FILTER, |f| f.name.as_str())).collect()
}

/// The exposure that a header's filter means, by the names of all: what somebody said that it
/// means, else what it speaks of. `said` is empty where the header names none.
pub fn exposure_meant(said: &str, explained: Option<&str>, filters: &[&str]) -> Option<usize> {
    match explained {
        Some(means) => filters.iter().position(|f| *f == means),
        // A path of one exposure without a filter takes frames that name none.
        None if said.is_empty() => (filters == [NO_FILTER]).then_some(0),
        None => meant(said, filters),
    }
}

/// Which of a campaign's cameras a header means: the only one, what somebody said that it means, or
/// one of the same name.
pub fn camera_meant<'a>(
    said: &str,
    explained: Option<&str>,
    cameras: &[&'a str],
) -> Option<&'a str> {
    match cameras {
        [only] => Some(only),
        all => all.iter().find(|c| c.eq_ignore_ascii_case(explained.unwrap_or(said))).copied(),
    }
}

/// Whether shots count the same: a millionth is rounding.
pub fn count_alike(a: &[Shot], b: &[Shot]) -> bool {
    let near = |x: f64, y: f64| (x - y).abs() <= 1e-6 * x.abs().max(y.abs());
    let same = |(a, b): (&Shot, &Shot)| {
        (a.path, a.exposure, a.subs) == (b.path, b.exposure, b.subs) && near(a.snr2, b.snr2)
    };
    a.len() == b.len() && a.iter().zip(b).all(same)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::common::campaign_of_ic_443;
    use crate::log::quality::tests::frame_of_the_sky;
    use std::collections::BTreeMap;

    #[test]
    fn frames_are_of_a_campaign_by_name_or_by_place() {
        let c = campaign_of_ic_443();
        let of = |object: Option<&str>, at: Option<(f64, f64)>, kind: Option<FrameKind>| {
            let mut f = frame_of_the_sky();
            let h = &mut f.read.header;
            (h.object, h.kind) = (object.map(str::to_owned), kind);
            (h.ra_deg, h.dec_deg) = (at.map(|a| a.0), at.map(|a| a.1));
            is_of(&f, &c)
        };
        let light = Some(FrameKind::Light);
        assert!(of(Some("ic443"), None, light) && of(Some("IC 0443"), None, None));
        assert!(!of(Some("IC 443"), None, Some(FrameKind::Flat)));
        let framed = (c.framing.ra_deg, c.framing.dec_deg);
        assert!(of(Some("panel 2"), Some((framed.0, framed.1 + 1.4)), light));
        assert!(!of(Some("panel 2"), Some((framed.0, framed.1 + 1.6)), light));
        assert!(!of(Some("M 31"), None, light) && !of(None, None, light));
    }

    #[test]
    fn names_mean_what_was_said_of_them_before_what_they_speak_of() {
        let all = ["H-alpha 3 nm", "[O III] 3 nm"];
        assert_eq!(exposure_meant("Ha", None, &all), Some(0));
        assert_eq!(exposure_meant("Ha", Some("[O III] 3 nm"), &all), Some(1));
        assert_eq!(exposure_meant("Ha", Some("of another kit"), &all), None);
        assert_eq!(exposure_meant("", None, &all), None);
        assert_eq!(exposure_meant("", None, &[NO_FILTER]), Some(0));
        let two = ["26 MP mono", "26 MP colour"];
        assert_eq!(camera_meant("26 mp MONO", None, &two), Some(two[0]));
        assert_eq!(camera_meant("x", Some("26 MP colour"), &two), Some(two[1]));
        assert_eq!(
            (camera_meant("x", None, &two), camera_meant("x", None, &two[1..])),
            (None, Some(two[1]))
        );
    }

    #[test]
    fn shots_that_differ_by_more_than_rounding_do_not_count_alike() {
        let shot =
            |subs, snr2| Shot { path: None, exposure: 0, subs, snr2, lines_snr2: BTreeMap::new() };
        assert!(count_alike(&[shot(3, 50.0)], &[shot(3, 50.0 * (1.0 + 1e-9))]));
        assert!(!count_alike(&[shot(3, 50.0)], &[shot(3, 50.1)]));
        assert!(!count_alike(&[shot(3, 50.0)], &[shot(2, 50.0)]));
        assert!(!count_alike(&[], &[shot(3, 50.0)]));
    }
}
