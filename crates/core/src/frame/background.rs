//! The background of a channel on a mesh of tiles: its level, its scatter, and a smooth surface
//! between the tiles' middles.

use crate::frame::channel::Channel;
use crate::frame::pixels::Pixels;
use crate::frame::slope::Slope;
use crate::frame::tile::{Bins, Tile, middle};
use crate::frame::wide::{Wide, wide};
use crate::workers::Workers;

/// Side of a tile, pixels of the channel.
const TILE: usize = 64;

/// What one pass over a channel's pixels gives.
#[derive(Clone, Debug)]
pub struct Background {
    /// Columns and rows of the channel.
    size: [usize; 2],
    /// Tiles across and down.
    tiles: [usize; 2],
    /// Levels row by row, ADU: of tiles without a number, of their neighbours.
    levels: Vec<f64>,
    /// The plane through them.
    pub slope: Slope,
    /// Median of the tiles' levels, ADU.
    pub level: f64,
    /// Median of the tiles' scatter of single pixels, ADU.
    pub sigma: f64,
    /// Smallest and largest value, ADU.
    pub ends: [f64; 2],
    /// How many values are numbers.
    pub numbers: usize,
    /// How many of them are zero or less.
    pub zeros: usize,
    /// How many reach the largest value.
    pub at_most: usize,
}

/// What a row of tiles gives.
struct Row {
    tiles: Vec<Option<Tile>>,
    ends: [f32; 2],
    numbers: usize,
    zeros: usize,
    at_most: usize,
}

/// Values that are counted side by side.
const LANES: usize = 16;

impl Row {
    #[inline(always)]
    fn count(&mut self, values: &[f32]) {
        let (mut numbers, mut zeros) = ([0u32; LANES], [0u32; LANES]);
        let (mut least, mut most) = ([f32::MAX; LANES], [f32::MIN; LANES]);
        let (whole, rest) = values.as_chunks::<LANES>();
        let mut last = [f32::NAN; LANES];
        last[..rest.len()].copy_from_slice(rest);
        for chunk in whole.iter().chain(std::iter::once(&last)) {
            for (i, v) in chunk.iter().enumerate() {
                let is_number = v.abs() < f32::INFINITY;
                numbers[i] += u32::from(is_number);
                zeros[i] += u32::from(is_number && *v <= 0.0);
                let (low, high) = if is_number { (*v, *v) } else { (f32::MAX, f32::MIN) };
                least[i] = if low < least[i] { low } else { least[i] };
                most[i] = if high > most[i] { high } else { most[i] };
            }
        }
        self.numbers += numbers.iter().sum::<u32>() as usize;
        self.zeros += zeros.iter().sum::<u32>() as usize;
        self.ends[0] = least.iter().fold(self.ends[0], |a, b| a.min(*b));
        let most = most.iter().fold(f32::MIN, |a, b| a.max(*b));
        if most < self.ends[1] {
            return;
        }
        let reach = values.iter().map(|v| u32::from(*v == most)).sum::<u32>() as usize;
        let before = if most == self.ends[1] { self.at_most } else { 0 };
        (self.ends[1], self.at_most) = (most, before + reach);
    }
}

/// Where the i-th of `parts` equal parts of a length begins.
fn edge(i: usize, parts: usize, length: usize) -> usize {
    i * length / parts
}

impl Background {
    /// Measures a channel; `None` where none of its pixels is a number.
    pub fn new(channel: &Channel, pixels: &impl Pixels, workers: &impl Workers) -> Option<Self> {
        let size = channel.size;
        let tiles = size.map(|n| ((n + TILE / 2) / TILE).max(1));
        let rows = workers.each(tiles[1], &|row| wide(RowOfTiles { channel, pixels, tiles, row }));
        let found: Vec<Option<Tile>> = rows.iter().flat_map(|r| r.tiles.iter().copied()).collect();
        let known: Vec<Tile> = found.iter().flatten().copied().collect();
        let level = middle(known.iter().map(|t| t.level))?;
        let filled: Vec<f64> = found.iter().map(|t| t.map_or(level, |t| t.level)).collect();
        let levels = smoothed(&filled, tiles);
        let slope = Slope::through(&filled, tiles, size)?;
        // A slope within a tile scatters its pixels, too.
        let within = slope.variance_within([size[0] / tiles[0], size[1] / tiles[1]]);
        let sigma = middle(known.iter().map(|t| (t.sigma * t.sigma - within).max(0.0).sqrt()))?;
        let most = rows.iter().map(|r| r.ends[1]).fold(f32::MIN, f32::max);
        Some(Self {
            size,
            tiles,
            levels,
            slope,
            level,
            sigma,
            ends: [rows.iter().map(|r| r.ends[0]).fold(f32::MAX, f32::min).into(), most.into()],
            numbers: rows.iter().map(|r| r.numbers).sum(),
            zeros: rows.iter().map(|r| r.zeros).sum(),
            at_most: rows.iter().filter(|r| r.ends[1] == most).map(|r| r.at_most).sum(),
        })
    }

    /// The level at a pixel of the channel, ADU.
    pub fn at(&self, [x, y]: [usize; 2]) -> f64 {
        let [nx, ny] = self.tiles;
        let (left, right, across) = between(x as f64, nx, self.size[0]);
        let (upper, lower, down) = between(y as f64, ny, self.size[1]);
        let along = |j: usize| {
            let [a, b] = [left, right].map(|i| self.levels[j * nx + i]);
            a + across * (b - a)
        };
        along(upper) + down * (along(lower) - along(upper))
    }

    /// Levels along a row of the channel, ADU: straight lines between the tiles' middles.
    #[inline(always)]
    pub fn along(&self, row: usize, out: &mut Vec<f32>) {
        let [nx, ny] = self.tiles;
        let (upper, lower, down) = between(row as f64, ny, self.size[1]);
        let at = |i: usize| {
            let [a, b] = [upper, lower].map(|j| self.levels[j * nx + i]);
            a + down * (b - a)
        };
        let columns: Vec<f64> = (0..nx).map(at).collect();
        out.clear();
        let middle = |i: usize| (i as f64 + 0.5) * self.size[0] as f64 / nx as f64 - 0.5;
        for i in 0..=nx {
            // From the middle of tile i - 1 to that of tile i.
            let [left, right] = [i.saturating_sub(1), i.min(nx - 1)];
            let from = if i == 0 { 0.0 } else { middle(left).ceil() };
            let to = if i == nx { self.size[0] as f64 } else { middle(right).ceil() };
            let step = if left == right {
                0.0
            } else {
                (columns[right] - columns[left]) / (middle(right) - middle(left))
            };
            let start = columns[left] + step * (from - middle(left));
            let count = (to - from).max(0.0) as usize;
            let (start, step) = (start as f32, step as f32);
            out.extend((0..count as u32).map(|k| start + step * k as f32));
        }
        debug_assert_eq!(out.len(), self.size[0]);
    }
}

/// Between which two of `parts` middles a pixel lies, and how far from the first to the second.
fn between(at: f64, parts: usize, length: usize) -> (usize, usize, f64) {
    let x = ((at + 0.5) * parts as f64 / length as f64 - 0.5).clamp(0.0, (parts - 1) as f64);
    let first = x.floor() as usize;
    (first, (first + 1).min(parts - 1), x - first as f64)
}

/// A row of tiles of a channel.
struct RowOfTiles<'a, P> {
    channel: &'a Channel,
    pixels: &'a P,
    tiles: [usize; 2],
    row: usize,
}

impl<P: Pixels> Wide for RowOfTiles<'_, P> {
    type Output = Row;

    #[inline(always)]
    fn call(self) -> Row {
        row_of_tiles(self.channel, self.pixels, self.tiles, self.row)
    }
}

#[inline(always)]
fn row_of_tiles(channel: &Channel, pixels: &impl Pixels, tiles: [usize; 2], j: usize) -> Row {
    let [columns, rows] = channel.size;
    let (top, bottom) = (edge(j, tiles[1], rows), edge(j + 1, tiles[1], rows));
    let mut row = Row {
        tiles: Vec::with_capacity(tiles[0]),
        ends: [f32::MAX, f32::MIN],
        numbers: 0,
        zeros: 0,
        at_most: 0,
    };
    let mut band = vec![0f32; columns * (bottom - top) * channel.sites()];
    let mut pairs = Vec::new();
    for (k, line) in band.chunks_exact_mut(columns).enumerate() {
        let (site, y) = (k % channel.sites(), top + k / channel.sites());
        channel.piece_of_site(pixels, (site, y), 0, &mut pairs, line);
        row.count(line);
    }
    let (mut values, mut bins) = (Vec::new(), Bins::default());
    for i in 0..tiles[0] {
        let (left, right) = (edge(i, tiles[0], columns), edge(i + 1, tiles[0], columns));
        values.clear();
        for line in band.chunks_exact(columns) {
            values.extend_from_slice(&line[left..right]);
        }
        row.tiles.push(Tile::of(&values, pixels.whole_numbers(), &mut bins));
    }
    row
}

/// Each tile's level as the median of its 3 x 3 neighbours: a bright star's halo fills a tile, and
/// is no background.
fn smoothed(levels: &[f64], [nx, ny]: [usize; 2]) -> Vec<f64> {
    let one = |at: usize| {
        let (i, j) = (at % nx, at / nx);
        let around = (j.saturating_sub(1)..(j + 2).min(ny))
            .flat_map(|y| (i.saturating_sub(1)..(i + 2).min(nx)).map(move |x| levels[y * nx + x]));
        middle(around).unwrap_or(levels[at])
    };
    (0..levels.len()).map(one).collect()
}
