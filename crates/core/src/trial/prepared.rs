//! The columns of a trial's fit: what may be allowed for, clearness on one scale, and what the fit says
//! of effects, confounders and odd frames.

use crate::frame::tile::{OF_MAD, middle};
use crate::trial::answer::{
    Confounder, Effect, FEWEST, FRAMES_A_COLUMN, Kept, ODD, OddFrame, TrialQuestion,
};
use crate::trial::data::{COVARIATES, Covariate, TrialFrame};
use crate::trial::regression::{Fit, fit, robust_fit};

/// A covariate of which less than this share is its own, beside the kind and those kept before it,
/// says nothing of its own (a variance inflation of 10: common practice).
const OWN_SHARE: f64 = 0.1;
/// Covariates that hardly move (standard deviation in their own unit) are left out.
const HARDLY: f64 = 1e-3;

/// The kinds' scales of clearness against the first's: logarithm, and its standard error.
pub(crate) struct Scale {
    pub(crate) steps: Vec<(f64, f64)>,
}

/// Frames of the first kind lie on both sides of several others: so many errors of their own are
/// shared between the differences.
const SHARED: f64 = 1.5;

/// Each kind's clearness is told against its own clearest frames. How far its scale is from the first
/// kind's is how far its frames lie from a run through the first kind's frames before and after
/// each: cloud that comes and goes over a block cancels, and a frame under a cloud of its own does
/// not move the mean.
pub(crate) fn one_scale(frames: &[&TrialFrame], kinds: usize) -> Option<Scale> {
    let clear: Option<Vec<f64>> =
        frames.iter().map(|f| f.covariate(Covariate::Transparency)).collect();
    let clear = clear?;
    let first: Vec<usize> = (0..frames.len()).filter(|i| frames[*i].kind == 0).collect();
    let off_run = |i: usize| {
        let before = *first.iter().rfind(|a| **a < i)?;
        let after = *first.iter().find(|a| **a > i)?;
        let at = |k: usize| frames[k].start_s;
        let span = (at(after) - at(before)).max(1e-3);
        let share = (at(i) - at(before)) / span;
        Some(clear[i] - clear[before] * (1.0 - share) - clear[after] * share)
    };
    let step = |kind: usize| {
        let own = (0..frames.len()).filter(|i| frames[*i].kind == kind);
        let off: Vec<f64> = own.filter_map(off_run).collect();
        if off.len() < FEWEST {
            return None;
        }
        let fit = robust_fit(&[vec![1.0; off.len()]], &off)?;
        Some((fit.coefficients[0], fit.errors[0] * SHARED.sqrt()))
    };
    Some(Scale { steps: (1..kinds).map(step).collect::<Option<_>>()? })
}

fn of_kind(frames: &[&TrialFrame], kind: usize) -> Vec<f64> {
    frames.iter().map(|f| f64::from(u8::from(f.kind == kind))).collect()
}

/// The columns of the fit.
pub(crate) struct Prepared<'a> {
    pub(crate) frames: Vec<&'a TrialFrame>,
    /// Logarithm of what is judged.
    y: Vec<f64>,
    /// 1, the kinds, then what is kept.
    pub(crate) columns: Vec<Vec<f64>>,
    /// Of each covariate, whether it is kept, and as which column.
    pub(crate) kept: Vec<(Covariate, Kept, Option<usize>)>,
    /// Standard errors of the kinds' steps of clearness.
    step_sd: Vec<f64>,
}

impl<'a> Prepared<'a> {
    pub(crate) fn new(
        of: &TrialQuestion,
        frames: Vec<&'a TrialFrame>,
        scale: Option<&Scale>,
    ) -> Self {
        let y = frames.iter().map(|f| f.measure.ln()).collect();
        let mut columns = vec![vec![1.0; frames.len()]];
        columns.extend((1..of.kinds).map(|kind| of_kind(&frames, kind)));
        let room = (frames.len() / FRAMES_A_COLUMN).saturating_sub(of.kinds - 1);
        let mut kept = Vec::with_capacity(COVARIATES.len());
        for covariate in COVARIATES {
            let (word, values) = Self::asked(of, &frames, &columns, covariate, scale);
            let word = match word {
                Kept::Kept if columns.len() - of.kinds >= room => Kept::TooFew,
                word => word,
            };
            let at = (word == Kept::Kept).then_some(columns.len());
            if at.is_some() {
                columns.push(values);
            }
            kept.push((covariate, word, at));
        }
        let step_sd = scale.map(|s| s.steps.iter().map(|s| s.1).collect()).unwrap_or_default();
        Self { frames, y, columns, kept, step_sd }
    }

    /// Whether a covariate may be kept, and its values less their mean.
    fn asked(
        of: &TrialQuestion,
        frames: &[&TrialFrame],
        columns: &[Vec<f64>],
        covariate: Covariate,
        scale: Option<&Scale>,
    ) -> (Kept, Vec<f64>) {
        let first = frames[0].start_s;
        let values: Option<Vec<f64>> = frames
            .iter()
            .map(|f| match covariate {
                Covariate::Hours => Some((f.start_s - first) / 3600.0),
                Covariate::Transparency => {
                    let step = f.kind.checked_sub(1).and_then(|k| scale?.steps.get(k));
                    Some(f.covariate(covariate)? - step.map_or(0.0, |s| s.0))
                }
                _ => f.covariate(covariate),
            })
            .collect();
        let Some(mut values) = values else { return (Kept::NotKnown, Vec::new()) };
        if covariate.changed_by(of.treatment, of.judged) {
            return (Kept::Changed, values);
        }
        let mean = values.iter().sum::<f64>() / values.len() as f64;
        values.iter_mut().for_each(|v| *v -= mean);
        let square: f64 = values.iter().map(|v| v * v).sum();
        if (square / values.len() as f64).sqrt() < HARDLY {
            return (Kept::Still, values);
        }
        let own: f64 = fit(columns, &values, &[])
            .map_or(0.0, |f| f.residuals.iter().map(|r| r * r).sum::<f64>() / square);
        if own < OWN_SHARE {
            return (Kept::Together, values);
        }
        (Kept::Kept, values)
    }

    pub(crate) fn fit(&self, which: impl Fn(usize) -> bool) -> Option<Fit> {
        let take = |of: &Vec<f64>| -> Vec<f64> {
            of.iter().enumerate().filter(|(i, _)| which(*i)).map(|(_, v)| *v).collect()
        };
        fit(&self.columns.iter().map(take).collect::<Vec<_>>(), &take(&self.y), &[])
    }

    fn column(&self, of: Covariate) -> Option<usize> {
        self.kept.iter().find(|k| k.0 == of).and_then(|k| k.2)
    }

    /// The effect of a kind; how far the scales of clearness are uncertain is part of its error.
    pub(crate) fn effect(&self, fit: &Fit, kind: usize) -> Effect {
        let by_scale = self
            .column(Covariate::Transparency)
            .zip(self.step_sd.get(kind - 1))
            .map_or(0.0, |(j, sd)| fit.coefficients[j] * sd);
        Effect::of(fit.coefficients[kind], fit.errors[kind].hypot(by_scale), fit.freedom)
    }

    /// What each covariate alone would have made of no difference.
    pub(crate) fn confounders(&self, fit: &Fit, kind: usize) -> Vec<Confounder> {
        let mean = |column: &[f64], k: usize| {
            let of: Vec<f64> = (0..column.len())
                .filter(|i| self.frames[*i].kind == k)
                .map(|i| column[i])
                .collect();
            of.iter().sum::<f64>() / of.len() as f64
        };
        let one = |&(covariate, kept, at): &(Covariate, Kept, Option<usize>)| {
            let slope = at.map(|j| fit.coefficients[j]);
            let fake = at.map(|j| {
                let c = &self.columns[j];
                (fit.coefficients[j] * (mean(c, kind) - mean(c, 0))).exp_m1()
            });
            Confounder { covariate, kept, ln_per_unit: slope, would_fake: fake }
        };
        self.kept.iter().map(one).collect()
    }

    /// The plain difference of neighbours, and how many pairs there are.
    pub(crate) fn paired(&self, kind: usize, frames_a_slot: usize) -> (Option<Effect>, usize) {
        let slots = slots(&self.frames, frames_a_slot.max(1));
        let mean = |s: &[usize]| s.iter().map(|i| self.y[*i]).sum::<f64>() / s.len() as f64;
        let mut differences = Vec::new();
        let mut i = 0;
        let of: Vec<(usize, f64)> = slots
            .iter()
            .map(|s| (self.frames[s[0]].kind, mean(s)))
            .filter(|(k, _)| *k == 0 || *k == kind)
            .collect();
        while i + 1 < of.len() {
            if of[i].0 == of[i + 1].0 {
                i += 1;
                continue;
            }
            let sign = if of[i + 1].0 == kind { 1.0 } else { -1.0 };
            differences.push(sign * (of[i + 1].1 - of[i].1));
            i += 2;
        }
        let n = differences.len();
        if n < FEWEST {
            return (None, n);
        }
        let middle = differences.iter().sum::<f64>() / n as f64;
        let square: f64 = differences.iter().map(|d| (d - middle).powi(2)).sum();
        let error = (square / (n - 1) as f64 / n as f64).sqrt();
        (Some(Effect::of(middle, error, n - 1)), n)
    }

    /// A frame that is far off, with what is odd about it besides.
    pub(crate) fn odd(&self, i: usize, off: f64) -> OddFrame {
        let frame = self.frames[i];
        // The covariate in which it is furthest from the middle of all.
        let mut most: Option<(f64, Covariate, bool)> = None;
        for covariate in COVARIATES {
            let all: Option<Vec<f64>> =
                self.frames.iter().map(|f| f.covariate(covariate)).collect();
            let (Some(all), Some(own)) = (all, frame.covariate(covariate)) else { continue };
            let Some(usual) = middle(all.iter().copied()) else { continue };
            let apart = middle(all.iter().map(|v| (v - usual).abs())).unwrap_or(0.0);
            let far = (own - usual).abs() / (OF_MAD * apart).max(HARDLY);
            if far > ODD && most.is_none_or(|m| far > m.0) {
                most = Some((far, covariate, own > usual));
            }
        }
        let reason = match most {
            Some((_, Covariate::Transparency, false)) => "cloud took its starlight".into(),
            Some((_, Covariate::StarSize, true)) => "its stars are large".into(),
            Some((_, Covariate::Guiding, true)) => "the guider lost its hold".into(),
            Some((_, c, _)) => format!("{} is far from the others'", c.name()),
            None => "nothing that is known of it says why".into(),
        };
        OddFrame { name: frame.name.clone(), off, reason }
    }
}

/// Frames of a kind that were taken one after the other, as many at a time as planned.
fn slots(frames: &[&TrialFrame], frames_a_slot: usize) -> Vec<Vec<usize>> {
    let mut all = Vec::new();
    let mut i = 0;
    while i < frames.len() {
        let run = frames[i..].iter().take_while(|f| f.kind == frames[i].kind).count();
        // A run of two slots with a frame lost is still two.
        let count = ((run as f64 / frames_a_slot as f64).round() as usize).max(1);
        all.extend((0..count).map(|k| (i + k * run / count..i + (k + 1) * run / count).collect()));
        i += run;
    }
    all
}
