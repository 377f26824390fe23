//! The decisions: which sub, which gain, how much time and how it is split, what differs and by how
//! much, what is uncertain, what would turn the verdict, and what a purchase is worth.
//!
//! [`Choices`](crate::scenario::Choices) is what a user may set;
//! [`LightPath`](crate::signal::LightPath) holds the electron rates that every decision asks.
//! Nothing here integrates a spectrum, except where it asks a rig about other filters ([`AddOn`],
//! [`rank_filters`], [`bandwidth()`]).

pub(crate) mod add_ons;
pub(crate) mod bandwidth;
pub(crate) mod basis;
pub(crate) mod calibration;
pub(crate) mod colour_set;
pub(crate) mod copies;
pub(crate) mod decisions;
pub(crate) mod differences;
pub(crate) mod dual_pairs;
pub(crate) mod filter_ranking;
pub(crate) mod gain;
pub(crate) mod goals;
pub(crate) mod max_min;
pub(crate) mod pairs;
pub(crate) mod places;
pub(crate) mod rig_focus;
pub(crate) mod sensitivity;
pub(crate) mod split;
pub(crate) mod study;
pub(crate) mod sub;
pub(crate) mod to_buy;
pub(crate) mod uncertainty;
pub(crate) mod value;
pub(crate) mod wheel;

pub use add_ons::AddOn;
pub use bandwidth::{BandwidthAnswer, YourFilter, bandwidth};
pub use calibration::CalibrationFrames;
pub use decisions::{DecisionsAnswer, PathDecisions, decide};
pub use differences::{Difference, Told, differences, losses, named, told};
pub use dual_pairs::DualPair;
pub use filter_ranking::{RankedFilter, rank_filters};
pub use gain::{GainDecision, GainOption, decide_gain};
pub use goals::{balanced_shares, purpose, wanted};
pub use max_min::least_served_shares;
pub use pairs::figures_differ;
pub use places::{PathThere, PlaceAnswer, PlacesAnswer, compare_places};
pub use rig_focus::{RigFocus, SlotFocus, rig_focus};
pub use sensitivity::{Flip, FlipInput, Influence};
pub use split::{SplitPart, TimeDecision};
pub use study::Study;
pub use sub::conflict::{Conflict, ShortSet};
pub use sub::criteria::{Criterion, SubLimit};
pub use sub::decision::{SubCurve, SubDecision, SubRange, decide_sub};
pub use sub::frame::FrameTold;
pub use to_buy::next::to_buy;
pub use to_buy::question::{
    BuyKind, BuyPlace, BuyQuestion, NextFilter, PictureTime, SmallestSet, ToBuy,
};
pub use uncertainty::draws::{Draws, PathDraws, Range, between, stated};
pub use uncertainty::ranges::{QuantityRange, ranges, star_limits};
pub use value::Worth;
pub use wheel::{
    SetFor, WheelSet, light_path_of, sets_for, wheel_sets, whole_rig, with_advised_subs,
};
