//! What headers of a whole session say wrongly, or not at all, and somebody corrected.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::frame::header::FrameKind;
use crate::frame::measured::FrameMeasured;
use crate::scenario::field_error::FieldError;

/// What stands in the place of what a session's headers say; null leaves a field as it is.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Corrections {
    /// What the frames of the sky are of.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub object: Option<String>,
    /// Name of the filter.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub filter: Option<String>,
    /// What the frames are.
    #[serde(default, rename = "type", skip_serializing_if = "Option::is_none")]
    pub kind: Option<FrameKind>,
    /// Length, s.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub exposure_s: Option<f64>,
    /// What the camera's clock lacks, s: added to every start.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub clock_off_s: Option<f64>,
    /// Temperature of the sensor, degrees Celsius.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sensor_c: Option<f64>,
    /// Pixels put together, to a side.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub binning: Option<f64>,
    /// Right ascension of the middle, degrees.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ra_deg: Option<f64>,
    /// Declination of the middle, degrees.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub dec_deg: Option<f64>,
    /// Position angle of the frame's upward side, degrees from north through east.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub position_angle_deg: Option<f64>,
    /// The camera's gain setting.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub gain: Option<f64>,
    /// Electrons per ADU.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub e_per_adu: Option<f64>,
    /// Level of no light, ADU.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub offset_adu: Option<f64>,
    /// Side of a pixel, um.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pixel_um: Option<f64>,
    /// Focal length, mm.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub focal_length_mm: Option<f64>,
    /// Latitude of the site, degrees.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub latitude_deg: Option<f64>,
    /// Longitude of the site, degrees, east positive.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub longitude_deg: Option<f64>,
}

/// The longest name, letters.
const LONGEST_NAME: usize = 200;

impl Corrections {
    /// Checks every field.
    ///
    /// # Errors
    /// All fields that are wrong, with what is accepted.
    pub fn check(&self) -> Result<(), Vec<FieldError>> {
        let numbers = [
            ("exposure_s", self.exposure_s, [1e-6, 1e5], " s"),
            ("clock_off_s", self.clock_off_s, [-86_400.0, 86_400.0], " s"),
            ("sensor_c", self.sensor_c, [-100.0, 100.0], " degrees Celsius"),
            ("binning", self.binning, [1.0, 16.0], ""),
            ("ra_deg", self.ra_deg, [0.0, 360.0], " degrees"),
            ("dec_deg", self.dec_deg, [-90.0, 90.0], " degrees"),
            ("position_angle_deg", self.position_angle_deg, [-360.0, 360.0], " degrees"),
            ("gain", self.gain, [-1e4, 1e6], ""),
            ("e_per_adu", self.e_per_adu, [1e-6, 1e4], " e-/ADU"),
            ("offset_adu", self.offset_adu, [0.0, 1e6], " ADU"),
            ("pixel_um", self.pixel_um, [0.5, 100.0], " um"),
            ("focal_length_mm", self.focal_length_mm, [1.0, 50_000.0], " mm"),
            ("latitude_deg", self.latitude_deg, [-90.0, 90.0], " degrees"),
            ("longitude_deg", self.longitude_deg, [-180.0, 180.0], " degrees"),
        ];
        let mut wrong: Vec<FieldError> = numbers
            .iter()
            .filter_map(|(field, n, [low, high], unit)| {
                let n = n.filter(|n| !(*low..=*high).contains(n))?;
                let message = format!("{n} is not accepted; give {low} to {high}{unit}");
                Some(FieldError { path: (*field).to_owned(), message })
            })
            .collect();
        for (field, name) in [("object", &self.object), ("filter", &self.filter)] {
            let bad = |n: &&String| n.chars().any(char::is_control) || n.len() > LONGEST_NAME;
            if name.as_ref().filter(bad).is_some() {
                let message =
                    format!("give at most {LONGEST_NAME} letters, without control characters");
                wrong.push(FieldError { path: field.to_owned(), message });
            }
        }
        if wrong.is_empty() { Ok(()) } else { Err(wrong) }
    }

    /// Puts what was corrected in the place of what a frame's header says. What was computed from
    /// that is forgotten, to be computed anew.
    pub fn apply(&self, frame: &mut FrameMeasured) {
        let by_hand = |understood: &mut std::collections::BTreeMap<String, String>, field: &str| {
            understood.insert(field.to_owned(), "by hand".to_owned());
        };
        let read = &mut frame.read;
        let h = &mut read.header;
        for (field, own, to) in
            [("object", &self.object, &mut h.object), ("filter", &self.filter, &mut h.filter)]
        {
            if own.is_some() {
                to.clone_from(own);
                by_hand(&mut read.understood, field);
            }
        }
        for (field, own, to) in [
            ("exposure_s", self.exposure_s, &mut h.exposure_s),
            ("sensor_c", self.sensor_c, &mut h.sensor_c),
            ("binning", self.binning, &mut h.binning),
            ("ra_deg", self.ra_deg, &mut h.ra_deg),
            ("dec_deg", self.dec_deg, &mut h.dec_deg),
            ("position_angle_deg", self.position_angle_deg, &mut h.position_angle_deg),
            ("gain", self.gain, &mut h.gain),
            ("e_per_adu", self.e_per_adu, &mut h.e_per_adu),
            ("offset_adu", self.offset_adu, &mut h.offset_adu),
            ("pixel_um", self.pixel_um, &mut h.pixel_um),
            ("focal_length_mm", self.focal_length_mm, &mut h.focal_length_mm),
            ("latitude_deg", self.latitude_deg, &mut h.latitude_deg),
            ("longitude_deg", self.longitude_deg, &mut h.longitude_deg),
        ] {
            if own.is_some() {
                *to = own;
                by_hand(&mut read.understood, field);
            }
        }
        if self.kind.is_some() {
            h.kind = self.kind;
            by_hand(&mut read.understood, "type");
        }
        if self.pixel_um.or(self.focal_length_mm).is_some() {
            h.scale_arcsec = None;
        }
        if self.e_per_adu.or(self.offset_adu).or(self.exposure_s).is_some() {
            frame.channels.iter_mut().for_each(|c| c.background_e_per_s = None);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::log::quality::tests::frame_of_the_sky;

    #[test]
    fn what_was_corrected_stands_and_the_rest_stays() {
        let was = frame_of_the_sky();
        let mut frame = was.clone();
        Corrections::default().apply(&mut frame);
        assert_eq!(frame, was);
        frame.channels[0].background_e_per_s = Some(1.0);
        let c = Corrections {
            object: Some("M 1".to_owned()),
            e_per_adu: Some(0.5),
            focal_length_mm: Some(400.0),
            kind: Some(FrameKind::Flat),
            exposure_s: Some(2.0),
            ..Corrections::default()
        };
        c.apply(&mut frame);
        let h = &frame.read.header;
        assert_eq!(h.object.as_deref(), Some("M 1"));
        assert_eq!((h.kind, h.exposure_s), (Some(FrameKind::Flat), Some(2.0)));
        assert_eq!((h.e_per_adu, h.focal_length_mm), (Some(0.5), Some(400.0)));
        assert_eq!(h.filter, was.read.header.filter);
        assert_eq!(frame.read.understood["e_per_adu"], "by hand");
        assert_eq!(frame.channels[0].background_e_per_s, None);
    }

    #[test]
    fn what_is_out_of_range_is_named() {
        let c = Corrections { gain: Some(1e9), pixel_um: Some(0.0), ..Corrections::default() };
        let paths: Vec<String> =
            c.check().expect_err("wrong").into_iter().map(|e| e.path).collect();
        assert_eq!(paths, ["gain", "pixel_um"]);
        assert_eq!(Corrections::default().check(), Ok(()));
    }
}
