//! Airmass and extinction.

/// Scale height of the molecular atmosphere, km (Hayes & Latham 1975).
const RAYLEIGH_SCALE_KM: f64 = 7.996;

/// Scale height of the aerosols, km (Hayes & Latham 1975).
const AEROSOL_SCALE_KM: f64 = 1.5;

/// Aerosol optical depth in magnitudes at 1000 nm at sea level on a clear night (from memory).
pub const AEROSOL_CLEAR_MAG: f64 = 0.05;

/// Peak of the ozone absorption near 600 nm, magnitudes: 300 Dobson units (Bird & Riordan 1986,
/// after Leckner 1978).
const OZONE_PEAK_MAG: f64 = 0.04;

/// Width (one sigma) of that absorption, nm.
const OZONE_WIDTH_NM: f64 = 50.0;

/// The wavelength at which a user's `k_v` is meant, nm.
pub const V_NM: f64 = 550.0;

/// Airmass at an altitude above the horizon in degrees.
///
/// Kasten & Young 1989, Appl. Opt. 28, 4735: 1 / (sin a + 0.50572 (a + 6.07995)^-1.6364).
/// Altitudes below the horizon are treated as the horizon.
///
/// ```
/// use salt_lamp_core::path::sky::airmass;
///
/// assert!((airmass(90.0) - 1.0).abs() < 1e-3);
/// assert!((airmass(30.0) - 1.99).abs() < 0.01);
/// ```
pub fn airmass(altitude_deg: f64) -> f64 {
    let a = altitude_deg.clamp(0.0, 90.0);
    (1.0 / (a.to_radians().sin() + 0.50572 * (a + 6.07995).powf(-1.6364))).max(1.0)
}

/// The air in front of the target.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Air {
    height_km: f64,
    aerosol_mag: f64,
    /// Airmass towards the target.
    pub airmass: f64,
}

impl Air {
    /// Air at `height_m` above the sea. A measured `k_v` (mag per airmass at 550 nm) scales the
    /// aerosol term so that the extinction at 550 nm meets it, down to none.
    pub fn new(height_m: f64, k_v: Option<f64>, airmass: f64) -> Self {
        let height_km = height_m / 1000.0;
        let clear = Self { height_km, aerosol_mag: AEROSOL_CLEAR_MAG, airmass };
        match k_v {
            None => clear,
            Some(k) => {
                let rest = k - clear.rayleigh(V_NM) - ozone(V_NM);
                let per_unit = clear.aerosol(V_NM) / AEROSOL_CLEAR_MAG;
                Self { aerosol_mag: (rest / per_unit).max(0.0), ..clear }
            }
        }
    }

    /// Extinction at `wavelength_nm`, mag per airmass.
    ///
    /// Rayleigh, aerosol and ozone terms of Hayes & Latham 1975, ApJ 197, 593.
    pub fn k(&self, wavelength_nm: f64) -> f64 {
        self.rayleigh(wavelength_nm) + self.aerosol(wavelength_nm) + ozone(wavelength_nm)
    }

    /// The share of the target's light that comes through, 0-1: 10^(-0.4 k X).
    pub fn transmission(&self, wavelength_nm: f64) -> f64 {
        10f64.powf(-0.4 * self.k(wavelength_nm) * self.airmass)
    }

    fn rayleigh(&self, wavelength_nm: f64) -> f64 {
        let um = wavelength_nm / 1000.0;
        let inv2 = um.powi(-2);
        let n = 0.23465 + 107.6 / (146.0 - inv2) + 0.93161 / (41.0 - inv2);
        9.4977e-3 * um.powi(-4) * n * n * (-self.height_km / RAYLEIGH_SCALE_KM).exp()
    }

    fn aerosol(&self, wavelength_nm: f64) -> f64 {
        self.aerosol_mag
            * (wavelength_nm / 1000.0).powf(-0.8)
            * (-self.height_km / AEROSOL_SCALE_KM).exp()
    }
}

/// The Chappuis band of ozone as a Gaussian around 595 nm: within 0.006 mag of the coefficients of
/// Bird & Riordan 1986, J. Climate Appl. Meteor. 25, 87, for 300 Dobson units.
fn ozone(wavelength_nm: f64) -> f64 {
    OZONE_PEAK_MAG * (-((wavelength_nm - 595.0) / OZONE_WIDTH_NM).powi(2) / 2.0).exp()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn airmass_at_known_heights() {
        assert!((airmass(90.0) - 1.0).abs() < 1e-3);
        assert!((airmass(30.0) - 1.9943).abs() < 1e-3);
        // Kasten & Young 1989, table: 37.92 at the horizon.
        assert!((airmass(0.0) - 37.92).abs() < 0.02);
    }

    #[test]
    fn a_measured_k_v_is_met() {
        for k in [0.15, 0.25, 0.6] {
            assert!((Air::new(200.0, Some(k), 1.0).k(550.0) - k).abs() < 1e-12);
        }
        // Less than molecules alone: the aerosols vanish, the molecules stay.
        assert!(Air::new(0.0, Some(0.0), 1.0).k(550.0) > 0.08);
    }

    #[test]
    fn blue_is_dimmed_more_and_height_helps() {
        let low = Air::new(0.0, None, 1.5);
        assert!(low.k(400.0) > low.k(500.0) && low.k(500.0) > low.k(656.0));
        assert!(Air::new(2000.0, None, 1.5).k(500.0) < low.k(500.0));
        assert!(low.transmission(500.0) < 1.0);
    }

    #[test]
    fn each_term_has_its_size_and_its_colour() {
        let sea = Air::new(0.0, None, 1.0);
        // By definition: A0 at a micrometre, with the power -0.8 of Hayes & Latham 1975.
        assert!((sea.aerosol(1000.0) - 0.05).abs() < 1e-12);
        assert!((sea.aerosol(500.0) / sea.aerosol(1000.0) - 2f64.powf(0.8)).abs() < 1e-12);
        // Half an atmosphere of molecules is left at 7.996 km ln 2.
        assert!(
            (Air::new(7996.0 * 2f64.ln(), None, 1.0).rayleigh(500.0) / sea.rayleigh(500.0) - 0.5)
                .abs()
                < 1e-12
        );
        assert!(
            (Air::new(1500.0 * 2f64.ln(), None, 1.0).aerosol(500.0) / sea.aerosol(500.0) - 0.5)
                .abs()
                < 1e-12
        );
        // A magnitude and a quarter of extinction per airmass leaves 10^-0.5 of the light.
        assert!(
            (Air::new(0.0, Some(1.25), 1.0).transmission(550.0) - 10f64.powf(-0.5)).abs() < 1e-12
        );
        assert!(
            (Air::new(0.0, Some(0.625), 2.0).transmission(550.0) - 10f64.powf(-0.5)).abs() < 1e-12
        );
    }

    #[test]
    fn ozone_is_as_published() {
        for row in crate::common::reference("ozone.csv") {
            let (nm, published) = (crate::common::number(&row[0]), crate::common::number(&row[1]));
            assert!(
                (ozone(nm) - published).abs() < 0.006,
                "{nm} nm: {} against {published}",
                ozone(nm)
            );
        }
    }
}
