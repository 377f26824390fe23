//! What is worth shooting tonight: the whole catalogue ranked for a rig, a sky and a moon.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::library::catalogue::{Catalogue, CatalogueObject};
use crate::library::presets::{Faintness, TargetPreset};
use crate::light::lines::Quantity;
use crate::night::ephemeris::{Direction, Ephemeris, EphemerisError, Place, separation_deg};
use crate::night::rate::{Moment, NightRig};
use crate::night::view::moment;
use crate::scenario::document::Scenario;
use crate::scenario::limits::NightLimits;
use crate::scenario::sky::Moon;
use crate::scenario::target::{Continuum, LinesRayleigh, TargetKind};
use crate::wording::clock;

/// Time between the moments of the dark at which every object is looked at, s.
const STEP_S: f64 = 600.0;

/// Objects in the answer.
const MOST: usize = 40;

/// What is asked of a night.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct TonightSpec {
    /// Only this kind.
    pub kind: Option<TargetKind>,
    /// At least this long, arcmin; 3 where nothing is given.
    pub at_least_arcmin: Option<f64>,
}

/// One object's place in the ranking.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct WorthTonight {
    /// Its name.
    pub name: String,
    /// Another name, if it has one.
    pub other_name: Option<String>,
    /// What it is.
    pub kind: TargetKind,
    /// Longer axis, arcmin.
    pub major_arcmin: f64,
    /// Hours dark and above the limit.
    pub hours: f64,
    /// Largest altitude in the dark, degrees.
    pub highest_deg: f64,
    /// Distance from the moon, degrees.
    pub moon_distance_deg: f64,
    /// The exposure of the rig that serves it best.
    pub exposure: usize,
    /// What is judged.
    pub quantity: Quantity,
    /// Time to the goal at its best, s.
    pub time_to_goal_s: f64,
    /// Its longer axis over the shorter side of the field.
    pub of_field: f64,
    /// How it ranks: share of its goal that tonight gives, times how well it fits. 0-1.
    pub worth: f64,
    /// Why, in a sentence.
    pub why: String,
}

/// Surface brightness of the continuum by which a rig is known for any object, V mag/arcsec^2: see [`any_target`].
pub const ANY_TARGET_V_MAG: f64 = 23.0;

/// A scenario whose rig may be asked about any object: its target gives off every line and a continuum, however weak its own are.
pub fn any_target(mut scenario: Scenario) -> Scenario {
    scenario.target.continuum = Some(Continuum { v_mag_arcsec2: ANY_TARGET_V_MAG, temperature_k: 6000.0, b_v: None });
    let l = &mut scenario.target.lines_rayleigh;
    for line in [&mut l.ha, &mut l.nii, &mut l.oiii, &mut l.sii, &mut l.hb] {
        *line = line.max(1.0);
    }
    scenario
}

/// Surface brightness of an object's continuum as a multiple of the scenario's: from its V magnitude spread over its ellipse.
fn surface_v_mag(o: &CatalogueObject) -> Option<f64> {
    let (a, b) = (o.major_arcmin?, o.minor_arcmin.or(o.major_arcmin)?);
    Some(o.v_mag? + 2.5 * (std::f64::consts::FRAC_PI_4 * a * b * 3600.0).log10())
}

/// Ranks the catalogue for the dark hours between `from_s` and `to_s` (noon to noon).
///
/// `continuum_v_mag` is the surface brightness of the scenario's own continuum, to which objects are scaled. Objects emit what is
/// typical of their kind at moderate brightness; a galaxy or cluster has the mean surface brightness of its catalogue magnitude, and
/// is left out where the rig has narrow filters only.
///
/// # Errors
/// Where sun and moon cannot be placed.
#[allow(clippy::too_many_arguments)]
pub fn worth_tonight(
    catalogue: &Catalogue,
    presets: &[TargetPreset],
    place: Place,
    (from_s, to_s): (f64, f64),
    limits: &NightLimits,
    rig: &NightRig,
    continuum_v_mag: Option<f64>,
    field_arcmin: f64,
    goal_snr: f64,
    spec: &TonightSpec,
) -> Result<Vec<WorthTonight>, EphemerisError> {
    let e = Ephemeris::new(place, from_s, to_s)?;
    let count = ((to_s - from_s) / STEP_S) as usize;
    let looks: Vec<f64> =
        (0..count).map(|i| from_s + (i as f64 + 0.5) * STEP_S).filter(|t| e.altitude_deg(&e.sun(*t), *t) < limits.sun_below_deg).collect();
    if looks.is_empty() {
        return Ok(Vec::new());
    }
    // What does not depend on the object, once for each look.
    let zeniths: Vec<[f64; 3]> = looks.iter().map(|t| e.zenith(*t)).collect();
    let pole = Direction { ra_deg: 0.0, dec_deg: 90.0 }.vector();
    let shared: Vec<([f64; 3], Moment)> = looks.iter().map(|t| (e.moon(*t), moment(&e, &pole, *t).0)).collect();
    let behind_horizon =
        |h: f64, v: &[f64; 3], t: f64| !limits.horizon_deg.is_empty() && h.asin().to_degrees() <= limits.horizon_at(e.azimuth_deg(v, t));
    let middle = looks[looks.len() / 2];
    let sine = limits.altitude_above_deg.to_radians().sin();
    let none = LinesRayleigh { ha: 0.0, nii: 0.0, oiii: 0.0, sii: 0.0, hb: 0.0 };
    let mut scored: Vec<(&CatalogueObject, Score)> = Vec::new();
    for o in catalogue.objects() {
        let Some(major_arcmin) = o.major_arcmin.filter(|a| *a >= spec.at_least_arcmin.unwrap_or(3.0)) else { continue };
        if spec.kind.is_some_and(|k| k != o.kind) {
            continue;
        }
        let direction = Direction { ra_deg: o.ra_deg, dec_deg: o.dec_deg }.vector();
        // One turn into the frame of date serves the whole night.
        let v = e.fixed(&direction, middle);
        let height = |z: &[f64; 3]| z[0] * v[0] + z[1] * v[1] + z[2] * v[2];
        let (mut up, mut best, mut highest) = (0u32, 0, sine);
        for (i, zenith) in zeniths.iter().enumerate() {
            let h = height(zenith);
            if h <= sine || behind_horizon(h, &v, looks[i]) {
                continue;
            }
            up += 1;
            if h > highest {
                (best, highest) = (i, h);
            }
        }
        if up == 0 {
            continue;
        }
        let (moon, shared) = &shared[best];
        let m = Moment {
            altitude_deg: highest.clamp(-1.0, 1.0).asin().to_degrees(),
            moon: Moon { separation_deg: separation_deg(moon, &v), ..shared.moon },
            ..*shared
        };
        let preset = presets.iter().find(|p| p.kind == o.kind && p.faintness == Faintness::Moderate);
        let lines = preset.map_or(none, |p| p.lines_rayleigh);
        let surface = surface_v_mag(o).or_else(|| preset.and_then(|p| p.continuum.as_ref()).map(|c| c.v_mag_arcsec2));
        let continuum = surface.zip(continuum_v_mag).map_or(0.0, |(own, known)| 10f64.powf(-0.4 * (own - known)));
        let nebula = o.kind.glows_in_lines();
        let light = rig.light_at(&m);
        let wanted = |x: usize| -> Option<(usize, Quantity, f64)> {
            let q = if nebula { rig.purpose(x)? } else { rig.is_broad(x).then_some(Quantity::Continuum)? };
            let rate = rig.information_of(x, q, &light, &lines, continuum);
            (rate > 0.0).then_some((x, q, rate))
        };
        let Some((exposure, quantity, rate)) = (0..rig.len()).filter_map(wanted).max_by(|a, b| a.2.total_cmp(&b.2)) else { continue };
        let time_to_goal_s = goal_snr * goal_snr / rate;
        let hours = f64::from(up) * STEP_S / 3600.0;
        let of_field = major_arcmin / field_arcmin;
        // Best between a fifth and nine tenths of the field.
        let fit = if of_field < 0.2 {
            of_field / 0.2
        } else if of_field <= 0.9 {
            1.0
        } else {
            (0.9 / of_field).powi(2)
        };
        let share = (hours * 3600.0 / time_to_goal_s).min(1.0);
        // A goal that is met in no time is no better than one that fills the evening.
        let worth = share.sqrt() * fit * highest.max(0.0);
        scored.push((o, Score { m, exposure, quantity, time_to_goal_s, hours, of_field, major_arcmin, worth }));
    }
    scored.sort_by(|a, b| b.1.worth.total_cmp(&a.1.worth).then(a.1.time_to_goal_s.total_cmp(&b.1.time_to_goal_s)));
    scored.truncate(MOST);
    Ok(scored.into_iter().map(|(o, s)| s.told(o, goal_snr)).collect())
}

/// What the ranking knows of an object before it is told.
struct Score {
    m: Moment,
    exposure: usize,
    quantity: Quantity,
    time_to_goal_s: f64,
    hours: f64,
    of_field: f64,
    major_arcmin: f64,
    worth: f64,
}

impl Score {
    fn told(self, o: &CatalogueObject, goal_snr: f64) -> WorthTonight {
        let why = format!(
            "{:.1} h up to {:.0}° high, {:.0}° from the moon; {} to SNR {goal_snr} in {}; {:.0} % of the field.",
            self.hours,
            self.m.altitude_deg,
            self.m.moon.separation_deg,
            clock(self.time_to_goal_s),
            self.quantity.label(),
            self.of_field * 100.0
        );
        WorthTonight {
            name: o.name.clone(),
            other_name: o.other_names.first().cloned(),
            kind: o.kind,
            major_arcmin: self.major_arcmin,
            hours: self.hours,
            highest_deg: self.m.altitude_deg,
            moon_distance_deg: self.m.moon.separation_deg,
            exposure: self.exposure,
            quantity: self.quantity,
            time_to_goal_s: self.time_to_goal_s,
            of_field: self.of_field,
            worth: self.worth,
            why,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::library::catalogue::Catalogue;

    /// Mean surface brightness is the magnitude spread over the ellipse: m + 2.5 log10(pi/4 a b) with the axes in arcsec.
    #[test]
    fn an_object_s_light_is_spread_over_its_ellipse() {
        let mut o = Catalogue::shipped().unwrap().get("NGC 7822").unwrap().clone();
        (o.v_mag, o.major_arcmin, o.minor_arcmin) = (Some(8.0), Some(10.0), Some(6.0));
        let by_hand = 8.0 + 2.5 * (std::f64::consts::FRAC_PI_4 * 600.0 * 360.0).log10();
        assert!((surface_v_mag(&o).unwrap() - by_hand).abs() < 1e-12);
        // One axis stands for both; without any, or without a magnitude, nothing is known.
        o.minor_arcmin = None;
        assert!((surface_v_mag(&o).unwrap() - 8.0 - 2.5 * (std::f64::consts::FRAC_PI_4 * 360_000.0).log10()).abs() < 1e-12);
        assert_eq!((o.major_arcmin.take(), surface_v_mag(&o)), (Some(10.0), None));
        (o.major_arcmin, o.v_mag) = (Some(10.0), None);
        assert_eq!(surface_v_mag(&o), None);
    }
}
