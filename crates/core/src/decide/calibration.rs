//! Calibration frames: how many darks, flats and bias frames a path wants.

use serde::Serialize;
use utoipa::ToSchema;

use crate::decide::uncertainty::draws::{PathDraws, Range};
use crate::path::scales::Scales;
use crate::scenario::document::Scenario;
use crate::signal::model::LightPath;
use crate::signal::stack::subs_in;

/// Calibration frames.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct CalibrationFrames {
    /// Darks of each sub length.
    pub darks: u32,
    /// Flats of each filter, half full scale each.
    pub flats: u32,
    /// Bias frames.
    pub bias: u32,
    /// The ranges of darks and flats; bias frames hang on no light.
    pub darks_range: Range,
    /// As for the darks.
    pub flats_range: Range,
    /// How many, and why, in a sentence.
    pub text: String,
}

/// How many darks, flats and bias frames until each adds less than the chosen share of noise.
///
/// Per sub, a master dark of N adds (D t + R^2)/N, times the number of subs where nothing is
/// dithered; a master flat of N frames of F electrons adds (L t)^2/(N F); a bias master adds R^2/N
/// to each flat of variance F. Each is held below ((1 + p)^2 - 1) of the variance that it adds to.
pub(super) fn calibration(s: &Scenario, path: &LightPath, draws: PathDraws) -> CalibrationFrames {
    let p = s.choices.calibration_excess;
    let allowed = (1.0 + p).powi(2) - 1.0;
    // The noisiest of the exposures' ways of putting pixels together, and the smallest well.
    let gains = || path.exposures.iter().map(|e| e.instrument.gain);
    let r2 = gains().map(|g| g.read_noise_e.powi(2)).fold(0.0, f64::max);
    let flat_e = gains().map(|g| g.full_scale_e).fold(f64::INFINITY, f64::min) / 2.0;
    let whole = |n: f64| n.ceil().clamp(10.0, 5000.0);
    let need = |scales: &Scales, centres: &[f64]| {
        let (mut darks, mut flats) = (0.0f64, 0.0f64);
        for (i, e) in path.exposures.iter().enumerate() {
            let subs = subs_in(path.clock_s * e.share, e.sub_s, path.instrument.between_s).max(1.0);
            let repeats =
                if path.instrument.calibration.dithered { path.instrument.per_place } else { subs };
            for c in &e.channels {
                let r = c.rates(scales, centres.get(i).copied().unwrap_or(0.0));
                let variance = r.total() * e.sub_s + r2;
                darks = darks.max(repeats * (r.dark * e.sub_s + r2) / (variance * allowed));
                let light = (r.total() - r.dark) * e.sub_s;
                flats = flats.max(repeats * light * light / (flat_e * variance * allowed));
            }
        }
        (whole(darks), whole(flats))
    };
    let (darks, flats) = need(&Scales::ONE, &[]);
    let bias = whole(r2 / (flat_e * allowed));
    let (darks_range, flats_range) =
        (draws.range(|s, c| need(s, c).0), draws.range(|s, c| need(s, c).1));
    let open = |r: &Range| {
        if r.is_open() { format!(" ({:.0} to {:.0})", r.low, r.high) } else { String::new() }
    };
    let how = if path.instrument.calibration.dithered {
        "dithered"
    } else {
        "not dithered, so their noise does not average out"
    };
    let text = format!(
        "{darks} darks{}, {flats} flats{} of each filter, {bias} bias frames: each adds under \
            {:.0} % noise ({how})",
        open(&darks_range),
        open(&flats_range),
        p * 100.0
    );
    CalibrationFrames {
        darks: darks as u32,
        flats: flats as u32,
        bias: bias as u32,
        darks_range,
        flats_range,
        text,
    }
}
