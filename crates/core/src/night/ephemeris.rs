//! Where sun, moon and target stand: directions as vectors, airless and topocentric.
//!
//! Positions come from the IAU's SOFA routines in Rust: `epv00` for the Earth (and so the sun),
//! `moon98` for the moon, precession and nutation by `pnm00b`, sidereal time by `gst00b`. UT1 is
//! taken as UTC: at most 0.9 s, 0.004 degrees. Refraction is left out.

use crate::library::planes::ecliptic_longitude_deg;
use crate::scenario::check::Checker;
use crate::scenario::field_error::FieldError;
use crate::scenario::pointing;
use crate::scenario::site::Site;
use sofars::cal::cal2jd;
use sofars::coords::gd2gc;
use sofars::eph::{epv00, moon98};
use sofars::erst::gst00b;
use sofars::pnp::pnm00b;
use thiserror::Error;

/// A place on the Earth.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Place {
    /// Geodetic latitude, degrees, north positive.
    pub latitude_deg: f64,
    /// Longitude, degrees, east positive.
    pub longitude_deg: f64,
    /// Height above the ellipsoid, m.
    pub height_m: f64,
}

impl From<&Site> for Place {
    fn from(site: &Site) -> Self {
        Self {
            latitude_deg: site.latitude_deg,
            longitude_deg: site.longitude_deg,
            height_m: site.height_m,
        }
    }
}

impl Place {
    /// Checks every field; paths begin with `at`.
    ///
    /// # Errors
    /// All fields that are wrong, with what is accepted.
    pub fn check(self, at: &str) -> Result<Self, Vec<FieldError>> {
        Checker::errors_of(|c| {
            c.place_on_earth(at, self.latitude_deg, self.longitude_deg, self.height_m)
        })
        .map(|()| self)
    }
}

/// Why sun and moon cannot be placed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
pub enum EphemerisError {
    /// A time at which the Earth's place is not known.
    #[error("sun and moon are known from 1900 to 2100 only")]
    Time,
    /// A place that lies on no ellipsoid.
    #[error("the place is not on the Earth: latitude -90 to 90 degrees, longitude -180 to 180")]
    Place,
}

/// A direction on the celestial sphere, ICRS.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Direction {
    /// Right ascension, degrees.
    pub ra_deg: f64,
    /// Declination, degrees.
    pub dec_deg: f64,
}

impl Direction {
    /// Checks both coordinates; paths begin with `at`.
    ///
    /// # Errors
    /// All fields that are wrong, with what is accepted.
    pub fn check(self, at: &str) -> Result<Self, Vec<FieldError>> {
        Checker::errors_of(|c| c.place_on_sky(at, self.ra_deg, self.dec_deg)).map(|()| self)
    }
}

type Vector = [f64; 3];

type Matrix = [[f64; 3]; 3];

const AU_KM: f64 = 149_597_870.7;

const LIGHT_KM_S: f64 = 299_792.458;

const DAY_S: f64 = 86_400.0;

const UNIX_JD: f64 = 2_440_587.5;

/// TT less UTC, s, with the 37 leap seconds in force since 2017.
const TT_LESS_UTC_S: f64 = 69.184;

/// Turns of the Earth in a day of UT.
const TURNS_PER_DAY: f64 = 1.002_737_811_911_354_5;

fn dot(a: &Vector, b: &Vector) -> f64 {
    a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
}

fn unit(a: Vector) -> Vector {
    let n = dot(&a, &a).sqrt();
    a.map(|x| x / n)
}

fn times(m: &Matrix, v: &Vector) -> Vector {
    [dot(&m[0], v), dot(&m[1], v), dot(&m[2], v)]
}

/// Angle between two directions, degrees.
pub fn separation_deg(a: &Vector, b: &Vector) -> f64 {
    let (a, b) = (unit(*a), unit(*b));
    let cross = [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
    dot(&cross, &cross).sqrt().atan2(dot(&a, &b)).to_degrees()
}

impl Direction {
    /// The unit vector in the ICRS.
    pub fn vector(&self) -> Vector {
        pointing::unit(self.ra_deg, self.dec_deg)
    }
}

/// The state of the sky's frame at one moment, good for two days around it.
#[derive(Clone, Debug)]
struct Frame {
    unix_s: f64,
    /// From the ICRS to the true equator and equinox of date.
    matrix: Matrix,
    /// Greenwich apparent sidereal time, rad.
    gast: f64,
    /// Velocity of the Earth over that of light.
    beta: Vector,
}

/// Directions over a span of time at one place: sun and moon tabled and read between the entries.
#[derive(Clone, Debug)]
pub struct Ephemeris {
    place: Place,
    frames: Vec<Frame>,
    from_s: f64,
    sun: Vec<Vector>,
    moon: Vec<Vector>,
    /// The observer from the Earth's centre in the Earth's frame, km.
    observer_km: Vector,
}

const SUN_STEP_S: f64 = DAY_S / 4.0;

const MOON_STEP_S: f64 = 3600.0;

const FRAME_STEP_S: f64 = DAY_S;

fn julian(unix_s: f64) -> (f64, f64) {
    (UNIX_JD, unix_s / DAY_S)
}

fn terrestrial(unix_s: f64) -> (f64, f64) {
    julian(unix_s + TT_LESS_UTC_S)
}

/// Midnight UTC of a date, as seconds since 1970; `None` for a date that is none.
pub fn unix_midnight(year: i32, month: i32, day: i32) -> Option<f64> {
    cal2jd(year, month, day).ok().map(|(a, b)| (a - UNIX_JD + b) * DAY_S)
}

impl Ephemeris {
    /// Longitude of the place, degrees east.
    pub fn longitude_deg(&self) -> f64 {
        self.place.longitude_deg
    }

    /// Tables sun and moon from `from_s` to `to_s`, seconds since 1970 UTC.
    ///
    /// # Errors
    /// Outside 1900 to 2100, and for a place that is none: a wrong sun must not pass for a right
    /// one.
    pub fn new(place: Place, from_s: f64, to_s: f64) -> Result<Self, EphemerisError> {
        if !(from_s.is_finite() && to_s.is_finite()) {
            return Err(EphemerisError::Time);
        }
        if !(place.latitude_deg.abs() <= 90.0
            && place.longitude_deg.is_finite()
            && place.height_m.is_finite())
        {
            return Err(EphemerisError::Place);
        }
        let from_s = from_s - DAY_S / 2.0;
        let span = to_s + DAY_S / 2.0 - from_s;
        let count = |step: f64| (span / step).ceil() as usize + 3;
        let earth = |t: f64| {
            let (a, b) = terrestrial(t);
            epv00(a, b).ok_or(EphemerisError::Time)
        };
        let sun = (0..count(SUN_STEP_S)).map(|i| {
            let (helio, _) = earth(from_s + (i as f64 - 1.0) * SUN_STEP_S)?;
            Ok(helio[0].map(|x| -x * AU_KM))
        });
        let moon = (0..count(MOON_STEP_S)).map(|i| {
            let (a, b) = terrestrial(from_s + (i as f64 - 1.0) * MOON_STEP_S);
            moon98(a, b)[0].map(|x| x * AU_KM)
        });
        let frames = (0..=(span / FRAME_STEP_S).ceil() as usize).map(|i| {
            let unix_s = from_s + i as f64 * FRAME_STEP_S;
            let (a, b) = terrestrial(unix_s);
            let (ua, ub) = julian(unix_s);
            let (_, bary) = earth(unix_s)?;
            Ok(Frame {
                unix_s,
                matrix: pnm00b(a, b),
                gast: gst00b(ua, ub),
                beta: bary[1].map(|v| v * AU_KM / DAY_S / LIGHT_KM_S),
            })
        });
        let xyz = gd2gc(
            1,
            place.longitude_deg.to_radians(),
            place.latitude_deg.to_radians(),
            place.height_m,
        );
        let observer_km = xyz.map_err(|_| EphemerisError::Place)?.map(|m| m / 1000.0);
        let (frames, sun) = (frames.collect::<Result<_, _>>()?, sun.collect::<Result<_, _>>()?);
        Ok(Self { place, frames, from_s, sun, moon: moon.collect(), observer_km })
    }

    fn frame(&self, t: f64) -> &Frame {
        let i =
            ((t - self.from_s) / FRAME_STEP_S).round().clamp(0.0, (self.frames.len() - 1) as f64);
        &self.frames[i as usize]
    }

    /// Local apparent sidereal time, rad.
    fn sidereal(&self, t: f64) -> f64 {
        let f = self.frame(t);
        f.gast
            + std::f64::consts::TAU * TURNS_PER_DAY * (t - f.unix_s) / DAY_S
            + self.place.longitude_deg.to_radians()
    }

    /// Lagrange's parabola through the three nearest entries of a table.
    fn between(&self, table: &[Vector], step: f64, t: f64) -> Vector {
        let x = (t - self.from_s) / step + 1.0;
        let i = x.round().clamp(1.0, (table.len() - 2) as f64);
        let u = x - i;
        let i = i as usize;
        let (a, b, c) = (u * (u - 1.0) / 2.0, 1.0 - u * u, u * (u + 1.0) / 2.0);
        [0, 1, 2].map(|k| a * table[i - 1][k] + b * table[i][k] + c * table[i + 1][k])
    }

    /// Where the observer stands from the Earth's centre in the frame of date, km.
    fn observer(&self, t: f64) -> Vector {
        let theta = self.sidereal(t) - self.place.longitude_deg.to_radians();
        let (s, c) = theta.sin_cos();
        let [x, y, z] = self.observer_km;
        [c * x - s * y, s * x + c * y, z]
    }

    /// The sun from the observer, frame of date, km.
    pub fn sun(&self, t: f64) -> Vector {
        let f = self.frame(t);
        let geometric = self.between(&self.sun, SUN_STEP_S, t);
        let distance = dot(&geometric, &geometric).sqrt();
        // Annual aberration: the direction leans towards the Earth's motion.
        let apparent = [0, 1, 2].map(|k| geometric[k] / distance + f.beta[k]);
        let v = times(&f.matrix, &unit(apparent));
        let o = self.observer(t);
        [0, 1, 2].map(|k| v[k] * distance - o[k])
    }

    /// Ecliptic longitude of the sun, degrees, 0 to 360, equinox of date.
    pub fn sun_longitude_deg(&self, t: f64) -> f64 {
        let [x, y, z] = unit(self.sun(t));
        ecliptic_longitude_deg(y.atan2(x).to_degrees(), z.asin().to_degrees())
    }

    /// The moon from the observer, frame of date, km.
    pub fn moon(&self, t: f64) -> Vector {
        let f = self.frame(t);
        let v = times(&f.matrix, &self.between(&self.moon, MOON_STEP_S, t));
        let o = self.observer(t);
        [0, 1, 2].map(|k| v[k] - o[k])
    }

    /// A fixed direction in the frame of date, a unit vector, with annual aberration.
    pub fn fixed(&self, d: &Vector, t: f64) -> Vector {
        let f = self.frame(t);
        unit(times(&f.matrix, &[0, 1, 2].map(|k| d[k] + f.beta[k])))
    }

    /// The zenith in the frame of date, a unit vector.
    pub fn zenith(&self, t: f64) -> Vector {
        let (s, c) = self.sidereal(t).sin_cos();
        let (sl, cl) = self.place.latitude_deg.to_radians().sin_cos();
        [cl * c, cl * s, sl]
    }

    /// The direction that stands at an azimuth, degrees from north through east, and an altitude,
    /// degrees; a unit vector in the frame of date.
    pub fn toward(&self, azimuth_deg: f64, altitude_deg: f64, t: f64) -> Vector {
        let (s, c) = self.sidereal(t).sin_cos();
        let (sl, cl) = self.place.latitude_deg.to_radians().sin_cos();
        let (sin_az, cos_az) = azimuth_deg.to_radians().sin_cos();
        let (up, flat) = altitude_deg.to_radians().sin_cos();
        let (east, north, zenith) = ([-s, c, 0.0], [-sl * c, -sl * s, cl], self.zenith(t));
        [0, 1, 2].map(|k| flat * (cos_az * north[k] + sin_az * east[k]) + up * zenith[k])
    }

    /// Altitude of a vector of the frame of date, degrees.
    pub fn altitude_deg(&self, v: &Vector, t: f64) -> f64 {
        90.0 - separation_deg(v, &self.zenith(t))
    }

    /// Azimuth of a vector of the frame of date, degrees from north through east.
    pub fn azimuth_deg(&self, v: &Vector, t: f64) -> f64 {
        let (s, c) = self.sidereal(t).sin_cos();
        let (sl, cl) = self.place.latitude_deg.to_radians().sin_cos();
        let east = [-s, c, 0.0];
        let north = [-sl * c, -sl * s, cl];
        dot(v, &east).atan2(dot(v, &north)).to_degrees().rem_euclid(360.0)
    }

    /// Hour angle of a vector of the frame of date, degrees, -180 to 180.
    pub fn hour_angle_deg(&self, v: &Vector, t: f64) -> f64 {
        let ra = v[1].atan2(v[0]);
        ((self.sidereal(t) - ra).to_degrees() + 180.0).rem_euclid(360.0) - 180.0
    }

    /// The moon's phase angle: sun, moon, observer; 0 is full, 180 new. Degrees.
    pub fn phase_angle_deg(&self, t: f64) -> f64 {
        let (sun, moon) = (self.sun(t), self.moon(t));
        let to_sun = [0, 1, 2].map(|k| sun[k] - moon[k]);
        separation_deg(&to_sun, &moon.map(|x| -x))
    }
}

/// Times between `from_s` and `to_s` at which `f` crosses zero, with whether it rises there; found
/// on a grid, then by halving to a hundredth of a second.
pub fn crossings(from_s: f64, to_s: f64, step_s: f64, f: impl Fn(f64) -> f64) -> Vec<(f64, bool)> {
    let mut out = Vec::new();
    let count = ((to_s - from_s) / step_s).ceil() as usize;
    let (mut t0, mut f0) = (from_s, f(from_s));
    for i in 1..=count {
        let t1 = (from_s + i as f64 * step_s).min(to_s);
        let f1 = f(t1);
        if (f0 < 0.0) != (f1 < 0.0) {
            let (mut lo, mut hi) = (t0, t1);
            while hi - lo > 0.01 {
                let mid = (lo + hi) / 2.0;
                if (f(mid) < 0.0) == (f0 < 0.0) { lo = mid } else { hi = mid }
            }
            out.push(((lo + hi) / 2.0, f1 >= 0.0));
        }
        (t0, f0) = (t1, f1);
    }
    out
}
