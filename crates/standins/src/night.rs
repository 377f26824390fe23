//! A night: a plan's blocks, played in order, and calibration frames after them.

use std::path::Path;
use std::time::Duration;

use jiff::Timestamp;
use salt_lamp_core::scenario::Pointing;
use salt_lamp_core::workers::Workers;
use serde::Deserialize;
use thiserror::Error;

use crate::camera::Camera;
use crate::shot::{Kind, Shot};
use crate::truth::NightTruth;

/// What is wrong with a night.
#[derive(Debug, Error)]
pub enum StandinError {
    /// The plan cannot be played.
    #[error("the plan cannot be played: {0}")]
    Plan(String),
    /// A frame cannot be made.
    #[error("{0}")]
    Frame(String),
}

/// As much of a published plan as is played.
#[derive(Clone, Debug, Deserialize)]
pub struct PlanToPlay {
    format: String,
    /// Name of the target.
    pub target: String,
    ra_deg: f64,
    dec_deg: f64,
    /// Name of the site.
    pub site: String,
    blocks: Vec<BlockToPlay>,
}

#[derive(Clone, Debug, Deserialize)]
struct BlockToPlay {
    filter: String,
    from: String,
    sub_s: f64,
    subs: u32,
    /// When the mount turns to the other side.
    #[serde(default)]
    flip: Option<String>,
    #[serde(default)]
    target: Option<TargetToPlay>,
}

#[derive(Clone, Debug, Deserialize)]
#[serde(untagged)]
enum TargetToPlay {
    Named(String),
    Placed { target: String, ra_deg: f64, dec_deg: f64 },
}

/// Reads a plan document.
///
/// # Errors
/// Where it is none, or has no block.
pub fn read_plan(text: &str) -> Result<PlanToPlay, StandinError> {
    let plan: PlanToPlay =
        serde_json::from_str(text).map_err(|e| StandinError::Plan(e.to_string()))?;
    if plan.format != "salt-lamp-plan" {
        let why = format!(
            "its format is \"{}\"; a document of format salt-lamp-plan is played",
            plan.format
        );
        return Err(StandinError::Plan(why));
    }
    if plan.blocks.is_empty() {
        return Err(StandinError::Plan("it has no block: nothing is shot in it".into()));
    }
    Ok(plan)
}

impl PlanToPlay {
    /// When its first block begins and its last one ends, seconds since 1970 UTC.
    ///
    /// # Errors
    /// Where a block's time is none.
    pub fn ends_s(&self) -> Result<[f64; 2], StandinError> {
        let mut ends = [f64::MAX, f64::MIN];
        for b in &self.blocks {
            let from = begin_s(&b.from)?;
            ends[0] = ends[0].min(from);
            ends[1] = ends[1].max(from + f64::from(b.subs) * b.sub_s);
        }
        Ok(ends)
    }
}

/// A block's time, seconds since 1970 UTC.
fn begin_s(text: &str) -> Result<f64, StandinError> {
    let at: Timestamp = text
        .parse()
        .map_err(|e| StandinError::Plan(format!("a block begins at \"{text}\": {e}")))?;
    Ok(at.as_millisecond() as f64 / 1000.0)
}

/// A night to play.
pub struct Night<'a> {
    /// The camera.
    pub camera: &'a Camera<'a>,
    /// The plan.
    pub plan: &'a PlanToPlay,
    /// How the camera stands, degrees from north through east.
    pub position_angle_deg: f64,
    /// How many bias, dark and flat frames are taken, of each kind that the night needs.
    pub calibration: u32,
    /// How much faster than a clock it is played; `None` for as fast as it can be.
    pub speed: Option<f64>,
    /// Seed of the dither.
    pub seed: u32,
}

/// A frame every so many pixels off: how far the dither goes to each side.
const DITHER_PX: f64 = 8.0;
/// A flat's length, s.
const FLAT_S: f64 = 2.0;
/// A bias frame's length, s.
const BIAS_S: f64 = 0.001;

/// A pointing after the mount's half turn.
fn turned(at: Pointing, is_turned: bool) -> Pointing {
    let half = if is_turned { 180.0 } else { 0.0 };
    Pointing { position_angle_deg: at.position_angle_deg + half, ..at }
}

impl Night<'_> {
    /// What is taken, in order.
    ///
    /// # Errors
    /// Where a block's filter is not in the light path.
    pub fn shots(&self) -> Result<Vec<Shot>, StandinError> {
        let path = self.camera.path();
        let named = |name: &str| {
            path.exposures.iter().position(|e| {
                e.filter
                    .as_ref()
                    .map_or("no filter", |f| f.name.as_str())
                    .eq_ignore_ascii_case(name)
            })
        };
        let mut shots = Vec::new();
        let mut end = 0.0f64;
        let mut turned_s: Option<f64> = None;
        let mut darks: Vec<(usize, f64)> = Vec::new();
        let mut flats: Vec<usize> = Vec::new();
        for block in &self.plan.blocks {
            let exposure = named(&block.filter).ok_or_else(|| {
                let has: Vec<&str> = path
                    .exposures
                    .iter()
                    .map(|e| e.filter.as_ref().map_or("no filter", |f| f.name.as_str()))
                    .collect();
                StandinError::Plan(format!(
                    "its filter \"{}\" is not in the light path, which has {}",
                    block.filter,
                    has.join(", ")
                ))
            })?;
            if !(0.001..=7200.0).contains(&block.sub_s) || block.subs > 100_000 {
                let why = format!("a block has {} subs of {} s", block.subs, block.sub_s);
                return Err(StandinError::Plan(why));
            }
            let (object, ra_deg, dec_deg) = match &block.target {
                Some(TargetToPlay::Placed { target, ra_deg, dec_deg }) => {
                    (target, *ra_deg, *dec_deg)
                }
                Some(TargetToPlay::Named(name)) => (name, self.plan.ra_deg, self.plan.dec_deg),
                None => (&self.plan.target, self.plan.ra_deg, self.plan.dec_deg),
            };
            let from = begin_s(&block.from)?;
            let flip: Option<Timestamp> = block.flip.as_deref().and_then(|t| t.parse().ok());
            turned_s = turned_s.or(flip.map(|t| t.as_millisecond() as f64 / 1000.0));
            for i in 0..block.subs {
                let start_s = from + f64::from(i) * (block.sub_s + path.between_s());
                let number = shots.len() as u32 + 1;
                shots.push(Shot {
                    kind: Kind::Light,
                    exposure,
                    exposure_s: block.sub_s,
                    start_s,
                    at: Some(turned(
                        self.dithered(ra_deg, dec_deg, number),
                        turned_s.is_some_and(|t| start_s >= t),
                    )),
                    framed: Some(Pointing {
                        ra_deg,
                        dec_deg,
                        position_angle_deg: self.position_angle_deg,
                    }),
                    object: object.clone(),
                    number,
                });
                end = end.max(start_s + block.sub_s);
            }
            if !darks.iter().any(|(_, s)| *s == block.sub_s) {
                darks.push((exposure, block.sub_s));
            }
            if !flats.contains(&exposure) {
                flats.push(exposure);
            }
        }
        let mut after = |kind, exposure, exposure_s: f64| {
            for _ in 0..self.calibration {
                let number = shots.len() as u32 + 1;
                let start_s = end + 60.0;
                end = start_s + exposure_s;
                shots.push(Shot {
                    kind,
                    exposure,
                    exposure_s,
                    start_s,
                    at: None,
                    framed: None,
                    object: String::new(),
                    number,
                });
            }
        };
        for exposure in flats {
            after(Kind::Flat, exposure, FLAT_S);
        }
        for (exposure, exposure_s) in darks {
            after(Kind::Dark, exposure, exposure_s);
        }
        after(Kind::Bias, 0, BIAS_S);
        Ok(shots)
    }

    /// A place a few pixels beside the target.
    fn dithered(&self, ra_deg: f64, dec_deg: f64, number: u32) -> Pointing {
        let path = self.camera.path();
        let scale = path.optics.pixel_scale_arcsec(path.sensor.pixel_um);
        // The additive recurrence of the plastic number fills the square evenly.
        let part = |step: f64| {
            let x = (f64::from(self.seed % 1000) * 0.37 + f64::from(number) * step).fract();
            (2.0 * x - 1.0) * DITHER_PX * scale / 60.0
        };
        let middle = Pointing { ra_deg, dec_deg, position_angle_deg: self.position_angle_deg };
        let moved = middle.moved(part(0.754_877_666), part(0.569_840_291));
        Pointing { position_angle_deg: self.position_angle_deg, ..moved }
    }

    /// Plays the night into a folder; `said` hears each frame's truth when it is written. The truth
    /// of all is written beside them as `truth.json`.
    ///
    /// # Errors
    /// As [`Self::shots`]; also where a frame cannot be written.
    pub fn play(
        &self,
        to: &Path,
        workers: &impl Workers,
        mut said: impl FnMut(usize, usize, &crate::Truth),
    ) -> Result<NightTruth, StandinError> {
        let shots = self.shots()?;
        let fail = |e: std::io::Error| StandinError::Frame(format!("{}: {e}", to.display()));
        std::fs::create_dir_all(to).map_err(fail)?;
        let mut truth = NightTruth {
            format: "salt-lamp-standin-truth".to_owned(),
            version: 1,
            seed: self.seed,
            frames: Vec::with_capacity(shots.len()),
        };
        let begun = std::time::Instant::now();
        let first = shots.first().map_or(0.0, |s| s.start_s);
        for (i, shot) in shots.iter().enumerate() {
            let own = self.camera.take(shot, to, workers).map_err(StandinError::Frame)?;
            if let Some(speed) = self.speed.filter(|s| *s > 0.0) {
                // As a camera: a frame is there when it is over.
                let over_s = (shot.start_s + shot.exposure_s - first) / speed;
                let wait = over_s - begun.elapsed().as_secs_f64();
                if wait > 0.0 {
                    std::thread::sleep(Duration::from_secs_f64(wait));
                }
            }
            said(i + 1, shots.len(), &own);
            truth.frames.push(own);
        }
        let text =
            serde_json::to_string_pretty(&truth).map_err(|e| StandinError::Frame(e.to_string()))?;
        std::fs::write(to.join("truth.json"), text).map_err(fail)?;
        Ok(truth)
    }
}
