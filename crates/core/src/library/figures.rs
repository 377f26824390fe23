//! What helps to find one's way on the sky: the lines that people draw between the stars of a
//! constellation, and the band of the Milky Way, on the plane that touches the sky somewhere.

use serde::Serialize;
use utoipa::ToSchema;

use crate::library::planes::equatorial_deg;
use crate::scenario::pointing::Pointing;

const FIGURES: &str = include_str!("../../../../data/stars/figures.csv");

/// Galactic latitudes between which the Milky Way is drawn, from its faint rim to its middle,
/// degrees either way (its light falls by e in ten degrees).
const BANDS_DEG: [f64; 3] = [15.0, 9.0, 4.0];

/// Steps of galactic longitude at which a band has a corner, degrees.
const STEP_DEG: usize = 3;

/// A line of a constellation.
#[derive(Clone, Debug, PartialEq)]
struct Line {
    name: &'static str,
    /// Right ascension and declination of its corners, degrees.
    corners: Vec<[f64; 2]>,
}

/// All constellations' lines.
#[derive(Clone, Debug, PartialEq)]
pub struct Figures(Vec<Line>);

/// A constellation's figure on a plane.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct FigureAround {
    /// Its name.
    pub name: String,
    /// Corners of its lines: arcmin east, arcmin north, and so on in turn.
    pub lines: Vec<Vec<f64>>,
}

/// What lies around a place.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct SkyAround {
    /// The figures of which a corner lies within.
    pub figures: Vec<FigureAround>,
    /// Bands of the Milky Way, the widest and faintest first, in pieces: corners of each piece,
    /// arcmin east and north in turn.
    pub milky_way: Vec<Vec<Vec<f64>>>,
}

impl Figures {
    /// The shipped lines.
    ///
    /// # Errors
    /// The row that is damaged; a test reads them all.
    pub fn shipped() -> Result<Self, String> {
        let line = |(i, row): (usize, &'static str)| {
            let wrong = || format!("figures.csv, row {}: {row}", i + 1);
            let mut cells = row.splitn(3, ',').skip(1);
            let (name, corners) = cells.next().zip(cells.next()).ok_or_else(wrong)?;
            let corner = |c: &str| {
                let (ra, dec) = c.split_once(' ')?;
                Some([ra.parse().ok()?, dec.parse().ok()?])
            };
            let corners = corners.split("; ").map(|c| corner(c).ok_or_else(wrong));
            Ok(Line { name, corners: corners.collect::<Result<_, String>>()? })
        };
        FIGURES.lines().enumerate().skip(1).map(line).collect::<Result<_, _>>().map(Self)
    }

    /// What lies within a radius of a place, degrees, up to 60.
    pub fn around(&self, at: &Pointing, radius_deg: f64) -> SkyAround {
        let limit_arcmin = radius_deg.to_radians().tan().to_degrees() * 60.0;
        let plane = |[ra, dec]: [f64; 2]| {
            at.east_north_arcsec(ra, dec).map(|p| p.map(|arcsec| arcsec / 60.0))
        };
        // Half the sky away nothing is on the plane; a line that leaves it ends there.
        let far = 4.0 * limit_arcmin;
        let near = |p: &[f64; 2]| p[0].hypot(p[1]) <= limit_arcmin;
        let pieces = |corners: &mut dyn Iterator<Item = Option<[f64; 2]>>| {
            let mut out: Vec<Vec<[f64; 2]>> = vec![Vec::new()];
            for corner in corners {
                match corner.filter(|p| p[0].hypot(p[1]) <= far) {
                    Some(p) => out.last_mut().into_iter().for_each(|piece| piece.push(p)),
                    None => out.push(Vec::new()),
                }
            }
            out.retain(|piece| piece.len() > 1);
            out
        };
        let flat = |piece: Vec<[f64; 2]>| piece.into_iter().flatten().collect::<Vec<f64>>();
        let mut figures: Vec<FigureAround> = Vec::new();
        for line in &self.0 {
            let on_plane = pieces(&mut line.corners.iter().map(|c| plane(*c)));
            if !on_plane.iter().flatten().any(near) {
                continue;
            }
            let lines = on_plane.into_iter().map(flat);
            match figures.iter_mut().find(|f| f.name == line.name) {
                Some(figure) => figure.lines.extend(lines),
                None => {
                    figures.push(FigureAround { name: line.name.into(), lines: lines.collect() });
                }
            }
        }
        let milky_way = BANDS_DEG.map(|b| {
            let edge = |b: f64, l: usize| plane(equatorial_deg(l as f64, b));
            // Four-cornered pieces along the band: each stands on the plane or does not.
            let piece = |l: usize| {
                let next = l + STEP_DEG;
                let corners = [edge(b, l), edge(b, next), edge(-b, next), edge(-b, l)];
                let corners: Vec<[f64; 2]> = corners.into_iter().collect::<Option<_>>()?;
                let inside = corners.iter().all(|p| p[0].hypot(p[1]) <= far);
                inside.then(|| flat(corners))
            };
            (0..360).step_by(STEP_DEG).filter_map(piece).collect()
        });
        SkyAround { figures, milky_way: milky_way.into() }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn orion_and_the_milky_way_are_where_they_are() {
        let figures = Figures::shipped().unwrap();
        // Between Orion's belt and its left shoulder, 15 degrees from the Milky Way.
        let at = Pointing { ra_deg: 86.0, dec_deg: 3.0, position_angle_deg: 0.0 };
        let around = figures.around(&at, 12.0);
        assert!(around.figures.iter().any(|f| f.name == "Orion"));
        assert!(!around.figures.iter().any(|f| f.name == "Scorpius"));
        // A corner at Betelgeuse (5 h 55 min, +7.4 degrees): 2.8 degrees east, 4.4 north.
        let orion = around.figures.iter().find(|f| f.name == "Orion").unwrap();
        let corner = |p: &[f64]| (p[0] - 168.0).abs() < 12.0 && (p[1] - 264.0).abs() < 12.0;
        assert!(orion.lines.iter().any(|line| line.chunks(2).any(corner)), "{orion:?}");
        // The Milky Way's middle passes east of it, over the Rosette (6 h 32 min, +5 degrees).
        let inner = &around.milky_way[2];
        let east: Vec<f64> = inner.iter().flatten().copied().step_by(2).collect();
        assert!(east.iter().any(|e| (e - 690.0).abs() < 240.0));
        // The whole sky, its poles too, without a corner that is no number.
        for (ra_deg, dec_deg) in [(0.0, 90.0), (266.0, -29.0), (192.0, 27.0), (0.0, -90.0)] {
            let at = Pointing { ra_deg, dec_deg, position_angle_deg: 0.0 };
            let around = figures.around(&at, 40.0);
            assert!(
                around.figures.iter().flat_map(|f| f.lines.iter().flatten()).all(|v| v.is_finite())
            );
            assert_eq!(around.milky_way.len(), 3);
        }
    }
}
