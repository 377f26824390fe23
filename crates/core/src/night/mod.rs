//! A night at a place: where sun, moon and target stand, how fast every filter gathers information minute by minute, and the plan
//! that follows.

mod calendar;
pub mod coords;
mod ephemeris;
mod pace;
mod plan;
mod tonight;
mod view;

pub use calendar::{BestDates, CalendarNight, YearView, year_view};
pub use ephemeris::{Direction, Ephemeris, EphemerisError, Place, crossings, separation_deg, unix_midnight};
pub use pace::{Moment, NightRig};
pub use plan::{
    Block, FixedBlock, LocalClock, LockedBlock, MOST_SNR2, Overheads, Plan, PlanGoal, PlanSpec, PlanTotal, SLOT_S, plan_night, plan_second,
};
pub use tonight::{TonightSpec, WorthTonight, worth_tonight};
pub use view::{NightEvents, NightLimits, NightSample, NightView, SAMPLE_S, moment, night_view};
