//! The kit: rigs with what they cost, how they focus and which light paths their filters make; a
//! comparison from rigs, a target and a site.

use std::collections::HashMap;

use axum::Json;
use axum::extract::State;
use salt_lamp_core::Scenario;
use salt_lamp_core::decide::{
    RigFocus, WheelSet, light_path_of, rig_focus, sets_for, wheel_sets, with_advised_subs,
};
use salt_lamp_core::library::{
    Rig, RigParts, RigPrice, STARTERS, ShelfEntry, ShelfThing, Starter, moderate,
};
use salt_lamp_core::scenario::{
    Contender, FieldError, FieldRig, FramePlan, GoalPurpose, Known, MAX_CONTENDERS, Optics, Sensor,
    Site, Sky, Target, TargetKind,
};
use salt_lamp_store::StoredEntry;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::asked::{NightSite, SkyPlace};
use super::moment::sky_now;
use crate::http::extract::Body;
use crate::{App, Problem};

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(rigs)).routes(routes!(compare)).routes(routes!(starters))
}

/// The shelf by id, with what was put away: a rig may stand on it still.
pub(crate) struct Shelf(HashMap<String, StoredEntry>);

impl Shelf {
    pub async fn of(app: &App) -> Result<Self, Problem> {
        let all = app.store.shelf(true).await?;
        Ok(Self(all.into_iter().map(|e| (e.id.clone(), e)).collect()))
    }

    pub fn find(&self, id: &str) -> Option<&ShelfEntry> {
        self.0.get(id).map(|e| &e.entry)
    }

    /// Every rig whose parts are all there.
    pub fn rigs(&self) -> Vec<RigParts<'_>> {
        self.0.keys().filter_map(|id| self.parts(id).ok()).collect()
    }

    /// A rig of the shelf with its parts.
    pub fn parts(&self, id: &str) -> Result<RigParts<'_>, Vec<FieldError>> {
        match self.find(id) {
            Some(ShelfEntry { name, thing: ShelfThing::Rig(rig), .. }) => {
                rig.parts(name, &|id| self.find(id))
            }
            _ => Err(vec![FieldError {
                path: "rigs".to_owned(),
                message: format!("the kit holds no rig {id}"),
            }]),
        }
    }

    pub fn site(&self, id: &str) -> Option<(&str, &Site)> {
        match self.find(id) {
            Some(ShelfEntry { name, thing: ShelfThing::Site(site), .. }) => Some((name, site)),
            _ => None,
        }
    }
}

/// What a rig comes to with its parts.
#[derive(Serialize, ToSchema)]
struct ReadyRig {
    /// The telescope as it stands in the rig.
    optics: Optics,
    /// The camera's sensor.
    sensor: Sensor,
    /// The telescope's name.
    telescope_name: String,
    /// Focal length with its reducer, mm.
    focal_length_mm: f64,
    /// Focal ratio.
    focal_ratio: f64,
    /// Sky on a side of a pixel, arcsec, binned as the rig is.
    scale_arcsec: f64,
    /// Sides of its field, arcmin.
    #[schema(value_type = Vec<f64>)]
    field_arcmin: [f64; 2],
    /// The name of the filter of each slot; null for an empty one.
    filters: Vec<Option<String>>,
    /// What it costs.
    price: RigPrice,
    /// How exact its focus must be, and how its filters move it.
    focus: RigFocus,
    /// The light paths that its filters make.
    sets: Vec<WheelSet>,
}

/// A rig of the kit.
#[derive(Serialize, ToSchema)]
struct KitRig {
    /// Its id.
    id: String,
    /// Its name.
    name: String,
    /// Its revision.
    revision: i64,
    /// Whether everything begins with it.
    usual: bool,
    /// The rig.
    rig: Rig,
    /// What it comes to; null where a part is missing.
    ready: Option<ReadyRig>,
    /// What is missing.
    wrong: Vec<FieldError>,
}

fn ready(parts: &RigParts) -> ReadyRig {
    let (optics, sensor) = (parts.optics(), parts.camera.sensor.clone());
    let field_arcmin = FieldRig::new(parts.name, &optics, &sensor).size_arcmin();
    let pixel_um = sensor.pixel_um * f64::from(parts.rig.binning);
    ReadyRig {
        telescope_name: parts.telescope.0.to_owned(),
        focal_ratio: optics.focal_ratio(),
        scale_arcsec: optics.pixel_scale_arcsec(pixel_um),
        focal_length_mm: optics.effective_focal_length_mm(),
        field_arcmin,
        filters: parts.filters.iter().map(|f| f.map(|f| f.filter.name.clone())).collect(),
        price: parts.price(),
        focus: rig_focus(parts),
        sets: wheel_sets(parts),
        optics,
        sensor,
    }
}

/// The rigs of the kit, the usual one first.
#[utoipa::path(get, operation_id = "kit_rigs", path = "/kit/rigs",
    responses((status = 200, body = Vec<KitRig>)))]
async fn rigs(State(app): State<App>) -> Result<Json<Vec<KitRig>>, Problem> {
    let rigs = app.store.shelf(false).await?;
    let shelf = Shelf::of(&app).await?;
    let work = app.heavy(move |_, _| {
        let told = |stored: StoredEntry| {
            let ShelfThing::Rig(rig) = &stored.entry.thing else { return None };
            let (ready, wrong) = match shelf.parts(&stored.id) {
                Ok(parts) => (Some(ready(&parts)), Vec::new()),
                Err(wrong) => (None, wrong),
            };
            Some(KitRig {
                rig: rig.clone(),
                id: stored.id,
                name: stored.entry.name,
                revision: stored.revision,
                usual: stored.usual,
                ready,
                wrong,
            })
        };
        rigs.into_iter().filter_map(told).collect()
    });
    work.await.map(Json)
}

/// Of which rigs, for which target and under which sky a comparison is wanted.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct CompareQuestion {
    /// Ids of rigs of the kit, the baseline's first.
    rigs: Vec<String>,
    /// Keys of the sets of filters that are wanted of every rig; those that the target asks for
    /// where none are given.
    #[serde(default)]
    sets: Vec<String>,
    /// The target; a typical H II region where none is given, for questions about the rig alone.
    #[serde(default)]
    target: Option<Target>,
    /// How it is framed.
    #[serde(default)]
    frame: Option<FramePlan>,
    /// Id of a site of the shelf; a suburban sky where none is given.
    #[serde(default)]
    site: Option<String>,
    /// Evening's date: moon, height and twilight are taken from that night. Left out, there is no
    /// moon, and the target stands 60 degrees high.
    #[serde(default)]
    date: Option<String>,
    /// What the picture is for; a picture for the screen where nothing is said.
    #[serde(default)]
    purpose: Option<GoalPurpose>,
}

/// The light paths of rigs for a target, each with the sets of filters that are wanted.
fn light_paths(
    shelf: &Shelf,
    rigs: &[String],
    wanted: &[String],
    target: &Target,
) -> Result<Vec<Contender>, Problem> {
    let mut paths = Vec::new();
    for id in rigs {
        let parts = shelf.parts(id).map_err(Problem::fields)?;
        let sets = wheel_sets(&parts);
        let chosen: Vec<usize> = if wanted.is_empty() {
            sets_for(target, &sets)
        } else {
            (0..sets.len()).filter(|i| wanted.contains(&sets[*i].key)).collect()
        };
        paths.extend(chosen.into_iter().map(|i| light_path_of(&parts, &sets[i])));
    }
    if paths.is_empty() {
        return Err(Problem::field(
            "rigs",
            "no light path comes of these rigs: put filters into their slots, or leave one empty",
        ));
    }
    paths.truncate(MAX_CONTENDERS);
    Ok(paths)
}

/// A comparison of one's own light paths, to be stored by whoever wants it: rigs, a target, a site,
/// and the subs that the target asks for.
#[utoipa::path(post, operation_id = "kit_compare", path = "/kit/compare",
    request_body = CompareQuestion,
    responses((status = 200, body = Scenario), (status = 422, body = Problem)))]
async fn compare(
    State(app): State<App>,
    Body(q): Body<CompareQuestion>,
) -> Result<Json<Scenario>, Problem> {
    let shelf = Shelf::of(&app).await?;
    let typical = moderate(&app.library.targets, TargetKind::HIiRegion);
    let typical = typical.map(|t| t.named("Any nebula", Known::Typical));
    let Some(target) = q.target.or(typical) else {
        return Err(Problem::field("target", "missing; give a target"));
    };
    let work = app.heavy(move |app, _| {
        let contenders = light_paths(&shelf, &q.rigs, &q.sets, &target)?;
        let site =
            match &q.site {
                None => None,
                Some(id) => Some(shelf.site(id).ok_or_else(|| {
                    Problem::field("site", format!("the shelf holds no site {id}"))
                })?),
            };
        let mut sky = site.map_or_else(Sky::suburb, |(name, s)| s.sky(name));
        if let (Some((name, s)), Some(date)) = (site, &q.date) {
            let place = target.place().map(|p| SkyPlace { ra_deg: p.ra_deg, dec_deg: p.dec_deg });
            let site = NightSite::of(name, s);
            if let Some(now) = sky_now(app, &site, date, place, &target.name)? {
                now.put_into(&mut sky);
            }
        }
        let mut begun = Scenario::of(target, sky, contenders);
        begun.frame = q.frame;
        if let Some(purpose) = q.purpose {
            begun.goals.iter_mut().for_each(|g| g.snr = purpose.snr());
        }
        if let Some((_, site)) = site {
            site.put_into(&mut begun);
        }
        let begun = begun.check().map_err(Problem::fields)?;
        Ok(Json(with_advised_subs(begun, &app.tables)))
    });
    work.await?
}

/// Sets of filters to begin a rig with, the commonest first.
#[utoipa::path(get, operation_id = "kit_starters", path = "/kit/starters",
    responses((status = 200, body = Vec<Starter>)))]
async fn starters() -> Json<Vec<Starter>> {
    Json(STARTERS.to_vec())
}
