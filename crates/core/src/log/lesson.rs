//! An offer taken: which figures of the site, the kit and the campaign it changes, and what that
//! means for the campaign's times.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::campaign::document::Campaign;
use crate::decide::goals::purpose;
use crate::light::tables::Tables;
use crate::log::belonging::filters_of;
use crate::log::changes::FieldChange;
use crate::log::glow_taught::glow_in;
use crate::log::naming::same_filter;
use crate::log::offer::{Lesson, Offer};
use crate::path::scales::Scales;
use crate::scenario::document::Scenario;
use crate::scenario::exposure::Filter;
use crate::scenario::field_error::FieldError;
use crate::scenario::rig::{GainRow, Optics, Sensor};
use crate::scenario::site::{KnownFigure, Site, SiteFigure};
use crate::signal::model::{ExposureModel, Model};
use crate::wording::times;

/// An offer that was taken.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LessonTaken {
    /// What was offered.
    pub offer: Offer,
    /// The evening that taught it, such as 2027-01-28.
    pub night: String,
    /// Every field that it changed.
    pub changes: Vec<FieldChange>,
    /// What it meant for the campaign's times, in sentences.
    pub means: Vec<String>,
}

/// A ratio of times this near to one is no change.
const NO_CHANGE: f64 = 0.02;

/// Takes an offer over into a site; whether it is one of a site.
pub fn teach_site(site: &mut Site, o: &Offer) -> bool {
    let value = o.offered.value;
    let figure = match o.lesson {
        Lesson::Zenith => {
            site.zenith_v_mag = value;
            SiteFigure::ZenithVMag
        }
        Lesson::Extinction => {
            site.k_v = Some(value);
            SiteFigure::KV
        }
        Lesson::Seeing => {
            site.seeing_fwhm_arcsec = Some(value);
            SiteFigure::SeeingFwhmArcsec
        }
        Lesson::LampsOff => {
            let Some(hour) = o.from_solar_hour else { return false };
            step_in(&mut site.by_hour, hour, value);
            return true;
        }
        Lesson::Glow => {
            let Some(azimuth) = o.azimuth_deg else { return false };
            glow_in(&mut site.glow, azimuth, value);
            return true;
        }
        _ => return false,
    };
    let nights = site.known.get(&figure).map_or(0, |k| k.nights) + 1;
    site.known.insert(figure, KnownFigure { value, sd: o.offered.sd, nights });
    true
}

/// Hours that are nearer to each other than this are one switch.
const ONE_SWITCH_H: f64 = 0.5;

/// Puts a step into a table by the hour, in place of one that is as good as at the same hour.
fn step_in(by_hour: &mut Vec<[f64; 2]>, hour: f64, darker: f64) {
    let apart = |a: f64, b: f64| {
        let d = (a - b).rem_euclid(24.0);
        d.min(24.0 - d)
    };
    by_hour.retain(|s| apart(s[0], hour) > ONE_SWITCH_H);
    by_hour.push([hour, darker]);
    by_hour.sort_by(|a, b| a[0].total_cmp(&b[0]));
}

/// Takes an offer over into a telescope; whether it is one of a telescope.
pub fn teach_optics(optics: &mut Optics, o: &Offer) -> bool {
    let own = o.lesson == Lesson::Throughput;
    if own {
        optics.throughput = o.offered.value;
    }
    own
}

/// Takes an offer over into a camera; whether it is one of a camera. A figure at a gain between two
/// rows of its table scales both as it would be scaled itself.
pub fn teach_sensor(sensor: &mut Sensor, o: &Offer) -> bool {
    let ratio = o.offered.value / o.now.value;
    let rows = |sensor: &mut Sensor, change: &dyn Fn(&mut GainRow)| {
        let Some(gain) = o.gain else { return false };
        let after = sensor.gains.partition_point(|g| g.setting < gain);
        let last = sensor.gains.len() - 1;
        let exact = sensor.gains[after.min(last)].setting == gain;
        let (from, to) = if exact { (after, after) } else { (after.saturating_sub(1), after) };
        sensor.gains[from..=to.min(last)].iter_mut().for_each(change);
        true
    };
    match o.lesson {
        Lesson::ReadNoise => rows(sensor, &|g| g.read_noise_e *= ratio),
        Lesson::Dark => {
            sensor.dark.e_per_s = o.offered.value;
            true
        }
        _ => false,
    }
}

/// Takes an offer over into a campaign: its sky, the rig of one of its light paths, and how unsure
/// its verdicts are.
pub fn teach_campaign(c: &mut Campaign, path: usize, o: &Offer) {
    let s = &mut c.scenario;
    let unsure = &mut s.choices.uncertainty;
    match o.lesson {
        Lesson::Zenith => {
            s.sky.zenith_v_mag = o.offered.value;
            unsure.sky_mag = o.offered.sd.min(unsure.sky_mag);
        }
        Lesson::Extinction => {
            s.sky.k_v = Some(o.offered.value);
            unsure.k_v_mag = o.offered.sd.min(unsure.k_v_mag);
        }
        Lesson::Seeing => s.seeing_fwhm_arcsec = o.offered.value,
        Lesson::LampsOff => {
            if let Some(hour) = o.from_solar_hour {
                step_in(&mut s.sky.by_hour, hour, o.offered.value);
            }
        }
        Lesson::Throughput => {
            let share = o.offered.sd / o.offered.value;
            unsure.throughput_relative = share.min(unsure.throughput_relative);
        }
        Lesson::ReadNoise | Lesson::Dark | Lesson::FilterCentre => {}
        Lesson::Glow => {
            if let Some(azimuth) = o.azimuth_deg {
                glow_in(&mut s.sky.glow, azimuth, o.offered.value);
            }
        }
    }
    let Some(own) = s.contenders.get(path).map(|c| (c.optics.clone(), c.sensor.name.clone()))
    else {
        return;
    };
    // One telescope and one camera are the same on every path.
    for contender in &mut s.contenders {
        if same_optics(&contender.optics, &own.0) {
            teach_optics(&mut contender.optics, o);
        }
        if contender.sensor.name == own.1 {
            teach_sensor(&mut contender.sensor, o);
        }
    }
}

/// Takes a copy as it was measured over into a filter; whether it is the one that was measured: it
/// has the same name.
pub fn teach_filter(f: &mut Filter, measured: &Filter) -> bool {
    let own = same_filter(&f.name, &measured.name);
    if own {
        (f.bands, f.curve) = (measured.bands.clone(), measured.curve.clone());
        (f.n_eff, f.centre_tolerance_nm) = (measured.n_eff, measured.centre_tolerance_nm);
    }
    own
}

/// The same for every light path of a campaign that has the filter.
pub fn teach_filter_of(c: &mut Campaign, measured: &Filter) {
    let exposures = c.scenario.contenders.iter_mut().flat_map(|c| &mut c.exposures);
    for filter in exposures.filter_map(|e| e.filter.as_mut()) {
        teach_filter(filter, measured);
    }
}

/// Whether two telescopes are one by what does not change with dust.
pub fn same_optics(a: &Optics, b: &Optics) -> bool {
    [a.aperture_mm, a.obstruction_mm, a.focal_length_mm]
        == [b.aperture_mm, b.obstruction_mm, b.focal_length_mm]
}

/// What a change means for each exposure of a campaign's light path, in sentences: the time for the
/// same signal to noise, under its planned sky.
///
/// # Errors
/// Fields of either scenario that are wrong.
pub fn means(
    (before, after): (&Campaign, &Campaign),
    path: usize,
    tables: &Tables,
) -> Result<Vec<String>, Vec<FieldError>> {
    let [was, is] = [before, after].map(|c| rates(&c.scenario, path, tables));
    let (was, is) = (was?, is?);
    let names = filters_of(before, path);
    let one = |((was, is), name): ((&f64, &f64), &&str)| {
        let ratio = was / is;
        let told = ratio.is_finite() && (ratio - 1.0).abs() > NO_CHANGE;
        told.then(|| format!("{name}: {} for the same.", times(ratio)))
    };
    Ok(was.iter().zip(&is).zip(&names).filter_map(one).collect())
}

/// (Signal to noise)^2 of one sub of each exposure in what it is for.
fn rates(s: &Scenario, path: usize, tables: &Tables) -> Result<Vec<f64>, Vec<FieldError>> {
    let checked = s.clone().check()?;
    let model = Model::nominal(&checked, tables);
    let Some(own) = model.paths.get(path) else { return Ok(Vec::new()) };
    let one = |e: &ExposureModel| {
        purpose(e).map_or(f64::NAN, |q| e.snr2(q, e.sub_s, 1.0, &Scales::ONE, 0.0))
    };
    Ok(own.exposures.iter().map(one).collect())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::common::{campaign_of_ic_443, tables};
    use crate::log::offer::Estimate;

    fn offer(lesson: Lesson, now: f64, offered: f64) -> Offer {
        let figure = |value| Estimate { value, sd: 0.03 * value };
        Offer {
            lesson,
            now: figure(now),
            measured: figure(offered),
            offered: figure(offered),
            unit: String::new(),
            from_solar_hour: Some(22.6),
            azimuth_deg: None,
            gain: Some(100.0),
            evidence: String::new(),
        }
    }

    #[test]
    fn a_brighter_zenith_costs_time_and_is_known_from_then_on() {
        let before = campaign_of_ic_443();
        let mut site = crate::library::demo_kit()
            .into_iter()
            .find_map(|(_, e)| match e.thing {
                crate::library::ShelfThing::Site(s) => Some(s),
                _ => None,
            })
            .expect("a site");
        let mut o = offer(Lesson::Zenith, site.zenith_v_mag, site.zenith_v_mag - 0.5);
        o.offered.sd = 0.1;
        assert!(teach_site(&mut site, &o));
        assert_eq!(site.known_sd(SiteFigure::ZenithVMag, site.zenith_v_mag), Some(0.1));
        // A figure that somebody types later is no night's any more.
        assert_eq!(site.known_sd(SiteFigure::ZenithVMag, site.zenith_v_mag + 0.2), None);
        let mut after = before.clone();
        teach_campaign(&mut after, before.contender, &o);
        assert_eq!(after.scenario.choices.uncertainty.sky_mag, 0.1);
        let told = means((&before, &after), before.contender, &tables()).expect("both right");
        assert_eq!(told.len(), 2, "{told:?}");
        let same = means((&before, &before), before.contender, &tables()).expect("right");
        assert!(same.is_empty());
    }

    #[test]
    fn figures_of_a_gain_change_there_alone_and_of_all_paths_with_the_camera() {
        let before = campaign_of_ic_443();
        let sensor = &before.scenario.contenders[before.contender].sensor;
        let gain = sensor.gains[1].setting;
        let mut o = offer(Lesson::ReadNoise, 1.0, 1.2);
        o.gain = Some(gain);
        let mut after = before.clone();
        teach_campaign(&mut after, before.contender, &o);
        for (a, b) in before.scenario.contenders.iter().zip(&after.scenario.contenders) {
            let own = a.sensor.name == sensor.name;
            for (x, y) in a.sensor.gains.iter().zip(&b.sensor.gains) {
                let wanted = if own && x.setting == gain { 1.2 } else { 1.0 };
                assert!((y.read_noise_e / x.read_noise_e - wanted).abs() < 1e-12);
            }
        }
        // Between two rows both move.
        let between = 0.5 * (sensor.gains[0].setting + sensor.gains[1].setting);
        o.gain = Some(between);
        let mut own = sensor.clone();
        assert!(teach_sensor(&mut own, &o));
        let moved = own.gains.iter().zip(&sensor.gains).filter(|(a, b)| a != b).count();
        assert_eq!(moved, 2);
    }

    #[test]
    fn lamps_that_go_out_are_one_step_however_often_it_is_measured() {
        let mut steps = Vec::new();
        step_in(&mut steps, 22.6, 0.3);
        step_in(&mut steps, 22.7, 0.25);
        step_in(&mut steps, 4.0, 0.0);
        assert_eq!(steps, [[4.0, 0.0], [22.7, 0.25]]);
    }
}
