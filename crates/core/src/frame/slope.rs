//! The plane through a background: how much brighter it is on one side than on the other.

use crate::frame::tile::middle;

/// Tiles further from the plane than this many median deviations are left out of the next one.
const CUT: f64 = 4.0;
/// Times that tiles are left out.
const CUTS: usize = 5;

/// A plane over a channel.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Slope {
    /// Level in the middle, ADU.
    pub level: f64,
    /// Rise to the right and downwards, ADU a pixel of the channel.
    pub rise: [f64; 2],
    /// Columns and rows of the channel.
    size: [usize; 2],
}

impl Slope {
    /// The plane through the levels of tiles, by least squares, with those left out that a nebula
    /// or a star lifts. `None` of no tile.
    pub fn through(levels: &[f64], tiles: [usize; 2], size: [usize; 2]) -> Option<Self> {
        let [nx, ny] = tiles;
        let place = |at: usize| {
            let across = |i: usize, n: usize, length: usize| {
                ((i as f64 + 0.5) / n as f64 - 0.5) * length as f64
            };
            [across(at % nx, nx, size[0]), across(at / nx, ny, size[1])]
        };
        let mut plane = Self::by_medians(levels, tiles, size)?;
        let mut kept: Vec<usize> = Vec::new();
        for _ in 0..CUTS {
            let off = |at: usize| {
                let [x, y] = place(at);
                levels[at] - plane.level - plane.rise[0] * x - plane.rise[1] * y
            };
            let typical = middle((0..levels.len()).map(|at| off(at).abs()))?;
            let next: Vec<usize> = (0..levels.len())
                .filter(|at| off(*at).abs() <= CUT * 1.4826 * typical + 1e-9 * plane.level.abs())
                .collect();
            if next == kept || next.len() < 6 {
                break;
            }
            kept = next;
            plane = fitted(&kept, levels, &place, size).unwrap_or(plane);
        }
        Some(plane)
    }

    /// A plane to begin with, that a nebula on a quarter of the tiles does not move: medians of the
    /// rises between tiles half a frame apart (after Theil 1950 and Sen 1968).
    fn by_medians(levels: &[f64], [nx, ny]: [usize; 2], size: [usize; 2]) -> Option<Self> {
        let halves = [nx / 2, ny / 2];
        let at = |i: usize, j: usize| levels[j * nx + i];
        let across =
            (0..ny).flat_map(|j| (halves[0]..nx).map(move |i| at(i, j) - at(i - halves[0], j)));
        let down =
            (halves[1]..ny).flat_map(|j| (0..nx).map(move |i| at(i, j) - at(i, j - halves[1])));
        let tile = [size[0] as f64 / nx.max(1) as f64, size[1] as f64 / ny.max(1) as f64];
        let per_px = |rises: Option<f64>, axis: usize| {
            let apart = halves[axis] as f64 * tile[axis];
            if apart > 0.0 { rises.unwrap_or(0.0) / apart } else { 0.0 }
        };
        let rise = [per_px(middle(across), 0), per_px(middle(down), 1)];
        let middle_of = |k: usize, n: usize| (k as f64 + 0.5) - n as f64 / 2.0;
        let rest = (0..levels.len()).map(|k| {
            let x = middle_of(k % nx, nx) * tile[0];
            let y = middle_of(k / nx, ny) * tile[1];
            levels[k] - rise[0] * x - rise[1] * y
        });
        Some(Self { level: middle(rest)?, rise, size })
    }

    /// Brightest corner over the darkest one, in per cent of the level in the middle.
    pub fn percent(&self) -> f64 {
        let span =
            self.rise[0].abs() * self.size[0] as f64 + self.rise[1].abs() * self.size[1] as f64;
        if self.level > 0.0 { 100.0 * span / self.level } else { 0.0 }
    }

    /// The direction in which it rises, degrees clockwise from the frame's top, 0 to 360.
    pub fn toward_deg(&self) -> f64 {
        self.rise[0].atan2(-self.rise[1]).to_degrees().rem_euclid(360.0)
    }

    /// Variance that the slope alone gives the pixels of a tile, ADU^2.
    pub fn variance_within(&self, tile: [usize; 2]) -> f64 {
        let along = |rise: f64, n: usize| rise * rise * ((n * n) as f64 - 1.0) / 12.0;
        along(self.rise[0], tile[0]) + along(self.rise[1], tile[1])
    }
}

/// The plane of least squares; `None` where the tiles stand in a line.
fn fitted(
    kept: &[usize],
    levels: &[f64],
    place: &impl Fn(usize) -> [f64; 2],
    size: [usize; 2],
) -> Option<Slope> {
    let n = kept.len() as f64;
    let mean = |f: &dyn Fn(usize) -> f64| kept.iter().map(|at| f(*at)).sum::<f64>() / n;
    let [mx, my] = [mean(&|at| place(at)[0]), mean(&|at| place(at)[1])];
    let mz = mean(&|at| levels[at]);
    let (mut xx, mut xy, mut yy, mut xz, mut yz) = (0.0, 0.0, 0.0, 0.0, 0.0);
    for at in kept {
        let [x, y] = place(*at);
        let (x, y, z) = (x - mx, y - my, levels[*at] - mz);
        (xx, xy, yy) = (xx + x * x, xy + x * y, yy + y * y);
        (xz, yz) = (xz + x * z, yz + y * z);
    }
    let determinant = xx * yy - xy * xy;
    if determinant <= 1e-9 * (xx + yy).powi(2) {
        return None;
    }
    let rise = [(xz * yy - yz * xy) / determinant, (yz * xx - xz * xy) / determinant];
    Some(Slope { level: mz - rise[0] * mx - rise[1] * my, rise, size })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_plane_is_found_beneath_a_nebula() {
        let tiles = [20, 12];
        let size = [20 * 64, 12 * 64];
        // Rises to the right by 0.02 and upwards by 0.05 ADU a pixel; a nebula lies on an eighth.
        let levels: Vec<f64> = (0..240)
            .map(|at| {
                let (x, y) = (f64::from(at % 20) * 64.0, f64::from(at / 20) * 64.0);
                let nebula = if at % 20 > 13 && at / 20 > 6 { 400.0 } else { 0.0 };
                1000.0 + 0.02 * x - 0.05 * y + nebula
            })
            .collect();
        let slope = Slope::through(&levels, tiles, size).expect("there are tiles");
        assert!((slope.rise[0] - 0.02).abs() < 1e-9 && (slope.rise[1] + 0.05).abs() < 1e-9);
        // Up and to the right: atan2(0.02, 0.05).
        assert!((slope.toward_deg() - 21.801_409).abs() < 1e-5, "{}", slope.toward_deg());
        let span = 0.02 * 1280.0 + 0.05 * 768.0;
        assert!((slope.percent() / (100.0 * span / slope.level) - 1.0).abs() < 1e-9);
        assert!(Slope::through(&[], [0, 0], size).is_none());
        assert_eq!(Slope::through(&[5.0], [1, 1], [9, 9]).map(|s| s.percent()), Some(0.0));
    }
}
