//! A campaign: one target over many nights, its goals, what is done, and when it will be finished.

pub(crate) mod document;
pub(crate) mod evening;
pub(crate) mod forecast;
pub(crate) mod pace;
pub(crate) mod progress;
pub(crate) mod record;
pub(crate) mod weigh;

pub use document::{
    BlockTaken, CLEAR_SHARE, Campaign, CampaignFraming, CampaignGoal, CampaignNight, Shot,
};
pub use evening::{
    CampaignEvening, EveningChoice, EveningKind, EveningPart, EveningSky, campaign_evening,
    evening_choice,
};
pub use forecast::{ClearNights, Forecast, GoalState, forecast, forecast_of};
pub use pace::{Pace, pace_told, paces};
pub use progress::{
    finish, goal_states, never_up, next_step, shared_with, snr2_per_sub, wants_the_same_nights,
};
pub use record::{first_goals, plan_rest, shots_of, with_brought};
pub use weigh::{EveningWeighed, Need, evening_weighed, waits_for, weighed};
