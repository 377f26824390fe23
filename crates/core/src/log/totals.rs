//! What a night brought, filter by filter.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::frame::header::FrameKind;
use crate::frame::measured::FrameMeasured;
use crate::frame::tile::middle;
use crate::log::quality::FrameJudged;

/// What came in through one filter in one length.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct FilterTotal {
    /// What the frames are.
    #[serde(rename = "type")]
    pub kind: Option<FrameKind>,
    /// What they are of.
    pub object: Option<String>,
    /// Name of the filter; null for none.
    pub filter: Option<String>,
    /// Length, s.
    pub exposure_s: Option<f64>,
    /// The camera's gain setting.
    pub gain: Option<f64>,
    /// Frames that were taken.
    pub taken: usize,
    /// Frames that are kept.
    pub kept: usize,
    /// Seconds of the kept ones.
    pub kept_s: f64,
    /// As many frames of a clear sky would be worth as much as the kept ones: the sum of the
    /// squares of their transparency. Variance that a cloud's own light added is not in it.
    pub worth: f64,
    /// Median full width at half maximum of the kept ones, arcsec, else null.
    pub fwhm_arcsec: Option<f64>,
    /// Median temperature of the sensor, degrees Celsius.
    pub sensor_c: Option<f64>,
}

/// Sums over frames, each with what it was judged and whether it is kept; in the order of their
/// first frame.
pub fn totals<'a>(
    frames: impl Iterator<Item = (&'a FrameMeasured, Option<&'a FrameJudged>, bool)>,
) -> Vec<FilterTotal> {
    let mut all: Vec<(FilterTotal, Vec<f64>, Vec<f64>)> = Vec::new();
    for (f, judged, kept) in frames {
        let h = &f.read.header;
        let of = |t: &FilterTotal| {
            (t.kind, &t.object, &t.filter) == (h.kind, &h.object, &h.filter)
                && (t.exposure_s, t.gain) == (h.exposure_s, h.gain)
        };
        let at = all.iter().position(|(t, ..)| of(t)).unwrap_or_else(|| {
            let total = FilterTotal {
                kind: h.kind,
                object: h.object.clone(),
                filter: h.filter.clone(),
                exposure_s: h.exposure_s,
                gain: h.gain,
                taken: 0,
                kept: 0,
                kept_s: 0.0,
                worth: 0.0,
                fwhm_arcsec: None,
                sensor_c: None,
            };
            all.push((total, Vec::new(), Vec::new()));
            all.len() - 1
        });
        let (t, widths, sensors) = &mut all[at];
        t.taken += 1;
        sensors.extend(h.sensor_c);
        if kept {
            t.kept += 1;
            t.kept_s += h.exposure_s.unwrap_or(0.0);
            t.worth += judged.and_then(|j| j.transparency).unwrap_or(1.0).min(1.0).powi(2);
            widths.extend(judged.and_then(|j| j.fwhm_arcsec));
        }
    }
    let told = |(t, widths, sensors): (FilterTotal, Vec<f64>, Vec<f64>)| FilterTotal {
        fwhm_arcsec: middle(widths.into_iter()),
        sensor_c: middle(sensors.into_iter()),
        ..t
    };
    all.into_iter().map(told).collect()
}
