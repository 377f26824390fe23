//! What is worth shooting tonight: the whole catalogue ranked for a rig, a sky and a moon.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::library::catalogue::list::Catalogue;
use crate::library::catalogue::object::CatalogueObject;
use crate::light::lines::Quantity;
use crate::light::units::linear_from_mag;
use crate::night::ephemeris::{Direction, Ephemeris, EphemerisError, Place, separation_deg};
use crate::night::rate::{Light, Moment, NightRig};
use crate::night::view::moment;
use crate::path::sky::beyond::Beyond;
use crate::scenario::defaults::outskirts_factor;
use crate::scenario::document::Scenario;
use crate::scenario::goal::{CLEAN_SNR, Goal, PartLight, TargetPart};
use crate::scenario::limits::NightLimits;
use crate::scenario::sky::Moon;
use crate::scenario::target::{Continuum, TargetKind};
use crate::wording::{arcsec, clock};

/// Time between the moments of the dark at which every object is looked at, s.
const STEP_S: f64 = 600.0;

/// Objects in the answer.
const MOST: usize = 40;

/// Where an object is in its season: whether it passes the meridian near the middle of the dark.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Season {
    /// It passes after it by more than [`IN_SEASON_H`] hours: its best weeks are to come.
    Early,
    /// It passes about then.
    Best,
    /// It has passed before: its weeks run out.
    Late,
}

/// How far from the middle of the dark an object at its best passes the meridian, hours: a month
/// moves it by two.
const IN_SEASON_H: f64 = 2.0;

impl Season {
    /// Of a direction under the zenith of the middle of the dark, both in the frame of date: by
    /// its hour angle there.
    fn of(zenith: &[f64; 3], v: &[f64; 3]) -> Self {
        let turn = zenith[1].atan2(zenith[0]) - v[1].atan2(v[0]);
        Self::at((turn.to_degrees() + 180.0).rem_euclid(360.0) / 15.0 - 12.0)
    }

    /// By the hour angle in the middle of the dark, hours.
    fn at(hour_angle_h: f64) -> Self {
        if hour_angle_h < -IN_SEASON_H {
            Self::Early
        } else if hour_angle_h <= IN_SEASON_H {
            Self::Best
        } else {
            Self::Late
        }
    }

    /// As one says it.
    fn words(self) -> &'static str {
        match self {
            Self::Early => "its best weeks are to come",
            Self::Best => "at its best",
            Self::Late => "its last weeks",
        }
    }
}

/// What is asked of a night.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct TonightSpec {
    /// Only this kind.
    pub kind: Option<TargetKind>,
    /// At least this long, arcmin; 3 where nothing is given.
    pub at_least_arcmin: Option<f64>,
    /// Only objects that fit the field so.
    pub fit: Option<FieldFit>,
    /// Only objects in this part of their season.
    pub season: Option<Season>,
    /// Objects that are left out, by any of their names: those that are being shot already.
    pub leave_out: Vec<String>,
}

/// Least size where none is asked for, arcmin.
const USUAL_LEAST_ARCMIN: f64 = 3.0;

impl TonightSpec {
    /// Longer axis, arcmin, of an object that is asked for; `None` for any other.
    fn size_of(&self, o: &CatalogueObject, left_out: &[&str], field_arcmin: f64) -> Option<f64> {
        let major_arcmin = o.major_arcmin?;
        let of_field = major_arcmin / field_arcmin;
        let asked = major_arcmin >= self.at_least_arcmin.unwrap_or(USUAL_LEAST_ARCMIN)
            && self.kind.is_none_or(|k| k == o.kind)
            && self.fit.is_none_or(|f| f == FieldFit::of(of_field))
            && !left_out.contains(&o.name.as_str());
        asked.then_some(major_arcmin)
    }
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
    /// Its name on an object of this kind.
    pub quantity_name: &'static str,
    /// Time to the goal at its best, s.
    pub time_to_goal_s: f64,
    /// Its longer axis over the shorter side of the field.
    pub of_field: f64,
    /// Where it is in its season.
    pub season: Season,
    /// How it ranks: share of its goal that tonight gives, times how well it fits. 0-1.
    pub worth: f64,
    /// Why, in a sentence.
    pub why: String,
    /// Share of its goal's signal, as the square of the signal to noise, that the hours of tonight
    /// bring, 0-1; null where how bright it is, is known of its kind alone.
    pub share: Option<f64>,
    /// Side of the square of sky on which the hours of tonight bring its light clean, arcsec; null
    /// where its brightness is not known, or one goal was given for all.
    pub clean_arcsec: Option<f64>,
    /// The same of its goal.
    pub goal_arcsec: Option<f64>,
}

/// Surface brightness of the continuum by which a rig is known for any object, V mag/arcsec^2: see
/// [`any_target`].
pub const ANY_TARGET_V_MAG: f64 = 23.0;

/// A scenario whose rig may be asked about any object: its target gives off every line and a
/// continuum, however weak its own are, and stands nowhere: what lies before the scenario's own
/// target lies before no other.
pub fn any_target(mut scenario: Scenario) -> Scenario {
    scenario.target.continuum =
        Some(Continuum { v_mag_arcsec2: ANY_TARGET_V_MAG, temperature_k: 6000.0, b_v: None });
    (scenario.target.right_ascension_deg, scenario.target.declination_deg) = (None, None);
    let l = &mut scenario.target.lines_rayleigh;
    for line in [&mut l.ha, &mut l.nii, &mut l.oiii, &mut l.sii, &mut l.hb] {
        *line = line.max(1.0);
    }
    scenario
}

/// The dark in which the catalogue is ranked.
#[derive(Clone, Copy, Debug)]
pub struct DarkHours<'a> {
    /// Where.
    pub place: Place,
    /// From noon, seconds since 1970 UTC.
    pub from_s: f64,
    /// To noon.
    pub to_s: f64,
    /// When it is dark, and how low is too low.
    pub limits: &'a NightLimits,
}

/// For what the catalogue is ranked: a rig with its field and goal.
#[derive(Clone, Copy, Debug)]
pub struct RankedFor<'a> {
    /// The rig.
    pub rig: &'a NightRig,
    /// Surface brightness of the continuum of the rig's own scenario, to which objects are scaled,
    /// V mag/arcsec^2.
    pub continuum_v_mag: Option<f64>,
    /// Shorter side of its field, arcmin.
    pub field_arcmin: f64,
    /// One goal for all, as a signal to noise of the mean; `None` for each object's own, by how
    /// bright it is.
    pub goal_snr: Option<f64>,
    /// Side of the square on which the rig's signal to noise stands, arcsec.
    pub square_arcsec: f64,
}

/// A part's name after that of its light.
fn part_words(part: TargetPart) -> &'static str {
    if part == TargetPart::Outskirts { " of the outskirts" } else { "" }
}

/// How bright a part of a catalogue's object is against its mean.
fn part_of(part: TargetPart) -> f64 {
    if part == TargetPart::Outskirts { outskirts_factor() } else { 1.0 }
}

/// How a rig serves an object at its best.
struct Served {
    exposure: usize,
    quantity: Quantity,
    goal: Option<Goal>,
    time_to_goal_s: f64,
}

impl RankedFor<'_> {
    /// The exposure that serves an object best, in which light, and how long its goal takes; `None`
    /// where none records what it is shot for.
    fn serves(&self, o: &CatalogueObject, light: &Light) -> Option<Served> {
        let (rig, lines) = (self.rig, o.emission.lines_rayleigh);
        let surface = o.emission.continuum.map(|c| c.v_mag_arcsec2);
        let scaled = surface.zip(self.continuum_v_mag);
        let continuum = scaled.map_or(0.0, |(a, b)| linear_from_mag(a - b));
        let nebula = o.kind.glows_in_lines();
        let wanted = |x: usize| -> Option<(usize, Quantity, f64)> {
            let q = if nebula {
                rig.purpose(x)?
            } else {
                rig.is_broad(x).then_some(Quantity::Continuum)?
            };
            let rate = rig.information_of(x, q, light, &lines, continuum);
            (rate > 0.0).then_some((x, q, rate))
        };
        let all = (0..rig.len()).filter_map(wanted);
        let (exposure, quantity, rate) = all.max_by(|a, b| a.2.total_cmp(&b.2))?;
        let brightness = lines
            .of(quantity)
            .map_or_else(|| PartLight::Surface(surface.unwrap_or(f64::INFINITY)), PartLight::Line);
        let (goal_snr, goal) = self.goal_of(quantity, brightness);
        // As bright as the part that the goal names.
        let rate = match goal.map_or(1.0, |g| part_of(g.part)) {
            1.0 => rate,
            x => rig.information_of(exposure, quantity, light, &lines.times(x), continuum * x),
        };
        Some(Served { exposure, quantity, goal, time_to_goal_s: goal_snr * goal_snr / rate })
    }

    /// The signal to noise of the mean, on the rig's square, that an object's goal asks for, and
    /// the goal where it is the object's own.
    fn goal_of(&self, quantity: Quantity, light: PartLight) -> (f64, Option<Goal>) {
        if let Some(snr) = self.goal_snr {
            return (snr, None);
        }
        let part = light.usual_part();
        let detail_arcsec = light.times(part_of(part)).detail_arcsec();
        let goal = Goal { quantity, part, snr: CLEAN_SNR, detail_arcsec, star_v_mag: None };
        (goal.snr * self.square_arcsec / detail_arcsec, Some(goal))
    }
}

impl From<&CatalogueObject> for Direction {
    fn from(o: &CatalogueObject) -> Self {
        Self { ra_deg: o.ra_deg, dec_deg: o.dec_deg }
    }
}

/// Ranks the catalogue for the dark hours of a night.
///
/// Objects emit what the catalogue knows of them; where it knows their kind alone, they rank by
/// height and size and say so. What shines by a continuum is left out where the rig has narrow
/// filters only.
///
/// # Errors
/// Where sun and moon cannot be placed.
pub fn worth_tonight(
    catalogue: &Catalogue,
    night: &DarkHours,
    on: &RankedFor,
    spec: &TonightSpec,
) -> Result<Vec<WorthTonight>, EphemerisError> {
    let DarkHours { place, from_s, to_s, limits } = *night;
    let RankedFor { rig, field_arcmin, .. } = *on;
    let e = Ephemeris::new(place, from_s, to_s)?;
    let count = ((to_s - from_s) / STEP_S) as usize;
    let looks: Vec<f64> = (0..count)
        .map(|i| from_s + (i as f64 + 0.5) * STEP_S)
        .filter(|t| e.altitude_deg(&e.sun(*t), *t) < limits.sun_below_deg)
        .collect();
    if looks.is_empty() {
        return Ok(Vec::new());
    }
    // What does not depend on the object, once for each look.
    let zeniths: Vec<[f64; 3]> = looks.iter().map(|t| e.zenith(*t)).collect();
    let middle = zeniths[looks.len() / 2];
    let pole = Direction { ra_deg: 0.0, dec_deg: 90.0 }.vector();
    let shared: Vec<([f64; 3], Moment)> =
        looks.iter().map(|t| (e.moon(*t), moment(&e, &pole, *t))).collect();
    let behind_horizon = |h: f64, v: &[f64; 3], t: f64| {
        !limits.horizon_deg.is_empty()
            && h.asin().to_degrees() <= limits.horizon_at(e.azimuth_deg(v, t))
    };
    let sine = limits.altitude_above_deg.to_radians().sin();
    let mut scored: Vec<(&CatalogueObject, Score)> = Vec::new();
    let left_out: Vec<&str> =
        spec.leave_out.iter().filter_map(|n| catalogue.get(n)).map(|o| o.name.as_str()).collect();
    for o in catalogue.objects() {
        let Some(major_arcmin) = spec.size_of(o, &left_out, field_arcmin) else { continue };
        let of_field = major_arcmin / field_arcmin;
        // One turn into the frame of date serves the whole night.
        let v = e.fixed(&Direction::from(o).vector(), looks[looks.len() / 2]);
        let season = Season::of(&middle, &v);
        if spec.season.is_some_and(|s| s != season) {
            continue;
        }
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
            azimuth_deg: e.azimuth_deg(&v, looks[best]),
            moon: Moon { separation_deg: separation_deg(moon, &v), ..shared.moon },
            ..*shared
        };
        // Behind its own zodiacal light and Milky Way.
        let light = rig.light_towards(&m, Some(Beyond::new(o.ra_deg, o.dec_deg)));
        let Some(Served { exposure, quantity, goal, time_to_goal_s }) = on.serves(o, &light) else {
            continue;
        };
        let hours = f64::from(up) * STEP_S / 3600.0;
        let fit = fit(of_field);
        // What is only typical of a kind ranks nothing against another.
        let share = o.emission.is_its_own().then(|| (hours * 3600.0 / time_to_goal_s).min(1.0));
        // A goal that is met in no time is no better than one that fills the evening.
        let worth = share.unwrap_or(SHARE_WHERE_UNKNOWN).sqrt() * fit * highest.max(0.0);
        scored.push((
            o,
            Score {
                m,
                exposure,
                quantity,
                name: o.emission.lines_rayleigh.name_of(quantity),
                goal,
                time_to_goal_s,
                hours,
                of_field,
                season,
                major_arcmin,
                worth,
                share,
            },
        ));
    }
    scored.sort_by(|a, b| {
        b.1.worth.total_cmp(&a.1.worth).then(a.1.time_to_goal_s.total_cmp(&b.1.time_to_goal_s))
    });
    scored.truncate(MOST);
    Ok(scored.into_iter().map(|(o, s)| s.told(o, on)).collect())
}

/// The share of its goal that tonight gives an object of which nobody knows how bright it is: below
/// what is known to be bright, above what is known to be faint.
const SHARE_WHERE_UNKNOWN: f64 = 0.15;

/// The shares of the field's shorter side between which an object fits it best (common practice, no
/// source).
const FITS: (f64, f64) = (0.2, 0.9);

/// How an object's longer axis fits the field's shorter side.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum FieldFit {
    /// It takes less than a fifth.
    Small,
    /// A fifth to nine tenths: one panel holds it.
    OnePanel,
    /// More: it wants a mosaic.
    Mosaic,
}

impl FieldFit {
    fn of(of_field: f64) -> Self {
        if of_field < FITS.0 {
            Self::Small
        } else if of_field <= FITS.1 {
            Self::OnePanel
        } else {
            Self::Mosaic
        }
    }
}

/// How well an object that fills so much of the field's shorter side fits it, 0-1.
fn fit(of_field: f64) -> f64 {
    match FieldFit::of(of_field) {
        FieldFit::Small => of_field / FITS.0,
        FieldFit::OnePanel => 1.0,
        FieldFit::Mosaic => (FITS.1 / of_field).powi(2),
    }
}

/// What the ranking knows of an object before it is told.
struct Score {
    m: Moment,
    exposure: usize,
    quantity: Quantity,
    name: &'static str,
    /// The goal, where the object has its own.
    goal: Option<Goal>,
    time_to_goal_s: f64,
    hours: f64,
    of_field: f64,
    season: Season,
    major_arcmin: f64,
    worth: f64,
    share: Option<f64>,
}

impl Score {
    /// Side of the square on which tonight's hours bring its light clean, arcsec.
    fn clean_arcsec(&self, on: &RankedFor) -> Option<f64> {
        let goal = self.goal?;
        let share = self.hours * 3600.0 / self.time_to_goal_s;
        let finest = on.rig.finest_arcsec(self.quantity);
        Some((goal.detail_arcsec * goal.snr / CLEAN_SNR / share.sqrt()).max(finest))
    }

    fn told(self, o: &CatalogueObject, on: &RankedFor) -> WorthTonight {
        let brings = self.share.map_or_else(
            || "How bright it is, is not known: ranked by height and size alone.".to_owned(),
            |share| {
                let (name, takes) = (self.name, clock(self.time_to_goal_s));
                match (self.goal, self.clean_arcsec(on)) {
                    (Some(goal), Some(_)) if share >= 1.0 => {
                        format!("{name} comes {} in {takes}.", goal.words(o.kind))
                    }
                    (Some(goal), Some(side)) => format!(
                        "Tonight brings {name}{} clean at {}; {} takes {takes}.",
                        part_words(goal.part),
                        arcsec(side),
                        arcsec(goal.detail_arcsec)
                    ),
                    _ => format!(
                        "Tonight brings {:.0} % of SNR {} in {name}, which takes {takes}.",
                        share * 100.0,
                        on.goal_snr.unwrap_or(CLEAN_SNR),
                    ),
                }
            },
        );
        let clean_arcsec = self.share.and_then(|_| self.clean_arcsec(on));
        let why = format!(
            "{brings} {:.1} h up to {:.0}° high, {:.0}° from the moon; {:.0} % of the field; {}.",
            self.hours,
            self.m.altitude_deg,
            self.m.moon.separation_deg,
            self.of_field * 100.0,
            self.season.words()
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
            quantity_name: self.name,
            time_to_goal_s: self.time_to_goal_s,
            of_field: self.of_field,
            season: self.season,
            worth: self.worth,
            why,
            share: self.share,
            clean_arcsec,
            goal_arcsec: self.goal.map(|g| g.detail_arcsec),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_fits_best_is_neither_small_nor_a_mosaic() {
        assert_eq!(FieldFit::of(0.19), FieldFit::Small);
        assert_eq!(FieldFit::of(0.9), FieldFit::OnePanel);
        assert_eq!(FieldFit::of(0.91), FieldFit::Mosaic);
        assert!((fit(0.1) - 0.5).abs() < 1e-12 && (fit(1.8) - 0.25).abs() < 1e-12);
    }

    #[test]
    fn seasons_are_told_by_the_meridian() {
        assert_eq!(Season::at(-5.0), Season::Early);
        assert_eq!(Season::at(1.9), Season::Best);
        assert_eq!(Season::at(2.1), Season::Late);
    }

    #[test]
    fn another_object_has_not_the_milky_way_of_the_scenario_s_target() {
        let mut s = crate::common::ic_443();
        s.target.stands_at(94.25, 22.57);
        assert!(s.natural_light_towards_target() > 1.5);
        assert_eq!(any_target(s).natural_light_towards_target(), 1.0);
    }
}
