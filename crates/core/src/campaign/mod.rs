//! A campaign: one target over many nights, its goals, what is done, and when it will be finished.

pub(crate) mod document;
pub(crate) mod forecast;
pub(crate) mod progress;

pub use document::{Campaign, CampaignFraming, CampaignGoal, CampaignNight, Shot};
pub use forecast::{Forecast, GoalState, forecast, forecast_of};
pub use progress::{goal_states, next_step, snr2_per_sub};
