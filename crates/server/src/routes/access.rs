//! Who may use the program: signing in and out, the passphrase, sessions and tokens.

use axum::extract::{Path, State};
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::{IntoResponse, Response};
use axum::{Extension, Json};
use salt_lamp_store::{SessionRow, TokenRow};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use crate::http::access::{
    Asker, LONGEST_PASSPHRASE, SESSION_S, SHORTEST_PASSPHRASE, known_by, new_secret, set_cookie,
};
use crate::http::extract::Body;
use crate::http::proxy::Client;
use crate::{App, Problem};

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(state))
        .routes(routes!(sign_in))
        .routes(routes!(sign_out))
        .routes(routes!(set_passphrase))
        .routes(routes!(sessions, end_all))
        .routes(routes!(end_session))
        .routes(routes!(tokens, add_token))
        .routes(routes!(end_token))
}

/// Longest name of a token, characters.
const LONGEST_NAME: usize = 80;
/// Longest life of a token, days.
const MOST_DAYS: u32 = 3650;

/// Who may use the program.
#[derive(Serialize, ToSchema)]
struct AccessState {
    /// Whether a passphrase is set.
    passphrase: bool,
    /// Whether who asks may use the program.
    signed_in: bool,
    /// Whether it is a browser that signed in, which may sign out and manage the others.
    session: bool,
    /// Fewest characters of a passphrase.
    shortest_passphrase: usize,
    /// Most characters of a passphrase.
    longest_passphrase: usize,
}

/// A passphrase.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct SignIn {
    /// The passphrase.
    passphrase: String,
}

/// A new passphrase.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct NewPassphrase {
    /// The new passphrase.
    passphrase: String,
    /// The one that is set now, if one is.
    #[serde(default)]
    current: Option<String>,
}

/// A token to be made.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct NewToken {
    /// What it is for: 1 to 80 characters.
    name: String,
    /// After how many days it ends: 1 to 3650.
    #[schema(minimum = 1, maximum = 3650)]
    days: u32,
}

/// A token that was just made.
#[derive(Serialize, ToSchema)]
struct MadeToken {
    /// The secret, shown this once: give it as `Authorization: Bearer SECRET`.
    secret: String,
    /// The token as it is listed.
    token: TokenRow,
}

/// Whether a passphrase is set, and whether who asks is let in.
#[utoipa::path(get, operation_id = "access_state", path = "/access",
    responses((status = 200, body = AccessState)))]
async fn state(
    State(app): State<App>,
    asker: Option<Extension<Asker>>,
) -> Result<Json<AccessState>, Problem> {
    let asker = asker.map(|a| a.0);
    Ok(Json(AccessState {
        passphrase: app.store.passphrase_hash().await?.is_some(),
        signed_in: asker.is_some(),
        session: matches!(asker, Some(Asker::Session(_))),
        shortest_passphrase: SHORTEST_PASSPHRASE,
        longest_passphrase: LONGEST_PASSPHRASE,
    }))
}

/// The address and the browser, for the list of sessions.
fn told(headers: &HeaderMap, client: &Client) -> String {
    let agent = headers.get(header::USER_AGENT).and_then(|v| v.to_str().ok());
    let agent: String = agent.unwrap_or("no browser named").chars().take(160).collect();
    format!("from {}: {agent}", client.address)
}

/// A browser is signed in from now on.
async fn signed_in(app: &App, headers: &HeaderMap, client: &Client) -> Result<Response, Problem> {
    let secret = new_secret();
    app.store.add_session(&known_by(&secret), &told(headers, client), SESSION_S).await?;
    let cookie = [(header::SET_COOKIE, set_cookie(&secret, SESSION_S, client))];
    Ok((StatusCode::NO_CONTENT, cookie).into_response())
}

/// Signs a browser in: its cookie lasts thirty days. A wrong passphrase is answered 401, and after
/// three of them the same address has to wait, longer each time (429).
#[utoipa::path(post, operation_id = "sign_in", path = "/access/sign-in", request_body = SignIn,
    responses((status = 204), (status = 401, body = Problem), (status = 429, body = Problem)))]
async fn sign_in(
    State(app): State<App>,
    Extension(client): Extension<Client>,
    headers: HeaderMap,
    Body(SignIn { passphrase }): Body<SignIn>,
) -> Result<Response, Problem> {
    app.access.admit(&app.store, client.address, &passphrase).await?;
    signed_in(&app, &headers, &client).await
}

/// Signs this browser out.
#[utoipa::path(post, operation_id = "sign_out", path = "/access/sign-out",
    responses((status = 204)))]
async fn sign_out(
    State(app): State<App>,
    Extension(client): Extension<Client>,
    Extension(asker): Extension<Asker>,
) -> Result<Response, Problem> {
    if let Asker::Session(id) = asker {
        app.store.end_sessions(Some(&id)).await?;
    }
    let cookie = [(header::SET_COOKIE, set_cookie("", 0, &client))];
    Ok((StatusCode::NO_CONTENT, cookie).into_response())
}

/// Sets the passphrase, or changes it. All browsers but this one are signed out; tokens stay.
#[utoipa::path(put, operation_id = "set_passphrase", path = "/access/passphrase",
    request_body = NewPassphrase,
    responses((status = 204), (status = 401, body = Problem), (status = 422, body = Problem)))]
async fn set_passphrase(
    State(app): State<App>,
    Extension(client): Extension<Client>,
    Extension(asker): Extension<Asker>,
    headers: HeaderMap,
    Body(new): Body<NewPassphrase>,
) -> Result<Response, Problem> {
    not_by_token(&asker)?;
    if asker != Asker::Anybody {
        let current = new.current.as_deref().unwrap_or_default();
        app.access.admit(&app.store, client.address, current).await?;
    }
    let hash = app.access.hash("passphrase", new.passphrase).await?;
    app.store.set_passphrase_hash(Some(&hash)).await?;
    signed_in(&app, &headers, &client).await
}

/// A script may not change who may use the program.
fn not_by_token(asker: &Asker) -> Result<(), Problem> {
    if *asker == Asker::Token { Err(Problem::not_by_token()) } else { Ok(()) }
}

/// The browsers that are signed in.
#[derive(Serialize, ToSchema)]
struct Sessions {
    /// Last seen first.
    sessions: Vec<SessionRow>,
    /// Which of them asks; null where none does.
    own: Option<String>,
}

/// The browsers that are signed in.
#[utoipa::path(get, operation_id = "sessions", path = "/access/sessions",
    responses((status = 200, body = Sessions)))]
async fn sessions(
    State(app): State<App>,
    Extension(asker): Extension<Asker>,
) -> Result<Json<Sessions>, Problem> {
    let own = match asker {
        Asker::Session(id) => Some(id),
        _ => None,
    };
    Ok(Json(Sessions { sessions: app.store.sessions().await?, own }))
}

/// Signs all browsers out, this one included.
#[utoipa::path(delete, operation_id = "end_sessions", path = "/access/sessions",
    responses((status = 204)))]
async fn end_all(
    State(app): State<App>,
    Extension(asker): Extension<Asker>,
) -> Result<StatusCode, Problem> {
    not_by_token(&asker)?;
    app.store.end_sessions(None).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Signs one browser out.
#[utoipa::path(delete, operation_id = "end_session", path = "/access/sessions/{id}",
    params(("id" = String, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn end_session(
    State(app): State<App>,
    Extension(asker): Extension<Asker>,
    Path(id): Path<String>,
) -> Result<StatusCode, Problem> {
    not_by_token(&asker)?;
    app.store.end_sessions(Some(&id)).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// The tokens of scripts.
#[utoipa::path(get, operation_id = "tokens", path = "/access/tokens",
    responses((status = 200, body = Vec<TokenRow>)))]
async fn tokens(State(app): State<App>) -> Result<Json<Vec<TokenRow>>, Problem> {
    Ok(Json(app.store.tokens().await?))
}

/// Makes a token for a script. Its secret is shown this once.
#[utoipa::path(post, operation_id = "add_token", path = "/access/tokens", request_body = NewToken,
    responses((status = 201, body = MadeToken), (status = 422, body = Problem)))]
async fn add_token(
    State(app): State<App>,
    Extension(asker): Extension<Asker>,
    Body(new): Body<NewToken>,
) -> Result<(StatusCode, Json<MadeToken>), Problem> {
    not_by_token(&asker)?;
    let name = new.name.trim();
    let length = name.chars().count();
    if !(1..=LONGEST_NAME).contains(&length) || name.chars().any(char::is_control) {
        let accepted = format!("give 1 to {LONGEST_NAME} characters that can be printed");
        return Err(Problem::field("name", accepted));
    }
    if !(1..=MOST_DAYS).contains(&new.days) {
        return Err(Problem::field("days", format!("give 1 to {MOST_DAYS}; this is {}", new.days)));
    }
    let secret = new_secret();
    let token = app.store.add_token(&known_by(&secret), name, i64::from(new.days) * 86_400).await?;
    Ok((StatusCode::CREATED, Json(MadeToken { secret, token })))
}

/// Ends a token.
#[utoipa::path(delete, operation_id = "end_token", path = "/access/tokens/{id}",
    params(("id" = String, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn end_token(
    State(app): State<App>,
    Extension(asker): Extension<Asker>,
    Path(id): Path<String>,
) -> Result<StatusCode, Problem> {
    not_by_token(&asker)?;
    app.store.end_token(&id).await?;
    Ok(StatusCode::NO_CONTENT)
}
