//! A sky meter and a cloud watcher: what they read each minute of a night, as JSON lines and CSV.

use std::io;
use std::path::Path;

use rand::{RngExt, SeedableRng};
use rand_pcg::Pcg64Mcg;
use serde::{Deserialize, Serialize};

use crate::camera::{Camera, stamp};

/// Time between two readings, s.
const EVERY_S: f64 = 60.0;
/// Scatter of a sky meter's single readings, mag (from memory).
const METER_SIGMA_MAG: f64 = 0.02;

/// What a sky meter read, pointed at the zenith.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct SkyReading {
    /// When, RFC 3339 in UTC.
    pub at: String,
    /// Brightness at the zenith, V mag/arcsec^2.
    pub sky_v_mag: f64,
}

/// What a cloud watcher read.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct CloudReading {
    /// When, RFC 3339 in UTC.
    pub at: String,
    /// Share of the starlight that cloud takes, 0-1.
    pub cover: f64,
}

/// Both instruments beside a camera.
pub struct Instruments<'a> {
    /// The camera, whose sky and weather they see.
    pub camera: &'a Camera<'a>,
    /// From when to when, seconds since 1970 UTC.
    pub span_s: [f64; 2],
    /// Seed of the meter's scatter.
    pub seed: u32,
}

impl Instruments<'_> {
    fn minutes(&self) -> impl Iterator<Item = f64> + use<> {
        let [from, to] = self.span_s;
        let count = ((to - from) / EVERY_S).max(0.0) as u32;
        (0..=count).map(move |i| from + EVERY_S * f64::from(i))
    }

    /// What the sky meter reads.
    ///
    /// # Errors
    /// In words: a sky that cannot be computed.
    pub fn sky(&self) -> Result<Vec<SkyReading>, String> {
        let mut rng = Pcg64Mcg::seed_from_u64(u64::from(self.seed) ^ 0x5c7);
        let mut one = |t: f64| {
            // The sum of three uniform deviates is near enough to a normal one.
            let about: f64 = (0..3).map(|_| 2.0 * rng.random::<f64>() - 1.0).sum();
            let mag = self.camera.zenith_v_mag(t)? + METER_SIGMA_MAG * about;
            Ok(SkyReading { at: stamp(t)?, sky_v_mag: (mag * 100.0).round() / 100.0 })
        };
        self.minutes().map(&mut one).collect()
    }

    /// What the cloud watcher reads.
    ///
    /// # Errors
    /// In words: a time that no calendar has.
    pub fn clouds(&self) -> Result<Vec<CloudReading>, String> {
        let one = |t: f64| {
            let cover = 1.0 - self.camera.clear_share(t);
            Ok(CloudReading { at: stamp(t)?, cover: (cover * 1000.0).round() / 1000.0 })
        };
        self.minutes().map(one).collect()
    }

    /// Writes the sky meter's readings into a folder, as `sky-meter.jsonl` and `sky-meter.csv`.
    ///
    /// # Errors
    /// In words: what cannot be computed or written.
    pub fn write_sky(&self, to: &Path) -> Result<(), String> {
        let all = self.sky()?;
        let row = |r: &SkyReading| format!("{},{}", r.at, r.sky_v_mag);
        written(to, "sky-meter", &all, "at_utc,sky_v_mag_arcsec2", row)
    }

    /// Writes the cloud watcher's readings into a folder, as `clouds.jsonl` and `clouds.csv`.
    ///
    /// # Errors
    /// In words: what cannot be computed or written.
    pub fn write_clouds(&self, to: &Path) -> Result<(), String> {
        let all = self.clouds()?;
        let row = |r: &CloudReading| format!("{},{}", r.at, r.cover);
        written(to, "clouds", &all, "at_utc,cover", row)
    }
}

/// Writes readings as JSON lines and as CSV.
fn written<T: Serialize>(
    to: &Path,
    name: &str,
    all: &[T],
    head: &str,
    row: impl Fn(&T) -> String,
) -> Result<(), String> {
    let lines: Vec<String> = all
        .iter()
        .map(serde_json::to_string)
        .collect::<Result<_, _>>()
        .map_err(|e| e.to_string())?;
    let table: Vec<String> = all.iter().map(row).collect();
    let fail = |e: io::Error| format!("{}: {e}", to.display());
    std::fs::create_dir_all(to).map_err(fail)?;
    std::fs::write(to.join(format!("{name}.jsonl")), lines.join("\n") + "\n").map_err(fail)?;
    let table = format!("{head}\n{}\n", table.join("\n"));
    std::fs::write(to.join(format!("{name}.csv")), table).map_err(fail)
}
