//! A camera that renders what it is told to take.

use std::collections::BTreeMap;
use std::fs::File;
use std::io::{self, BufWriter, Write};
use std::path::Path;

use jiff::Timestamp;
use rand::SeedableRng;
use rand_distr::{Distribution, Normal, Poisson};
use rand_pcg::Pcg64Mcg;
use salt_lamp_core::Checked;
use salt_lamp_core::light::{Tables, linear_from_mag, mag_from_linear};
use salt_lamp_core::look::{LookView, Moved, SimulatedSub, whole_sub_moved};
use salt_lamp_core::night::{Direction, Ephemeris, Place, moment};
use salt_lamp_core::path::GainPoint;
use salt_lamp_core::scenario::{Contender, Pointing as Pointed, Scenario, darker_at, solar_hour};
use salt_lamp_core::signal::Model;
use salt_lamp_core::workers::Workers;
use salt_lamp_formats::fits::{Header, Pixels, Pointing, Shape, Value, write_image_in_bands};

use crate::shot::{Kind, Shot};
use crate::truth::Truth;
use crate::weather::{Conditions, Trail, Weather};

/// One pixel in so many is hot, from memory: some tens a megapixel on a cooled sensor.
const HOT_ONE_IN: u64 = 40_000;
/// Dark current of a hot pixel over that of the others.
const HOT_TIMES: f64 = 400.0;
/// A flat's light, share of full scale.
const FLAT_LEVEL: f64 = 0.45;
/// How wide a satellite's trail is, px, as a standard deviation.
const TRAIL_SIGMA_PX: f64 = 1.5;
/// Threads that render a frame.
const BANDS: usize = 2;

/// A camera on a telescope.
pub struct Camera<'a> {
    scenario: Scenario,
    contender: usize,
    /// The site, for the sky of each minute; the scenario's sky stays where none is known.
    place: Option<Place>,
    /// Columns and rows that are read out, and where they begin.
    size: [usize; 2],
    from: [usize; 2],
    seed: u32,
    /// What the night does; nothing where there is none.
    weather: Option<Weather>,
    tables: &'a Tables,
}

/// A sky at a moment, and what it was made of.
struct Sky {
    scenario: Checked,
    moon_altitude_deg: Option<f64>,
}

impl<'a> Camera<'a> {
    /// The camera of a light path of a scenario, of whose sensor it reads the middle square of
    /// `crop` pixels.
    ///
    /// # Errors
    /// What is wrong with the scenario, in words.
    pub fn new(
        scenario: &Checked,
        contender: usize,
        (place, crop, seed): (Option<Place>, Option<u32>, u32),
        tables: &'a Tables,
    ) -> Result<Self, String> {
        let scenario = scenario.scenario().clone();
        let Some(own) = scenario.contenders.get(contender) else {
            return Err(format!("the scenario has no light path {}", contender + 1));
        };
        let whole = [own.sensor.columns as usize, own.sensor.rows as usize];
        // A whole number of squares of the colour array, which begins at an even place.
        let side = |n: usize| match crop {
            Some(crop) => (n.min(crop as usize) / 2 * 2).max(2),
            None => n,
        };
        let size = whole.map(side);
        let from = [0, 1].map(|i| (whole[i] - size[i]) / 4 * 2);
        Ok(Self { scenario, contender, place, size, from, seed, weather: None, tables })
    }

    /// The same camera in a night's weather.
    pub fn under(self, weather: Weather) -> Self {
        Self { weather: Some(weather), ..self }
    }

    /// What a frame is taken under; the cap keeps the weather out.
    fn conditions(&self, shot: &Shot) -> Conditions {
        let weather = self.weather.as_ref().filter(|_| shot.kind == Kind::Light);
        weather.map_or(Conditions::CLEAR, |w| w.over(shot.start_s, shot.exposure_s, shot.number))
    }

    /// The light path.
    pub fn path(&self) -> &Contender {
        &self.scenario.contenders[self.contender]
    }

    fn sky(&self, shot: &Shot, over: &Conditions) -> Result<Sky, String> {
        let mut s = self.scenario.clone();
        // A cloud is grey: it takes from all that comes through, and gives its own light back.
        s.contenders[self.contender].optics.throughput *= over.transparency;
        s.sky.zenith_v_mag -= 2.5 * (over.sky_times / over.transparency).log10();
        s.contenders[self.contender].exposures[shot.exposure].sub_s = shot.exposure_s;
        let mut moon_altitude_deg = None;
        if let (Some(place), Some(at)) = (self.place, shot.at) {
            let middle = shot.start_s + shot.exposure_s / 2.0;
            let e = Ephemeris::new(place, middle - 3600.0, middle + 3600.0)
                .map_err(|e| e.to_string())?;
            let target = Direction { ra_deg: at.ra_deg, dec_deg: at.dec_deg }.vector();
            let m = moment(&e, &target, middle);
            // Lamps that go out at this hour.
            s.sky.zenith_v_mag +=
                darker_at(&s.sky.by_hour, solar_hour(place.longitude_deg, middle));
            moon_altitude_deg = Some(m.moon.altitude_deg);
            s.sky.target_altitude_deg = m.altitude_deg.clamp(10.0, 90.0);
            s.sky.target_azimuth_deg = Some(m.azimuth_deg.rem_euclid(360.0));
            s.sky.sun_altitude_deg = m.sun_altitude_deg.clamp(-90.0, -5.0);
            s.sky.moon = (m.moon.altitude_deg > 0.0).then_some(m.moon);
        }
        let scenario = s.check().map_err(|errors| {
            let all: Vec<String> =
                errors.iter().map(|e| format!("{}: {}", e.path, e.message)).collect();
            all.join("; ")
        })?;
        Ok(Sky { scenario, moon_altitude_deg })
    }

    /// Share of a clear night's starlight that comes through at a moment, 0-1.
    pub fn clear_share(&self, at_s: f64) -> f64 {
        self.weather.as_ref().map_or(1.0, |w| w.transparency(at_s))
    }

    /// Brightness of the zenith at a moment, V mag/arcsec^2.
    ///
    /// # Errors
    /// What is wrong with the scenario, in words.
    pub fn zenith_v_mag(&self, at_s: f64) -> Result<f64, String> {
        let at = match self.place {
            Some(place) => {
                let e =
                    Ephemeris::new(place, at_s - 60.0, at_s + 60.0).map_err(|e| e.to_string())?;
                // Where the zenith stands among the stars; the year's turn of the frame is no matter.
                let [x, y, z] = e.zenith(at_s);
                let (ra_deg, dec_deg) = (y.atan2(x).to_degrees(), z.asin().to_degrees());
                Some(Pointed { ra_deg: ra_deg.rem_euclid(360.0), dec_deg, position_angle_deg: 0.0 })
            }
            None => None,
        };
        let shot = Shot {
            kind: Kind::Light,
            exposure: 0,
            exposure_s: 1.0,
            start_s: at_s,
            at,
            framed: None,
            object: String::new(),
            number: 0,
        };
        let transparency = self.clear_share(at_s);
        let sky_times = self.weather.as_ref().map_or(1.0, |w| w.lit(transparency));
        let over = Conditions { transparency, sky_times, ..Conditions::CLEAR };
        let mut sky = self.sky(&shot, &over)?.scenario.scenario().clone();
        // The throughput that the cloud took is no matter here: the meter sees the cloud's own light.
        sky.sky.zenith_v_mag += 2.5 * (1.0 / transparency).log10();
        let checked = sky.check().map_err(|e| format!("{e:?}"))?;
        let parts = Model::nominal(&checked, self.tables).sky_mags;
        let light: f64 = parts.iter().flatten().map(|mag| linear_from_mag(*mag)).sum();
        mag_from_linear(light).ok_or_else(|| "the sky is without light".to_owned())
    }

    /// Renders a frame into a folder and tells the truth of it. The file's name begins with its
    /// kind and ends with its number.
    ///
    /// # Errors
    /// In words: what cannot be rendered, or written.
    pub fn take(&self, shot: &Shot, to: &Path, workers: &impl Workers) -> Result<Truth, String> {
        let over = self.conditions(shot);
        let sky = self.sky(shot, &over)?;
        let s = sky.scenario.scenario();
        let own = &s.contenders[self.contender];
        let model = Model::nominal(&sky.scenario, self.tables);
        let exposure = &model.paths[self.contender].exposures[shot.exposure];
        let gain = exposure.instrument.gain;
        let file = name(shot, own);
        let mut truth = Truth {
            file: file.clone(),
            kind: shot.kind.word().to_owned(),
            filter: filter(own, shot),
            exposure_s: shot.exposure_s,
            start: stamp(shot.start_s)?,
            background_e_per_s: BTreeMap::new(),
            dark_e_per_s: exposure.channels[0].nominal().dark,
            level_adu: BTreeMap::new(),
            e_per_adu: gain.e_per_adu,
            read_noise_e: gain.read_noise_e,
            offset_adu: own.sensor.offset_adu,
            star_fwhm_arcsec: None,
            star_fwhm_px: None,
            transparency: over.transparency,
            blur_rms_arcsec: over.blur_rms_arcsec,
            satellite: over.trail.is_some(),
            ra_deg: shot.at.map(|p| p.ra_deg),
            dec_deg: shot.at.map(|p| p.dec_deg),
            position_angle_deg: shot.at.map(|p| p.position_angle_deg),
            target_altitude_deg: shot.at.map(|_| s.sky.target_altitude_deg),
            moon_altitude_deg: sky.moon_altitude_deg,
        };
        for c in &exposure.channels {
            let e_per_s = match shot.kind {
                Kind::Light => c.nominal().background() + c.nominal().dark,
                Kind::Dark | Kind::Bias => truth.dark_e_per_s,
                Kind::Flat => FLAT_LEVEL * gain.full_scale_e / shot.exposure_s,
            };
            truth.background_e_per_s.insert(c.name.to_owned(), e_per_s);
            let level = own.sensor.offset_adu + e_per_s * shot.exposure_s / gain.e_per_adu;
            truth.level_adu.insert(c.name.to_owned(), level);
        }
        let rows = match shot.kind {
            Kind::Light => {
                let view = LookView {
                    seed: self.seed,
                    guiding_rms_arcsec: over.blur_rms_arcsec,
                    ..LookView::default()
                };
                let instrument = &exposure.instrument;
                truth.star_fwhm_arcsec = Some(view.star_fwhm_arcsec(s));
                truth.star_fwhm_px =
                    truth.star_fwhm_arcsec.map(|arcsec| arcsec / instrument.scale_arcsec);
                let framed = shot.framed.or(shot.at);
                let moved = framed.zip(shot.at).map(|(field, at)| Moved::of(&field, &at));
                let sub = whole_sub_moved(
                    &sky.scenario,
                    [self.contender, shot.exposure],
                    (&view, framed, moved.unwrap_or_default()),
                    self.tables,
                    workers,
                )
                .ok_or("there is no such exposure")?;
                Rows::Sky(Box::new(
                    sub.with_noise(self.seed ^ shot.number.wrapping_mul(0x9e37_79b9)),
                ))
            }
            _ => Rows::Even,
        };
        let frame = Frame { camera: self, shot, truth: &truth, gain, rows, own, trail: over.trail };
        frame.write(&to.join(&file)).map_err(|e| format!("{}: {e}", to.join(&file).display()))?;
        Ok(truth)
    }
}

/// RFC 3339 in UTC.
pub(crate) fn stamp(unix_s: f64) -> Result<String, String> {
    let at = Timestamp::from_millisecond((unix_s * 1000.0).round() as i64);
    at.map(|t| t.strftime("%Y-%m-%dT%H:%M:%S%.3fZ").to_string()).map_err(|e| e.to_string())
}

fn filter(own: &Contender, shot: &Shot) -> Option<String> {
    own.exposures[shot.exposure].filter.as_ref().map(|f| f.name.clone())
}

/// A file's name.
fn name(shot: &Shot, own: &Contender) -> String {
    let slug = salt_lamp_formats::safe::slug;
    let kind = shot.kind.word().to_lowercase();
    let filter = filter(own, shot).unwrap_or_else(|| "none".to_owned());
    match shot.kind {
        Kind::Light => {
            format!("{kind}-{}-{}-{:04}.fits", slug(&shot.object), slug(&filter), shot.number)
        }
        Kind::Flat => format!("{kind}-{}-{:04}.fits", slug(&filter), shot.number),
        Kind::Dark => format!("{kind}-{}s-{:04}.fits", shot.exposure_s, shot.number),
        Kind::Bias => format!("{kind}-{:04}.fits", shot.number),
    }
}

/// Where the pixels come from.
enum Rows {
    Sky(Box<SimulatedSub>),
    /// The same everywhere: the cap, or an even light.
    Even,
}

/// A frame under rendering.
struct Frame<'a> {
    camera: &'a Camera<'a>,
    shot: &'a Shot,
    truth: &'a Truth,
    gain: GainPoint,
    rows: Rows,
    own: &'a Contender,
    trail: Option<Trail>,
}

impl Frame<'_> {
    /// What a satellite leaves in a row, ADU.
    fn crossed(&self, row: usize, out: &mut [f32], most: f64) {
        let Some(trail) = self.trail else { return };
        let [columns, rows] = self.camera.size.map(|n| n as f64);
        for (x, v) in out.iter_mut().enumerate() {
            let y = trail.height * rows + trail.slope * (x as f64 - columns / 2.0);
            let off = (row as f64 - y) / trail.slope.hypot(1.0);
            let e = trail.peak_e * (-0.5 * (off / TRAIL_SIGMA_PX).powi(2)).exp();
            *v = (f64::from(*v) + (e / self.gain.e_per_adu).round()).min(most) as f32;
        }
    }

    fn write(&self, to: &Path) -> io::Result<()> {
        let sensor = &self.own.sensor;
        let [columns, rows] = self.camera.size;
        let pixels = Pixels::of_bits(sensor.bits);
        let mut out = BufWriter::new(File::create(to)?);
        let header = self.header(columns, rows, pixels);
        let shape = Shape { columns, rows, pixels };
        write_image_in_bands(&mut out, &header, shape, BANDS, |j, row| self.row(j, row))?;
        out.flush()
    }

    fn header(&self, columns: usize, rows: usize, pixels: Pixels) -> Header {
        let (own, shot) = (self.own, self.shot);
        let mut h = Header::image(columns, rows, pixels);
        let text = |s: &str| Value::Text(s.to_owned());
        h.set("IMAGETYP", text(shot.kind.word()), "simulated");
        h.set("EXPTIME", Value::Real(shot.exposure_s), "[s]");
        h.set("DATE-OBS", text(self.truth.start.trim_end_matches('Z')), "UTC, beginning");
        h.set("TIMESYS", text("UTC"), "");
        if let Some(filter) = &self.truth.filter {
            h.set("FILTER", text(filter), "");
        }
        h.set("GAIN", Value::Real(own.gain), "setting");
        h.set("EGAIN", Value::Real(self.gain.e_per_adu), "[e-/ADU]");
        h.set(
            "CCD-TEMP",
            Value::Real(own.sensor_temperature(self.camera.scenario.sky.ambient_c)),
            "[deg C]",
        );
        h.set("XBINNING", Value::Integer(1), "");
        h.set("YBINNING", Value::Integer(1), "");
        h.set("XPIXSZ", Value::Real(own.sensor.pixel_um), "[um]");
        h.set("YPIXSZ", Value::Real(own.sensor.pixel_um), "[um]");
        h.set("INSTRUME", text(&own.sensor.name), "");
        h.set("FOCALLEN", Value::Real(own.optics.effective_focal_length_mm()), "[mm]");
        if let Some(at) = shot.at {
            let scale = own.optics.pixel_scale_arcsec(own.sensor.pixel_um);
            h.set("OBJECT", text(&shot.object), "");
            h.aim(&Pointing {
                ra_deg: at.ra_deg,
                dec_deg: at.dec_deg,
                position_angle_deg: at.position_angle_deg,
                scale_arcsec: scale,
            });
            h.set(
                "POSANGLE",
                Value::Real(at.position_angle_deg),
                "[deg] of up, north through east",
            );
        }
        if let Some(place) = self.camera.place {
            h.set("SITELAT", Value::Real(place.latitude_deg), "[deg]");
            h.set("SITELONG", Value::Real(place.longitude_deg), "[deg] east");
            h.set("SITEELEV", Value::Real(place.height_m), "[m]");
        }
        if let Some(cfa) = &own.sensor.cfa {
            // The file's first row is the lowest: the pattern is told from there.
            let (upper, lower) = cfa.split_at(2);
            let from_below =
                if rows.is_multiple_of(2) { format!("{lower}{upper}") } else { cfa.clone() };
            h.set("BAYERPAT", Value::Text(from_below), "from the file's first pixel");
        }
        h
    }

    /// Whether a pixel of this sensor is hot.
    fn is_hot(&self, x: usize, y: usize) -> bool {
        let mut h = u64::from(self.camera.seed) ^ ((x as u64) << 32) ^ y as u64;
        h = (h ^ (h >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        h = (h ^ (h >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        (h ^ (h >> 31)).is_multiple_of(HOT_ONE_IN)
    }

    fn row(&self, row: usize, out: &mut [f32]) {
        let seed =
            u64::from(self.camera.seed) << 40 | u64::from(self.shot.number) << 20 | row as u64;
        let mut rng = Pcg64Mcg::seed_from_u64(seed ^ 0x5a17_1a3b);
        let most = 2f64.powi(self.own.sensor.bits as i32) - 1.0;
        let to_adu = |e: f64| (e / self.gain.e_per_adu).round();
        match &self.rows {
            Rows::Sky(sub) => {
                let [left, top] = self.camera.from;
                sub.part(top + row, left, out);
            }
            Rows::Even => {
                let rate = self.truth.background_e_per_s.values().next().copied().unwrap_or(0.0);
                let light = rate * self.shot.exposure_s;
                // Rounding adds its own part of the read noise.
                let step2 = self.gain.e_per_adu.powi(2) / 12.0;
                let read = (self.gain.read_noise_e.powi(2) - step2).max(0.0).sqrt();
                let read = Normal::new(0.0, read).ok();
                let shot = Poisson::new(light.max(1e-12)).ok();
                for v in out.iter_mut() {
                    let e = shot.as_ref().map_or(0.0, |d| d.sample(&mut rng))
                        + read.as_ref().map_or(0.0, |d| d.sample(&mut rng));
                    *v = (to_adu(e.min(self.gain.full_scale_e)) + self.truth.offset_adu)
                        .clamp(0.0, most) as f32;
                }
            }
        }
        self.crossed(row, out, most);
        let hot_e = HOT_TIMES * self.truth.dark_e_per_s * self.shot.exposure_s;
        for (x, v) in out.iter_mut().enumerate() {
            if self.is_hot(x, row) && hot_e > 0.0 {
                *v = (f64::from(*v) + to_adu(hot_e)).min(most) as f32;
            }
        }
    }
}
