//! Which kind a frame is of, by what its header says.

use crate::frame::header::HeaderFields;
use crate::log::belonging::{NO_FILTER, exposure_meant};
use crate::scenario::rig::Contender;
use crate::trial::data::Treatment;
use crate::trial::document::{Trial, TrialKind};

/// Lengths of subs, and focal lengths, that differ by less are the same.
const SAME: f64 = 0.05;

fn alike(a: f64, b: f64) -> bool {
    (a / b - 1.0).abs() < SAME
}

/// The kind of a frame; `None` where its header fits none of them, or several. `explained` is what
/// somebody said that the header's filter means.
pub fn kind_of(trial: &Trial, h: &HeaderFields, explained: Option<&str>) -> Option<usize> {
    let own: Vec<(&Contender, usize)> = trial
        .kinds
        .iter()
        .map(|TrialKind { path, exposure }| {
            trial.scenario.contenders.get(*path).map(|c| (c, *exposure))
        })
        .collect::<Option<_>>()?;
    let names: Vec<&str> = own
        .iter()
        .map(|(c, e)| {
            c.exposures.get(*e).and_then(|e| e.filter.as_ref()).map_or(NO_FILTER, |f| &f.name)
        })
        .collect();
    let said = h.filter.as_deref().unwrap_or_default();
    let mut different = names.clone();
    different.dedup();
    let meant = exposure_meant(said, explained, &different).map(|i| different[i]);
    let fits = |i: usize| {
        let ((c, exposure), name) = (own[i], names[i]);
        // A filter that is named must be the kind's; one that is not counts where it is not the
        // question.
        let filter = match meant {
            Some(meant) => meant == name,
            None => said.is_empty() && trial.treatment != Treatment::Filter,
        };
        filter
            && match trial.treatment {
                Treatment::Filter => true,
                Treatment::Gain => h.gain.is_some_and(|g| (g - c.gain).abs() < 0.5),
                Treatment::Sub => c
                    .exposures
                    .get(exposure)
                    .zip(h.exposure_s)
                    .is_some_and(|(e, s)| alike(e.sub_s, s)),
                Treatment::Rig => {
                    let length = h.focal_length_mm.map(|mm| alike(mm, c.optics.focal_length_mm));
                    let camera = h.camera.as_ref().map(|n| n.eq_ignore_ascii_case(&c.sensor.name));
                    length.or(camera).unwrap_or(false)
                }
            }
    };
    let mut fitting = (0..own.len()).filter(|i| fits(*i));
    let first = fitting.next()?;
    fitting.next().is_none().then_some(first)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::trial::document::tests::trial_of_two_filters;

    #[test]
    fn a_frame_is_of_the_kind_that_its_header_speaks_of() {
        let mut trial = trial_of_two_filters();
        let said = |filter: &str| HeaderFields {
            filter: Some(filter.to_owned()),
            gain: Some(100.0),
            exposure_s: Some(60.0),
            ..HeaderFields::default()
        };
        assert_eq!(kind_of(&trial, &said("Ha"), None), Some(0));
        assert_eq!(kind_of(&trial, &said("OIII"), None), Some(1));
        assert_eq!(kind_of(&trial, &said("R"), None), None);
        let second = trial.names()[1].clone();
        assert_eq!(kind_of(&trial, &said("slot 4"), Some(&second)), Some(1));
        assert_eq!(kind_of(&trial, &HeaderFields::default(), None), None);

        // The same filter at two lengths.
        trial.treatment = Treatment::Sub;
        let path = &mut trial.scenario.contenders[trial.kinds[0].path];
        path.exposures[1] = path.exposures[0].clone();
        (path.exposures[0].sub_s, path.exposures[1].sub_s) = (60.0, 300.0);
        let of = |s: f64| HeaderFields { exposure_s: Some(s), ..said("Ha") };
        assert_eq!(kind_of(&trial, &of(60.2), None), Some(0));
        assert_eq!(kind_of(&trial, &of(300.0), None), Some(1));
        assert_eq!(kind_of(&trial, &of(120.0), None), None);
    }
}
