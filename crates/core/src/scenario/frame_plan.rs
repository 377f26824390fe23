//! Where a frame stands, and in how many panels: what is kept with a comparison and with the
//! campaign that grows from it, so that next month's nights lie over last month's.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::light::units::ARCSEC_PER_UM_OF_MM;
use crate::scenario::defaults;
use crate::scenario::pointing::Pointing;
use crate::scenario::rig::{Optics, Sensor};

/// Most panels of a mosaic along one side.
pub const MAX_PANELS: u32 = 20;

/// As much of a rig as its field hangs on.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FieldRig {
    /// What it is called.
    pub name: String,
    /// Focal length with what lengthens or shortens it, mm.
    pub focal_length_mm: f64,
    /// Side of a pixel, micrometres.
    pub pixel_um: f64,
    /// Pixels along a row.
    pub columns: u32,
    /// Rows.
    pub rows: u32,
}

impl FieldRig {
    /// Of a telescope and a camera.
    pub fn new(name: &str, optics: &Optics, sensor: &Sensor) -> Self {
        Self {
            name: name.to_owned(),
            focal_length_mm: optics.focal_length_mm * optics.reducer,
            pixel_um: sensor.pixel_um,
            columns: sensor.columns,
            rows: sensor.rows,
        }
    }

    /// The focal length, mm, at which a pixel takes so much of the sky: what a plate solution
    /// measures.
    pub fn focal_length_of_scale_mm(pixel_um: f64, scale_arcsec: f64) -> f64 {
        ARCSEC_PER_UM_OF_MM * pixel_um / scale_arcsec
    }

    /// Side of a pixel on the sky, arcsec.
    pub fn scale_arcsec(&self) -> f64 {
        ARCSEC_PER_UM_OF_MM * self.pixel_um / self.focal_length_mm
    }

    /// Width and height of its field, arcmin.
    pub fn size_arcmin(&self) -> [f64; 2] {
        [self.columns, self.rows].map(|n| f64::from(n) * self.scale_arcsec() / 60.0)
    }
}

/// A frame on the sky: where its middle lies, how the camera is turned, which rig takes it, and the
/// panels of a mosaic.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FramePlan {
    /// Middle of the whole, and the angle of its upward side.
    pub at: Pointing,
    /// The rig that takes it.
    pub rig: FieldRig,
    /// Panels along the sensor's rows.
    #[serde(default = "defaults::one_panel")]
    #[schema(default = 1)]
    pub panels_wide: u32,
    /// Panels along its columns.
    #[serde(default = "defaults::one_panel")]
    #[schema(default = 1)]
    pub panels_high: u32,
    /// Share by which neighbouring panels overlap.
    #[serde(default = "defaults::panel_overlap")]
    #[schema(default = 0.15)]
    pub overlap: f64,
}

/// One panel of a mosaic.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Panel {
    /// Its middle, and the angle at which the camera stands there: towards the pole meridians
    /// converge, so it is not the same from panel to panel.
    pub at: Pointing,
    /// From the middle of the mosaic to the right, arcmin.
    pub right_arcmin: f64,
    /// And up.
    pub up_arcmin: f64,
}

impl FramePlan {
    /// Middles of the panels, row by row from the upper left.
    pub fn panels(&self) -> Vec<Panel> {
        let [width, height] = self.rig.size_arcmin();
        let at = |i: u32, n: u32, side: f64| {
            (f64::from(i) - f64::from(n - 1) / 2.0) * side * (1.0 - self.overlap)
        };
        (0..self.panels_high)
            .rev()
            .flat_map(|row| (0..self.panels_wide).map(move |column| (row, column)))
            .map(|(row, column)| {
                let right_arcmin = at(column, self.panels_wide, width);
                let up_arcmin = at(row, self.panels_high, height);
                Panel { at: self.at.of_part(right_arcmin, up_arcmin), right_arcmin, up_arcmin }
            })
            .collect()
    }

    /// How many panels.
    pub fn count(&self) -> u32 {
        self.panels_wide * self.panels_high
    }
}

impl Pointing {
    /// The middle of a part of the field that lies so far to the right and up, arcmin, and how the
    /// camera stands there.
    fn of_part(&self, right_arcmin: f64, up_arcmin: f64) -> Self {
        let [east, north] = self.east_north_of(right_arcmin, up_arcmin);
        let mut there = self.moved(east, north);
        // A point above it in the field shows where up is there.
        let [e, n] = self.east_north_of(right_arcmin, up_arcmin + 1.0);
        let above = self.moved(e, n);
        if let Some([e, n]) = there.east_north_arcsec(above.ra_deg, above.dec_deg) {
            there.position_angle_deg = e.atan2(n).to_degrees();
        }
        there
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn plan(dec_deg: f64, position_angle_deg: f64) -> FramePlan {
        FramePlan {
            at: Pointing { ra_deg: 100.0, dec_deg, position_angle_deg },
            rig: FieldRig {
                name: "a rig".into(),
                focal_length_mm: 500.0,
                pixel_um: 4.0,
                columns: 4000,
                rows: 3000,
            },
            panels_wide: 3,
            panels_high: 2,
            overlap: 0.2,
        }
    }

    /// 206.265 x 4 / 500 = 1.650 arcsec a pixel: 110 by 82.5 arcmin, of which four fifths lie
    /// between the middles.
    #[test]
    fn panels_lie_side_by_side_from_the_upper_left() {
        let f = plan(0.0, 0.0);
        let panels = f.panels();
        assert_eq!((panels.len(), f.count()), (6, 6));
        let focal_mm = FieldRig::focal_length_of_scale_mm(4.0, f.rig.scale_arcsec());
        assert!((focal_mm - 500.0).abs() < 1e-9);
        let first = &panels[0];
        assert!((first.right_arcmin + 88.0).abs() < 0.1, "{first:?}");
        assert!((first.up_arcmin - 33.0).abs() < 0.1, "{first:?}");
        // North up and east to the left: the left panel lies east.
        assert!((first.at.ra_deg - (100.0 + 88.0 / 60.0)).abs() < 0.01, "{first:?}");
        assert!((first.at.dec_deg - 0.55).abs() < 0.01, "{first:?}");
        // Neighbours overlap by a fifth of a field, whatever the camera's turn.
        for turn in [0.0, 30.0, -100.0] {
            let panels = plan(40.0, turn).panels();
            let [east, north] =
                panels[0].at.east_north_arcsec(panels[1].at.ra_deg, panels[1].at.dec_deg).unwrap();
            assert!((east.hypot(north) / 60.0 - 88.0).abs() < 0.3);
        }
    }

    /// Far north a panel an hour of right ascension away is turned by what the meridians turn: the
    /// sine of the declination times the difference in right ascension.
    #[test]
    fn cameras_turn_from_panel_to_panel_near_the_pole() {
        let f = plan(80.0, 0.0);
        let left = &f.panels()[0].at;
        let turned = (left.ra_deg - 100.0) * left.dec_deg.to_radians().sin();
        assert!(turned > 8.0, "{turned}");
        assert!((left.position_angle_deg - turned).abs() < 0.15, "{left:?} {turned}");
        let wide = plan(0.0, 20.0);
        assert!(wide.panels().iter().all(|p| (p.at.position_angle_deg - 20.0).abs() < 0.1));
    }
}
