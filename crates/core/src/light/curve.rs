//! A sampled curve: linear between its points, zero outside them.

use serde::{Deserialize, Serialize};
use thiserror::Error;
use utoipa::ToSchema;

/// A curve over wavelength: pairs of (wavelength nm, value), ascending; linear between the points
/// and zero outside them. The value is a fraction between 0 and 1.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(transparent)]
pub struct Curve(
    /// Pairs of wavelength in nm and fraction.
    pub Vec<[f64; 2]>,
);

/// Why a list of points is no curve. Rows count from zero.
#[derive(Clone, Debug, PartialEq, Error)]
pub enum CurveError {
    /// Fewer than two points.
    #[error("a curve needs at least two points, this one has {0}")]
    TooShort(usize),
    /// More points than [`Curve::MAX_POINTS`].
    #[error("a curve may have at most {max} points, this one has {0}", max = Curve::MAX_POINTS)]
    TooLong(usize),
    /// A wavelength outside 100-3000 nm or not a number.
    #[error("row {row}: the wavelength {value} nm is not between 100 and 3000")]
    Wavelength {
        /// The row, from zero.
        row: usize,
        /// What stood there, nm.
        value: f64,
    },
    /// A value outside 0-1 or not a number.
    #[error("row {row}: the value {value} is not between 0 and 1")]
    Value {
        /// The row, from zero.
        row: usize,
        /// What stood there.
        value: f64,
    },
    /// A wavelength that is not above the one before.
    #[error(
        "row {row}: the wavelength {value} nm does not come after the one before it ({before} nm); \
            wavelengths must ascend"
    )]
    NotAscending {
        /// The row, from zero.
        row: usize,
        /// What stood there, nm.
        value: f64,
        /// What stood in the row before, nm.
        before: f64,
    },
    /// All values are zero.
    #[error("the curve is zero everywhere")]
    AllZero,
}

impl CurveError {
    /// The row that is wrong, from zero, where one row is.
    pub fn row(&self) -> Option<usize> {
        match *self {
            Self::Wavelength { row, .. }
            | Self::Value { row, .. }
            | Self::NotAscending { row, .. } => Some(row),
            _ => None,
        }
    }
}

impl Curve {
    /// The longest curve that is taken.
    pub const MAX_POINTS: usize = 20_000;

    /// Checks the points: at least two, ascending, values 0-1 and not all zero.
    pub fn check(&self) -> Result<(), CurveError> {
        let points = &self.0;
        if points.len() < 2 {
            return Err(CurveError::TooShort(points.len()));
        }
        if points.len() > Self::MAX_POINTS {
            return Err(CurveError::TooLong(points.len()));
        }
        for (row, &[nm, value]) in points.iter().enumerate() {
            if !(100.0..=3000.0).contains(&nm) {
                return Err(CurveError::Wavelength { row, value: nm });
            }
            if !(0.0..=1.0).contains(&value) {
                return Err(CurveError::Value { row, value });
            }
            if row > 0 && nm <= points[row - 1][0] {
                return Err(CurveError::NotAscending {
                    row,
                    value: nm,
                    before: points[row - 1][0],
                });
            }
        }
        if points.iter().all(|p| p[1] == 0.0) {
            return Err(CurveError::AllZero);
        }
        Ok(())
    }

    /// The value at `wavelength_nm`, 0-1.
    pub fn at(&self, wavelength_nm: f64) -> f64 {
        let points = &self.0;
        let after = points.partition_point(|p| p[0] < wavelength_nm);
        match (after.checked_sub(1).map(|i| points[i]), points.get(after)) {
            (_, Some(&[nm, value])) if nm == wavelength_nm => value,
            (Some([x0, y0]), Some(&[x1, y1])) => y0 + (y1 - y0) * (wavelength_nm - x0) / (x1 - x0),
            _ => 0.0,
        }
    }

    /// The curve at every node of the wavelength grid.
    pub fn on_grid(&self) -> Vec<f64> {
        crate::light::spectrum::grid_nm().map(|nm| self.at(nm)).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn linear_between_and_zero_outside() {
        let c = Curve(vec![[400.0, 0.2], [500.0, 0.6]]);
        assert_eq!(c.at(450.0), 0.4);
        assert_eq!(c.at(400.0), 0.2);
        assert_eq!(c.at(500.0), 0.6);
        assert_eq!(c.at(399.9), 0.0);
        assert_eq!(c.at(500.1), 0.0);
    }

    #[test]
    fn a_wrong_row_is_named() {
        let wrong = |points: &[[f64; 2]]| Curve(points.to_vec()).check().unwrap_err().row();
        assert_eq!(wrong(&[[400.0, 0.2], [400.0, 0.6]]), Some(1));
        assert_eq!(wrong(&[[400.0, 0.2], [500.0, -0.1]]), Some(1));
        assert_eq!(wrong(&[[f64::NAN, 0.2], [500.0, 0.1]]), Some(0));
        assert_eq!(wrong(&[[400.0, 0.2]]), None);
        assert_eq!(Curve(vec![[400.0, 0.0], [500.0, 0.0]]).check(), Err(CurveError::AllZero));
    }
}
