//! Light as photons: units, emission lines, spectra on one wavelength grid, photometric bands and
//! the shipped spectra. What a sky or a filter does to the light lives elsewhere.

pub(crate) mod bands;
pub(crate) mod curve;
pub(crate) mod lamp;
pub(crate) mod lines;
pub(crate) mod per;
pub(crate) mod spectrum;
pub(crate) mod tables;
pub(crate) mod units;

pub use bands::{Band, V_AB_MINUS_VEGA};
pub use curve::{Curve, CurveError};
pub use lamp::Lamp;
pub use lines::{EmissionLine, LINES, PerQuantity, Quantity};
pub use spectrum::{GRID_FIRST_NM, GRID_LEN, SpectralLine, Spectrum, grid_nm};
pub use tables::{Tables, TablesError};
pub use units::{
    ARCSEC2_PER_SR, FWHM_PER_SIGMA, PHOTONS_PER_RAYLEIGH, PLANCK_J_S, SPEED_OF_LIGHT_M_S,
    ab_photon_rate, blackbody_photons, linear_from_mag, mag_from_linear, rayleigh_from_erg,
};
