//! What the core answers today, written down: a change that is not meant is seen, wherever it comes
//! from.
//!
//! Not a check of what is right (that is done beside the formulas and against other people's
//! tables), but of what moves. Numbers agree to 1e-9, words to the letter. A change that is meant
//! is written anew with `SNAPSHOT=write cargo test -p salt-lamp-core snapshot`, and read in the
//! difference before it is committed. Long lists are thinned.

use std::fs;
use std::path::PathBuf;

use crate::common::{KINDS, read, tables};
use salt_lamp_core::campaign::{ClearNights, forecast};
use salt_lamp_core::decide::{Study, bandwidth, decide, rank_filters};
use salt_lamp_core::evaluate;
use salt_lamp_core::library::{Catalogue, Library};
use salt_lamp_core::light::Quantity;
use salt_lamp_core::look::{Look, LookView, Palette, Stretch};
use salt_lamp_core::night::{
    Change, DarkHours, Direction, LocalClock, NightRig, NightTarget, Overheads, Place, PlanGoal,
    PlanSpec, RankedFor, TonightSpec, night_view, plan_night, plan_targets, unix_midnight,
    worth_tonight, year_view,
};
use salt_lamp_core::path::spectrum_view;
use salt_lamp_core::report::{bench, matrix};
use salt_lamp_core::scenario::{Moon, NightLimits, Scenario};
use salt_lamp_core::workers::SingleThread;
use serde::Serialize;
use serde_json::{Value, json};

/// Of a longer list of numbers this many are kept, evenly spaced.
const KEPT: usize = 4;

/// A document with its long lists thinned; of lists of objects a few are kept whole.
fn thinned(value: Value) -> Value {
    match value {
        Value::Array(list) if list.len() > 3 * KEPT => {
            let last = list.len() - 1;
            let some = (0..KEPT).map(|i| thinned(list[i * last / (KEPT - 1)].clone()));
            json!({"of": list.len(), "some": some.collect::<Vec<_>>()})
        }
        Value::Array(list) => list.into_iter().map(thinned).collect(),
        Value::Object(fields) => fields.into_iter().map(|(k, v)| (k, thinned(v))).collect(),
        other => other,
    }
}

fn told(answer: &impl Serialize) -> Value {
    thinned(serde_json::to_value(answer).expect("it is written"))
}

/// Where two documents part, by path.
fn parted(path: &str, now: &Value, then: &Value, out: &mut Vec<String>) {
    match (now, then) {
        (Value::Object(a), Value::Object(b)) => {
            for key in a.keys().chain(b.keys().filter(|k| !a.contains_key(*k))) {
                parted(
                    &format!("{path}.{key}"),
                    a.get(key).unwrap_or(&Value::Null),
                    b.get(key).unwrap_or(&Value::Null),
                    out,
                );
            }
        }
        (Value::Array(a), Value::Array(b)) if a.len() == b.len() => {
            a.iter()
                .zip(b)
                .enumerate()
                .for_each(|(i, (a, b))| parted(&format!("{path}[{i}]"), a, b, out));
        }
        (Value::Number(a), Value::Number(b)) => {
            let (x, y) = (a.as_f64().unwrap_or(f64::NAN), b.as_f64().unwrap_or(f64::NAN));
            let same = (x - y).abs() <= 1e-9 * y.abs() + 1e-15;
            if !same {
                out.push(format!("{path}: {x} instead of {y}"));
            }
        }
        _ if now == then => {}
        _ => out.push(format!("{path}: {now} instead of {then}")),
    }
}

/// Holds an answer against what was written down, or writes it down.
fn holds(name: &str, now: Value) {
    let at = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join(format!("tests/snapshot/{name}.json"));
    if std::env::var("SNAPSHOT").as_deref() == Ok("write") {
        fs::create_dir_all(at.parent().expect("a folder")).expect("made");
        // A line an object in a list, so that a difference can be read.
        let text = now.to_string().replace("},{", "},\n{") + "\n";
        fs::write(&at, text).expect("written");
    }
    let then = fs::read_to_string(&at).unwrap_or_else(|e| panic!("{}: {e}", at.display()));
    let mut out = Vec::new();
    parted(name, &now, &serde_json::from_str(&then).expect("a document"), &mut out);
    assert!(
        out.is_empty(),
        "{} values moved:\n{}",
        out.len(),
        out.iter().take(20).cloned().collect::<Vec<_>>().join("\n")
    );
}

/// The bench's answers to a scenario.
fn answers(s: &Scenario) -> Value {
    let (checked, tables, gear) =
        (s.clone().check().expect("accepted"), tables(), Library::shipped().expect("library").gear);
    let evaluation = evaluate(&checked, &tables);
    let study = Study::new(checked.clone(), &tables);
    let decisions = decide(&study, &gear);
    let last = s.contenders.len() - 1;
    json!({
        "evaluation": told(&evaluation),
        "bench": told(&bench(&study)),
        "matrix": told(&matrix(&study, &decisions)),
        "decisions": told(&decisions),
        "filters": told(&rank_filters(&checked, last, Quantity::Oiii, &gear.filters, &tables)),
        "bandwidth": told(&bandwidth(&checked, 0, Quantity::Ha, &tables, &SingleThread)),
        "spectrum": told(&spectrum_view(&checked, last, &tables)),
    })
}

#[test]
fn snapshot_of_the_demo() {
    for name in
        ["larch-lane-ic-443", "larch-lane-ngc-7822", "heron-lake-ngc-2403", "heron-lake-ngc-7129"]
    {
        holds(name, answers(&read(name)));
    }
}

/// A moon, twilight, thin air, a measured sky, no dither, no cooling.
#[test]
fn snapshot_of_a_hard_night() {
    let mut s = read("larch-lane-ic-443");
    s.sky.moon = Some(Moon { phase_angle_deg: 40.0, altitude_deg: 35.0, separation_deg: 55.0 });
    (s.sky.sun_altitude_deg, s.sky.k_v, s.sky.site_height_m) = (-14.0, Some(0.31), 1200.0);
    (s.sky.target_altitude_deg, s.sky.ambient_c) = (32.0, 11.0);
    (s.calibration.dithered, s.calibration.flat_residue) = (false, 1e-4);
    s.contenders[1].sensor.rise_above_ambient_k = Some(9.0);
    s.contenders[1].gain = 37.0;
    s.choices.uncertainty.draws = 60;
    holds("hard-night", answers(&s));
}

#[test]
fn snapshot_of_the_look() {
    let mut all = serde_json::Map::new();
    for (i, kind) in KINDS.into_iter().enumerate() {
        let mut s = read(if i % 2 == 0 { "larch-lane-ic-443" } else { "heron-lake-ngc-2403" });
        s.target.kind = kind;
        s.sky.moon = (i % 3 == 0).then_some(Moon {
            phase_angle_deg: 60.0,
            altitude_deg: 30.0,
            separation_deg: 70.0,
        });
        let palettes = [Palette::Natural, Palette::Hoo, Palette::Sho, Palette::Single];
        let stretches = [Stretch::Asinh, Stretch::Midtones, Stretch::Linear];
        let view = LookView {
            field_arcsec: 160.0,
            seed: 7 + i as u32,
            palette: palettes[i % 4],
            stretch: stretches[i % 3],
            guiding_rms_arcsec: 0.3 * (i % 2) as f64,
            moon_direction_deg: 30.0,
            ..LookView::default()
        };
        let look = Look::new(s.check().expect("accepted"), view, &tables(), &SingleThread);
        let white = look.white(&view);
        let crop = look.crop(0, &view, white);
        let bytes: Vec<u32> =
            crop.rgb.chunks(97).map(|c| c.iter().map(|b| u32::from(*b)).sum()).collect();
        let boxed = look.measure(0, [-50.0, -50.0, 50.0, 50.0], 0.5);
        all.insert(
            format!("{kind:?}"),
            told(&json!({"words": look.words(&view), "white": white, "crop": bytes,
            "measured": boxed})),
        );
    }
    holds("look", Value::Object(all));
}

#[test]
fn snapshot_of_a_night() {
    let (place, ic_443) = (
        Place { latitude_deg: 46.35, longitude_deg: -72.55, height_m: 30.0 },
        Direction { ra_deg: 94.304, dec_deg: 22.518 },
    );
    let m_81 = Direction { ra_deg: 148.888, dec_deg: 69.065 };
    let noon = unix_midnight(2027, 1, 22).expect("a date") + 61_200.0;
    let limits = NightLimits {
        horizon_deg: vec![[0.0, 12.0], [120.0, 25.0], [250.0, 18.0]],
        ..NightLimits::default()
    };
    let s = read("larch-lane-ic-443");
    let names: Vec<String> = s.contenders[0]
        .exposures
        .iter()
        .map(|e| e.filter.as_ref().map_or("none".into(), |f| f.name.clone()))
        .collect();
    let rig = NightRig::new(&s.check().expect("accepted"), 0, &tables()).expect("a rig");
    let clock = LocalClock(vec![(0.0, -5.0 * 3600.0)]);
    let view = night_view(place, noon, noon + 86_400.0, ic_443, &limits, Some(&rig))
        .expect("sun and moon");
    let specs = [
        PlanSpec::default(),
        PlanSpec { goal: PlanGoal::Most { quantity: Quantity::Oiii }, ..PlanSpec::default() },
        PlanSpec {
            overheads: Overheads {
                setup_min: 40.0,
                refocus_every_min: Some(45.0),
                flats_min: 12.0,
                ..Overheads::default()
            },
            ..PlanSpec::default()
        },
    ];
    let plans: Vec<_> =
        specs.iter().map(|spec| plan_night(&rig, &names, &view, spec, &clock)).collect();
    let later =
        night_view(place, noon, noon + 86_400.0, m_81, &limits, Some(&rig)).expect("sun and moon");
    let of = |view, change| NightTarget { rig: &rig, names: &names, view, spec: &specs[0], change };
    let both = [of(&view, Change::Sinks), of(&later, Change::Sinks)];
    let two = plan_targets(&both, &limits, &clock);
    let noons: Vec<f64> = (0..40).map(|i| noon + 86_400.0 * f64::from(i)).collect();
    let calendar =
        year_view(place, &noons, ic_443, &limits, Some(&rig), &SingleThread).expect("sun and moon");
    let catalogue = Catalogue::shipped().expect("catalogue");
    let dark = DarkHours { place, from_s: noon, to_s: noon + 86_400.0, limits: &limits };
    let on = RankedFor {
        rig: &rig,
        continuum_v_mag: Some(22.5),
        field_arcmin: 150.0,
        goal_snr: Some(20.0),
        square_arcsec: 5.0,
    };
    let tonight = worth_tonight(&catalogue, &dark, &on, &TonightSpec::default());
    let ahead = forecast(
        &[500.0, 900.0],
        &[vec![40.0, 0.0, 90.0, 60.0], vec![70.0, 30.0, 0.0, 80.0]],
        &[0, 1],
        ClearNights::in_runs(0.3),
        11,
    );
    holds(
        "night",
        json!({
            "view": told(&view), "plans": told(&plans), "first": told(&two[0]),
                "second": told(&two[1]), "calendar": told(&calendar),
            "tonight": told(&tonight.expect("sun and moon")), "forecast": told(&ahead),
        }),
    );
}
