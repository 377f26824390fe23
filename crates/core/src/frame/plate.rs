//! Where a frame looks: its brightest stars laid upon those of the catalogue near the place that
//! its header states, at the scale that its pixels and focal length give.
//!
//! The catalogue's stars are projected on the plane that touches the sky at the place (gnomonic),
//! in pixels of the frame; the similarity that lays the frame's stars upon them says centre, angle,
//! scale and handedness. The projection is made anew about the centre that was found, so that the
//! plane touches the sky where the frame looks.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::frame::matching::{Matched, Search, match_stars};
use crate::frame::measured::BrightStar;
use crate::frame::tile::{OF_MAD, middle};
use crate::library::stars::CatalogueStar;
use crate::scenario::pointing::Pointing;

/// Stars of the catalogue that must stand on the frame at least, and be found.
pub const LEAST_STARS: usize = 4;
/// How far the scale may be from what pixels and focal length give: focal lengths are told rounded,
/// and change with a reducer's distance.
const SCALE_WITHIN: f64 = 0.04;
/// How near a star must fall to be the same, px: the catalogue's places are of 2027 and moved since.
const WITHIN_PX: f64 = 4.0;
/// Of the stars of the catalogue that should stand on the frame, the brightest first, so many must
/// be found: a chance pattern lacks the bright ones.
const FOUND_SHARE: f64 = 0.5;
/// Scatter of catalogue against measured magnitudes at most, as 1.4826 median absolute deviations,
/// mag: colours and filters spread them by some tenths, a chance pattern by more.
const MOST_SCATTER_MAG: f64 = 0.7;
/// Places around the stated one that are tried in rings, each a third of the field further out, as
/// a header may say where the mount meant to look.
const RINGS: usize = 2;
const OF_FIELD: f64 = 0.35;

/// Where a frame looks.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Plate {
    /// Right ascension of the frame's middle, degrees, ICRS.
    pub ra_deg: f64,
    /// Declination of the middle, degrees, ICRS.
    pub dec_deg: f64,
    /// Position angle of the frame's upward side as stored, degrees from north through east, 0-360.
    pub position_angle_deg: f64,
    /// Side of a pixel, arcsec.
    pub scale_arcsec: f64,
    /// Whether it is a mirror image of the sky.
    pub mirrored: bool,
    /// Stars of the catalogue that were found on it.
    pub stars: usize,
    /// Root mean square of what is left between them, arcsec.
    pub rms_arcsec: f64,
}

/// A frame's stars, and what its header says of where it looks.
#[derive(Clone, Copy, Debug)]
pub struct PlateQuestion<'a> {
    /// Its brightest stars.
    pub stars: &'a [BrightStar],
    /// Columns and rows.
    pub size: [usize; 2],
    /// Right ascension and declination that are stated, degrees.
    pub near_deg: [f64; 2],
    /// Side of a pixel by focal length and pixel, arcsec.
    pub scale_arcsec: f64,
}

/// What was found: the plate, and for each star that was found its index in the frame's list and
/// the star of the catalogue.
#[derive(Clone, Debug, PartialEq)]
pub struct Solved {
    /// Where the frame looks.
    pub plate: Plate,
    /// Its stars that the catalogue has.
    pub pairs: Vec<(usize, CatalogueStar)>,
}

impl Plate {
    fn pointing(&self) -> Pointing {
        Pointing {
            ra_deg: self.ra_deg,
            dec_deg: self.dec_deg,
            position_angle_deg: self.position_angle_deg,
        }
    }

    /// Where on another frame stands what stands at a pixel of this one, both by their columns and
    /// rows; it may lie beside that frame. `None` behind the observer.
    pub fn place_on(
        &self,
        (at_px, size): ([f64; 2], [usize; 2]),
        (other, other_size): (&Self, [usize; 2]),
    ) -> Option<[f64; 2]> {
        let middle = |size: [usize; 2]| size.map(|n| (n as f64 - 1.0) / 2.0);
        let side = |p: &Self| if p.mirrored { -1.0 } else { 1.0 };
        let [x0, y0] = middle(size);
        let right = side(self) * (at_px[0] - x0) * self.scale_arcsec / 60.0;
        let up = (y0 - at_px[1]) * self.scale_arcsec / 60.0;
        let (sin, cos) = self.position_angle_deg.to_radians().sin_cos();
        let sky = self.pointing().moved(up * sin - right * cos, up * cos + right * sin);
        let [right, up] = other.pointing().right_up_arcsec(sky.ra_deg, sky.dec_deg)?;
        let [x0, y0] = middle(other_size);
        Some([x0 + side(other) * right / other.scale_arcsec, y0 - up / other.scale_arcsec])
    }
}

impl PlateQuestion<'_> {
    /// Half the diagonal, degrees.
    pub fn radius_deg(&self) -> f64 {
        let [columns, rows] = self.size.map(|n| n as f64);
        columns.hypot(rows) / 2.0 * self.scale_arcsec / 3600.0
    }

    /// Finds where the frame looks. `around` gives the catalogue's stars within a radius of a
    /// place, degrees, the brightest first. `None` where fewer than [`LEAST_STARS`] are found.
    pub fn solve(&self, around: &dyn Fn([f64; 2], f64) -> Vec<CatalogueStar>) -> Option<Solved> {
        let step_arcmin = OF_FIELD * 2.0 * self.radius_deg() * 60.0;
        let [ra_deg, dec_deg] = self.near_deg;
        let stated = Pointing { ra_deg, dec_deg, position_angle_deg: 0.0 };
        for [i, j] in outward(RINGS as i32) {
            let at = stated.moved(step_arcmin * f64::from(i), step_arcmin * f64::from(j));
            let stars = around([at.ra_deg, at.dec_deg], self.radius_deg());
            for mirrored in [false, true] {
                let search = Search {
                    scale_within: SCALE_WITHIN,
                    scale: 1.0,
                    within_px: WITHIN_PX,
                    mirrored,
                };
                if let Some(first) = self.laid(&at, &stars, search) {
                    return self.mended(self.looks_at(&at, &first), search, around);
                }
            }
        }
        None
    }

    /// Places of the frame's stars, px.
    fn places(&self) -> Vec<[f64; 2]> {
        self.stars.iter().map(|s| [s.x_px, s.y_px]).collect()
    }

    /// The frame's stars upon those of the catalogue about a place, in pixels of the frame with
    /// north up and east to the left.
    fn laid(&self, at: &Pointing, stars: &[CatalogueStar], search: Search) -> Option<Matched> {
        let reference = self.projected(at, stars);
        let found = match_stars(&self.places(), &reference, search)?;
        let enough = found.pairs.len() >= LEAST_STARS;
        (enough && self.is_whole(&found, &reference) && self.is_alike(&found, stars))
            .then_some(found)
    }

    /// Whether most of the catalogue's stars that should stand on the frame, down to the faintest
    /// that was found, were found.
    fn is_whole(&self, found: &Matched, reference: &[[f64; 2]]) -> bool {
        let [columns, rows] = self.size.map(|n| n as f64);
        let corners = [[0.0, 0.0], [columns, 0.0], [columns, rows], [0.0, rows]]
            .map(|c| found.similarity.apply(c));
        // Inside a convex polygon: on one side of all its edges.
        let inside = |p: &[f64; 2]| {
            let side = |i: usize| {
                let ([ax, ay], [bx, by]) = (corners[i], corners[(i + 1) % 4]);
                (bx - ax) * (p[1] - ay) - (by - ay) * (p[0] - ax)
            };
            let sides = [0, 1, 2, 3].map(side);
            sides.iter().all(|s| *s >= 0.0) || sides.iter().all(|s| *s <= 0.0)
        };
        let faintest = found.pairs.iter().map(|[_, k]| *k).max().unwrap_or(0);
        let expected = reference[..=faintest].iter().filter(|p| inside(p)).count();
        found.pairs.len() as f64 >= FOUND_SHARE * expected as f64
    }

    /// Whether the stars are as bright on the frame as the catalogue has them, to a common factor.
    fn is_alike(&self, found: &Matched, stars: &[CatalogueStar]) -> bool {
        let whole = found.pairs.iter().filter(|[i, _]| !self.stars[*i].clipped);
        let off: Vec<f64> = whole
            .map(|[i, k]| stars[*k].v_mag + 2.5 * self.stars[*i].flux_adu.max(1e-9).log10())
            .collect();
        let Some(usual) = middle(off.iter().copied()) else { return true };
        let scatter = middle(off.iter().map(|o| (o - usual).abs())).unwrap_or(0.0);
        off.len() < 3 || OF_MAD * scatter <= MOST_SCATTER_MAG
    }

    fn projected(&self, at: &Pointing, stars: &[CatalogueStar]) -> Vec<[f64; 2]> {
        let place = |s: &CatalogueStar| {
            let [east, north] = at.east_north_arcsec(s.ra_deg, s.dec_deg)?;
            Some([-east / self.scale_arcsec, -north / self.scale_arcsec])
        };
        // A star behind the observer falls where no frame's does.
        stars.iter().map(|s| place(s).unwrap_or([f64::MAX, 0.0])).collect()
    }

    /// The middle of the frame by a match about a place, the position angle of its upward side in
    /// it.
    fn looks_at(&self, about: &Pointing, m: &Matched) -> Pointing {
        let middle = self.size.map(|n| (n as f64 - 1.0) / 2.0);
        let [x, y] = m.similarity.apply(middle);
        let [x1, y1] = m.similarity.apply([middle[0], middle[1] - 1.0]);
        let arcmin = self.scale_arcsec / 60.0;
        let there = about.moved(-x * arcmin, -y * arcmin);
        // Up on the frame, as so far east and north.
        let [east, north] = [x - x1, y - y1];
        Pointing { position_angle_deg: east.atan2(north).to_degrees().rem_euclid(360.0), ..there }
    }

    /// The match made anew about what was found, twice: the first brings the plane to the frame's
    /// middle, the second its angle.
    fn mended(
        &self,
        mut at: Pointing,
        search: Search,
        around: &dyn Fn([f64; 2], f64) -> Vec<CatalogueStar>,
    ) -> Option<Solved> {
        let mut last = None;
        for _ in 0..2 {
            let stars = around([at.ra_deg, at.dec_deg], 1.1 * self.radius_deg());
            let found = self.laid(&at, &stars, search)?;
            at = self.looks_at(&at, &found);
            last = Some((found, stars));
        }
        let (found, stars) = last?;
        let scale_arcsec = self.scale_arcsec * found.similarity.scale();
        let plate = Plate {
            ra_deg: at.ra_deg,
            dec_deg: at.dec_deg,
            position_angle_deg: at.position_angle_deg,
            scale_arcsec,
            mirrored: found.similarity.is_mirrored(),
            stars: found.pairs.len(),
            rms_arcsec: found.rms_px * self.scale_arcsec,
        };
        let pairs = found.pairs.iter().map(|[i, k]| (*i, stars[*k].clone())).collect();
        Some(Solved { plate, pairs })
    }
}

/// Steps on a grid from its middle outwards, ring by ring.
fn outward(rings: i32) -> Vec<[i32; 2]> {
    let mut all: Vec<[i32; 2]> =
        (-rings..=rings).flat_map(|i| (-rings..=rings).map(move |j| [i, j])).collect();
    all.sort_by_key(|[i, j]| i * i + j * j);
    all
}

/// How a frame stands against a framing that was wanted, in a sentence; `None` where it is as
/// wanted: nearer than a hundredth of the field and a tenth of a degree.
pub fn framing_told(plate: &Plate, wanted: &Pointing, size: [usize; 2]) -> Option<String> {
    let [east, north] = wanted.east_north_arcsec(plate.ra_deg, plate.dec_deg)?;
    let off_arcmin = east.hypot(north) / 60.0;
    let apart = (plate.position_angle_deg - wanted.position_angle_deg + 540.0).rem_euclid(360.0);
    let turned = apart - 180.0;
    // Half a turn is the other side of the meridian: the same field.
    let (turned, flipped) = match turned {
        t if t > 90.0 => (t - 180.0, true),
        t if t < -90.0 => (t + 180.0, true),
        t => (t, false),
    };
    let field_arcmin = size[0].min(size[1]) as f64 * plate.scale_arcsec / 60.0;
    if off_arcmin < 0.01 * field_arcmin && turned.abs() < 0.1 {
        return None;
    }
    let half = if flipped { ", the half turn of the meridian apart" } else { "" };
    Some(format!("{off_arcmin:.1}\u{2032} off and turned by {:.1}°{half}", turned.abs()))
}

#[cfg(test)]
#[path = "plate_tests.rs"]
mod tests;
