//! A whole simulated sub of the sensor: the colour array's mosaic, every pixel counted once, in
//! ADU.

use rand_pcg::Pcg64Mcg;

use crate::light::tables::Tables;
use crate::look::field::Field;
use crate::look::field_spec::{FieldSpec, Star};
use crate::look::ghost::{Ghost, ghosts_of, widest_ghost_arcsec};
use crate::look::noise::{Stacking, deviates, row_rng};
use crate::look::star::StarProfile;
use crate::look::star_light::{StarLight, StarSpectra, profiles};
use crate::look::structure::LAYERS;
use crate::look::view::LookView;
use crate::path::rates::Rates;
use crate::path::sensor::GainPoint;
use crate::scenario::cfa::CfaColour;
use crate::scenario::check::Checked;
use crate::scenario::pointing::Pointing;
use crate::signal::model::Model;
use crate::workers::Workers;

/// What a whole sub is made of; rows are counted on demand, so that a frame never stands in memory
/// twice.
pub struct SimulatedSub {
    /// Pixels across and down.
    pub size: [usize; 2],
    /// Pixel scale, arcsec.
    pub scale_arcsec: f64,
    /// Length of the sub, s.
    pub sub_s: f64,
    /// The camera at its gain.
    pub gain: GainPoint,
    /// Offset, ADU.
    pub offset_adu: f64,
    /// Largest value of the converter, ADU.
    pub most_adu: f64,
    seed: u32,
    rates: Vec<(Rates, StarLight)>,
    pattern: [usize; 4],
    field: Field,
    moved: Moved,
    stars_by_row: Vec<Vec<usize>>,
    /// How far each star of the field is drawn, pixels.
    reach_px: Vec<f64>,
    /// Of a star's visible light, and of its infrared.
    profiles: [StarProfile; 2],
    rings: Vec<RingOnSensor>,
}

/// The ghost of one star on the sensor.
struct RingOnSensor {
    /// Its middle, pixels from the left and from the top.
    middle_px: [f64; 2],
    /// Squares of its inner and outer radius, pixels^2.
    from_px2: f64,
    to_px2: f64,
    /// What it adds to a pixel of each colour, e-/s.
    level_e_per_s: [f64; 3],
}

/// How a frame lies on the field that it is of.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Moved {
    /// Where its middle lies, arcsec to the right and up of the field's.
    pub right_up_arcsec: [f64; 2],
    /// Whether it is the other way up: the mount's half turn.
    pub half_turn: bool,
}

impl Moved {
    /// How a frame that looks `at` a place lies on a field laid around another. Turns but for the
    /// half one are not known.
    pub fn of(field: &Pointing, at: &Pointing) -> Self {
        let apart = (at.position_angle_deg - field.position_angle_deg).to_radians();
        Self {
            right_up_arcsec: field.right_up_arcsec(at.ra_deg, at.dec_deg).unwrap_or_default(),
            half_turn: apart.cos() < 0.0,
        }
    }

    /// 1, or -1 where it is the other way up.
    fn sign(&self) -> f64 {
        if self.half_turn { -1.0 } else { 1.0 }
    }

    /// A place of the frame as one of the field, arcsec from the middle, by axis: 0 to the right, 1
    /// up.
    fn on_field(&self, axis: usize, arcsec: f64) -> f64 {
        self.sign() * arcsec + self.right_up_arcsec[axis]
    }

    /// A star of the field as it stands on the frame.
    fn on_frame(&self, star: &mut Star) {
        let [right, up] = self.right_up_arcsec;
        star.x_arcsec = self.sign() * (star.x_arcsec - right);
        star.y_arcsec = self.sign() * (star.y_arcsec - up);
    }
}

/// Columns of the truth over a whole sensor.
const TRUTH_COLUMNS: usize = 900;

/// Prepares a whole sub of one exposure that looks `at` a place, or where the target stands. `None`
/// where there is no such contender or exposure.
pub fn whole_sub(
    scenario: &Checked,
    contender: usize,
    exposure: usize,
    (view, at): (&LookView, Option<Pointing>),
    tables: &Tables,
    workers: &impl Workers,
) -> Option<SimulatedSub> {
    let asked = (view, at, Moved::default());
    whole_sub_moved(scenario, [contender, exposure], asked, tables, workers)
}

/// The same of a frame that lies a little beside the field that is laid around `at`, or the other
/// way up: dither, drift, the mount's half turn.
pub fn whole_sub_moved(
    scenario: &Checked,
    [contender, exposure]: [usize; 2],
    (view, at, moved): (&LookView, Option<Pointing>, Moved),
    tables: &Tables,
    workers: &impl Workers,
) -> Option<SimulatedSub> {
    let s = scenario.scenario();
    let c = s.contenders.get(contender)?;
    c.exposures.get(exposure)?;
    let model = Model::nominal(scenario, tables);
    let path = &model.paths[contender];
    let own = &path.exposures[exposure];
    let scale = path.instrument.scale_arcsec;
    let size = [c.sensor.columns as usize, c.sensor.rows as usize];
    let fwhm_arcsec = view.star_fwhm_arcsec(s);
    let size_arcsec = size.map(|n| n as f64 * scale);
    let most_arcsec = size_arcsec[0].min(size_arcsec[1]) * 0.8;
    let spec = FieldSpec {
        kind: s.target.kind,
        seed: view.seed,
        size_arcsec,
        centre_arcsec: [0.0; 2],
        beyond_arcsec: widest_ghost_arcsec(c, view.gap_mm) / 2.0,
        object_arcsec: view.object_arcsec.map_or(most_arcsec, |own| own.min(most_arcsec)),
        peak_factor: s.target.peak_factor,
        fwhm_arcsec,
        flat: view.flat,
        at: at.or(s.pointing()),
    };
    let mut field = Field::new(spec, TRUTH_COLUMNS.min(size[0]).max(2), workers);
    field.stars.iter_mut().for_each(|star| moved.on_frame(star));
    let spectra = StarSpectra::new(tables, &model.scene.sky.air);
    let stars = StarLight::of_channels(&spectra, c, c.exposures[exposure].filter.as_ref());
    let rates: Vec<(Rates, StarLight)> =
        own.channels.iter().map(|ch| *ch.nominal()).zip(stars).collect();
    let ghosts = ghosts_of(c, (exposure, own), view.gap_mm, s.clock_s(c));
    let profiles = profiles(&c.optics, fwhm_arcsec, scale);
    let reach_px: Vec<f64> =
        field.stars.iter().map(|star| reach_px(&profiles, star, &rates)).collect();
    let mut stars_by_row = vec![Vec::new(); size[1]];
    for (i, (star, reach)) in field.stars.iter().zip(&reach_px).enumerate() {
        let y = size[1] as f64 / 2.0 - 0.5 - star.y_arcsec / scale;
        let (from, to) = ((y - reach).floor().max(0.0) as usize, (y + reach).ceil().max(-1.0));
        for row in stars_by_row.iter_mut().take((to + 1.0) as usize).skip(from) {
            row.push(i);
        }
    }
    let at = |name: &str| own.channels.iter().position(|ch| ch.name == name).unwrap_or(0);
    let mut pattern = [0; 4];
    if let Some(letters) = &c.sensor.cfa {
        for (slot, letter) in pattern.iter_mut().zip(letters.chars()) {
            *slot = CfaColour::from_letter(letter).map_or(0, |colour| at(colour.key()));
        }
    }
    Some(SimulatedSub {
        size,
        scale_arcsec: scale,
        sub_s: c.exposures[exposure].sub_s,
        gain: own.instrument.gain,
        offset_adu: c.sensor.offset_adu,
        most_adu: 2f64.powi(c.sensor.bits as i32) - 1.0,
        seed: view.seed,
        rings: rings(&field, [size[0] as f64, size[1] as f64], &ghosts, &rates),
        rates,
        pattern,
        field,
        moved,
        stars_by_row,
        reach_px,
        profiles,
    })
}

/// The rings of a field's stars on a sensor of so many pixels.
fn rings(
    field: &Field,
    [width, height]: [f64; 2],
    ghosts: &[Ghost],
    rates: &[(Rates, StarLight)],
) -> Vec<RingOnSensor> {
    let mut out = Vec::new();
    for star in &field.stars {
        for ghost in ghosts {
            let scale_arcsec = ghost.diameter_arcsec / ghost.diameter_px;
            let mut level_e_per_s = [0.0; 3];
            for (level, (r, light)) in level_e_per_s.iter_mut().zip(rates) {
                let e_per_s = star_e_per_s(star, r, light).iter().sum();
                *level = ghost.level_e_per_s(e_per_s, r.background() + r.dark).unwrap_or(0.0);
            }
            if level_e_per_s.iter().any(|l| *l > 0.0) {
                out.push(RingOnSensor {
                    middle_px: [
                        star.x_arcsec / scale_arcsec + width / 2.0 - 0.5,
                        height / 2.0 - 0.5 - star.y_arcsec / scale_arcsec,
                    ],
                    from_px2: (ghost.hole_px() / 2.0).powi(2),
                    to_px2: (ghost.diameter_px / 2.0).powi(2),
                    level_e_per_s,
                });
            }
        }
    }
    out
}

/// A star's visible light and its infrared in one colour, e-/s.
fn star_e_per_s(star: &Star, rates: &Rates, light: &StarLight) -> [f64; 2] {
    let v0 = rates.star_v0 * 10f64.powf(-0.4 * star.v_mag);
    light.of(star.temperature_k).map(|share| share * v0)
}

/// Out to where a star falls below a thousandth of the background in all colours, pixels.
fn reach_px(profiles: &[StarProfile; 2], star: &Star, rates: &[(Rates, StarLight)]) -> f64 {
    let one = |(r, light): &(Rates, StarLight)| {
        let floor = 1e-3 * (r.background() + r.dark).max(1e-6);
        let each = star_e_per_s(star, r, light).into_iter().zip(profiles);
        each.filter_map(|(e_per_s, p)| p.reach_px(e_per_s, floor)).fold(0.0, f64::max)
    };
    rates.iter().map(one).fold(0.0, f64::max) + 1.0
}

impl SimulatedSub {
    /// The same sky with another noise.
    pub fn with_noise(self, seed: u32) -> Self {
        Self { seed, ..self }
    }

    /// Counts one row from the top into `out`, ADU.
    pub fn row(&self, row: usize, out: &mut [f32]) {
        self.part(row, 0, out);
    }

    /// Counts a part of a row from the top into `out`, ADU: so many pixels from column `left` on. Its
    /// noise is its own.
    pub fn part(&self, row: usize, left: usize, out: &mut [f32]) {
        let [width, height] = self.size;
        let right = left + out.len();
        let mut rng: Pcg64Mcg = row_rng(self.seed, 0xFFFF, row);
        let y = (height as f64 / 2.0 - 0.5 - row as f64) * self.scale_arcsec;
        // A row has at most two colours: what each collects at every column of the truth, and
        // between the columns a straight line.
        let truth = self.field.along(self.moved.on_field(1, y));
        let base = [0, 1].map(|slot| {
            let rates = &self.rates[self.pattern[(row % 2) * 2 + slot]].0;
            let of = |layers: &[f32; LAYERS]| -> f64 {
                layers.iter().zip(rates.target).map(|(a, b)| f64::from(*a) * b).sum()
            };
            truth
                .columns
                .iter()
                .map(|layers| of(layers) + rates.background() + rates.dark)
                .collect::<Vec<f64>>()
        });
        let mut light = vec![0f64; out.len()];
        for (x, l) in (left..).zip(&mut light) {
            let right = (x as f64 + 0.5 - width as f64 / 2.0) * self.scale_arcsec;
            let (i, u) = truth.place(self.moved.on_field(0, right));
            let colour = &base[x % 2];
            *l = colour[i] + (colour[i + 1] - colour[i]) * u;
        }
        for &i in &self.stars_by_row[row] {
            let (star, reach) = (&self.field.stars[i], self.reach_px[i]);
            let cx = star.x_arcsec / self.scale_arcsec + width as f64 / 2.0 - 0.5;
            let dy = row as f64 - (height as f64 / 2.0 - 0.5 - star.y_arcsec / self.scale_arcsec);
            let from = ((cx - reach).floor().max(0.0) as usize).max(left);
            let to = (((cx + reach).ceil().max(-1.0) + 1.0) as usize).min(right);
            if from >= to {
                continue;
            }
            let mut all = [[0.0; 2]; 3];
            for (own, (rates, light)) in all.iter_mut().zip(&self.rates) {
                *own = star_e_per_s(star, rates, light);
            }
            for (x, l) in (from..).zip(&mut light[from - left..to - left]) {
                let dx = x as f64 - cx;
                let e_per_s = all[self.pattern[(row % 2) * 2 + x % 2]];
                let r2 = dx * dx + dy * dy;
                *l += e_per_s.iter().zip(&self.profiles).map(|(e, p)| e * p.at(r2)).sum::<f64>();
            }
        }
        for ring in &self.rings {
            let dy2 = (row as f64 - ring.middle_px[1]).powi(2);
            if dy2 > ring.to_px2 {
                continue;
            }
            let reach = (ring.to_px2 - dy2).sqrt();
            let from = ((ring.middle_px[0] - reach).ceil().max(0.0) as usize).max(left);
            let to = (ring.middle_px[0] + reach).floor().max(-1.0) + 1.0;
            let to = (to as usize).min(right).max(from);
            for (x, l) in (from..).zip(light.iter_mut().take(to - left).skip(from - left)) {
                if (x as f64 - ring.middle_px[0]).powi(2) + dy2 >= ring.from_px2 {
                    *l += ring.level_e_per_s[self.pattern[(row % 2) * 2 + x % 2]];
                }
            }
        }
        // Rounding to ADU below adds the quantisation noise that the gain point's read noise holds
        // already.
        let read_noise_e =
            (self.gain.read_noise_e.powi(2) - self.gain.e_per_adu.powi(2) / 12.0).max(0.0).sqrt();
        let stacking = Stacking { subs: 1.0, read_noise_e, full_scale_e: self.gain.full_scale_e };
        for (o, l) in out.iter_mut().zip(&light) {
            let e = stacking.stack_e(l * self.sub_s, deviates(&mut rng));
            *o = (e / self.gain.e_per_adu + self.offset_adu).round().clamp(0.0, self.most_adu)
                as f32;
        }
    }
}
