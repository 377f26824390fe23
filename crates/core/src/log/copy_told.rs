//! What a copy's bands mean at each focal ratio, and the verdict on it in words.

use serde::Serialize;
use utoipa::ToSchema;

use crate::light::lines::{HA_NM, LINES, OIII_NM, Quantity};
use crate::log::filter_copy::{CopyPosterior, CopyQuestion, copy_posterior};
use crate::log::offer::{Estimate, Lesson, Offer};
use crate::path::filter::cone::Cone;
use crate::path::filter::response::BROAD_NM;
use crate::path::filter::weights::FilterInCone;
use crate::scenario::exposure::Filter;
use crate::scenario::rig::Optics;

/// What is the matter with a copy of a filter.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum CopyVerdict {
    /// Its centre lies outside its tolerance.
    Outside,
    /// The cone moves its bands off a line, as it does with every copy.
    BandShift,
    /// Within its tolerance, but it passes far less of a line than a copy at the promised centre.
    Edge,
    /// Its lines come through as they should.
    Innocent,
    /// The exposures do not tell.
    Unsure,
}

/// A line through a copy at one focal ratio.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct LineThrough {
    /// The line's quantity.
    pub quantity: Quantity,
    /// Its name.
    pub name: String,
    /// Its wavelength in air, nm.
    pub line_nm: f64,
    /// Middle of the band that is meant for it, in the telescope's cone, nm; null of a filter that is
    /// drawn as a curve.
    pub centre_nm: Option<Estimate>,
    /// Share of the line that comes through, 0-1.
    pub passes: Estimate,
    /// Share that a copy at its promised centre passes there, 0-1.
    pub promised: f64,
    /// Share that such a copy passes in slow light, 0-1.
    pub slow: f64,
}

/// A copy at one focal ratio.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct CopyAt {
    /// The telescope's focal ratio.
    pub focal_ratio: f64,
    /// The lines that the filter is for.
    pub lines: Vec<LineThrough>,
}

/// What two exposures say of one copy of a filter.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct FilterCopy {
    /// Its name.
    pub filter: String,
    /// The verdict.
    pub verdict: CopyVerdict,
    /// The same in sentences.
    pub told: Vec<String>,
    /// How far a copy's centre may lie from the promised one, nm either way.
    pub tolerance_nm: f64,
    /// Centre over the promised one in parallel light, nm.
    pub off_nm: Estimate,
    /// Effective index.
    pub n_eff: Estimate,
    /// How the two go together: their correlation, -1 to 1.
    pub together: f64,
    /// How likely each centre is: nm over the promised one, and the density to a nanometre.
    #[schema(value_type = Vec<Vec<f64>>)]
    pub likely: Vec<[f64; 2]>,
    /// What that means at each focal ratio, the fastest first.
    pub at: Vec<CopyAt>,
    /// Squares of the residuals over their errors, to a degree of freedom; null where there is none.
    pub misfit: Option<f64>,
    /// The filter as it was measured: centre, index, and a tolerance as wide as what is left unsure.
    pub as_measured: Filter,
}

/// Lines that a filter is told by.
const TOLD: [(Quantity, f64); 4] = [
    (Quantity::Ha, HA_NM),
    (Quantity::Oiii, OIII_NM),
    (Quantity::Sii, LINES[6].wavelength_nm),
    (Quantity::Hb, LINES[0].wavelength_nm),
];
/// A filter is for a line of which it passes at least so much in slow light.
const FOR_A_LINE: f64 = 0.3;
/// Certainty from which a copy is said to be outside its tolerance.
const CERTAIN: f64 = 0.95;
/// A share of a line that is known no better than this, or than this part of what is promised, is
/// not known.
const VAGUE: f64 = 0.12;
const VAGUE_PART: f64 = 0.25;
/// A line loses to the cone what is worth a word where less than this of its slow share is left.
const SHIFTED: f64 = 0.85;
/// Residuals over their errors from which the exposures do not belong together.
const MISFIT: f64 = 3.0;

/// Whether a filter is for lines: one so narrow that a nanometre matters, and that passes one of them.
pub fn is_for_lines(f: &Filter, on: &Optics) -> bool {
    let cone = FilterInCone::new(Some(f), on, 0.0);
    let passes = |(_, nm): &(Quantity, f64)| cone.at_normal_incidence(*nm) > FOR_A_LINE;
    cone.visible().0 < BROAD_NM && TOLD.iter().any(passes)
}

/// What two exposures say of a copy, and what it means on each telescope; `None` where no exposure
/// holds a line.
pub fn copy_told(q: &CopyQuestion, telescopes: &[Optics]) -> Option<FilterCopy> {
    let copy = q.seen[0].filter;
    let posterior = copy_posterior(q)?;
    let mut all: Vec<&Optics> = q.seen.iter().map(|s| &s.contender.optics).collect();
    all.extend(telescopes);
    all.sort_by(|a, b| a.focal_ratio().total_cmp(&b.focal_ratio()));
    all.dedup_by(|a, b| (a.focal_ratio() - b.focal_ratio()).abs() < 0.05);
    let at: Vec<CopyAt> = all.iter().map(|o| at(copy, o, &posterior)).collect();
    let off_nm = posterior.of(|l| l.off_nm);
    let n_eff = posterior.of(|l| l.n_eff);
    let product = posterior.of(|l| (l.off_nm - off_nm.value) * (l.n_eff - n_eff.value)).value;
    let mut as_measured = moved(copy, off_nm.value, n_eff.value);
    as_measured.centre_tolerance_nm = off_nm.sd.clamp(0.05, copy.centre_tolerance_nm.max(0.5));
    let mut told = FilterCopy {
        filter: copy.name.clone(),
        verdict: CopyVerdict::Unsure,
        told: Vec::new(),
        tolerance_nm: copy.centre_tolerance_nm,
        off_nm,
        n_eff,
        together: product / (off_nm.sd * n_eff.sd).max(1e-12),
        likely: posterior.by_centre(),
        at,
        misfit: posterior.misfit,
        as_measured,
    };
    (told.verdict, told.told) = judged(q, &posterior, &told);
    Some(told)
}

/// A filter with its bands moved and another index.
fn moved(f: &Filter, off_nm: f64, n_eff: f64) -> Filter {
    let mut own = Filter { n_eff, ..f.clone() };
    own.bands.iter_mut().flatten().for_each(|b| b.centre_nm += off_nm);
    if let Some(curve) = &mut own.curve {
        curve.0.iter_mut().for_each(|p| p[0] += off_nm);
    }
    own
}

/// What a copy passes of its lines on one telescope.
fn at(copy: &Filter, optics: &Optics, posterior: &CopyPosterior) -> CopyAt {
    let promised = FilterInCone::new(Some(copy), optics, 0.0);
    // One filter an index: the places come index by index at each centre.
    let mut indices: Vec<f64> = posterior.all.iter().map(|l| l.n_eff).collect();
    indices.sort_by(f64::total_cmp);
    indices.dedup();
    let filters: Vec<Filter> =
        indices.iter().map(|n| Filter { n_eff: *n, ..copy.clone() }).collect();
    let of = |n: f64| indices.partition_point(|i| *i < n);
    let factors: Vec<f64> = indices
        .iter()
        .map(|n| Cone::new(optics.focal_ratio(), optics.obstruction_ratio(), *n, 1.0).mean_factor())
        .collect();
    let line = |(quantity, line_nm): (Quantity, f64)| {
        let slow = promised.at_normal_incidence(line_nm);
        if slow < FOR_A_LINE {
            return None;
        }
        let passes = posterior
            .of(|l| FilterInCone::new(Some(&filters[of(l.n_eff)]), optics, l.off_nm).at(line_nm));
        let band =
            copy.bands.iter().flatten().min_by(|a, b| {
                (a.centre_nm - line_nm).abs().total_cmp(&(b.centre_nm - line_nm).abs())
            });
        let centre_nm =
            band.map(|b| posterior.of(|l| (b.centre_nm + l.off_nm) * factors[of(l.n_eff)]));
        Some(LineThrough {
            quantity,
            name: quantity.label().to_owned(),
            line_nm,
            centre_nm,
            passes,
            promised: promised.at(line_nm),
            slow,
        })
    };
    CopyAt { focal_ratio: optics.focal_ratio(), lines: TOLD.into_iter().filter_map(line).collect() }
}

/// The verdict, by the fastest telescope that the copy was seen on, and its sentences.
fn judged(q: &CopyQuestion, p: &CopyPosterior, told: &FilterCopy) -> (CopyVerdict, Vec<String>) {
    let copy = q.seen[0].filter;
    let seen = &q.seen[..if q.same_copy { 2 } else { 1 }];
    let fastest =
        seen.iter().map(|s| s.contender.optics.focal_ratio()).fold(f64::INFINITY, f64::min);
    let here = told.at.iter().find(|a| (a.focal_ratio - fastest).abs() < 0.05);
    let worst = here.and_then(|a| {
        let left = |l: &&LineThrough| l.passes.value / l.slow;
        a.lines.iter().min_by(|a, b| left(a).total_cmp(&left(b)))
    });
    let tolerance_nm = copy.centre_tolerance_nm;
    let outside = p.share(|l| l.off_nm.abs() > tolerance_nm);
    let Some(worst) = worst else {
        let said = format!("{} lets no line through that a nebula is known by.", copy.name);
        return (CopyVerdict::Unsure, vec![said]);
    };
    let f = format!("f/{:.1}", fastest);
    let line = &worst.name;
    let [passes, promised, slow] =
        [worst.passes.value, worst.promised, worst.slow].map(|s| format!("{:.0} %", 100.0 * s));
    let colour = if told.off_nm.value < 0.0 { "blue" } else { "red" };
    let off = format!("{:.1} nm too {colour}", told.off_nm.value.abs());
    let ranges = format!(
        "Its centre is {:+.1} \u{b1} {:.1} nm off in parallel light with an effective index of {:.2} \u{b1} \
         {:.2}; at {f} the two together leave {line} at {passes} \u{b1} {:.0}.",
        told.off_nm.value,
        told.off_nm.sd,
        told.n_eff.value,
        told.n_eff.sd,
        100.0 * worst.passes.sd
    );
    let (verdict, said) = if p.misfit.is_some_and(|m| m.sqrt() > MISFIT) {
        let said = "No place of its bands fits these exposures: a cloud, another patch, or a gain \
                    that is not as the kit says. Take both anew, or mark the same patch on both.";
        (CopyVerdict::Unsure, said.to_owned())
    } else if outside > CERTAIN {
        let said = format!(
            "A copy {off}, outside its tolerance of \u{b1} {tolerance_nm:.1} nm: at {f} {passes} of {line} \
             come through, {promised} of a copy as promised."
        );
        (CopyVerdict::Outside, said)
    } else if worst.passes.sd > VAGUE.min(VAGUE_PART * worst.promised) {
        let said = format!(
            "These exposures do not tell: at {f} anything between {:.0} and {:.0} % of {line} may come \
             through. {}",
            100.0 * (worst.passes.value - worst.passes.sd).max(0.0),
            100.0 * (worst.passes.value + worst.passes.sd).min(1.0),
            if q.same_copy {
                "Longer ones of a brighter patch would."
            } else {
                "The same copy on a telescope of another focal ratio would, or a longer exposure."
            }
        );
        (CopyVerdict::Unsure, said)
    } else if worst.passes.value < SHIFTED * worst.promised {
        let said = format!(
            "Within its tolerance, but {off}: at {f} {passes} of {line} come through, {promised} of a copy \
             at its promised centre."
        );
        (CopyVerdict::Edge, said)
    } else if worst.promised < SHIFTED * worst.slow {
        let said = format!(
            "Band shift, as every copy: the cone of {f} moves the band to the blue, and {passes} of {line} \
             come through where slow light leaves {slow}. A wider band, or one made for fast \
             telescopes, passes more."
        );
        (CopyVerdict::BandShift, said)
    } else {
        let said = format!(
            "The filter is innocent: at {f} {passes} of {line} come through, as promised. Look at focus, \
             thin cloud, the moon, the sub's length and the target's own brightness."
        );
        (CopyVerdict::Innocent, said)
    };
    (verdict, vec![said, ranges])
}

/// What was found of a copy as an offer: the middle of its reddest band.
pub fn offer_of_copy(c: &FilterCopy) -> Offer {
    let reddest = c.as_measured.bands.iter().flatten().map(|b| b.centre_nm).fold(0.0, f64::max);
    let measured = Estimate { value: reddest, sd: c.off_nm.sd };
    Offer {
        lesson: Lesson::FilterCentre,
        now: Estimate { value: reddest - c.off_nm.value, sd: c.tolerance_nm },
        measured,
        offered: measured,
        unit: " nm".to_owned(),
        from_solar_hour: None,
        azimuth_deg: None,
        gain: None,
        evidence: c.told.join(" "),
    }
}
