//! An evening's question: what to do tonight. What a night brings to each running campaign, what it
//! would bring to a target that is new, and which of them gains most.

use serde::Serialize;
use utoipa::ToSchema;

use crate::campaign::document::{Campaign, CampaignGoal};
use crate::campaign::record::shots_of;
use crate::light::lines::Quantity;
use crate::night::plan::schedule::Plan;
use crate::night::rate::NightRig;
use crate::night::tonight::WorthTonight;
use crate::night::view::{NEAR_THE_MOON_DEG, NightView};
use crate::wording::{arcsec, clock};

/// A gain below this share of its goals is not worth an evening of a campaign.
const WORTH_AN_EVENING: f64 = 0.01;

/// From this lit share on, the moon counts.
const BRIGHT_MOON: f64 = 0.3;

/// One filter's part of an evening.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct EveningPart {
    /// The filter.
    pub filter: String,
    /// Its subs.
    pub subs: u32,
    /// Length of a sub, s.
    pub sub_s: f64,
    /// Its time on the clock, s.
    pub clock_s: f64,
}

/// How clean one line of a campaign is before a night and after it.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct EveningClean {
    /// Its name on the target.
    pub line: String,
    /// Side of the square on which it is clean before, arcsec; null where nothing is there yet.
    pub before_arcsec: Option<f64>,
    /// The same after the night.
    pub after_arcsec: f64,
}

/// What a night brings to a campaign.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct CampaignEvening {
    /// Share of its goals that is reached, mean over all, each 1 at most.
    pub before: f64,
    /// The same after this night.
    pub after: f64,
    /// How clean each line is before the night and after it, where the night adds to it.
    pub clean: Vec<EveningClean>,
    /// Hours dark and above the limit.
    pub usable_h: f64,
    /// First sub, seconds since 1970 UTC; null where nothing is planned.
    pub from_s: Option<f64>,
    /// Last sub.
    pub to_s: Option<f64>,
    /// Filter by filter, in the order in which they begin.
    pub parts: Vec<EveningPart>,
    /// Distance of moon and target at midnight, degrees.
    pub moon_distance_deg: f64,
    /// Share of the usable time with the moon down, 0-1.
    pub moonless: f64,
    /// All of it in a sentence.
    pub words: String,
}

/// What a planned night brings to a campaign.
pub fn campaign_evening(
    campaign: &Campaign,
    rig: &NightRig,
    view: &NightView,
    plan: &Plan,
) -> CampaignEvening {
    let shots = shots_of(plan, rig);
    let snr2 = |g: &CampaignGoal, with_tonight: bool| {
        let purpose = rig.purpose(g.exposure);
        let own = shots.iter().filter(|s| with_tonight && s.exposure == g.exposure);
        let gained: f64 = own.map(|s| s.snr2_of(g.quantity, purpose)).sum();
        campaign.done_snr2(g, purpose) + gained
    };
    let share = |with_tonight: bool| {
        let of = campaign.goals.iter().map(|g| (snr2(g, with_tonight) / (g.snr * g.snr)).min(1.0));
        of.sum::<f64>() / campaign.goals.len().max(1) as f64
    };
    let clean = campaign.goals.iter().filter_map(|g| {
        let quantity = g.quantity.or_else(|| rig.purpose(g.exposure))?;
        let (before, after) = (snr2(g, false), snr2(g, true));
        (after > before).then_some(())?;
        Some(EveningClean {
            line: rig.name_of(quantity).to_owned(),
            before_arcsec: rig.goal(quantity).clean_arcsec(before.sqrt()),
            after_arcsec: rig.goal(quantity).clean_arcsec(after.sqrt())?,
        })
    });
    let mut parts: Vec<EveningPart> = Vec::new();
    for b in &plan.blocks {
        let (subs, clock_s) = (b.subs, b.to_s - b.from_s);
        match parts.iter_mut().find(|p| p.filter == b.filter) {
            Some(p) => (p.subs, p.clock_s) = (p.subs + subs, p.clock_s + clock_s),
            None => {
                parts.push(EveningPart { filter: b.filter.clone(), subs, sub_s: b.sub_s, clock_s });
            }
        }
    }
    let events = &view.events;
    let mut told = CampaignEvening {
        before: share(false),
        after: share(true),
        clean: clean.collect(),
        usable_h: events.usable_h,
        from_s: plan.blocks.first().map(|b| b.from_s),
        to_s: plan.blocks.last().map(|b| b.to_s),
        parts,
        moon_distance_deg: events.moon_distance_deg,
        moonless: events.moonless,
        words: String::new(),
    };
    told.words = words(&told, events.moon_lit);
    told
}

fn words(e: &CampaignEvening, moon_lit: f64) -> String {
    if e.before >= 1.0 {
        return "Every goal is reached.".to_owned();
    }
    if e.usable_h <= 0.0 {
        return "It is not up in the dark tonight.".to_owned();
    }
    if e.parts.is_empty() {
        return "Nothing fits into this night.".to_owned();
    }
    let each: Vec<String> =
        e.parts.iter().map(|p| format!("{} for {}", p.filter, clock(p.clock_s))).collect();
    let moon = moon_words(e.moon_distance_deg, e.moonless, moon_lit);
    format!(
        "{}: from {:.0} to {:.0} % of its goals{}{moon}.",
        each.join(", then "),
        e.before * 100.0,
        e.after * 100.0,
        clean_words(&e.clean)
    )
}

/// How clean the lines are after the night, after a comma.
fn clean_words(clean: &[EveningClean]) -> String {
    let each: Vec<String> =
        clean.iter().map(|c| format!("{} at {}", c.line, arcsec(c.after_arcsec))).collect();
    if each.is_empty() { String::new() } else { format!(", clean then: {}", each.join(", ")) }
}

/// What there is to say of the moon, after a comma.
fn moon_words(distance_deg: f64, moonless: f64, moon_lit: f64) -> String {
    if moon_lit < BRIGHT_MOON || moonless > 0.95 {
        return String::new();
    }
    let near = if distance_deg < NEAR_THE_MOON_DEG { ", only" } else { "," };
    format!("{near} {distance_deg:.0} degrees from a moon lit to {:.0} %", moon_lit * 100.0)
}

/// What an evening may be spent on.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum EveningKind {
    /// A campaign goes on.
    Campaign,
    /// Something new.
    Target,
    /// Nothing: it does not get dark, or nothing is up.
    Nothing,
}

/// What to do tonight.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct EveningChoice {
    /// What it is.
    pub kind: EveningKind,
    /// Index among the campaigns, or among the targets.
    pub index: usize,
    /// What to do, in a few words.
    pub title: String,
    /// How, and what comes of it.
    pub words: String,
    /// What it would cost to do the next best instead; null where there is none.
    pub instead: Option<String>,
}

/// A goal that is reached sooner is a snapshot, no evening's work, s.
const SNAPSHOT_S: f64 = 1800.0;

/// The sky of an evening, as far as a choice hangs on it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct EveningSky {
    /// Hours of darkness.
    pub dark_h: f64,
    /// Share of the moon's disc that is lit, 0-1.
    pub moon_lit: f64,
    /// Share of the dark hours with the moon down, 0-1.
    pub moonless: f64,
}

impl EveningSky {
    /// Whether the moon is bright for most of the dark hours.
    fn moon_rules(&self) -> bool {
        self.moon_lit >= BRIGHT_MOON && self.moonless < 0.5
    }

    /// Whether a target is one to begin: how bright it is, is known; it stands clear of a bright
    /// moon and does not shine by starlight under one; and it takes more than a snapshot.
    pub fn suits(&self, t: &WorthTonight) -> bool {
        let dark = t.moon_distance_deg >= NEAR_THE_MOON_DEG && t.quantity != Quantity::Continuum;
        t.share.is_some() && (dark || !self.moon_rules()) && t.time_to_goal_s > SNAPSHOT_S
    }

    /// Whether a campaign's target stands too near a bright moon for any filter.
    fn blinds(&self, e: &CampaignEvening) -> bool {
        self.moon_rules() && e.moonless < 0.5 && e.moon_distance_deg < NEAR_THE_MOON_DEG
    }
}

/// What to do tonight: the campaign that gains most, unless it stands beside a bright moon, else the
/// target that suits the night best; and what the next best would bring. `filters` names the
/// exposures by which the targets were ranked.
pub fn evening_choice(
    sky: &EveningSky,
    campaigns: &[(String, CampaignEvening)],
    targets: &[WorthTonight],
    filters: &[String],
) -> EveningChoice {
    let gain = |e: &CampaignEvening| e.after - e.before;
    let mut running: Vec<usize> =
        (0..campaigns.len()).filter(|i| gain(&campaigns[*i].1) > WORTH_AN_EVENING).collect();
    running.sort_by(|a, b| gain(&campaigns[*b].1).total_cmp(&gain(&campaigns[*a].1)));
    // Beside a bright moon every filter loses: such a one waits, where there is anything else.
    let (waiting, clear): (Vec<usize>, Vec<usize>) =
        running.into_iter().partition(|i| sky.blinds(&campaigns[*i].1));
    let suited: Vec<usize> = (0..targets.len()).filter(|i| sky.suits(&targets[*i])).collect();
    let new = suited.first().copied();
    let running = if clear.is_empty() && new.is_none() { waiting.clone() } else { clear };
    let target_words = |t: &WorthTonight| {
        let filter = filters.get(t.exposure).map_or("no filter", String::as_str);
        let brings = match t.share {
            Some(s) if s >= 1.0 => {
                let goal = t
                    .goal_arcsec
                    .map_or("at its goal".to_owned(), |a| format!("clean at {}", arcsec(a)));
                format!("{} {goal} in {}", t.quantity_name, clock(t.time_to_goal_s))
            }
            Some(s) => match t.clean_arcsec {
                Some(a) => format!("{} clean at {}", t.quantity_name, arcsec(a)),
                None => format!("{:.0} % of its goal", s * 100.0),
            },
            None => "how bright it is, nobody here knows".to_owned(),
        };
        format!("{filter} for up to {}: {brings}", clock(t.hours * 3600.0))
    };
    let name = |t: &WorthTonight| match &t.other_name {
        Some(other) => format!("{} ({other})", t.name),
        None => t.name.clone(),
    };
    if let Some(&first) = running.first() {
        let (title, e) = &campaigns[first];
        let waits = format!("{title} then waits with {:.0} % to go", (1.0 - e.before) * 100.0);
        let other = running.get(1).map(|i| {
            let (title, e) = &campaigns[*i];
            format!("{title} instead would gain {:.0} % of its goals", gain(e) * 100.0)
        });
        let other = other.or_else(|| {
            new.map(|i| format!("{} instead: {}", name(&targets[i]), target_words(&targets[i])))
        });
        return EveningChoice {
            kind: EveningKind::Campaign,
            index: first,
            title: format!("Go on with {title}"),
            words: e.words.clone(),
            instead: other.map(|o| format!("{o}; {waits}.")),
        };
    }
    if let Some(first) = new {
        let t = &targets[first];
        let next = suited.get(1).map(|i| &targets[*i]);
        let wait = waiting.first().map(|i| {
            let (title, e) = &campaigns[*i];
            let (off, lit) = (e.moon_distance_deg, sky.moon_lit * 100.0);
            format!(" {title} waits: {off:.0} degrees from a moon lit to {lit:.0} % is too near.")
        });
        return EveningChoice {
            kind: EveningKind::Target,
            index: first,
            title: format!("Begin {}", name(t)),
            words: format!("{}.{}", target_words(t), wait.unwrap_or_default()),
            instead: next.map(|t| format!("{} instead: {}.", name(t), target_words(t))),
        };
    }
    let words = if sky.dark_h <= 0.0 {
        "It does not get dark tonight: bright targets in narrow bands, flats, or sleep."
    } else {
        "Nothing that this kit serves is up in the dark tonight."
    };
    EveningChoice {
        kind: EveningKind::Nothing,
        index: 0,
        title: "Nothing tonight".to_owned(),
        words: words.to_owned(),
        instead: None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::night::tonight::Season;
    use crate::scenario::target::TargetKind;

    const DARK: EveningSky = EveningSky { dark_h: 9.0, moon_lit: 0.05, moonless: 0.9 };

    fn evening(before: f64, after: f64) -> CampaignEvening {
        let part =
            EveningPart { filter: "Ha".to_owned(), subs: 40, sub_s: 300.0, clock_s: 12_600.0 };
        let mut e = CampaignEvening {
            before,
            after,
            clean: Vec::new(),
            usable_h: 5.0,
            from_s: Some(0.0),
            to_s: Some(12_600.0),
            parts: vec![part],
            moon_distance_deg: 25.0,
            moonless: 0.1,
            words: String::new(),
        };
        e.words = words(&e, 0.9);
        e
    }

    fn target(name: &str, share: Option<f64>) -> WorthTonight {
        WorthTonight {
            name: name.to_owned(),
            other_name: None,
            kind: TargetKind::HIiRegion,
            major_arcmin: 60.0,
            hours: 6.0,
            highest_deg: 60.0,
            moon_distance_deg: 90.0,
            exposure: 0,
            quantity: Quantity::Ha,
            quantity_name: "H-alpha",
            time_to_goal_s: 7200.0,
            of_field: 0.5,
            season: Season::Best,
            worth: 0.5,
            why: String::new(),
            share,
            clean_arcsec: None,
            goal_arcsec: None,
        }
    }

    #[test]
    fn the_campaign_that_gains_most_goes_on_and_the_next_best_is_told() {
        let list =
            |a, b| vec![("A".to_owned(), evening(0.2, a)), ("B".to_owned(), evening(0.4, b))];
        let new = [target("NGC 1499", Some(0.6))];
        let filters = ["Ha".to_owned()];
        let choice = evening_choice(&DARK, &list(0.3, 0.7), &new, &filters);
        assert_eq!((choice.index, choice.title.as_str()), (1, "Go on with B"));
        assert_eq!(
            choice.instead.as_deref(),
            Some("A instead would gain 10 % of its goals; B then waits with 60 % to go.")
        );
        // One that gains nothing is no choice.
        let choice = evening_choice(&DARK, &list(0.2, 0.7), &new, &filters);
        let instead = choice.instead.unwrap();
        assert!(instead.starts_with("NGC 1499 instead: Ha for up to 6 h: 60 % of its goal;"));
        let done = evening_choice(&DARK, &list(0.2, 0.4), &new, &filters);
        assert_eq!((done.kind, done.title.as_str()), (EveningKind::Target, "Begin NGC 1499"));
    }

    #[test]
    fn what_nobody_knows_the_brightness_of_is_not_begun_blindly() {
        let some = [target("LBN 1", None), target("IC 1396", Some(0.3))];
        let choice = evening_choice(&DARK, &[], &some, &["Ha".to_owned()]);
        assert_eq!((choice.index, choice.title.as_str()), (1, "Begin IC 1396"));
        let none = evening_choice(&EveningSky { dark_h: 0.0, ..DARK }, &[], &[], &[]);
        assert_eq!(none.kind, EveningKind::Nothing);
        assert!(none.words.starts_with("It does not get dark"));
    }

    #[test]
    fn beside_a_bright_moon_a_campaign_waits_and_starlight_is_not_begun() {
        let moonlit = EveningSky { moon_lit: 0.9, moonless: 0.1, ..DARK };
        let campaigns = [("A".to_owned(), evening(0.2, 0.6))];
        let cluster = WorthTonight { quantity: Quantity::Continuum, ..target("M 34", Some(1.0)) };
        let near = WorthTonight { moon_distance_deg: 20.0, ..target("IC 405", Some(1.0)) };
        let quick = WorthTonight { time_to_goal_s: 180.0, ..target("M 42", Some(1.0)) };
        let list = [cluster, near, quick, target("NGC 281", Some(0.8))];
        let filters = ["Ha".to_owned()];
        let choice = evening_choice(&moonlit, &campaigns, &list, &filters);
        assert_eq!(choice.title, "Begin NGC 281");
        assert!(choice.words.ends_with("A waits: 25 degrees from a moon lit to 90 % is too near."));
        // With nothing else it goes on all the same, and under a dark sky before anything else.
        assert_eq!(
            evening_choice(&moonlit, &campaigns, &list[..3], &filters).title,
            "Go on with A"
        );
        assert_eq!(evening_choice(&DARK, &campaigns, &list, &filters).title, "Go on with A");
    }

    #[test]
    fn a_near_bright_moon_is_told() {
        assert_eq!(
            evening(0.2, 0.3).words,
            "Ha for 3 h 30 min: from 20 to 30 % of its goals, only 25 degrees from a moon lit to \
                90 %."
        );
        assert_eq!(moon_words(80.0, 0.2, 0.1), "");
        assert_eq!(evening(1.0, 1.0).words, "Every goal is reached.");
    }
}
