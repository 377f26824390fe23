//! What the model says that a frame of a trial holds in a pixel, beside what a box on it does.

use serde::Serialize;
use utoipa::ToSchema;

use crate::light::lines::Quantity;
use crate::log::predicted::NightModel;
use crate::scenario::rig::Contender;
use crate::trial::measure::channel_of;

/// A pixel of a frame as the model has it, electrons.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct PixelPredicted {
    /// The sky's light with dark current.
    pub background_e: f64,
    /// Mean light of the target's line over it.
    pub over_e: f64,
    /// Scatter of one pixel under both, with read noise.
    pub scatter_e: f64,
}

/// A frame that the model is asked about.
#[derive(Clone, Copy, Debug)]
pub struct FrameAsked<'a> {
    /// Index of its exposure in the light path.
    pub exposure: usize,
    /// The channel that its stars are measured in.
    pub channel: &'a str,
    /// When it began, seconds since 1970 UTC.
    pub start_s: f64,
    /// Its length, s.
    pub sub_s: f64,
    /// Its gain setting; the light path's where it is not known.
    pub gain: Option<f64>,
    /// Pixels along a side that were read as one.
    pub binning: u32,
}

/// What the model says of a pixel of a frame through a light path, of the light of `quantity`; `None`
/// where the target is too low, or the path has no such channel.
pub fn pixel_predicted(
    night: &NightModel,
    path: &Contender,
    quantity: Quantity,
    f: FrameAsked,
) -> Option<PixelPredicted> {
    let (channel, at_s) = (channel_of(quantity, f.channel), f.start_s + f.sub_s / 2.0);
    let pixels = f64::from(f.binning.max(1)).powi(2);
    let together = pixels * f.sub_s;
    let background_e = night.at(f.exposure, channel, at_s)?.background_e_per_s * together;
    let over_e = night.target_at(f.exposure, channel, at_s)?[quantity] * together;
    let own = path.sensor.at_gain_binned(f.gain.unwrap_or(path.gain), f.binning.max(1));
    // Variances add; the read noise is told for one of the pixels that are read as one.
    let scatter_e = (background_e + over_e + pixels * own.read_noise_e.powi(2)).sqrt();
    Some(PixelPredicted { background_e, over_e, scatter_e })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::scenario::site::Site;
    use crate::trial::document::tests::trial_of_two_filters;

    #[test]
    fn a_pixel_holds_what_its_sky_target_and_reading_make_of_it() {
        let t = trial_of_two_filters();
        let site: Site = serde_json::from_value(serde_json::json!({
            "latitude_deg": 47.0, "longitude_deg": 8.0, "height_m": 500.0, "zenith_v_mag": 20.5,
            "lamps": {"led_3000k": 1.0},
        }))
        .expect("a site");
        // A January evening on which the target stands high.
        let start_s = 1_800_309_600.0;
        let path = t.kinds[0].path;
        let span = [start_s, start_s + 3600.0];
        let night =
            NightModel::new((&t.as_campaign(), path), &site, span, &crate::common::tables());
        let night = night.expect("accepted").expect("a night");
        let c = &t.scenario.contenders[path];
        let of = |exposure, sub_s, binning| {
            let f = FrameAsked { exposure, channel: "mono", start_s, sub_s, gain: None, binning };
            pixel_predicted(&night, c, t.quantity, f).expect("it is up")
        };
        let one = of(0, 300.0, 1);
        let read = c.sensor.at_gain(c.gain).read_noise_e;
        assert!(one.background_e > 1.0 && one.over_e > 0.0, "{one:?}");
        let scatter = (one.background_e + one.over_e + read * read).sqrt();
        assert!((one.scatter_e - scatter).abs() < 1e-9);
        // Four pixels read as one hold four times the light.
        let four = of(0, 300.0, 2);
        assert!((four.over_e / one.over_e - 4.0).abs() < 1e-9);
        assert!((four.scatter_e / one.scatter_e - 2.0).abs() < 1e-9, "{four:?}");
        // Through the other line's filter there is none of it.
        assert!(of(1, 300.0, 1).over_e < 0.05 * one.over_e);
        let none = FrameAsked {
            exposure: 0,
            channel: "none",
            start_s,
            sub_s: 300.0,
            gain: None,
            binning: 1,
        };
        assert_eq!(pixel_predicted(&night, c, t.quantity, none), None);
    }
}
