//! The one call that answers a scenario. [`Model`](crate::signal::Model) holds the electrons of
//! every channel; [`Evaluation`] is the published answer made from it.

pub(crate) mod answer;
pub(crate) mod making;
pub(crate) mod warnings;

pub use answer::{
    ChannelAnswer, ContenderAnswer, Evaluation, EvaluationFormat, ExposureAnswer, QuantityAnswer,
    RatesAnswer, SkyAnswer, StagesAnswer, SubAnswer, Warning,
};
pub use making::{answered, evaluate};
