//! A campaign: one target over many nights, its goals, what is done, and when it will be finished.

pub(crate) mod document;
pub(crate) mod evening;
pub(crate) mod forecast;
pub(crate) mod progress;
pub(crate) mod record;

pub use document::{CLEAR_SHARE, Campaign, CampaignFraming, CampaignGoal, CampaignNight, Shot};
pub use evening::{
    CampaignEvening, EveningChoice, EveningKind, EveningPart, EveningSky, campaign_evening,
    evening_choice,
};
pub use forecast::{ClearNights, Forecast, GoalState, forecast, forecast_of};
pub use progress::{finish, goal_states, next_step, snr2_per_sub};
pub use record::{first_goals, shots_of};
