//! Shape and place of one star: second moments under a weight of the star's own shape.
//!
//! Plain moments drown in noise, and those under a fixed weight come out too small. Here the weight
//! is an elliptical Gaussian that is matched to the star step by step: of two Gaussians multiplied
//! the inverse covariances add, so that what the weight took is known and put back (adaptive
//! moments, Bernstein & Jarvis 2002).

/// Steps at most.
const STEPS: usize = 25;
/// Pixels, and share of the variances, below which a step changes nothing that is told.
const STILL: f64 = 1e-4;
/// How far the weight is followed, standard deviations.
const REACH: f64 = 3.5;
/// The weight's variances at least, px^2: between the pixels of a star that falls on hardly more than
/// one there is nothing to follow, and a weight that shrinks further loses it.
const LEAST_PX2: f64 = 0.25;

/// A small image around a star, its background taken off.
#[derive(Clone, Debug, Default)]
pub struct Stamp {
    /// Columns, and as many rows; odd.
    pub side: usize,
    /// Values row by row, ADU; NaN outside the frame.
    pub values: Vec<f32>,
}

impl Stamp {
    /// Its rows, each with how far below the stamp's middle it lies, px.
    pub(super) fn rows(&self) -> impl Iterator<Item = (f32, &[f32])> {
        let half = (self.side / 2) as f32;
        self.values.chunks_exact(self.side).enumerate().map(move |(i, r)| (i as f32 - half, r))
    }

    /// How far right of the stamp's middle a column lies, px.
    pub(super) fn right_of_middle(&self, column: usize) -> f32 {
        column as f32 - (self.side / 2) as f32
    }
}

/// Place and covariance of a star's light.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Moments {
    /// Middle, pixels from the stamp's middle.
    pub at: [f64; 2],
    /// Variances and covariance (x^2, xy, y^2), px^2.
    pub of: [f64; 3],
}

/// The longer and the shorter axis of an ellipse and its direction.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Ellipse {
    /// Standard deviations along the axes, px, the longer first.
    pub axes_px: [f64; 2],
    /// Direction of the longer one, degrees clockwise from the frame's top, 0 to 180.
    pub toward_deg: f64,
}

impl Moments {
    /// The moments of the star in the middle of a stamp; `None` where nothing there looks like one.
    pub fn of_star(stamp: &Stamp, first_sigma_px: f64) -> Option<Self> {
        let start = first_sigma_px * first_sigma_px;
        let mut m = Self { at: [0.0; 2], of: [start, 0.0, start] };
        for _ in 0..STEPS {
            let next = m.step(stamp)?;
            let moved = (0..2).map(|i| (next.at[i] - m.at[i]).abs()).fold(0.0, f64::max);
            let grown = (0..3).map(|i| (next.of[i] - m.of[i]).abs()).fold(0.0, f64::max);
            m = next;
            if moved < STILL && grown < STILL * (m.of[0] + m.of[2]) {
                break;
            }
        }
        Some(m)
    }

    fn step(&self, stamp: &Stamp) -> Option<Self> {
        let half = (stamp.side / 2) as f64;
        let inverse = inverse(self.of)?;
        let reach = [self.of[0], self.of[2]].map(|v| REACH * v.sqrt());
        let range = |i: usize| {
            let from = (self.at[i] - reach[i] + half).ceil().max(0.0) as usize;
            let to = (self.at[i] + reach[i] + half).floor().min(2.0 * half).max(0.0) as usize;
            from..=to
        };
        let (mut sum, mut first, mut second) = (0.0, [0.0; 2], [0.0; 3]);
        for row in range(1) {
            let y = row as f64 - half - self.at[1];
            for column in range(0) {
                let x = column as f64 - half - self.at[0];
                let q = inverse[0] * x * x + 2.0 * inverse[1] * x * y + inverse[2] * y * y;
                let v = f64::from(stamp.values[row * stamp.side + column]);
                if q > REACH * REACH || v.is_nan() {
                    continue;
                }
                let w = (-0.5 * q).exp() * v;
                sum += w;
                first = [first[0] + w * x, first[1] + w * y];
                second = [second[0] + w * x * x, second[1] + w * x * y, second[2] + w * y * y];
            }
        }
        if sum <= 0.0 {
            return None;
        }
        let [dx, dy] = first.map(|v| v / sum);
        let seen =
            [second[0] / sum - dx * dx, second[1] / sum - dx * dy, second[2] / sum - dy * dy];
        let both = self::inverse(seen)?;
        let [xx, xy, yy] = self::inverse([0, 1, 2].map(|i| both[i] - inverse[i]))?;
        let of = [xx.max(LEAST_PX2), xy, yy.max(LEAST_PX2)];
        // Half of the step is the weight's.
        let at = [self.at[0] + 2.0 * dx, self.at[1] + 2.0 * dy];
        let largest = half * half;
        let inside = at.iter().all(|v| v.abs() < half) && of[0].max(of[2]) < largest;
        inside.then_some(Self { at, of })
    }

    /// The moments with the variances of something else taken off, at least a tenth left.
    pub fn without(&self, other: [f64; 3]) -> Self {
        let floor = |i: usize| (self.of[i] - other[i]).max(0.1 * self.of[i]);
        Self { at: self.at, of: [floor(0), self.of[1] - other[1], floor(2)] }
    }

    /// The ellipse that they are.
    pub fn ellipse(&self) -> Ellipse {
        let [xx, xy, yy] = self.of;
        let (mean, half) = (0.5 * (xx + yy), (0.25 * (xx - yy).powi(2) + xy * xy).sqrt());
        let axes_px = [mean + half, mean - half].map(|v| v.max(1e-6).sqrt());
        // Rows count downwards: clockwise from the top is from -y towards x.
        let toward_deg = (0.5 * (-2.0 * xy).atan2(yy - xx)).to_degrees().rem_euclid(180.0);
        Ellipse { axes_px, toward_deg }
    }
}

/// The inverse of a symmetric matrix; `None` where it is no covariance.
fn inverse([xx, xy, yy]: [f64; 3]) -> Option<[f64; 3]> {
    let determinant = xx * yy - xy * xy;
    (determinant > 1e-9 && xx > 0.0)
        .then(|| [yy / determinant, -xy / determinant, xx / determinant])
}

#[cfg(test)]
mod tests {
    use super::*;

    fn gaussian(at: [f64; 2], of: [f64; 3], side: usize) -> Stamp {
        let i = inverse(of).expect("a covariance");
        let half = (side / 2) as f64;
        let values = (0..side * side).map(|k| {
            let x = (k % side) as f64 - half - at[0];
            let y = (k / side) as f64 - half - at[1];
            (1000.0 * (-0.5 * (i[0] * x * x + 2.0 * i[1] * x * y + i[2] * y * y)).exp()) as f32
        });
        Stamp { side, values: values.collect() }
    }

    #[test]
    fn place_and_shape_of_a_gaussian_come_back() {
        for of in [[2.0, 0.0, 2.0], [4.0, 0.0, 1.5], [3.0, 1.0, 2.0], [1.0, -0.3, 1.4]] {
            let m = Moments::of_star(&gaussian([0.3, -0.2], of, 31), 1.3).expect("a star");
            assert!((m.at[0] - 0.3).abs() < 1e-3 && (m.at[1] + 0.2).abs() < 1e-3, "{m:?}");
            for k in 0..3 {
                assert!((m.of[k] - of[k]).abs() < 0.01 * of[0], "{of:?}: {m:?}");
            }
        }
    }

    /// Through a short telescope a star is hardly a pixel wide: it is found all the same, wherever on
    /// its pixel it stands, and stays round within what its pixels tell.
    #[test]
    fn a_star_narrower_than_a_pixel_is_not_lost() {
        for at in [[0.0, 0.0], [0.5, 0.5], [0.3, -0.4], [0.5, 0.0]] {
            for wide in [0.12, 0.2, 0.3] {
                let m = Moments::of_star(&gaussian(at, [wide, 0.0, wide], 25), 1.3);
                let m = m.unwrap_or_else(|| panic!("{at:?} {wide}: lost"));
                assert!(m.of[0].max(m.of[2]) < 0.6 && m.of[1].abs() < 0.01, "{at:?} {wide}: {m:?}");
                assert!((0..2).all(|i| (m.at[i] - at[i]).abs() < 0.5), "{at:?} {wide}: {m:?}");
            }
        }
    }

    /// A star drawn out to the upper right points to 45 degrees from the top.
    #[test]
    fn directions_count_clockwise_from_the_top() {
        let toward = |of| Moments { at: [0.0; 2], of }.ellipse().toward_deg;
        assert!((toward([1.0, 0.0, 2.0]) - 0.0).abs() < 1e-9);
        assert!((toward([2.0, 0.0, 1.0]) - 90.0).abs() < 1e-9);
        assert!((toward([2.0, -0.5, 2.0]) - 45.0).abs() < 1e-9);
        assert!((toward([2.0, 0.5, 2.0]) - 135.0).abs() < 1e-9);
    }

    #[test]
    fn what_is_no_star_has_none() {
        assert!(Moments::of_star(&Stamp { side: 21, values: vec![0.0; 441] }, 1.3).is_none());
        assert!(Moments::of_star(&Stamp { side: 21, values: vec![-1.0; 441] }, 1.3).is_none());
        assert!(Moments::of_star(&Stamp { side: 21, values: vec![f32::NAN; 441] }, 1.3).is_none());
    }
}
