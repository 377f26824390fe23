//! Reminders where a night's work touches what can hurt. They instruct nobody: local rules and
//! licensed trades come first.

use crate::night::plan::schedule::Plan;
use crate::night::view::NightView;

/// What to be reminded of in a planned night.
pub fn cautions(view: &NightView, plan: &Plan) -> Vec<String> {
    let mut out = Vec::new();
    if plan.setup_from_s.zip(view.events.sunset_s).is_some_and(|(setup, sunset)| setup < sunset) {
        out.push(
            "Set-up begins before sunset: never aim unfiltered optics near the sun.".to_owned(),
        );
    }
    if !plan.blocks.is_empty() {
        out.push(
            "Mains leads in dew want residual-current protection; local electrical rules come \
            first."
                .to_owned(),
        );
        out.push(
            "Cold, uneven ground in the dark, alone: tell someone where you are. Lithium \
            batteries: the maker's limits."
                .to_owned(),
        );
    }
    out
}
