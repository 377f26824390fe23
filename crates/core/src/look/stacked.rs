//! A look: the electrons of every contender over the crop, counted once, then stacked, shown and
//! measured again and again.

use crate::look::field::Field;
use crate::look::field_spec::FieldSpec;
use crate::look::ghost::widest_ghost_arcsec;
use crate::look::palette;
use crate::look::palette::stretched;
use crate::look::plane::Plane;
use crate::look::planes::{Planes, Sight};
use crate::look::star_light::StarSpectra;
use crate::look::view::LookView;
use std::sync::Arc;

use crate::light::tables::Tables;
use crate::look::noise::{Grain, Stacking, deviates, row_rng};
use crate::path::sensor::GainPoint;
use crate::scenario::check::Checked;
use crate::scenario::document::Scenario;
use crate::scenario::field_error::FieldError;
use crate::scenario::rig::Contender;
use crate::signal::model::Model;
use crate::signal::stack::{kept, subs_in};
use crate::workers::Workers;

/// Pixels of all planes together up to which their grain is kept: eight bytes each.
const MOST_GRAIN: usize = 6_000_000;

/// A plane's own number among those of a look.
fn plane_id(contender: usize, plane: usize) -> u64 {
    (contender as u64) << 8 | plane as u64
}

/// Pixels of all planes of a look together, at most: what is counted stands in memory with eight to
/// sixteen bytes each.
pub const MOST_PLANE_PIXELS: f64 = 40e6;

/// Largest crop, pixels on a side.
pub const MOST_PIXELS: f64 = 1600.0;

/// Grid of the truth.
const TRUTH_COLUMNS: usize = 400;

/// The wings of a star just outside a crop reach in from at least so far, arcsec.
const WINGS_ARCSEC: f64 = 120.0;

/// How far beyond a crop the widest ghost of any path reaches in, arcsec.
fn beyond_arcsec(s: &Scenario, view: &LookView) -> f64 {
    s.contenders
        .iter()
        .map(|c| widest_ghost_arcsec(c, view.gap_mm) / 2.0)
        .fold(WINGS_ARCSEC, f64::max)
}

/// Every contender's electrons over the crop, ready to be stacked and shown again and again.
pub struct Look {
    scenario: Checked,
    view: LookView,
    field: Arc<Field>,
    /// One entry a contender.
    pub contenders: Vec<Planes>,
    pub(super) gains: Vec<Vec<GainPoint>>,
    /// The grain of every plane, contender by contender; none of a crop that is too large to keep
    /// it.
    grain: Vec<Vec<Option<Arc<Grain>>>>,
}

/// A picture: red, green, blue, a byte each, row by row from the top.
#[derive(Clone, Debug, PartialEq)]
pub struct Crop {
    /// Pixels across and down.
    pub size: [usize; 2],
    /// Bytes, three a pixel.
    pub rgb: Vec<u8>,
}

/// Electrons of one plane's stack.
#[derive(Clone, Debug)]
pub struct Stack {
    /// Subs in it, scaled by the plane's share of the pixels.
    pub subs: f64,
    /// Length of a sub, s.
    pub sub_s: f64,
    /// Electrons a pixel.
    pub e: Vec<f32>,
}

impl Look {
    /// Counts the electrons of every contender over the crop; `workers` does the work.
    pub fn new(scenario: Checked, view: LookView, tables: &Tables, workers: &impl Workers) -> Self {
        Self::after(&[], scenario, view, tables, workers)
    }

    /// The same, taking over from earlier looks what their pictures share with this one: the truth
    /// on the sky, and the grain of equal seeds and sizes.
    pub fn after(
        earlier: &[Arc<Self>],
        scenario: Checked,
        view: LookView,
        tables: &Tables,
        workers: &impl Workers,
    ) -> Self {
        let model = Model::nominal(&scenario, tables);
        let s = scenario.scenario();
        let finest =
            model.paths.iter().map(|p| p.instrument.scale_arcsec).fold(f64::INFINITY, f64::min);
        let size = view.field_arcsec.min(MOST_PIXELS * finest);
        let fwhm_arcsec = view.star_fwhm_arcsec(s);
        let spec = FieldSpec {
            kind: s.target.kind,
            seed: view.seed,
            size_arcsec: [size, size],
            centre_arcsec: view.at_arcsec(),
            beyond_arcsec: beyond_arcsec(s, &view),
            object_arcsec: view.object_arcsec.unwrap_or(size).min(size),
            peak_factor: s.target.peak_factor,
            fwhm_arcsec,
            flat: view.flat,
            at: s.pointing(),
        };
        let columns = ((size / fwhm_arcsec * 1.2) as usize).clamp(48, TRUTH_COLUMNS);
        // The truth on the sky does not know what shines before it.
        let known = earlier.iter().map(|l| &l.field).find(|f| f.is_of(&spec, columns)).cloned();
        let field = known.unwrap_or_else(|| Arc::new(Field::new(spec, columns, workers)));
        let stars = StarSpectra::new(tables, &model.scene.sky.air);
        let sight = Sight { scenario: s, field: &field, stars: &stars, view: &view };
        let contenders: Vec<Planes> = workers
            .each(s.contenders.len(), &|i| Planes::new(&sight, &s.contenders[i], &model.paths[i]));
        let gains = model
            .paths
            .iter()
            .map(|p| p.exposures.iter().map(|e| e.instrument.gain).collect())
            .collect();
        let pixels: usize =
            contenders.iter().flat_map(|c| &c.planes).map(|p| p.e_per_s.len()).sum();
        let list: Vec<(usize, usize)> = contenders
            .iter()
            .enumerate()
            .flat_map(|(i, c)| (0..c.planes.len()).map(move |k| (i, k)))
            .collect();
        let kept = |seed: u32, plane: u64, size: [usize; 2]| {
            earlier
                .iter()
                .flat_map(|l| l.grain.iter().flatten().flatten())
                .find(|g| g.is_of(seed, plane, size))
                .cloned()
        };
        let of = |at: usize| {
            let (i, k) = list[at];
            let (plane, size) = (plane_id(i, k), contenders[i].size);
            (pixels <= MOST_GRAIN).then(|| {
                kept(view.seed, plane, size)
                    .unwrap_or_else(|| Arc::new(Grain::new(view.seed, plane, size)))
            })
        };
        let mut all = workers.each(list.len(), &of).into_iter();
        let grain =
            contenders.iter().map(|c| all.by_ref().take(c.planes.len()).collect()).collect();
        Self { scenario, view, field, contenders, gains, grain }
    }

    /// Pixels of all planes together.
    pub fn pixels(&self) -> usize {
        self.contenders.iter().flat_map(|c| &c.planes).map(|p| p.e_per_s.len()).sum()
    }

    /// Checks, before anything is counted, that the pictures of a question are not too large
    /// together.
    ///
    /// # Errors
    /// [`MOST_PLANE_PIXELS`] is passed: the field that would have to shrink, and to what.
    pub fn fits(scenario: &Checked, view: &LookView) -> Result<(), FieldError> {
        let s = scenario.scenario();
        let scale = |c: &Contender| c.optics.pixel_scale_arcsec(c.sensor.pixel_um);
        let finest = s.contenders.iter().map(scale).fold(f64::INFINITY, f64::min);
        let size = view.field_arcsec.min(MOST_PIXELS * finest);
        let planes = |c: &Contender| (c.exposures.len() * c.sensor.channels().len()) as f64;
        let pixels: f64 = s
            .contenders
            .iter()
            .map(|c| (size / scale(c)).round().max(8.0).powi(2) * planes(c))
            .sum();
        if pixels <= MOST_PLANE_PIXELS {
            return Ok(());
        }
        let fits = size * (MOST_PLANE_PIXELS / pixels).sqrt();
        let message = format!(
            "the pictures of these paths would hold {:.0} million pixels together; {:.0} million \
                are accepted: give at most {:.0} arcsec, \
             or fewer paths",
            pixels / 1e6,
            MOST_PLANE_PIXELS / 1e6,
            (fits - 0.5).floor()
        );
        Err(FieldError { path: "view.field_arcsec".into(), message })
    }

    /// Subs of an exposure that are kept after a share of the scenario's time; at least one.
    pub(super) fn subs(&self, contender: usize, exposure: usize, time_fraction: f64) -> f64 {
        let s = self.scenario.scenario();
        let c = &s.contenders[contender];
        let e = &c.exposures[exposure];
        let taken = subs_in(s.clock_s(c) * e.share * time_fraction, e.sub_s, c.between_s());
        kept(taken, e.sub_s, c.loss_per_hour).max(1.0)
    }

    /// The scenario that is looked at.
    pub(super) fn scenario(&self) -> &Scenario {
        self.scenario.scenario()
    }

    /// Spread of a pixel's noise on the background in each plane's stack, e-/s.
    pub(super) fn noise_e_per_s(&self, contender: usize, time_fraction: f64) -> Vec<f64> {
        let s = self.scenario();
        let one = |p: &Plane| {
            let sub_s = s.contenders[contender].exposures[p.exposure].sub_s;
            let subs = self.subs(contender, p.exposure, time_fraction) * p.share;
            let read = self.gains[contender][p.exposure].read_noise_e;
            let in_sub = (p.rates.background() + p.rates.dark) * sub_s + read * read;
            (in_sub * subs).sqrt() / (sub_s * subs)
        };
        self.contenders[contender].planes.iter().map(one).collect()
    }

    /// Stacks one plane. A colour array's pixel sees its channel in its share of the dithered subs.
    pub fn stack(&self, contender: usize, plane: usize, time_fraction: f64, truth: bool) -> Stack {
        let planes = &self.contenders[contender];
        let p = &planes.planes[plane];
        let gain = &self.gains[contender][p.exposure];
        let sub_s = self.scenario.scenario().contenders[contender].exposures[p.exposure].sub_s;
        let subs = self.subs(contender, p.exposure, time_fraction) * p.share;
        let width = planes.size[0];
        let stacking =
            Stacking { subs, read_noise_e: gain.read_noise_e, full_scale_e: gain.full_scale_e };
        let mut e = vec![0f32; p.e_per_s.len()];
        if truth {
            for (o, r) in e.iter_mut().zip(&p.e_per_s) {
                *o = ((f64::from(*r) * sub_s).min(gain.full_scale_e) * subs) as f32;
            }
        } else if let Some(grain) = &self.grain[contender][plane] {
            stacking.stack_row(&p.e_per_s, sub_s, &grain.deviates, &mut e);
        } else {
            for (row, (out, rates)) in e.chunks_mut(width).zip(p.e_per_s.chunks(width)).enumerate()
            {
                let mut rng = row_rng(self.view.seed, plane_id(contender, plane), row);
                let drawn: Vec<[f32; 2]> =
                    rates.iter().map(|_| deviates(&mut rng).map(|d| d as f32)).collect();
                stacking.stack_row(rates, sub_s, &drawn, out);
            }
        }
        Stack { subs, sub_s, e }
    }

    /// The picture of one contender. All contenders of one call to [`Self::white`] share its white.
    pub fn crop(&self, contender: usize, view: &LookView, white: f64) -> Crop {
        let planes = &self.contenders[contender];
        let colours = planes.colours(view.palette, view.single);
        let used: Vec<usize> = {
            let mut used: Vec<usize> =
                colours.all().flat_map(|m| m.parts.iter().map(|p| p.0)).collect();
            used.sort_unstable();
            used.dedup();
            used
        };
        let stacks: Vec<(usize, Stack)> = used
            .iter()
            .map(|&i| (i, self.stack(contender, i, view.time_fraction, view.truth)))
            .collect();
        // A table of the stretch: a byte for each of 4096 steps.
        let table: Vec<u8> = (0..4096)
            .map(|i| {
                (stretched(f64::from(i) / 4095.0, view.stretch, view.strength) * 255.0).round()
                    as u8
            })
            .collect();
        let brightest = palette::brightest(&colours);
        let levels = |mix: &palette::Mix, brightest: Option<f64>| -> Vec<u8> {
            let scaling = palette::scaling(mix, view.matched, brightest, white);
            let terms = mix.parts.iter().filter_map(|(i, w)| {
                stacks
                    .iter()
                    .find(|s| s.0 == *i)
                    .map(|s| (&s.1, w * scaling.gain / (s.1.subs * s.1.sub_s)))
            });
            let mut sum =
                vec![-(scaling.black * scaling.gain) as f32; planes.size[0] * planes.size[1]];
            for (stack, w) in terms {
                let w = w as f32;
                sum.iter_mut().zip(&stack.e).for_each(|(s, e)| *s += e * w);
            }
            sum.iter().map(|v| table[(v.clamp(0.0, 1.0) * 4095.0) as usize]).collect()
        };
        let mut rgb = vec![0u8; planes.size[0] * planes.size[1] * 3];
        let mut shown: Vec<(usize, Vec<u8>)> = Vec::new();
        for (k, mix) in colours.rgb.iter().enumerate() {
            let Some(mix) = mix else { continue };
            // Channels made of the same planes are the same: grey and H-O-O draw them once.
            let same =
                (0..k).find(|&j| colours.rgb[j].as_ref().is_some_and(|m| m.parts == mix.parts));
            let own = match same.and_then(|j| shown.iter().find(|s| s.0 == j)) {
                Some((_, levels)) => levels.clone(),
                None => levels(mix, brightest),
            };
            rgb.iter_mut().skip(k).step_by(3).zip(&own).for_each(|(o, l)| *o = *l);
            shown.push((k, own));
        }
        // Luminance takes the place of the colours' own brightness; what they differ by stays.
        if let Some(luminance) = &colours.luminance {
            for (pixel, l) in rgb.chunks_exact_mut(3).zip(levels(luminance, None)) {
                let shift = i16::from(l) - pixel.iter().map(|c| i16::from(*c)).sum::<i16>() / 3;
                pixel.iter_mut().for_each(|c| *c = (i16::from(*c) + shift).clamp(0, 255) as u8);
            }
        }
        Crop { size: planes.size, rgb }
    }

    /// White of all crops together where exposure is matched, e-/s.
    pub fn white(&self, view: &LookView) -> f64 {
        let each = self.contenders.iter().map(|p| p.colours(view.palette, view.single));
        each.map(|c| c.all().map(palette::white_e_per_s).fold(0.0, f64::max)).fold(0.0, f64::max)
    }
}
