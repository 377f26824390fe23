//! Folders of frames: read once, watched or left alone; how far the reading is, and what comes in.

use std::convert::Infallible;

use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use axum::response::IntoResponse;
use axum::response::sse::{Event, KeepAlive, Sse};
use serde::{Deserialize, Serialize};
use tokio_stream::wrappers::BroadcastStream;
use tokio_stream::{Stream, StreamExt};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use crate::frames::{LogNews, Reading};
use crate::http::extract::Body;
use crate::{App, Play, Problem};

/// Folders in a list.
const MOST_FOLDERS: usize = 500;

pub(super) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(folders, choose))
        .routes(routes!(call_off))
        .routes(routes!(play))
        .routes(routes!(live))
}

/// A folder of frames.
#[derive(Serialize, ToSchema)]
struct FrameFolder {
    /// Its path.
    folder: String,
    /// Whether it was named at start.
    root: bool,
    /// Whether it is watched.
    watched: bool,
}

/// Folders, and how far the reading is.
#[derive(Serialize, ToSchema)]
struct FrameFolders {
    /// Those that may be read, the roots first, each with what lies in it.
    folders: Vec<FrameFolder>,
    /// How far the reading is.
    reading: Reading,
}

/// Folders beneath those that were named at start, and how far the reading of them is.
#[utoipa::path(get, operation_id = "log_folders", path = "/log/folders",
    responses((status = 200, body = FrameFolders)))]
async fn folders(State(app): State<App>) -> Result<Json<FrameFolders>, Problem> {
    let watched = app.store.watched_folders().await?;
    let roots = app.frames.roots().to_vec();
    let listed = tokio::task::spawn_blocking(move || {
        let mut all = Vec::new();
        for root in &roots {
            let within = walkdir::WalkDir::new(root).max_depth(3).sort_by_file_name();
            let folders = within.into_iter().filter_map(Result::ok);
            let folders = folders.filter(|e| e.file_type().is_dir()).take(MOST_FOLDERS);
            all.extend(folders.map(|e| FrameFolder {
                folder: e.path().display().to_string(),
                root: e.depth() == 0,
                watched: watched.contains(&e.path().display().to_string()),
            }));
        }
        all
    });
    let folders = listed.await.map_err(Problem::fault)?;
    Ok(Json(FrameFolders { folders, reading: app.frames.reading() }))
}

/// What is to be done with a folder.
#[derive(Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
enum FolderUse {
    /// Read it once.
    Read,
    /// Read it, and what comes into it from now on.
    Watch,
    /// Watch it no longer.
    Leave,
}

/// A folder, and what is to be done with it.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct FolderChosen {
    /// Its path, beneath one that was named at start.
    folder: String,
    /// What is to be done.
    what: FolderUse,
}

/// Reads a folder once, watches it, or leaves it alone.
#[utoipa::path(post, operation_id = "log_choose", path = "/log/folders",
    request_body = FolderChosen,
    responses((status = 202, body = FrameFolders), (status = 422, body = Problem)))]
async fn choose(
    State(app): State<App>,
    Body(q): Body<FolderChosen>,
) -> Result<impl IntoResponse, Problem> {
    let folder = match (app.frames.beneath(&q.folder), &q.what) {
        (Ok(folder), _) => folder,
        // One that is gone can still be left alone.
        (Err(_), FolderUse::Leave) => q.folder.clone().into(),
        (Err(why), _) => return Err(Problem::field("folder", why)),
    };
    let text = folder.display().to_string();
    match q.what {
        FolderUse::Read => app.frames.read_once(folder),
        FolderUse::Watch | FolderUse::Leave => {
            let watched = matches!(q.what, FolderUse::Watch);
            app.store.watch_folder(&text, watched).await?;
            app.frames.watch(folder, watched);
        }
    }
    Ok((StatusCode::ACCEPTED, folders(State(app)).await?))
}

/// Calls off the reading of folders that are read once.
#[utoipa::path(post, operation_id = "log_call_off", path = "/log/folders/call-off",
    responses((status = 204)))]
async fn call_off(State(app): State<App>) -> StatusCode {
    app.frames.call_off();
    StatusCode::NO_CONTENT
}

/// Plays a night of a stand-in camera into the first folder of frames, and watches it.
#[utoipa::path(post, operation_id = "log_play", path = "/log/play",
    responses((status = 202), (status = 422, body = Problem), (status = 429, body = Problem)))]
async fn play(State(app): State<App>) -> Result<StatusCode, Problem> {
    app.play(Play::Night).await?;
    Ok(StatusCode::ACCEPTED)
}

/// What comes in, as server-sent events: each a JSON object with its `kind`, `frame` or `reading`.
#[utoipa::path(get, operation_id = "log_live", path = "/log/live",
    responses((status = 200, body = LogNews, content_type = "text/event-stream")))]
async fn live(
    State(app): State<App>,
) -> Sse<impl Stream<Item = Result<Event, Infallible>> + use<>> {
    let news = BroadcastStream::new(app.frames.listen()).filter_map(|news| {
        let news = news.unwrap_or(LogNews::Missed);
        Event::default().json_data(news).ok().map(Ok)
    });
    Sse::new(news).keep_alive(KeepAlive::default())
}
