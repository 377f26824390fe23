//! What to buy next, and one comparison at several places: questions about the kit and the year.

use axum::Json;
use axum::extract::State;
use salt_lamp_core::Scenario;
use salt_lamp_core::decide::{
    BuyKind, BuyPlace, BuyQuestion, PlacesAnswer, ToBuy, compare_places, to_buy,
};
use salt_lamp_core::library::{RigParts, ShelfThing, moderate};
use salt_lamp_core::scenario::{Choices, FieldError, Known, TargetKind};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::asked::checked;
use super::kit::Shelf;
use super::shelf;
use crate::http::extract::Body;
use crate::{App, Problem};

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(kit_to_buy)).routes(routes!(places))
}

/// A place of the shelf with the nights that one gets there.
#[derive(Clone, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct PlaceAsked {
    /// Id of the site.
    site: String,
    /// Clear nights in a year on which one shoots there, 1 to 366; the site's own where none is
    /// given.
    #[serde(default)]
    nights_per_year: Option<f64>,
}

/// What is asked of the shelf.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct ToBuyQuestion {
    /// Id of the rig; the usual one where none is given.
    #[serde(default)]
    rig: Option<String>,
    /// The places, at most six; all that are one's own where the list is empty.
    places: Vec<PlaceAsked>,
    /// The kinds of target that are shot; nebulae, remnants, planetary nebulae, galaxies and
    /// reflecting dust where none is given.
    #[serde(default)]
    kinds: Vec<TargetKind>,
    /// Hours of exposure in a night, 0.1 to 24; five where none is given.
    #[serde(default)]
    hours_per_night: Option<f64>,
}

/// What to buy.
#[derive(Serialize, ToSchema)]
struct ToBuyAnswer {
    /// Id of the rig.
    rig: String,
    /// Its name.
    rig_name: String,
    /// Ids of the places, in order.
    sites: Vec<String>,
    /// Nights in a year at each.
    nights_per_year: Vec<f64>,
    /// The kinds, in order.
    kinds: Vec<TargetKind>,
    #[serde(flatten)]
    answer: ToBuy,
}

/// The kinds of target that are asked about unless others are named.
const USUAL_KINDS: [TargetKind; 5] = [
    TargetKind::HIiRegion,
    TargetKind::SupernovaRemnant,
    TargetKind::PlanetaryNebula,
    TargetKind::Galaxy,
    TargetKind::ReflectionNebula,
];

/// Most places of one question.
const MOST_PLACES: usize = 6;

/// The places of a question by the shelf.
fn places_of(
    shelf: &Shelf,
    asked: &[PlaceAsked],
    hours_per_night: f64,
) -> Result<Vec<BuyPlace>, Problem> {
    let mut wrong = Vec::new();
    let mut out = Vec::new();
    let usual = Choices::default();
    if !(0.1..=24.0).contains(&hours_per_night) {
        let message = format!("{hours_per_night}; give 0.1 to 24 h");
        wrong.push(FieldError { path: "hours_per_night".into(), message });
    }
    if asked.len() > MOST_PLACES {
        let message = format!("{} places; give at most {MOST_PLACES}", asked.len());
        wrong.push(FieldError { path: "places".into(), message });
    }
    for (i, place) in asked.iter().enumerate().take(MOST_PLACES) {
        let Some((name, site)) = shelf.site(&place.site) else {
            let message = format!("the kit holds no site {}", place.site);
            wrong.push(FieldError { path: format!("places[{i}].site"), message });
            continue;
        };
        let own = place.nights_per_year.or(site.nights_per_year);
        let nights_per_year = own.unwrap_or(usual.clear_nights_per_year);
        if !(1.0..=366.0).contains(&nights_per_year) {
            let message = format!("{nights_per_year}; give 1 to 366 nights");
            wrong.push(FieldError { path: format!("places[{i}].nights_per_year"), message });
        }
        out.push(BuyPlace {
            name: name.to_owned(),
            sky: site.sky(name),
            seeing_fwhm_arcsec: site.seeing_fwhm_arcsec.unwrap_or(USUAL_SEEING_ARCSEC),
            nights_per_year,
            hours_per_night,
        });
    }
    if wrong.is_empty() { Ok(out) } else { Err(Problem::fields(wrong)) }
}

/// Seeing of a place of which nothing is known, arcsec at the zenith: that of a document.
const USUAL_SEEING_ARCSEC: f64 = 2.5;

/// Ids of what is one's own on the shelf, in its order.
async fn own(app: &App, is: fn(&ShelfThing) -> bool) -> Result<Vec<String>, Problem> {
    let all = app.store.shelf(false).await?;
    Ok(all.into_iter().filter(|e| e.mine && is(&e.entry.thing)).map(|e| e.id).collect())
}

/// Which one filter next, and the smallest set that serves everything.
#[utoipa::path(post, operation_id = "kit_to_buy", path = "/kit/to-buy",
    request_body = ToBuyQuestion,
    responses((status = 200, body = ToBuyAnswer), (status = 422, body = Problem)))]
async fn kit_to_buy(
    State(app): State<App>,
    Body(q): Body<ToBuyQuestion>,
) -> Result<Json<ToBuyAnswer>, Problem> {
    let usual_rig = own(&app, |t| matches!(t, ShelfThing::Rig(_))).await?.into_iter().next();
    let Some(rig_id) = q.rig.clone().or(usual_rig) else {
        return Err(Problem::field("rig", "the kit holds no rig yet; put one together first"));
    };
    let mut asked = q.places;
    if asked.is_empty() {
        let sites = own(&app, |t| matches!(t, ShelfThing::Site(_))).await?;
        asked = sites
            .into_iter()
            .take(MOST_PLACES)
            .map(|site| PlaceAsked { site, nights_per_year: None })
            .collect();
    }
    if asked.is_empty() {
        return Err(Problem::field("places", "the kit holds no site of yours; enter one first"));
    }
    let shelf = Shelf::of(&app).await?;
    let hours = q.hours_per_night.unwrap_or(Choices::default().hours_per_night);
    let places = places_of(&shelf, &asked, hours)?;
    let gear = shelf::gear(&app).await?;
    let kinds = if q.kinds.is_empty() { USUAL_KINDS.to_vec() } else { q.kinds };
    let work = app.heavy(move |app, _| {
        let parts = shelf.parts(&rig_id).map_err(Problem::fields)?;
        let filters = with_slots_owned(gear.filters, &parts);
        let kind_of = |k: &TargetKind| {
            let preset = moderate(&app.library.targets, *k)?;
            let target = preset.named(preset.label, Known::Typical);
            Some(BuyKind { name: preset.label.to_owned(), target })
        };
        let of_kinds: Vec<BuyKind> = kinds.iter().filter_map(kind_of).collect();
        let rig = parts.light_path(parts.name.to_owned(), Vec::new());
        let question =
            BuyQuestion { rig: &rig, filters: &filters, places: &places, kinds: &of_kinds };
        Ok(ToBuyAnswer {
            rig_name: parts.name.to_owned(),
            rig: rig_id.clone(),
            sites: asked.iter().map(|p| p.site.clone()).collect(),
            nights_per_year: places.iter().map(|p| p.nights_per_year).collect(),
            answer: to_buy(&question, &app.tables),
            kinds,
        })
    });
    work.await?.map(Json)
}

/// What sits in a slot of the rig is owned, whatever the shelf says.
fn with_slots_owned(
    mut filters: Vec<salt_lamp_core::library::GearFilter>,
    parts: &RigParts,
) -> Vec<salt_lamp_core::library::GearFilter> {
    let in_slots: Vec<&str> =
        parts.rig.slots.iter().filter_map(|slot| slot.filter.as_deref()).collect();
    filters.iter_mut().for_each(|f| f.mine = f.mine || in_slots.contains(&f.id.as_str()));
    filters
}

/// A comparison and the places at which it is asked about.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct PlacesQuestion {
    /// The comparison.
    scenario: Scenario,
    /// The places, at most six.
    places: Vec<PlaceAsked>,
}

/// One comparison at several places, with the nights that one gets at each.
#[utoipa::path(post, operation_id = "compute_places", path = "/decisions/places",
    request_body = PlacesQuestion,
    responses((status = 200, body = PlacesAnswer), (status = 422, body = Problem)))]
async fn places(
    State(app): State<App>,
    Body(q): Body<PlacesQuestion>,
) -> Result<Json<PlacesAnswer>, Problem> {
    let shelf = Shelf::of(&app).await?;
    let places = places_of(&shelf, &q.places, q.scenario.choices.hours_per_night)?;
    let scenario = checked(q.scenario)?;
    app.heavy(move |app, _| compare_places(&scenario, &places, &app.tables))
        .await?
        .map(Json)
        .map_err(Problem::fields)
}
