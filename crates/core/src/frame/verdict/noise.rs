//! Background and noise against the camera: swamped or not, and whether gain, offset and header
//! agree with the kit.

use crate::decide::sub::decision::SubDecision;
use crate::frame::verdict::answer::{Sentence, Standing, figure, sentence};
use crate::frame::verdict::seen::Seen;
use crate::signal::sub::plateau;
use crate::wording::{seconds, two_figures};

/// A background of so many times the read noise squared leaves read noise 5 % of the noise at most
/// (1 / ((1.05)^2 - 1) = 9.76): the usual rule of ten.
const SWAMPED: f64 = 9.76;
/// Half of it: read noise adds a tenth.
const NEARLY: f64 = 4.76;
/// Header and kit name one gain where they are nearer than this, relative.
const SAME: f64 = 0.03;
/// The scatter agrees with what background and camera give within this, relative: stars, a slope
/// and rounding leave that much (common practice, no source).
const SAME_SCATTER: f64 = 0.1;

/// The header against the path that the frame is judged by.
pub(super) fn against_the_kit(v: &Seen) -> Vec<Sentence> {
    let c = &v.scenario.contenders[v.taken.contender];
    let h = &v.taken.frame.read.header;
    let mut odd = Vec::new();
    let binning = h.binning.unwrap_or(1.0);
    let own_binning = v.model.instrument.binning;
    if (binning - own_binning).abs() > 0.01 {
        odd.push(format!(
            "it was binned {binning} x {binning}, this exposure is {own_binning} x {own_binning}"
        ));
    }
    if binning > 1.0 {
        odd.push(
            "its background is judged as a single pixel's, which is right only where the camera \
             averages what it bins"
                .to_owned(),
        );
    }
    let columns = f64::from(c.sensor.columns) / binning;
    if (v.taken.frame.columns as f64 - columns).abs() > 0.02 * columns && binning == own_binning {
        odd.push(format!(
            "it has {} x {} pixels, this camera {} x {}: a crop, or another camera",
            v.taken.frame.columns, v.taken.frame.rows, c.sensor.columns, c.sensor.rows
        ));
    }
    if let Some(pixel) = h.pixel_um {
        let own = c.sensor.pixel_um;
        if (pixel / own - 1.0).abs() > SAME && (pixel / own / binning - 1.0).abs() > SAME {
            odd.push(format!("its pixels are {pixel} um wide, this camera's {own} um"));
        }
    }
    if let Some(gain) = h.gain.filter(|g| (g - c.gain).abs() > 1e-9) {
        odd.push(format!("it was taken at gain {gain}, which this camera's table does not reach"));
    }
    if let Some(e) = h.e_per_adu.filter(|e| (e / v.gain.e_per_adu - 1.0).abs() > SAME) {
        odd.push(format!(
            "it says {e} e-/ADU, the camera's table {:.3}: the header's is used",
            v.gain.e_per_adu
        ));
    }
    if let Some(at) = h.sensor_c {
        let own = c.sensor_temperature(v.scenario.sky.ambient_c);
        if (at - own).abs() > 3.0 {
            odd.push(format!("its sensor was at {at:.0} °C, here {own:.0} °C is assumed"));
        }
    }
    if odd.is_empty() {
        return Vec::new();
    }
    let text = format!("The frame is not as this path has it: {}.", odd.join("; "));
    vec![sentence("header", Standing::Look, text, Vec::new())]
}

/// The plateau with the background that the frame measured, s.
pub(super) fn plateau_of_frame(v: &Seen, decision: &SubDecision) -> [f64; 2] {
    let measured = v.background_e() / v.sub_s;
    if measured <= 0.0 {
        return decision.plateau_s;
    }
    let mut terms = v.model.instrument.sub_terms_at(v.deciding.nominal(), &v.gain);
    let more = (measured - terms.background_e_per_s - terms.dark_e_per_s).max(-terms.total_e_per_s);
    terms.total_e_per_s = (terms.total_e_per_s + more).max(1e-6);
    terms.background_e_per_s = (measured - terms.dark_e_per_s).max(1e-6);
    let p = plateau(&terms);
    [p.from_s, p.to_s]
}

/// The sub to use, s: the frame's own where it is as good as any, else the nearest that is.
pub(super) fn sub_to_use(v: &Seen, decision: &SubDecision) -> f64 {
    let [from, to] = plateau_of_frame(v, decision);
    if is_as_good(v.sub_s, [from, to]) { v.sub_s } else { nice(v.sub_s.clamp(from, to), from, to) }
}

/// Whether a sub is on the plateau, or so near to it that nobody could tell.
fn is_as_good(sub_s: f64, [from, to]: [f64; 2]) -> bool {
    (0.9 * from..=1.1 * to).contains(&sub_s)
}

/// A length that one would set: two figures, within the ends.
fn nice(s: f64, from: f64, to: f64) -> f64 {
    let near = two_figures(s);
    if (from..=to).contains(&near) { near } else { two_figures(s * 1.05).clamp(from, to) }
}

/// Swamped or not.
pub(super) fn swamped(v: &Seen, decision: &SubDecision) -> Sentence {
    let background = v.background_e();
    let read2 = v.gain.read_noise_e.powi(2);
    let factor = background / read2;
    let [from, to] = plateau_of_frame(v, decision);
    let figures = vec![
        figure("Background", format!("{:.1} e- over {} ADU", background, v.offset_adu)),
        figure("Read noise", format!("{:.2} e-, squared {:.2}", v.gain.read_noise_e, read2)),
        figure("As good", format!("{} to {}", seconds(from), seconds(to))),
    ];
    if background <= 0.0 {
        let text = format!(
            "The background lies at {:.0} ADU, not above the offset of {:.0} ADU: cap on, or \
             another offset.",
            v.own.level_adu, v.offset_adu
        );
        return sentence("sub", Standing::Wrong, text, figures);
    }
    let as_good = if to / from > 1.05 {
        format!("anything from {} to {} is as good", seconds(from), seconds(to))
    } else {
        format!("{} is best", seconds(from))
    };
    let how = format!("{} times the read noise squared", two_figures(factor));
    let within = is_as_good(v.sub_s, [from, to]);
    let (standing, text) = if factor >= SWAMPED {
        (
            Standing::Good,
            format!("Swamped: the background is {how} in {}; {as_good}.", seconds(v.sub_s)),
        )
    } else if factor >= NEARLY || within {
        (
            Standing::Good,
            format!("Nearly swamped: the background is {how} in {}; {as_good}.", seconds(v.sub_s)),
        )
    } else {
        (
            Standing::Look,
            format!(
                "Not swamped: the background is only {how} in {}; {as_good}.",
                seconds(v.sub_s)
            ),
        )
    };
    let standing = if within { standing } else { Standing::Look };
    sentence("sub", standing, text, figures)
}

/// Whether the scatter of pixels is what background and camera give: it tells a wrong gain.
pub(super) fn scatter(v: &Seen) -> Sentence {
    let measured = v.scatter_e();
    let read2 = v.gain.read_noise_e.powi(2);
    let step2 = v.e_per_adu * v.e_per_adu / 12.0;
    let expected = (v.background_e().max(0.0) + read2 + step2).sqrt();
    let ratio = measured / expected;
    let figures = vec![
        figure("Measured", format!("{:.2} e- a pixel ({:.1} ADU)", measured, v.own.sigma_adu)),
        figure("By background and read noise", format!("{expected:.2} e-")),
    ];
    let numbers = format!(
        "pixels scatter by {measured:.1} e-, background and read noise give {expected:.1} e-"
    );
    let (standing, text) = if (ratio - 1.0).abs() <= SAME_SCATTER {
        (Standing::Good, format!("Gain, offset and read noise fit together: {numbers}."))
    } else if ratio > 1.0 {
        // Measured over expected goes with the root of the e-/ADU that is assumed.
        (
            Standing::Look,
            format!(
                "There is more noise than there should be: {numbers}. The e-/ADU may be smaller \
                 than assumed, the offset lower, or there is a pattern or a stretch in the frame."
            ),
        )
    } else {
        (
            Standing::Look,
            format!(
                "There is less noise than light must have: {numbers}. The frame was binned, \
                 averaged or calibrated, or its e-/ADU is larger than assumed."
            ),
        )
    };
    sentence("noise", standing, text, figures)
}
