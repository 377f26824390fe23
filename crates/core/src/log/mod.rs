//! A night's frames, understood: which belong together, what each was worth, which were bad and
//! why.
//!
//! Frames of one filter, length, gain and object are held against each other: what a frame lost of
//! its starlight against the clearest of its group is cloud, stars that grew are focus or seeing, a
//! background that jumped is a lamp or dawn. A frame is never thrown away: it is put aside with its
//! reason, and whoever was there may overrule that. Where frames lie and how they are kept is not
//! known here.

pub mod accrued;
pub mod air;
pub mod belonging;
pub mod beside;
pub mod brought;
pub mod calibration;
pub mod changes;
pub mod copy_told;
pub mod corrections;
pub mod evening;
pub mod filter_copy;
pub mod glow_taught;
pub mod lesson;
pub mod lines;
pub mod marks;
pub mod meter;
pub mod naming;
pub mod now;
pub mod offer;
pub mod predicted;
pub mod quality;
pub mod record;
pub mod rig_taught;
pub mod site_taught;
pub mod starlight;
pub mod taught;
pub mod totals;
pub mod transparency;

pub use accrued::{Accrued, KeptFrame, accrued};
pub use air::NightAir;
pub use belonging::{camera_meant, count_alike, exposure_meant, filters_of, is_of};
pub use beside::{FrameBeside, NightSub, beside};
pub use brought::{Brought, brought_told};
pub use calibration::{CalibrationCount, calibration};
pub use changes::{FieldChange, HolderOfFigure, differences, put, standing};
pub use copy_told::{
    CopyAt, CopyVerdict, FilterCopy, LineThrough, copy_told, is_for_lines, offer_of_copy,
};
pub use corrections::Corrections;
pub use evening::evening;
pub use filter_copy::{CopyPosterior, CopyQuestion, CopySeen, copy_posterior};
pub use lesson::{
    LessonTaken, means, same_optics, teach_campaign, teach_filter, teach_filter_of, teach_optics,
    teach_sensor, teach_site,
};
pub use lines::{BoxedFrame, LineMeasured, LinesMeasured, PatchSub, lines_of};
pub use marks::{MarkKind, NightMark, night_marks};
pub use meter::{MeterTaught, meter_taught};
pub use naming::same_filter;
pub use now::{Act, ActKind, NightUnderWay, state_of};
pub use offer::{Estimate, Lesson, Offer};
pub use predicted::{NightModel, Predicted};
pub use quality::{FrameJudged, NightFrame, Reason, Rule, judged_channel, night_judged};
pub use record::{MoonOver, RecordLine, RecordSum, TargetRecord};
pub use rig_taught::LightOf;
pub use starlight::{Starlight, StarlightQuestion, starlight};
pub use taught::{NightTaught, NightToLearn, taught};
pub use totals::{FilterTotal, totals};
