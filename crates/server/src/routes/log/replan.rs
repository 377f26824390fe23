//! The rest of a night planned anew, with what is really done.

use axum::Json;
use axum::extract::State;
use salt_lamp_core::campaign::{plan_rest, with_brought};
use salt_lamp_core::night::{PlanSpec, StruckOut};
use salt_lamp_core::scenario::NightLimits;
use salt_lamp_store::{CampaignSaved, StoredCampaign};
use serde::Deserialize;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::now::{moment, tonight};
use crate::http::extract::Body;
use crate::routes::night::{NightQuestion, answer};
use crate::{App, Problem};

pub(super) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(replan))
}

/// The rest of a night to be planned anew.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct ReplanAsked {
    /// Id of the campaign.
    campaign: String,
    /// From when on, seconds since 1970 UTC; now where none is given.
    #[serde(default)]
    at_s: Option<f64>,
}

/// Plans the rest of tonight anew, with what the kept frames really hold counted as done. What was
/// planned before that moment stays as it was.
#[utoipa::path(post, operation_id = "now_replan", path = "/now/replan", request_body = ReplanAsked,
    responses((status = 200, body = StoredCampaign), (status = 412, body = Problem),
        (status = 422, body = Problem)))]
async fn replan(
    State(app): State<App>,
    Body(q): Body<ReplanAsked>,
) -> Result<Json<StoredCampaign>, Problem> {
    let t = tonight(&app, &q.campaign, moment(q.at_s)?).await?;
    let (at_s, date) = (t.at_s, t.evening.clone());
    let Some(stored) = t.stored else {
        return Err(Problem::field("campaign", "there is no such campaign"));
    };
    let noon_s = t.site.night(&date)?.from_s;
    let horizon_deg = t.shelf_site.map_or_else(Vec::new, |s| s.horizon_deg);
    let counted = with_brought(&stored.campaign, &date, t.offered.map(|o| o.night));
    let mut plan = PlanSpec::default();
    plan.overheads.setup_min = 0.0;
    plan.struck_out = vec![StruckOut { from_s: noon_s, to_s: at_s }];
    let question = NightQuestion {
        scenario: counted.scenario.clone(),
        contender: counted.contender,
        site: t.site,
        date: date.clone(),
        place: None,
        limits: NightLimits { horizon_deg, ..NightLimits::default() },
        first_limits: None,
        plan,
        campaign: Some(counted),
        weigh: false,
        others: Vec::new(),
    };
    let night = app.heavy(move |app, _| answer(app, question)).await??;
    let mut campaign = stored.campaign;
    plan_rest(&mut campaign, &date, at_s, (&night.first.plan, night.first.shots));
    campaign.check().map_err(Problem::fields)?;
    match app.store.save_campaign(&stored.id, stored.revision, &campaign).await? {
        CampaignSaved::Stored(c) => Ok(Json(*c)),
        CampaignSaved::Conflict(c) => Err(Problem::conflict(&c)),
    }
}
