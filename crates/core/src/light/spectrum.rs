//! Spectra on one grid of whole nanometres, with narrow lines kept apart.
//!
//! A continuum here is smooth on the scale of a nanometre. What is not smooth (the edges of a
//! filter) is integrated exactly against the grid's linear interpolation, see [`crate::filter`].

use std::ops::{AddAssign, Mul};

/// First wavelength of the grid, nm.
pub const GRID_FIRST_NM: f64 = 300.0;

/// Number of nodes: 300 to 1100 nm in steps of 1 nm.
pub const GRID_LEN: usize = 801;

/// The wavelengths of the grid's nodes, nm.
pub fn grid_nm() -> impl Iterator<Item = f64> {
    (0..GRID_LEN).map(|i| GRID_FIRST_NM + i as f64)
}

/// Light at a single wavelength.
#[derive(Clone, Debug, PartialEq)]
pub struct SpectralLine {
    /// What emits it ("Na", "Hg", "airglow O I").
    pub name: String,
    /// Wavelength in air, nm.
    pub wavelength_nm: f64,
    /// Photons s^-1 m^-2 arcsec^-2.
    pub photons: f64,
}

/// A surface brightness: a continuum on the grid and lines beside it.
#[derive(Clone, Debug, PartialEq)]
pub struct Spectrum {
    /// [`GRID_LEN`] values, photons s^-1 m^-2 nm^-1 arcsec^-2.
    pub continuum: Vec<f64>,
    /// Lines, photons s^-1 m^-2 arcsec^-2 each.
    pub lines: Vec<SpectralLine>,
}

impl Spectrum {
    /// No light at all.
    pub fn dark() -> Self {
        Self { continuum: vec![0.0; GRID_LEN], lines: Vec::new() }
    }

    /// A continuum given as a function of wavelength in nm.
    pub fn from_fn(f: impl Fn(f64) -> f64) -> Self {
        Self { continuum: grid_nm().map(f).collect(), lines: Vec::new() }
    }

    /// Multiplies continuum and lines by a function of wavelength in nm.
    pub fn shaped(mut self, f: impl Fn(f64) -> f64) -> Self {
        for (value, nm) in self.continuum.iter_mut().zip(grid_nm()) {
            *value *= f(nm);
        }
        for line in &mut self.lines {
            line.photons *= f(line.wavelength_nm);
        }
        self
    }

    /// The continuum at `wavelength_nm`, linear between the nodes, zero outside the grid.
    pub fn continuum_at(&self, wavelength_nm: f64) -> f64 {
        let x = wavelength_nm - GRID_FIRST_NM;
        if !(0.0..=(GRID_LEN - 1) as f64).contains(&x) {
            return 0.0;
        }
        let i = (x as usize).min(GRID_LEN - 2);
        let f = x - i as f64;
        self.continuum[i] * (1.0 - f) + self.continuum[i + 1] * f
    }
}

impl Mul<f64> for Spectrum {
    type Output = Spectrum;

    fn mul(self, factor: f64) -> Spectrum {
        self.shaped(|_| factor)
    }
}

impl AddAssign<Spectrum> for Spectrum {
    fn add_assign(&mut self, other: Spectrum) {
        for (a, b) in self.continuum.iter_mut().zip(&other.continuum) {
            *a += b;
        }
        self.lines.extend(other.lines);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn ramp() -> Spectrum {
        let mut s = Spectrum::from_fn(|nm| nm - 300.0);
        s.lines.push(SpectralLine { name: "Na".into(), wavelength_nm: 589.3, photons: 10.0 });
        s
    }

    #[test]
    fn a_continuum_is_linear_between_nodes_and_dark_outside() {
        let s = ramp();
        assert_eq!(
            (s.continuum.len(), s.continuum_at(300.0), s.continuum_at(1100.0)),
            (GRID_LEN, 0.0, 800.0)
        );
        assert!(
            (s.continuum_at(455.25) - 155.25).abs() < 1e-12
                && (s.continuum_at(1099.5) - 799.5).abs() < 1e-12
        );
        assert_eq!((s.continuum_at(299.99), s.continuum_at(1100.01)), (0.0, 0.0));
    }

    #[test]
    fn shape_and_factor_act_on_continuum_and_lines_alike() {
        let s = ramp().shaped(|nm| if nm > 500.0 { 2.0 } else { 0.0 });
        assert_eq!(
            (s.continuum_at(400.0), s.continuum_at(600.0), s.lines[0].photons),
            (0.0, 600.0, 20.0)
        );
        let half = ramp() * 0.5;
        assert_eq!((half.continuum_at(700.0), half.lines[0].photons), (200.0, 5.0));
    }

    #[test]
    fn spectra_add_with_all_their_lines() {
        let mut sum = Spectrum::dark();
        sum += ramp();
        sum += ramp();
        assert_eq!((sum.continuum_at(500.0), sum.lines.len()), (400.0, 2));
        assert_eq!(grid_nm().next(), Some(300.0));
        assert_eq!(grid_nm().last(), Some(1100.0));
    }
}
