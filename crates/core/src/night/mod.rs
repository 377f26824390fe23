//! A night at a place: where sun, moon and target stand, how fast every filter gathers information
//! minute by minute, and the plan that follows.

pub(crate) mod ahead;
pub(crate) mod calendar;
pub(crate) mod cautions;
pub(crate) mod coordinates;
pub(crate) mod ephemeris;
pub(crate) mod plan;
pub(crate) mod rate;
pub(crate) mod tonight;
pub(crate) mod twilight;
pub(crate) mod view;

pub use ahead::{NIGHTS_AHEAD, NightAhead};
pub use calendar::{
    BestDates, CalendarNight, MonthNight, NightPart, YearView, month_view, year_view,
};
pub use cautions::cautions;
pub use coordinates::{dec_text, parse, ra_text};
pub use ephemeris::{
    Direction, Ephemeris, EphemerisError, Place, crossings, separation_deg, unix_midnight,
};
pub use plan::schedule::{Block, OfferedList, Plan, PlanTotal};
pub use plan::slots::{LocalClock, SLOT_S};
pub use plan::spec::{
    FixedBlock, LockedBlock, MOST_SNR2, Overheads, PlanGoal, PlanSpec, StruckOut,
};
pub use plan::targets::{Change, MOST_TARGETS, NightTarget, plan_night, plan_targets};
pub use rate::{Moment, NightRig};
pub use tonight::{
    ANY_TARGET_V_MAG, DarkHours, FieldFit, RankedFor, Season, TonightSpec, WorthTonight,
    any_target, worth_tonight,
};
pub use twilight::{OFFERED_DEG, TwilightOffer, twilight_offer};
pub use view::{
    NEAR_THE_MOON_DEG, NightEvents, NightSample, NightView, SAMPLE_S, dark_moment, moment,
    night_view,
};
