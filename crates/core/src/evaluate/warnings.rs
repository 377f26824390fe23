//! Warnings: what is odd about a scenario that is answered all the same.

use crate::evaluate::answer::Warning;
use crate::path::sky::twilight::TWILIGHT_UNTIL_DEG;
use crate::scenario::document::Scenario;
use crate::scenario::rig::{Contender, Following};
use crate::signal::model::{LightPath, Model};
use crate::wording::seconds;

/// What a user should know about a scenario that is answered all the same.
pub(super) fn warnings(s: &Scenario, model: &Model) -> Vec<Warning> {
    let mut out = Vec::new();
    let mut warn = |path: String, message: String| out.push(Warning { path, message });
    if s.sky.sun_altitude_deg > TWILIGHT_UNTIL_DEG {
        warn(
            "sky.sun_altitude_deg".into(),
            "The sun is higher than -5 degrees: the twilight model ends there, so the sky is \
                brighter than shown."
                .into(),
        );
    }
    if s.sky.zenith_v_mag > s.sky.natural_v_mag {
        warn(
            "sky.zenith_v_mag".into(),
            format!(
                "Darker than the natural sky ({} mag/arcsec^2): believed, as a site without lamps \
                    under a sky that is darker than most.",
                s.sky.natural_v_mag
            ),
        );
    }
    for (i, (c, p)) in s.contenders.iter().zip(&model.paths).enumerate() {
        of_rig(s, i, c, p, &mut warn);
        of_exposures(s, i, c, p, &mut warn);
    }
    out
}

/// Takes the path of a field and what is to be said of it.
type Warn<'w> = &'w mut dyn FnMut(String, String);

/// What is odd about a rig: its gain, its offset, its mount.
fn of_rig(s: &Scenario, i: usize, c: &Contender, p: &LightPath, warn: Warn) {
    if p.instrument.gain.clamped {
        let (lo, hi) =
            (c.sensor.gains[0].setting, c.sensor.gains[c.sensor.gains.len() - 1].setting);
        warn(
            format!("contenders[{i}].gain"),
            format!(
                "Setting {} lies outside the gain table ({lo} to {hi}): its nearest end was \
                    taken.",
                c.gain
            ),
        );
    }
    if let Some((mount, limit)) = c.mount.zip(c.trails_from_s(s)) {
        let what = match mount.following {
            Following::Fixed => "stars trail",
            _ => "the corners turn",
        };
        let worst = match (s.target.declination_deg, s.sky.latitude_deg, mount.following) {
            (None, ..) => "; the target's declination would say it closer",
            (_, None, Following::AltAz) => "; the site's latitude would say it closer",
            _ => "",
        };
        warn(
            format!("contenders[{i}].mount"),
            format!("On this mount {what} by {} px in {}{worst}.", mount.trail_px, seconds(limit)),
        );
    }
    let noise = c.sensor.at_gain(c.gain);
    if noise.leaves_zeros(c.sensor.offset_adu) {
        warn(
            format!("contenders[{i}].sensor.offset_adu"),
            format!(
                "At gain {} an offset of {} ADU leaves more than one bias pixel in ten thousand \
                    at zero; {:.0} ADU (five times the read noise) is safe.",
                c.gain,
                c.sensor.offset_adu,
                noise.safe_offset_adu().ceil()
            ),
        );
    }
    if let Some([low, high]) = c.sensor.gain_step(c.gain) {
        warn(
            format!("contenders[{i}].gain"),
            format!(
                "Between setting {} and {} the read noise steps from {:.1} to {:.1} e-; where \
                    in between, the table does not say. {} is taken as {:.1} e-: choose one of \
                    the two, or enter its own row.",
                low.setting,
                high.setting,
                low.read_noise_e,
                high.read_noise_e,
                c.gain,
                p.instrument.gain.read_noise_e
            ),
        );
    }
}

/// What is odd about a rig's filters and subs.
fn of_exposures(s: &Scenario, i: usize, c: &Contender, p: &LightPath, warn: Warn) {
    for (j, e) in p.exposures.iter().enumerate() {
        let ratio = c.optics.focal_ratio();
        let made_for = c.exposures[j].filter.as_ref().and_then(|f| f.design_focal_ratios);
        if let Some([fast, slow]) =
            made_for.filter(|[fast, slow]| !(*fast * 0.95..=*slow * 1.05).contains(&ratio))
        {
            let message = format!(
                "The filter is made for f/{fast:.1} to f/{slow:.1}; this telescope is \
                    f/{ratio:.1}, so its band lies elsewhere than meant."
            );
            warn(format!("contenders[{i}].exposures[{j}].filter"), message);
        }
        for (q, t) in e.transmissions.iter().filter(|(_, t)| t.too_narrow) {
            let head_on = t.head_on * 100.0;
            let message = format!(
                "Too narrow for f/{:.1}: the cone slides the band, and {:.0} % of the {} \
                    passes instead of {head_on:.0} %. A wider band or one made for fast light \
                    keeps more.",
                ratio,
                t.in_cone * 100.0,
                s.target.name_of(*q)
            );
            warn(format!("contenders[{i}].exposures[{j}].filter"), message);
        }
        for (q, t) in e.transmissions.iter().filter(|(_, t)| t.corner_loses) {
            let message = format!(
                "In the sensor's corners the light meets the filter up to {:.0} degrees askew: \
                    {:.0} % of the {} passes there instead of {:.0} %.",
                c.corner_tilt().unwrap_or(0.0).atan().to_degrees(),
                t.in_corner.unwrap_or(0.0) * 100.0,
                s.target.name_of(*q),
                t.in_cone * 100.0
            );
            warn(format!("contenders[{i}].exposures[{j}].filter"), message);
        }
        if let Some(limit) = c.longest_sub_s(s).filter(|&limit| e.sub_s > limit) {
            let limit = seconds(limit);
            warn(
                format!("contenders[{i}].exposures[{j}].sub_s"),
                format!("Longer than the {limit} that the mount keeps round."),
            );
        }
    }
}
