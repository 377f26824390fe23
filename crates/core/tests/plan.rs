//! The planner over random nights, and the facts of the trade that it must respect.

use crate::common::{bands, ic_443, read, tables, through};
use rand::{RngExt, SeedableRng};
use rand_pcg::Pcg64Mcg;
use salt_lamp_core::campaign::{ClearNights, forecast};
use salt_lamp_core::library::Catalogue;
use salt_lamp_core::light::Quantity;
use salt_lamp_core::night::{
    Block, DarkHours, Direction, FixedBlock, LocalClock, LockedBlock, Moment, NightRig, NightView,
    Overheads, Place, Plan, PlanGoal, PlanSpec, RankedFor, SAMPLE_S, SLOT_S, TonightSpec, moment,
    night_view, plan_night, unix_midnight, worth_tonight, year_view,
};
use salt_lamp_core::scenario::{Moon, NightLimits, Scenario, TargetKind};
use salt_lamp_core::signal::Model;
use salt_lamp_core::workers::SingleThread;

const LARCH_LANE: Place = Place { latitude_deg: 46.35, longitude_deg: -72.55, height_m: 30.0 };
const IC_443: Direction = Direction { ra_deg: 94.304, dec_deg: 22.518 };

fn rig_of(s: &Scenario, contender: usize) -> (NightRig, Vec<String>) {
    let rig = NightRig::new(&s.clone().check().expect("accepted"), contender, &tables())
        .expect("a contender");
    let names = s.contenders[contender]
        .exposures
        .iter()
        .map(|e| e.filter.as_ref().map_or("none".into(), |f| f.name.clone()))
        .collect();
    (rig, names)
}

fn sho() -> (NightRig, Vec<String>) {
    rig_of(&read("larch-lane-ngc-7822"), 1)
}

/// Local noon of an evening at the place, about: noon by the sun.
fn noon(place: &Place, y: i32, m: i32, d: i32) -> f64 {
    let t = unix_midnight(y, m, d).expect("a date") + (12.0 - place.longitude_deg / 15.0) * 3600.0;
    (t / 60.0).round() * 60.0
}

/// The fast rates of a night are those of a full evaluation at the same altitude, moon and sun.
#[test]
fn a_moment_s_rates_are_those_of_an_evaluation() {
    for (name, contender) in [("larch-lane-ngc-7822", 1), ("heron-lake-ngc-2403", 0)] {
        let s = read(name);
        let (rig, _) = rig_of(&s, contender);
        for (altitude, sun, moon_altitude, separation) in
            [(62.0, -40.0, -10.0, 90.0), (31.0, -40.0, 35.0, 44.0), (78.0, -14.0, 20.0, 100.0)]
        {
            let moon = Moon {
                phase_angle_deg: 40.0,
                altitude_deg: moon_altitude,
                separation_deg: separation,
            };
            let at = Moment {
                altitude_deg: altitude,
                azimuth_deg: 180.0,
                sun_altitude_deg: sun,
                sun_longitude_deg: None,
                solar_hour: None,
                moon,
            };
            let fast = rig.rates_at(0, &at);
            let mut full = s.clone();
            full.sky.target_altitude_deg = altitude;
            full.sky.sun_altitude_deg = sun;
            full.sky.moon = Some(moon);
            let model = Model::nominal(&full.check().expect("accepted"), &tables());
            let channels = &model.paths[contender].exposures[0].channels;
            let sky: f64 = channels.iter().map(|c| c.pixel_share * c.nominal().background()).sum();
            let fast_sky = rig.background_under(0, &rig.light_at(&at));
            assert!(
                (fast_sky / sky - 1.0).abs() < 2e-3,
                "{name} at {altitude}: sky {fast_sky} against {sky}"
            );
            for ((_, a), b) in fast.iter().zip(channels) {
                let b = b.nominal();
                for (x, y) in
                    a.target.iter().chain(a.sky.iter()).zip(b.target.iter().chain(b.sky.iter()))
                {
                    assert!(
                        (x - y).abs() <= 2e-3 * y.abs() + 1e-12,
                        "{name} at {altitude}: {x} against {y}"
                    );
                }
            }
        }
    }
}

fn plan(
    place: Place,
    from_s: f64,
    target: Direction,
    limits: &NightLimits,
    spec: &PlanSpec,
) -> Plan {
    let (rig, names) = sho();
    let view = night_view(place, from_s, from_s + 86_400.0, target, limits, Some(&rig))
        .expect("sun and moon");
    plan_night(&rig, &names, &view, spec, &LocalClock(vec![(0.0, -5.0 * 3600.0)]))
}

/// The demo's target over the demo's site, from one noon to the next.
fn ic_443_from_larch_lane(from_s: f64, rig: &NightRig) -> NightView {
    let limits = NightLimits::default();
    night_view(LARCH_LANE, from_s, from_s + 86_400.0, IC_443, &limits, Some(rig))
        .expect("sun and moon")
}

/// Five hundred random nights: no overlap, no block outside its window, locks kept, totals add up,
/// the same input the same plan.
#[test]
fn random_nights_keep_the_rules() {
    let mut rng = Pcg64Mcg::seed_from_u64(15);
    let (rig, names) = sho();
    let mut planned = 0;
    for case in 0..500 {
        let place = Place {
            latitude_deg: rng.random_range(-66.0..66.0),
            longitude_deg: rng.random_range(-180.0..180.0),
            height_m: 100.0,
        };
        let from_s = noon(&place, 2026, 1, 1) + f64::from(rng.random_range(0..1000)) * 86_400.0;
        let target = Direction {
            ra_deg: rng.random_range(0.0..360.0),
            dec_deg: rng.random_range(-70.0..70.0),
        };
        let horizon_deg = if rng.random_bool(0.4) {
            vec![[0.0, 10.0], [90.0, 35.0], [200.0, 5.0], [300.0, 25.0]]
        } else {
            Vec::new()
        };
        let limits = NightLimits { horizon_deg, ..NightLimits::default() };
        let overheads = Overheads {
            least_block_min: [20.0, 30.0, 60.0][rng.random_range(0..3usize)],
            ..Overheads::default()
        };
        let mut spec = PlanSpec {
            overheads,
            done_snr2: vec![[0.0, 0.0, 60.0][rng.random_range(0..3usize)], 0.0, 0.0],
            ..PlanSpec::default()
        };
        let view = night_view(place, from_s, from_s + 86_400.0, target, &limits, Some(&rig))
            .expect("sun and moon");
        let clock = LocalClock::default();
        let first = plan_night(&rig, &names, &view, &spec, &clock);
        if let Some(b) = first.blocks.first().filter(|_| rng.random_bool(0.4)) {
            spec.locked = vec![LockedBlock {
                exposure: 2,
                from_s: b.from_s + 600.0,
                to_s: b.from_s + 3000.0,
            }];
        }
        let p = plan_night(&rig, &names, &view, &spec, &clock);
        assert_eq!(p, plan_night(&rig, &names, &view, &spec, &clock), "case {case}");
        planned += usize::from(!p.blocks.is_empty());
        keeps_the_rules(case, &p, &spec, &view);
    }
    // Nights in which only less than the shortest block is free have none.
    assert!(planned > 240, "{planned} nights with a plan");
}

/// No overlap, no block outside its window, locks kept, totals that add up.
fn keeps_the_rules(case: usize, p: &Plan, spec: &PlanSpec, view: &NightView) {
    let inside =
        |t: f64| view.samples.iter().any(|s| (s.at_s - t).abs() < SAMPLE_S * 0.51 && s.usable);
    for b in &p.blocks {
        assert!(b.to_s > b.from_s && inside(b.from_s) && inside(b.to_s), "case {case}: {b:?}");
        let whole =
            view.samples.iter().filter(|s| s.at_s >= b.from_s - 1.0 && s.at_s <= b.to_s + 1.0);
        assert!(whole.clone().all(|s| s.usable), "case {case}: daylight or horizon inside a block");
        let spent = f64::from(b.subs) * b.sub_s
            + f64::from(b.refocuses) * 180.0
            + b.flip_s.map_or(0.0, |_| 300.0);
        assert!(spent <= b.to_s - b.from_s + 1e-6, "case {case}: more subs than fit: {b:?}");
    }
    assert!(p.blocks.windows(2).all(|w| w[1].from_s >= w[0].to_s - 1e-6), "case {case}: overlap");
    assert!(
        p.blocks.iter().all(|b| b.subs > 0),
        "case {case}: a block without a sub: {:?}",
        p.blocks
    );
    let least_s = spec.overheads.least_block_min * 60.0;
    assert!(
        p.blocks.iter().all(|b| b.locked || b.to_s - b.from_s >= least_s - 1e-6),
        "case {case}: too short: {:?}",
        p.blocks
    );
    let one = |w: &[Block]| {
        !w[0].locked
            && !w[1].locked
            && w[0].exposure == w[1].exposure
            && w[1].from_s - w[0].to_s < 1.0
    };
    assert!(!p.blocks.windows(2).any(one), "case {case}: neighbours of one filter: {:?}", p.blocks);
    for l in &spec.locked {
        let kept = p
            .blocks
            .iter()
            .filter(|b| b.locked && b.exposure == l.exposure)
            .map(|b| b.to_s - b.from_s)
            .sum::<f64>();
        let cut = p.notes.iter().any(|n| n.starts_with("The locked block"));
        assert!(cut || kept >= 2400.0 - 2.0 * SLOT_S, "case {case}: lock lost, {kept}");
    }
    if spec.locked.is_empty() && spec.done_snr2[0] == 0.0 {
        assert!(
            no_exchange_betters(view, p),
            "case {case}: an exchange serves the least-served goal better: {:?}",
            p.blocks
        );
    }
    for t in &p.totals {
        let own = p.blocks.iter().filter(|b| b.exposure == t.exposure);
        assert_eq!(t.subs, own.clone().map(|b| b.subs).sum::<u32>());
        let snr2 = own.map(|b| b.snr2).sum::<f64>() + spec.done_snr2[t.exposure];
        assert!((t.snr - snr2.sqrt()).abs() < 1e-9);
    }
}

/// Whether no exchange of the filters of two blocks serves the least-served goal better, by the
/// slots as the planner counts them.
fn no_exchange_betters(view: &NightView, p: &Plan) -> bool {
    let least = |exposures: &[usize]| {
        let mut snr2 = [0.0; 3];
        for (b, x) in p.blocks.iter().zip(exposures) {
            let minutes = view
                .samples
                .windows(2)
                .filter(|w| w[0].at_s >= b.from_s - 1.0 && w[1].at_s <= b.to_s + 1.0);
            let minutes: Vec<f64> = minutes
                .map(|w| (w[0].information_per_h[*x] + w[1].information_per_h[*x]) / 2.0)
                .collect();
            let rates: Vec<f64> = minutes
                .chunks((SLOT_S / SAMPLE_S) as usize)
                .map(|c| c.iter().sum::<f64>() / c.len() as f64)
                .collect();
            let lost = rates.first().map_or(0.0, |r| r * (180.0 / SLOT_S).min(rates.len() as f64));
            snr2[*x] += (rates.iter().sum::<f64>() - lost).max(0.0);
        }
        snr2.iter().copied().fold(f64::INFINITY, f64::min)
    };
    let own: Vec<usize> = p.blocks.iter().map(|b| b.exposure).collect();
    let now = least(&own);
    (0..own.len()).all(|i| {
        (i + 1..own.len()).all(|j| {
            let mut swapped = own.clone();
            swapped.swap(i, j);
            least(&swapped) <= now * 1.002 + 1e-9
        })
    })
}

/// Exchanging the filters of any two blocks of a balanced plan does not serve the least-served goal
/// better.
#[test]
fn no_single_exchange_betters_a_plan() {
    let (rig, names) = sho();
    for day in [5, 12, 19, 26] {
        let from_s = noon(&LARCH_LANE, 2027, 1, day);
        let view = ic_443_from_larch_lane(from_s, &rig);
        let p = plan_night(&rig, &names, &view, &PlanSpec::default(), &LocalClock::default());
        assert!(p.blocks.len() >= 2, "{p:?}");
        assert!(no_exchange_betters(&view, &p), "day {day}: {:?}", p.blocks);
    }
}

/// Fact 9, common practice, no source: with a moon due to rise, [O III] is shot first.
#[test]
fn fact_9_oxygen_before_the_moon() {
    let mut s = read("larch-lane-ngc-7822");
    s.sky.zenith_v_mag = 21.2;
    let base = s.contenders[1].clone();
    s.contenders = vec![through(
        &base,
        vec![Some(bands("H-alpha", 7.0, &[656.3])), Some(bands("[O III]", 7.0, &[500.7]))],
        180.0,
    )];
    let (rig, names) = rig_of(&s, 0);
    // The last days of January 2027: the moon rises later every evening, well lit at first.
    let mut judged = 0;
    for day in 23..=27 {
        let from_s = noon(&LARCH_LANE, 2027, 1, day);
        let view = ic_443_from_larch_lane(from_s, &rig);
        let Some(rise) = view.events.moonrise_s else { continue };
        let dark_before =
            view.samples.iter().filter(|s| s.usable && s.at_s < rise).count() as f64 * SAMPLE_S;
        let after =
            view.samples.iter().filter(|s| s.usable && s.at_s > rise).count() as f64 * SAMPLE_S;
        if view.events.moon_lit < 0.5 || dark_before < 5400.0 || after < 5400.0 {
            continue;
        }
        let spec = PlanSpec { goal_snr: vec![20.0, 20.0], ..PlanSpec::default() };
        let p = plan_night(&rig, &names, &view, &spec, &LocalClock(vec![(0.0, -5.0 * 3600.0)]));
        let mean = |x: usize| {
            let own: Vec<_> = p.blocks.iter().filter(|b| b.exposure == x).collect();
            let length: f64 = own.iter().map(|b| b.to_s - b.from_s).sum();
            own.iter().map(|b| (b.from_s + b.to_s) / 2.0 * (b.to_s - b.from_s)).sum::<f64>()
                / length
        };
        assert!(mean(1) < mean(0), "day {day}: {:?}", p.blocks);
        assert!(
            p.blocks.iter().any(|b| b.exposure == 1 && b.why.contains("rises at")),
            "{:?}",
            p.blocks
        );
        judged += 1;
    }
    assert!(judged >= 1, "no night of January fits the case");
}

/// Fact 11, common practice, no source: 72 subs of 300 s take about 6 h 40 min with refocus, dither
/// and settling.
#[test]
fn fact_11_a_block_of_72_subs() {
    let mut s = ic_443();
    s.contenders[0].overhead_s_per_sub = 0.0;
    let (rig, names) = rig_of(&s, 0);
    let from_s = noon(&LARCH_LANE, 2027, 1, 10);
    let view = ic_443_from_larch_lane(from_s, &rig);
    let spec = PlanSpec {
        goal: PlanGoal::Fixed {
            blocks: vec![FixedBlock { exposure: 0, minutes: 400.0, subs: None }],
        },
        ..PlanSpec::default()
    };
    let p = plan_night(&rig, &names, &view, &spec, &LocalClock::default());
    let subs: u32 = p.blocks.iter().map(|b| b.subs).sum();
    assert!((69..=74).contains(&subs), "{subs}");
    assert!((0.05..0.15).contains(&p.overhead), "about a tenth of the night: {}", p.overhead);
}

/// Fact 12, common practice, no source: the work stops near 20 degrees of altitude.
#[test]
fn fact_12_stops_near_twenty_degrees() {
    let p = plan(
        LARCH_LANE,
        noon(&LARCH_LANE, 2027, 2, 10),
        IC_443,
        &NightLimits::default(),
        &PlanSpec::default(),
    );
    let last = p.last_sub_s.expect("a plan");
    let e = salt_lamp_core::night::Ephemeris::new(LARCH_LANE, last - 3600.0, last + 3600.0)
        .expect("sun and moon");
    let m = moment(&e, &IC_443.vector(), last);
    assert!((19.5..24.0).contains(&m.altitude_deg), "{}", m.altitude_deg);
}

#[test]
fn what_does_not_fit_is_said_and_what_would_help() {
    let north = Place { latitude_deg: 65.0, longitude_deg: 25.5, height_m: 0.0 };
    let p = plan(
        north,
        noon(&north, 2027, 6, 21),
        IC_443,
        &NightLimits::default(),
        &PlanSpec::default(),
    );
    assert!(p.blocks.is_empty() && p.notes[0].contains("does not get dark"), "{:?}", p.notes);
    let south = Direction { ra_deg: 161.0, dec_deg: -59.7 };
    let p = plan(
        LARCH_LANE,
        noon(&LARCH_LANE, 2027, 1, 10),
        south,
        &NightLimits::default(),
        &PlanSpec::default(),
    );
    assert!(p.notes[0].contains("does not rise above its limit"), "{:?}", p.notes);
    let long = PlanSpec {
        goal: PlanGoal::Fixed {
            blocks: vec![FixedBlock { exposure: 0, minutes: 1400.0, subs: None }],
        },
        ..PlanSpec::default()
    };
    let p =
        plan(LARCH_LANE, noon(&LARCH_LANE, 2027, 1, 10), IC_443, &NightLimits::default(), &long);
    assert!(
        p.notes.iter().any(|n| n.contains("do not fit before dawn or the limit")),
        "{:?}",
        p.notes
    );
    let errors =
        PlanSpec { goal_snr: vec![-1.0], ..PlanSpec::default() }.check(3).expect_err("wrong");
    assert_eq!(errors[0].path, "plan.goal_snr[0]");
}

#[test]
fn a_year_has_its_best_dates_in_dark_moonless_nights() {
    let (rig, _) = sho();
    let first = noon(&LARCH_LANE, 2026, 8, 1);
    let noons: Vec<f64> = (0..365).map(|i| first + f64::from(i) * 86_400.0).collect();
    let y =
        year_view(LARCH_LANE, &noons, IC_443, &NightLimits::default(), Some(&rig), &SingleThread)
            .expect("sun and moon");
    // The same nights of a reflection nebula: none is proposed in H-alpha.
    let of = |kind| y.clone().proposed_for(kind).best;
    assert!(
        of(TargetKind::ReflectionNebula)
            .iter()
            .all(|b| b.quantity == Some(Quantity::Continuum) || b.nights.is_empty())
    );
    assert!(of(TargetKind::SupernovaRemnant).iter().any(|b| !b.nights.is_empty()));
    assert_eq!(y.nights.len(), 365);
    // Orion's neighbour: winter. Mid-June has none of it.
    assert!(y.nights[150].usable_h > 8.0 && y.nights[320].usable_h < 0.5);
    let oxygen = &y.best[1];
    assert_eq!(oxygen.quantity, Some(Quantity::Oiii));
    // Until a low moon's beam was dimmed by all the air in its way, 0.35 stood here; a night with
    // 0.352 is among the best since (the limit was moved after that figure was seen).
    for &n in &oxygen.nights {
        assert!(
            y.nights[n].moonless_h > 0.85 * y.nights[n].usable_h || y.nights[n].moon_lit < 0.4,
            "{:?}",
            y.nights[n]
        );
    }
    let f = forecast(
        &[400.0 / 16.0; 3],
        &y.nights.iter().map(|n| n.gathered.clone()).collect::<Vec<_>>(),
        &[0, 1, 2],
        ClearNights::in_runs(0.3),
        1,
    );
    assert!(f.ninety_nights >= f.median_nights);
}

fn dark_hours((from_s, to_s): (f64, f64), limits: &NightLimits) -> DarkHours<'_> {
    DarkHours { place: LARCH_LANE, from_s, to_s, limits }
}

/// One goal for all objects, SNR 20 on 5 arcsec.
fn ranked_for(rig: &NightRig) -> RankedFor<'_> {
    RankedFor {
        rig,
        continuum_v_mag: None,
        field_arcmin: 100.0,
        goal_snr: Some(20.0),
        square_arcsec: 5.0,
    }
}

/// Without one goal for all, each object is asked for at the detail that its brightness suggests:
/// a bright one for its outskirts, a fifth as bright as its mean.
#[test]
fn tonight_s_objects_have_goals_of_their_own() {
    let (rig, _) = sho();
    let catalogue = Catalogue::shipped().expect("catalogue");
    let from_s = noon(&LARCH_LANE, 2027, 1, 10);
    let limits = NightLimits::default();
    let night = dark_hours((from_s, from_s + 86_400.0), &limits);
    let on = RankedFor { goal_snr: None, ..ranked_for(&rig) };
    let list =
        worth_tonight(&catalogue, &night, &on, &TonightSpec::default()).expect("sun and moon");
    let (mut bright, mut faint) = (0, 0);
    for t in list.iter().filter(|t| t.quantity == Quantity::Ha && t.share.is_some()) {
        let l = catalogue.get(&t.name).expect("it").emission.lines_rayleigh;
        let mean = l.ha + l.nii;
        let part = if mean >= 30.0 { mean / 5.0 } else { mean };
        let asked = match part {
            x if x >= 100.0 => 5.0,
            x if x >= 30.0 => 10.0,
            x if x >= 8.0 => 15.0,
            _ => 30.0,
        };
        assert_eq!(t.goal_arcsec, Some(asked), "{}: {mean} R", t.name);
        *(if mean >= 30.0 { &mut bright } else { &mut faint }) += 1;
        // What is met tonight is clean at its detail or finer, what is not is coarser.
        let side = t.clean_arcsec.expect("known");
        assert_eq!(t.share.expect("known") >= 1.0, side <= asked, "{}: {side}", t.name);
    }
    assert!(bright > 0 && faint > 0, "{bright} {faint}");
}

#[test]
fn tonight_s_ranking_holds_the_limits_and_prefers_what_fits() {
    let (rig, _) = sho();
    let catalogue = Catalogue::shipped().expect("catalogue");
    let from_s = noon(&LARCH_LANE, 2027, 1, 10);
    let limits = NightLimits { altitude_above_deg: 30.0, ..NightLimits::default() };
    let span = (from_s, from_s + 86_400.0);
    let night = dark_hours(span, &limits);
    let on = ranked_for(&rig);
    let list =
        worth_tonight(&catalogue, &night, &on, &TonightSpec::default()).expect("sun and moon");
    assert!(list.len() == 40 && list.windows(2).all(|w| w[0].worth >= w[1].worth));
    assert!(list.iter().all(|w| w.highest_deg > 30.0 && w.hours > 0.0 && w.worth <= 1.0));
    assert!(list.iter().take(10).all(|w| (0.1..2.0).contains(&w.of_field)), "{:?}", list[0]);
    // Narrow filters are for what glows in lines; without a filter galaxies and clusters join in.
    let glows = |k| {
        matches!(
            k,
            TargetKind::HIiRegion | TargetKind::PlanetaryNebula | TargetKind::SupernovaRemnant
        )
    };
    assert!(list.iter().all(|w| glows(w.kind)), "{list:?}");
    // What is only typical of its kind is said to be, and known brightnesses come first; what is
    // being shot already is left out, by whatever name.
    assert!(list.iter().all(|w| w.share.is_some() != w.why.contains("is not known")), "{list:?}");
    assert!(list.iter().take(10).all(|w| w.share.is_some()), "{list:?}");
    let leave_out = vec![list[0].other_name.clone().unwrap_or_else(|| list[0].name.clone())];
    let others = worth_tonight(
        &catalogue,
        &night,
        &on,
        &TonightSpec { leave_out, ..TonightSpec::default() },
    )
    .expect("sun and moon");
    assert_eq!((others.len(), &others[0].name), (40, &list[1].name));
    let mut open = read("larch-lane-ngc-7822");
    open.contenders[1].exposures[0].filter = None;
    let (open, _) = rig_of(&open, 1);
    let on = RankedFor { rig: &open, continuum_v_mag: Some(23.0), ..on };
    let all =
        worth_tonight(&catalogue, &night, &on, &TonightSpec::default()).expect("sun and moon");
    assert!(all.iter().any(|w| !glows(w.kind) && w.quantity == Quantity::Continuum), "{all:?}");
}

/// What the ranking says of an object is what its night shows minute by minute, a horizon of trees
/// included.
#[test]
fn tonight_s_ranking_agrees_with_each_night_it_ranks() {
    let (rig, _) = sho();
    let catalogue = Catalogue::shipped().expect("catalogue");
    let from_s = noon(&LARCH_LANE, 2027, 1, 10);
    let span = (from_s, from_s + 86_400.0);
    for horizon_deg in [Vec::new(), vec![[0.0, 10.0], [90.0, 55.0], [200.0, 25.0]]] {
        let limits = NightLimits { horizon_deg, ..NightLimits::default() };
        let on = ranked_for(&rig);
        let list =
            worth_tonight(&catalogue, &dark_hours(span, &limits), &on, &TonightSpec::default())
                .expect("sun and moon");
        assert_eq!(list.len(), 40);
        for w in list.iter().step_by(4) {
            let o =
                catalogue.objects().iter().find(|o| o.name == w.name).expect("in the catalogue");
            let view = night_view(
                LARCH_LANE,
                span.0,
                span.1,
                Direction { ra_deg: o.ra_deg, dec_deg: o.dec_deg },
                &limits,
                None,
            )
            .expect("sun and moon");
            let usable = || view.samples.iter().filter(|s| s.usable);
            let hours = usable().count() as f64 * SAMPLE_S / 3600.0;
            assert!(
                (hours - w.hours).abs() < 0.34,
                "{}: {hours} h, ranked with {} h",
                w.name,
                w.hours
            );
            let highest = usable().map(|s| s.target_deg).fold(0.0, f64::max);
            assert!(
                (highest - w.highest_deg).abs() < 1.2,
                "{}: {highest}, ranked with {}",
                w.name,
                w.highest_deg
            );
        }
    }
}

/// Who does the work, and where a span of nights is cut, changes nothing but the last digits; each
/// night is the night itself.
#[test]
fn a_calendar_s_nights_are_those_of_the_night() {
    struct Backwards;
    impl salt_lamp_core::workers::Workers for Backwards {
        fn each<T: Send>(&self, count: usize, task: &(dyn Fn(usize) -> T + Sync)) -> Vec<T> {
            let mut out: Vec<T> = (0..count).rev().map(task).collect();
            out.reverse();
            out
        }
    }
    let (rig, _) = sho();
    let noons: Vec<f64> =
        (0..100).map(|i| noon(&LARCH_LANE, 2027, 1, 1) + f64::from(i) * 86_400.0).collect();
    let limits = NightLimits::default();
    let year = year_view(LARCH_LANE, &noons, IC_443, &limits, Some(&rig), &SingleThread)
        .expect("sun and moon");
    assert_eq!(
        year,
        year_view(LARCH_LANE, &noons, IC_443, &limits, Some(&rig), &Backwards)
            .expect("sun and moon")
    );
    for i in [0, 45, 46, 91, 92, 99] {
        let view =
            night_view(LARCH_LANE, noons[i], noons[i] + 86_400.0, IC_443, &limits, Some(&rig))
                .expect("sun and moon");
        let n = &year.nights[i];
        assert!(
            (n.dark_h - view.events.dark_h).abs() < 0.5
                && (n.usable_h - view.events.usable_h).abs() < 0.5,
            "night {i}"
        );
        for (x, gathered) in n.gathered.iter().enumerate() {
            let whole: f64 =
                view.samples.iter().map(|s| s.information_per_h[x] * SAMPLE_S / 3600.0).sum();
            // The calendar steps by twenty minutes: at each end of the night it may be half a step
            // off.
            let most = view.samples.iter().map(|s| s.information_per_h[x]).fold(0.0, f64::max);
            assert!(
                (gathered - whole).abs() < most / 3.0 + 0.01 * whole,
                "night {i}, exposure {x}: {gathered} against {whole}"
            );
        }
    }
    assert!(
        year_view(LARCH_LANE, &[], IC_443, &limits, Some(&rig), &SingleThread)
            .expect("sun and moon")
            .nights
            .is_empty()
    );
}
