//! How long an evaluation takes. Run by `cargo xtask bench`.

use std::collections::BTreeMap;

use criterion::{Criterion, criterion_group, criterion_main};
use salt_lamp_core::campaign::{Campaign, CampaignFraming, Need, weighed};
use salt_lamp_core::decide::{BuyKind, BuyPlace, BuyQuestion, Study, decide, rank_filters, to_buy};
use salt_lamp_core::library::{
    Catalogue, CatalogueQuery, FilterFits, GearFilter, Library, ShelfThing, Stars, demo_kit,
    moderate,
};
use salt_lamp_core::light::{Quantity, Tables};
use salt_lamp_core::log::{CopyQuestion, CopySeen, NightModel, PatchSub, copy_told};
use salt_lamp_core::night::{
    Change, DarkHours, Direction, LocalClock, NightRig, NightTarget, Place, PlanSpec, RankedFor,
    TonightSpec, month_view, night_view, plan_night, plan_targets, worth_tonight, year_view,
};
use salt_lamp_core::path::sky::Air;
use salt_lamp_core::scenario::{
    Known, NightLimits, Passband, Scenario, Sky, TargetKind, Uncertainty,
};
use salt_lamp_core::trial::{Covariate, Judged, Treatment, TrialFrame, TrialQuestion, analysed};
use salt_lamp_core::workers::SingleThread;
use salt_lamp_core::{Checked, evaluate, report};

/// Eight contenders of three exposures each, no two filters alike.
fn eight_by_three() -> Checked {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../data/demo/larch-lane-ngc-7822.json");
    let mut s: Scenario =
        serde_json::from_str(&std::fs::read_to_string(path).expect("the demo")).expect("parses");
    let three = s.contenders[1].clone();
    let colour = s.contenders[2].sensor.clone();
    s.contenders = (0..8)
        .map(|i| {
            let mut c = three.clone();
            if i % 2 == 1 {
                c.sensor = colour.clone();
            }
            c.optics.aperture_mm += f64::from(i);
            for band in c
                .exposures
                .iter_mut()
                .filter_map(|e| e.filter.as_mut())
                .filter_map(|f| f.bands.as_mut())
                .flatten()
            {
                band.fwhm_nm = 3.0 + f64::from(i) * 0.5;
            }
            c
        })
        .collect();
    s.sky.moon = Some(salt_lamp_core::scenario::Moon {
        phase_angle_deg: 60.0,
        altitude_deg: 30.0,
        separation_deg: 80.0,
    });
    s.check().expect("accepted")
}

fn benches(c: &mut Criterion) {
    let tables = Tables::shipped().expect("tables");
    let scenario = eight_by_three();
    c.bench_function("evaluate 8 contenders of 3 exposures", |b| {
        b.iter(|| evaluate(&scenario, &tables))
    });
    c.bench_function("bench answer of 8 contenders of 3 exposures", |b| {
        b.iter(|| report::bench(&Study::new(scenario.clone(), &tables)))
    });
}

/// All decisions: optimum, plateau, ladder, splits, sensitivity, 200 draws, add-ons and pairs.
fn decisions(c: &mut Criterion) {
    let tables = Tables::shipped().expect("tables");
    let scenario = eight_by_three();
    let filters = Library::shipped().expect("library").gear;
    c.bench_function("decide 8 contenders of 3 exposures", |b| {
        b.iter(|| decide(&Study::new(scenario.clone(), &tables), &filters))
    });
    let seven = eight_by_seven(&scenario);
    c.bench_function("decide 8 contenders of 7 exposures", |b| {
        b.iter(|| decide(&Study::new(seven.clone(), &tables), &filters))
    });
}

/// What the bench shows with one kind of draw left out at a time, and with one draw only: what each
/// costs.
fn draws(c: &mut Criterion) {
    let tables = Tables::shipped().expect("tables");
    type Change = fn(&mut Uncertainty);
    let leave_out: [(&str, Change); 8] = [
        ("none", |_| ()),
        ("sky", |u| u.sky_mag = 0.0),
        ("lines and [N II]", |u| (u.target_relative, u.nii_relative) = (0.0, 0.0)),
        ("throughput", |u| u.throughput_relative = 0.0),
        ("air and airglow", |u| (u.k_v_mag, u.airglow_mag) = (0.0, 0.0)),
        ("lamp mix", |u| u.lamp_mix = false),
        ("filter copies", |u| u.filter_centre = false),
        ("three quarters of all", |u| u.draws /= 4),
    ];
    for (name, change) in leave_out {
        let mut s = eight_by_three().scenario().clone();
        change(&mut s.choices.uncertainty);
        let s = s.check().expect("accepted");
        c.bench_function(&format!("bench answer, draws left out: {name}"), |b| {
            b.iter(|| report::bench(&Study::new(s.clone(), &tables)))
        });
    }
}

/// Luminance, three colours and three lines on each mono camera: eleven goals that share seven
/// exposures.
fn eight_by_seven(three: &Checked) -> Checked {
    let mut s = three.scenario().clone();
    let mono = s.contenders[0].clone();
    let broad = |name: &str, centre_nm: f64, fwhm_nm: f64| {
        let mut e = mono.exposures[0].clone();
        let f = e.filter.as_mut().expect("a filter");
        f.name = name.into();
        f.bands = Some(vec![Passband { centre_nm, fwhm_nm, peak: 0.95, order: 6.0 }]);
        e
    };
    for (i, c) in s.contenders.iter_mut().enumerate() {
        c.sensor = mono.sensor.clone();
        let off = i as f64;
        c.exposures.extend([
            broad("L", 550.0 + off, 290.0),
            broad("R", 645.0 + off, 90.0),
            broad("G", 535.0, 90.0 - off),
            broad("B", 450.0, 100.0 - off),
        ]);
        c.exposures.iter_mut().for_each(|e| e.share = 1.0 / 7.0);
    }
    s.check().expect("accepted")
}

/// Sixty filters ranked for one rig, and a keystroke in the catalogue.
fn searches(c: &mut Criterion) {
    let tables = Tables::shipped().expect("tables");
    let scenario = eight_by_three();
    let shipped = Library::shipped().expect("library").gear.filters;
    let sixty: Vec<_> =
        shipped.iter().cycle().filter(|f| f.fits != FilterFits::Mono).take(60).cloned().collect();
    c.bench_function("rank 60 filters", |b| {
        b.iter(|| rank_filters(&scenario, 1, Quantity::Ha, &sixty, &tables))
    });
    buying(c, &scenario, &sixty, &tables);
    let catalogue = Catalogue::shipped().expect("catalogue");
    let query = CatalogueQuery { text: "ngc 7".into(), ..Default::default() };
    c.bench_function("search the catalogue", |b| b.iter(|| catalogue.search(&query, 60)));
    c.bench_function("read the catalogue", |b| b.iter(|| Catalogue::shipped().expect("catalogue")));
    let stars = Stars::shipped().expect("stars");
    c.bench_function("stars within two degrees", |b| {
        b.iter(|| stars.around(305.6, 40.3, 2.0, f64::INFINITY))
    });
}

/// Which of 60 filters next, for five kinds of target at two places.
fn buying(c: &mut Criterion, scenario: &Checked, sixty: &[GearFilter], tables: &Tables) {
    let library = Library::shipped().expect("library");
    let s = scenario.scenario();
    let kinds: Vec<BuyKind> = [
        TargetKind::HIiRegion,
        TargetKind::SupernovaRemnant,
        TargetKind::PlanetaryNebula,
        TargetKind::Galaxy,
        TargetKind::ReflectionNebula,
    ]
    .into_iter()
    .filter_map(|kind| moderate(&library.targets, kind))
    .map(|p| BuyKind { name: p.label.to_owned(), target: p.named("it", Known::Typical) })
    .collect();
    let place = |name: &str, zenith_v_mag: f64, nights_per_year: f64| BuyPlace {
        name: name.to_owned(),
        sky: Sky { zenith_v_mag, ..s.sky.clone() },
        seeing_fwhm_arcsec: 2.5,
        nights_per_year,
        hours_per_night: 5.0,
    };
    let places = [place("City", 18.5, 40.0), place("Dark", 21.6, 8.0)];
    let rig = &s.contenders[1];
    let question = BuyQuestion { rig, filters: sixty, places: &places, kinds: &kinds };
    c.bench_function("what to buy of 60 filters, five kinds, two places", |b| {
        b.iter(|| to_buy(&question, tables))
    });
}

/// A night planned, the whole catalogue ranked for it, a year seen, and four crops rendered anew.
fn nights(c: &mut Criterion) {
    let tables = Tables::shipped().expect("tables");
    let scenario = eight_by_three();
    let place = Place { latitude_deg: 46.35, longitude_deg: -72.55, height_m: 30.0 };
    let target = Direction { ra_deg: 94.3, dec_deg: 22.5 };
    let from_s = 1_799_600_400.0;
    let limits = NightLimits::default();
    let names = vec!["a".to_owned(), "b".to_owned(), "c".to_owned()];
    c.bench_function("see and plan a night", |b| {
        b.iter(|| {
            let rig = NightRig::new(&scenario, 0, &tables).expect("a rig");
            let view = night_view(place, from_s, from_s + 86_400.0, target, &limits, Some(&rig))
                .expect("sun and moon");
            plan_night(&rig, &names, &view, &PlanSpec::default(), &LocalClock::default())
        });
    });
    c.bench_function("see and plan a night of three targets", |b| {
        b.iter(|| {
            let places = [(94.3, 22.5), (114.2, 65.6), (148.9, 69.1)];
            let rig = NightRig::new(&scenario, 0, &tables).expect("a rig");
            let views = places.map(|(ra_deg, dec_deg)| {
                let at = Direction { ra_deg, dec_deg };
                night_view(place, from_s, from_s + 86_400.0, at, &limits, Some(&rig))
                    .expect("sun and moon")
            });
            let spec = PlanSpec::default();
            let of = |view| NightTarget {
                rig: &rig,
                names: &names,
                view,
                spec: &spec,
                change: Change::BestUse,
            };
            let targets = [of(&views[0]), of(&views[1]), of(&views[2])];
            plan_targets(&targets, &limits, &LocalClock::default())
        });
    });
    c.bench_function("weigh an evening of a campaign against 30 nights", |b| {
        let noons: Vec<f64> = (0..31).map(|i| from_s + 86_400.0 * f64::from(i)).collect();
        b.iter(|| {
            let rig = NightRig::new(&scenario, 0, &tables).expect("a rig");
            let nights = month_view(place, &noons, target, &limits, &rig).expect("sun and moon");
            let mean = |x: usize| -> f64 {
                let parts = nights.iter().flat_map(|n| &n.parts);
                parts.map(|p| p.hours * p.per_h[x][0]).sum::<f64>() / 10.0
            };
            let need =
                |x| Need { exposure: x, line: 0, done_snr2: 0.0, goal_snr2: mean(x).max(1e-9) };
            let needs: Vec<Need> = (0..rig.len()).map(need).collect();
            weighed(&needs, &nights, 0.3)
        });
    });
    let catalogue = Catalogue::shipped().expect("catalogue");
    // Every object, whatever its size, and a rig without a filter, so that all positions and rates
    // are computed.
    let mut open = scenario.scenario().clone();
    open.contenders[0].exposures[0].filter = None;
    let unfiltered = NightRig::new(&open.check().expect("accepted"), 0, &tables).expect("a rig");
    let all = TonightSpec { at_least_arcmin: Some(0.0), ..TonightSpec::default() };
    c.bench_function("rank the catalogue for a night", |b| {
        b.iter(|| {
            let night = DarkHours { place, from_s, to_s: from_s + 86_400.0, limits: &limits };
            let on = RankedFor {
                rig: &unfiltered,
                continuum_v_mag: Some(23.0),
                field_arcmin: 100.0,
                goal_snr: Some(20.0),
                square_arcsec: 5.0,
            };
            worth_tonight(&catalogue, &night, &on, &all).expect("sun and moon")
        });
    });
    let rig = NightRig::new(&scenario, 0, &tables).expect("a rig");
    let noons: Vec<f64> = (0..365).map(|i| from_s + f64::from(i) * 86_400.0).collect();
    c.bench_function("see a year of nights", |b| {
        b.iter(|| {
            year_view(place, &noons, target, &limits, Some(&rig), &SingleThread)
                .expect("sun and moon")
        })
    });
}

/// What 300 frames of a night are predicted to hold, and where the bands of a filter's copy lie.
fn log(c: &mut Criterion) {
    let tables = Tables::shipped().expect("tables");
    let scenario = eight_by_three().scenario().clone();
    let ShelfThing::Site(site) = &demo_kit()
        .into_iter()
        .map(|(_, e)| e.thing)
        .find(|t| matches!(t, ShelfThing::Site(_)))
        .expect("a site")
    else {
        unreachable!("a site was looked for")
    };
    let campaign = Campaign {
        title: String::new(),
        contender: 0,
        also: Vec::new(),
        site: String::new(),
        framing: CampaignFraming { ra_deg: 94.25, dec_deg: 22.57, position_angle_deg: 0.0 },
        goals: Vec::new(),
        clear_share: 0.3,
        nights: Vec::new(),
        scenario,
    };
    // IC 443 on 2027-01-11, an hour after dusk and on.
    let from_s = 1_799_625_600.0;
    let name = campaign.scenario.contenders[0].sensor.channels()[0].name;
    c.bench_function("predict the 300 frames of a night", |b| {
        b.iter(|| {
            let span = [from_s, from_s + 300.0 * 72.0];
            let model = NightModel::new((&campaign, 0), site, span, &tables);
            let model = model.expect("accepted").expect("a path");
            let at = |i: usize| model.at(i % 3, name, from_s + 72.0 * i as f64);
            (0..300).filter_map(at).count()
        });
    });
    let path = &campaign.scenario.contenders[0];
    let mut slow = path.clone();
    slow.optics.focal_length_mm *= 2.0;
    let held = |n: usize| -> Vec<_> {
        let sub = |i: usize| PatchSub {
            exposure: 0,
            channel: name.to_owned(),
            at_s: from_s + i as f64,
            transparency: 1.0,
            over_e_per_s: 0.2,
            sd_e_per_s: 0.01,
        };
        (0..n).map(|i| (sub(i), Air::new(30.0, None, 1.2))).collect()
    };
    let filter = path.exposures[0].filter.as_ref().expect("a filter");
    let seen = |contender| CopySeen { contender, filter, light: None, held: held(6) };
    let question = CopyQuestion {
        seen: [seen(path), seen(&slow)],
        same_copy: true,
        believed: campaign.scenario.target.lines_rayleigh,
    };
    c.bench_function("where the bands of a filter's copy lie", |b| {
        b.iter(|| copy_told(&question, &[]).expect("lines"));
    });
}

/// A trial of 200 frames, judged.
fn trial(c: &mut Criterion) {
    let frames: Vec<TrialFrame> = (0..200u32)
        .map(|i| {
            let part = |step: f64| (f64::from(i) * step).fract() - 0.5;
            TrialFrame {
                name: String::new(),
                kind: usize::from(i % 4 == 1 || i % 4 == 2),
                start_s: 1.8e9 + 200.0 * f64::from(i),
                measure: (1.0 + 0.05 * part(0.618)).exp(),
                known: BTreeMap::from([
                    (Covariate::Transparency, 0.95 + 0.05 * part(0.755)),
                    (Covariate::Airmass, 1.1 + 1e-5 * f64::from(i) * f64::from(i)),
                    (Covariate::StarSize, 1.6 + 0.1 * part(0.570)),
                    (Covariate::Guiding, 0.5 + 0.1 * part(0.324)),
                ]),
            }
        })
        .collect();
    let question = TrialQuestion {
        treatment: Treatment::Filter,
        judged: Judged::PatchSnr,
        kinds: 2,
        frames: &frames,
        frames_a_slot: 1,
    };
    c.bench_function("judge a trial of 200 frames", |b| {
        b.iter(|| analysed(&question).expect("enough frames"));
    });
}

criterion_group!(all, benches, decisions, draws, searches, nights, log, trial);
criterion_main!(all);
