//! Signal and noise: one sub, a stack of subs, a star, and the one model of a light path that every
//! question asks.
//!
//! [`sub`], [`stack`] and [`star`] are formulas over plain numbers. [`instrument`] builds their
//! terms from a contender, [`aim`] says what is wanted of them, [`channel`] and [`rig`] give the rates that they work on, and [`model`]
//! holds all light paths of a scenario.

pub(crate) mod aim;
pub(crate) mod channel;
pub(crate) mod instrument;
pub(crate) mod model;
pub(crate) mod rig;
pub(crate) mod stack;
pub(crate) mod star;
pub(crate) mod sub;

pub use aim::{Aim, CleanParts};
pub use channel::ChannelModel;
pub use instrument::{InformationRate, Instrument, leading};
pub use model::{ExposureModel, LightPath, Model};
pub use rig::{FilterRates, Rig};
pub use stack::{MOST_CLOCK_S, StackTerms, subs_in, time_to_goal_s};
pub use star::{
    LIMIT_SNR, StarTerms, noise_equivalent_pixels, seeing_fwhm_arcsec, star_peak_share,
};
pub use sub::{
    LONGEST_SUB_S, Plateau, SubTerms, excess_from_swamp, excess_sub_s, plateau, read_noise_excess,
    swamp_from_excess, swamp_sub_s,
};
