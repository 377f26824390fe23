//! Blind looks at the frames of a trial: which of two filters took which, nobody is told before the
//! eye has chosen.

use std::collections::BTreeMap;

use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use salt_lamp_core::look::{Choice, Crop, Figures, Revealed, reveal};
use salt_lamp_core::trial::{
    Alike, BlindRound, KindFigures, MOST_BLIND_FRAMES, Piece, Shown, Trial, blind_rounds, drawn,
    edged_alike, kind_figures, letter, stacked,
};
use salt_lamp_core::workers::Workers;
use salt_lamp_store::LoggedFrame;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::{Begun, Hidden, MOST_ROUNDS, began, chance};
use crate::http::extract::Body;
use crate::routes::log::upon;
use crate::routes::trials::beside::{
    checked_piece, kit_offset_adu, laid_pieces, level, place_on, shown,
};
use crate::routes::trials::headlines;
use crate::{App, Problem};

pub(super) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(begin))
}

/// Which piece of the sky is judged blind, and how it is shown.
#[derive(Clone, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct BlindFrames {
    /// Id of the frame on which the piece is given.
    first: String,
    /// Its middle, a share of that frame's width.
    #[schema(minimum = 0.0, maximum = 1.0)]
    x: f64,
    /// The same of its height.
    #[schema(minimum = 0.0, maximum = 1.0)]
    y: f64,
    /// Its side, pixels of that frame.
    #[schema(minimum = 16, maximum = 1200)]
    side: usize,
    /// What is made alike.
    #[serde(default)]
    alike: Alike,
    /// Frames that each picture is stacked of; fewer where a kind has not as many.
    #[serde(default = "one")]
    #[schema(minimum = 1, maximum = 16)]
    each: usize,
}

fn one() -> usize {
    1
}

impl BlindFrames {
    fn checked(&self) -> Result<(), Problem> {
        checked_piece([self.x, self.y], self.side)?;
        if !(1..=MOST_BLIND_FRAMES).contains(&self.each) {
            return Err(Problem::field("each", format!("give 1 to {MOST_BLIND_FRAMES} frames")));
        }
        Ok(())
    }
}

/// The kinds of a trial in a hidden order, with the trial as it was.
#[derive(Serialize, Deserialize)]
pub(super) struct HiddenFrames {
    pub(super) trial: Trial,
    asked: BlindFrames,
    pub(super) rounds: Vec<BlindRound>,
}

/// Begins a blind look at the frames of a trial: in each round one picture of each kind, of frames
/// taken about one moment, in an order that is drawn anew.
#[utoipa::path(post, operation_id = "trials_blind", path = "/trials/{id}/blind",
    params(("id" = String, Path)), request_body = BlindFrames,
    responses((status = 201, body = Begun), (status = 404, body = Problem),
        (status = 422, body = Problem)))]
async fn begin(
    State(app): State<App>,
    Path(id): Path<String>,
    Body(asked): Body<BlindFrames>,
) -> Result<(StatusCode, Json<Begun>), Problem> {
    asked.checked()?;
    let mut trial = app.store.trial(&id).await?.trial;
    let first = app.store.logged_frame(&asked.first).await?;
    // Only what can be shown: its file is there, and its stars lie on the frame's.
    let mut there = Vec::with_capacity(trial.frames.len());
    for f in trial.frames.iter().filter(|f| f.counts()) {
        if let Ok(own) = app.store.logged_frame(&f.id).await {
            there.push(own);
        }
    }
    let matching = app.heavy(move |_, _| {
        let can = |f: &LoggedFrame| f.path.is_some() && upon(&first, f).is_some();
        there.into_iter().filter(can).map(|f| f.id).collect::<Vec<String>>()
    });
    let matching = matching.await?;
    let whole = trial.clone();
    trial.frames.retain(|f| matching.contains(&f.id));
    for kind in 0..trial.kinds.len() {
        if !trial.frames.iter().any(|f| f.kind == Some(kind)) {
            let said = format!(
                "none of {}'s frames can be shown: it has none, or their files are gone",
                letter(kind)
            );
            return Err(Problem::field("frames", said));
        }
    }
    let rounds = blind_rounds(&trial, MOST_ROUNDS, asked.each, chance());
    let title = whole.title.clone();
    let hidden = HiddenFrames { trial: whole, asked, rounds };
    began(&app, &title, &Hidden::Frames(Box::new(hidden))).await
}

/// What is said where a picture cannot be made: nothing of whose it is.
fn gone() -> Problem {
    Problem::not_found("A frame of this round can no longer be read. Begin another blind look.")
}

impl HiddenFrames {
    /// The pictures of a round in their hidden order, all of one size and alike at their edges.
    pub(super) async fn pictures(self, app: &App, round: usize) -> Result<Vec<Crop>, Problem> {
        let r = self.rounds.into_iter().nth(round).ok_or_else(gone)?;
        let mut frames = BTreeMap::new();
        for id in r.frames.concat().into_iter().chain([self.asked.first.clone()]) {
            let own = app.store.logged_frame(&id).await.map_err(|_| gone())?;
            frames.insert(id, own);
        }
        let (asked, trial) = (self.asked, self.trial);
        let work = app.heavy(move |_, threads| {
            let (first, on) = (frames.get(&asked.first)?, frames.get(&r.upon)?);
            let about = (upon(first, on)?.apply(place_on(first, [asked.x, asked.y])), asked.side);
            let shown = |f: &LoggedFrame| shown(asked.alike, f, kit_offset_adu(&trial, f));
            let sigma = level(on).1 * shown(on).per_adu;
            let laid: Vec<Option<(Piece, Shown)>> = threads.each(r.order.len(), &|place| {
                let ids = r.frames.get(r.order[place])?;
                let own: Vec<&LoggedFrame> =
                    ids.iter().map(|id| frames.get(id)).collect::<Option<_>>()?;
                // A stack that lacks a frame would show by its noise whose it is.
                let all: Vec<Piece> =
                    laid_pieces(on, about, &own).into_iter().collect::<Option<_>>()?;
                Some((stacked(&all)?, shown(own[0])))
            });
            let (mut pieces, by): (Vec<Piece>, Vec<Shown>) =
                laid.into_iter().collect::<Option<Vec<_>>>()?.into_iter().unzip();
            edged_alike(&mut pieces);
            let grey = |(p, by): (&Piece, &Shown)| {
                let rgb = drawn(p, by, sigma).into_iter().flat_map(|g| [g; 3]).collect();
                Crop { size: p.size, rgb }
            };
            Some(pieces.iter().zip(&by).map(grey).collect())
        });
        work.await?.ok_or_else(gone)
    }

    /// What the trial's figures say of what the eye chose.
    pub(super) async fn revealed(
        self,
        app: &App,
        choices: Vec<Choice>,
    ) -> Result<Revealed, Problem> {
        let work = app.heavy(move |app, _| {
            let kinds = self.trial.kinds.len();
            let judged = kind_figures(&self.trial);
            let told = match &judged {
                Ok(_) => headlines(app, &self.trial)?,
                Err(e) => vec![format!("The trial says nothing yet: {e}.")],
            };
            let KindFigures { ratio, differ } = judged.unwrap_or_else(|_| KindFigures {
                ratio: vec![1.0; kinds],
                differ: vec![vec![false; kinds]; kinds],
            });
            let orders: Vec<Vec<usize>> = self.rounds.into_iter().map(|r| r.order).collect();
            let judged_by = self.trial.judged.figure_name();
            let figures = Figures { snr: &ratio, differ: &differ, judged_by: &judged_by };
            Ok::<_, Problem>(Revealed { told, ..reveal(&orders, &choices, &figures) })
        });
        work.await?
    }
}
