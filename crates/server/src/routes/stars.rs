//! The stars of a field.

use axum::Json;
use axum::extract::State;
use salt_lamp_core::Scenario;
use salt_lamp_core::library::{CatalogueStar, FARTHEST_ARCMIN, SkyAround};
use salt_lamp_core::look::{FieldStars, USUAL_GAP_MM, field_stars};
use salt_lamp_core::scenario::Pointing;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use crate::http::extract::{Body, Params};
use crate::routes::asked::checked;
use crate::{App, Problem};

/// Stars in an answer.
const MOST: usize = 400;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(around)).routes(routes!(figures)).routes(routes!(field))
}

/// Where stars are looked for.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct Around {
    /// Right ascension, degrees.
    ra_deg: f64,
    /// Declination, degrees.
    dec_deg: f64,
    /// How far around, degrees: up to 15 for stars, to 60 for figures.
    radius_deg: f64,
}

/// A star on the plane that touches the sky there.
#[derive(Serialize, ToSchema)]
struct StarAround {
    /// The star.
    star: CatalogueStar,
    /// East of the middle, arcmin.
    east_arcmin: f64,
    /// North of the middle, arcmin.
    north_arcmin: f64,
}

/// The brightest stars around a place, at most 400.
#[utoipa::path(get, operation_id = "stars_around", path = "/stars", params(Around),
    responses((status = 200, body = Vec<StarAround>), (status = 422, body = Problem)))]
async fn around(
    State(app): State<App>,
    Params(q): Params<Around>,
) -> Result<Json<Vec<StarAround>>, Problem> {
    let at = Pointing { ra_deg: q.ra_deg, dec_deg: q.dec_deg, position_angle_deg: 0.0 };
    let at = pointing(at, "at")?;
    if !(0.0..=15.0).contains(&q.radius_deg) {
        return Err(Problem::field("radius_deg", "give 0 to 15 degrees"));
    }
    let mut found = app.stars.around(at.ra_deg, at.dec_deg, q.radius_deg, f64::INFINITY);
    found.truncate(MOST);
    let placed = found.into_iter().filter_map(|star| {
        let [east, north] = at.east_north_arcsec(star.ra_deg, star.dec_deg)?;
        Some(StarAround { star, east_arcmin: east / 60.0, north_arcmin: north / 60.0 })
    });
    Ok(Json(placed.collect()))
}

/// Constellations' figures and the Milky Way around a place, for orientation.
#[utoipa::path(get, operation_id = "figures_around", path = "/figures", params(Around),
    responses((status = 200, body = SkyAround), (status = 422, body = Problem)))]
async fn figures(
    State(app): State<App>,
    Params(q): Params<Around>,
) -> Result<Json<SkyAround>, Problem> {
    let at = Pointing { ra_deg: q.ra_deg, dec_deg: q.dec_deg, position_angle_deg: 0.0 };
    let at = pointing(at, "at")?;
    if !(0.0..=60.0).contains(&q.radius_deg) {
        return Err(Problem::field("radius_deg", "give 0 to 60 degrees"));
    }
    Ok(Json(app.figures.around(&at, q.radius_deg)))
}

/// A place that may be pointed at; the paths of what is wrong begin with `path`.
pub(crate) fn pointing(at: Pointing, path: &str) -> Result<Pointing, Problem> {
    let wrong = at.check(path);
    if wrong.is_empty() { Ok(at) } else { Err(Problem::fields(wrong)) }
}

/// A rig that looks somewhere.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct FieldQuestion {
    /// Where it looks.
    at: Pointing,
    /// How far it is moved from there, arcmin east.
    #[serde(default)]
    east_arcmin: f64,
    /// And north.
    #[serde(default)]
    north_arcmin: f64,
    /// Sky and rigs.
    scenario: Scenario,
    /// Index of the contender whose rig looks.
    #[serde(default)]
    contender: usize,
    /// Way from filter to sensor where the rig states none, mm; 15 where it is not given.
    #[serde(default)]
    gap_mm: Option<f64>,
}

/// The stars on a rig's sensor: which of them halo through which filter, and which clip.
#[utoipa::path(post, operation_id = "stars_on_sensor", path = "/field",
    request_body = FieldQuestion, responses((status = 200, body = FieldStars),
    (status = 422, body = Problem)))]
async fn field(
    State(app): State<App>,
    Body(q): Body<FieldQuestion>,
) -> Result<Json<FieldStars>, Problem> {
    let at = pointing(q.at, "at")?;
    for (path, arcmin) in [("east_arcmin", q.east_arcmin), ("north_arcmin", q.north_arcmin)] {
        if arcmin.is_nan() || arcmin.abs() > FARTHEST_ARCMIN {
            let accepted = format!("give -{FARTHEST_ARCMIN} to {FARTHEST_ARCMIN} arcmin");
            return Err(Problem::field(path, accepted));
        }
    }
    let at = at.moved(q.east_arcmin, q.north_arcmin);
    let gap_mm = q.gap_mm.unwrap_or(USUAL_GAP_MM);
    if !(0.1..=200.0).contains(&gap_mm) {
        return Err(Problem::field("gap_mm", "give 0.1 to 200 mm"));
    }
    let contender = q.contender;
    let scenario = checked(q.scenario)?;
    if contender >= scenario.scenario().contenders.len() {
        return Err(Problem::field(
            "contender",
            format!("there is no contender {contender}; count from 0"),
        ));
    }
    let work = app.heavy(move |app, _| {
        let (_, study) = app.studies.study(scenario, &app.tables)?;
        let s = study.scenario();
        let c = &s.contenders[contender];
        Ok(Json(field_stars(
            &app.stars,
            &at,
            c,
            (&study.model.paths[contender], &study.evaluation.contenders[contender]),
            (gap_mm, s.clock_s(c)),
        )))
    });
    work.await?
}
