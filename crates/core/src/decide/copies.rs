//! How two copies of one filter differ. What is drawn for a comparison is one copy, the same in
//! every row that uses it, so that two rows never differ by it; that another copy of the box might
//! do better or worse is a question of its own, and is answered here.

use crate::decide::goals::purpose;
use crate::decide::uncertainty::draws::PathDraws;
use crate::light::lines::Quantity;
use crate::path::scales::Scales;
use crate::scenario::document::Scenario;
use crate::scenario::rig::Contender;
use crate::signal::model::LightPath;
use crate::wording::two_figures;

/// Copies that are closer than this in time are alike.
const ALIKE: f64 = 1.03;

/// Pairs of copies that are asked.
const PAIRS: usize = 32;

/// For each filter of a path whose copies differ: by what factor two of them do in time, eight
/// pairs in ten, in a sentence. All else is as stated.
pub fn copies(s: &Scenario, c: &Contender, path: &LightPath, draws: PathDraws) -> Vec<String> {
    let said = |at: usize| {
        let filter = c.exposures[at].filter.as_ref()?;
        let q = purpose(&path.exposures[at])?;
        let factor = factor_between(path, at, q, draws)?;
        (factor > ALIKE).then(|| {
            format!(
                "Two copies of {} lie within a factor of {} of each other in time for {} (eight \
                    pairs in ten).",
                filter.name,
                two_figures(factor),
                s.target.name_of(q)
            )
        })
    };
    (0..path.exposures.len()).filter_map(said).collect()
}

/// The factor in time to the goal below which eight pairs of copies in ten lie.
fn factor_between(path: &LightPath, at: usize, q: Quantity, draws: PathDraws) -> Option<f64> {
    let shares = path.shares();
    let time = |centre: f64| {
        let mut centres = vec![0.0; path.exposures.len()];
        centres[at] = centre;
        path.time_s(q, &shares, &Scales::ONE, &centres)
    };
    let times: Vec<f64> =
        draws.some(PAIRS * 2).filter_map(|(_, c)| time(c.get(at).copied()?)).collect();
    let (one, other) = times.split_at(times.len() / 2);
    let mut factors: Vec<f64> = one.iter().zip(other).map(|(a, b)| (a / b).max(b / a)).collect();
    factors.sort_by(f64::total_cmp);
    factors.get((factors.len() as f64 * 0.8) as usize).copied()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::common::{bands, colour_behind, tables, through};
    use crate::decide::uncertainty::draws::Draws;
    use crate::signal::model::Model;

    fn said(s: &Scenario) -> Vec<String> {
        let checked = s.clone().check().expect("accepted");
        let model = Model::new(&checked, &tables());
        let draws = Draws::new(s);
        copies(s, &s.contenders[0], &model.paths[0], draws.of(0))
    }

    /// A narrow band at f/2.8 is a lottery, a wide one and none are not.
    #[test]
    fn copies_of_a_narrow_filter_differ_and_of_a_wide_one_do_not() {
        let with = |width_nm: f64, tolerance_nm: f64| {
            let mut f = bands("Ha", width_nm, &[656.3]);
            f.centre_tolerance_nm = tolerance_nm;
            colour_behind(Some(f), 120.0)
        };
        let narrow = said(&with(3.0, 1.0));
        assert_eq!(narrow.len(), 1, "{narrow:?}");
        assert!(narrow[0].starts_with("Two copies of Ha lie within a factor of "), "{narrow:?}");
        let factor = |text: &str| -> f64 {
            let words: Vec<&str> = text.split(' ').collect();
            let at = words.iter().position(|w| *w == "factor").expect("a factor");
            words[at + 2].parse().expect("a number")
        };
        // The tighter the tolerance, the more alike.
        let tight = said(&with(3.0, 0.1));
        assert!(factor(&narrow[0]) > 1.3, "{narrow:?}");
        assert!(tight.first().is_none_or(|t| factor(t) < factor(&narrow[0])), "{tight:?}");
        assert_eq!(said(&with(40.0, 0.3)), Vec::<String>::new());
        let mut none = with(3.0, 1.0);
        none.contenders = vec![through(&none.contenders[0], vec![None], 60.0)];
        assert_eq!(said(&none), Vec::<String>::new());
        // Where filters are taken as written there is nothing to be said.
        let mut written = with(3.0, 1.0);
        written.choices.uncertainty.filter_centre = false;
        assert_eq!(said(&written), Vec::<String>::new());
    }
}
