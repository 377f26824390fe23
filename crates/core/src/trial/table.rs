//! A trial's frames as a table, with the columns of the fit beside what was measured, so that
//! anybody can fit them again.

use crate::trial::analysis::model_columns;
use crate::trial::answer::{TrialQuestion, letter};
use crate::trial::data::COVARIATES;

/// One frame.
#[derive(Clone, Debug, PartialEq)]
pub struct TrialRow {
    /// Its name.
    pub name: String,
    /// Letter of its kind.
    pub kind: char,
    /// When it began, seconds since 1970 UTC.
    pub start_s: f64,
    /// What is judged.
    pub measure: f64,
    /// What else is known, in the order of [`TrialTable::known`].
    pub known: Vec<Option<f64>>,
    /// Its line of the model matrix, in the order of [`TrialTable::columns`].
    pub line: Vec<f64>,
}

/// The frames that count.
#[derive(Clone, Debug, PartialEq)]
pub struct TrialTable {
    /// Names of what else is known.
    pub known: Vec<&'static str>,
    /// Names of the model matrix's columns: `one`, a letter for each further kind, then what is
    /// allowed for, less its mean.
    pub columns: Vec<String>,
    /// The frames in the order of time.
    pub rows: Vec<TrialRow>,
}

/// The table of a trial.
pub fn table(of: &TrialQuestion) -> TrialTable {
    let (frames, names, columns) = model_columns(of);
    let mut labels = vec!["one".to_owned()];
    labels.extend((1..of.kinds).map(|k| letter(k).to_string()));
    labels.extend(names.iter().map(|c| c.key().to_owned()));
    let rows = frames
        .iter()
        .enumerate()
        .map(|(i, f)| TrialRow {
            name: f.name.clone(),
            kind: letter(f.kind),
            start_s: f.start_s,
            measure: f.measure,
            known: COVARIATES.iter().map(|c| f.known.get(c).copied()).collect(),
            line: columns.iter().map(|c| c[i]).collect(),
        })
        .collect();
    TrialTable {
        known: COVARIATES.map(super::data::Covariate::key).to_vec(),
        columns: labels,
        rows,
    }
}
