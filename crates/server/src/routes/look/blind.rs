//! Blind looks: pictures in a hidden order, two rounds of ranking, and the reveal.

use axum::Json;
use axum::extract::{Path, State};
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use salt_lamp_core::Scenario;
use salt_lamp_core::decide::figures_differ;
use salt_lamp_core::light::Quantity;
use salt_lamp_core::look::{
    Choice, Figures, LookView, Revealed, figure, figure_name, orders, reveal,
};
use salt_lamp_store::DamagedRow;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::{LookQuestion, accepted, counted, octets};
use crate::http::cache::json;
use crate::http::extract::Body;
use crate::http::looks::{crops, packed, resized};
use crate::{App, Problem};

pub(super) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(blinds, begin))
        .routes(routes!(blind_frames))
        .routes(routes!(choose))
        .routes(routes!(reveal_blind))
}

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
    /// Rounds, at most: it is revealed after as many as are wanted.
    rounds: usize,
}

/// Rounds of a blind look, at most: the second shows whether the eye repeats itself, more of them
/// whether it does better than chance.
const MOST_ROUNDS: usize = 12;

/// Begins a blind look: the paths are shuffled anew in each round.
#[utoipa::path(post, operation_id = "blind_begin", path = "/look/blind",
    request_body = LookQuestion,
    responses((status = 201, body = Begun), (status = 422, body = Problem)))]
async fn begin(
    State(app): State<App>,
    Body(q): Body<LookQuestion>,
) -> Result<impl IntoResponse, Problem> {
    let (scenario, view) = accepted(&app, q)?;
    let pictures = scenario.scenario().contenders.len();
    if pictures < 2 {
        return Err(Problem::field(
            "scenario.contenders",
            "a blind look needs at least two light paths",
        ));
    }
    // The chance is the server's, so that a page cannot foresee the order.
    let chance =
        std::hash::BuildHasher::hash_one(&std::collections::hash_map::RandomState::new(), 0u8);
    let hidden = Hidden {
        orders: orders(pictures, MOST_ROUNDS, chance),
        scenario: scenario.scenario().clone(),
        view,
    };
    let row = app.store.add_blind(&hidden.scenario.title, &json(&hidden)?).await?;
    Ok((StatusCode::CREATED, Json(Begun { id: row.id, pictures, rounds: MOST_ROUNDS })))
}

/// A choice as it is stored: places, or, of looks begun before ties could be given, positions from
/// best to worst.
#[derive(Deserialize)]
#[serde(untagged)]
enum Stored {
    Places(Choice),
    Order(Vec<usize>),
}

/// What is hidden, the choices so far, and these as they are stored.
async fn hidden(app: &App, id: &str) -> Result<(Hidden, Vec<Choice>, String), Problem> {
    let row = app.store.blind(id).await?;
    let damaged = |e: serde_json::Error| Problem::damaged("blind look", id, e);
    let stored: Vec<Stored> = serde_json::from_str(&row.choices).map_err(damaged)?;
    let choices = stored.into_iter().map(|s| match s {
        Stored::Places(choice) => choice,
        Stored::Order(order) => Choice::in_order(&order),
    });
    let choices = choices.collect();
    Ok((serde_json::from_str(&row.document).map_err(damaged)?, choices, row.choices))
}

/// The pictures of a round in their hidden order, all of one size.
#[utoipa::path(get, operation_id = "blind_frames", path = "/look/blind/{id}/frames/{round}",
    params(("id" = String, Path), ("round" = usize, Path)),
    responses((status = 200, content_type = "application/octet-stream", body = Vec<u8>),
    (status = 404, body = Problem)))]
async fn blind_frames(
    State(app): State<App>,
    Path((id, round)): Path<(String, usize)>,
) -> Result<Response, Problem> {
    let (h, ..) = hidden(&app, &id).await?;
    let order = h.orders.get(round).cloned().ok_or_else(|| {
        Problem::not_found(format!("There are rounds 0 to {}.", h.orders.len() - 1))
    })?;
    // A new seed a round: the same noise would be recognised.
    let view = LookView { seed: h.view.seed.wrapping_add(round as u32 * 101), ..h.view };
    let (scenario, view) =
        accepted(&app, LookQuestion { scenario: Some(h.scenario), look: None, view })?;
    let look = counted(&app, scenario, view).await?;
    let bytes = app.heavy(move |_, threads| {
        let all = crops(&look, &view, threads);
        let size = all.iter().map(|c| c.size).max().unwrap_or([1, 1]);
        packed(&order.iter().map(|&i| resized(&all[i], size)).collect::<Vec<_>>())
    });
    let mut response = octets(bytes.await?);
    response
        .headers_mut()
        .insert(header::CACHE_CONTROL, header::HeaderValue::from_static("no-store"));
    Ok(response)
}

/// What the eye said of a round.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct Chosen {
    /// The round, from zero.
    round: usize,
    /// Place of the picture at each position, from 0 for the best; equal places are ties.
    places: Vec<usize>,
}

/// Keeps the ranking of a round.
#[utoipa::path(post, operation_id = "blind_choose", path = "/look/blind/{id}/choice",
    params(("id" = String, Path)), request_body = Chosen,
    responses((status = 204), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn choose(
    State(app): State<App>,
    Path(id): Path<String>,
    Body(chosen): Body<Chosen>,
) -> Result<StatusCode, Problem> {
    let (h, mut choices, was) = hidden(&app, &id).await?;
    let n = h.scenario.contenders.len();
    if chosen.places.len() != n || chosen.places.iter().any(|p| *p >= n) {
        return Err(Problem::field(
            "places",
            format!("give {n} places from 0 for the best to {}, equal ones for ties", n - 1),
        ));
    }
    if chosen.round >= h.orders.len() || chosen.round > choices.len() {
        return Err(Problem::field("round", format!("round {} comes next", choices.len())));
    }
    choices.truncate(chosen.round);
    choices.push(Choice { places: chosen.places });
    app.store.set_blind_choices(&id, &was, &json(&choices)?).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// A blind look after its reveal.
#[derive(Serialize, ToSchema)]
struct BlindAnswer {
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

fn revealed(row: salt_lamp_store::BlindRow) -> Result<BlindAnswer, Problem> {
    let damaged = |why: String| Problem::damaged("blind look", &row.id, why);
    let h: Hidden = serde_json::from_str(&row.document).map_err(|e| damaged(e.to_string()))?;
    let result = row.result.as_deref().ok_or_else(|| damaged("it has no result".into()))?;
    let result = serde_json::from_str(result).map_err(|e| damaged(e.to_string()))?;
    let names = h.scenario.contenders.iter().map(|c| c.name.clone()).collect();
    let revealed_at =
        row.revealed_at.clone().ok_or_else(|| damaged("it was never revealed".into()))?;
    Ok(BlindAnswer { id: row.id, title: row.title, revealed_at, names, orders: h.orders, result })
}

/// Revealed blind looks that cannot be read any more.
pub(crate) async fn damaged_blinds(app: &App) -> Result<Vec<DamagedRow>, Problem> {
    let told = |row: salt_lamp_store::BlindRow| {
        let (id, name, document) = (row.id.clone(), row.title.clone(), row.document.clone());
        let why = revealed(row).err()?.detail;
        Some(DamagedRow { what: "blind look".into(), id, name, why, document })
    };
    Ok(app.store.blinds().await?.into_iter().filter_map(told).collect())
}

/// Reveals which picture was which, and how often the eye agreed with the figures.
#[utoipa::path(post, operation_id = "blind_reveal", path = "/look/blind/{id}/reveal",
    params(("id" = String, Path)),
    responses((status = 200, body = BlindAnswer), (status = 404, body = Problem),
    (status = 422, body = Problem)))]
async fn reveal_blind(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<Json<BlindAnswer>, Problem> {
    let (h, choices, _) = hidden(&app, &id).await?;
    if choices.is_empty() {
        return Err(Problem::field("round", "round 1 is not judged yet"));
    }
    let (scenario, view) =
        accepted(&app, LookQuestion { scenario: Some(h.scenario), look: None, view: h.view })?;
    let work = app.heavy(move |app, _| {
        let (_, study) = app.studies.study(scenario, &app.tables)?;
        let answers = &study.evaluation.contenders;
        let recorded: Vec<Quantity> = view
            .palette
            .quantities(view.single)
            .into_iter()
            .filter(|q| answers.iter().any(|c| c.quantities.contains_key(q)))
            .collect();
        let snr: Vec<f64> = answers.iter().map(|c| figure(&c.quantities, &recorded)).collect();
        let figures = Figures {
            snr: &snr,
            differ: &figures_differ(&study, &recorded),
            judged_by: &figure_name(&study.scenario().target, &recorded),
        };
        Ok::<_, Problem>(reveal(&h.orders, &choices, &figures))
    });
    let result = work.await??;
    let row = app.store.reveal_blind(&id, &json(&result)?).await?;
    revealed(row).map(Json)
}

/// Blind looks that were revealed, last first.
#[utoipa::path(get, operation_id = "blind_list", path = "/look/blind",
    responses((status = 200, body = Vec<BlindAnswer>)))]
async fn blinds(State(app): State<App>) -> Result<Json<Vec<BlindAnswer>>, Problem> {
    // One that cannot be read is logged, and named among what is damaged.
    Ok(Json(app.store.blinds().await?.into_iter().filter_map(|row| revealed(row).ok()).collect()))
}
