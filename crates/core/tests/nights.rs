//! Nights of several targets, and the hours between which they are worked.

use crate::common::{bands, read, tables, through};
use rand::{RngExt, SeedableRng};
use rand_pcg::Pcg64Mcg;
use salt_lamp_core::light::Quantity;
use salt_lamp_core::night::{
    Change, Direction, FixedBlock, LocalClock, LockedBlock, NightRig, NightTarget, NightView,
    Overheads, Place, Plan, PlanGoal, PlanSpec, SLOT_S, night_view, plan_night, plan_targets,
    unix_midnight,
};
use salt_lamp_core::scenario::{LocalTime, NightLimits, Scenario};

const LARCH_LANE: Place = Place { latitude_deg: 46.35, longitude_deg: -72.55, height_m: 30.0 };
const DAY_S: f64 = 86_400.0;

/// Noon of an evening in winter time of Quebec.
fn noon(y: i32, m: i32, d: i32) -> f64 {
    unix_midnight(y, m, d).expect("a date") + 17.0 * 3600.0
}

fn quebec() -> LocalClock {
    LocalClock(vec![(0.0, -5.0 * 3600.0)])
}

fn time(hours: u16, minutes: u16) -> LocalTime {
    LocalTime::new(hours, minutes).expect("a time")
}

fn rig_of(s: &Scenario, contender: usize) -> (NightRig, Vec<String>) {
    let rig = NightRig::new(&s.clone().check().expect("accepted"), contender, &tables())
        .expect("a contender");
    let name = |e: &salt_lamp_core::scenario::Exposure| {
        e.filter.as_ref().map_or("none".to_owned(), |f| f.name.clone())
    };
    (rig, s.contenders[contender].exposures.iter().map(name).collect())
}

/// A mono set of three lines, a colour camera through a dual band, and colour without a filter.
fn rigs() -> Vec<(NightRig, Vec<String>)> {
    [("larch-lane-ngc-7822", 1), ("larch-lane-ic-443", 0), ("heron-lake-ngc-2403", 0)]
        .map(|(name, contender)| rig_of(&read(name), contender))
        .to_vec()
}

fn seen(
    place: Place,
    noon_s: f64,
    at: Direction,
    limits: &NightLimits,
    rig: &NightRig,
) -> NightView {
    night_view(place, noon_s, noon_s + DAY_S, at, limits, Some(rig)).expect("sun and moon")
}

/// What a random night is asked.
struct Asked {
    views: Vec<NightView>,
    rigs: Vec<usize>,
    specs: Vec<PlanSpec>,
    changes: Vec<Change>,
    hours: NightLimits,
}

impl Asked {
    fn random(rng: &mut Pcg64Mcg, rigs: &[(NightRig, Vec<String>)]) -> Self {
        let place = Place {
            latitude_deg: rng.random_range(-60.0..60.0),
            longitude_deg: -75.0,
            height_m: 100.0,
        };
        let noon_s = noon(2026, 1, 1) + f64::from(rng.random_range(0..1000)) * DAY_S;
        let hours = NightLimits {
            not_before: rng.random_bool(0.4).then(|| time(rng.random_range(18..23), 30)),
            not_after: rng.random_bool(0.4).then(|| time(rng.random_range(1..5), 0)),
            ..NightLimits::default()
        };
        let overheads = Overheads {
            setup_min: [0.0, 30.0, 90.0][rng.random_range(0..3usize)],
            setup_in_dark: rng.random_bool(0.3),
            ..Overheads::default()
        };
        let count = rng.random_range(2..4usize);
        let mut asked = Self {
            views: Vec::new(),
            rigs: Vec::new(),
            specs: Vec::new(),
            changes: Vec::new(),
            hours,
        };
        for _ in 0..count {
            let rig = rng.random_range(0..rigs.len());
            let at = Direction {
                ra_deg: rng.random_range(0.0..360.0),
                dec_deg: place.latitude_deg + rng.random_range(-40.0..40.0),
            };
            let at = Direction { dec_deg: at.dec_deg.clamp(-85.0, 85.0), ..at };
            let limits = NightLimits {
                altitude_above_deg: [20.0, 30.0][rng.random_range(0..2usize)],
                not_after: asked.hours.not_after.or(rng.random_bool(0.2).then(|| time(2, 0))),
                not_before: asked.hours.not_before,
                ..NightLimits::default()
            };
            asked.views.push(seen(place, noon_s, at, &limits, &rigs[rig].0));
            asked.rigs.push(rig);
            asked.specs.push(PlanSpec { overheads, ..PlanSpec::default() });
            asked.changes.push(match rng.random_range(0..5) {
                0 => Change::Sinks,
                1 => Change::Meridian,
                2 => Change::At { time: time([22, 23, 0, 2][rng.random_range(0..4usize)], 15) },
                3 => Change::Alongside,
                _ => Change::BestUse,
            });
        }
        asked
    }

    fn planned(&self, rigs: &[(NightRig, Vec<String>)]) -> Vec<Plan> {
        let targets: Vec<NightTarget> = (0..self.views.len())
            .map(|i| NightTarget {
                rig: &rigs[self.rigs[i]].0,
                names: &rigs[self.rigs[i]].1,
                view: &self.views[i],
                spec: &self.specs[i],
                change: self.changes[i],
            })
            .collect();
        plan_targets(&targets, &self.hours, &quebec())
    }

    /// Whether a target stands on the first one's mount.
    fn shares_mount(&self, i: usize) -> bool {
        i == 0 || self.changes[i] != Change::Alongside
    }
}

/// Five hundred random nights of two and three targets, each with a rig of its own.
#[test]
fn random_nights_of_several_targets_keep_the_rules() {
    let mut rng = Pcg64Mcg::seed_from_u64(18);
    let rigs = rigs();
    let (mut shared, mut locked) = (0, 0);
    for case in 0..500 {
        let mut asked = Asked::random(&mut rng, &rigs);
        let first = asked.planned(&rigs);
        if let Some(b) = first[1].blocks.first().filter(|_| rng.random_bool(0.3)) {
            let (from_s, to_s) = (b.from_s, b.from_s + 2400.0);
            asked.specs[1].locked = vec![LockedBlock { exposure: 0, from_s, to_s }];
            locked += 1;
        }
        let plans = asked.planned(&rigs);
        assert_eq!(plans, asked.planned(&rigs), "case {case}: the same night, another plan");
        shared += usize::from(plans.iter().filter(|p| !p.blocks.is_empty()).count() > 1);
        keeps_the_rules(case, &asked, &plans, &rigs);
    }
    assert!(shared > 150 && locked > 40, "{shared} nights are shared, {locked} have a lock");
}

fn keeps_the_rules(case: usize, asked: &Asked, plans: &[Plan], rigs: &[(NightRig, Vec<String>)]) {
    let noon_s = asked.views[0].samples[0].at_s;
    let (opens_s, closes_s) = asked.hours.hours(noon_s, noon_s + DAY_S);
    let mut on_mount: Vec<(f64, f64, usize, bool)> = Vec::new();
    for (i, p) in plans.iter().enumerate() {
        let spec = &asked.specs[i];
        let o = &spec.overheads;
        let dusk_s = asked.views[i].events.dusk_s.filter(|_| o.setup_in_dark);
        let mut focused_s = f64::NEG_INFINITY;
        for b in &p.blocks {
            // Windows: dark, high enough, within the hours of the clock, the set-up done.
            let own = asked.views[i]
                .samples
                .iter()
                .filter(|s| s.at_s >= b.from_s - 1.0 && s.at_s <= b.to_s + 1.0);
            assert!(own.clone().all(|s| s.usable), "case {case}: {b:?}");
            assert!(b.from_s >= opens_s - 1.0 && b.to_s <= closes_s + 1.0, "case {case}: {b:?}");
            let ready = asked.hours.not_before.map(|_| opens_s).into_iter().chain(dusk_s);
            for begins in ready {
                assert!(b.from_s >= begins + o.setup_min * 60.0 - 1.0, "case {case}: {b:?}");
            }
            let spent = f64::from(b.subs) * b.sub_s
                + f64::from(b.refocuses) * o.refocus_s
                + b.flip_s.map_or(0.0, |_| o.flip_s);
            assert!(spent <= b.to_s - b.from_s + 1e-6, "case {case}: {b:?}");
            assert!(b.locked || b.to_s - b.from_s >= o.least_block_min * 60.0 - 1.0, "{b:?}");
            // Focus: never longer than an hour ago when a sub begins, blocks before it counted.
            let every_s = o.refocus_every_min.expect("a cadence") * 60.0;
            let begins_with = u32::from(focused_s < b.from_s);
            let since = b.to_s - b.from_s.max(focused_s.min(b.from_s));
            let least = ((b.to_s - b.from_s) / every_s).ceil() as u32 - 1;
            assert!(b.refocuses >= least, "case {case}: {since} s of {b:?}");
            assert!(b.refocuses <= least + 1 + begins_with, "case {case}: {b:?}");
            focused_s = b.from_s;
            if asked.shares_mount(i) {
                on_mount.push((b.from_s, b.to_s, i, b.locked));
            }
        }
        for l in &spec.locked {
            let kept = p.blocks.iter().filter(|b| b.locked && b.exposure == l.exposure);
            let cut = p.notes.iter().any(|n| n.starts_with("The locked block"));
            let length: f64 = kept.map(|b| b.to_s - b.from_s).sum();
            assert!(cut || length >= l.to_s - l.from_s - 2.0 * SLOT_S, "case {case}: {length}");
        }
        for t in &p.totals {
            let own = || p.blocks.iter().filter(|b| b.exposure == t.exposure);
            assert_eq!(t.subs, own().map(|b| b.subs).sum::<u32>(), "case {case}");
            let snr2 = own().map(|b| b.snr2).sum::<f64>();
            assert!((t.snr - snr2.sqrt()).abs() < 1e-9, "case {case}");
            let exposed = f64::from(t.subs) * rigs[asked.rigs[i]].0.sub_s(t.exposure);
            assert!((t.exposed_s - exposed).abs() < 1e-6, "case {case}");
        }
    }
    // One mount: no overlap, and a move takes its time.
    on_mount.sort_by(|a, b| a.0.total_cmp(&b.0));
    for w in on_mount.windows(2) {
        assert!(w[1].0 >= w[0].1 - 1e-6, "case {case}: overlap {w:?}");
        if w[0].2 != w[1].2 && !w[0].3 && !w[1].3 {
            assert!(w[1].0 >= w[0].1 + 300.0 - 1e-6, "case {case}: no time to move {w:?}");
        }
    }
    // One set-up and one end.
    let mount = || (0..plans.len()).filter(|&i| asked.shares_mount(i)).map(|i| &plans[i]);
    if mount().any(|p| !p.blocks.is_empty()) {
        assert_eq!(mount().filter(|p| p.setup_from_s.is_some()).count(), 1, "case {case}");
        assert_eq!(mount().filter(|p| p.finished_s.is_some()).count(), 1, "case {case}");
    }
    for (i, change) in asked.changes.iter().enumerate().skip(1) {
        let begins = plans[i].blocks.iter().find(|b| !b.locked).map(|b| b.from_s);
        let (Change::At { time }, Some(begins)) = (change, begins) else { continue };
        assert!(begins >= time.in_night(noon_s, noon_s + DAY_S) - SLOT_S, "case {case}");
    }
}

/// Moving the hour at which one target gives way to the next, a slot either way, never serves the
/// two better: by the sum of signals to noise as shares of what the whole night would bring.
#[test]
fn the_best_use_of_a_night_is_bettered_by_no_other_hour() {
    let rigs = rigs();
    let (rig, names) = &rigs[0];
    let limits = NightLimits::default();
    let galaxy = Direction { ra_deg: 10.68, dec_deg: 41.27 };
    let nebula = Direction { ra_deg: 94.3, dec_deg: 22.5 };
    for day in [3, 10, 17, 24] {
        let noon_s = noon(2027, 1, day);
        let views = [galaxy, nebula].map(|at| seen(LARCH_LANE, noon_s, at, &limits, rig));
        let spec = PlanSpec::default();
        let of =
            |i: usize, change| NightTarget { rig, names, view: &views[i], spec: &spec, change };
        let plans =
            plan_targets(&[of(0, Change::Sinks), of(1, Change::BestUse)], &limits, &quebec());
        let [a, b] = &plans[..] else { panic!("two plans") };
        assert!(!a.blocks.is_empty() && !b.blocks.is_empty(), "day {day}");
        // The galaxy stands in the evening and the nebula later, whichever is named first.
        let other =
            plan_targets(&[of(1, Change::Sinks), of(0, Change::BestUse)], &limits, &quebec());
        assert!(a.last_sub_s < b.blocks.first().map(|b| b.from_s), "day {day}");
        assert!(other[1].last_sub_s < other[0].blocks.first().map(|b| b.from_s), "day {day}");
        // By the minutes themselves: what of its whole night each has in its part.
        let share = |i: usize, from_s: f64, to_s: f64| {
            let mean = |x: usize| {
                let sum = |inside: &dyn Fn(f64) -> bool| -> f64 {
                    let minutes = views[i].samples.iter().filter(|s| inside(s.at_s));
                    minutes.map(|s| s.information_per_h[x]).sum()
                };
                sum(&|t| t >= from_s && t < to_s) / sum(&|_| true)
            };
            (0..3).map(mean).sum::<f64>() / 3.0
        };
        let cut = a.last_sub_s.expect("a block");
        let worth =
            |cut: f64| share(0, noon_s, cut).sqrt() + share(1, cut + 300.0, noon_s + DAY_S).sqrt();
        for by in [-4.0, -1.0, 1.0, 4.0] {
            let moved = worth(cut + by * SLOT_S);
            assert!(moved <= worth(cut) * 1.002, "day {day}: {by} slots: {moved}");
        }
    }
}

/// A change by the meridian needs no flip; one by the clock stands at its hour; alongside, the whole
/// night is both targets'.
#[test]
fn targets_change_as_they_are_told() {
    let rigs = rigs();
    let (rig, names) = &rigs[0];
    let limits = NightLimits::default();
    let noon_s = noon(2027, 1, 8);
    let places =
        [(56.75, 61.0), (94.3, 22.5)].map(|(ra_deg, dec_deg)| Direction { ra_deg, dec_deg });
    let views = places.map(|at| seen(LARCH_LANE, noon_s, at, &limits, rig));
    let spec = PlanSpec::default();
    let planned = |change| {
        let of =
            |i: usize, change| NightTarget { rig, names, view: &views[i], spec: &spec, change };
        plan_targets(&[of(0, Change::Sinks), of(1, change)], &limits, &quebec())
    };
    let transit = views[0].events.transit_s.expect("it passes the meridian");
    let meridian = planned(Change::Meridian);
    assert!(meridian[0].blocks.iter().all(|b| b.flip_s.is_none()), "{:?}", meridian[0].blocks);
    assert!(meridian[0].last_sub_s.expect("blocks") <= transit);
    assert!(meridian[0].last_sub_s.expect("blocks") > transit - 2.0 * SLOT_S);
    let at = planned(Change::At { time: time(22, 0) });
    let ten = noon_s + 10.0 * 3600.0;
    assert_eq!(at[0].last_sub_s, Some(ten));
    assert_eq!(at[1].blocks[0].from_s, ten + 300.0);
    // A block of the first that is locked for later does not hold the second up, and stays.
    let (from_s, to_s) = (ten + 4.0 * 3600.0, ten + 5.0 * 3600.0);
    let late =
        PlanSpec { locked: vec![LockedBlock { exposure: 0, from_s, to_s }], ..PlanSpec::default() };
    let first = NightTarget { rig, names, view: &views[0], spec: &late, change: Change::Sinks };
    let change = Change::At { time: time(22, 0) };
    let second = NightTarget { rig, names, view: &views[1], spec: &spec, change };
    let both = plan_targets(&[first, second], &limits, &quebec());
    assert!(both[0].blocks.iter().any(|b| b.locked && b.from_s == from_s), "{:?}", both[0].blocks);
    assert_eq!(both[1].blocks[0].from_s, ten + 300.0);
    assert!(both[1].blocks.iter().all(|b| b.to_s <= from_s - 300.0 || b.from_s >= to_s + 300.0));
    let alongside = planned(Change::Alongside);
    let alone = |i: usize| plan_night(rig, names, &views[i], &spec, &quebec());
    assert_eq!(alongside, [alone(0), alone(1)]);
}

/// Fact 23, common practice, no source: a window of 8 pm to 3 am leaves five to six hours of subs;
/// with 70 to 85 min of set-up, focus and flip inside it, 24 subs of 300 s in each of three filters
/// are too many, 20 or 21 fit.
#[test]
fn fact_23_a_winter_window_by_the_clock() {
    let mut s = read("larch-lane-ngc-7822");
    let base = s.contenders[1].clone();
    let lines = [("H-alpha", 656.3), ("[O III]", 500.7), ("[S II]", 672.0)];
    let filters = lines.map(|(name, nm)| Some(bands(name, 7.0, &[nm]))).to_vec();
    s.contenders = vec![through(&base, filters, 300.0)];
    let (rig, names) = rig_of(&s, 0);
    // A target that passes the meridian at about half past ten.
    let at = Direction { ra_deg: 84.0, dec_deg: 34.0 };
    let hours = NightLimits {
        not_before: Some(time(20, 0)),
        not_after: Some(time(3, 0)),
        ..NightLimits::default()
    };
    let noon_s = noon(2027, 1, 10);
    let view = seen(LARCH_LANE, noon_s, at, &hours, &rig);
    let overheads = Overheads { setup_min: 50.0, ..Overheads::default() };
    let subs = |asked: u32| {
        let blocks = (0..3)
            .map(|exposure| FixedBlock { exposure, minutes: 60.0, subs: Some(asked) })
            .collect();
        let spec = PlanSpec { goal: PlanGoal::Fixed { blocks }, overheads, ..PlanSpec::default() };
        let only = NightTarget {
            rig: &rig,
            names: &names,
            view: &view,
            spec: &spec,
            change: Change::Sinks,
        };
        plan_targets(&[only], &hours, &quebec()).remove(0)
    };
    let many = subs(24);
    assert!(many.notes.iter().any(|n| n.contains("do not fit")), "{:?}", many.notes);
    let offered = many.offered.as_ref().expect("a shorter list");
    let said = |n: u32| {
        format!("24 subs of each are too many for this night: {n} of each fit.") == offered.text
    };
    assert!(said(20) || said(21), "{}", offered.text);
    let exposed_h: f64 = many.totals.iter().map(|t| t.exposed_s / 3600.0).sum();
    assert!((5.0..6.0).contains(&exposed_h), "{exposed_h} h");
    let all_taken = |n: &u32| subs(*n).totals.iter().all(|t| t.subs >= *n);
    let fit = (18..24).filter(all_taken).max();
    assert!(matches!(fit, Some(20 | 21)), "{fit:?} fit");
    // Set-up, focus and flip inside the window.
    let lost = 50.0
        + many.blocks.iter().map(|b| f64::from(b.refocuses) * 3.0).sum::<f64>()
        + many.blocks.iter().filter(|b| b.flip_s.is_some()).count() as f64 * 5.0;
    assert!((65.0..=90.0).contains(&lost), "{lost} min");
    assert_eq!(many.setup_from_s, Some(noon_s + 8.0 * 3600.0));
}

/// Fact 24, common practice, no source: hours of polar alignment eat the dark where they happen in
/// it.
#[test]
fn fact_24_a_set_up_in_the_dark_eats_it() {
    let rigs = rigs();
    let (rig, names) = &rigs[0];
    let view = seen(
        LARCH_LANE,
        noon(2027, 1, 10),
        Direction { ra_deg: 94.3, dec_deg: 22.5 },
        &NightLimits::default(),
        rig,
    );
    let plan = |setup_in_dark| {
        let overheads = Overheads { setup_min: 150.0, setup_in_dark, ..Overheads::default() };
        let spec = PlanSpec { overheads, ..PlanSpec::default() };
        plan_night(rig, names, &view, &spec, &quebec())
    };
    let (before, within) = (plan(false), plan(true));
    let dusk = view.events.dusk_s.expect("dusk");
    assert!(before.setup_from_s.expect("a plan") < dusk);
    let first = within.blocks[0].from_s;
    assert!((dusk + 9000.0..dusk + 9000.0 + 2.0 * SLOT_S).contains(&first), "{first}");
    assert!(within.setup_from_s.expect("a plan") >= dusk);
    let exposed = |p: &Plan| p.totals.iter().map(|t| t.exposed_s).sum::<f64>();
    assert!(exposed(&before) - exposed(&within) > 1.5 * 3600.0);
}

/// Orders of one's own: H-alpha first for the framing; what the moon hurts most while it is down.
#[test]
fn orders_of_one_s_own_are_kept() {
    let rigs = rigs();
    let (rig, names) = &rigs[0];
    let limits = NightLimits::default();
    let at = Direction { ra_deg: 94.3, dec_deg: 22.5 };
    let planned = |day: i32, goal: PlanGoal| {
        let view = seen(LARCH_LANE, noon(2027, 1, day), at, &limits, rig);
        let spec = PlanSpec { goal, ..PlanSpec::default() };
        (plan_night(rig, names, &view, &spec, &quebec()), view)
    };
    let of = |p: &Plan, q: Quantity| -> Vec<(f64, f64)> {
        let own = p.blocks.iter().filter(|b| rig.purpose(b.exposure) == Some(q));
        own.map(|b| (b.from_s, b.to_s)).collect()
    };
    let mut judged = 0;
    for day in 14..31 {
        let (p, _) = planned(day, PlanGoal::HaFirst);
        let Some(first) = p.blocks.first() else { continue };
        assert_eq!(rig.purpose(first.exposure), Some(Quantity::Ha), "day {day}");
        assert!(first.why.contains("framing"), "{}", first.why);
        let (p, view) = planned(day, PlanGoal::ByMoon);
        let (Some(oiii), Some(ha)) =
            (of(&p, Quantity::Oiii).first().copied(), of(&p, Quantity::Ha).first().copied())
        else {
            continue;
        };
        let inside = |t: Option<f64>| t.filter(|t| *t > oiii.0.min(ha.0) && *t < oiii.1.max(ha.1));
        // Rising within the plan: [O III] before H-alpha; setting within it: after.
        if inside(view.events.moonrise_s).is_some() {
            assert!(oiii.0 < ha.0, "day {day}: {:?}", p.blocks);
            judged += 1;
        } else if inside(view.events.moonset_s).is_some() {
            assert!(oiii.0 > ha.0, "day {day}: {:?}", p.blocks);
            judged += 1;
        }
    }
    assert!(judged >= 6, "{judged} nights have a moon that rises or sets");
}

/// A target has no more of the night than its goals want: the rest is the other's.
#[test]
fn enough_is_enough() {
    let rigs = rigs();
    let (rig, names) = &rigs[0];
    let limits = NightLimits::default();
    let noon_s = noon(2027, 1, 8);
    let places = [(94.3, 22.5), (148.9, 69.1)];
    let views = places
        .map(|(ra_deg, dec_deg)| Direction { ra_deg, dec_deg })
        .map(|at| seen(LARCH_LANE, noon_s, at, &limits, rig));
    let plain = PlanSpec::default();
    let alone = plan_night(rig, names, &views[0], &plain, &quebec());
    // A third of what a whole night brings.
    let near = PlanSpec {
        goal_snr: alone.totals.iter().map(|t| t.snr * (1.0f64 / 3.0).sqrt()).collect(),
        ..PlanSpec::default()
    };
    let planned = |first: &PlanSpec| {
        let of = |i: usize, spec, change| NightTarget { rig, names, view: &views[i], spec, change };
        let both = [of(0, first, Change::Sinks), of(1, &plain, Change::BestUse)];
        plan_targets(&both, &limits, &quebec())
    };
    let exposed = |p: &Plan| p.totals.iter().map(|t| t.exposed_s).sum::<f64>();
    let (far, near) = (planned(&plain), planned(&near));
    // The least-served comes to its goal and little beyond; others are held up by whole blocks.
    let least = near[0].totals.iter().map(|t| t.progress).fold(f64::INFINITY, f64::min);
    assert!((0.85..1.35).contains(&least), "{:?}", near[0].totals);
    assert!(exposed(&near[1]) > exposed(&far[1]) + 1800.0);
}

/// In a polar night the first target lasts until noon: those after it have nothing, in whichever way
/// they take over.
#[test]
fn a_night_without_an_end_leaves_nothing_for_those_who_wait() {
    let rigs = rigs();
    let (rig, names) = &rigs[0];
    let place = Place { latitude_deg: 84.0, longitude_deg: 0.0, height_m: 0.0 };
    let limits = NightLimits { sun_below_deg: -15.0, ..NightLimits::default() };
    let noon_s = unix_midnight(2026, 12, 20).expect("a date") + DAY_S / 2.0;
    let at = Direction { ra_deg: 30.0, dec_deg: 88.0 };
    let view = seen(place, noon_s, at, &limits, rig);
    assert!(view.events.usable_h > 23.0, "{:?}", view.events);
    let spec = PlanSpec::default();
    for change in [
        Change::Sinks,
        Change::Meridian,
        Change::At { time: time(11, 55) },
        Change::BestUse,
        Change::Alongside,
    ] {
        let of = |change| NightTarget { rig, names, view: &view, spec: &spec, change };
        let three = [of(Change::Sinks), of(Change::Sinks), of(change)];
        let plans = plan_targets(&three, &limits, &quebec());
        assert!(!plans[0].blocks.is_empty(), "{change:?}");
        let four = [of(Change::Sinks), of(Change::Sinks), of(change), of(Change::BestUse)];
        assert_eq!(plan_targets(&four, &limits, &quebec()).len(), 4, "{change:?}");
    }
}
