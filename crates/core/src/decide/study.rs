//! A study: everything that several questions about one scenario share, worked out once. The bench,
//! the decisions and the compare table are views of it, so that opening another chart of the same
//! scenario counts no electron anew.

use std::collections::BTreeMap;

use crate::decide::gain::{GainDecision, decide_gain};
use crate::decide::sub::decision::{SubDecision, decide_sub};
use crate::decide::uncertainty::draws::Draws;
use crate::decide::uncertainty::ranges::{QuantityRange, ranges};
use crate::evaluate::answer::Evaluation;
use crate::evaluate::making::answered;
use crate::light::lines::Quantity;
use crate::light::tables::Tables;
use crate::scenario::check::Checked;
use crate::scenario::document::Scenario;
use crate::signal::model::Model;

/// A scenario with its model, its draws, their ranges, and what follows from them for every path.
pub struct Study {
    scenario: Checked,
    /// The electrons.
    pub model: Model,
    /// The published answer.
    pub evaluation: Evaluation,
    /// The states of the world that are drawn.
    pub draws: Draws,
    /// Ranges of every quantity, path by path.
    pub ranges: Vec<BTreeMap<Quantity, QuantityRange>>,
    /// The sub of every exposure, path by path.
    pub subs: Vec<Vec<SubDecision>>,
    /// The gain of every path.
    pub gains: Vec<GainDecision>,
}

impl Study {
    /// Works out what all questions about a scenario share.
    pub fn new(scenario: Checked, tables: &Tables) -> Self {
        let s = scenario.scenario();
        let model = Model::new(&scenario, tables);
        let draws = Draws::new(s);
        let paths = || s.contenders.iter().zip(&model.paths).enumerate();
        let subs = paths().map(|(i, (c, path))| {
            let one =
                |at| decide_sub(s, c, at, path, &path.exposures[at].instrument.gain, draws.of(i));
            (0..c.exposures.len()).map(one).collect()
        });
        let subs = subs.collect();
        let gains = paths().map(|(i, (c, path))| decide_gain(s, c, path, draws.of(i))).collect();
        Self {
            evaluation: answered(s, &model),
            ranges: ranges(s, &model.paths, &draws),
            subs,
            gains,
            model,
            draws,
            scenario,
        }
    }

    /// The scenario that it is of.
    pub fn scenario(&self) -> &Scenario {
        self.scenario.scenario()
    }
}
