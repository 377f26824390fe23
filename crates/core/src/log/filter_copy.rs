//! Where the bands of one copy of a filter lie, by what a patch of a nebula holds through it.
//!
//! A cone of light moves a band to the blue, and a copy may be centred elsewhere than its box says;
//! in one frame both look like a dim line. Two exposures of one patch tell them apart: the same copy
//! at two focal ratios, or the copy beside another filter on one telescope. Every place of the
//! centre, and every effective index, says how much of each line comes through each exposure; the
//! lines' brightnesses are solved for, and what is left over says how likely that place is. Summed
//! over are the lines' brightnesses, how much light comes through an exposure as a whole, and the
//! other filter's own centre. Where the bands lie in a fast telescope's cone comes out far better
//! than centre and index apart: a copy too red with a low index acts like a centred one.

use crate::light::lines::{LINES, Quantity};
use crate::light::units::PHOTONS_PER_RAYLEIGH;
use crate::log::lines::PatchSub;
use crate::log::offer::Estimate;
use crate::path::filter::cone::{INDEX_SIGMA, copy_sigma_nm};
use crate::path::filter::weights::FilterInCone;
use crate::path::sky::air::Air;
use crate::scenario::exposure::Filter;
use crate::scenario::rig::{Contender, Optics};
use crate::scenario::target::LinesRayleigh;

/// A patch of the target through one filter of one light path, on one frame or several.
#[derive(Clone, Debug)]
pub struct CopySeen<'a> {
    /// The light path.
    pub contender: &'a Contender,
    /// The filter before it.
    pub filter: &'a Filter,
    /// Light of the catalogue's stars over what the path promises: they shine in all colours, so that
    /// a band that moves takes nothing from them. `None` where too few are known.
    pub light: Option<Estimate>,
    /// What the patch held in each channel of each frame, and the air before it.
    pub held: Vec<(PatchSub, Air)>,
}

/// Two exposures of one patch.
#[derive(Clone, Debug)]
pub struct CopyQuestion<'a> {
    /// The first is through the copy in question.
    pub seen: [CopySeen<'a>; 2],
    /// Whether the second is through the same copy, on another telescope.
    pub same_copy: bool,
    /// About how bright the target's lines are.
    pub believed: LinesRayleigh,
}

/// Places of the centre that are tried: either side of the promised one, and their distance, nm.
const REACH_NM: f64 = 6.0;
const STEP_NM: f64 = 0.05;
/// Places of the index that are tried, in standard deviations from the usual one.
const INDICES: [f64; 11] = [-2.5, -2.0, -1.5, -1.0, -0.5, 0.0, 0.5, 1.0, 1.5, 2.0, 2.5];
/// Copies that do not keep to their tolerance (from memory: about one in ten).
const STRAY: f64 = 0.1;
/// How well the light of an exposure is known where no star tells it: gain, throughput and clearness
/// (from memory).
const LIGHT_SD: f64 = 0.05;
/// What the colours of stars and the apertures in which they are measured leave uncertain of it where
/// they do (from memory).
const OF_STARS: f64 = 0.01;
/// What clearness and seeing leave uncertain of one frame against the next (from memory).
const FRAME_SD: f64 = 0.02;
/// How far a line may be from what is believed of it: so many times as much, and so many rayleigh.
const BELIEVED_TIMES: f64 = 3.0;
const FAINT_R: f64 = 5.0;
/// [N II] over H-alpha of a target that says nothing of it (from memory: a usual H II region).
const USUAL_NII: f64 = 0.3;
/// A place less likely than this share of all says nothing.
const NOTHING: f64 = 1e-9;
/// Nodes and weights of the 5-point Gauss-Hermite rule for a standard normal deviate.
pub(crate) const HERMITE: [(f64, f64); 5] = [
    (-2.856_970_013_872_806, 0.011_257_411_327_720_69),
    (-1.355_626_179_974_266, 0.222_075_922_005_612_6),
    (0.0, 0.533_333_333_333_333_3),
    (1.355_626_179_974_266, 0.222_075_922_005_612_6),
    (2.856_970_013_872_806, 0.011_257_411_327_720_69),
];

/// Lines that are solved for.
const SOLVED: [Quantity; 4] = [Quantity::Ha, Quantity::Oiii, Quantity::Sii, Quantity::Hb];

type Lines = [f64; LINES.len()];
type Four = [f64; SOLVED.len()];

/// One place of the copy's bands, and how likely it is.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Likely {
    /// Centre over the promised one in parallel light, nm.
    pub(crate) off_nm: f64,
    /// Effective index.
    pub(crate) n_eff: f64,
    /// Its share of all, which sum to 1.
    pub(crate) share: f64,
}

/// All places of a copy's bands with how likely each is.
#[derive(Clone, Debug)]
pub struct CopyPosterior {
    pub(crate) all: Vec<Likely>,
    /// Squares of the residuals over their errors at the likeliest place, to a degree of freedom;
    /// `None` where there is none.
    pub(crate) misfit: Option<f64>,
}

impl CopyPosterior {
    /// Mean and standard deviation of what follows from each place.
    pub(crate) fn of(&self, f: impl Fn(&Likely) -> f64) -> Estimate {
        let (mut mean, mut square) = (0.0, 0.0);
        for l in &self.all {
            let v = f(l);
            mean += l.share * v;
            square += l.share * v * v;
        }
        Estimate { value: mean, sd: (square - mean * mean).max(0.0).sqrt() }
    }

    /// Share of the places of which something is so, 0-1.
    pub(crate) fn share(&self, f: impl Fn(&Likely) -> bool) -> f64 {
        self.all.iter().filter(|l| f(l)).map(|l| l.share).sum()
    }

    /// How likely each centre is, whatever the index: nm over the promised one, and the density to a
    /// nanometre; the unlikely ends left out.
    pub(crate) fn by_centre(&self) -> Vec<[f64; 2]> {
        let mut out: Vec<[f64; 2]> = Vec::new();
        for l in &self.all {
            let density = l.share / STEP_NM;
            match out.last_mut().filter(|last| last[0] == l.off_nm) {
                Some(last) => last[1] += density,
                None => out.push([l.off_nm, density]),
            }
        }
        out.retain(|d| d[1] > 1e-3);
        out
    }
}

/// A filter in a telescope's cone, its index and centre as they are tried.
pub(crate) fn in_cone<'a>(f: &'a Filter, optics: &Optics, off_nm: f64) -> FilterInCone<'a> {
    FilterInCone::new(Some(f), optics, off_nm)
}

/// Where one copy's bands lie; `None` where no exposure holds a line.
///
/// The likelihood of a place is that of the patch's electrons, with the lines' brightnesses summed
/// over under a normal prior as wide as what is believed (Gelman et al., Bayesian Data Analysis,
/// 14.2) and one factor of light an exposure.
pub fn copy_posterior(q: &CopyQuestion) -> Option<CopyPosterior> {
    let copy = q.seen[0].filter;
    let [first, second] = [0, 1].map(|i| Sent::new(&q.seen[i], &q.believed));
    if first.rows.is_empty() || second.rows.is_empty() {
        return None;
    }
    let prior = Equations::believed(&q.believed);
    let other: Vec<(Equations, f64)> = if q.same_copy {
        Vec::new()
    } else {
        let (f, optics) = (q.seen[1].filter, &q.seen[1].contender.optics);
        let sigma_nm = copy_sigma_nm(f, optics);
        let at = |(z, w)| (second.through(&in_cone(f, optics, z * sigma_nm)), w);
        HERMITE.into_iter().map(at).collect()
    };
    let steps = (REACH_NM / STEP_NM).round() as i32;
    let indices =
        INDICES.map(|z| (z, Filter { n_eff: copy.n_eff + z * INDEX_SIGMA, ..copy.clone() }));
    let mut all = Vec::new();
    let mut best = (f64::NEG_INFINITY, 0.0);
    for i in -steps..=steps {
        let off_nm = f64::from(i) * STEP_NM;
        for (z, f) in &indices {
            let before = prior_of(off_nm, copy.centre_tolerance_nm).ln() - z * z / 2.0;
            let through = |sent: &Sent, seen: &CopySeen| {
                sent.through(&in_cone(f, &seen.contender.optics, off_nm))
            };
            let own = prior.and(&through(&first, &q.seen[0]));
            let (log, left) = if q.same_copy {
                own.and(&through(&second, &q.seen[1])).solved()
            } else {
                summed(other.iter().map(|(e, w)| (own.and(e).solved(), *w)))
            };
            if log + before > best.0 {
                best = (log + before, left);
            }
            all.push(Likely { off_nm, n_eff: f.n_eff, share: log + before });
        }
    }
    all.iter_mut().for_each(|l| l.share = (l.share - best.0).exp());
    let sum: f64 = all.iter().map(|l| l.share).sum();
    all.retain(|l| l.share > NOTHING * sum);
    let sum: f64 = all.iter().map(|l| l.share).sum();
    all.iter_mut().for_each(|l| l.share /= sum);
    let rows = first.rows.len() + second.rows.len();
    let freedom = rows.saturating_sub(first.lines().max(second.lines()) + 1);
    Some(CopyPosterior { all, misfit: (freedom > 0).then(|| best.1 / freedom as f64) })
}

/// How likely a copy is to be so far off before anything is seen: most keep to their tolerance, some
/// are anywhere.
fn prior_of(off_nm: f64, tolerance_nm: f64) -> f64 {
    let sigma = tolerance_nm.max(STEP_NM);
    let kept = (-(off_nm / sigma).powi(2) / 2.0).exp() / (sigma * std::f64::consts::TAU.sqrt());
    (1.0 - STRAY) * kept + STRAY / (2.0 * REACH_NM)
}

/// The logarithm of a weighed sum of likelihoods, and what is left over at the likeliest.
fn summed(of: impl Iterator<Item = ((f64, f64), f64)>) -> (f64, f64) {
    let all: Vec<_> = of.map(|((log, left), w)| (log + w.ln(), left)).collect();
    let most =
        all.iter().copied().fold((f64::NEG_INFINITY, 0.0), |a, b| if b.0 > a.0 { b } else { a });
    let sum: f64 = all.iter().map(|(log, _)| (log - most.0).exp()).sum();
    (most.0 + sum.ln(), most.1)
}

/// One channel of one frame: what one rayleigh of each line sends there before the filter, and what
/// it holds, both over the error of the latter.
struct Row {
    sent: Lines,
    held: f64,
}

/// What an exposure's channels are sent.
struct Sent {
    rows: Vec<Row>,
    /// How well its light is known as a whole, as a share of it.
    light_sd: f64,
    /// Lines that no channel is sent.
    dark: [bool; LINES.len()],
}

impl Sent {
    fn new(seen: &CopySeen, believed: &LinesRayleigh) -> Self {
        let nii = if believed.ha > 0.0 { believed.nii / believed.ha } else { USUAL_NII };
        let unit = LinesRayleigh {
            ha: 1.0 / (1.0 + nii),
            nii: nii / (1.0 + nii),
            oiii: 1.0,
            sii: 1.0,
            hb: 1.0,
        };
        let (unit, channels) = (unit.each(), seen.contender.sensor.channels());
        let per_pixel = PHOTONS_PER_RAYLEIGH * seen.contender.photons_per_pixel();
        let light = seen.light.filter(|l| l.value > 0.0);
        let light_sd = light.map_or(LIGHT_SD, |l| (l.sd / l.value).hypot(OF_STARS).min(LIGHT_SD));
        let light = light.map_or(1.0, |l| l.value);
        let row = |(s, air): &(PatchSub, Air)| {
            let channel = channels.iter().find(|c| c.name == s.channel)?;
            let sd = s.sd_e_per_s.hypot(FRAME_SD * s.over_e_per_s);
            let sent = std::array::from_fn(|i| {
                let nm = LINES[i].wavelength_nm;
                let electrons = per_pixel * air.transmission(nm) * channel.response(nm);
                unit[i] * electrons * s.transparency * light / sd
            });
            Some(Row { sent, held: s.over_e_per_s / sd })
        };
        let rows: Vec<Row> = seen.held.iter().filter_map(row).collect();
        let dark = std::array::from_fn(|i| rows.iter().all(|r| r.sent[i] == 0.0));
        Self { rows, light_sd, dark }
    }

    /// Kinds of lines that any channel is sent.
    fn lines(&self) -> usize {
        let sent =
            |q: &&Quantity| LINES.iter().zip(self.dark).any(|(l, dark)| !dark && l.quantity == **q);
        SOLVED.iter().filter(sent).count()
    }

    /// The equations of the lines' brightnesses behind a filter, the exposure's own factor of light
    /// summed over: its error is along what is held (Sherman and Morrison 1950).
    fn through(&self, f: &FilterInCone) -> Equations {
        let t: Lines =
            std::array::from_fn(|i| if self.dark[i] { 0.0 } else { f.at(LINES[i].wavelength_nm) });
        let mut out = Equations::default();
        for r in &self.rows {
            let mut a = Four::default();
            for (i, line) in LINES.iter().enumerate() {
                if let Some(q) = SOLVED.iter().position(|q| *q == line.quantity) {
                    a[q] += r.sent[i] * t[i];
                }
            }
            for i in 0..SOLVED.len() {
                for j in 0..SOLVED.len() {
                    out.m[i][j] += a[i] * a[j];
                }
                out.v[i] += a[i] * r.held;
            }
            out.c += r.held * r.held;
        }
        let (along, held2) = (out.v, out.c);
        let light2 = self.light_sd * self.light_sd;
        let k = light2 / (1.0 + light2 * held2);
        for i in 0..SOLVED.len() {
            for j in 0..SOLVED.len() {
                out.m[i][j] -= k * along[i] * along[j];
            }
            out.v[i] -= k * along[i] * held2;
        }
        out.c -= k * held2 * held2;
        out
    }
}

/// Normal equations of the lines' brightnesses: matrix, right side, and the square of what is held.
#[derive(Clone, Copy, Debug, Default)]
struct Equations {
    m: [Four; SOLVED.len()],
    v: Four,
    c: f64,
}

impl Equations {
    fn believed(l: &LinesRayleigh) -> Self {
        let mut out = Self::default();
        for (i, x) in [l.ha + l.nii, l.oiii, l.sii, l.hb].into_iter().enumerate() {
            let precision = (BELIEVED_TIMES * x + FAINT_R).powi(-2);
            (out.m[i][i], out.v[i]) = (precision, precision * x);
            out.c += precision * x * x;
        }
        out
    }

    fn and(&self, o: &Self) -> Self {
        let mut out = *self;
        for i in 0..SOLVED.len() {
            for j in 0..SOLVED.len() {
                out.m[i][j] += o.m[i][j];
            }
            out.v[i] += o.v[i];
        }
        out.c += o.c;
        out
    }

    /// The logarithm of the likelihood with the brightnesses summed over, and what is left over at
    /// the best of them: by Cholesky's decomposition.
    fn solved(&self) -> (f64, f64) {
        let mut l = [Four::default(); SOLVED.len()];
        let mut y = Four::default();
        let mut log_root = 0.0;
        for i in 0..SOLVED.len() {
            for j in 0..=i {
                let rest = self.m[i][j] - (0..j).map(|k| l[i][k] * l[j][k]).sum::<f64>();
                l[i][j] = if i == j { rest.max(f64::MIN_POSITIVE).sqrt() } else { rest / l[j][j] };
            }
            y[i] = (self.v[i] - (0..i).map(|k| l[i][k] * y[k]).sum::<f64>()) / l[i][i];
            log_root += l[i][i].ln();
        }
        let left = (self.c - y.iter().map(|y| y * y).sum::<f64>()).max(0.0);
        (-left / 2.0 - log_root, left)
    }
}

#[cfg(test)]
#[path = "filter_copy_tests.rs"]
mod tests;
