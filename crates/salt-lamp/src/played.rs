//! A night that the stand-in camera plays, so that a new user sees a log fill: NGC 2403 from the
//! demo's dark site, on a small sensor, with thin cloud, a focus that drifts, a lost guide star and a
//! satellite; and a trial by its run sheet, whose further filters really are a little better than
//! their boxes say.

use std::path::{Path, PathBuf};

use salt_lamp_core::library::Library;
use salt_lamp_core::light::Tables;
use salt_lamp_core::log::evening;
use salt_lamp_core::night::{Direction, night_view, unix_midnight};
use salt_lamp_core::scenario::NightLimits;
use salt_lamp_core::trial::{Trial, TrialSlot, sheet};
use salt_lamp_formats::plan::rfc3339;
use salt_lamp_server::{Play, Threads};
use salt_lamp_standins::{Camera, Cloud, Instruments, Night, Weather, read_plan};

use crate::standin::of_demo;

/// The comparison that is played.
const SCENARIO: &str = "heron-lake-ngc-2403";
/// Its light path of luminance and colours.
const PATH: usize = 2;
/// Columns and rows that are read: small files, quickly made.
const SENSOR: [u32; 2] = [640, 480];
/// By how much the sky is really brighter than the site says, mag: something to learn.
const BRIGHTER_MAG: f64 = 0.35;
/// How the camera stands, degrees.
const ANGLE_DEG: f64 = 20.0;

/// The plan of the night that ends on a morning, with the mount's half turn in its last block.
fn plan(morning: &str) -> String {
    let block = |filter: &str, from: &str, subs: u32, flip: &str| {
        format!(
            r#"{{"filter": "{filter}", "from": "{morning}T{from}:00Z", "sub_s": 120,
                "subs": {subs}, "flip": {flip}}}"#
        )
    };
    let blocks = [
        block("Luminance", "06:00", 36, "null"),
        block("Red, gap at sodium", "07:25", 12, "null"),
        block("Green, overlapping blue at [O III]", "08:00", 12, "null"),
        block(
            "Blue, overlapping green at [O III]",
            "08:35",
            12,
            &format!("\"{morning}T08:45:00Z\""),
        ),
    ];
    format!(
        r#"{{"format": "salt-lamp-plan", "version": 1, "target": "NGC 2403", "ra_deg": 114.214,
        "dec_deg": 65.603, "site": "Heron Lake", "blocks": [{}]}}"#,
        blocks.join(", ")
    )
}

/// Noon of the first evening that is played, 2026-11-19, seconds since 1970 UTC.
const FIRST_NOON_S: f64 = 1_795_089_600.0;
/// Nights that are played at most.
const MOST_NIGHTS: u32 = 365;

/// Plays what is asked for into a folder of its own beneath a folder of frames.
///
/// # Errors
/// In words: where a frame cannot be made or written.
pub fn play(beneath: &Path, what: &Play) -> Result<(), String> {
    match what {
        Play::Night => play_next(beneath),
        Play::Trial(trial) => play_trial(beneath, trial),
    }
}

/// A folder beneath another that is not there yet.
fn new_folder(beneath: &Path, name: &str) -> Result<PathBuf, String> {
    (1..=MOST_NIGHTS)
        .map(|n| beneath.join(format!("{name}-{n}")))
        .find(|to| !to.exists())
        .ok_or_else(|| format!("{MOST_NIGHTS} were played: take some of their folders away"))
}

/// By how much a trial's further filters really pass more than their boxes say: four per cent of
/// signal to noise under a sky that drowns the camera's noise.
const REALLY_MORE: f64 = 1.085;
/// What a bank of thin cloud takes of one block's light at its thickest.
const CLOUD_TAKES: f64 = 0.3;

/// Plays a trial by its run sheet on the first evening of a dark week, with a thin cloud in its second
/// block.
fn play_trial(beneath: &Path, trial: &Trial) -> Result<(), String> {
    let first = trial.kinds.first().ok_or("it has no kinds")?;
    if trial.kinds.iter().any(|k| k.path != first.path) {
        return Err("the stand-in plays filters of one light path".to_owned());
    }
    let tables = Tables::shipped().map_err(|e| e.to_string())?;
    let place = of_demo(SITE_OF_TRIALS).ok_or("no demo")?;
    let noon_s = unix_midnight(2026, 12, 8).ok_or("no date")? + 17.0 * 3600.0;
    let at = Direction { ra_deg: trial.framing.ra_deg, dec_deg: trial.framing.dec_deg };
    let view = night_view(place, noon_s, noon_s + 86_400.0, at, &NightLimits::default(), None)
        .map_err(|e| e.to_string())?;
    let slots = sheet(trial, &view).slots;
    let mut scenario = trial.scenario.clone();
    let path = scenario.contenders.get_mut(first.path).ok_or("it has no light path")?;
    [path.sensor.columns, path.sensor.rows] = SENSOR_OF_TRIALS;
    let name = |kind: usize| -> Option<(&str, f64)> {
        let own = trial.scenario.contenders.get(first.path)?;
        let e = own.exposures.get(trial.kinds.get(kind)?.exposure)?;
        Some((e.filter.as_ref().map_or("no filter", |f| f.name.as_str()), e.sub_s))
    };
    let block = |s: &TrialSlot| {
        let (filter, sub_s) = name(s.kind)?;
        let subs = trial.design.frames_a_slot;
        let filter = serde_json::to_string(filter).ok()?;
        Some(format!(
            r#"{{"filter": {filter}, "from": "{}", "sub_s": {sub_s}, "subs": {subs}}}"#,
            rfc3339(s.from_s)
        ))
    };
    let blocks: Vec<String> = slots.iter().filter_map(block).collect();
    let target = serde_json::to_string(&trial.scenario.target.name).map_err(|e| e.to_string())?;
    let plan = format!(
        r#"{{"format": "salt-lamp-plan", "version": 1, "target": {target}, "ra_deg": {},
        "dec_deg": {}, "site": "{SITE_OF_TRIALS}", "blocks": [{}]}}"#,
        at.ra_deg,
        at.dec_deg,
        blocks.join(", ")
    );
    let plan = read_plan(&plan).map_err(|e| e.to_string())?;
    for kind in &trial.kinds[1..] {
        let own = path.exposures.get_mut(kind.exposure).and_then(|e| e.filter.as_mut());
        for b in own.and_then(|f| f.bands.as_mut()).into_iter().flatten() {
            b.peak = (b.peak * REALLY_MORE).min(1.0);
        }
    }
    let scenario = scenario.check().map_err(|e| format!("{e:?}"))?;
    let seed = trial.design.seed;
    let [from_s, to_s] = plan.ends_s().map_err(|e| e.to_string())?;
    let second = slots.iter().filter(|s| s.block == 1);
    let span = second.fold([f64::MAX, f64::MIN], |s, b| [s[0].min(b.from_s), s[1].max(b.to_s)]);
    let mut weather = Weather::new(seed, from_s, to_s);
    weather.clouds = vec![Cloud { from_s: span[0], to_s: span[1], takes: CLOUD_TAKES }];
    (weather.lost_one_in, weather.satellite_one_in) = (1000, 1000);
    let with = (Some(place), None, seed);
    let camera = Camera::new(&scenario, first.path, with, &tables)?.under(weather);
    let night = Night {
        camera: &camera,
        plan: &plan,
        position_angle_deg: trial.framing.position_angle_deg,
        calibration: 0,
        speed: None,
        seed,
    };
    let to = new_folder(beneath, "trial")?;
    night.play(&to, &Threads::of(1), |_, _, _| {}).map_err(|e| e.to_string())?;
    Ok(())
}

/// Columns and rows that a trial reads: enough stars to tell how clear each frame is.
const SENSOR_OF_TRIALS: [u32; 2] = [1280, 960];
/// From where trials are played.
const SITE_OF_TRIALS: &str = "Larch Lane";

/// Plays the next night that was not played yet into a folder of its own beneath a folder of frames.
///
/// # Errors
/// In words: where a frame cannot be made or written.
fn play_next(beneath: &Path) -> Result<(), String> {
    for night in 0..MOST_NIGHTS {
        let noon_s = FIRST_NOON_S + f64::from(night) * 86_400.0;
        let [tonight, morrow] = [0.0, 86_400.0].map(|later| evening(noon_s + later, 0.0));
        let to = beneath.join(format!("played-{tonight}"));
        if !to.exists() {
            return play_night(&to, &morrow, night + SEED);
        }
    }
    Err(format!("{MOST_NIGHTS} nights were played: take some of their folders away"))
}

/// Seed of the first night.
const SEED: u32 = 1;

fn play_night(to: &Path, morning: &str, seed: u32) -> Result<(), String> {
    let library = Library::shipped().map_err(|e| e.to_string())?;
    let tables = Tables::shipped().map_err(|e| e.to_string())?;
    let example = library.examples.into_iter().find(|e| e.id == SCENARIO).ok_or("no demo")?;
    let mut scenario = example.scenario;
    let sensor = &mut scenario.contenders[PATH].sensor;
    [sensor.columns, sensor.rows] = SENSOR;
    scenario.sky.zenith_v_mag -= BRIGHTER_MAG;
    let scenario = scenario.check().map_err(|e| format!("{e:?}"))?;
    let plan = read_plan(&plan(morning)).map_err(|e| e.to_string())?;
    let [from_s, to_s] = plan.ends_s().map_err(|e| e.to_string())?;
    let with = (of_demo("Heron Lake"), None, seed);
    let camera =
        Camera::new(&scenario, PATH, with, &tables)?.under(Weather::new(seed, from_s, to_s));
    let night = Night {
        camera: &camera,
        plan: &plan,
        position_angle_deg: ANGLE_DEG,
        calibration: 4,
        speed: None,
        seed,
    };
    night.play(to, &Threads::of(1), |_, _, _| {}).map_err(|e| e.to_string())?;
    let seen = Instruments { camera: &camera, span_s: [from_s - 3600.0, to_s], seed };
    seen.write_sky(to)?;
    seen.write_clouds(to)
}
