//! One comparison at two places: how long the same picture takes under each sky, and how many of
//! them come together in a year with the nights that one gets there.

use serde::Serialize;
use utoipa::ToSchema;

use crate::decide::basis::Basis;
use crate::decide::to_buy::question::BuyPlace;
use crate::light::tables::Tables;
use crate::path::scales::Scales;
use crate::scenario::check::Checked;
use crate::scenario::document::Scenario;
use crate::scenario::field_error::FieldError;
use crate::signal::model::Model;
use crate::wording::{clock, two_figures};

/// What a path comes to at a place.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct PathThere {
    /// Clock time until every goal of all that the first path is for is met, s; null where one
    /// never is.
    pub time_s: Option<f64>,
    /// Such pictures in a year; null likewise.
    pub pictures_per_year: Option<f64>,
}

/// A comparison at a place.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct PlaceAnswer {
    /// The place.
    pub name: String,
    /// Its zenith without a moon, V mag/arcsec^2.
    pub zenith_v_mag: f64,
    /// Clear nights in a year on which one shoots there.
    pub nights_per_year: f64,
    /// Hours of exposure in each.
    pub hours_per_night: f64,
    /// The paths in their order.
    pub paths: Vec<PathThere>,
}

/// A comparison at several places.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct PlacesAnswer {
    /// All that the first path is for, in words.
    pub label: String,
    /// The places, in order.
    pub places: Vec<PlaceAnswer>,
    /// What it comes to for each path, in a sentence.
    pub words: Vec<String>,
}

/// The scenario as it would be at a place: its lamps and air, the target as high, the moon as it
/// stands in the scenario.
fn at(s: &Scenario, place: &BuyPlace) -> Scenario {
    let mut there = s.clone();
    let (own, sky) = (&s.sky, place.sky.clone());
    there.sky.site = sky.site;
    there.sky.zenith_v_mag = sky.zenith_v_mag;
    there.sky.lamps = sky.lamps;
    there.sky.glow = sky.glow;
    there.sky.by_hour = sky.by_hour;
    there.sky.latitude_deg = sky.latitude_deg;
    there.sky.site_height_m = sky.site_height_m;
    there.sky.k_v = sky.k_v;
    // A reading of another place says nothing here.
    there.sky.toward_target_v_mag = None;
    there.sky.target_altitude_deg = own.target_altitude_deg;
    there.seeing_fwhm_arcsec = place.seeing_fwhm_arcsec;
    there
}

/// Compares a scenario at several places.
///
/// # Errors
/// Where a place's sky makes the scenario one that is not accepted.
pub fn compare_places(
    scenario: &Checked,
    places: &[BuyPlace],
    tables: &Tables,
) -> Result<PlacesAnswer, Vec<FieldError>> {
    let s = scenario.scenario();
    let mut label = String::new();
    let mut out = Vec::new();
    for place in places {
        let there = at(s, place).check()?;
        let model = Model::nominal(&there, tables);
        let all = Basis::all(there.scenario(), &model.paths);
        let Some(basis) = all.first() else { continue };
        label = basis.label();
        let year_s = place.nights_per_year * place.hours_per_night * 3600.0;
        let paths = model.paths.iter().map(|p| {
            let time_s = basis.time_s(p, &p.shares(), &Scales::ONE, &[]);
            PathThere { time_s, pictures_per_year: time_s.map(|t| year_s / t) }
        });
        out.push(PlaceAnswer {
            name: place.name.clone(),
            zenith_v_mag: place.sky.zenith_v_mag,
            nights_per_year: place.nights_per_year,
            hours_per_night: place.hours_per_night,
            paths: paths.collect(),
        });
    }
    let words = (0..s.contenders.len()).map(|i| words(&out, i)).collect();
    Ok(PlacesAnswer { label, places: out, words })
}

fn words(places: &[PlaceAnswer], path: usize) -> String {
    let each: Vec<String> = places
        .iter()
        .map(|p| match p.paths[path] {
            PathThere { time_s: Some(t), pictures_per_year: Some(n) } => {
                format!("{} at {}, {} pictures a year", clock(t), p.name, two_figures(n))
            }
            _ => format!("never at {}", p.name),
        })
        .collect();
    each.join("; ")
}
