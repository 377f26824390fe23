//! The truth: a procedural target on the sky, the same for every light path. Layers of light by
//! quantity, and the stars before it.
//!
//! Every value is a pure function of seed and position, so that no order of work can change it.

use crate::look::field_spec::{FieldSpec, Star};
use crate::look::field_stars::stars;
use crate::look::structure::{LAYERS, structure};
use crate::workers::Workers;

/// The truth on a grid, to be read between its nodes.
#[derive(Clone, Debug)]
pub struct Field {
    spec: FieldSpec,
    columns: usize,
    rows: usize,
    /// Relative brightness, mean one over the part of interest, by layer.
    layers: [Vec<f32>; LAYERS],
    /// The stars, brightest first.
    pub stars: Vec<Star>,
}

impl Field {
    /// Lays the truth out on a grid of `columns` across. `workers` does the rows; the truth does
    /// not depend on how.
    pub fn new(spec: FieldSpec, columns: usize, workers: &impl Workers) -> Self {
        let rows = ((columns as f64) * spec.size_arcsec[1] / spec.size_arcsec[0]).round().max(2.0)
            as usize;
        if spec.flat {
            let layers = std::array::from_fn(|_| vec![1.0; columns * rows]);
            return Self { spec, columns, rows, layers, stars: Vec::new() };
        }
        // Octaves until a feature is as small as a star.
        let octaves =
            ((spec.object_arcsec / 2.5 / spec.fwhm_arcsec).log2().floor().clamp(1.0, 7.0)) as u32;
        // The structure at the cells of a grid of some size around a middle.
        let laid = |[columns, rows]: [usize; 2], size_arcsec: [f64; 2], middle: [f64; 2]| {
            let part = |i: usize, n: usize| (i as f64 + 0.5) / n as f64 - 0.5;
            let row = |j: usize| -> Vec<[f64; LAYERS]> {
                let y = (middle[1] - part(j, rows) * size_arcsec[1]) / spec.object_arcsec;
                let x =
                    |i: usize| (middle[0] + part(i, columns) * size_arcsec[0]) / spec.object_arcsec;
                (0..columns)
                    .map(|i| structure(spec.kind, u64::from(spec.seed), x(i), y, octaves))
                    .collect()
            };
            let mut layers: [Vec<f32>; LAYERS] = Default::default();
            for values in workers.each(rows, &row).into_iter().flatten() {
                layers.iter_mut().zip(values).for_each(|(layer, v)| layer.push(v.max(0.0) as f32));
            }
            layers
        };
        let mut layers = laid([columns, rows], spec.size_arcsec, spec.centre_arcsec);
        // How bright the target is belongs to all of it: where the field is not just that, its own
        // extent says so.
        let is_all = spec.centre_arcsec == [0.0; 2]
            && spec.object_arcsec >= 0.75 * spec.size_arcsec[0].min(spec.size_arcsec[1]);
        let own = [spec.object_arcsec; 2];
        let whole = (!is_all).then(|| laid([WHOLE; 2], own, [0.0; 2]));
        for (k, layer) in layers.iter_mut().enumerate() {
            let levels = Levels::of(whole.as_ref().map_or(&*layer, |w| &w[k]), spec.peak_factor);
            layer.iter_mut().for_each(|v| *v = levels.set(*v));
        }
        let stars = stars(&spec);
        Self { spec, columns, rows, layers, stars }
    }

    /// Whether this is the truth of a specification on a grid of `columns`.
    pub fn is_of(&self, spec: &FieldSpec, columns: usize) -> bool {
        self.spec == *spec && self.columns == columns
    }

    /// What it was made of.
    pub fn spec(&self) -> &FieldSpec {
        &self.spec
    }

    /// Relative brightness of all layers at a position from the centre, arcsec right and up,
    /// between the nodes by both axes.
    pub fn at(&self, x_arcsec: f64, y_arcsec: f64) -> [f32; LAYERS] {
        let gx = (x_arcsec / self.spec.size_arcsec[0] + 0.5) * self.columns as f64 - 0.5;
        let gy = (0.5 - y_arcsec / self.spec.size_arcsec[1]) * self.rows as f64 - 0.5;
        let (gx, gy) =
            (gx.clamp(0.0, (self.columns - 1) as f64), gy.clamp(0.0, (self.rows - 1) as f64));
        let (i, j) = ((gx as usize).min(self.columns - 2), (gy as usize).min(self.rows - 2));
        let (u, v) = ((gx - i as f64) as f32, (gy - j as f64) as f32);
        let k = j * self.columns + i;
        let mut out = [0.0; LAYERS];
        for (o, l) in out.iter_mut().zip(&self.layers) {
            let top = l[k] + (l[k + 1] - l[k]) * u;
            let low = l[k + self.columns] + (l[k + self.columns + 1] - l[k + self.columns]) * u;
            *o = top + (low - top) * v;
        }
        out
    }
}

/// The truth along a line across the field: between its columns it is read like [`Field::at`].
pub struct FieldRow {
    /// Each layer at each column.
    pub columns: Vec<[f32; LAYERS]>,
    size_arcsec: f64,
}

impl FieldRow {
    /// The column to the left of `x_arcsec`, and how far on to the next it lies, 0-1.
    pub fn place(&self, x_arcsec: f64) -> (usize, f64) {
        let n = self.columns.len();
        let g = ((x_arcsec / self.size_arcsec + 0.5) * n as f64 - 0.5).clamp(0.0, (n - 1) as f64);
        let i = (g as usize).min(n - 2);
        (i, g - i as f64)
    }
}

impl Field {
    /// The truth along the line at `y_arcsec`.
    pub fn along(&self, y_arcsec: f64) -> FieldRow {
        let middle =
            |i: usize| ((i as f64 + 0.5) / self.columns as f64 - 0.5) * self.spec.size_arcsec[0];
        FieldRow {
            columns: (0..self.columns).map(|i| self.at(middle(i), y_arcsec)).collect(),
            size_arcsec: self.spec.size_arcsec[0],
        }
    }
}

/// Grid by which a target's levels are known where the field lies beside its middle.
const WHOLE: usize = 96;

/// How a layer's raw structure becomes relative brightness: its mean over the part of interest
/// (where it is at least a quarter of its brightest tenth) is one, and its brightest tenth is bent
/// so that the very brightest part is the peak.
struct Levels {
    factor: f32,
    /// Where the bend begins, and what it ends at before it.
    from: f64,
    most: f64,
    /// What the bend adds at its end; negative where it takes away.
    rise: f64,
}

impl Levels {
    fn of(layer: &[f32], peak_factor: f64) -> Self {
        let mut sorted: Vec<f32> = layer.iter().step_by(7).copied().collect();
        sorted.sort_by(f32::total_cmp);
        let tenth = sorted[(sorted.len() - 1) * 9 / 10];
        let (mut sum, mut n) = (0.0f64, 0.0);
        for v in layer.iter().filter(|v| **v >= 0.25 * tenth && **v > 0.0) {
            sum += f64::from(*v);
            n += 1.0;
        }
        let factor = if n > 0.0 { (n / sum) as f32 } else { 1.0 };
        let from = f64::from(tenth * factor);
        let most = f64::from(layer.iter().copied().fold(0.0, f32::max) * factor);
        let bends = peak_factor > 1.0 && most > from && peak_factor > from;
        Self { factor, from, most, rise: if bends { peak_factor - most } else { 0.0 } }
    }

    fn set(&self, raw: f32) -> f32 {
        let v = f64::from(raw * self.factor);
        if v <= self.from || self.rise == 0.0 {
            return v as f32;
        }
        let t = ((v - self.from) / (self.most - self.from)).min(1.0);
        // Up: only the last of the way, so that the mean hardly moves. Down: in proportion.
        let add = if self.rise > 0.0 { self.rise * t.powi(6) } else { self.rise * t };
        (v + add) as f32
    }
}

#[cfg(test)]
#[path = "field_tests.rs"]
mod tests;
