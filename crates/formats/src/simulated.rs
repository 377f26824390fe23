//! Simulated frames as FITS files: a crop's stacks in electrons, or a whole sub of the sensor in
//! ADU, with headers that say how they came to be and where they look.

use std::io::{self, Write};

use salt_lamp_core::Scenario;
use salt_lamp_core::look::{Look, LookView, SimulatedSub};

use salt_lamp_core::scenario;

use crate::fits::{Header, Pixels, Pointing, Shape, Value, write_image, write_image_in_bands};

/// Threads that share the rows of a whole sub.
const SUB_BANDS: usize = 2;

/// What a simulated frame is of.
#[derive(Clone, Copy, Debug)]
pub struct Simulated<'a> {
    /// The scenario.
    pub scenario: &'a Scenario,
    /// How the look was wanted.
    pub view: &'a LookView,
    /// Index of the contender, which must be there.
    pub contender: usize,
    /// Index of the exposure, which must be there.
    pub exposure: usize,
    /// Where it looks, where that is known.
    pub centre: Option<scenario::Pointing>,
    /// When the file is made: UTC as 2027-01-10T20:00:00.
    pub made_at: &'a str,
}

impl Simulated<'_> {
    /// How the file came to be.
    fn origin(&self, h: &mut Header) {
        let s = self.scenario;
        let c = &s.contenders[self.contender];
        let e = &c.exposures[self.exposure];
        let gain = c.sensor.at_gain(c.gain);
        h.set("OBJECT", Value::Text(s.target.name.clone()), "");
        h.set("IMAGETYP", Value::Text("LIGHT".into()), "simulated");
        h.set("EXPTIME", Value::Real(e.sub_s), "[s] length of a sub");
        h.set("GAIN", Value::Real(c.gain), "camera setting");
        h.set("EGAIN", Value::Real(gain.e_per_adu), "[e-/ADU]");
        h.set("RDNOISE", Value::Real(gain.read_noise_e), "[e-]");
        h.set(
            "CCD-TEMP",
            Value::Real(c.sensor_temperature(s.sky.ambient_c)),
            "[deg C] sensor temperature",
        );
        h.set(
            "FILTER",
            Value::Text(e.filter.as_ref().map_or("none".into(), |f| f.name.clone())),
            "",
        );
        h.set("INSTRUME", Value::Text(c.sensor.name.clone()), "");
        h.set("FOCALLEN", Value::Real(c.optics.effective_focal_length_mm()), "[mm]");
        h.set("APTDIA", Value::Real(c.optics.aperture_mm), "[mm]");
        h.set("XPIXSZ", Value::Real(c.sensor.pixel_um), "[um]");
        h.set("YPIXSZ", Value::Real(c.sensor.pixel_um), "[um]");
        h.set("SEED", Value::Integer(i64::from(self.view.seed)), "seed of structure and noise");
        h.set("CREATOR", Value::Text("Salt Lamp".into()), "");
        h.set("DATE", Value::Text(self.made_at.to_owned()), "when this file was made, UTC");
    }

    fn pointing(&self, scale_arcsec: f64) -> Option<Pointing> {
        let scenario::Pointing { ra_deg, dec_deg, position_angle_deg } = self.centre?;
        Some(Pointing { ra_deg, dec_deg, position_angle_deg, scale_arcsec })
    }

    /// What the pixels are and where they look.
    fn pixels(&self, h: &mut Header, size: [usize; 2], scale_arcsec: f64, unit: &str) {
        h.set("BUNIT", Value::Text(unit.into()), "");
        if let Some(pointing) = self.pointing(scale_arcsec) {
            h.point(&pointing, size[0], size[1]);
        }
    }

    /// The crop's stacks in electrons, an extension a channel: named MONO, or R, G and B.
    ///
    /// # Errors
    /// Where the bytes cannot be written.
    pub fn crop_file(&self, look: &Look) -> io::Result<Vec<u8>> {
        let planes = &look.contenders[self.contender];
        let own: Vec<usize> = (0..planes.planes.len())
            .filter(|&i| planes.planes[i].exposure == self.exposure)
            .collect();
        let [width, height] = planes.size;
        let mut out = Vec::with_capacity(own.len() * (width * height * 4 + 8640) + 5760);
        let mut h = Header::of_extensions();
        self.origin(&mut h);
        if let Some(pointing) = self.pointing(planes.scale_arcsec) {
            h.aim(&pointing);
        }
        h.write_alone(&mut out)?;
        for &i in &own {
            let plane = &planes.planes[i];
            let stack = look.stack(self.contender, i, self.view.time_fraction, self.view.truth);
            let name = plane.channel.to_uppercase();
            let mut h = Header::extension(&name, width, height, Pixels::Float);
            self.origin(&mut h);
            self.pixels(&mut h, planes.size, planes.scale_arcsec, "electron");
            // A pixel of the crop saw its colour in its share of the subs.
            h.set(
                "NCOMBINE",
                Value::Integer((stack.subs / plane.share).round() as i64),
                "subs in the stack",
            );
            h.set(
                "PIXSHARE",
                Value::Real(plane.share),
                "share of them in which a pixel saw this colour",
            );
            write_image(&mut out, &h, width, height, |j, row| {
                row.copy_from_slice(&stack.e[j * width..][..width])
            })?;
        }
        Ok(out)
    }

    /// A whole sub in ADU.
    ///
    /// # Errors
    /// Where the bytes cannot be written.
    pub fn sub_file(&self, sub: &SimulatedSub, out: &mut impl Write) -> io::Result<()> {
        let [columns, rows] = sub.size;
        let sensor = &self.scenario.contenders[self.contender].sensor;
        let shape = Shape { columns, rows, pixels: Pixels::of_bits(sensor.bits) };
        let mut h = Header::image(columns, rows, shape.pixels);
        self.origin(&mut h);
        self.pixels(&mut h, sub.size, sub.scale_arcsec, "adu");
        if let Some(cfa) = &sensor.cfa {
            // The file's first row is the lowest: the pattern is told from there.
            let (upper, lower) = cfa.split_at(2);
            let from_below = if rows % 2 == 0 { format!("{lower}{upper}") } else { cfa.clone() };
            h.set("BAYERPAT", Value::Text(from_below), "from the file's first pixel");
        }
        write_image_in_bands(out, &h, shape, SUB_BANDS, |j, row| sub.row(j, row))
    }
}
