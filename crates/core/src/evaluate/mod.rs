//! The one call that answers a scenario. [`Prepared`] holds the electrons of every channel; [`Evaluation`]
//! is the published answer made from it.

pub(crate) mod answer;

pub use answer::{
    ChannelAnswer, ContenderAnswer, Evaluation, EvaluationFormat, ExposureAnswer, QuantityAnswer, RatesAnswer, SkyAnswer, StagesAnswer,
    SubAnswer, Warning,
};

use crate::light::tables::Tables;
use crate::scenario::check::Checked;
use crate::signal::prepare::Prepared;

/// Answers a checked scenario.
pub fn evaluate(scenario: &Checked, tables: &Tables) -> Evaluation {
    Prepared::new(scenario, tables).answer(scenario)
}
