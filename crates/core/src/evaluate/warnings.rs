//! Warnings: what is odd about a scenario that is answered all the same.

use crate::evaluate::answer::Warning;
use crate::path::sky::twilight::TWILIGHT_UNTIL_DEG;
use crate::scenario::document::Scenario;
use crate::signal::model::Model;

/// What a user should know about a scenario that is answered all the same.
pub(super) fn warnings(s: &Scenario, model: &Model) -> Vec<Warning> {
    let mut out = Vec::new();
    let mut warn = |path: String, message: String| out.push(Warning { path, message });
    if s.sky.sun_altitude_deg > TWILIGHT_UNTIL_DEG {
        warn(
            "sky.sun_altitude_deg".into(),
            "The sun is higher than -5 degrees: the twilight model ends there, so the sky is brighter than shown.".into(),
        );
    }
    if s.sky.zenith_v_mag > s.sky.natural_v_mag {
        warn(
            "sky.zenith_v_mag".into(),
            format!("Darker than the natural sky ({} mag/arcsec^2): taken as a site without lamps.", s.sky.natural_v_mag),
        );
    }
    for (i, (c, p)) in s.contenders.iter().zip(&model.paths).enumerate() {
        if p.instrument.gain.clamped {
            let (lo, hi) = (c.sensor.gains[0].setting, c.sensor.gains[c.sensor.gains.len() - 1].setting);
            warn(
                format!("contenders[{i}].gain"),
                format!("Setting {} lies outside the gain table ({lo} to {hi}): its nearest end was taken.", c.gain),
            );
        }
        for (j, e) in p.exposures.iter().enumerate() {
            let ratio = c.optics.focal_ratio();
            let made_for = c.exposures[j].filter.as_ref().and_then(|f| f.design_focal_ratios);
            if let Some([fast, slow]) = made_for.filter(|[fast, slow]| !(*fast * 0.95..=*slow * 1.05).contains(&ratio)) {
                let message = format!(
                    "The filter is made for f/{fast:.1} to f/{slow:.1}; this telescope is f/{ratio:.1}, so its band lies elsewhere than meant."
                );
                warn(format!("contenders[{i}].exposures[{j}].filter"), message);
            }
            for (q, t) in e.transmissions.iter().filter(|(_, t)| t.too_narrow) {
                let head_on = t.head_on * 100.0;
                let message = format!(
                    "Too narrow for f/{:.1}: the cone slides the band, and {:.0} % of the {} passes instead of {head_on:.0} %. A wider band or one made for fast light keeps more.",
                    ratio,
                    t.in_cone * 100.0,
                    q.label()
                );
                warn(format!("contenders[{i}].exposures[{j}].filter"), message);
            }
            if let Some(limit) = c.optics.longest_sub_s.filter(|&limit| e.sub_s > limit) {
                warn(format!("contenders[{i}].exposures[{j}].sub_s"), format!("Longer than the {limit} s that the mount keeps round."));
            }
        }
    }
    out
}
