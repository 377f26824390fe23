//! A box measured on a look, in electrons and as one's own frames would show it.

use serde::Serialize;
use utoipa::ToSchema;

use crate::light::lines::Quantity;
use crate::look::plane::Plane;
use crate::look::stacked::Look;
use crate::wording::seconds;

/// What a box on the picture holds.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Measured {
    /// `mono`, `r`, `g` or `b`, and the filter.
    pub plane: String,
    /// The quantity it carries most of; null for none.
    pub quantity: Option<Quantity>,
    /// Mean of the box in the whole stack, e- per pixel of the plane's own colour, as a user's own
    /// frames added up would show.
    pub mean_e: f64,
    /// Standard deviation of such a pixel in the box, e-.
    pub sigma_e: f64,
    /// Target in the box by the truth, e- per such pixel.
    pub target_e: f64,
    /// Length of one of its subs, s.
    pub sub_s: f64,
    /// Mean of the box in one sub, e- per such pixel: target, sky and dark current.
    pub sub_e: f64,
    /// The same as the sub's file has it, offset included, ADU.
    pub sub_adu: f64,
    /// Signal to noise of the box's target: its sum over the noise of its sum.
    pub snr: f64,
}

/// What a box holds in every plane of one light path.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct MeasuredBox {
    /// Plane by plane.
    pub planes: Vec<Measured>,
    /// The first two planes against each other, as two real exposures would show them; empty for
    /// one plane.
    pub text: String,
}

/// A box, arcsec from the middle: left, bottom, right, top.
pub type BoxArcsec = [f64; 4];

impl Look {
    /// Measures a box in every plane of one contender's stack.
    pub fn measure(&self, contender: usize, at: BoxArcsec, time_fraction: f64) -> MeasuredBox {
        let planes = &self.contenders[contender];
        let [width, height] = planes.size;
        let column = |x: f64| {
            (x / planes.scale_arcsec + width as f64 / 2.0).round().clamp(0.0, width as f64) as usize
        };
        let row = |y: f64| {
            (height as f64 / 2.0 - y / planes.scale_arcsec).round().clamp(0.0, height as f64)
                as usize
        };
        let (x0, x1) = (column(at[0].min(at[2])), column(at[0].max(at[2])));
        let (y0, y1) = (row(at[1].max(at[3])), row(at[1].min(at[3])));
        let c = &self.scenario().contenders[contender];
        let one = |(i, p): (usize, &Plane)| {
            let stack = self.stack(contender, i, time_fraction, false);
            let inside = || (y0..y1).flat_map(move |j| (x0..x1).map(move |k| j * width + k));
            let n = (inside().count() as f64).max(1.0);
            let mean = inside().map(|k| f64::from(stack.e[k])).sum::<f64>() / n;
            let variance = inside().map(|k| (f64::from(stack.e[k]) - mean).powi(2)).sum::<f64>()
                / (n - 1.0).max(1.0);
            let target = inside().map(|k| f64::from(p.target_e_per_s[k])).sum::<f64>() / n
                * stack.subs
                * stack.sub_s;
            let filter =
                c.exposures[p.exposure].filter.as_ref().map_or("no filter", |f| f.name.as_str());
            let quantity = Quantity::ALL
                .into_iter()
                .filter(|q| p.of(*q) > 0.0)
                .max_by(|a, b| p.of(*a).total_cmp(&p.of(*b)));
            // A picture's pixel sees its colour in its share of the subs; a pixel of that colour is
            // exposed in all of them.
            let (mean_e, sub_e) = (mean / p.share, mean / stack.subs);
            let gain = &self.gains[contender][p.exposure];
            Measured {
                plane: format!("{filter}, {}", p.channel),
                quantity,
                mean_e,
                sigma_e: (variance / p.share).sqrt(),
                target_e: target / p.share,
                sub_s: stack.sub_s,
                sub_e,
                sub_adu: sub_e / gain.e_per_adu + c.sensor.offset_adu,
                snr: if variance > 0.0 { target * n.sqrt() / variance.sqrt() } else { 0.0 },
            }
        };
        let planes: Vec<Measured> = planes.planes.iter().enumerate().map(one).collect();
        MeasuredBox { text: against_each_other(&planes), planes }
    }
}

/// The first two planes as two real exposures of one's own would show them.
fn against_each_other(planes: &[Measured]) -> String {
    let [a, b, ..] = planes else { return String::new() };
    let one = |m: &Measured| {
        format!(
            "{} holds {:.0} e- a pixel in {} ({:.0} ADU with the offset)",
            m.plane,
            m.sub_e,
            seconds(m.sub_s),
            m.sub_adu
        )
    };
    let target = |m: &Measured| m.target_e / m.mean_e * m.sub_e;
    let times = |x: f64, y: f64| if y > 0.0 { format!("{:.2}", x / y) } else { "many".to_owned() };
    format!(
        "{}, {}: {} times as much, of the target alone {} times.",
        one(a),
        one(b),
        times(a.sub_e, b.sub_e),
        times(target(a), target(b))
    )
}
