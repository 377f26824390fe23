//! By what paths are judged: one quantity, or all that the first path is for, until every goal is
//! met. Worth, flips and what moves them ask the same basis, so that rows of one chart answer one
//! question.

use crate::decide::goals::wanted;
use crate::light::lines::Quantity;
use crate::path::scales::Scales;
use crate::scenario::document::Scenario;
use crate::signal::model::LightPath;
use crate::wording::listed;

/// What paths are judged by.
#[derive(Clone)]
pub(crate) struct Basis<'a> {
    s: &'a Scenario,
    /// The one quantity; `None` for all that the first path is for.
    pub(crate) quantity: Option<Quantity>,
    /// Those that must come to their goals.
    pub(crate) quantities: Vec<Quantity>,
}

impl<'a> Basis<'a> {
    /// Everything by which the paths of a scenario can be judged: all that the first is for
    /// together, then every quantity that one of them is for.
    pub(crate) fn all(s: &'a Scenario, paths: &[LightPath]) -> Vec<Self> {
        let Some(first) = paths.first() else { return Vec::new() };
        let mut each: Vec<Quantity> = paths.iter().flat_map(wanted).collect();
        each.sort();
        each.dedup();
        let together = Self { s, quantity: None, quantities: wanted(first) };
        let one = |q: Quantity| Self { s, quantity: Some(q), quantities: vec![q] };
        std::iter::once(together).chain(each.into_iter().map(one)).collect()
    }

    /// All that one path is for, and each of it.
    pub(crate) fn of_path(s: &'a Scenario, path: &LightPath) -> Vec<Self> {
        Self::all(s, std::slice::from_ref(path))
    }

    /// Whether it is all that a path is for together.
    pub(crate) fn is_together(&self) -> bool {
        self.quantity.is_none()
    }

    /// Clock time until the slowest of them is at its goal, s; `None` where one is not recorded or
    /// out of reach.
    pub(crate) fn time_s(
        &self,
        path: &LightPath,
        shares: &[f64],
        scales: &Scales,
        centres: &[f64],
    ) -> Option<f64> {
        let times = self.quantities.iter().map(|q| path.time_s(*q, shares, scales, centres));
        let slowest = times.into_iter().try_fold(0.0f64, |most, t| Some(most.max(t?)))?;
        (slowest > 0.0).then_some(slowest)
    }

    /// Its name: "H-alpha", "H-alpha, [S II] and [O III]".
    pub(crate) fn label(&self) -> String {
        let names: Vec<&str> = self.quantities.iter().map(|q| self.s.target.name_of(*q)).collect();
        if names.is_empty() { "nothing".to_owned() } else { listed(&names) }
    }

    /// Why a path cannot be compared.
    pub(crate) fn missing(&self, path: &LightPath) -> String {
        match (self.quantities.iter().find(|q| !path.records(**q)), &self.quantities[..]) {
            (Some(q), _) => format!("records no {}", self.s.target.name_of(*q)),
            (None, [one]) => format!("does not reach {}", self.s.goal_phrase(*one)),
            (None, _) => format!("does not reach {} in {}", self.s.goals_words(), self.label()),
        }
    }
}
