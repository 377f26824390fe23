//! A night that the stand-in camera plays, so that a new user sees a log fill: NGC 2403 from the
//! demo's dark site, on a small sensor, with thin cloud, a focus that drifts, a lost guide star and a
//! satellite.

use std::path::Path;

use salt_lamp_core::library::Library;
use salt_lamp_core::light::Tables;
use salt_lamp_core::log::evening;
use salt_lamp_server::Threads;
use salt_lamp_standins::{Camera, Instruments, Night, Weather, read_plan};

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

/// Plays the next night that was not played yet into a folder of its own beneath a folder of frames.
///
/// # Errors
/// In words: where a frame cannot be made or written.
pub fn play_next(beneath: &Path) -> Result<(), String> {
    for night in 0..MOST_NIGHTS {
        let noon_s = FIRST_NOON_S + f64::from(night) * 86_400.0;
        let [tonight, morrow] = [0.0, 86_400.0].map(|later| evening(noon_s + later, 0.0));
        let to = beneath.join(format!("played-{tonight}"));
        if !to.exists() {
            return play(&to, &morrow, night + SEED);
        }
    }
    Err(format!("{MOST_NIGHTS} nights were played: take some of their folders away"))
}

/// Seed of the first night.
const SEED: u32 = 1;

fn play(to: &Path, morning: &str, seed: u32) -> Result<(), String> {
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
