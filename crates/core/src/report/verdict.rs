//! The verdict on a light path, a sentence a question: sub, gain, core, what the clock brings, and
//! how long the goals take.

use serde::Serialize;
use utoipa::ToSchema;

use crate::decide::copies::copies;
use crate::decide::differences::named;
use crate::decide::gain::GainDecision;
use crate::decide::goals::wanted;
use crate::decide::study::Study;
use crate::decide::sub::decision::SubDecision;
use crate::decide::uncertainty::draws::{between, stated};
use crate::decide::uncertainty::ranges::QuantityRange;
use crate::evaluate::answer::{ChannelAnswer, ContenderAnswer, ExposureAnswer, QuantityAnswer};
use crate::light::lines::Quantity;
use crate::scenario::document::Scenario;
use crate::scenario::goal::TargetPart;
use crate::scenario::target::Known;
use crate::signal::model::LightPath;
use crate::wording::{arcsec, clock, seconds};

/// The questions that a verdict answers.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum VerdictOn {
    /// How long a sub.
    Sub,
    /// Which gain.
    Gain,
    /// Whether the core clips.
    Core,
    /// How clean it is when the clock ends.
    Clean,
    /// How long the goals take.
    Time,
    /// How it differs from the first path.
    Difference,
}

/// A sentence that answers a question, with its reasons.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Verdict {
    /// Which question it answers.
    pub about: VerdictOn,
    /// The quantity that it is about; null where it is about all of them.
    pub quantity: Option<Quantity>,
    /// What is answered: "Sub", "Time", or a quantity.
    pub question: String,
    /// The answer in a few words, for a strip of answers.
    pub short: String,
    /// The answer.
    pub text: String,
    /// The formulas behind it with the numbers put in, a line each.
    pub reasons: Vec<String>,
}

fn filter_name(e: &ExposureAnswer) -> &str {
    e.filter.as_deref().unwrap_or("no filter")
}

/// The verdict on the path at `at`.
pub(super) fn verdicts(study: &Study, at: usize) -> Vec<Verdict> {
    let (s, c, subs, gain) =
        (study.scenario(), &study.evaluation.contenders[at], &study.subs[at], &study.gains[at]);
    let path = &study.model.paths[at];
    let copies = copies(s, &s.contenders[at], path, study.draws.of(at));
    let alone = subs.len() == 1;
    let each: Vec<String> = subs
        .iter()
        .zip(&c.exposures)
        .map(
            |(d, e)| if alone { d.text.clone() } else { format!("{}: {}", filter_name(e), d.text) },
        )
        .collect();
    let reasons = subs
        .iter()
        .zip(&c.exposures)
        .flat_map(|(d, e)| d.reasons.iter().map(move |r| format!("{}: {r}", filter_name(e))));
    let mut reasons: Vec<String> = reasons.collect();
    reasons.extend(swamp_reasons(c));
    let scale = if gain.scale == "ISO" { "ISO" } else { "Gain" };
    let asked = Asked::new(study, at);
    let mut out = vec![
        Verdict {
            about: VerdictOn::Sub,
            quantity: None,
            question: "Sub".into(),
            short: short_subs(subs),
            text: each.join("; "),
            reasons,
        },
        Verdict {
            about: VerdictOn::Gain,
            quantity: None,
            question: scale.into(),
            short: short_gain(gain),
            text: gain.text.clone(),
            reasons: gain.reasons.clone(),
        },
    ];
    out.extend(core_verdict(s, c, subs));
    out.extend(asked.at_the_end());
    out.push(asked.time(copies));
    out.extend(asked.each());
    out
}

fn sum_background(ch: &ChannelAnswer) -> f64 {
    let r = &ch.rates_e_per_s;
    r.natural + r.artificial + r.moon + r.twilight + r.dark
}

fn swamp_reasons(c: &ContenderAnswer) -> impl Iterator<Item = String> {
    c.exposures.iter().flat_map(|e| {
        e.channels.iter().filter_map(|ch| {
            let t = ch.sub_exposure.excess_5pct_s?;
            Some(format!(
                "{}, {}: read noise adds 5 % at t = 9.76 R² / (B + D) = 9.76 × {:.2}² / {:.4} = {}",
                filter_name(e),
                ch.channel,
                ch.read_noise_e,
                sum_background(ch),
                seconds(t)
            ))
        })
    })
}

/// What is to be said beside a time where the target's own brightness is not known.
fn unknown(known: Option<Known>) -> &'static str {
    match known {
        Some(Known::Typical) => "; for a brightness that is only typical of its kind",
        _ => "",
    }
}

/// One quantity of a path that somebody wants.
struct Wanted<'a> {
    q: Quantity,
    name: &'static str,
    a: QuantityAnswer,
    range: Option<&'a QuantityRange>,
}

impl Wanted<'_> {
    fn time(&self) -> String {
        let range = self.range.and_then(|r| r.time_to_goal_s);
        let open = range.map_or(String::new(), |r| format!(" ({})", between(&r)));
        self.a.time_to_goal_s.map_or_else(|| "out of reach".to_owned(), |t| clock(t) + &open)
    }

    /// Where the clock's end finds it: "at 9 arcsec", "to stars of V 16.4".
    fn clean(&self) -> Option<String> {
        match (self.a.stars_to_v_mag, self.a.clean_arcsec) {
            (Some(v), _) => Some(format!("stars to V {v:.1}")),
            (None, Some(side)) => Some(format!("{} at {}", self.name, arcsec(side))),
            (None, None) => None,
        }
    }
}

/// What is wanted of a path: a line that is mixed with a brighter one is no part of the goal, for
/// no picture shows it alone.
struct Asked<'a> {
    s: &'a Scenario,
    c: &'a ContenderAnswer,
    path: &'a LightPath,
    alone: Vec<Wanted<'a>>,
    mixed: Vec<String>,
}

impl<'a> Asked<'a> {
    fn new(study: &'a Study, at: usize) -> Self {
        let (s, path) = (study.scenario(), &study.model.paths[at]);
        let (c, ranges) = (&study.evaluation.contenders[at], &study.ranges[at]);
        let wanted = wanted(path);
        let (mut alone, mut mixed) = (Vec::new(), Vec::new());
        for (q, a) in named(c).filter(|(q, _)| wanted.contains(q)) {
            let name = s.target.name_of(q);
            match a.mixed_with {
                Some(other) => {
                    mixed.push(format!("{name} mixed with {}", s.target.mixed_name(q, other)));
                }
                None => alone.push(Wanted { q, name, a, range: ranges.get(&q) }),
            }
        }
        Self { s, c, path, alone, mixed }
    }

    /// The goal that is met last, where all are met.
    fn slowest(&self) -> Option<(&Wanted<'a>, f64)> {
        let timed = self.alone.iter().filter_map(|w| Some((w, w.a.time_to_goal_s?)));
        timed.max_by(|x, y| x.1.total_cmp(&y.1))
    }

    /// What a time is: of a set the clock of all its filters, of one filter that filter's own.
    fn whose_clock(&self) -> &'static str {
        if self.path.exposures.len() > 1 { " of the set's clock" } else { "" }
    }

    /// The shutter's time through the filters that record a quantity within a time on the clock, s.
    fn exposed_s(&self, q: Quantity, clock_s: f64) -> f64 {
        let between_s = self.path.instrument.between_s;
        let own = self.path.exposures.iter().filter(|e| e.records(q));
        own.map(|e| clock_s * e.share * e.sub_s / (e.sub_s + between_s)).sum()
    }

    fn reason(&self, w: &Wanted) -> String {
        let (s, c) = (self.s, self.c);
        let exposed = w.a.time_to_goal_s.map_or(String::new(), |t| {
            format!("; {} of it is exposure in that light", clock(self.exposed_s(w.q, t)))
        });
        let clean = w.clean().map_or(String::new(), |at| format!(", clean: {at}"));
        format!(
            "{}: SNR {:.1} after {} on {}\u{2033} of the mean{clean}; SNR grows as the square root \
                of time, so {} takes {}{}{exposed}",
            w.name,
            w.a.snr,
            clock(c.clock_s),
            s.detail_arcsec,
            s.goal_words(w.q),
            w.time(),
            self.whose_clock(),
        )
    }

    /// How clean everything is when the clock ends; none where the document keeps the old goal.
    fn at_the_end(&self) -> Option<Verdict> {
        let parts: Vec<String> = self.alone.iter().filter_map(Wanted::clean).collect();
        if self.s.goals.is_empty() || parts.is_empty() {
            return None;
        }
        let reason = |w: &Wanted| {
            let side = |x: Option<f64>| x.map_or("never".to_owned(), arcsec);
            let (kind, clean) = (self.s.target.kind, &w.a.clean);
            let core = kind.part_name(TargetPart::Core, w.q);
            format!(
                "{}: {core} clean at {}, body at {}, outskirts at {}; seeing and pixels allow {}",
                w.name,
                side(clean.core_arcsec),
                side(clean.body_arcsec),
                side(clean.outskirts_arcsec),
                arcsec(w.a.finest_arcsec)
            )
        };
        Some(Verdict {
            about: VerdictOn::Clean,
            quantity: None,
            question: format!("Clean after {}", clock(self.c.clock_s)),
            short: parts.join(", "),
            text: parts.join(", "),
            reasons: self.alone.iter().map(reason).collect(),
        })
    }

    fn time(&self, copies: Vec<String>) -> Verdict {
        let s = self.s;
        let told = |w: &Wanted| {
            if s.goals.is_empty() {
                format!("{} {}", w.name, w.time())
            } else {
                format!("{} in {}", s.goal_phrase(w.q), w.time())
            }
        };
        let parts: Vec<String> =
            self.alone.iter().map(told).chain(self.mixed.iter().cloned()).collect();
        let slowest = self.slowest();
        let weak = match slowest {
            Some((w, _)) if self.alone.len() > 1 => format!("; {} is the weak one", w.name),
            _ => String::new(),
        };
        let unknown = unknown(s.target.known);
        let text = if parts.is_empty() {
            "records none of the target's light".to_owned()
        } else {
            format!("{}{weak}{}{unknown}", parts.join(", "), self.whose_clock_at_end())
        };
        let short = match (slowest, parts.len()) {
            (_, 0) => "records none of it".to_owned(),
            (Some((w, t)), n) if n > 1 => format!("{}, for {}, the slowest", clock(t), w.name),
            (Some((_, t)), _) => clock(t),
            (None, _) => text.clone(),
        };
        let mut reasons: Vec<String> = self.alone.iter().map(|w| self.reason(w)).collect();
        reasons.extend(copies);
        reasons.push(format!("Ranges: {}", stated(s)));
        let question = match &self.alone[..] {
            [_] if !s.goals.is_empty() => "Time to the goal".to_owned(),
            _ => format!("Time to {}", s.goals_words()),
        };
        Verdict { about: VerdictOn::Time, quantity: None, question, short, text, reasons }
    }

    /// The time to the goal of each light that is wanted, for whoever judges by it alone; none where
    /// there is but one, or the document keeps the old goal.
    fn each(&self) -> Vec<Verdict> {
        if self.s.goals.is_empty() || self.alone.len() < 2 {
            return Vec::new();
        }
        let one = |w: &Wanted| Verdict {
            about: VerdictOn::Time,
            quantity: Some(w.q),
            question: "Time to the goal".to_owned(),
            short: w.time(),
            text: format!("{} in {}{}", self.s.goal_phrase(w.q), w.time(), self.whose_clock()),
            reasons: vec![self.reason(w), format!("Ranges: {}", stated(self.s))],
        };
        self.alone.iter().map(one).collect()
    }

    fn whose_clock_at_end(&self) -> &'static str {
        if self.s.goals.is_empty() || self.path.exposures.len() < 2 {
            ""
        } else {
            "; all on the clock of the whole set"
        }
    }
}

/// What a bright core comes to in the subs that are advised; none where it does not clip.
fn core_verdict(s: &Scenario, c: &ContenderAnswer, subs: &[SubDecision]) -> Option<Verdict> {
    let clipped: Vec<(&SubDecision, &ExposureAnswer, f64)> = subs
        .iter()
        .zip(&c.exposures)
        .filter_map(|(d, e)| {
            let at = e.channels.iter().map(|c| c.sub_exposure.core_clips_s);
            let clips_s = at.fold(f64::INFINITY, f64::min);
            (s.target.peak_factor > 1.0 && clips_s < e.sub_s).then_some((d, e, clips_s))
        })
        .collect();
    let (first, e, clips_s) = clipped.first()?;
    let more = first.short_set.as_ref();
    let short = match more {
        Some(set) => format!(
            "clips from {} on; {} subs of {} more would keep it",
            seconds(*clips_s),
            set.subs,
            seconds(set.sub_s)
        ),
        None => format!("clips from {} on in your {}", seconds(*clips_s), seconds(e.sub_s)),
    };
    let text = |(d, e, at): &(&SubDecision, &ExposureAnswer, f64)| {
        let set = d.short_set.as_ref().map_or(String::new(), |set| format!(" {}", set.text));
        let (from, yours) = (seconds(*at), seconds(e.sub_s));
        format!("{}: the core clips from {from} on, your subs are {yours}.{set}", filter_name(e))
    };
    let each: Vec<String> = clipped.iter().map(text).collect();
    Some(Verdict {
        about: VerdictOn::Core,
        quantity: None,
        question: "Core".into(),
        short,
        text: each.join(" "),
        reasons: vec![format!(
            "The brightest part is taken as {} times the mean.",
            s.target.peak_factor
        )],
    })
}

/// The subs of a path's filters in a few words: one for all where one length is as good for each.
fn short_subs(subs: &[SubDecision]) -> String {
    let all = |f: fn(&SubDecision) -> f64, pick: fn(f64, f64) -> f64, from: f64| {
        subs.iter().map(f).fold(from, pick)
    };
    let from_s = all(|d| d.plateau_s[0], f64::max, 0.0);
    let to_s = all(|d| d.plateau_s[1], f64::min, f64::INFINITY);
    let (least_s, most_s) =
        (all(|d| d.advised_s, f64::min, f64::INFINITY), all(|d| d.advised_s, f64::max, 0.0));
    let agreed = from_s < to_s && least_s >= from_s && most_s <= to_s;
    match subs {
        [] => String::new(),
        [d, ..] if agreed && (subs.len() == 1 || most_s < 1.3 * least_s) => {
            let span = format!("{} to {} is as good", seconds(from_s), seconds(to_s));
            let each = if subs.len() == 1 { "" } else { " through each" };
            format!("{}{each}; {span}", seconds(d.advised_s))
        }
        _ => {
            let each = subs.iter().map(|d| {
                let filter = d.filter.as_deref().unwrap_or("no filter");
                format!("{filter} {}", seconds(d.advised_s))
            });
            each.collect::<Vec<_>>().join(", ")
        }
    }
}

/// The advised gain in a few words, beside the one in use where that is another.
fn short_gain(gain: &GainDecision) -> String {
    if (gain.advised - gain.yours).abs() < 1e-9 {
        format!("{}, as you have it", gain.advised)
    } else {
        format!("{} instead of your {}", gain.advised, gain.yours)
    }
}
