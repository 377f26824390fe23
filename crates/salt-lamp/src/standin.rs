//! `salt-lamp standin camera`: plays a plan into a folder of frames.

use std::path::PathBuf;

use clap::{Args, Subcommand};
use salt_lamp_core::Checked;
use salt_lamp_core::library::{Library, ShelfThing, demo_kit};
use salt_lamp_core::light::Tables;
use salt_lamp_core::night::Place;
use salt_lamp_formats::read_scenario;
use salt_lamp_server::Threads;
use salt_lamp_standins::{Camera, Night, Weather, read_plan};

use crate::say::say;

type Outcome = Result<(), Box<dyn std::error::Error>>;

/// Devices that do not exist.
#[derive(Args)]
pub struct Standin {
    #[command(subcommand)]
    device: Device,
}

#[derive(Subcommand)]
enum Device {
    /// A camera: renders the subs of a plan, with flats, darks and bias frames, and the truth of
    /// them as truth.json.
    Camera(CameraOf),
}

#[derive(Args)]
struct CameraOf {
    /// A night's plan (JSON, as the Night view and `/api/v1/night/plan` write it).
    #[arg(long)]
    plan: PathBuf,
    /// The folder that the frames are written to; it is made where it is missing.
    #[arg(long)]
    to: PathBuf,
    /// The comparison with the camera (JSON); the shipped example that has the plan's filters where
    /// none is given.
    #[arg(long)]
    scenario: Option<PathBuf>,
    /// Which light path of it, counted from 1; the first that has the plan's filters where none is
    /// given.
    #[arg(long)]
    path: Option<usize>,
    /// How much faster than a clock; as fast as can be where none is given.
    #[arg(long)]
    speed: Option<f64>,
    /// Read only the middle square of so many pixels of the sensor.
    #[arg(long, value_name = "PIXELS")]
    sensor_crop: Option<u32>,
    /// How many flats, darks and bias frames of each kind that the night needs.
    #[arg(long, default_value_t = 5)]
    calibration: u32,
    /// The angle of the camera, degrees from north through east.
    #[arg(long, default_value_t = 0.0, allow_negative_numbers = true)]
    angle: f64,
    /// Latitude of the site, degrees; that of the plan's site where it is one of the demo's.
    #[arg(long, allow_negative_numbers = true, requires = "longitude")]
    latitude: Option<f64>,
    /// Longitude of the site, degrees, east positive.
    #[arg(long, allow_negative_numbers = true, requires = "latitude")]
    longitude: Option<f64>,
    /// A clear and still night: no cloud, no drifting focus, no lost guide star, no satellite.
    #[arg(long)]
    clear: bool,
    /// Seed: the same gives the same frames.
    #[arg(long, default_value_t = 1)]
    seed: u32,
}

impl Standin {
    /// Plays it to its end.
    pub fn run(self) -> Outcome {
        match self.device {
            Device::Camera(camera) => camera.run(),
        }
    }
}

impl CameraOf {
    fn run(self) -> Outcome {
        if self.speed.is_some_and(|s| !(s > 0.0 && s.is_finite())) {
            return Err("--speed: give a number above 0".into());
        }
        let text = std::fs::read_to_string(&self.plan)
            .map_err(|e| format!("{}: {e}", self.plan.display()))?;
        let plan = read_plan(&text).map_err(|e| format!("{}: {e}", self.plan.display()))?;
        let tables = Tables::shipped()?;
        let place = match (self.latitude, self.longitude) {
            (Some(latitude_deg), Some(longitude_deg)) => {
                Some(Place { latitude_deg, longitude_deg, height_m: 0.0 })
            }
            _ => of_demo(&plan.site),
        };
        let mut tried = Vec::new();
        for (scenario, path) in self.candidates()? {
            let with = (place, self.sensor_crop, self.seed);
            let mut camera = Camera::new(&scenario, path, with, &tables)?;
            if !self.clear {
                let [from_s, to_s] = plan.ends_s().map_err(|e| e.to_string())?;
                camera = camera.under(Weather::new(self.seed, from_s, to_s));
            }
            let night = Night {
                camera: &camera,
                plan: &plan,
                position_angle_deg: self.angle,
                calibration: self.calibration,
                speed: self.speed,
                seed: self.seed,
            };
            match night.shots() {
                Ok(_) => {
                    let said = |i: usize, of: usize, truth: &salt_lamp_standins::Truth| {
                        say(&format!("{i} of {of}: {}", truth.file));
                    };
                    night.play(&self.to, &Threads::of_machine(), said)?;
                    return Ok(());
                }
                Err(e) => tried.push(e.to_string()),
            }
        }
        Err(tried
            .first()
            .cloned()
            .unwrap_or_else(|| "there is no light path to play it".into())
            .into())
    }

    /// Light paths that may have taken the plan, the likeliest first.
    fn candidates(&self) -> Result<Vec<(Checked, usize)>, Box<dyn std::error::Error>> {
        let scenarios: Vec<Checked> = match &self.scenario {
            Some(file) => {
                let bytes = std::fs::read(file).map_err(|e| format!("{}: {e}", file.display()))?;
                vec![read_scenario(&bytes).map_err(|e| format!("{}: {e}", file.display()))?]
            }
            None => Library::shipped()?
                .examples
                .into_iter()
                .filter_map(|e| e.scenario.check().ok())
                .collect(),
        };
        let paths = |s: &Checked| s.scenario().contenders.len();
        let all = scenarios
            .into_iter()
            .flat_map(|s| (0..paths(&s)).map(move |i| (s.clone(), i)).collect::<Vec<_>>());
        Ok(match self.path {
            Some(n) => all.filter(|(_, i)| i + 1 == n).collect(),
            None => all.collect(),
        })
    }
}

/// The place of a site of the demo by its name.
pub fn of_demo(name: &str) -> Option<Place> {
    demo_kit().into_iter().find_map(|(_, entry)| match entry.thing {
        ShelfThing::Site(site) if entry.name == name => Some(Place {
            latitude_deg: site.latitude_deg,
            longitude_deg: site.longitude_deg,
            height_m: site.height_m,
        }),
        _ => None,
    })
}
