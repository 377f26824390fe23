//! The spectrum as a picture: target lines, sky in its parts, filter as seen in the cone, sensor
//! response.

use serde::Serialize;
use utoipa::ToSchema;

use crate::light::lines::{LINES, Quantity};
use crate::light::spectrum::Spectrum;
use crate::light::tables::Tables;
use crate::path::filter::weights::FilterInCone;
use crate::path::scene::Scene;
use crate::path::sky::part::SkyPart;
use crate::scenario::check::Checked;
use crate::scenario::exposure::Filter;
use crate::scenario::rig::Optics;

/// Typical transmissions of a filter to draw: wavelength nm and fraction in parallel light, dense
/// where it has edges.
pub fn drawn_curve(filter: &Filter) -> Vec<[f64; 2]> {
    match &filter.curve {
        Some(curve) => curve.0.clone(),
        None => {
            let slow = Optics {
                aperture_mm: 10.0,
                obstruction_mm: 0.0,
                focal_length_mm: 1000.0,
                reducer: 1.0,
                throughput: 1.0,
                longest_sub_s: None,
                exit_pupil_mm: None,
            };
            let t = crate::path::filter::weights::FilterInCone::new(Some(filter), &slow, 0.0);
            crate::path::spectrum::drawing_grid(&[filter])
                .into_iter()
                .map(|nm| [nm, t.at_normal_incidence(nm)])
                .collect()
        }
    }
}

/// Range of the picture, nm.
const RANGE_NM: (f64, f64) = (370.0, 1000.0);

/// Step outside passbands, nm.
const COARSE_NM: f64 = 2.0;

/// Everything a spectrum chart draws. Brightness is photons s^-1 m^-2 arcsec^-2, per nm for a
/// continuum.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct SpectrumView {
    /// Wavelengths of all curves, nm: coarse, and fine where a filter has its edges.
    pub wavelength_nm: Vec<f64>,
    /// The sky's parts that shine.
    pub sky: Vec<SkyCurve>,
    /// The target's continuum as it arrives; null for none.
    pub target_continuum: Option<Vec<f64>>,
    /// Lines of the target as they arrive.
    pub target_lines: Vec<LineMark>,
    /// Lines of lamps and airglow.
    pub sky_lines: Vec<LineMark>,
    /// The filters of the path.
    pub filters: Vec<FilterCurve>,
    /// Electrons per photon of each channel.
    pub response: Vec<ResponseCurve>,
}

/// One part of the sky.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct SkyCurve {
    /// `natural`, `artificial`, `moon` or `twilight`.
    pub part: &'static str,
    /// Photons s^-1 m^-2 nm^-1 arcsec^-2.
    pub photons: Vec<f64>,
}

/// A line of light.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct LineMark {
    /// Its name.
    pub name: String,
    /// Wavelength in air, nm.
    pub wavelength_nm: f64,
    /// Photons s^-1 m^-2 arcsec^-2.
    pub photons: f64,
    /// The quantity it counts for; null for a line of the sky.
    pub quantity: Option<Quantity>,
}

/// One filter in this telescope's cone.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct FilterCurve {
    /// Its name; null for no filter.
    pub name: Option<String>,
    /// Transmission in the cone, 0-1.
    pub transmission: Vec<f64>,
    /// Transmission in parallel light, 0-1.
    pub head_on: Vec<f64>,
}

/// One channel of the sensor.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct ResponseCurve {
    /// `mono`, `r`, `g` or `b`.
    pub channel: &'static str,
    /// Electrons per photon, 0-1.
    pub response: Vec<f64>,
}

/// Wavelengths dense enough to draw these filters.
pub fn drawing_grid(filters: &[&Filter]) -> Vec<f64> {
    let (from, to) = RANGE_NM;
    let mut grid: Vec<f64> =
        (0..=((to - from) / COARSE_NM) as usize).map(|i| from + COARSE_NM * i as f64).collect();
    for f in filters {
        for b in f.bands.iter().flatten() {
            // Fine over the band and over where a cone may slide it.
            let (step, reach) = (b.fwhm_nm / 24.0, b.fwhm_nm * 1.5 + 6.0);
            if step < COARSE_NM {
                grid.extend(
                    (0..=(2.0 * reach / step) as usize)
                        .map(|i| b.centre_nm - reach + step * i as f64),
                );
            }
        }
        grid.extend(f.curve.iter().flat_map(|c| c.0.iter().map(|p| p[0])).take(1500));
    }
    grid.retain(|nm| (from..=to).contains(nm));
    grid.sort_by(f64::total_cmp);
    grid.dedup_by(|a, b| (*a - *b).abs() < 0.01);
    grid
}

/// The spectrum of one contender's light path; `None` for a contender that is not there.
pub fn spectrum_view(
    scenario: &Checked,
    contender: usize,
    tables: &Tables,
) -> Option<SpectrumView> {
    let s = scenario.scenario();
    let c = s.contenders.get(contender)?;
    let scene = Scene::new(s, tables);
    let filters: Vec<&Filter> = c.exposures.iter().filter_map(|e| e.filter.as_ref()).collect();
    let grid = drawing_grid(&filters);
    let on =
        |spectrum: &Spectrum| grid.iter().map(|&nm| spectrum.continuum_at(nm)).collect::<Vec<_>>();
    let lit = |s: &&Spectrum| s.continuum.iter().any(|v| *v > 0.0) || !s.lines.is_empty();
    let filter_curve = |f: Option<&Filter>| {
        let t = FilterInCone::new(f, &c.optics, 0.0);
        FilterCurve {
            name: f.map(|f| f.name.clone()),
            transmission: grid.iter().map(|&nm| t.at(nm)).collect(),
            head_on: grid.iter().map(|&nm| t.at_normal_incidence(nm)).collect(),
        }
    };
    let target_lines =
        LINES.iter().zip(scene.line_photons).filter(|(_, p)| *p > 0.0).map(|(l, photons)| {
            LineMark {
                name: l.name.to_owned(),
                wavelength_nm: l.wavelength_nm,
                photons,
                quantity: Some(l.quantity),
            }
        });
    let sky_lines = scene.sky.each().into_iter().flat_map(|part| &part.lines).map(|l| LineMark {
        name: format!("{} {:.1}", l.name, l.wavelength_nm),
        wavelength_nm: l.wavelength_nm,
        photons: l.photons,
        quantity: None,
    });
    let sky_curve =
        |(part, light): (SkyPart, &Spectrum)| SkyCurve { part: part.key(), photons: on(light) };
    Some(SpectrumView {
        sky: SkyPart::ALL
            .into_iter()
            .zip(scene.sky.each())
            .filter(|(_, s)| lit(s))
            .map(sky_curve)
            .collect(),
        target_continuum: s.target.continuum.as_ref().map(|_| on(&scene.continuum)),
        target_lines: target_lines.collect(),
        sky_lines: sky_lines.collect(),
        filters: c.exposures.iter().map(|e| filter_curve(e.filter.as_ref())).collect(),
        response: c
            .sensor
            .channels()
            .iter()
            .map(|ch| ResponseCurve {
                channel: ch.name,
                response: grid.iter().map(|&nm| ch.response(nm)).collect(),
            })
            .collect(),
        wavelength_nm: grid,
    })
}
