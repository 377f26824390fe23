//! The spectra that ship with the program: lamps, sunlight, photometric bands.
//!
//! They are compiled in as text and parsed once, by whoever owns a [`Tables`]; `data/SOURCES.md`
//! says where each comes from.

use std::collections::BTreeMap;
use thiserror::Error;

use crate::light::bands::{Band, V_AB_MINUS_VEGA};
use crate::light::curve::Curve;
use crate::light::lamp::Lamp;
use crate::light::spectrum::{SpectralLine, Spectrum};
use crate::light::units::mag_from_linear;

/// A shipped table that could not be read. It names the file and the row.
#[derive(Debug, Error)]
#[error("{file}, row {row}: {what}")]
pub struct TablesError {
    file: &'static str,
    row: usize,
    what: String,
}

/// The shipped spectra, parsed.
#[derive(Clone, Debug)]
pub struct Tables {
    /// Extraterrestrial sunlight as photons per nm, relative.
    pub sunlight: Spectrum,
    bands: BTreeMap<char, Band>,
    /// One unit of V light each, after scattering in the air.
    lamps: BTreeMap<Lamp, Spectrum>,
}

const SUNLIGHT: &str = include_str!("../../../../data/sunlight.csv");

const BESSELL: &str = include_str!("../../../../data/bessell.csv");

const LAMPS: &str = include_str!("../../../../data/lamps.csv");

const LAMP_LINES: &str = include_str!("../../../../data/lamp_lines.csv");

/// Rows of a shipped file after its header, split at commas.
fn rows(file: &'static str, text: &'static str) -> impl Iterator<Item = Row> {
    text.lines().enumerate().skip(1).map(move |(i, line)| Row {
        file,
        row: i + 1,
        cells: line.split(',').collect(),
    })
}

/// A sampled spectrum on the wavelength grid.
fn on_grid(points: Vec<[f64; 2]>) -> Spectrum {
    let curve = Curve(points);
    Spectrum::from_fn(|nm| curve.at(nm))
}

struct Row {
    file: &'static str,
    row: usize,
    cells: Vec<&'static str>,
}

impl Row {
    fn error(&self, what: impl Into<String>) -> TablesError {
        TablesError { file: self.file, row: self.row, what: what.into() }
    }

    fn text(&self, column: usize) -> Result<&'static str, TablesError> {
        self.cells
            .get(column)
            .copied()
            .ok_or_else(|| self.error(format!("column {column} is missing")))
    }

    fn number(&self, column: usize) -> Result<f64, TablesError> {
        let text = self.text(column)?;
        text.parse().map_err(|_| self.error(format!("\"{text}\" is not a number")))
    }
}

impl Tables {
    /// Parses the tables that were compiled in.
    ///
    /// # Errors
    /// Only if a shipped file is damaged; a test reads them all.
    pub fn shipped() -> Result<Self, TablesError> {
        let mut sun = Vec::new();
        for row in rows("sunlight.csv", SUNLIGHT) {
            // Energy to photons: times lambda; the scale does not matter.
            sun.push([row.number(0)?, row.number(1)? * row.number(0)? / 550.0]);
        }
        let sunlight = on_grid(sun);

        let mut responses: BTreeMap<char, Vec<[f64; 2]>> = BTreeMap::new();
        for row in rows("bessell.csv", BESSELL) {
            let band =
                row.text(0)?.chars().next().ok_or_else(|| row.error("the band has no name"))?;
            responses.entry(band).or_default().push([row.number(1)?, row.number(2)?]);
        }
        let bands: BTreeMap<char, Band> =
            responses.into_iter().map(|(name, points)| (name, Band::new(Curve(points)))).collect();

        let mut tables = Self { sunlight, bands, lamps: BTreeMap::new() };
        tables.lamps = tables.read_lamps()?;
        Ok(tables)
    }

    fn read_lamps(&self) -> Result<BTreeMap<Lamp, Spectrum>, TablesError> {
        let mut continua: BTreeMap<Lamp, Vec<[f64; 2]>> = BTreeMap::new();
        for row in rows("lamps.csv", LAMPS) {
            for (i, lamp) in Lamp::ALL.into_iter().enumerate() {
                continua.entry(lamp).or_default().push([row.number(0)?, row.number(i + 1)?]);
            }
        }
        let mut lamps: BTreeMap<Lamp, Spectrum> =
            continua.into_iter().map(|(lamp, points)| (lamp, on_grid(points))).collect();
        for row in rows("lamp_lines.csv", LAMP_LINES) {
            let name = row.text(0)?;
            let lamp = Lamp::ALL
                .into_iter()
                .find(|l| l.key() == name)
                .ok_or_else(|| row.error(format!("\"{name}\" is no lamp")))?;
            let line = SpectralLine {
                name: row.text(1)?.to_owned(),
                wavelength_nm: row.number(2)?,
                photons: row.number(3)?,
            };
            if let Some(spectrum) = lamps.get_mut(&lamp) {
                spectrum.lines.push(line);
            }
        }
        Ok(lamps
            .into_iter()
            .map(|(lamp, energy)| {
                // Energy to photons is times lambda; scattering is (lambda / 550)^-1, from memory.
                let photons = energy.shaped(|nm| nm / 550.0).shaped(|nm| (nm / 550.0).powi(-1));
                (lamp, self.one_unit_of_v(photons))
            })
            .collect())
    }

    /// A band of Bessell 1990 by its letter: U, B, V, R or I.
    ///
    /// # Panics
    /// For any other letter.
    pub fn band(&self, name: char) -> &Band {
        self.bands
            .get(&name)
            .unwrap_or_else(|| panic!("there is no band {name}; use U, B, V, R or I"))
    }

    /// Light in V in units of a Vega magnitude of zero.
    pub fn v_linear(&self, spectrum: &Spectrum) -> f64 {
        self.band('V').ab_linear(spectrum) * 10f64.powf(0.4 * V_AB_MINUS_VEGA)
    }

    /// Synthetic V in the Vega system, mag (per arcsec^2 for a surface); `None` for no light.
    pub fn v_mag(&self, spectrum: &Spectrum) -> Option<f64> {
        mag_from_linear(self.v_linear(spectrum))
    }

    /// Scales a spectrum so that its V light is one unit (Vega magnitude zero).
    pub fn one_unit_of_v(&self, spectrum: Spectrum) -> Spectrum {
        let unit = self.v_linear(&spectrum);
        spectrum * (1.0 / unit)
    }

    /// A lamp's spectrum, one unit of V light.
    pub fn lamp(&self, lamp: Lamp) -> &Spectrum {
        &self.lamps[&lamp]
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_shipped_files_parse_and_each_lamp_is_one_unit_of_v() {
        let tables = Tables::shipped().unwrap();
        for lamp in Lamp::ALL {
            assert!((tables.v_linear(tables.lamp(lamp)) - 1.0).abs() < 1e-9, "{lamp:?}");
        }
    }

    #[test]
    fn low_pressure_sodium_is_one_line_that_is_seen_and_a_pair_that_is_not() {
        let tables = Tables::shipped().unwrap();
        let lps = tables.lamp(Lamp::LowPressureSodium);
        let seen: f64 = lps.continuum.iter().sum();
        assert!(seen < 1e-6 * lps.lines[0].photons);
        let lines: Vec<f64> = lps.lines.iter().map(|l| l.wavelength_nm).collect();
        assert_eq!(lines, [589.3, 818.33, 819.48]);
    }

    /// What no eye sees is what an unfiltered camera sees: past 780 nm a discharge goes on, with
    /// sodium's pair, and a white LED does not.
    #[test]
    fn lamps_go_on_beyond_what_is_seen() {
        let tables = Tables::shipped().unwrap();
        let beyond = |lamp: Lamp| {
            let s = tables.lamp(lamp);
            let lines = |from: f64| -> f64 {
                s.lines.iter().filter(|l| l.wavelength_nm >= from).map(|l| l.photons).sum()
            };
            let all = Spectrum::from_fn(|nm| f64::from(u8::from(nm >= 380.0)));
            let far = Spectrum::from_fn(|nm| f64::from(u8::from(nm >= 785.0)));
            let under = |w: &Spectrum| -> f64 {
                w.continuum.iter().zip(&s.continuum).map(|(a, b)| a * b).sum()
            };
            (under(&far) + lines(785.0)) / (under(&all) + lines(0.0))
        };
        assert!((0.1..0.3).contains(&beyond(Lamp::HighPressureSodium)), "sodium");
        assert!(beyond(Lamp::Led4000k) < 0.02, "{}", beyond(Lamp::Led4000k));
        assert!(beyond(Lamp::MetalHalide) > 0.1);
    }

    #[test]
    fn lamp_names_in_files_and_documents_agree() {
        let header = LAMPS.lines().next().unwrap();
        let names: Vec<_> = Lamp::ALL.iter().map(|l| l.key()).collect();
        assert_eq!(header.split(',').skip(1).collect::<Vec<_>>(), names);
        for lamp in Lamp::ALL {
            assert_eq!(serde_json::to_value(lamp).unwrap(), lamp.key());
        }
    }
}
