//! A test frame against the model: whether both see one sky.

use serde::Serialize;
use utoipa::ToSchema;

use crate::decide::sub::view::View;
use crate::light::units::linear_from_mag;
use crate::path::rates::Rates;
use crate::path::sky::air::Air;
use crate::path::sky::artificial::artificial_linear;
use crate::path::sky::natural::natural_growth;
use crate::scenario::cfa::CfaColour;
use crate::signal::channel::ChannelModel;

/// Frame and model see one sky within this, mag: what a meter or a neighbour's porch light moves
/// from night to night (common practice, no source).
pub const SAME_SKY_MAG: f64 = 0.15;

/// What a test frame says of the sky that the figures assume.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct FrameTold {
    /// Background that the frame measured, e- a second and pixel.
    pub measured_e_per_s: f64,
    /// Background and dark current that the model expects there, e- a second and pixel.
    pub expected_e_per_s: f64,
    /// The frame over the model, mag: positive where the frame is fainter. Null where the frame
    /// holds no more than the dark.
    pub fainter_mag: Option<f64>,
    /// Whether both see one sky, within 0.15 mag. Where not, the frame gives no length of sub: it
    /// would mix two skies.
    pub agrees: bool,
    /// The reading towards the target with which the model would give the frame's background, V
    /// mag/arcsec^2; null where they agree, or where no such reading lies between 12 and 22.5.
    pub toward_target_v_mag: Option<f64>,
    /// The electrons per ADU with which the model's sky would give the frame's background: the gain
    /// that explains it where the sky is right; null where they agree.
    pub e_per_adu: Option<f64>,
    /// The same over the gain in use.
    pub gain_factor: Option<f64>,
    /// The smallest offset with which fewer than one pixel in ten thousand is cut off at zero, ADU:
    /// five times the read noise.
    pub least_offset_adu: f64,
    /// The same in words.
    pub text: String,
}

/// The test frame of the viewed exposure against the model; `None` without one.
pub(super) fn told(v: &View, deciding: &ChannelModel) -> Option<FrameTold> {
    let frame = v.exposure.test_frame?;
    let named = frame.channel.map(CfaColour::key);
    let deciding = v.model.channels.iter().find(|c| Some(c.name) == named).unwrap_or(deciding);
    let r = deciding.nominal();
    let offset_adu = if frame.with_offset { v.contender.sensor.offset_adu } else { 0.0 };
    let measured = (frame.background_adu - offset_adu) * v.gain.e_per_adu / frame.sub_s;
    let least_offset_adu = (SAFE_OFFSET * v.gain.read_noise_e / v.gain.e_per_adu).ceil();
    let (sky, expected) = (r.background(), r.background() + r.dark);
    let light = measured - r.dark;
    let pixel = if v.contender.sensor.cfa.is_some() {
        format!(" in a pixel of {}", deciding.name)
    } else {
        String::new()
    };
    let numbers = format!(
        "the frame has {measured:.3} e-/s{pixel}, the figures assume {expected:.3} e-/s with dark \
            current"
    );
    if light <= 0.0 || sky <= 0.0 {
        let text = format!(
            "Your test frame shows no sky: {numbers}. Check offset, gain and temperature, or \
                whether the cap was on; it gives no length of sub."
        );
        return Some(FrameTold {
            measured_e_per_s: measured,
            expected_e_per_s: expected,
            fainter_mag: None,
            agrees: false,
            toward_target_v_mag: None,
            e_per_adu: None,
            gain_factor: None,
            least_offset_adu,
            text,
        });
    }
    let fainter = -2.5 * (light / sky).log10();
    let agrees = fainter.abs() <= SAME_SKY_MAG;
    let toward_target_v_mag = if agrees { None } else { toward_target_v_mag(v, r, light) };
    let text = if agrees {
        format!(
            "Your test frame agrees with the sky assumed here to {:.2} mag: {numbers}.",
            fainter.abs()
        )
    } else {
        let way = if fainter > 0.0 { "darker" } else { "brighter" };
        format!(
            "Your test frame's sky is {:.2} mag {way} than the one assumed here: {numbers}. Until \
                they agree it gives no length of sub, as that would mix two skies; correct the \
                sky, or check that filter, gain and offset are those of the frame.",
            fainter.abs()
        )
    };
    Some(FrameTold {
        measured_e_per_s: measured,
        expected_e_per_s: expected,
        fainter_mag: Some(fainter),
        agrees,
        toward_target_v_mag,
        gain_factor: (!agrees).then_some(expected / measured),
        e_per_adu: (!agrees).then(|| v.gain.e_per_adu * expected / measured),
        least_offset_adu,
        text: text + &offset_advice(v.contender.sensor.offset_adu, least_offset_adu),
    })
}

/// The reading towards the target that explains the frame: lamps take what natural light, moon and
/// twilight leave of it.
fn toward_target_v_mag(v: &View, r: &Rates, light: f64) -> Option<f64> {
    let sky = &v.s.sky;
    let k_v = Air::new(sky.site_height_m, sky.k_v, 1.0).k(550.0);
    let natural_linear =
        linear_from_mag(sky.natural_zenith_mag()) * natural_growth(sky.target_altitude_deg, k_v);
    let [natural, lamps, moon, twilight] = r.sky.0;
    let left = light - natural - moon - twilight;
    if lamps <= 0.0 || left <= 0.0 {
        return None;
    }
    let lamps_linear = artificial_linear(sky, k_v) * left / lamps;
    let mag = -2.5 * (natural_linear + lamps_linear).log10();
    (12.0..=22.5).contains(&mag).then_some((mag * 100.0).round() / 100.0)
}

/// An offset of so many times the read noise leaves fewer than one pixel in ten thousand at zero,
/// by the normal distribution's tail and some room for what is not normal (common practice, no
/// source).
const SAFE_OFFSET: f64 = 5.0;

/// What there is to say of an offset.
fn offset_advice(offset_adu: f64, least_adu: f64) -> String {
    if offset_adu < least_adu {
        format!(
            " An offset of {offset_adu} ADU cuts the darkest pixels off at zero: {least_adu} ADU or \
                more would keep them."
        )
    } else {
        String::new()
    }
}
