//! `salt-lamp standin`: a camera that plays a plan into a folder of frames; a sky meter and a cloud
//! watcher that see the same night.

use std::path::{Path, PathBuf};

use clap::{Args, Subcommand};
use salt_lamp_core::Checked;
use salt_lamp_core::library::{Library, ShelfThing, demo_kit};
use salt_lamp_core::light::Tables;
use salt_lamp_core::night::Place;
use salt_lamp_formats::read_scenario;
use salt_lamp_server::Threads;
use salt_lamp_standins::night::PlanToPlay;
use salt_lamp_standins::{Camera, Instruments, Night, StandinError, Weather, read_plan};

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
    /// A sky meter: the zenith each minute of a plan's night, as JSON lines and CSV.
    SkyMeter(InstrumentOf),
    /// A cloud watcher: what cloud takes of the starlight each minute, as JSON lines and CSV.
    CloudWatcher(InstrumentOf),
}

/// A night, and the sky and the rig that it is played with.
#[derive(Args)]
struct NightOf {
    /// A night's plan (JSON, as the Night view and `/api/v1/night/plan` write it).
    #[arg(long)]
    plan: PathBuf,
    /// The folder that is written to; it is made where it is missing.
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
    /// Latitude of the site, degrees; that of the plan's site where it is one of the demo's.
    #[arg(long, allow_negative_numbers = true, requires = "longitude")]
    latitude: Option<f64>,
    /// Longitude of the site, degrees, east positive.
    #[arg(long, allow_negative_numbers = true, requires = "latitude")]
    longitude: Option<f64>,
    /// A clear and still night: no cloud, no drifting focus, no lost guide star, no satellite.
    #[arg(long)]
    clear: bool,
    /// Seed: the same gives the same night.
    #[arg(long, default_value_t = 1)]
    seed: u32,
}

#[derive(Args)]
struct InstrumentOf {
    #[command(flatten)]
    night: NightOf,
}

#[derive(Args)]
struct CameraOf {
    #[command(flatten)]
    night: NightOf,
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
}

impl Standin {
    /// Plays it to its end.
    pub fn run(self) -> Outcome {
        match self.device {
            Device::Camera(camera) => camera.run(),
            Device::SkyMeter(of) => of.night.instruments(|i, to| i.write_sky(to)),
            Device::CloudWatcher(of) => of.night.instruments(|i, to| i.write_clouds(to)),
        }
    }
}

impl CameraOf {
    fn run(self) -> Outcome {
        if self.speed.is_some_and(|s| !(s > 0.0 && s.is_finite())) {
            return Err("--speed: give a number above 0".into());
        }
        let said = |i: usize, of: usize, truth: &salt_lamp_standins::Truth| {
            say(&format!("{i} of {of}: {}", truth.file));
        };
        self.night.on_a_rig(self.sensor_crop, |camera, plan| {
            let night = Night {
                camera,
                plan,
                position_angle_deg: self.angle,
                calibration: self.calibration,
                speed: self.speed,
                seed: self.night.seed,
            };
            match night.shots() {
                Ok(_) => night.play(&self.night.to, &Threads::of_machine(), said).map(|_| ()),
                Err(e) => Err(e),
            }
        })
    }
}

impl NightOf {
    /// Sets up each rig that may have taken the plan until one of them plays it; what is wrong with
    /// the first is told where none does.
    fn on_a_rig(
        &self,
        crop: Option<u32>,
        mut play: impl FnMut(&Camera, &PlanToPlay) -> Result<(), StandinError>,
    ) -> Outcome {
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
        let mut wrong = None;
        for (scenario, path) in self.candidates()? {
            let mut camera = Camera::new(&scenario, path, (place, crop, self.seed), &tables)?;
            if !self.clear {
                let [from_s, to_s] = plan.ends_s()?;
                camera = camera.under(Weather::new(self.seed, from_s, to_s));
            }
            match play(&camera, &plan) {
                Ok(()) => return Ok(()),
                // What cannot be written is no matter of the rig.
                Err(e @ StandinError::Frame(_)) => return Err(e.into()),
                Err(e) => wrong = wrong.or(Some(e)),
            }
        }
        Err(wrong.map_or_else(|| "there is no light path to play it".into(), Into::into))
    }

    /// Has an instrument read the night, from an hour before its first block to its end.
    fn instruments(&self, write: impl Fn(&Instruments, &Path) -> Result<(), String>) -> Outcome {
        self.on_a_rig(None, |camera, plan| {
            // Of the rigs the one that has the plan's filters: its comparison knows the sky.
            let night = Night {
                camera,
                plan,
                position_angle_deg: 0.0,
                calibration: 0,
                speed: None,
                seed: self.seed,
            };
            night.shots()?;
            let [from_s, to_s] = plan.ends_s()?;
            let seen = Instruments { camera, span_s: [from_s - 3600.0, to_s], seed: self.seed };
            write(&seen, &self.to).map_err(StandinError::Frame)
        })
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
        ShelfThing::Site(site) if entry.name == name => Some(Place::from(&site)),
        _ => None,
    })
}
