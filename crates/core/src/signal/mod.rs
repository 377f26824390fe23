//! Signal and noise: one sub, a stack of subs, a star, and the model of a light path that every question asks.

pub(crate) mod model;
pub(crate) mod prepare;
pub(crate) mod rig;
pub(crate) mod stack;
pub(crate) mod star;
pub(crate) mod sub;

pub use model::{ChannelModel, ExposureModel, PathModel, models};
pub use prepare::{Prepared, PreparedChannel, PreparedContender, PreparedExposure};
pub use rig::{Behind, Pace, Rig};
pub use stack::{StackTerms, subs_in, time_to_goal_s};
pub use star::{LIMIT_SNR, StarTerms, star_peak_share};
pub use sub::{
    LONGEST_SUB_S, Plateau, SubTerms, excess_from_swamp, excess_sub_s, plateau, read_noise_excess, swamp_from_excess, swamp_sub_s,
};
