//! Whether the target is in the frame, by the model's brightness of it and the noise that the frame
//! has, and how long it is to the goal at that noise.

use crate::frame::verdict::answer::{Sentence, Standing, figure, sentence};
use crate::frame::verdict::seen::Seen;
use crate::light::lines::Quantity;
use crate::path::scales::Scales;
use crate::signal::instrument::leading;
use crate::signal::model::LightPath;
use crate::wording::{capital, clock};

/// Signal to noise from which a patch is seen on a stretched sub (Rose's criterion is 5 for a
/// certain detection; 3 is common practice, no source).
const SEEN: f64 = 3.0;

/// A sentence on the first quantity that is wanted of this exposure and channel; `None` of none.
pub(super) fn of_target(v: &Seen, path: &LightPath) -> Option<Sentence> {
    let noise_e = v.scatter_e();
    let leads =
        |q: &Quantity| leading(&v.model.channels, *q).is_some_and(|c| c.name == v.own.channel);
    let q =
        Quantity::JUDGED.into_iter().find(|q| path.wants[*q] && v.model.records(*q) && leads(q))?;
    let channel = leading(&v.model.channels, q)?;
    let aim = &path.aims[q];
    if aim.goal.star_v_mag.is_some() || noise_e <= 0.0 {
        return None;
    }
    let of_part = channel.rates(&aim.scales(&Scales::ONE), 0.0).of(q);
    let snr = of_part * v.sub_s * channel.pixels.sqrt() / noise_e;
    let square = v.model.instrument.square_arcsec;
    let per_sub_s = v.sub_s + v.model.instrument.between_s;
    let to_goal_s =
        (snr > 0.0).then(|| (aim.snr / snr).powi(2) * per_sub_s / v.model.share.max(1e-6));
    let name = capital(v.scenario.target.name_of(q));
    let figures = vec![
        figure("Signal in this sub", format!("{:.2} e- a pixel", of_part * v.sub_s)),
        figure("Noise in this frame", format!("{noise_e:.2} e- a pixel")),
        figure("Signal to noise", format!("{snr:.1} on {square:.0}\u{2033}")),
    ];
    let goal = to_goal_s.map_or_else(
        || "the goal is out of reach".to_owned(),
        |s| format!("at this frame's noise the goal takes {}", clock(s)),
    );
    let on = format!("(signal to noise {snr:.1} on {square:.0}\u{2033})");
    let seen = if snr >= SEEN {
        format!("{name} should be seen in this very sub {on}")
    } else {
        format!("{name} does not show in a single sub yet {on}, and need not")
    };
    Some(sentence("target", Standing::Good, format!("{seen}; {goal}."), figures))
}
