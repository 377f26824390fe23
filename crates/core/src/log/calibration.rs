//! Calibration frames counted against what the campaign's budget asks: darks that fit the night's
//! lights, whenever they were taken, and flats of each filter.

use serde::Serialize;
use utoipa::ToSchema;

use crate::frame::header::{FrameKind, HeaderFields};
use crate::frame::measured::FrameMeasured;

/// A dark fits lights whose sensor was as warm within this, kelvin (common practice, no source).
const NEAR_K: f64 = 2.0;
/// And that are as long within this share.
const NEAR_LENGTH: f64 = 0.01;

/// How many calibration frames there are for some of a night's lights.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct CalibrationCount {
    /// What they are: dark or flat.
    #[serde(rename = "type")]
    pub kind: FrameKind,
    /// Name of the filter, of flats.
    pub filter: Option<String>,
    /// Length of the lights, s, of darks.
    pub exposure_s: Option<f64>,
    /// The camera's gain setting.
    pub gain: Option<f64>,
    /// Temperature of the sensor, degrees Celsius, of darks.
    pub sensor_c: Option<f64>,
    /// Frames that fit.
    pub taken: usize,
    /// Frames that the budget asks for; null where it says nothing.
    pub asked: Option<usize>,
}

/// Whether a dark fits a light: length, gain, binning and temperature.
fn fits(dark: &HeaderFields, light: &HeaderFields) -> bool {
    let near = |a: Option<f64>, b: Option<f64>, within: f64| match (a, b) {
        (Some(a), Some(b)) => (a - b).abs() <= within,
        // What one of them does not say cannot part them.
        _ => true,
    };
    let length = light.exposure_s.unwrap_or(0.0) * NEAR_LENGTH;
    near(dark.exposure_s, light.exposure_s, length)
        && near(dark.gain, light.gain, 0.0)
        && near(dark.binning, light.binning, 0.0)
        && near(dark.sensor_c, light.sensor_c, NEAR_K)
}

/// Counts darks and flats for the lights of a night; of frames of other kinds nothing is taken.
/// `dark_frames` is the size of the master dark that the budget reckons with.
pub fn calibration<'a>(
    lights: impl Iterator<Item = &'a FrameMeasured>,
    others: &[&FrameMeasured],
    dark_frames: f64,
) -> Vec<CalibrationCount> {
    let of = |kind: FrameKind| {
        others.iter().map(|f| &f.read.header).filter(move |h| h.kind == Some(kind))
    };
    let (mut darks, mut flats): (Vec<&HeaderFields>, Vec<&HeaderFields>) = Default::default();
    for light in lights.map(|f| &f.read.header) {
        if !darks.iter().any(|d| fits(d, light)) {
            darks.push(light);
        }
        if !flats.iter().any(|f| f.filter == light.filter) {
            flats.push(light);
        }
    }
    let dark = |light: &&HeaderFields| CalibrationCount {
        kind: FrameKind::Dark,
        filter: None,
        exposure_s: light.exposure_s,
        gain: light.gain,
        sensor_c: light.sensor_c,
        taken: of(FrameKind::Dark).filter(|d| fits(d, light)).count(),
        asked: Some(dark_frames.round() as usize),
    };
    let flat = |light: &&HeaderFields| CalibrationCount {
        kind: FrameKind::Flat,
        filter: light.filter.clone(),
        exposure_s: None,
        gain: light.gain,
        sensor_c: None,
        taken: of(FrameKind::Flat).filter(|f| f.filter == light.filter).count(),
        asked: None,
    };
    darks.iter().map(dark).chain(flats.iter().map(flat)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::log::quality::tests::frame_of_the_sky;

    fn frame(kind: FrameKind, filter: &str, exposure_s: f64, sensor_c: f64) -> FrameMeasured {
        let mut f = frame_of_the_sky();
        let h = &mut f.read.header;
        (h.kind, h.filter) = (Some(kind), Some(filter.to_owned()));
        (h.exposure_s, h.sensor_c, h.gain) = (Some(exposure_s), Some(sensor_c), Some(100.0));
        f
    }

    #[test]
    fn darks_count_where_length_gain_and_temperature_fit() {
        let lights = [
            frame(FrameKind::Light, "Ha", 300.0, -9.8),
            frame(FrameKind::Light, "Ha", 300.0, -10.3),
            frame(FrameKind::Light, "L", 120.0, -10.0),
        ];
        let mut others: Vec<FrameMeasured> =
            (0..7).map(|_| frame(FrameKind::Dark, "", 300.0, -10.0)).collect();
        // Too warm, too short, at another gain.
        others.push(frame(FrameKind::Dark, "", 300.0, -5.0));
        others.push(frame(FrameKind::Dark, "", 290.0, -10.0));
        others.push(frame(FrameKind::Dark, "", 300.0, -10.0));
        others[9].read.header.gain = Some(0.0);
        others.extend((0..20).map(|_| frame(FrameKind::Flat, "L", 2.0, -10.0)));
        let others: Vec<&FrameMeasured> = others.iter().collect();
        let told: Vec<_> = calibration(lights.iter(), &others, 50.0)
            .into_iter()
            .map(|c| (c.kind, c.filter, c.exposure_s, c.taken, c.asked))
            .collect();
        let named = |f: &str| Some(f.to_owned());
        assert_eq!(
            told,
            [
                (FrameKind::Dark, None, Some(300.0), 7, Some(50)),
                (FrameKind::Dark, None, Some(120.0), 0, Some(50)),
                (FrameKind::Flat, named("Ha"), None, 0, None),
                (FrameKind::Flat, named("L"), None, 20, None),
            ]
        );
    }
}
