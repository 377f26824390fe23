//! Which star of one frame is which of another: the similarity (turn, scale, shift) that lays most
//! stars of one list upon stars of the other.
//!
//! Two stars of one list and two of the other that stand equally far apart fix a similarity; the
//! one under which most bright stars fall upon each other is it, and all stars then mend it by least
//! squares. Frames of one rig have one scale, so that a length is looked up and no triangle is
//! needed; a half turn at the meridian, dither and drift are all the same to it. A mirrored list is
//! another question: [`Search::mirrored`].

/// Stars that are tried, the brightest of each list.
const TRIED: usize = 40;
/// A similarity that lays so many of the tried stars on others, as a share, needs no rival.
const SURE_SHARE: f64 = 0.6;
/// Stars that must fall upon others at least.
const LEAST_PAIRS: usize = 4;
/// Pairs of stars nearer than this fix no direction, px.
const LEAST_LENGTH_PX: f64 = 40.0;
/// Times that all pairs mend the similarity.
const MENDED: usize = 3;

/// How a match is looked for.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Search {
    /// How far the scale may be from `scale`, as a share of it, 0-0.2.
    pub scale_within: f64,
    /// Pixels of the reference to a pixel of the frame, as expected.
    pub scale: f64,
    /// How near a star must fall to be the same, px of the reference.
    pub within_px: f64,
    /// Whether the frame is a mirror image of the reference.
    pub mirrored: bool,
}

impl Default for Search {
    /// Frames of one rig.
    fn default() -> Self {
        Self { scale_within: 0.002, scale: 1.0, within_px: 2.5, mirrored: false }
    }
}

/// Lays points of a frame upon those of a reference:
/// `x' = a x - b y + c`, `y' = b x + a y + d`, of a mirrored frame with `-x` for `x`.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Similarity {
    a: f64,
    b: f64,
    shift: [f64; 2],
    mirrored: bool,
}

impl Similarity {
    /// A frame upon itself.
    pub const IDENTITY: Self = Self { a: 1.0, b: 0.0, shift: [0.0; 2], mirrored: false };

    /// Where a point of the frame falls on the reference, px.
    pub fn apply(&self, [x, y]: [f64; 2]) -> [f64; 2] {
        let x = if self.mirrored { -x } else { x };
        [self.a * x - self.b * y + self.shift[0], self.b * x + self.a * y + self.shift[1]]
    }

    /// Pixels of the reference to a pixel of the frame.
    pub fn scale(&self) -> f64 {
        self.a.hypot(self.b)
    }

    /// How far the frame is turned to lie on the reference, degrees from x to y, -180 to 180.
    pub fn turned_deg(&self) -> f64 {
        self.b.atan2(self.a).to_degrees()
    }

    /// Whether the frame is mirrored first.
    pub fn is_mirrored(&self) -> bool {
        self.mirrored
    }

    /// The one that lays `p0`, `p1` on `q0`, `q1`; the division of complex numbers
    /// `(q1 - q0) / (p1 - p0)`.
    fn of_two([p0, p1]: [[f64; 2]; 2], [q0, q1]: [[f64; 2]; 2], mirrored: bool) -> Self {
        let sign = if mirrored { -1.0 } else { 1.0 };
        let (px, py) = (sign * (p1[0] - p0[0]), p1[1] - p0[1]);
        let (qx, qy) = (q1[0] - q0[0], q1[1] - q0[1]);
        let length2 = px * px + py * py;
        let (a, b) = ((qx * px + qy * py) / length2, (qy * px - qx * py) / length2);
        let x0 = sign * p0[0];
        let shift = [q0[0] - (a * x0 - b * p0[1]), q0[1] - (b * x0 + a * p0[1])];
        Self { a, b, shift, mirrored }
    }

    /// The one of least squares over pairs; `None` of fewer than two different points.
    fn of_pairs(pairs: &[([f64; 2], [f64; 2])], mirrored: bool) -> Option<Self> {
        let sign = if mirrored { -1.0 } else { 1.0 };
        let n = pairs.len() as f64;
        let mut mean = [0.0; 4];
        for (p, q) in pairs {
            for (m, v) in mean.iter_mut().zip([sign * p[0], p[1], q[0], q[1]]) {
                *m += v / n;
            }
        }
        let [mut along, mut across, mut norm] = [0.0; 3];
        for (p, q) in pairs {
            let (px, py) = (sign * p[0] - mean[0], p[1] - mean[1]);
            let (qx, qy) = (q[0] - mean[2], q[1] - mean[3]);
            along += qx * px + qy * py;
            across += qy * px - qx * py;
            norm += px * px + py * py;
        }
        if norm <= 0.0 {
            return None;
        }
        let (a, b) = (along / norm, across / norm);
        let shift = [mean[2] - (a * mean[0] - b * mean[1]), mean[3] - (b * mean[0] + a * mean[1])];
        Some(Self { a, b, shift, mirrored })
    }
}

/// What was found.
#[derive(Clone, Debug, PartialEq)]
pub struct Matched {
    /// How the frame lies on the reference.
    pub similarity: Similarity,
    /// Index in the frame and in the reference of each star that both have.
    pub pairs: Vec<[usize; 2]>,
    /// Root mean square of what is left between them, px of the reference.
    pub rms_px: f64,
}

/// Places sorted by x, so that the nearest to a point is found without asking all.
struct Near<'a> {
    places: &'a [[f64; 2]],
    order: Vec<usize>,
}

impl<'a> Near<'a> {
    fn new(places: &'a [[f64; 2]]) -> Self {
        let mut order: Vec<usize> = (0..places.len()).collect();
        order.sort_by(|i, j| places[*i][0].total_cmp(&places[*j][0]));
        Self { places, order }
    }

    /// The nearest place within a radius, and the square of how far it is.
    fn nearest(&self, at: [f64; 2], within: f64) -> Option<(usize, f64)> {
        let from = self.order.partition_point(|i| self.places[*i][0] < at[0] - within);
        let candidates = self.order[from..].iter().map(|i| (*i, self.places[*i]));
        candidates
            .take_while(|(_, p)| p[0] <= at[0] + within)
            .map(|(i, p)| (i, (p[0] - at[0]).powi(2) + (p[1] - at[1]).powi(2)))
            .filter(|(_, d2)| *d2 <= within * within)
            .min_by(|a, b| a.1.total_cmp(&b.1))
    }
}

/// Pairs of a list with their length, the longest first for what fixes a direction best.
fn lengths(places: &[[f64; 2]]) -> Vec<(f64, [usize; 2])> {
    let mut all = Vec::with_capacity(places.len() * places.len() / 2);
    for (i, p) in places.iter().enumerate() {
        for (j, q) in places.iter().enumerate().skip(i + 1) {
            let length = (p[0] - q[0]).hypot(p[1] - q[1]);
            if length >= LEAST_LENGTH_PX {
                all.push((length, [i, j]));
            }
        }
    }
    all
}

/// Lays a frame's stars upon a reference's: places in px, the brightest first. `None` where no
/// similarity lays at least four of them, or a third of those that both could have, upon others.
pub fn match_stars(frame: &[[f64; 2]], reference: &[[f64; 2]], search: Search) -> Option<Matched> {
    let few = |all: &[[f64; 2]]| all.len().min(TRIED);
    let (own, other) = (&frame[..few(frame)], &reference[..few(reference)]);
    let most = own.len().min(other.len());
    if most < LEAST_PAIRS {
        return None;
    }
    let near = Near::new(other);
    let mut of_other = lengths(other);
    of_other.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mut best: Option<(usize, f64, Similarity)> = None;
    let sure = ((most as f64 * SURE_SHARE).ceil() as usize).max(LEAST_PAIRS);
    'all: for (length, [i, j]) in lengths(own) {
        let expected = length * search.scale;
        let off = expected * search.scale_within + search.within_px;
        let from = of_other.partition_point(|(l, _)| *l < expected - off);
        for (l, [k, m]) in &of_other[from..] {
            if *l > expected + off {
                break;
            }
            for [k, m] in [[*k, *m], [*m, *k]] {
                let two = ([own[i], own[j]], [other[k], other[m]]);
                let s = Similarity::of_two(two.0, two.1, search.mirrored);
                let hits = own.iter().filter_map(|p| near.nearest(s.apply(*p), search.within_px));
                let (count, sum) = hits.fold((0, 0.0), |(n, sum), (_, d2)| (n + 1, sum + d2));
                let better = |(n, had, _): &(usize, f64, _)| (count, -sum) > (*n, -*had);
                if best.as_ref().is_none_or(better) {
                    best = Some((count, sum, s));
                }
                if count >= sure {
                    break 'all;
                }
            }
        }
    }
    let (count, _, first) = best?;
    if count < LEAST_PAIRS.max(most / 3) {
        return None;
    }
    mended(frame, reference, search, first)
}

/// All stars of both lists mend what a few of them found.
fn mended(
    frame: &[[f64; 2]],
    reference: &[[f64; 2]],
    search: Search,
    first: Similarity,
) -> Option<Matched> {
    let near = Near::new(reference);
    let mut similarity = first;
    let mut pairs = Vec::new();
    for _ in 0..MENDED {
        pairs = paired(frame, &near, &similarity, search.within_px);
        let places: Vec<_> = pairs.iter().map(|[i, k]| (frame[*i], reference[*k])).collect();
        similarity = Similarity::of_pairs(&places, search.mirrored)?;
    }
    let off2 = |[i, k]: &[usize; 2]| {
        let at = similarity.apply(frame[*i]);
        (at[0] - reference[*k][0]).powi(2) + (at[1] - reference[*k][1]).powi(2)
    };
    let rms_px = (pairs.iter().map(off2).sum::<f64>() / pairs.len().max(1) as f64).sqrt();
    (pairs.len() >= LEAST_PAIRS).then_some(Matched { similarity, pairs, rms_px })
}

/// Each star of the frame with the nearest of the reference, and no star of it twice: the nearest
/// keeps it.
fn paired(frame: &[[f64; 2]], near: &Near, s: &Similarity, within: f64) -> Vec<[usize; 2]> {
    let mut taken: Vec<Option<(f64, usize)>> = vec![None; near.places.len()];
    for (i, p) in frame.iter().enumerate() {
        if let Some((k, d2)) = near.nearest(s.apply(*p), within)
            && taken[k].is_none_or(|(had, _)| d2 < had)
        {
            taken[k] = Some((d2, i));
        }
    }
    taken.iter().enumerate().filter_map(|(k, t)| t.map(|(_, i)| [i, k])).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use rand::{RngExt, SeedableRng};
    use rand_pcg::Pcg64Mcg;

    /// Stars scattered over a frame, by seed.
    fn scattered(n: usize, seed: u64) -> Vec<[f64; 2]> {
        let mut rng = Pcg64Mcg::seed_from_u64(seed);
        (0..n).map(|_| [rng.random::<f64>() * 3000.0, rng.random::<f64>() * 2000.0]).collect()
    }

    /// The same stars in a frame that is turned, shifted and scaled, a few of them lost, others
    /// found, each a little off.
    fn seen(stars: &[[f64; 2]], (turn, scale, mirrored): (f64, f64, bool)) -> Vec<[f64; 2]> {
        let mut rng = Pcg64Mcg::seed_from_u64(5);
        let mut one = |[x, y]: &[f64; 2]| {
            let (sin, cos) = turn.to_radians().sin_cos();
            let off = [rng.random::<f64>() - 0.5, rng.random::<f64>() - 0.5];
            let at = [scale * (cos * x - sin * y) + 31.0, scale * (sin * x + cos * y) - 17.0];
            let x = if mirrored { -at[0] } else { at[0] };
            [x + 0.4 * off[0], at[1] + 0.4 * off[1]]
        };
        let kept = stars.iter().enumerate().filter(|(i, _)| i % 5 != 3).map(|(_, p)| p);
        let mut all: Vec<[f64; 2]> = kept.map(&mut one).collect();
        for (i, extra) in scattered(stars.len() / 5, 77).into_iter().enumerate() {
            all.insert(3 * i + 1, extra);
        }
        all
    }

    #[test]
    fn dither_drift_and_the_half_turn_are_found() {
        let reference = scattered(120, 1);
        for turn in [0.0, 0.3, 90.0, 179.6, -35.0] {
            let frame = seen(&reference, (turn, 1.0, false));
            let found = match_stars(&frame, &reference, Search::default()).expect("matched");
            let back = (found.similarity.turned_deg() + turn + 540.0).rem_euclid(360.0) - 180.0;
            assert!(back.abs() < 0.01, "{turn}: {}", found.similarity.turned_deg());
            assert!(found.pairs.len() >= 90 && found.rms_px < 0.25, "{found:?}");
            assert!((found.similarity.scale() - 1.0).abs() < 2e-4);
            for [i, k] in &found.pairs {
                let at = found.similarity.apply(frame[*i]);
                assert!((at[0] - reference[*k][0]).hypot(at[1] - reference[*k][1]) < 2.5);
            }
        }
    }

    #[test]
    fn a_mirrored_frame_of_another_scale_is_found_when_it_is_asked_for() {
        let reference = scattered(80, 2);
        let frame = seen(&reference, (25.0, 1.01, true));
        let search = Search { scale_within: 0.03, within_px: 3.0, ..Search::default() };
        assert_eq!(match_stars(&frame, &reference, search), None);
        let search = Search { mirrored: true, ..search };
        let found = match_stars(&frame, &reference, search).expect("matched");
        assert!(found.similarity.is_mirrored() && found.pairs.len() >= 60);
        assert!((found.similarity.scale() - 1.0 / 1.01).abs() < 3e-4);
    }

    #[test]
    fn other_stars_match_nothing() {
        for seed in 0..20 {
            let [a, b] = [scattered(60, 100 + seed), scattered(60, 200 + seed)];
            assert_eq!(match_stars(&a, &b, Search::default()), None, "{seed}");
        }
        assert_eq!(match_stars(&scattered(3, 1), &scattered(3, 1), Search::default()), None);
        assert_eq!(match_stars(&[], &[], Search::default()), None);
        // Stars in one place fix nothing.
        assert_eq!(match_stars(&[[5.0; 2]; 9], &[[5.0; 2]; 9], Search::default()), None);
    }
    /// What `astroalign` finds for the same lists: reference/matching.csv, made by
    /// reference/scripts/make_matching.py.
    #[test]
    fn another_program_lays_the_stars_the_same_way() {
        let text = include_str!("../../../../reference/matching.csv");
        type Case = (Vec<[f64; 2]>, Vec<[f64; 2]>, [f64; 4]);
        let mut cases: Vec<Case> = Vec::new();
        for line in text.lines().filter(|l| !l.starts_with('#')).skip(1) {
            let fields: Vec<&str> = line.split(',').collect();
            let n = |i: usize| fields[i].parse::<f64>().expect("a number");
            let case = n(0) as usize;
            if cases.len() == case {
                cases.push((Vec::new(), Vec::new(), [4, 5, 6, 7].map(n)));
            }
            let (frame, reference, _) = &mut cases[case];
            let list = if fields[1] == "frame" { frame } else { reference };
            list.push([n(2), n(3)]);
        }
        assert_eq!(cases.len(), 5);
        for (frame, reference, [turned, scale, x, y]) in cases {
            let search = Search { scale_within: 0.03, ..Search::default() };
            let found = match_stars(&frame, &reference, search).expect("matched");
            let s = found.similarity;
            assert!((s.turned_deg() - turned).abs() < 0.01, "{} {turned}", s.turned_deg());
            assert!((s.scale() - scale).abs() < 1e-4, "{} {scale}", s.scale());
            // In the middle of the frame the two agree within a fifth of the scatter's pixel.
            let (sin, cos) = turned.to_radians().sin_cos();
            let theirs = |[px, py]: [f64; 2]| {
                [scale * (cos * px - sin * py) + x, scale * (sin * px + cos * py) + y]
            };
            let middle = [1500.0, 1000.0];
            let (a, b) = (s.apply(middle), theirs(middle));
            assert!((a[0] - b[0]).hypot(a[1] - b[1]) < 0.2, "{a:?} {b:?}");
        }
    }
}
