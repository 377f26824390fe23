//! What the light path's model expects of a trial before a night is spent on it, and how far two
//! copies of the filters may differ from that.

use serde::Serialize;
use utoipa::ToSchema;

use crate::light::lines::Quantity;
use crate::log::filter_copy::HERMITE;
use crate::path::scales::Scales;
use crate::signal::model::{ExposureModel, Model};
use crate::trial::data::Judged;

/// One kind: an exposure of a light path.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct KindAt {
    /// Index of the light path.
    pub path: usize,
    /// Index of its exposure.
    pub exposure: usize,
}

/// What is expected of a kind against the first.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct Expected {
    /// Logarithm of the ratio of what is judged, filters as their boxes say.
    pub ln: f64,
    /// How far that scatters between copies of the filters, one standard deviation.
    pub copies_ln_sd: f64,
    /// The first as a share.
    pub share: f64,
    /// Between which shares nineteen in twenty pairs of copies lie.
    #[schema(value_type = Vec<f64>)]
    pub interval: [f64; 2],
}

/// What is judged of one kind through a copy whose band is off by `centre` standard deviations;
/// `None` where the model says nothing of it (stars' sizes and halos are the telescope's).
fn measure(e: &ExposureModel, q: Quantity, judged: Judged, centre: f64) -> Option<f64> {
    let scales = Scales::ONE;
    let channel = e.leading(q);
    let rates = channel.rates(&scales, centre);
    let value = match judged {
        Judged::PatchSnr => e.snr2(q, e.sub_s, 3600.0 / e.sub_s, &scales, centre).sqrt(),
        Judged::Background => rates.background() - rates.target_sum(),
        Judged::LineSignal => rates.of(q),
        Judged::StarHalo | Judged::StarSize | Judged::FaintestStar => return None,
    };
    (value > 0.0 && value.is_finite()).then_some(value)
}

/// What the model expects of `kind` against `first` for a quantity of the target. Copies are counted
/// only where the model was made with them. `None` where it says nothing of what is judged, or one
/// of the two does not record the quantity.
pub fn expected(
    model: &Model,
    [first, kind]: [KindAt; 2],
    q: Quantity,
    judged: Judged,
) -> Option<Expected> {
    let of = |at: KindAt| -> Option<[f64; 2]> {
        let e = model.paths.get(at.path)?.exposures.get(at.exposure)?;
        if judged != Judged::Background && !e.records(q) {
            return None;
        }
        let nominal = measure(e, q, judged, 0.0)?.ln();
        // A copy far off may pass nothing at all: then it is as bad as a thousandth.
        let off =
            |c: f64| measure(e, q, judged, c).map_or(nominal - 1000f64.ln(), f64::ln) - nominal;
        let (mean, square) = HERMITE.iter().fold((0.0, 0.0), |(m, s), &(x, w)| {
            let d = off(x);
            (m + w * d, s + w * d * d)
        });
        Some([nominal, (square - mean * mean).max(0.0)])
    };
    let [a, b] = [of(first)?, of(kind)?];
    // One copy of one filter on both sides is off by the same.
    let ln = b[0] - a[0];
    let sd = if first == kind { 0.0 } else { (a[1] + b[1]).sqrt() };
    let interval = [(ln - 1.96 * sd).exp_m1(), (ln + 1.96 * sd).exp_m1()];
    Some(Expected { ln, copies_ln_sd: sd, share: ln.exp_m1(), interval })
}
