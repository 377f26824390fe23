//! What a night teaches about one figure, weighed against what was believed.
//!
//! A night is one draw of many: its own figure scatters about the usual one by what nights differ.
//! The figure that is offered is the mean of what was believed and what was measured, each weighed
//! by its certainty (normal prior and normal measurement: Gelman et al., Bayesian Data Analysis,
//! 2.5), the night's scatter counted as part of the measurement's. So the first clear night says
//! nearly all, the tenth a tenth, and one hazy night rewrites nothing.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A figure that a night can teach.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Lesson {
    /// Brightness of the site's zenith without moon, V mag/arcsec^2.
    Zenith,
    /// How much darker the zenith is after an hour of the night, mag.
    LampsOff,
    /// How much faster than usual lamps' light grows towards the horizon in one direction.
    Glow,
    /// Extinction in V, mag to an airmass.
    Extinction,
    /// Full width of a star at the zenith, arcsec.
    Seeing,
    /// Share of the light that the telescope passes, 0-1.
    Throughput,
    /// Read noise at the night's gain, e-.
    ReadNoise,
    /// Dark current at the kit's temperature, e-/s in a pixel.
    Dark,
    /// Centre of a filter copy's reddest band in parallel light, nm.
    FilterCentre,
}

/// When a figure is worth an offer, and how firm it is.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Terms {
    /// By how much usual nights differ, in the figure's unit.
    pub(crate) nights_sd: f64,
    /// Smaller differences than this are nobody's business.
    pub(crate) least: f64,
}

/// A figure with its standard deviation.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Estimate {
    /// It.
    pub value: f64,
    /// Its standard deviation.
    pub sd: f64,
}

impl Estimate {
    /// The mean of two by their certainty.
    fn weighed(self, other: Self) -> Self {
        let [a, b] = [self, other].map(|f| f.sd.powi(-2));
        Self { value: (a * self.value + b * other.value) / (a + b), sd: (a + b).powf(-0.5) }
    }
}

/// A figure that a night would change.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Offer {
    /// Which.
    pub lesson: Lesson,
    /// What is believed.
    pub now: Estimate,
    /// What the night says.
    pub measured: Estimate,
    /// What both make.
    pub offered: Estimate,
    /// Its unit as it is written, with a blank before it where one belongs there.
    pub unit: String,
    /// From when in the night, hours of the site's mean solar time; null of a figure of all night.
    pub from_solar_hour: Option<f64>,
    /// The direction that it is of, degrees from north through east; null of one of no direction.
    #[serde(default)]
    pub azimuth_deg: Option<f64>,
    /// The camera's gain setting that it is of; null of a figure of any gain.
    pub gain: Option<f64>,
    /// What was seen, in sentences.
    pub evidence: String,
}

/// The offer of a figure, where the night differs by more than is nobody's business and more than
/// three of its standard deviations.
pub(crate) fn offer(
    (lesson, unit): (Lesson, &str),
    (now, measured): (Estimate, Estimate),
    terms: Terms,
    evidence: String,
) -> Option<Offer> {
    let off = (measured.value - now.value).abs();
    if !off.is_finite() || off < terms.least.max(3.0 * measured.sd) {
        return None;
    }
    let of_nights = Estimate { sd: measured.sd.hypot(terms.nights_sd), ..measured };
    Some(Offer {
        lesson,
        now,
        measured,
        offered: now.weighed(of_nights),
        unit: unit.to_owned(),
        from_solar_hour: None,
        azimuth_deg: None,
        gain: None,
        evidence,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    const TERMS: Terms = Terms { nights_sd: 0.15, least: 0.1 };

    fn offered(now: (f64, f64), measured: f64) -> Option<Estimate> {
        let figure = |(value, sd)| Estimate { value, sd };
        let of = (figure(now), figure((measured, 0.02)));
        offer((Lesson::Zenith, ""), of, TERMS, String::new()).map(|o| o.offered)
    }

    #[test]
    fn the_first_night_says_nearly_all_and_a_hazy_one_after_many_next_to_nothing() {
        let first = offered((20.5, 0.5), 20.0).expect("half a magnitude");
        assert!((first.value - 20.0).abs() < 0.05 && first.sd < 0.16, "{first:?}");
        let mut known = first;
        for _ in 0..8 {
            // Each clear night about the same: told as an offer only where it differs.
            known = known.weighed(Estimate { value: 20.0, sd: 0.15 });
        }
        let hazy = offered((known.value, known.sd), 19.4).expect("it differs");
        assert!((hazy.value - 20.0).abs() < 0.08, "{hazy:?}");
    }

    #[test]
    fn what_is_small_or_unsure_is_not_offered() {
        assert_eq!(offered((20.0, 0.5), 20.09), None);
        let unsure = Estimate { value: 20.5, sd: 0.2 };
        let now = Estimate { value: 20.0, sd: 0.5 };
        assert_eq!(offer((Lesson::Zenith, ""), (now, unsure), TERMS, String::new()), None);
        assert_eq!(offered((20.0, 0.5), f64::NAN), None);
    }
}
