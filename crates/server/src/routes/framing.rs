//! How objects sit on sensors, how a sensor is laid over several, and the way back to the framing
//! of a frame that was shot.

use axum::Json;
use axum::extract::State;
use salt_lamp_core::FieldError;
use salt_lamp_core::library::{
    CatalogueObject, Extent, Framing, Panels, Placement, framing, laid_over,
};
use salt_lamp_core::scenario::{
    FieldRig, MAX_PANELS, MOST_OVERLAP, Optics, PANEL_OVERLAP, Pointing, Sensor, check_rig,
};
use salt_lamp_formats::header::{FrameHeader, read_header};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use crate::http::extract::Body;
use crate::routes::stars::pointing;
use crate::{App, Problem};

/// Most rigs whose fields are asked for at once.
const MOST_RIGS: usize = 100;
/// Most objects that are framed together.
const MOST_OBJECTS: usize = 12;
/// Longer side of a field of which a header says nothing, arcmin.
const USUAL_FIELD_ARCMIN: f64 = 60.0;
/// Longest header, characters.
const LONGEST: usize = 1_000_000;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(frame)).routes(routes!(together)).routes(routes!(header))
}

/// A telescope with a camera, or as much of them as a field hangs on.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct FrameRig {
    /// What telescope and camera are called together; the camera's name where nothing is given.
    #[serde(default)]
    name: Option<String>,
    /// The telescope.
    #[serde(default)]
    optics: Option<Optics>,
    /// The camera.
    #[serde(default)]
    sensor: Option<Sensor>,
    /// In their place.
    #[serde(default)]
    field: Option<FieldRig>,
}

impl FrameRig {
    /// The field's rig, or what is wrong with it; paths begin with `at`.
    fn field(self, at: &str) -> Result<FieldRig, Vec<FieldError>> {
        match (self.field, self.optics, self.sensor) {
            (Some(field), None, None) => {
                let wrong = field.check(&format!("{at}.field"));
                if wrong.is_empty() { Ok(field) } else { Err(wrong) }
            }
            (None, Some(optics), Some(sensor)) => {
                let wrong = check_rig(at, &optics, &sensor);
                if wrong.is_empty() {
                    let name = self.name.as_deref().unwrap_or(&sensor.name);
                    let field = FieldRig::new(name, &optics, &sensor);
                    let wrong = field.check(&format!("{at}.field"));
                    if wrong.is_empty() { Ok(field) } else { Err(wrong) }
                } else {
                    Err(wrong)
                }
            }
            _ => Err(vec![FieldError {
                path: at.to_owned(),
                message: "give a telescope (optics) and a camera (sensor), or a field".into(),
            }]),
        }
    }
}

fn overlap() -> f64 {
    PANEL_OVERLAP
}

fn accepted_overlap(overlap: f64) -> Result<(), Problem> {
    if (0.0..=MOST_OVERLAP).contains(&overlap) {
        return Ok(());
    }
    Err(Problem::field("overlap", format!("give 0 to {MOST_OVERLAP}")))
}

fn at_most(count: usize, most: usize, path: &str) -> Result<(), Problem> {
    if count <= most {
        return Ok(());
    }
    Err(Problem::field(path, format!("{count} of them; give at most {most}")))
}

/// Rigs whose fields are wanted.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct FrameQuestion {
    /// Where the plane touches the sky, north up: the first object's place.
    at: Pointing,
    /// What is framed.
    objects: Vec<Extent>,
    /// Where the frame's middle stands.
    #[serde(default)]
    placed: Placement,
    /// Panels of the first rig's mosaic; as many as it takes where none are given.
    #[serde(default)]
    panels: Option<Panels>,
    /// Share by which panels overlap.
    #[serde(default = "overlap")]
    overlap: f64,
    /// Telescopes with cameras.
    rigs: Vec<FrameRig>,
}

/// How objects sit on each rig's sensor, and in how many panels.
#[utoipa::path(post, operation_id = "framing", path = "/framing",
    request_body = FrameQuestion, responses((status = 200, body = Vec<Framing>),
    (status = 422, body = Problem)))]
async fn frame(Body(q): Body<FrameQuestion>) -> Result<Json<Vec<Framing>>, Problem> {
    let at = pointing(q.at, "at")?;
    at_most(q.rigs.len(), MOST_RIGS, "rigs")?;
    at_most(q.objects.len(), MOST_OBJECTS, "objects")?;
    accepted_overlap(q.overlap)?;
    let fits = |n: u32| (1..=MAX_PANELS).contains(&n);
    if q.panels.is_some_and(|p| !fits(p.wide) || !fits(p.high)) {
        return Err(Problem::field("panels", format!("give 1 to {MAX_PANELS} panels a side")));
    }
    let mut wrong: Vec<FieldError> = q.placed.check("placed");
    for (i, o) in q.objects.iter().enumerate() {
        wrong.extend(o.check(&format!("objects[{i}]")));
    }
    let mut rigs = Vec::with_capacity(q.rigs.len());
    for (i, r) in q.rigs.into_iter().enumerate() {
        match r.field(&format!("rigs[{i}]")) {
            Ok(rig) => rigs.push(rig),
            Err(errors) => wrong.extend(errors),
        }
    }
    if !wrong.is_empty() {
        return Err(Problem::fields(wrong));
    }
    let fields = rigs.iter().enumerate().map(|(i, rig)| {
        let panels = q.panels.filter(|_| i == 0);
        framing(rig, &q.objects, &at, &q.placed, (panels, q.overlap))
    });
    Ok(Json(fields.collect()))
}

/// Objects that are to stand on one sensor.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct TogetherQuestion {
    /// Their names; the first is the one that the rest is told from.
    names: Vec<String>,
    /// With which rig; without one the angle is 0 and the middle the first's.
    #[serde(default)]
    rig: Option<FrameRig>,
    /// Where a frame stands already: it is told from the first object, and laid nowhere else.
    #[serde(default)]
    look: Option<Pointing>,
    /// Share by which panels overlap.
    #[serde(default = "overlap")]
    overlap: f64,
}

/// Objects on one plane, and how a rig is best laid over them.
#[derive(Serialize, ToSchema)]
struct Together {
    /// Where the plane touches the sky: the first object's place.
    at: Pointing,
    /// The objects.
    objects: Vec<Extent>,
    /// Where the frame stands best.
    placed: Placement,
}

/// How a rig is best laid over one or several catalogued objects.
#[utoipa::path(post, operation_id = "framing_together", path = "/framing/together",
    request_body = TogetherQuestion, responses((status = 200, body = Together),
    (status = 422, body = Problem)))]
async fn together(
    State(app): State<App>,
    Body(q): Body<TogetherQuestion>,
) -> Result<Json<Together>, Problem> {
    at_most(q.names.len(), MOST_OBJECTS, "names")?;
    accepted_overlap(q.overlap)?;
    let rig = q.rig.map(|r| r.field("rig")).transpose().map_err(Problem::fields)?;
    let mut at = None;
    let mut objects = Vec::with_capacity(q.names.len());
    for (i, name) in q.names.iter().enumerate() {
        let path = format!("names[{i}]");
        let unknown = || Problem::field(&path, format!("the catalogue holds no {name}"));
        let o = app.catalogue.called(name).ok_or_else(unknown)?;
        let first = at.get_or_insert(o.place());
        let far = || Problem::field(&path, format!("{name} is too far away for one picture"));
        let extent = Extent::of(o, first).filter(Extent::is_near).ok_or_else(far)?;
        objects.push(extent);
    }
    let Some(at) = at else { return Err(Problem::field("names", "empty; give a name")) };
    let placed = match q.look {
        Some(look) => {
            let far = || Problem::field("look", "too far from the first object");
            placed_from(&at, &pointing(look, "look")?).ok_or_else(far)?
        }
        None => rig.map_or_else(Placement::default, |r| laid_over(&r, &objects, q.overlap)),
    };
    Ok(Json(Together { at, objects, placed }))
}

/// Where a frame stands against a middle; `None` where that is too far away.
fn placed_from(middle: &Pointing, at: &Pointing) -> Option<Placement> {
    let [east, north] = middle.east_north_arcsec(at.ra_deg, at.dec_deg)?;
    let placed = Placement {
        east_arcmin: east / 60.0,
        north_arcmin: north / 60.0,
        position_angle_deg: at.position_angle_deg,
    };
    placed.check("placed").is_empty().then_some(placed)
}

/// The header of a frame, as text.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct HeaderQuestion {
    /// Its cards, each on a line or each of 80 characters.
    text: String,
}

/// What a header says of a frame, and which object stands there.
#[derive(Serialize, ToSchema)]
struct HeaderAnswer {
    /// What it says.
    header: FrameHeader,
    /// The object that it is told from: the one that the header names, else the largest whose
    /// middle lies in the field, else the nearest; null where the header says no place.
    object: Option<String>,
    /// Where the frame's middle stands against that object's.
    placed: Option<Placement>,
}

/// The way back to last night's framing: where a frame looked, how its camera stood, and with which
/// rig, from its header.
#[utoipa::path(post, operation_id = "framing_header", path = "/framing/header",
    request_body = HeaderQuestion, responses((status = 200, body = HeaderAnswer),
    (status = 422, body = Problem)))]
async fn header(
    State(app): State<App>,
    Body(q): Body<HeaderQuestion>,
) -> Result<Json<HeaderAnswer>, Problem> {
    if q.text.len() > LONGEST {
        return Err(Problem::field("text", format!("longer than {LONGEST} characters")));
    }
    let header = read_header(&q.text).map_err(|e| Problem::field("text", e))?;
    let Some(at) = header.at else {
        return Ok(Json(HeaderAnswer { header, object: None, placed: None }));
    };
    let work = app.heavy(move |app, _| {
        let seen = |o: &CatalogueObject| {
            placed_from(&o.place(), &at).map(|placed| (o.name.clone(), placed))
        };
        let named = header.object.as_deref().and_then(|n| app.catalogue.called(n));
        let side = header.rig.as_ref().map_or(USUAL_FIELD_ARCMIN, |r| {
            let [width, height] = r.size_arcmin();
            width.max(height)
        });
        let found = named.and_then(seen).or_else(|| seen(app.catalogue.at_place(&at, side / 2.0)?));
        let (object, placed) = found.unzip();
        HeaderAnswer { header, object, placed }
    });
    Ok(Json(work.await?))
}
