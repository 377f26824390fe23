//! What the charts and the words say must follow from the numbers.

use crate::common::{bands, evaluate, ic_443, tables, through};
use salt_lamp_core::decide::Study;
use salt_lamp_core::decide::{BandwidthAnswer, bandwidth, rank_filters};
use salt_lamp_core::library::{FilterFits, Library, ShelfThing, shipped_entries};
use salt_lamp_core::light::{Lamp, Quantity};
use salt_lamp_core::path::spectrum_view;
use salt_lamp_core::report::{BenchAnswer, bench};
use salt_lamp_core::scenario::{Known, Moon, Scenario};
use salt_lamp_core::workers::SingleThread;

/// The demo's colour rig alone behind one filter, in the cone of a focal ratio.
fn rig(ratio: f64, width_nm: f64) -> Scenario {
    let mut s = ic_443();
    // Without [N II], so that a best width speaks of the cone and not of a second line.
    s.target.lines_rayleigh.nii = 0.0;
    let mut c =
        through(&s.contenders[1], vec![Some(bands("mine", width_nm, &[656.3, 500.7]))], 180.0);
    c.optics.aperture_mm = c.optics.focal_length_mm / ratio;
    c.optics.obstruction_mm = 0.4 * c.optics.aperture_mm;
    s.contenders = vec![c];
    s
}

fn best(s: &Scenario) -> BandwidthAnswer {
    bandwidth(&s.clone().check().expect("accepted"), 0, Quantity::Ha, &tables(), &SingleThread)
        .expect("a line")
}

#[test]
fn fast_light_wants_a_wide_band_or_one_shifted_to_the_red() {
    let (slow, fast) = (best(&rig(8.0, 5.0)), best(&rig(2.0, 5.0)));
    assert!(
        slow.best_offset_nm <= 0.5 && slow.gain_by_offset < 1.05,
        "{} {}",
        slow.best_offset_nm,
        slow.gain_by_offset
    );
    assert!(
        fast.best_offset_nm >= 2.0 && fast.gain_by_offset > 1.2,
        "{} {}",
        fast.best_offset_nm,
        fast.gain_by_offset
    );
    // Centred on the line, the best width falls as the light gets slower.
    let widths = &slow.best_width_nm;
    assert!(widths[0] > 2.0 * widths[widths.len() - 1], "{widths:?}");
    assert!(widths.windows(2).all(|w| w[1] <= w[0]), "{widths:?}");
}

#[test]
fn the_best_of_a_chart_is_one_and_no_filter_beats_it_by_much() {
    for ratio in [2.0, 2.8, 5.0] {
        let a = best(&rig(ratio, 5.0));
        for rows in [&a.relative_snr, &a.offset_snr] {
            let top = rows.iter().flatten().copied().fold(0.0, f64::max);
            assert!((top - 1.0).abs() < 1e-12);
        }
        let yours = a.yours.expect("a filter").relative_snr;
        assert!(yours.iter().all(|r| (0.0..1.05).contains(r)), "f/{ratio}: {yours:?}");
    }
}

#[test]
fn a_tolerant_lottery_shows_at_f_2_and_not_at_f_8() {
    let spread = |ratio| {
        let r = best(&rig(ratio, 5.0)).yours.expect("a filter").relative_snr;
        (r[2] - r[0]) / r[1]
    };
    assert!(spread(2.0) > 0.15 && spread(8.0).abs() < 0.05, "{} {}", spread(2.0), spread(8.0));
}

#[test]
fn a_best_band_has_its_range_over_what_the_sky_may_be() {
    let mut s = rig(4.0, 5.0);
    s.target.lines_rayleigh.nii = 4.0;
    s.choices.uncertainty.sky_mag = 0.8;
    let a = best(&s);
    let mut open = 0;
    for ((best, [low, high]), [from, to]) in
        a.best_width_nm.iter().zip(&a.best_width_range_nm).zip(&a.good_width_nm)
    {
        assert!(low <= best && best <= high && from <= best && best <= to, "{a:?}");
        open += usize::from(high > low);
    }
    assert!(
        open > 0 || a.best_range_nm[1] > a.best_range_nm[0],
        "a sky that may be twice as bright moves some best width: {a:?}"
    );
    assert!((a.best_range_nm[0]..=a.best_range_nm[1]).contains(&a.best_nm));
    assert!((a.best_offset_range_nm[0]..=a.best_offset_range_nm[1]).contains(&a.best_offset_nm));
    let yours = a.yours.expect("a filter");
    for (r, [low, high]) in yours.relative_snr.iter().zip(yours.relative_snr_range) {
        assert!(low <= *r && *r <= high, "{yours:?}");
    }
    assert!(yours.offset_nm.is_some_and(|o| (o - 0.02).abs() < 1e-9), "{yours:?}");
    // A sky that is known leaves nothing open.
    s.choices.uncertainty.sky_mag = 0.0;
    let a = best(&s);
    assert!(
        a.best_width_range_nm.iter().all(|[low, high]| low == high)
            && a.best_range_nm[0] == a.best_range_nm[1]
    );
    assert!(!a.text.contains("as the sky may be"), "{}", a.text);
}

#[test]
fn what_is_as_good_is_within_five_per_cent_and_nothing_beyond_is_left_out() {
    let a = best(&rig(2.8, 5.0));
    for (row, [from, to]) in a.relative_snr.iter().zip(&a.good_width_nm) {
        let top = row.iter().copied().fold(0.0, f64::max);
        for (w, v) in a.widths_nm.iter().zip(row) {
            if (from..=to).contains(&w) {
                assert!(*v >= 0.95 * top, "{w} nm: {v} of {top}");
            }
        }
        let beside =
            |w: f64| a.widths_nm.iter().position(|x| (*x - w).abs() < 1e-9).map(|i| row[i]);
        assert!(
            beside(from - 0.5).is_none_or(|v| v < 0.95 * top)
                && beside(to + 0.5).is_none_or(|v| v < 0.95 * top)
        );
    }
}

#[test]
fn the_continuum_has_no_best_band() {
    let s = rig(5.0, 5.0).check().expect("accepted");
    assert!(bandwidth(&s, 0, Quantity::Continuum, &tables(), &SingleThread).is_none());
    assert!(bandwidth(&s, 7, Quantity::Ha, &tables(), &SingleThread).is_none());
}

#[test]
fn a_ranking_is_sorted_holds_no_filter_once_and_leaves_out_what_does_not_fit() {
    let filters = Library::shipped().expect("library").gear.filters;
    let s = ic_443().check().expect("accepted");
    for (contender, colour) in [(0, false), (1, true)] {
        let list = rank_filters(&s, contender, Quantity::Oiii, &filters, &tables());
        assert_eq!(list.iter().filter(|r| r.id.is_none()).count(), 1);
        let times: Vec<f64> =
            list.iter().map(|r| r.time_to_goal_s.unwrap_or(f64::INFINITY)).collect();
        assert!(times.windows(2).all(|w| w[0] <= w[1]), "{times:?}");
        let unfit = if colour { FilterFits::Mono } else { FilterFits::Colour };
        assert!(
            list.iter()
                .all(|r| filters.iter().all(|f| Some(&f.id) != r.id.as_ref() || f.fits != unfit))
        );
        for r in &list {
            assert_eq!(
                r.time_to_goal_s.is_none(),
                r.why.starts_with("Blocks"),
                "{}: {}",
                r.name,
                r.why
            );
            assert!(r.signal_kept <= 1.0 + 1e-9 && r.sky_kept <= 1.0 + 1e-9, "{}", r.name);
        }
    }
}

#[test]
fn a_ranked_time_is_what_an_evaluation_of_that_filter_says() {
    let library = Library::shipped().expect("library");
    let s = ic_443();
    let list = rank_filters(
        &s.clone().check().expect("accepted"),
        1,
        Quantity::Ha,
        &library.gear.filters,
        &tables(),
    );
    for r in list.iter().take(6) {
        let filter = library
            .gear
            .filters
            .iter()
            .find(|f| Some(&f.id) == r.id.as_ref())
            .map(|f| f.filter.clone());
        let mut one = s.clone();
        one.contenders = vec![through(&s.contenders[1], vec![filter], r.sub_s)];
        let evaluated = evaluate(&one).contenders[0].quantities[&Quantity::Ha]
            .time_to_goal_s
            .expect("reachable");
        assert!(
            (evaluated / r.time_to_goal_s.expect("reachable") - 1.0).abs() < 1e-6,
            "{}",
            r.name
        );
    }
}

#[test]
fn a_spectrum_is_ordered_dense_at_edges_and_names_sodium_and_mercury() {
    let mut s = ic_443();
    s.sky.lamps = [(Lamp::HighPressureSodium, 0.5), (Lamp::Mercury, 0.5)].into();
    s.sky.moon = Some(Moon { phase_angle_deg: 30.0, altitude_deg: 40.0, separation_deg: 70.0 });
    let view = spectrum_view(&s.check().expect("accepted"), 0, &tables()).expect("a path");
    assert!(view.wavelength_nm.windows(2).all(|w| w[1] > w[0]));
    assert_eq!(
        view.sky.iter().map(|p| p.part).collect::<Vec<_>>(),
        ["natural", "artificial", "moon"]
    );
    for name in ["Na 568.5", "Na 497.9", "Hg 546.1", "Hg 435.8"] {
        assert!(view.sky_lines.iter().any(|l| l.name == name), "{name}");
    }
    for f in &view.filters {
        assert!(f.transmission.iter().chain(&f.head_on).all(|t| (0.0..=1.0).contains(t)));
        // Half the peak is met by at least ten drawn points: the band is no triangle.
        assert!(f.transmission.iter().filter(|t| **t > 0.44).count() >= 10);
    }
}

fn words(s: &Scenario) -> BenchAnswer {
    bench(&Study::new(s.clone().check().expect("accepted"), &tables()))
}

#[test]
fn the_weak_line_is_the_slowest_and_differences_match_the_ratio_of_times() {
    // A smaller telescope behind the second row: slower beyond all doubt.
    let mut s = ic_443();
    s.contenders[1].optics.aperture_mm = 110.0;
    let answer = words(&s);
    let times = |i: usize| &answer.evaluation.contenders[i].quantities;
    let time = |i: usize, q| times(i)[&q].time_to_goal_s.expect("reachable");
    let verdict =
        answer.rows[0].verdicts.iter().find(|v| v.question.starts_with("Time")).expect("a verdict");
    let weak = if time(0, Quantity::Oiii) > time(0, Quantity::Ha) {
        "[O III] is the weak one"
    } else {
        "H-alpha + [N II] is the weak one"
    };
    assert!(verdict.text.ends_with(weak), "{}", verdict.text);
    // A line that no picture shows alone is named as such, and is never the weak one.
    let bare =
        answer.rows[2].verdicts.iter().find(|v| v.question.starts_with("Time")).expect("a verdict");
    assert!(bare.text.contains("[S II] mixed with H-alpha + [N II]"), "{}", bare.text);
    assert!(!bare.text.ends_with("H-beta is the weak one"), "{}", bare.text);
    let said = &answer.rows[1]
        .differences
        .iter()
        .find(|d| d.quantity == Some(Quantity::Ha))
        .expect("a difference")
        .text;
    let ratio = time(1, Quantity::Ha) / time(0, Quantity::Ha);
    assert_eq!(said, &format!("{ratio:.1} times the time for the same H-alpha + [N II]"));
    assert!(answer.rows[0].differences.is_empty());
    // Where nobody knows how bright the target is, the verdict says so, and only there.
    assert!(!verdict.text.contains("typical"), "{}", verdict.text);
    s.target.known = Some(Known::Typical);
    let unknown = words(&s);
    let of = |q: &str| {
        let mut all = unknown.rows[0].verdicts.iter();
        all.find(|v| v.question.starts_with(q)).expect("a verdict").text.clone()
    };
    assert!(of("Time").ends_with("only typical of its kind"), "{}", of("Time"));
    assert!(answer.rows.iter().flat_map(|r| &r.verdicts).all(|v| !v.reasons.is_empty()));
}

/// Where a target has [N II], it is named with H-alpha everywhere, H-alpha alone can be judged, and
/// the reasons say by which it was judged and what the other way of counting says.
#[test]
fn nitrogen_is_named_and_h_alpha_alone_can_be_judged() {
    let names =
        |s: &Scenario| -> Vec<_> { words(s).judged.iter().map(|j| (j.quantity, j.name)).collect() };
    let mut s = ic_443();
    s.target.lines_rayleigh.nii = s.target.lines_rayleigh.ha;
    let band = |nm| vec![Some(bands("Ha", nm, &[656.3]))];
    s.contenders = vec![
        through(&s.contenders[0], band(7.0), 300.0),
        through(&s.contenders[0], band(3.0), 300.0),
    ];
    assert_eq!(
        names(&s),
        [(Quantity::Ha, "H-alpha + [N II]"), (Quantity::HaAlone, "H-alpha alone")]
    );
    let answer = words(&s);
    let of = |q| {
        let list = &answer.rows[1].differences;
        list.iter().find(|d| d.quantity == Some(q)).expect("a difference")
    };
    // As bright as H-alpha, it makes the wide band the faster by one way of counting and the
    // slower by the other.
    let (both, alone) = (of(Quantity::Ha), of(Quantity::HaAlone));
    assert!(both.text.ends_with("times the time for the same H-alpha + [N II]"), "{}", both.text);
    assert!(alone.text.ends_with("the time for the same H-alpha alone"), "{}", alone.text);
    let ratio = |q| {
        let t = |i: usize| answer.evaluation.contenders[i].quantities[&q].time_to_goal_s;
        t(1).expect("reachable") / t(0).expect("reachable")
    };
    assert!(ratio(Quantity::Ha) > 1.2 && ratio(Quantity::HaAlone) < 0.8);
    let reason = both.reasons.last().expect("a reason");
    assert!(reason.starts_with("Judged by H-alpha + [N II]; of H-alpha's light, "), "{reason}");
    assert!(reason.contains("By H-alpha alone: 0."), "{reason}");
    assert!(alone.reasons.last().expect("a reason").contains("By H-alpha + [N II]: 1."));
    // In the wide band the two cannot be told apart where [N II] is the brighter.
    s.target.lines_rayleigh.nii = 2.0 * s.target.lines_rayleigh.ha;
    let answer = words(&s);
    let mixed = |i: usize, q| answer.evaluation.contenders[i].quantities[&q].mixed_with;
    assert_eq!(mixed(0, Quantity::HaAlone), Some(Quantity::Ha));
    assert_eq!((mixed(1, Quantity::HaAlone), mixed(0, Quantity::Ha)), (None, None));
    // Without [N II] there is one H-alpha, by its plain name.
    s.target.lines_rayleigh.nii = 0.0;
    assert_eq!(names(&s), [(Quantity::Ha, "H-alpha")]);
}

#[test]
fn what_a_path_leaves_out_or_adds_is_said() {
    let mut s = ic_443();
    let ha = through(&s.contenders[0], vec![Some(bands("Ha", 3.0, &[656.3]))], 300.0);
    s.contenders = vec![s.contenders[0].clone(), ha.clone()];
    assert!(words(&s).rows[1].differences.iter().any(|d| d.text == "records no [O III]"));
    s.contenders.reverse();
    assert!(
        words(&s).rows[1]
            .differences
            .iter()
            .any(|d| d.text.starts_with("adds [O III]: SNR 20 in "))
    );
}

#[test]
fn a_curve_passes_the_goal_where_the_time_to_it_says() {
    let answer = words(&ic_443());
    let chart = answer.curves.iter().find(|c| c.quantity == Quantity::Ha).expect("a chart");
    let fastest = chart.snr.iter().find(|c| c.contender == 0).expect("a curve");
    let time = answer.evaluation.contenders[0].quantities[&Quantity::Ha]
        .time_to_goal_s
        .expect("reachable");
    let after =
        chart.clock_s.iter().position(|t| *t >= time).expect("the crossing is on the chart");
    assert!(fastest.snr[after] >= 20.0 && fastest.snr[after - 1] < 20.0);
}

#[test]
fn a_damaged_shelf_entry_names_its_field() {
    let entries = shipped_entries(&Library::shipped().expect("library").gear);
    assert!(entries.iter().all(|(_, e)| e.clone().check().is_ok()));
    let mut filter = entries.into_iter().find(|(id, _)| id == "dual-7").expect("the filter").1;
    filter.name = "  ".into();
    if let ShelfThing::Filter(f) = &mut filter.thing {
        f.filter.bands.as_mut().expect("bands")[1].fwhm_nm = -7.0;
    }
    let errors: Vec<_> = filter.check().expect_err("damaged").into_iter().map(|e| e.path).collect();
    assert_eq!(errors, ["name", "thing.item.filter.bands[1].fwhm_nm"]);
}
