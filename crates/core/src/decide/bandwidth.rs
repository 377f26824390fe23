//! How narrow is best: signal to noise of a single band against its width, its centre and the focal
//! ratio, under the sky at hand.

use serde::Serialize;
use utoipa::ToSchema;

use crate::light::lines::{LINES, Quantity};
use crate::light::tables::Tables;
use crate::path::filter::report::{LineTransmission, line_transmissions};
use crate::path::scales::Scales;
use crate::path::scene::Scene;
use crate::scenario::check::Checked;
use crate::scenario::exposure::{Filter, Passband};
use crate::scenario::rig::Optics;
use crate::signal::rig::Rig;
use crate::workers::Workers;

/// Focal ratios of the chart.
const FOCAL_RATIOS: [f64; 13] = [1.8, 2.0, 2.2, 2.5, 2.8, 3.2, 3.6, 4.0, 4.8, 5.6, 7.0, 8.5, 10.0];

/// Narrowest and widest band that is tried, nm, and the step.
const WIDTHS_NM: (f64, f64, f64) = (2.0, 20.0, 0.5);

/// Largest offset of the centre to the red that is tried, nm, and the step.
const OFFSETS_NM: (f64, f64) = (8.0, 0.5);

/// Peak transmission and edge order of the band that is tried.
const PEAK: f64 = 0.92;

const ORDER: f64 = 3.0;

/// The best single band for a line on one rig.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct BandwidthAnswer {
    /// The line.
    pub quantity: Quantity,
    /// Wavelength on which the band is centred at no offset, nm.
    pub line_nm: f64,
    /// The rig's own focal ratio.
    pub focal_ratio: f64,
    /// Widths that were tried, nm.
    pub widths_nm: Vec<f64>,
    /// Focal ratios that were tried.
    pub focal_ratios: Vec<f64>,
    /// Signal to noise in equal time of a band centred on the line, a row a focal ratio, relative
    /// to the best of all.
    pub relative_snr: Vec<Vec<f64>>,
    /// Best width at each focal ratio, nm.
    pub best_width_nm: Vec<f64>,
    /// From and to which width, around the best at each focal ratio, at least 95 % of its signal to
    /// noise is reached, nm.
    pub good_width_nm: Vec<[f64; 2]>,
    /// Best width at each focal ratio under a sky as bright and as dark as one in ten may be, nm,
    /// the lesser first.
    pub best_width_range_nm: Vec<[f64; 2]>,
    /// Offsets of the centre that were tried at the rig's own focal ratio, nm.
    pub offsets_nm: Vec<f64>,
    /// Signal to noise at the rig's focal ratio, a row an offset, relative to the best of all
    /// widths and offsets.
    pub offset_snr: Vec<Vec<f64>>,
    /// Best width of all at the rig's focal ratio, nm.
    pub best_nm: f64,
    /// Its range over what the sky may be, nm.
    pub best_range_nm: [f64; 2],
    /// Best offset of all at the rig's focal ratio, nm.
    pub best_offset_nm: f64,
    /// Its range over what the sky may be, nm.
    pub best_offset_range_nm: [f64; 2],
    /// What the best band reaches against one of the same width centred on the line.
    pub gain_by_offset: f64,
    /// The filter in use, if it records the line.
    pub yours: Option<YourFilter>,
    /// What it means, in a sentence.
    pub text: String,
}

/// The filter in use against the best band.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct YourFilter {
    /// Its name.
    pub name: String,
    /// Width of its band over the line, nm, where it has bands.
    pub fwhm_nm: Option<f64>,
    /// How far the centre of that band lies to the red of the line, nm.
    pub offset_nm: Option<f64>,
    /// What it passes of the line.
    pub transmission: LineTransmission,
    /// Signal to noise of a low, a nominal and a high copy, relative to the best band.
    pub relative_snr: [f64; 3],
    /// The range of each over what the sky may be, the lesser first.
    pub relative_snr_range: [[f64; 2]; 3],
}

/// The band of a filter that lies nearest to a line, where it has bands.
fn nearest_band(f: &Filter, line_nm: f64) -> Option<&Passband> {
    let off = |b: &Passband| (b.centre_nm - line_nm).abs();
    f.bands.iter().flatten().min_by(|a, b| off(a).total_cmp(&off(b)))
}

/// Of a normal deviate one in ten lies above so many standard deviations (Abramowitz & Stegun 1964,
/// table 26.5).
const TENTH: f64 = 1.2816;

/// Signal to noise under the sky as stated, as bright as one in ten may be, and as dark.
type UnderSkies = [f64; 3];

/// A single band.
fn band(centre_nm: f64, fwhm_nm: f64, like: &Filter) -> Filter {
    let bands = Some(vec![Passband { centre_nm, fwhm_nm, peak: PEAK, order: ORDER }]);
    Filter { name: String::new(), bands, curve: None, ..like.clone() }
}

/// The same telescope with another focal ratio.
fn at_ratio(optics: &Optics, focal_ratio: f64) -> Optics {
    Optics { focal_length_mm: optics.aperture_mm * focal_ratio / optics.reducer, ..optics.clone() }
}

/// What bands of many widths reach: rows by the focal ratio of the cone, and by their offset.
struct Surfaces {
    widths_nm: Vec<f64>,
    offsets_nm: Vec<f64>,
    /// Centred on the line, a row for each of [`FOCAL_RATIOS`].
    by_ratio: Vec<Vec<UnderSkies>>,
    /// In the telescope's own cone, a row for each offset.
    by_offset: Vec<Vec<UnderSkies>>,
}

impl Surfaces {
    fn new(
        optics: &Optics,
        line_nm: f64,
        like: &Filter,
        snr: &(impl Fn(&Filter, &Optics, f64) -> UnderSkies + Sync),
        workers: &impl Workers,
    ) -> Self {
        let (from, to, step) = WIDTHS_NM;
        let steps = ((to - from) / step) as usize;
        let widths_nm: Vec<f64> = (0..=steps).map(|i| from + step * i as f64).collect();
        let row = |offset: f64, cone: &Optics| -> Vec<UnderSkies> {
            let through = |&w: &f64| snr(&band(line_nm + offset, w, like), cone, 0.0);
            widths_nm.iter().map(through).collect()
        };
        let (most, step) = OFFSETS_NM;
        let offsets_nm: Vec<f64> = (0..=(most / step) as usize).map(|i| step * i as f64).collect();
        // Rows of the first surface, then of the second: each is a task of its own.
        let ratios = FOCAL_RATIOS.len();
        let task = |i: usize| match i.checked_sub(ratios) {
            None => row(0.0, &at_ratio(optics, FOCAL_RATIOS[i])),
            Some(j) => row(offsets_nm[j], optics),
        };
        let mut by_ratio: Vec<Vec<UnderSkies>> = workers.each(ratios + offsets_nm.len(), &task);
        let by_offset = by_ratio.split_off(ratios);
        Self { widths_nm, offsets_nm, by_ratio, by_offset }
    }
}

/// Sweeps width, offset and focal ratio for a line on one contender's rig.
///
/// Only the angles of the light follow the focal ratio; aperture and pixel scale stay, so that the
/// chart shows the cone and nothing else; `workers` does the work. `None` for the continuum, or
/// where the target does not emit the line.
pub fn bandwidth(
    scenario: &Checked,
    contender: usize,
    quantity: Quantity,
    tables: &Tables,
    workers: &impl Workers,
) -> Option<BandwidthAnswer> {
    let s = scenario.scenario();
    let c = s.contenders.get(contender)?;
    let light = s.target.lines_rayleigh.each();
    let brightest = LINES
        .iter()
        .zip(light)
        .filter(|(l, r)| l.quantity == quantity && *r > 0.0)
        .max_by(|a, b| a.1.total_cmp(&b.1));
    let line_nm = brightest?.0.wavelength_nm;
    let scene = Scene::new(s, tables);
    let rig = Rig::new(s, &scene, c);
    let by_mag = TENTH * s.choices.uncertainty.sky_mag;
    let skies = [0.0, -by_mag, by_mag].map(Scales::darker_sky);
    let snr = |filter: &Filter, cone: &Optics, offset: f64| -> UnderSkies {
        let through = rig.through(Some(filter), cone, offset);
        skies.map(|sky| {
            rig.instrument.information_rate(&through.channels, quantity, &sky).per_s.sqrt()
        })
    };

    let used = c.exposures.iter().filter_map(|e| e.filter.as_ref());
    let transmission = |f: &Filter| {
        line_transmissions(f, &c.optics, c.corner_tilt(), &s.target.lines_rayleigh)
            .get(&quantity)
            .copied()
    };
    let yours = used
        .filter_map(|f| Some((f, transmission(f)?)))
        .max_by(|a, b| a.1.in_cone.total_cmp(&b.1.in_cone));
    let like = yours
        .as_ref()
        .map(|(f, _)| (*f).clone())
        .unwrap_or_else(|| Filter::of_bands("", Vec::new()));

    let Surfaces { widths_nm, offsets_nm, by_ratio, by_offset } =
        Surfaces::new(&c.optics, line_nm, &like, &snr, workers);

    let widest = |row: &[UnderSkies], sky: usize| widths_nm[largest(&under(row, sky))];
    let best_width_nm = by_ratio.iter().map(|r| widest(r, 0)).collect();
    let best_width_range_nm =
        by_ratio.iter().map(|r| sorted([0, 1, 2].map(|sky| widest(r, sky)))).collect();
    let good_width_nm = by_ratio.iter().map(|r| good(&widths_nm, &under(r, 0))).collect();
    // The best of width and offset under each sky: row, column, and what it reaches.
    let tops = [0, 1, 2].map(|sky| {
        let rows: Vec<Vec<f64>> = by_offset.iter().map(|r| under(r, sky)).collect();
        let (i, j) = largest_of(&rows);
        (i, j, rows[i][j])
    });
    let [(i, j, best), ..] = tops;
    let mut relative_snr: Vec<Vec<f64>> = by_ratio.iter().map(|r| under(r, 0)).collect();
    let mut offset_snr: Vec<Vec<f64>> = by_offset.iter().map(|r| under(r, 0)).collect();
    let gain_by_offset = best / offset_snr[0].iter().copied().fold(0.0, f64::max);
    normalise(&mut relative_snr);
    normalise(&mut offset_snr);
    let yours = yours.map(|(f, transmission)| {
        let copies =
            [-f.centre_tolerance_nm, 0.0, f.centre_tolerance_nm].map(|o| snr(f, &c.optics, o));
        let own = nearest_band(f, line_nm);
        YourFilter {
            name: f.name.clone(),
            fwhm_nm: own.map(|b| b.fwhm_nm),
            offset_nm: own.map(|b| b.centre_nm - line_nm),
            transmission,
            relative_snr: copies.map(|u| u[0] / best),
            relative_snr_range: copies.map(|u| sorted([0, 1, 2].map(|sky| u[sky] / tops[sky].2))),
        }
    });
    let (best_nm, best_offset_nm) = (widths_nm[j], offsets_nm[i]);
    let best_range_nm = sorted(tops.map(|t| widths_nm[t.1]));
    let best_offset_range_nm = sorted(tops.map(|t| offsets_nm[t.0]));
    let text = sentence(
        s.target.name_of(quantity),
        c.optics.focal_ratio(),
        (best_nm, best_range_nm),
        best_offset_nm,
        yours.as_ref(),
    );
    Some(BandwidthAnswer {
        quantity,
        line_nm,
        focal_ratio: c.optics.focal_ratio(),
        widths_nm,
        focal_ratios: FOCAL_RATIOS.to_vec(),
        relative_snr,
        best_width_nm,
        good_width_nm,
        best_width_range_nm,
        offsets_nm,
        offset_snr,
        best_nm,
        best_range_nm,
        best_offset_nm,
        best_offset_range_nm,
        gain_by_offset,
        yours,
        text,
    })
}

/// A row under one of the skies.
fn under(row: &[UnderSkies], sky: usize) -> Vec<f64> {
    row.iter().map(|u| u[sky]).collect()
}

/// The least and the most of three.
fn sorted(of: [f64; 3]) -> [f64; 2] {
    [
        of.iter().copied().fold(f64::INFINITY, f64::min),
        of.iter().copied().fold(f64::NEG_INFINITY, f64::max),
    ]
}

/// From and to where a row keeps at least 95 % of its largest value, without a gap.
fn good(widths_nm: &[f64], row: &[f64]) -> [f64; 2] {
    let at = largest(row);
    let enough = |i: &usize| row[*i] >= 0.95 * row[at];
    let from = (0..=at).rev().take_while(enough).last().unwrap_or(at);
    let to = (at..row.len()).take_while(enough).last().unwrap_or(at);
    [widths_nm[from], widths_nm[to]]
}

fn largest(row: &[f64]) -> usize {
    (0..row.len()).max_by(|&a, &b| row[a].total_cmp(&row[b])).unwrap_or(0)
}

fn largest_of(rows: &[Vec<f64>]) -> (usize, usize) {
    let tops: Vec<f64> = rows.iter().map(|r| r[largest(r)]).collect();
    let i = largest(&tops);
    (i, largest(&rows[i]))
}

fn normalise(rows: &mut [Vec<f64>]) {
    let top = rows.iter().flatten().copied().fold(f64::MIN_POSITIVE, f64::max);
    rows.iter_mut().flatten().for_each(|v| *v /= top);
}

fn sentence(
    line: &str,
    ratio: f64,
    (best_nm, [low, high]): (f64, [f64; 2]),
    offset_nm: f64,
    yours: Option<&YourFilter>,
) -> String {
    let open = if high > low {
        format!(" ({low:.1} to {high:.1} as the sky may be)")
    } else {
        String::new()
    };
    let shift = if offset_nm > 0.25 {
        format!(", its centre {offset_nm:.1} nm to the red")
    } else {
        String::new()
    };
    let mut text = format!(
        "At f/{ratio:.1} the best band for {line} under this sky is {best_nm:.1} nm \
            wide{open}{shift}."
    );
    if let Some(y) = yours {
        let [low, nominal, high] = y.relative_snr.map(|r| r * 100.0);
        text += &format!(" Yours reaches {nominal:.0} % of its signal to noise");
        text += &if (low - high).abs() > 3.0 {
            format!(
                ", a copy within tolerance {:.0} to {:.0} %.",
                low.min(high).min(nominal),
                low.max(high).max(nominal)
            )
        } else {
            ".".to_owned()
        };
        if y.transmission.too_narrow {
            text += &format!(
                " It is too narrow for this cone: {:.0} % of the line instead of {:.0} %.",
                y.transmission.in_cone * 100.0,
                y.transmission.head_on * 100.0
            );
        }
    }
    text
}
