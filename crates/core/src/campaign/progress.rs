//! What a campaign has gathered: the square of signal to noise that each sub adds.

use crate::decide::split::{purpose, wanted};
use crate::light::lines::Quantity;
use crate::light::tables::Tables;
use crate::path::scales::Scales;
use crate::scenario::check::Checked;
use crate::signal::model::{ExposureModel, models};
use crate::signal::prepare::Prepared;

/// What one sub of each exposure adds under the scenario's own sky: square of the signal to noise of every line that somebody wants,
/// what the exposure is for first. For nights whose counts are typed in by hand.
pub fn snr2_per_sub(scenario: &Checked, contender: usize, tables: &Tables) -> Vec<Vec<(Quantity, f64)>> {
    let prepared = Prepared::new(scenario, tables);
    let Some(path) = models(scenario.scenario(), &prepared).into_iter().nth(contender) else { return Vec::new() };
    let wanted = wanted(&path);
    let of = |e: &ExposureModel| -> Vec<(Quantity, f64)> {
        let one = |q: Quantity| path.exposure_snr2(e, q, e.sub_s, 1.0, &Scales::ONE, 0.0);
        let first = purpose(e, &path);
        let others = wanted.iter().copied().filter(|q| Some(*q) != first && one(*q) > 0.0);
        first.into_iter().chain(others).map(|q| (q, one(q))).collect()
    };
    path.exposures.iter().map(of).collect()
}
