//! Seeded draws of what is uncertain: one random state of target, sky, air, optics and filter
//! copies each, the same for all paths.
//!
//! A draw is one state of the world, not of the rows that ask about it: a filter copy has one
//! centre in it, however many rows and exposures use that copy, and what a row adds to the question
//! changes nothing for the others.

use rand::{Rng, RngExt, SeedableRng};
use rand_distr::{Distribution, Gamma};
use rand_pcg::Pcg64Mcg;
use serde::Serialize;
use utoipa::ToSchema;

use crate::light::lamp::Lamp;
use crate::light::lines::{LINES, PerQuantity, Quantity};
use crate::light::units::linear_from_mag;
use crate::path::filter::cone::{copy_sigma_nm, index_shift_nm};
use crate::path::rates::Rates;
use crate::path::scales::Scales;
use crate::path::sky::air::{Air, V_NM, airmass};
use crate::path::sky::artificial::artificial_linear;
use crate::path::sky::moon::moon_linear;
use crate::path::sky::natural::natural_growth;
use crate::path::sky::part::SkyPart;
use crate::scenario::document::Scenario;
use crate::scenario::exposure::{Exposure, Filter};
use crate::scenario::rig::{Contender, Optics};
use crate::scenario::sky::{Moon, Sky};
use crate::scenario::target::{Known, sigma_of_relative};
use crate::signal::channel::ChannelModel;
use crate::wording::{seconds, two_figures};

/// A result with its range.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct Range {
    /// One draw in ten lies below.
    pub low: f64,
    /// Half of the draws lie below.
    pub middle: f64,
    /// One draw in ten lies above.
    pub high: f64,
}

impl Range {
    /// The range of a list of draws; `None` for an empty one.
    pub fn of(mut draws: Vec<f64>) -> Option<Self> {
        if draws.is_empty() {
            return None;
        }
        draws.sort_by(f64::total_cmp);
        let [low, middle, high] = tenths(draws.len()).map(|i| draws[i]);
        Some(Self { low, middle, high })
    }

    /// The range of three values of a quantity that rises or falls steadily with what was drawn.
    pub fn of_three([a, middle, b]: [f64; 3]) -> Self {
        Self { low: a.min(b).min(middle), middle, high: a.max(b).max(middle) }
    }

    /// Each end through a function that rises or falls steadily.
    pub fn map(&self, f: impl Fn(f64) -> f64) -> Self {
        Self::of_three([f(self.low), f(self.middle), f(self.high)])
    }

    /// Whether low and high are told apart: more than 2 % between them.
    pub fn is_open(&self) -> bool {
        (self.high - self.low).abs() > 0.02 * self.middle.abs()
    }
}

/// Where one tenth, half and nine tenths of a sorted list lie.
fn tenths(len: usize) -> [usize; 3] {
    [0.1, 0.5, 0.9].map(|p| ((len - 1) as f64 * p).round() as usize)
}

/// All draws.
pub struct Draws(Vec<PathState>);

/// One path's states, draw by draw.
struct PathState {
    scales: Vec<Scales>,
    /// How far the bands of each exposure's filter are off, in standard deviations; empty where
    /// filters are taken as they are written.
    centres: Vec<Vec<f64>>,
}

/// The draws as one path meets them.
#[derive(Clone, Copy)]
pub struct PathDraws<'a>(&'a PathState);

/// How closely a lamp mix is known: the sum of the parameters of the Dirichlet distribution about
/// the stated one. With 20, a share of a half is known to 0.11 (from memory).
const LAMP_CONCENTRATION: f64 = 20.0;

/// A number for a text (FNV-1a).
fn number_of(text: &str) -> u64 {
    text.bytes()
        .fold(0xcbf2_9ce4_8422_2325, |h, b| (h ^ u64::from(b)).wrapping_mul(0x0100_0000_01b3))
}

/// Everything that is drawn has a generator of its own, seeded by what it is called: what else is
/// asked changes nothing for it.
struct Source {
    seed: u64,
    count: usize,
}

impl Source {
    fn generator(&self, what: &str) -> Pcg64Mcg {
        Pcg64Mcg::seed_from_u64(self.seed ^ number_of(what))
    }

    /// Normal deviates, one a draw.
    fn deviates(&self, what: &str) -> Vec<f64> {
        let mut rng = self.generator(what);
        (0..self.count).map(|_| normal(&mut rng)).collect()
    }

    /// Gamma deviates of a shape, one a draw.
    fn gammas(&self, what: &str, shape: f64) -> Vec<f64> {
        let mut rng = self.generator(what);
        let Ok(gamma) = Gamma::new(shape, 1.0) else { return vec![1.0; self.count] };
        (0..self.count).map(|_| gamma.sample(&mut rng)).collect()
    }
}

/// What tells one filter copy from another: everything that its curve hangs on, and its name.
fn copy_name(f: &Filter) -> String {
    format!("{:?}", (&f.name, &f.bands, &f.curve, f.off_band_od, f.n_eff, f.centre_tolerance_nm))
}

/// What tells one telescope from another: its glass. What it passes and what the mount holds are
/// said of it, and dragging them draws no other telescope.
fn optics_name(o: &Optics) -> String {
    format!("optics {:?}", (o.aperture_mm, o.obstruction_mm, o.focal_length_mm, o.reducer))
}

/// A normal deviate (Box & Muller 1958).
fn normal(rng: &mut impl Rng) -> f64 {
    let (u, v): (f64, f64) = (rng.random(), rng.random());
    (-2.0 * (1.0 - u).ln()).sqrt() * (std::f64::consts::TAU * v).cos()
}

/// Where a quantity's light stands in the air's colours, nm: its last line but [N II]'s, the middle
/// of V for the continuum.
fn wavelength_nm(q: Quantity) -> f64 {
    let own = LINES.iter().rfind(|l| l.quantity == q && !l.is_nii());
    own.map_or(V_NM, |l| l.wavelength_nm)
}

/// Target and sky in every draw: what all paths share.
fn world(s: &Scenario, source: &Source) -> Vec<Scales> {
    let u = &s.choices.uncertainty;
    let sigma_line =
        s.target.known.map_or_else(|| sigma_of_relative(u.target_relative), Known::sigma_ln);
    let lines =
        PerQuantity(Quantity::JUDGED).map(|q| source.deviates(&format!("line {}", q.key())));
    let (nii, sky, airglow, air) = (
        source.deviates("nii"),
        source.deviates("sky"),
        source.deviates("airglow"),
        source.deviates("extinction"),
    );
    let shares = Lamp::ALL.map(|lamp| s.sky.lamps.get(&lamp).copied().unwrap_or(0.0));
    let gammas: Vec<Option<Vec<f64>>> = Lamp::ALL
        .into_iter()
        .zip(shares)
        .map(|(lamp, share)| {
            let name = format!("lamp {}", lamp.key());
            (share > 0.0 && u.lamp_mix).then(|| source.gammas(&name, share * LAMP_CONCENTRATION))
        })
        .collect();
    let beneath = Beneath::new(s);
    (0..source.count)
        .map(|i| {
            let mut out = Scales::ONE;
            let other = beneath.air_off(u.k_v_mag * air[i]);
            let dimmed = |nm: f64| other.transmission(nm) / beneath.air.transmission(nm);
            for q in Quantity::ALL {
                out.lines[q] = (sigma_line * lines[q][i]).exp() * dimmed(wavelength_nm(q));
            }
            out.lines[Quantity::HaAlone] = out.lines[Quantity::Ha];
            out.star = dimmed(V_NM);
            out.nii = (sigma_of_relative(u.nii_relative) * nii[i]).exp();
            let brighter = 10f64.powf(-0.4 * u.sky_mag * sky[i]);
            let glow = 10f64.powf(-0.4 * u.airglow_mag * airglow[i]);
            let (natural, lamps) = beneath.shared(glow);
            out.sky[SkyPart::Natural] = natural * brighter;
            out.sky[SkyPart::Artificial] = lamps * brighter;
            out.sky[SkyPart::Moon] = beneath.moon(&other);
            let sum: f64 = gammas.iter().flatten().map(|g| g[i]).sum();
            for ((own, g), share) in out.lamps.iter_mut().zip(&gammas).zip(shares) {
                if let Some(g) = g {
                    *own = g[i] / sum / share;
                }
            }
            out
        })
        .collect()
}

/// What a draw of air and airglow needs to know of the sky.
struct Beneath<'a> {
    sky: &'a Sky,
    /// The air as stated.
    air: Air,
    /// V light of nature and of lamps where the brightness was read.
    natural: f64,
    lamps: f64,
    moonlight: f64,
}

impl<'a> Beneath<'a> {
    fn new(s: &'a Scenario) -> Self {
        let sky = &s.sky;
        let air = Air::new(sky.site_height_m, sky.k_v, airmass(sky.target_altitude_deg));
        let k_v = air.k(V_NM);
        let zenith = linear_from_mag(sky.natural_zenith_mag());
        let (natural, lamps) = if sky.toward_target_v_mag.is_some() {
            let natural = zenith * natural_growth(sky.target_altitude_deg, k_v);
            (natural, artificial_linear(sky, k_v))
        } else {
            (zenith, (linear_from_mag(sky.zenith_v_mag) - zenith).max(0.0))
        };
        let mut out = Self { sky, air, natural, lamps, moonlight: 0.0 };
        out.moonlight = out.moonlight_in(&air);
        out
    }

    /// The air when it takes so much more in V, mag per airmass: more aerosols, or fewer, down to
    /// none.
    fn air_off(&self, k_v: f64) -> Air {
        Air::new(self.sky.site_height_m, Some(self.air.k(V_NM) + k_v), self.air.airmass)
    }

    /// Nature and lamps when the airglow is another: their sum was read, so that what one has more
    /// the other has less.
    fn shared(&self, glow: f64) -> (f64, f64) {
        if self.lamps <= 0.0 {
            return (1.0, 1.0);
        }
        (glow, (1.0 + self.natural * (1.0 - glow) / self.lamps).max(0.0))
    }

    fn moonlight_in(&self, air: &Air) -> f64 {
        let natural = linear_from_mag(self.sky.natural_zenith_mag());
        let of = |m: &Moon| moon_linear(m, self.sky.target_altitude_deg, air.k(V_NM), natural);
        self.sky.moon.as_ref().map_or(0.0, of)
    }

    /// Moonlight in other air against that in the stated.
    fn moon(&self, other: &Air) -> f64 {
        if self.moonlight > 0.0 { self.moonlight_in(other) / self.moonlight } else { 1.0 }
    }
}

impl Draws {
    /// Draws by the scenario's statement of what is uncertain.
    pub fn new(s: &Scenario) -> Self {
        let u = &s.choices.uncertainty;
        let source = Source { seed: u64::from(u.seed), count: u.draws.max(1) as usize };
        let world = world(s, &source);
        let path = |c: &Contender| {
            let optics = source.deviates(&optics_name(&c.optics));
            let sigma = sigma_of_relative(u.throughput_relative);
            let scales = world
                .iter()
                .zip(optics)
                .map(|(w, d)| Scales { throughput: (sigma * d).exp(), ..*w })
                .collect();
            let off = |e: &Exposure| match &e.filter {
                Some(f) => copy_off(f, &c.optics, &source),
                None => vec![0.0; source.count],
            };
            let drawn = if u.filter_centre { &c.exposures[..] } else { &[] };
            let exposures: Vec<Vec<f64>> = drawn.iter().map(off).collect();
            let centres =
                (0..source.count).map(|i| exposures.iter().map(|e| e[i]).collect()).collect();
            PathState { scales, centres }
        };
        Self(s.contenders.iter().map(path).collect())
    }

    /// About how much memory they take, bytes.
    pub fn bytes(&self) -> usize {
        let centres = |c: &Vec<f64>| size_of::<Vec<f64>>() + size_of_val(c.as_slice());
        let of = |p: &PathState| {
            size_of_val(p.scales.as_slice()) + p.centres.iter().map(centres).sum::<usize>()
        };
        self.0.iter().map(of).sum()
    }

    /// As the path at an index meets them.
    pub fn of(&self, path: usize) -> PathDraws<'_> {
        PathDraws(&self.0[path])
    }
}

/// How far the bands of a filter copy are off in a telescope's cone, in standard deviations: one
/// centre and one effective index for each copy, whoever uses it.
fn copy_off(f: &Filter, optics: &Optics, source: &Source) -> Vec<f64> {
    let (sigma_nm, index_nm) = (copy_sigma_nm(f, optics), index_shift_nm(f, optics));
    if sigma_nm <= 0.0 {
        return vec![0.0; source.count];
    }
    let name = copy_name(f);
    let (centre, index) =
        (source.deviates(&format!("centre {name}")), source.deviates(&format!("index {name}")));
    let off = |(c, n): (&f64, &f64)| (f.centre_tolerance_nm * c + index_nm * n) / sigma_nm;
    centre.iter().zip(&index).map(off).collect()
}

impl<'a> PathDraws<'a> {
    /// Scales and how far the path's filters are off, draw by draw.
    pub fn iter(&self) -> impl Iterator<Item = (&'a Scales, &'a [f64])> + use<'a> {
        let state = self.0;
        state.scales.iter().zip(state.centres.iter().map(Vec::as_slice))
    }

    /// At most so many of them, evenly spaced over all.
    pub fn some(&self, most: usize) -> impl Iterator<Item = (&'a Scales, &'a [f64])> + use<'a> {
        self.iter().step_by(self.0.scales.len().div_ceil(most.max(1)).max(1))
    }

    /// The range of what a function gives.
    pub fn range(&self, f: impl Fn(&Scales, &[f64]) -> f64) -> Range {
        Range::of(self.iter().map(|(s, c)| f(s, c)).collect())
            .unwrap_or_else(|| unreachable!("there is a draw"))
    }

    /// The rates of one channel of the exposure `at`, draw by draw.
    pub fn rates(&self, channel: &ChannelModel, at: usize) -> Vec<Rates> {
        self.iter().map(|(s, c)| channel.rates(s, c.get(at).copied().unwrap_or(0.0))).collect()
    }
}

/// The rates at one tenth, half and nine tenths of the draws, ordered by all that a pixel collects.
pub fn by_light(mut rates: Vec<Rates>) -> [Rates; 3] {
    rates.sort_by(|a, b| a.total().total_cmp(&b.total()));
    tenths(rates.len()).map(|i| rates[i])
}

/// A range of times in words: "11 to 33 h", "20 to 55 min", "95 to 400 s".
pub fn between(range: &Range) -> String {
    let (unit_s, unit) = if range.high >= 7200.0 { (3600.0, "h") } else { (60.0, "min") };
    let (low, high) = (two_figures(range.low / unit_s), two_figures(range.high / unit_s));
    if low == high { format!("about {low} {unit}") } else { format!("{low} to {high} {unit}") }
}

/// What the draws were made from, in a sentence.
pub fn stated(s: &Scenario) -> String {
    let u = &s.choices.uncertainty;
    let line = match s.target.known {
        None => format!("{:.0} %", u.target_relative * 100.0),
        Some(Known::Measured) => "10 % (measured)".to_owned(),
        Some(Known::Preset) => "50 % (a preset)".to_owned(),
        Some(Known::HandTable) => "a factor of 2 (a table)".to_owned(),
        Some(Known::Typical) => "a factor of 3 (typical of its kind)".to_owned(),
    };
    let mut besides =
        vec![format!("what the optics pass to {:.0} %", u.throughput_relative * 100.0)];
    besides.push(format!("the air to {:.2} mag", u.k_v_mag));
    besides.extend((u.airglow_mag > 0.0).then(|| format!("airglow to {:.1} mag", u.airglow_mag)));
    besides.extend(
        (u.nii_relative > 0.0)
            .then(|| format!("[N II] over H-alpha to {:.0} %", u.nii_relative * 100.0)),
    );
    besides.extend(u.lamp_mix.then(|| "the lamp mix about the stated one".to_owned()));
    besides.extend(
        u.filter_centre
            .then(|| "one centre and one effective index for each filter copy".to_owned()),
    );
    format!(
        "{} draws with the sky known to {:.2} mag, each line of the target to {line}, {}; eight \
            in ten lie in the range.",
        u.draws,
        u.sky_mag,
        besides.join(", ")
    )
}

/// A range of lengths in words: "240 to 410 s".
pub(crate) fn span(r: &Range) -> String {
    let (low, high) = (seconds(r.low), seconds(r.high));
    if low == high { low } else { format!("{} to {high}", low.trim_end_matches(" s")) }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::light::lamp::PerLamp;

    #[test]
    fn a_range_holds_eight_in_ten() {
        let r = Range::of((0..=100).map(f64::from).rev().collect()).unwrap();
        assert_eq!((r.low, r.middle, r.high), (10.0, 50.0, 90.0));
        let halved = r.map(|x| -x);
        assert_eq!((halved.low, halved.middle, halved.high), (-90.0, -50.0, -10.0));
        assert!(r.is_open() && !Range::of(vec![5.0; 9]).unwrap().is_open());
        assert_eq!(Range::of(Vec::new()), None);
    }

    /// The centres that each draw gives to every exposure of every row.
    fn centres(s: &Scenario) -> Vec<Vec<Vec<f64>>> {
        let draws = Draws::new(s);
        (0..s.contenders.len())
            .map(|i| draws.of(i).iter().map(|(_, c)| c.to_vec()).collect())
            .collect()
    }

    #[test]
    fn one_copy_in_two_rows_and_two_exposures_is_one_draw() {
        let mut s = crate::common::ic_443();
        let (mono, dual) = (s.contenders[0].clone(), s.contenders[1].clone());
        let mut twice = mono.clone();
        twice.exposures[1].filter = twice.exposures[0].filter.clone();
        s.contenders = vec![mono, twice, dual];
        let c = centres(&s);
        for (a, b) in c[0].iter().zip(&c[1]) {
            assert_eq!(a[0], b[0], "the same copy in another row");
            assert_eq!(b[0], b[1], "and in another exposure");
            assert_ne!(a[0], a[1], "another filter is another copy");
        }
        // The price is no part of what a copy is.
        let mut dearer = s.clone();
        dearer.contenders[0].exposures[0].filter.as_mut().unwrap().price = Some(999.0);
        assert_eq!(centres(&dearer), c);
    }

    #[test]
    fn a_row_more_changes_nothing_for_the_others() {
        let s = crate::common::ic_443();
        let mut more = s.clone();
        more.contenders.insert(1, s.contenders[2].clone());
        let (few, many) = (centres(&s), centres(&more));
        assert_eq!((&few[0], &few[1], &few[2]), (&many[0], &many[2], &many[3]));
        let (a, b) = (Draws::new(&s), Draws::new(&more));
        assert!(a.of(0).iter().zip(b.of(0).iter()).all(|(x, y)| x == y));
    }

    #[test]
    fn what_the_mount_holds_or_the_optics_pass_draws_no_other_telescope() {
        let s = crate::common::ic_443();
        let mut other = s.clone();
        let o = &mut other.contenders[0].optics;
        (o.longest_sub_s, o.throughput, o.exit_pupil_mm) = (Some(120.0), 0.8, Some(200.0));
        let passes = |s: &Scenario| -> Vec<f64> {
            Draws::new(s).of(0).iter().map(|(scales, _)| scales.throughput).collect()
        };
        assert_eq!(passes(&s), passes(&other));
        other.contenders[0].optics.aperture_mm += 10.0;
        assert_ne!(passes(&s), passes(&other));
    }

    #[test]
    fn each_line_has_a_deviate_of_its_own_and_the_optics_one_for_each_telescope() {
        let s = crate::common::ic_443();
        let draws = Draws::new(&s);
        let of = |path: usize, f: &dyn Fn(&Scales) -> f64| -> Vec<f64> {
            draws.of(path).iter().map(|(scales, _)| f(scales).ln()).collect()
        };
        let correlation = |a: &[f64], b: &[f64]| {
            let n = a.len() as f64;
            let (ma, mb) = (a.iter().sum::<f64>() / n, b.iter().sum::<f64>() / n);
            let dot = |x: &[f64], mx: f64, y: &[f64], my: f64| -> f64 {
                x.iter().zip(y).map(|(x, y)| (x - mx) * (y - my)).sum()
            };
            dot(a, ma, b, mb) / (dot(a, ma, a, ma) * dot(b, mb, b, mb)).sqrt()
        };
        let line = |q: Quantity| of(0, &|x| x.lines[q]);
        // 200 draws: a correlation of nothing stays under four over the root of 200.
        let (ha, oiii) = (line(Quantity::Ha), line(Quantity::Oiii));
        assert!(correlation(&ha, &oiii).abs() < 0.28);
        // Every path meets the same target; the two on one telescope pass alike.
        assert_eq!(ha, of(1, &|x| x.lines[Quantity::Ha]));
        let passes: Vec<Vec<f64>> = (0..3).map(|i| of(i, &|x| x.throughput)).collect();
        assert_eq!(passes[1], passes[2]);
        assert!(correlation(&passes[0], &passes[1]).abs() < 0.28);
        // What the airglow has more, the lamps have less.
        let natural = of(0, &|x| x.sky[SkyPart::Natural]);
        let lamps = of(0, &|x| x.sky[SkyPart::Artificial]);
        let sky = crate::common::ic_443().sky;
        let nature = linear_from_mag(sky.natural_v_mag);
        let all = linear_from_mag(sky.zenith_v_mag);
        let spread: Vec<f64> = natural
            .iter()
            .zip(&lamps)
            .map(|(n, l)| -2.5 * ((n.exp() * nature + l.exp() * (all - nature)) / all).log10())
            .collect();
        // Together they are as uncertain as the reading, and no more.
        let deviation = (spread.iter().map(|x| x * x).sum::<f64>() / 200.0).sqrt();
        assert!((deviation / s.choices.uncertainty.sky_mag - 1.0).abs() < 0.2, "{deviation}");
    }

    #[test]
    fn the_lamps_shares_are_drawn_about_the_stated_ones_and_sum_to_one() {
        let s = crate::common::ic_443();
        let draws = Draws::new(&s);
        let mut means = PerLamp::<f64>::default();
        for (scales, _) in draws.of(0).iter() {
            let share = |lamp: &Lamp| s.sky.lamps[lamp] * scales.lamps[*lamp];
            assert!((s.sky.lamps.keys().map(share).sum::<f64>() - 1.0).abs() < 1e-9);
            for lamp in s.sky.lamps.keys() {
                means[*lamp] += share(lamp) / 200.0;
            }
        }
        // The mean of 200 draws of a share of about a half, each known to 0.11.
        for (lamp, share) in &s.sky.lamps {
            assert!((means[*lamp] - share).abs() < 4.0 * 0.11 / 200f64.sqrt(), "{lamp:?}");
        }
    }

    #[test]
    fn what_a_target_says_of_itself_decides_how_far_its_lines_are_drawn() {
        let mut s = crate::common::ic_443();
        let mut sigma = |known: Option<Known>| {
            s.target.known = known;
            let logs: Vec<f64> = Draws::new(&s)
                .of(0)
                .iter()
                .map(|(x, _)| (x.lines[Quantity::Continuum] / x.star).ln())
                .collect();
            (logs.iter().map(|x| x * x).sum::<f64>() / 200.0).sqrt()
        };
        for (known, expected) in [
            (Some(Known::Measured), 0.0998),
            (None, 0.198),
            (Some(Known::Preset), 0.472),
            (Some(Known::HandTable), 0.693),
            (Some(Known::Typical), 1.0986),
        ] {
            // A deviation from 200 draws is known to a twentieth.
            let own = sigma(known);
            assert!((own / expected - 1.0).abs() < 0.2, "{known:?}: {own}");
        }
    }

    #[test]
    fn ranges_read_as_people_say_them() {
        let r = |low, high| Range { low, middle: (low + high) / 2.0, high };
        assert_eq!(between(&r(40_000.0, 118_000.0)), "11 to 33 h");
        assert_eq!(between(&r(1_200.0, 3_300.0)), "20 to 55 min");
        assert_eq!(between(&r(1_200.0, 1_205.0)), "about 20 min");
    }
}
