//! The look: pictures, measurements, files, and blind looks.

use std::sync::Arc;

use axum::Json;
use axum::body::Body as Bytes;
use axum::extract::{Path, State};
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use salt_lamp_core::light::Quantity;
use salt_lamp_core::look::{BoxArcsec, Look, LookView, LookWords, Measured, Revealed, figure, figure_name, orders, reveal, whole_sub};
use salt_lamp_core::{Checked, Scenario, evaluate};
use salt_lamp_formats::fits::{Header, Pixels, Pointing, Shape, Value, write_image, write_image_in_bands};
use salt_lamp_formats::picture::write_png;
use salt_lamp_store::DamagedRow;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use crate::extract::Body;
use crate::looks::{Pair, crops, packed, resized};
use crate::{App, Problem};

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(words))
        .routes(routes!(frames))
        .routes(routes!(measure))
        .routes(routes!(picture))
        .routes(routes!(fits))
        .routes(routes!(blinds, begin))
        .routes(routes!(blind_frames))
        .routes(routes!(choose))
        .routes(routes!(unveil))
}

/// A scenario and how its look is wanted.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct LookQuestion {
    /// The scenario.
    scenario: Scenario,
    /// How the look is wanted.
    #[serde(default)]
    view: LookView,
}

fn checked(q: LookQuestion) -> Result<(Checked, LookView), Problem> {
    let under = |mut errors: Vec<salt_lamp_core::FieldError>| {
        errors.iter_mut().for_each(|e| e.path = format!("scenario.{}", e.path));
        Problem::fields(errors)
    };
    let (scenario, view) = (q.scenario.check().map_err(under)?, q.view.check().map_err(Problem::fields)?);
    Look::fits(&scenario, &view).map_err(|e| Problem::fields(vec![e]))?;
    Ok((scenario, view))
}

/// A document as text.
pub(crate) fn document(value: &impl Serialize) -> Result<String, Problem> {
    serde_json::to_string(value).map_err(Problem::fault)
}

/// Runs the heavy part off the threads that answer requests.
async fn heavy<T: Send + 'static>(work: impl FnOnce() -> T + Send + 'static) -> Result<T, Problem> {
    tokio::task::spawn_blocking(work).await.map_err(|e| Problem::fault(format!("the picture was not finished: {e}")))
}

async fn look(app: &App, scenario: Checked, view: LookView) -> Result<Arc<Look>, Problem> {
    let (looks, tables) = (Arc::clone(&app.looks), Arc::clone(&app.tables));
    heavy(move || looks.get(scenario, &view, &tables)).await?.map_err(Problem::fault)
}

/// What there is to say about every crop: sizes, casts, ghosts, slopes.
#[utoipa::path(post, operation_id = "look_words", path = "/look", request_body = LookQuestion,
    responses((status = 200, body = Vec<LookWords>), (status = 422, body = Problem)))]
async fn words(State(app): State<App>, Body(q): Body<LookQuestion>) -> Result<Json<Vec<LookWords>>, Problem> {
    let (scenario, view) = checked(q)?;
    Ok(Json(look(&app, scenario, view).await?.words(&view)))
}

fn octets(bytes: Vec<u8>) -> Response {
    ([(header::CONTENT_TYPE, "application/octet-stream")], bytes).into_response()
}

/// The pictures: their count, then width and height of each (all little-endian u32), then their pixels, four bytes each.
#[utoipa::path(post, operation_id = "look_frames", path = "/look/frames", request_body = LookQuestion,
    responses((status = 200, content_type = "application/octet-stream", body = Vec<u8>), (status = 422, body = Problem)))]
async fn frames(State(app): State<App>, Body(q): Body<LookQuestion>) -> Result<Response, Problem> {
    let (scenario, view) = checked(q)?;
    let look = look(&app, scenario, view).await?;
    Ok(octets(heavy(move || packed(&crops(&look, &view))).await?))
}

/// A box on the crops.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct BoxQuestion {
    /// The scenario.
    scenario: Scenario,
    /// How the look is wanted.
    #[serde(default)]
    view: LookView,
    /// Left, bottom, right, top, arcsec from the middle.
    #[schema(value_type = Vec<f64>)]
    r#box: BoxArcsec,
}

/// Measures a box in every plane of every contender: mean, spread and signal to noise in electrons.
#[utoipa::path(post, operation_id = "look_measure", path = "/look/measure", request_body = BoxQuestion,
    responses((status = 200, body = Vec<Vec<Measured>>), (status = 422, body = Problem)))]
async fn measure(State(app): State<App>, Body(q): Body<BoxQuestion>) -> Result<Json<Vec<Vec<Measured>>>, Problem> {
    let BoxQuestion { scenario, view, r#box } = q;
    let (scenario, view) = checked(LookQuestion { scenario, view })?;
    if r#box.iter().any(|v| !v.is_finite()) || (r#box[0] - r#box[2]).abs() < 1.0 || (r#box[1] - r#box[3]).abs() < 1.0 {
        return Err(Problem::field("box", "give left, bottom, right and top in arcsec from the middle, at least 1 arcsec apart"));
    }
    let look = look(&app, scenario, view).await?;
    let all = heavy(move || (0..look.contenders.len()).map(|i| look.measure(i, r#box, view.time_fraction)).collect()).await?;
    Ok(Json(all))
}

/// What is wanted of a file.
#[derive(Clone, Copy, Default, Deserialize, PartialEq, Eq, ToSchema)]
#[serde(rename_all = "snake_case")]
enum FitsKind {
    /// One plane's stack over the crop, electrons.
    #[default]
    Crop,
    /// A whole simulated sub of the sensor, ADU.
    Sub,
}

/// Where the picture's middle lies on the sky.
#[derive(Clone, Copy, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct Centre {
    /// Right ascension, degrees, ICRS.
    ra_deg: f64,
    /// Declination, degrees, ICRS.
    dec_deg: f64,
    /// Position angle of up, degrees from north through east.
    #[serde(default)]
    position_angle_deg: f64,
}

/// A file that is wanted.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct FileQuestion {
    /// The scenario.
    scenario: Scenario,
    /// How the look is wanted.
    #[serde(default)]
    view: LookView,
    /// Index of the contender.
    #[serde(default)]
    contender: usize,
    /// Index of the exposure; for a crop of a colour camera its first channel is taken.
    #[serde(default)]
    exposure: usize,
    /// What is wanted; FITS only.
    #[serde(default)]
    kind: FitsKind,
    /// Where it looks; the catalogue's place of the target where none is given.
    #[serde(default)]
    centre: Option<Centre>,
}

impl FileQuestion {
    fn known(&self) -> Result<(), Problem> {
        let Some(c) = self.scenario.contenders.get(self.contender) else {
            return Err(Problem::field("contender", format!("there is no contender {}; count from 0", self.contender)));
        };
        if self.exposure >= c.exposures.len() {
            return Err(Problem::field("exposure", format!("there is no exposure {}; count from 0", self.exposure)));
        }
        match self.centre {
            Some(c) if !(0.0..360.0).contains(&c.ra_deg) => Err(Problem::field("centre.ra_deg", "give 0 to less than 360 degrees")),
            Some(c) if !(-90.0..=90.0).contains(&c.dec_deg) => Err(Problem::field("centre.dec_deg", "give -90 to 90 degrees")),
            _ => Ok(()),
        }
    }

    fn place(&self, app: &App) -> Option<Centre> {
        self.centre.or_else(|| {
            let o = app.catalogue.get(&self.scenario.target.name)?;
            Some(Centre { ra_deg: o.ra_deg, dec_deg: o.dec_deg, position_angle_deg: 0.0 })
        })
    }
}

fn attachment(name: &str, mime: &'static str, body: Bytes) -> Response {
    let safe: String = name.chars().map(|c| if c.is_ascii_alphanumeric() || "-_.".contains(c) { c } else { '_' }).collect();
    let disposition = format!("attachment; filename=\"{safe}\"");
    ([(header::CONTENT_TYPE, mime.to_owned()), (header::CONTENT_DISPOSITION, disposition)], body).into_response()
}

/// One contender's picture as PNG, with the settings that made it as text inside.
#[utoipa::path(post, operation_id = "look_picture", path = "/look/picture", request_body = FileQuestion,
    responses((status = 200, content_type = "image/png", body = Vec<u8>), (status = 422, body = Problem)))]
async fn picture(State(app): State<App>, Body(q): Body<FileQuestion>) -> Result<Response, Problem> {
    q.known()?;
    let contender = q.contender;
    let (scenario, view) = checked(LookQuestion { scenario: q.scenario, view: q.view })?;
    let s = scenario.scenario().clone();
    let (view_text, scenario_text) = (document(&view)?, document(&s)?);
    let look = look(&app, scenario, view).await?;
    let bytes = heavy(move || {
        let crop = look.crop(contender, &view, look.white(&view));
        let settings = [
            ("Title", format!("{}: {}", s.title, s.contenders[contender].name)),
            ("Software", "Salt Lamp".to_owned()),
            ("Comment", "A simulated picture, computed from the light path's own numbers.".to_owned()),
            ("View", view_text),
            ("Scenario", scenario_text),
        ];
        write_png(&crop, &settings)
    });
    let bytes = bytes.await?.map_err(Problem::fault)?;
    Ok(attachment("look.png", "image/png", Bytes::from(bytes)))
}

/// What every header of a file says besides its pixels.
struct Told<'a> {
    s: &'a Scenario,
    q: &'a FileQuestion,
    place: Option<Centre>,
    scale_arcsec: f64,
}

impl Told<'_> {
    /// How the file came to be.
    fn origin(&self, h: &mut Header) {
        let Self { s, q, .. } = self;
        let c = &s.contenders[q.contender];
        let e = &c.exposures[q.exposure];
        let gain = c.sensor.at_gain(c.gain);
        h.set("OBJECT", Value::Text(s.target.name.clone()), "");
        h.set("IMAGETYP", Value::Text("LIGHT".into()), "simulated");
        h.set("EXPTIME", Value::Real(e.sub_s), "[s] length of a sub");
        h.set("GAIN", Value::Real(c.gain), "camera setting");
        h.set("EGAIN", Value::Real(gain.e_per_adu), "[e-/ADU]");
        h.set("RDNOISE", Value::Real(gain.read_noise_e), "[e-]");
        h.set("CCD-TEMP", Value::Real(c.sensor_temperature(s.sky.ambient_c)), "[deg C] sensor temperature");
        h.set("FILTER", Value::Text(e.filter.as_ref().map_or("none".into(), |f| f.name.clone())), "");
        h.set("INSTRUME", Value::Text(c.sensor.name.clone()), "");
        h.set("FOCALLEN", Value::Real(c.optics.focal_length_mm * c.optics.reducer), "[mm]");
        h.set("APTDIA", Value::Real(c.optics.aperture_mm), "[mm]");
        h.set("XPIXSZ", Value::Real(c.sensor.pixel_um), "[um]");
        h.set("YPIXSZ", Value::Real(c.sensor.pixel_um), "[um]");
        h.set("SEED", Value::Integer(i64::from(q.view.seed)), "seed of structure and noise");
        h.set("CREATOR", Value::Text("Salt Lamp".into()), "");
        h.set("DATE", Value::Text(jiff::Timestamp::now().strftime("%Y-%m-%dT%H:%M:%S").to_string()), "when this file was made, UTC");
    }

    /// What the pixels are and where they look.
    fn pixels(&self, h: &mut Header, size: [usize; 2], unit: &str) {
        h.set("BUNIT", Value::Text(unit.into()), "");
        if let Some(pointing) = self.pointing() {
            h.point(&pointing, size[0], size[1]);
        }
    }

    fn pointing(&self) -> Option<Pointing> {
        let p = self.place?;
        Some(Pointing { ra_deg: p.ra_deg, dec_deg: p.dec_deg, position_angle_deg: p.position_angle_deg, scale_arcsec: self.scale_arcsec })
    }
}

/// A crop's stacks in electrons, an extension a channel: named MONO, or R, G and B.
fn crop_file(look: &Look, told: &Told) -> std::io::Result<Vec<u8>> {
    let q = told.q;
    let planes = &look.contenders[q.contender];
    let own: Vec<usize> = (0..planes.planes.len()).filter(|&i| planes.planes[i].exposure == q.exposure).collect();
    let [width, height] = planes.size;
    let mut out = Vec::with_capacity(own.len() * (width * height * 4 + 8640) + 5760);
    let mut h = Header::of_extensions();
    told.origin(&mut h);
    if let Some(pointing) = told.pointing() {
        h.aim(&pointing);
    }
    h.write_alone(&mut out)?;
    for &i in &own {
        let plane = &planes.planes[i];
        let stack = look.stack(q.contender, i, q.view.time_fraction, q.view.truth);
        let name = plane.channel.to_uppercase();
        let mut h = Header::extension(&name, width, height, Pixels::Float);
        told.origin(&mut h);
        told.pixels(&mut h, planes.size, "electron");
        // A pixel of the crop saw its colour in its share of the subs.
        h.set("NCOMBINE", Value::Integer((stack.subs / plane.share).round() as i64), "subs in the stack");
        h.set("PIXSHARE", Value::Real(plane.share), "share of them in which a pixel saw this colour");
        write_image(&mut out, &h, width, height, |j, row| row.copy_from_slice(&stack.e[j * width..][..width]))?;
    }
    Ok(out)
}

/// A crop's stack in electrons (32-bit floating point), or a whole simulated sub in ADU (unsigned integers).
#[utoipa::path(post, operation_id = "look_fits", path = "/look/fits", request_body = FileQuestion,
    responses((status = 200, content_type = "application/fits", body = Vec<u8>), (status = 422, body = Problem)))]
async fn fits(State(app): State<App>, Body(q): Body<FileQuestion>) -> Result<Response, Problem> {
    q.known()?;
    let place = q.place(&app);
    let (scenario, view) = checked(LookQuestion { scenario: q.scenario.clone(), view: q.view })?;
    let s = scenario.scenario().clone();
    let name = format!("{}-{}.fits", s.target.name, q.contender);
    let tables = Arc::clone(&app.tables);
    let bytes = if q.kind == FitsKind::Crop {
        let look = look(&app, scenario, view).await?;
        heavy(move || crop_file(&look, &Told { s: &s, q: &q, place, scale_arcsec: look.contenders[q.contender].scale_arcsec })).await?
    } else {
        let sensor = &s.contenders[q.contender].sensor;
        let pixels = u64::from(sensor.columns) * u64::from(sensor.rows);
        if pixels > MOST_SUB_PIXELS {
            let most = MOST_SUB_PIXELS / 1_000_000;
            let message = format!("a sub of {} million pixels is not written; at most {most} million are", pixels / 1_000_000);
            return Err(Problem::field(&format!("scenario.contenders[{}].sensor.columns", q.contender), message));
        }
        heavy(move || {
            let Some(sub) = whole_sub(&scenario, q.contender, q.exposure, &view, &tables, &Pair) else { return Ok(Vec::new()) };
            let [columns, rows] = sub.size;
            let sensor = &s.contenders[q.contender].sensor;
            let shape = Shape { columns, rows, pixels: Pixels::of_bits(sensor.bits) };
            let mut h = Header::image(columns, rows, shape.pixels);
            let told = Told { s: &s, q: &q, place, scale_arcsec: sub.scale_arcsec };
            told.origin(&mut h);
            told.pixels(&mut h, sub.size, "adu");
            if let Some(cfa) = &sensor.cfa {
                // The file's first row is the lowest: the pattern is told from there.
                let (upper, lower) = cfa.split_at(2);
                let from_below = if rows % 2 == 0 { format!("{lower}{upper}") } else { cfa.clone() };
                h.set("BAYERPAT", Value::Text(from_below), "from the file's first pixel");
            }
            let mut out = Vec::with_capacity(columns * rows * 4 + 8640);
            write_image_in_bands(&mut out, &h, shape, 2, |j, row| sub.row(j, row)).map(|()| out)
        })
        .await?
    };
    let bytes = bytes.map_err(Problem::fault)?;
    Ok(attachment(&name, "application/fits", Bytes::from(bytes)))
}

/// Most pixels of a whole sub that is written: its bytes stand in memory until they are sent.
const MOST_SUB_PIXELS: u64 = 160_000_000;

/// What a blind look hides until it is revealed.
#[derive(Serialize, Deserialize)]
struct Hidden {
    scenario: Scenario,
    view: LookView,
    orders: Vec<Vec<usize>>,
}

/// A blind look that began. It names nothing that could tell the paths apart.
#[derive(Serialize, ToSchema)]
struct Begun {
    /// Its id.
    id: String,
    /// Pictures in each round.
    pictures: usize,
    /// Rounds.
    rounds: usize,
}

/// Rounds of a blind look: the second shows whether the eye repeats itself.
const ROUNDS: usize = 2;

/// Begins a blind look: the paths are shuffled anew in each of two rounds.
#[utoipa::path(post, operation_id = "blind_begin", path = "/look/blind", request_body = LookQuestion,
    responses((status = 201, body = Begun), (status = 422, body = Problem)))]
async fn begin(State(app): State<App>, Body(q): Body<LookQuestion>) -> Result<impl IntoResponse, Problem> {
    let (scenario, view) = checked(q)?;
    let pictures = scenario.scenario().contenders.len();
    if pictures < 2 {
        return Err(Problem::field("scenario.contenders", "a blind look needs at least two light paths"));
    }
    // The chance is the server's, so that a page cannot foresee the order.
    let chance = std::hash::BuildHasher::hash_one(&std::collections::hash_map::RandomState::new(), 0u8);
    let hidden = Hidden { orders: orders(pictures, ROUNDS, chance), scenario: scenario.scenario().clone(), view };
    let row = app.store.add_blind(&hidden.scenario.title, &document(&hidden)?).await?;
    Ok((StatusCode::CREATED, Json(Begun { id: row.id, pictures, rounds: ROUNDS })))
}

/// What is hidden, the choices so far, and these as they are stored.
async fn hidden(app: &App, id: &str) -> Result<(Hidden, Vec<Vec<usize>>, String), Problem> {
    let row = app.store.blind(id).await?;
    let damaged = |e: serde_json::Error| Problem::damaged("blind look", id, e);
    let choices = serde_json::from_str(&row.choices).map_err(damaged)?;
    Ok((serde_json::from_str(&row.document).map_err(damaged)?, choices, row.choices))
}

/// The pictures of a round in their hidden order, all of one size.
#[utoipa::path(get, operation_id = "blind_frames", path = "/look/blind/{id}/frames/{round}", params(("id" = String, Path), ("round" = usize, Path)),
    responses((status = 200, content_type = "application/octet-stream", body = Vec<u8>), (status = 404, body = Problem)))]
async fn blind_frames(State(app): State<App>, Path((id, round)): Path<(String, usize)>) -> Result<Response, Problem> {
    let (h, ..) = hidden(&app, &id).await?;
    let order = h.orders.get(round).cloned().ok_or_else(|| Problem::not_found("There are two rounds, 0 and 1."))?;
    // A new seed a round: the same noise would be recognised.
    let view = LookView { seed: h.view.seed.wrapping_add(round as u32 * 101), ..h.view };
    let (scenario, view) = checked(LookQuestion { scenario: h.scenario, view })?;
    let look = look(&app, scenario, view).await?;
    let bytes = heavy(move || {
        let all = crops(&look, &view);
        let size = all.iter().map(|c| c.size).max().unwrap_or([1, 1]);
        packed(&order.iter().map(|&i| resized(&all[i], size)).collect::<Vec<_>>())
    });
    let mut response = octets(bytes.await?);
    response.headers_mut().insert(header::CACHE_CONTROL, header::HeaderValue::from_static("no-store"));
    Ok(response)
}

/// Positions of a round from best to worst.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct Chosen {
    /// The round, from zero.
    round: usize,
    /// Positions from best to worst, each once.
    order: Vec<usize>,
}

/// Keeps the ranking of a round.
#[utoipa::path(post, operation_id = "blind_choose", path = "/look/blind/{id}/choice", params(("id" = String, Path)), request_body = Chosen,
    responses((status = 204), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn choose(State(app): State<App>, Path(id): Path<String>, Body(chosen): Body<Chosen>) -> Result<StatusCode, Problem> {
    let (h, mut choices, was) = hidden(&app, &id).await?;
    let n = h.scenario.contenders.len();
    let mut sorted = chosen.order.clone();
    sorted.sort_unstable();
    if sorted != (0..n).collect::<Vec<_>>() {
        return Err(Problem::field("order", format!("give each of the positions 0 to {} once, best first", n - 1)));
    }
    if chosen.round >= h.orders.len() || chosen.round > choices.len() {
        return Err(Problem::field("round", format!("round {} comes next", choices.len())));
    }
    choices.truncate(chosen.round);
    choices.push(chosen.order);
    app.store.set_blind_choices(&id, &was, &document(&choices)?).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// A blind look after its reveal.
#[derive(Serialize, ToSchema)]
struct Kept {
    /// Its id.
    id: String,
    /// Title of the comparison.
    title: String,
    /// When it was revealed, RFC 3339 in UTC.
    revealed_at: String,
    /// Names of the paths by index.
    names: Vec<String>,
    /// Hidden orders: at each position of a round, the index of the path.
    orders: Vec<Vec<usize>>,
    /// What the eye and the figures said.
    result: Revealed,
}

fn kept(row: salt_lamp_store::BlindRow) -> Result<Kept, Problem> {
    let damaged = |why: String| Problem::damaged("blind look", &row.id, why);
    let h: Hidden = serde_json::from_str(&row.document).map_err(|e| damaged(e.to_string()))?;
    let result = row.result.as_deref().ok_or_else(|| damaged("it has no result".into()))?;
    let result = serde_json::from_str(result).map_err(|e| damaged(e.to_string()))?;
    let names = h.scenario.contenders.iter().map(|c| c.name.clone()).collect();
    let revealed_at = row.revealed_at.clone().ok_or_else(|| damaged("it was never revealed".into()))?;
    Ok(Kept { id: row.id, title: row.title, revealed_at, names, orders: h.orders, result })
}

/// Revealed blind looks that cannot be read any more.
pub(crate) async fn damaged_blinds(app: &App) -> Result<Vec<DamagedRow>, Problem> {
    let told = |row: salt_lamp_store::BlindRow| {
        let (id, name, document) = (row.id.clone(), row.title.clone(), row.document.clone());
        let why = kept(row).err()?.detail;
        Some(DamagedRow { what: "blind look".into(), id, name, why, document })
    };
    Ok(app.store.blinds().await?.into_iter().filter_map(told).collect())
}

/// Reveals which picture was which, and how often the eye agreed with the figures.
#[utoipa::path(post, operation_id = "blind_reveal", path = "/look/blind/{id}/reveal", params(("id" = String, Path)),
    responses((status = 200, body = Kept), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn unveil(State(app): State<App>, Path(id): Path<String>) -> Result<Json<Kept>, Problem> {
    let (h, choices, _) = hidden(&app, &id).await?;
    if choices.len() < h.orders.len() {
        return Err(Problem::field("round", format!("round {} is not judged yet", choices.len() + 1)));
    }
    let (scenario, view) = checked(LookQuestion { scenario: h.scenario, view: h.view })?;
    let answer = evaluate(&scenario, &app.tables);
    let made_of: Vec<Quantity> = view.palette.quantities(view.single);
    let recorded: Vec<Quantity> = made_of.into_iter().filter(|q| answer.contenders.iter().any(|c| c.quantities.contains_key(q))).collect();
    let snr: Vec<f64> = answer.contenders.iter().map(|c| figure(&c.quantities, &recorded)).collect();
    let revealed = reveal(&h.orders, &choices, &snr, &figure_name(&recorded));
    let row = app.store.reveal_blind(&id, &document(&revealed)?).await?;
    kept(row).map(Json)
}

/// Blind looks that were revealed, last first.
#[utoipa::path(get, operation_id = "blind_list", path = "/look/blind", responses((status = 200, body = Vec<Kept>)))]
async fn blinds(State(app): State<App>) -> Result<Json<Vec<Kept>>, Problem> {
    // One that cannot be read is logged, and named among what is damaged.
    Ok(Json(app.store.blinds().await?.into_iter().filter_map(|row| kept(row).ok()).collect()))
}
