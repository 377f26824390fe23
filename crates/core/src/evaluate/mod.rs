//! The one call that answers a scenario. [`Prepared`] holds the electrons of every channel; [`Evaluation`]
//! is the published answer made from it.

mod answer;
mod prepare;

pub use answer::{
    ChannelAnswer, ContenderAnswer, Evaluation, EvaluationFormat, ExposureAnswer, QuantityAnswer, RatesAnswer, SkyAnswer, StagesAnswer,
    SubAnswer, Warning,
};
pub use prepare::{Prepared, PreparedChannel, PreparedContender, PreparedExposure};

use crate::check::Checked;
use crate::light::Tables;

/// Answers a checked scenario.
pub fn evaluate(scenario: &Checked, tables: &Tables) -> Evaluation {
    Prepared::new(scenario, tables).answer(scenario)
}
