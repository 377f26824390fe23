//! The verdict on a trial.

use axum::Json;
use axum::extract::{Path, State};
use salt_lamp_core::signal::Model;
use salt_lamp_core::trial::{Analysis, Designed, Stakes, Trial, TrialVerdict, analysed, verdicts};
use serde::Serialize;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use crate::{App, Problem};

pub(super) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(verdict))
}

/// What a trial's frames say.
#[derive(Serialize, ToSchema)]
struct TrialAnswer {
    /// What each kind is called.
    names: Vec<String>,
    /// Why they say nothing yet; null where they do.
    waits: Option<String>,
    /// What they say; null where they say nothing yet.
    analysis: Option<Analysis>,
    /// The verdict on each further kind against the first; empty where they say nothing yet.
    verdicts: Vec<TrialVerdict>,
}

fn answer(trial: &Trial, model: &Model) -> TrialAnswer {
    let designed: Designed = trial.designed(model);
    let frames = trial.counted();
    let names = trial.names();
    match analysed(&trial.question(&frames)) {
        Err(e) => {
            TrialAnswer { names, waits: Some(e.to_string()), analysis: None, verdicts: Vec::new() }
        }
        Ok(analysis) => {
            let choices = &trial.scenario.choices;
            let pairs = designed.pairs.max(1) as f64;
            let stakes = Stakes {
                matters: trial.design.matters,
                hours_a_year: Some(choices.clear_nights_per_year * choices.hours_per_night),
                dearer: trial.design.dearer,
                pair_s: Some(designed.clock_s / pairs),
            };
            let verdicts = verdicts(trial.judged, &names, &analysis, &designed.expected, &stakes);
            TrialAnswer { names, waits: None, analysis: Some(analysis), verdicts }
        }
    }
}

/// The first sentence of the verdict on each further kind.
pub(crate) fn headlines(app: &App, trial: &Trial) -> Result<Vec<String>, Problem> {
    let checked = trial.scenario.clone().check().map_err(Problem::fields)?;
    let all = answer(trial, &Model::new(&checked, &app.tables));
    Ok(all.verdicts.into_iter().map(|v| v.headline).collect())
}

/// What a trial's frames say: effect with its interval, what could have been seen, what would have
/// faked it, and what it is worth.
#[utoipa::path(get, operation_id = "trials_verdict", path = "/trials/{id}/verdict",
    params(("id" = String, Path)),
    responses((status = 200, body = TrialAnswer), (status = 404, body = Problem),
        (status = 422, body = Problem)))]
async fn verdict(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<Json<TrialAnswer>, Problem> {
    let trial = app.store.trial(&id).await?.trial;
    let work = app.heavy(move |app, _| {
        let checked = trial.scenario.clone().check().map_err(Problem::fields)?;
        Ok::<_, Problem>(answer(&trial, &Model::new(&checked, &app.tables)))
    });
    Ok(Json(work.await??))
}
