//! `salt-lamp measure FILES...`.

use std::path::{Path, PathBuf};
use std::process::ExitCode;

use clap::Args;
use salt_lamp_core::frame::FrameMeasured;
use salt_lamp_core::frame::verdict::{FrameVerdict, Standing, Taken, judge};
use salt_lamp_core::light::Tables;
use salt_lamp_formats::frame::{frame_table, open_frame, start_unix_s};
use salt_lamp_formats::read_scenario;
use salt_lamp_server::Threads;

use crate::say::say;

/// Measures frames.
#[derive(Args)]
pub struct Measure {
    /// Frames: FITS, TIFF, or raw files of a stock camera.
    #[arg(required = true)]
    files: Vec<PathBuf>,
    /// Answer one JSON line a file.
    #[arg(long, conflicts_with = "csv")]
    json: bool,
    /// Answer a table, a line a channel.
    #[arg(long)]
    csv: bool,
    /// Threads to measure with; as many as the machine has processors where none is given.
    #[arg(long)]
    threads: Option<usize>,
    /// A scenario document: each frame is judged as a test frame of one of its light paths.
    #[arg(long, value_name = "SCENARIO")]
    against: Option<PathBuf>,
    /// Which light path of it, counted from 1.
    #[arg(long, default_value_t = 1, requires = "against")]
    path: usize,
    /// Which exposure of that path, counted from 1.
    #[arg(long, default_value_t = 1, requires = "against")]
    exposure: usize,
}

/// What frames are judged by.
struct Judging {
    scenario: salt_lamp_core::Checked,
    tables: Tables,
    path: usize,
    exposure: usize,
}

impl Measure {
    /// Measures each and says what it found; exit 2 where one could not be read.
    pub fn run(self) -> ExitCode {
        let judging = match self.against.as_deref().map(|file| self.judging(file)).transpose() {
            Ok(judging) => judging,
            Err(e) => {
                eprintln!("{e}");
                return ExitCode::from(2);
            }
        };
        let threads = self.threads.map_or_else(Threads::of_machine, Threads::of);
        let (mut measured, mut failed) = (Vec::new(), 0);
        for file in &self.files {
            let one = open_frame(file).and_then(|f| f.measure(&threads));
            let frame = match one {
                Ok(frame) => frame,
                Err(e) => {
                    eprintln!("{e}");
                    failed += 1;
                    continue;
                }
            };
            if self.csv {
                measured.push(frame);
                continue;
            }
            match (self.json, &judging) {
                (true, None) => say(&line(&frame)),
                (false, None) => say(&in_words(&frame)),
                (json, Some(judging)) => match judging.judge(&frame) {
                    Ok(verdict) if json => say(&line(&verdict)),
                    Ok(verdict) => say(&verdict_in_words(&frame.file, &verdict)),
                    Err(e) => {
                        eprintln!("{}: {e}", frame.file);
                        failed += 1;
                    }
                },
            }
        }
        if self.csv {
            say(frame_table(&measured).trim_end());
        }
        if failed > 0 { ExitCode::from(2) } else { ExitCode::SUCCESS }
    }

    fn judging(&self, file: &Path) -> Result<Judging, String> {
        let bytes = std::fs::read(file).map_err(|e| format!("{}: {e}", file.display()))?;
        let scenario = read_scenario(&bytes).map_err(|e| format!("{}: {e}", file.display()))?;
        let tables = Tables::shipped().map_err(|e| e.to_string())?;
        let number = |n: usize, what: &str| {
            n.checked_sub(1).ok_or_else(|| format!("--{what} counts from 1"))
        };
        Ok(Judging {
            scenario,
            tables,
            path: number(self.path, "path")?,
            exposure: number(self.exposure, "exposure")?,
        })
    }
}

impl Judging {
    fn judge(&self, frame: &FrameMeasured) -> Result<FrameVerdict, String> {
        let taken = Taken {
            contender: self.path,
            exposure: self.exposure,
            site: frame.site(),
            start_s: frame.read.header.start.as_deref().and_then(start_unix_s),
            frame,
        };
        judge(&self.scenario, &taken, &self.tables).map_err(|errors| {
            let all: Vec<String> =
                errors.iter().map(|e| format!("{}: {}", e.path, e.message)).collect();
            all.join("; ")
        })
    }
}

fn line(value: &impl serde::Serialize) -> String {
    serde_json::to_string(value).unwrap_or_else(|e| format!("{{\"error\": \"{e}\"}}"))
}

/// A frame in a few lines.
fn in_words(frame: &FrameMeasured) -> String {
    let mut out = format!("{}: {} x {} px", frame.file, frame.columns, frame.rows);
    for c in &frame.channels {
        out += &format!(
            "\n  {:<4} level {:.1} ADU, sigma {:.2} ADU, slope {:.1} % towards {:.0} deg, {} stars",
            c.channel, c.level_adu, c.sigma_adu, c.slope_percent, c.slope_toward_deg, c.stars
        );
        if let (Some(hfr), Some(fwhm), Some(e)) = (c.hfr_px, c.fwhm_px, c.elongation) {
            out += &format!(", half-flux radius {hfr:.2} px, FWHM {fwhm:.2} px, elongation {e:.2}");
        }
        if c.clipped_share > 0.0 {
            out += &format!(", {:.4} % full", 100.0 * c.clipped_share);
        }
    }
    for p in frame.problems.iter().chain(&frame.read.assumed) {
        out += &format!("\n  {p}");
    }
    out
}

/// A verdict in a few lines.
fn verdict_in_words(file: &str, v: &FrameVerdict) -> String {
    let mut out = format!("{file}: {}", v.headline);
    for s in &v.sentences {
        let mark = match s.standing {
            Standing::Good => "+",
            Standing::Look => "?",
            Standing::Wrong => "!",
        };
        out += &format!("\n  {mark} {}", s.text);
    }
    out + &format!("\n  Sub to use: {} s", v.sub_s)
}
