//! What the frames of a trial say, once what else differed between them is allowed for.
//!
//! The logarithm of what is judged is fitted by the kind and by what is known of each frame: air,
//! cloud, moon, hour, focus, guiding. Only as many of these as the frames can carry are kept, chosen
//! before the measure is looked at. Beside the fit stands the plain difference of frames taken one
//! after the other, which assumes nothing.

use crate::trial::answer::{Against, Analysis, FEWEST, ODD, TrialError, TrialQuestion};
use crate::trial::data::{Covariate, TrialFrame};
use crate::trial::power::smallest_seen;
use crate::trial::prepared::{Prepared, one_scale};

/// What the frames say.
///
/// # Errors
/// [`TrialError`] where a kind has fewer than [`FEWEST`] frames or a measure is not above 0.
pub fn analysed(of: &TrialQuestion) -> Result<Analysis, TrialError> {
    let mut frames: Vec<&TrialFrame> = of.frames.iter().collect();
    frames.sort_by(|a, b| a.start_s.total_cmp(&b.start_s));
    let counts: Vec<usize> =
        (0..of.kinds).map(|k| frames.iter().filter(|f| f.kind == k).count()).collect();
    if let Some((kind, &frames)) = counts.iter().enumerate().find(|(_, n)| **n < FEWEST) {
        return Err(TrialError::TooFew { kind, frames });
    }
    if let Some(i) = frames.iter().position(|f| !(f.measure > 0.0 && f.measure.is_finite())) {
        return Err(TrialError::Nothing(i));
    }
    let scale = one_scale(&frames, of.kinds);
    let prepared = Prepared::new(of, frames, scale.as_ref());
    let few = TrialError::TooFew { kind: 0, frames: counts[0] };
    let whole = prepared.fit(|_| true).ok_or(few)?;
    let odd: Vec<usize> =
        (0..prepared.frames.len()).filter(|&i| whole.studentised[i].abs() > ODD).collect();
    let enough = |k: usize| {
        let left = odd.iter().filter(|&&i| prepared.frames[i].kind == k).count();
        counts[k] - left >= FEWEST
    };
    let without = (!odd.is_empty() && (0..of.kinds).all(enough))
        .then(|| prepared.fit(|i| !odd.contains(&i)))
        .flatten();
    let scatter = without.as_ref().unwrap_or(&whole).scatter();
    let against = (1..of.kinds)
        .map(|kind| {
            let all = prepared.effect(&whole, kind);
            let paired = prepared.paired(kind, of.frames_a_slot);
            Against {
                kind,
                all,
                without_odd: without.as_ref().map(|f| prepared.effect(f, kind)),
                paired: paired.0,
                pairs: paired.1,
                smallest_seen: smallest_seen(all.ln_sd, all.freedom).exp_m1(),
                confounders: prepared.confounders(&whole, kind),
            }
        })
        .collect();
    let odd = odd.iter().map(|&i| prepared.odd(i, whole.studentised[i])).collect();
    let scale_apart = scale.map(|s| s.steps.iter().fold(0.0f64, |m, s| m.max(s.0.abs())).exp_m1());
    Ok(Analysis { against, scatter, frames: counts, odd, scale_apart })
}

/// The frames in the order of time, what is allowed for, and the columns of the fit: one, the kinds,
/// what is allowed for.
pub(crate) fn model_columns<'a>(
    of: &TrialQuestion<'a>,
) -> (Vec<&'a TrialFrame>, Vec<Covariate>, Vec<Vec<f64>>) {
    let mut frames: Vec<&TrialFrame> = of.frames.iter().collect();
    frames.sort_by(|a, b| a.start_s.total_cmp(&b.start_s));
    if frames.is_empty() {
        return (frames, Vec::new(), vec![Vec::new(); of.kinds]);
    }
    let scale = one_scale(&frames, of.kinds);
    let prepared = Prepared::new(of, frames, scale.as_ref());
    let kept = prepared.kept.iter().filter(|k| k.2.is_some()).map(|k| k.0).collect();
    (prepared.frames, kept, prepared.columns)
}
