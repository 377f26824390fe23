//! Criteria, limits, compromises and sentences, against hand-worked values and against an
//! evaluation at the sub they name.

use super::decision::{CHART_POINTS, SubDecision, chart_lengths, decide_sub};
use super::view::view;
use crate::common::{bands, evaluate, ic_443, tables, through};
use crate::decide::sub::criteria::{advised, cost, school_label, school_sub};
use crate::decide::sub::view::{Spread, View};
use crate::decide::uncertainty::draws::{Draws, Range, span};
use crate::path::sky::part::PerSkyPart;
use crate::scenario::choices::{Purpose, SubCriterion};
use crate::scenario::document::Scenario;
use crate::signal::model::Model;
use crate::signal::stack::subs_in;
use crate::signal::sub::plateau;
use crate::wording::seconds;

/// One path with its model and its draws.
struct Bench {
    s: Scenario,
    model: Model,
    draws: Draws,
}

impl Bench {
    fn of(s: Scenario) -> Self {
        let checked = s.clone().check().expect("accepted");
        let model = Model::new(&checked, &tables());
        let draws = Draws::new(&s);
        Self { s, model, draws }
    }

    fn view(&self, path: usize) -> View<'_> {
        view(
            &self.s,
            &self.s.contenders[path],
            0,
            &self.model.paths[path],
            &self.model.paths[path].instrument.gain,
        )
    }

    fn decide(&self, path: usize) -> SubDecision {
        decide_sub(
            &self.s,
            &self.s.contenders[path],
            0,
            &self.model.paths[path],
            &self.model.paths[path].instrument.gain,
            self.draws.of(path),
        )
    }
}

/// The demo's colour camera behind its dual band, alone.
fn dual() -> Scenario {
    let mut s = ic_443();
    s.contenders = vec![s.contenders[1].clone()];
    s
}

/// The answer's channels with the only exposure at a sub of `sub_s`.
fn at(s: &Scenario, sub_s: f64) -> Vec<crate::evaluate::answer::ChannelAnswer> {
    let mut s = s.clone();
    s.contenders[0].exposures[0].sub_s = sub_s;
    evaluate(&s).contenders[0].exposures[0].channels.clone()
}

#[test]
fn walls_stand_where_an_evaluation_clips() {
    let mut s = dual();
    s.target.peak_factor = 200.0;
    s.choices.core_fill = 0.8;
    s.choices.star_clips_v_mag = 11.5;
    let d = Bench::of(s.clone()).decide(0);
    let limit = |label: &str| {
        d.limits
            .iter()
            .find(|w| w.label.contains(label))
            .unwrap_or_else(|| panic!("{label}: {:?}", d.limits))
    };
    let fullest = at(&s, limit("core").beyond_s)
        .iter()
        .map(|c| c.peak_fraction_of_full_scale)
        .fold(0.0, f64::max);
    assert!((fullest - 0.8).abs() < 1e-6, "{fullest}");
    let first = at(&s, limit("stars of V 11.5").beyond_s)
        .iter()
        .filter_map(|c| c.clip_star_v_mag)
        .fold(f64::NEG_INFINITY, f64::max);
    assert!((first - 11.5).abs() < 1e-6, "{first}");
    let frames = limit("under 20 frames").beyond_s;
    let path = &Bench::of(s.clone()).model.paths[0];
    assert_eq!(subs_in(s.total_s, frames, path.instrument.between_s), 20.0);
    assert_eq!(subs_in(s.total_s, frames + 1.0, path.instrument.between_s), 19.0);
    // What the sky may be moves where a star clips, and nothing moves the mount.
    let range = limit("stars").range_s.expect("a range");
    assert!(range.low < range.middle && range.middle < range.high);
    assert_eq!(limit("mount").range_s, None);
}

#[test]
fn every_school_asks_for_what_it_says() {
    let mut s = dual();
    s.choices.excess = 0.1;
    s.choices.swamp_factor = 3.0;
    s.choices.histogram_adu = 200.0;
    s.choices.histogram_fraction = 0.04;
    let b = Bench::of(s);
    let v = b.view(0);
    let deciding = v.model.deciding();
    let r = deciding.nominal();
    let (rate, r2) = (r.background() + r.dark, v.gain.read_noise_e.powi(2));
    let of = |school| school_sub(&v, deciding, school, r).expect("a length");
    let close = |a: f64, b: f64| assert!((a / b - 1.0).abs() < 1e-9, "{a} {b}");
    close(of(SubCriterion::Excess), r2 / (0.21 * rate));
    close(of(SubCriterion::Swamp), 3.0 * r2 / r.background());
    close(of(SubCriterion::HistogramAdu), 200.0 * v.gain.e_per_adu / rate);
    close(of(SubCriterion::HistogramFraction), 0.04 * v.gain.full_scale_e / rate);
    close(of(SubCriterion::ManyFrames), b.s.total_s / 20.0 - v.model.instrument.between_s);
    // At the test shot's length the target's leading line has the faint signal to noise on the
    // square of detail.
    let t = of(SubCriterion::TestShot);
    let best = crate::light::lines::Quantity::ALL
        .into_iter()
        .filter(|q| deciding.records[*q])
        .map(|q| {
            let signal = r.of(q) * t * deciding.pixels;
            signal / ((r.total() * t + r2) * deciding.pixels).sqrt()
        })
        .fold(0.0, f64::max);
    assert!((best / b.s.choices.faint_snr - 1.0).abs() < 0.05, "{best} at {t}");
    for school in SubCriterion::ALL {
        let label = school_label(&v, school);
        let number = match school {
            SubCriterion::Excess => "10 %",
            SubCriterion::Swamp => "3 ×",
            SubCriterion::HistogramAdu => "200 ADU",
            SubCriterion::HistogramFraction => "4 %",
            SubCriterion::TestShot => "SNR 3",
            SubCriterion::ManyFrames => "20 frames",
            SubCriterion::Best | SubCriterion::Longest => "",
        };
        assert!(label.contains(number), "{label}");
    }
}

#[test]
fn under_no_sky_at_all_the_sky_s_schools_give_no_length() {
    let mut s = dual();
    s.target.lines_rayleigh.ha = 50.0;
    let b = Bench::of(s);
    let v = b.view(0);
    let mut dark = *v.model.deciding().nominal();
    dark.sky = PerSkyPart::default();
    dark.dark = 0.0;
    for school in [
        SubCriterion::Excess,
        SubCriterion::Swamp,
        SubCriterion::HistogramAdu,
        SubCriterion::HistogramFraction,
    ] {
        assert_eq!(school_sub(&v, v.model.deciding(), school, &dark), None, "{school:?}");
    }
    assert!(cost(&v, &dark, None, None, 0.0).starts_with("Gives no length"));
    // Advised is then the most informative.
    assert!(advised(&v, v.model.deciding(), &dark) > 0.0);
}

#[test]
fn costs_are_named_one_after_another() {
    let mut s = dual();
    s.choices.disk_gb = Some(5.0);
    let b = Bench::of(s);
    let v = b.view(0);
    let r = *v.model.deciding().nominal();
    let of = |t: f64, share: f64, subs: f64| cost(&v, &r, Some(t), Some(share), subs);
    let disk = v.disk_from_s().expect("a limit");
    assert_eq!(of(disk * 1.01, 0.99, 50.0), "Costs nothing: on the plateau.");
    assert_eq!(of(disk * 1.01, 0.8, 50.0), "25 % more time for the same picture.");
    assert_eq!(of(disk * 0.9, 0.99, 50.0), "More than the disk holds.");
    assert_eq!(of(disk * 1.01, 0.99, 12.0), "Only 12 frames to reject outliers from.");
    assert_eq!(of(disk * 1.01, 0.99, 1.0), "Only one frame.");
    assert_eq!(of(disk * 1.01, 0.99, 0.0), "Not one fits into its share of the clock.");
    let core = v.core_clips_s(&r);
    let both = of(core.max(v.model.instrument.longest_s.expect("a mount")) + 1.0, 0.99, 50.0);
    assert!(
        both.starts_with("The core clips from") && both.contains("; longer than the mount holds"),
        "{both}"
    );
    // Five gigabytes of 26-megapixel frames.
    let per_sub = v.gb_per_sub();
    assert!((per_sub - 6248.0 * 4176.0 * 2.0 / 1e9).abs() < 1e-12);
    assert_eq!(
        subs_in(v.clock_s(), disk + 1e-6, v.model.instrument.between_s),
        (5.0 / per_sub).floor()
    );
}

#[test]
fn a_compromise_is_the_best_of_a_fine_search() {
    let b = Bench::of(dual());
    let v = b.view(0);
    let d = b.decide(0).conflict.expect("two lines");
    let of = |q| {
        let c = v.model.leading(q);
        let terms = v.model.instrument.sub_terms_at(c.nominal(), v.gain);
        let best = plateau(&terms).best_s;
        move |t: f64| terms.information(t) / terms.information(best)
    };
    let (one, two) = (of(d.quantities[0]), of(d.quantities[1]));
    let worse = |t: f64| one(t).min(two(t));
    let best = (0..4000).map(|i| 10f64.powf(f64::from(i) / 1000.0)).map(worse).fold(0.0, f64::max);
    assert!(worse(d.compromise_s) >= best - 1e-4, "{} against {best}", worse(d.compromise_s));
    assert!(
        (one(d.compromise_s) - d.at_compromise[0]).abs() < 1e-12
            && (two(b.s.contenders[0].exposures[0].sub_s) - d.at_yours[1]).abs() < 1e-12
    );
    assert!(
        d.compromise_range_s.low <= d.compromise_s && d.compromise_s <= d.compromise_range_s.high
    );
}

#[test]
fn one_line_has_no_conflict_and_a_flat_target_no_short_set() {
    let mut s = dual();
    s.contenders = vec![through(&s.contenders[0], vec![Some(bands("Ha", 7.0, &[656.3]))], 180.0)];
    s.target.peak_factor = 1.0;
    let d = Bench::of(s).decide(0);
    assert_eq!(d.conflict, None);
    assert_eq!(d.short_set, None);
}

#[test]
fn a_share_reaches_all_where_the_best_sub_passes_over_it() {
    let b = Bench::of(dual());
    let v = b.view(0);
    let deciding = v.model.deciding();
    let spread = Spread::new(&v, b.draws.of(0).rates(deciding, 0));
    let [a, _, c] = &spread.0;
    let between = (a.1.best_s * c.1.best_s).sqrt();
    assert!(
        a.1.best_s > 1.001 * c.1.best_s,
        "less light wants a longer sub: {} {}",
        a.1.best_s,
        c.1.best_s
    );
    assert_eq!(spread.share(between).high, 1.0);
    let short = spread.share(1.0);
    assert!(short.low < short.middle && short.middle < short.high && short.high < 0.9, "{short:?}");
    let best = spread.of(|p| p.best_s);
    assert!(best.low <= best.middle && best.middle <= best.high);
}

#[test]
fn sentences_fit_the_school_the_purpose_and_the_sub_in_use() {
    let with = |change: &dyn Fn(&mut Scenario)| {
        let mut s = dual();
        s.target.peak_factor = 1.0;
        change(&mut s);
        Bench::of(s).decide(0)
    };
    let plain = with(&|s| s.contenders[0].exposures[0].sub_s = 300.0);
    assert!(
        plain.text.contains("anything from")
            && !plain.text.contains("by your school")
            && !plain.text.contains("more time"),
        "{}",
        plain.text
    );
    let live = with(&|s| {
        s.choices.purpose = Purpose::Live;
        s.choices.live_sub_s = 8.0;
    });
    assert!(
        live.text.starts_with("8 s for live viewing") && live.advised_s == 8.0,
        "{}",
        live.text
    );
    let short = with(&|s| s.contenders[0].exposures[0].sub_s = 10.0);
    let more = (1.0 / short.yours_information - 1.0) * 100.0;
    assert!(
        short.text.ends_with(&format!("; your 10 s takes {more:.0} % more time")),
        "{}",
        short.text
    );
    let school = with(&|s| {
        s.choices.school = SubCriterion::Swamp;
        s.choices.swamp_factor = 0.5;
    });
    assert!(school.text.contains(" by your school, though anything from"), "{}", school.text);
    let core = with(&|s| {
        s.target.peak_factor = 4000.0;
        s.choices.school = SubCriterion::Swamp;
        s.choices.swamp_factor = 20.0;
    });
    assert!(core.text.contains("; the core clips from"), "{}", core.text);
    assert!(core.short_set.expect("a short set").text.contains("lay them over the core"));
}

/// What the sentence calls as good is so on the chart beside it: no clipped core in it, the mount's
/// limit called by its name, and nothing above the best.
#[test]
fn a_verdict_agrees_with_its_chart() {
    let with = |change: &dyn Fn(&mut Scenario)| {
        let mut s = dual();
        s.target.peak_factor = 1.0;
        change(&mut s);
        Bench::of(s).decide(0)
    };
    let [from, to] = with(&|_| ()).plateau_s;
    // The core of a target so bright that it clips in the middle of the plateau.
    let clipping = |factor: f64| with(&|s| s.target.peak_factor = factor);
    let core_s =
        |d: &SubDecision| d.curves.iter().map(|c| c.core_clips_s).fold(f64::INFINITY, f64::min);
    let middle = clipping(1000.0 * core_s(&clipping(1000.0)) / (from * to).sqrt());
    assert!((from..to).contains(&core_s(&middle)), "{from} {to} {}", core_s(&middle));
    let good = format!("to {} is as good", seconds(core_s(&middle)));
    assert!(middle.text.contains(&good) && middle.text.contains("the core clips"), "{good}");
    let always = clipping(1000.0 * core_s(&clipping(1000.0)) / (0.5 * from));
    assert!(always.text.contains("with the core clipped in all of it"), "{}", always.text);
    assert!(!always.text.contains("is as good"), "{}", always.text);
    let mount = with(&|s| s.contenders[0].optics.longest_sub_s = Some(0.5 * (from + to)));
    assert!(mount.text.contains("to the mount's "), "{}", mount.text);
    let beyond = with(&|s| {
        s.contenders[0].optics.longest_sub_s = Some(0.5 * from);
        s.contenders[0].exposures[0].sub_s = to;
    });
    assert!(beyond.yours_information <= 1.0 && beyond.range.yours_information.high <= 1.0);
    assert!(beyond.curves.iter().flat_map(|c| &c.high).all(|x| *x <= 1.0));
}

#[test]
fn dark_current_is_said_where_it_is_much_of_the_background() {
    let cooled = Bench::of(dual()).decide(0);
    assert!(!cooled.reasons.iter().any(|r| r.contains("dark current")), "{:?}", cooled.reasons);
    let mut s = dual();
    s.contenders[0].sensor_temperature_c = 25.0;
    let warm = Bench::of(s).decide(0);
    let said = warm.reasons.iter().find(|r| r.contains("dark current")).expect("said");
    assert!(said.contains("% of the background") && said.ends_with("at 25 °C."), "{said}");
}

#[test]
fn a_span_names_its_unit_once_and_one_length_once() {
    let r = |low, high| Range { low, middle: low, high };
    assert_eq!(span(&r(240.0, 410.0)), "240 to 410 s");
    assert_eq!(span(&r(240.0, 241.0)), "240 s");
    assert_eq!(span(&r(1.5, 12.0)), "1.5 to 12 s");
}

#[test]
fn the_chart_s_lengths_are_even_in_their_logarithm_and_reach_beyond_the_mount() {
    let t = chart_lengths(600.0);
    assert_eq!(t.len(), CHART_POINTS);
    assert!((t[0] - 0.5).abs() < 1e-12 && (t[CHART_POINTS - 1] - 1200.0).abs() < 1e-6);
    let step = t[1] / t[0];
    assert!(t.windows(2).all(|w| (w[1] / w[0] / step - 1.0).abs() < 1e-9));
}
