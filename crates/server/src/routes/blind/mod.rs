//! Blind looks: pictures in a hidden order, rounds of ranking, and the reveal. What hides behind the
//! pictures is light paths, or the kinds of a trial.

mod of_frames;
mod of_paths;

use axum::Json;
use axum::extract::{Path, State};
use axum::http::{StatusCode, header};
use axum::response::Response;
use salt_lamp_core::look::{Choice, Revealed};
use salt_lamp_store::{BlindRow, DamagedRow};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use crate::http::cache::json;
use crate::http::extract::Body;
use crate::http::looks::packed;
use crate::routes::look::octets;
use crate::{App, Problem};

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(blinds))
        .routes(routes!(asked))
        .routes(routes!(blind_frames))
        .routes(routes!(choose))
        .routes(routes!(reveal_blind))
        .merge(of_frames::routes())
        .merge(of_paths::routes())
}

/// What a blind look hides until it is revealed.
#[derive(Serialize, Deserialize)]
#[serde(untagged)]
enum Hidden {
    Paths(Box<of_paths::HiddenPaths>),
    Frames(Box<of_frames::HiddenFrames>),
}

impl Hidden {
    /// At each position of each round, the index of what is shown there.
    fn orders(&self) -> Vec<Vec<usize>> {
        match self {
            Self::Paths(p) => p.orders.clone(),
            Self::Frames(f) => f.rounds.iter().map(|r| r.order.clone()).collect(),
        }
    }

    /// What hides behind the pictures.
    fn names(&self) -> Vec<String> {
        match self {
            Self::Paths(p) => p.names(),
            Self::Frames(f) => f.trial.names(),
        }
    }

    /// What the eye is asked.
    fn asks(&self) -> &'static str {
        match self {
            Self::Paths(_) => of_paths::ASKS,
            Self::Frames(f) => f.trial.judged.asks(),
        }
    }

    /// What the figures are.
    fn figure(&self) -> &'static str {
        match self {
            Self::Paths(_) => "SNR",
            Self::Frames(_) => "Of A's",
        }
    }

    /// Frames that each picture is stacked of; null where they are light paths' pictures.
    fn frames_each(&self) -> Option<usize> {
        match self {
            Self::Paths(_) => None,
            Self::Frames(f) => f.rounds.first()?.frames.first().map(Vec::len),
        }
    }

    fn begun(&self, id: String) -> Begun {
        let orders = self.orders();
        let pictures = orders.first().map_or(0, Vec::len);
        Begun {
            id,
            pictures,
            rounds: orders.len(),
            asks: self.asks().to_owned(),
            frames_each: self.frames_each(),
        }
    }
}

/// A blind look that began. It names nothing that could tell the pictures apart.
#[derive(Serialize, ToSchema)]
struct Begun {
    /// Its id.
    id: String,
    /// Pictures in each round.
    pictures: usize,
    /// Rounds, at most: it is revealed after as many as are wanted.
    rounds: usize,
    /// What the eye is asked.
    asks: String,
    /// Frames that each picture is stacked of; null where they are light paths' pictures.
    frames_each: Option<usize>,
}

/// Rounds of a blind look, at most: the second shows whether the eye repeats itself, more of them
/// whether it does better than chance.
const MOST_ROUNDS: usize = 12;

/// A number that no page can foresee.
fn chance() -> u64 {
    std::hash::BuildHasher::hash_one(&std::collections::hash_map::RandomState::new(), 0u8)
}

async fn began(
    app: &App,
    title: &str,
    hidden: &Hidden,
) -> Result<(StatusCode, Json<Begun>), Problem> {
    let row = app.store.add_blind(title, &json(hidden)?).await?;
    Ok((StatusCode::CREATED, Json(hidden.begun(row.id))))
}

/// What a blind look asks; nothing of what it hides.
#[utoipa::path(get, operation_id = "blind_asked", path = "/look/blind/{id}",
    params(("id" = String, Path)),
    responses((status = 200, body = Begun), (status = 404, body = Problem)))]
async fn asked(State(app): State<App>, Path(id): Path<String>) -> Result<Json<Begun>, Problem> {
    Ok(Json(hidden(&app, &id).await?.0.begun(id)))
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
    let rounds = h.orders().len();
    if round >= rounds {
        return Err(Problem::not_found(format!("There are rounds 0 to {}.", rounds - 1)));
    }
    let crops = match h {
        Hidden::Paths(p) => p.pictures(&app, round).await?,
        Hidden::Frames(f) => f.pictures(&app, round).await?,
    };
    let mut response = octets(packed(&crops));
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
    let orders = h.orders();
    let n = orders.first().map_or(0, Vec::len);
    if chosen.places.len() != n || chosen.places.iter().any(|p| *p >= n) {
        return Err(Problem::field(
            "places",
            format!("give {n} places from 0 for the best to {}, equal ones for ties", n - 1),
        ));
    }
    if chosen.round >= orders.len() || chosen.round > choices.len() {
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
    /// Names of the paths, or of the kinds, by index.
    names: Vec<String>,
    /// What the figures are: `SNR`, or `Of A's`, a ratio to the first.
    figure: String,
    /// Hidden orders: at each position of a round, the index of what was shown there.
    orders: Vec<Vec<usize>>,
    /// What the eye and the figures said.
    result: Revealed,
}

fn revealed(row: BlindRow) -> Result<BlindAnswer, Problem> {
    let damaged = |why: String| Problem::damaged("blind look", &row.id, why);
    let h: Hidden = serde_json::from_str(&row.document).map_err(|e| damaged(e.to_string()))?;
    let result = row.result.as_deref().ok_or_else(|| damaged("it has no result".into()))?;
    let result = serde_json::from_str(result).map_err(|e| damaged(e.to_string()))?;
    let revealed_at =
        row.revealed_at.clone().ok_or_else(|| damaged("it was never revealed".into()))?;
    Ok(BlindAnswer {
        id: row.id,
        title: row.title,
        revealed_at,
        names: h.names(),
        figure: h.figure().to_owned(),
        orders: h.orders(),
        result,
    })
}

/// Revealed blind looks that cannot be read any more.
pub(crate) async fn damaged_blinds(app: &App) -> Result<Vec<DamagedRow>, Problem> {
    let told = |row: BlindRow| {
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
    let result = match h {
        Hidden::Paths(p) => p.revealed(&app, choices).await?,
        Hidden::Frames(f) => f.revealed(&app, choices).await?,
    };
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
