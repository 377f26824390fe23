//! How one or several objects sit on a sensor, and how a sensor is best laid over them.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::library::catalogue::object::CatalogueObject;
use crate::scenario::check::Checker;
use crate::scenario::defaults;
use crate::scenario::field_error::FieldError;
use crate::scenario::frame_plan::{FieldRig, FramePlan, MAX_PANELS, Panel};
use crate::scenario::pointing::Pointing;

/// Margin around an object that a frame should leave, as a share of its size (common practice, no
/// source).
const MARGIN: f64 = 0.1;

/// Details along an object below which it is a small thing on the sensor, and the share of the
/// field below which it wants to be cropped (common practice, no source).
const FEW_DETAILS: f64 = 100.0;
const LITTLE_OF_FIELD: f64 = 0.05;

/// How far from the plane's middle anything is framed, arcmin.
pub const FARTHEST_ARCMIN: f64 = 1200.0;

/// Corners by which an object's outline is told.
const OUTLINE: u32 = 36;

/// What is framed: its middle on the plane that touches the sky, and its ellipse.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Extent {
    /// What it is called.
    pub name: String,
    /// East of the plane's middle, arcmin.
    #[serde(default)]
    pub east_arcmin: f64,
    /// And north.
    #[serde(default)]
    pub north_arcmin: f64,
    /// Longer axis, arcmin; 0 where it is not known.
    pub major_arcmin: f64,
    /// Shorter axis, arcmin.
    pub minor_arcmin: f64,
    /// Angle of the longer axis from north over east, degrees; null where nobody says how it lies:
    /// then it counts as a circle of its area.
    #[serde(default)]
    pub pa_deg: Option<f64>,
}

impl Extent {
    /// Of a catalogued object, seen from a middle; `None` behind the observer.
    pub fn of(o: &CatalogueObject, from: &Pointing) -> Option<Self> {
        let [east, north] = from.east_north_arcsec(o.ra_deg, o.dec_deg)?;
        let major_arcmin = o.major_arcmin.unwrap_or(0.0);
        Some(Self {
            name: o.name.clone(),
            east_arcmin: east / 60.0,
            north_arcmin: north / 60.0,
            major_arcmin,
            minor_arcmin: o.minor_arcmin.unwrap_or(major_arcmin),
            pa_deg: o.pa_deg,
        })
    }

    /// Whether it stands near enough to the middle to be framed with what stands there.
    pub fn is_near(&self) -> bool {
        self.east_arcmin.hypot(self.north_arcmin) <= FARTHEST_ARCMIN
    }

    /// Checks every field; paths begin with `at`.
    pub fn check(&self, at: &str) -> Vec<FieldError> {
        Checker::errors_of(|c| {
            c.text(format_args!("{at}.name"), &self.name);
            offset(c, at, [self.east_arcmin, self.north_arcmin]);
            for (name, arcmin) in [("major", self.major_arcmin), ("minor", self.minor_arcmin)] {
                c.within(format_args!("{at}.{name}_arcmin"), arcmin, 0.0, 10_800.0, "arcmin");
            }
            c.maybe_within(format_args!("{at}.pa_deg"), self.pa_deg, -360.0, 360.0, "degrees");
        })
        .err()
        .unwrap_or_default()
    }

    /// Points of its outline with the margin that a frame leaves, arcmin east and north.
    fn outline(&self) -> impl Iterator<Item = [f64; 2]> {
        let equal = (self.major_arcmin * self.minor_arcmin).sqrt();
        let (axes, pa) = match self.pa_deg {
            Some(pa) => ([self.major_arcmin, self.minor_arcmin], pa),
            None => ([equal, equal], 0.0),
        };
        let (sin, cos) = pa.to_radians().sin_cos();
        (0..OUTLINE).map(move |k| {
            let (v, u) = (f64::from(k) / f64::from(OUTLINE) * std::f64::consts::TAU).sin_cos();
            let [along, aside] = [u * axes[0], v * axes[1]].map(|half| half / 2.0 * (1.0 + MARGIN));
            let (east, north) = (along * sin + aside * cos, along * cos - aside * sin);
            [self.east_arcmin + east, self.north_arcmin + north]
        })
    }
}

/// How far from the plane's middle something may stand, east and north.
fn offset(c: &mut Checker, at: &str, arcmin: [f64; 2]) {
    for (name, arcmin) in ["east", "north"].into_iter().zip(arcmin) {
        let path = format!("{at}.{name}_arcmin");
        c.within(path, arcmin, -FARTHEST_ARCMIN, FARTHEST_ARCMIN, "arcmin");
    }
}

/// Where a frame's middle stands against the plane's, and how it is turned.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Placement {
    /// East, arcmin.
    pub east_arcmin: f64,
    /// North, arcmin.
    pub north_arcmin: f64,
    /// Angle of the upward side, degrees from north over east.
    pub position_angle_deg: f64,
}

impl Placement {
    /// Checks every field; paths begin with `at`.
    pub fn check(&self, at: &str) -> Vec<FieldError> {
        Checker::errors_of(|c| {
            offset(c, at, [self.east_arcmin, self.north_arcmin]);
            let turned = self.position_angle_deg;
            c.within(format_args!("{at}.position_angle_deg"), turned, -360.0, 360.0, "degrees");
        })
        .err()
        .unwrap_or_default()
    }

    /// A frame of its angle in the plane's own middle: the turn alone.
    fn turn(&self) -> Pointing {
        Pointing { ra_deg: 0.0, dec_deg: 0.0, position_angle_deg: self.position_angle_deg }
    }

    /// How far the outlines reach from its middle: least and largest to the right, and up, arcmin.
    fn reach(&self, objects: &[Extent]) -> [[f64; 2]; 2] {
        let turn = self.turn();
        let mut out = [[f64::INFINITY, f64::NEG_INFINITY]; 2];
        for [east, north] in objects.iter().flat_map(Extent::outline) {
            let (e, n) = (east - self.east_arcmin, north - self.north_arcmin);
            for (range, at) in out.iter_mut().zip(turn.right_up_of(e, n)) {
                *range = [range[0].min(at), range[1].max(at)];
            }
        }
        out
    }
}

/// The panels that a user wants, whatever the objects ask for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Panels {
    /// Along the sensor's rows.
    pub wide: u32,
    /// Along its columns.
    pub high: u32,
}

/// A rig's field over what is framed.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Framing {
    /// The frame as it is kept: its middle, the rig, as many panels as are wanted or as it takes.
    pub plan: FramePlan,
    /// Width of the field, arcmin.
    pub width_arcmin: f64,
    /// Height of the field, arcmin.
    pub height_arcmin: f64,
    /// Pixel scale, arcsec.
    pub scale_arcsec: f64,
    /// Where its panels lie.
    pub panels: Vec<Panel>,
    /// How far the first object fills one field, as a share of the field's area.
    pub fill: f64,
    /// Pixels along the first object's longer axis.
    pub pixels_along: f64,
    /// Finest detail that seeing and pixels allow, arcsec.
    pub finest_arcsec: f64,
    /// Whether the rig is wide and long enough, in a sentence.
    pub text: String,
}

/// Panels of a side that reach so far from the middle either way, at most [`MAX_PANELS`].
fn panels(reach_arcmin: f64, field_arcmin: f64, overlap: f64) -> u32 {
    let wanted = 2.0 * reach_arcmin;
    if wanted <= field_arcmin {
        return 1;
    }
    let more = ((wanted - field_arcmin) / (field_arcmin * (1.0 - overlap))).ceil();
    (more as u32 + 1).min(MAX_PANELS)
}

/// How objects sit on a rig's sensor where it stands; `middle` is the plane's on the sky. As many
/// panels as it takes for all of them with their margin, or as many as are wanted.
pub fn framing(
    rig: &FieldRig,
    objects: &[Extent],
    middle: &Pointing,
    placed: &Placement,
    wanted: (Option<Panels>, f64),
) -> Framing {
    let [width_arcmin, height_arcmin] = rig.size_arcmin();
    let scale_arcsec = rig.scale_arcsec();
    let (chosen, overlap) = wanted;
    let reach = placed.reach(objects).map(|[low, high]| high.max(-low).max(0.0));
    let needed = Panels {
        wide: panels(reach[0], width_arcmin, overlap),
        high: panels(reach[1], height_arcmin, overlap),
    };
    let Panels { wide, high } = chosen.unwrap_or(needed);
    let mut at = middle.moved(placed.east_arcmin, placed.north_arcmin);
    at.position_angle_deg = placed.position_angle_deg;
    let plan = FramePlan { at, rig: rig.clone(), panels_wide: wide, panels_high: high, overlap };
    let (major, minor) = objects.first().map_or((0.0, 0.0), |o| (o.major_arcmin, o.minor_arcmin));
    let mut out = Framing {
        panels: plan.panels(),
        plan,
        width_arcmin,
        height_arcmin,
        scale_arcsec,
        fill: std::f64::consts::FRAC_PI_4 * major * minor / (width_arcmin * height_arcmin),
        pixels_along: major * 60.0 / scale_arcsec,
        // Two pixels make a detail, and seeing blurs it besides.
        finest_arcsec: defaults::seeing_fwhm_arcsec().max(2.0 * scale_arcsec),
        text: String::new(),
    };
    out.text = words(&out, objects, (chosen.is_some(), needed));
    out
}

/// Whether a rig is wide and long enough for what is framed.
fn words(f: &Framing, objects: &[Extent], wanted: (bool, Panels)) -> String {
    let Some(first) = objects.first().filter(|o| o.major_arcmin > 0.0) else {
        return "How large it is, is not known.".into();
    };
    let (chosen, needed) = wanted;
    let pixels = |arcmin: f64| (arcmin * 60.0 / f.scale_arcsec).round();
    let fine =
        format!("{:.0} px along it, details down to {:.1}″", f.pixels_along, f.finest_arcsec);
    let FramePlan { panels_wide, panels_high, overlap, .. } = f.plan;
    let count = f.plan.count();
    if chosen && (panels_wide < needed.wide || panels_high < needed.high) {
        let all = if objects.len() > 1 { "all of them" } else { "all of it" };
        return format!(
            "{} × {} panels do not hold {all}: {} × {} would. {fine}.",
            panels_wide, panels_high, needed.wide, needed.high
        );
    }
    if count > 1 {
        let times = if count == 2 { "twice".to_owned() } else { format!("{count} times") };
        return format!(
            "{} × {} panels with {:.0} % overlap, {times} the time of one. {fine}.",
            panels_wide,
            panels_high,
            overlap * 100.0
        );
    }
    if objects.len() > 1 {
        return format!("One panel holds all {}. {fine}.", objects.len());
    }
    let details = first.major_arcmin * 60.0 / f.finest_arcsec;
    if details < FEW_DETAILS && f.finest_arcsec > defaults::seeing_fwhm_arcsec() {
        return format!("One panel, but not long enough to show much: {fine}.");
    }
    if details < FEW_DETAILS {
        // A longer rig would show no more.
        return format!("One panel, small on it, and the air sets the detail: {fine}.");
    }
    if f.fill < LITTLE_OF_FIELD {
        let margin = 1.0 + 2.0 * MARGIN;
        return format!(
            "One panel, {:.1} % of it filled; cropped to the object {:.0} × {:.0} px are left. {fine}.",
            100.0 * f.fill,
            pixels(first.major_arcmin * margin),
            pixels(first.minor_arcmin * margin)
        );
    }
    format!("One panel, {:.0} % of it filled. {fine}.", 100.0 * f.fill)
}

/// How much smaller the box around objects must be for a camera to be turned at all.
const WORTH_A_TURN: f64 = 0.01;

/// How a rig is best laid over objects: of all angles by whole degrees those that take the fewest
/// panels, and of these the one with the smallest box around them all; north up where that is as
/// good. One object alone keeps its middle.
pub fn laid_over(rig: &FieldRig, objects: &[Extent], overlap: f64) -> Placement {
    let [width, height] = rig.size_arcmin();
    let over = |angle: i32| {
        let turned = Placement { position_angle_deg: f64::from(angle), ..Placement::default() };
        let [across, up] = turned.reach(objects);
        let middle = [across, up].map(|[low, high]| f64::midpoint(low, high));
        let [east_arcmin, north_arcmin] = turned.turn().east_north_of(middle[0], middle[1]);
        let [across, up] = [across, up].map(|[low, high]| high - low);
        let count = panels(across / 2.0, width, overlap) * panels(up / 2.0, height, overlap);
        (count, across * up, Placement { east_arcmin, north_arcmin, ..turned })
    };
    if objects.is_empty() {
        return Placement::default();
    }
    let straight = over(0);
    let best = (-89..=90)
        .map(over)
        .min_by(|a, b| a.0.cmp(&b.0).then(a.1.total_cmp(&b.1)))
        .filter(|b| b.0 < straight.0 || b.1 < straight.1 * (1.0 - WORTH_A_TURN));
    best.unwrap_or(straight).2
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::library::gear::Library;

    const MIDDLE: Pointing = Pointing { ra_deg: 80.0, dec_deg: 20.0, position_angle_deg: 0.0 };

    fn rig() -> FieldRig {
        let gear = Library::shipped().unwrap().gear;
        FieldRig::new("a rig", &gear.optics[0].optics, &gear.cameras[0].sensor)
    }

    fn extent(major_arcmin: f64, minor_arcmin: f64, pa_deg: Option<f64>) -> Extent {
        Extent {
            name: "a nebula".into(),
            east_arcmin: 0.0,
            north_arcmin: 0.0,
            major_arcmin,
            minor_arcmin,
            pa_deg,
        }
    }

    fn framed(objects: &[Extent], placed: Placement) -> Framing {
        framing(&rig(), objects, &MIDDLE, &placed, (None, 0.15))
    }

    #[test]
    fn fields_and_panels() {
        let lying = Placement::default();
        let f = framed(&[extent(50.0, 40.0, Some(90.0))], lying);
        // 6248 pixels of 3.76 um at 495 mm: 1.567 arcsec each, 163 by 109 arcmin.
        assert!((f.width_arcmin - 163.2).abs() < 0.2 && (f.height_arcmin - 109.0).abs() < 0.2);
        assert_eq!((f.plan.panels_wide, f.plan.panels_high), (1, 1));
        // 50 arcmin are 1915 pixels of 1.567 arcsec; two of them make 3.1 arcsec.
        assert_eq!(f.text, "One panel, 9 % of it filled. 1915 px along it, details down to 3.1″.");
        let wide = framed(&[extent(300.0, 120.0, Some(90.0))], lying);
        assert_eq!((wide.plan.panels_wide, wide.plan.panels_high, wide.panels.len()), (3, 2, 6));
        assert!(wide.text.starts_with("3 × 2 panels with 15 % overlap, 6 times the time"));
        // Upright it takes as many the other way.
        let upright = framed(&[extent(300.0, 120.0, Some(0.0))], lying);
        assert_eq!((upright.plan.panels_wide, upright.plan.panels_high), (1, 4));
        let small = framed(&[extent(12.0, 6.0, None)], lying).text;
        assert!(small.contains("cropped to the object 551 × 276 px"), "{small}");
        assert!(framed(&[extent(1.4, 1.0, None)], lying).text.contains("not long enough"));
        // At two metres of focal length the air is what limits it.
        let long = FieldRig { focal_length_mm: 2000.0, ..rig() };
        let planetary =
            framing(&long, &[extent(1.4, 1.0, None)], &MIDDLE, &lying, (None, 0.15)).text;
        assert!(planetary.contains("the air sets the detail"), "{planetary}");
        assert!(framed(&[extent(0.0, 0.0, None)], lying).text.contains("not known"));
    }

    /// A frame that is moved off an object, or turned against it, needs more panels to hold it.
    #[test]
    fn panels_are_those_that_the_frame_needs_where_it_stands() {
        let o = [extent(130.0, 80.0, Some(90.0))];
        let at = |east_arcmin, position_angle_deg| {
            let f = framed(&o, Placement { east_arcmin, north_arcmin: 0.0, position_angle_deg });
            (f.plan.panels_wide, f.plan.panels_high)
        };
        assert_eq!(at(0.0, 0.0), (1, 1));
        assert_eq!(at(30.0, 0.0), (2, 1));
        assert_eq!(at(0.0, 90.0), (1, 2));
        let few = framing(
            &rig(),
            &o,
            &MIDDLE,
            &Placement { position_angle_deg: 90.0, ..Placement::default() },
            (Some(Panels { wide: 1, high: 1 }), 0.15),
        );
        assert!(few.text.starts_with("1 × 1 panels do not hold all of it: 1 × 2 would."));
    }

    /// Two nebulae 100 arcmin apart on a line at 30 degrees: the sensor's long side lies along it,
    /// which is 30 less 90 degrees, and its middle is theirs.
    #[test]
    fn a_sensor_is_laid_over_two_nebulae() {
        let (sin, cos) = 30f64.to_radians().sin_cos();
        let second = Extent {
            east_arcmin: 100.0 * sin,
            north_arcmin: 100.0 * cos,
            ..extent(30.0, 30.0, None)
        };
        let both = [extent(30.0, 30.0, None), second];
        let placed = laid_over(&rig(), &both, 0.15);
        assert!((placed.position_angle_deg + 60.0).abs() <= 6.0, "{placed:?}");
        assert!((placed.east_arcmin - 50.0 * sin).abs() < 3.0, "{placed:?}");
        assert!((placed.north_arcmin - 50.0 * cos).abs() < 3.0, "{placed:?}");
        let f = framed(&both, placed);
        assert_eq!((f.plan.panels_wide, f.plan.panels_high), (1, 1));
        assert!(f.text.starts_with("One panel holds all 2."), "{}", f.text);
        // Moved back to the first it does not.
        assert!(framed(&both, Placement::default()).panels.len() > 1);
        // One that lies along its own axis, in its own middle.
        let alone = laid_over(&rig(), &[extent(90.0, 20.0, Some(70.0))], 0.15);
        assert!((alone.position_angle_deg + 20.0).abs() <= 2.0, "{alone:?}");
        assert!(alone.east_arcmin.abs() < 1e-6 && alone.north_arcmin.abs() < 1e-6);
        // Too long for one panel along its side, it lies across the corners.
        let long = laid_over(&rig(), &[extent(160.0, 5.0, Some(90.0))], 0.15);
        assert!((15.0..50.0).contains(&long.position_angle_deg.abs()), "{long:?}");
        // What is as good as round is not turned for.
        let round = laid_over(&rig(), &[extent(50.0, 49.9, Some(45.0))], 0.15);
        assert!(round.position_angle_deg.abs() < 1e-9);
    }
}
