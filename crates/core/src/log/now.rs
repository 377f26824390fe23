//! A night as it runs: what should be exposing, what comes next and when, and whether what came in
//! is good.

use serde::Serialize;
use utoipa::ToSchema;

use crate::campaign::document::BlockTaken;
use crate::log::quality::{FrameJudged, Rule};
use crate::night::ephemeris::{Ephemeris, crossings};

/// Something that has to be done, or happens.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ActKind {
    /// The first block begins.
    Begin,
    /// Another filter is wanted.
    FilterChange,
    /// The focus is due.
    Refocus,
    /// The target crosses the meridian in a block: the mount turns over.
    Flip,
    /// The moon comes up.
    Moonrise,
    /// The moon goes down.
    Moonset,
    /// The last block ends.
    End,
}

/// An act with its time.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Act {
    /// What.
    pub kind: ActKind,
    /// When, seconds since 1970 UTC.
    pub at_s: f64,
    /// In words.
    pub text: String,
}

/// A planned night and where it is shot.
#[derive(Clone, Debug)]
pub struct NightUnderWay<'a> {
    /// The planned blocks in the order of time.
    pub blocks: &'a [BlockTaken],
    /// Names of the filters by exposure.
    pub filters: &'a [&'a str],
    /// Sun and moon there.
    pub ephemeris: Ephemeris,
    /// Direction of the target.
    pub target: [f64; 3],
    /// When the focus was last set, seconds since 1970 UTC, where that is known.
    pub focused_s: Option<f64>,
    /// How often it is set, s; never where it is not.
    pub refocus_every_s: Option<f64>,
}

/// Step in which meridian and moon are looked for, s.
const STEP_S: f64 = 600.0;

impl NightUnderWay<'_> {
    /// The block that runs at a moment.
    pub fn running(&self, now_s: f64) -> Option<&BlockTaken> {
        self.blocks.iter().find(|b| (b.from_s..b.to_s).contains(&now_s))
    }

    /// What comes after a moment, in the order of time.
    pub fn ahead(&self, now_s: f64) -> Vec<Act> {
        let mut all = self.block_acts();
        let Some((from_s, to_s)) =
            self.blocks.first().zip(self.blocks.last()).map(|(a, b)| (a.from_s, b.to_s))
        else {
            return Vec::new();
        };
        let act = |kind, at_s, text: &str| Act { kind, at_s, text: text.to_owned() };
        let hour =
            |t: f64| self.ephemeris.hour_angle_deg(&self.ephemeris.fixed(&self.target, t), t);
        // West of the meridian the hour angle is positive; its jump half a day later is no crossing.
        let flips = crossings(from_s, to_s, STEP_S, |t| hour(t).to_radians().sin());
        let upper = flips.into_iter().filter(|(t, rising)| *rising && hour(*t).abs() < 90.0);
        let in_block = |t: f64| self.blocks.iter().any(|b| (b.from_s..b.to_s).contains(&t));
        all.extend(
            upper
                .filter(|(t, _)| in_block(*t))
                .map(|(t, _)| act(ActKind::Flip, t, "the target crosses the meridian: flip")),
        );
        let moon = |t: f64| self.ephemeris.altitude_deg(&self.ephemeris.moon(t), t);
        all.extend(crossings(from_s, to_s, STEP_S, moon).into_iter().map(|(t, up)| match up {
            true => act(ActKind::Moonrise, t, "the moon comes up"),
            false => act(ActKind::Moonset, t, "the moon goes down"),
        }));
        if let (Some(since), Some(every)) = (self.focused_s, self.refocus_every_s)
            && self.running(now_s).is_some()
        {
            // One that is overdue is due now.
            all.push(act(ActKind::Refocus, (since + every).max(now_s), "refocus"));
        }
        all.retain(|a| a.at_s >= now_s);
        all.sort_by(|a, b| a.at_s.total_cmp(&b.at_s));
        all
    }

    fn block_acts(&self) -> Vec<Act> {
        let name = |b: &BlockTaken| self.filters.get(b.exposure).copied().unwrap_or("no filter");
        let mut all = Vec::new();
        let mut last: Option<&BlockTaken> = None;
        for b in self.blocks {
            let (kind, text) = match last {
                None => (ActKind::Begin, format!("begin with {}", name(b))),
                Some(l) if l.exposure != b.exposure => {
                    (ActKind::FilterChange, format!("change to {}", name(b)))
                }
                Some(_) => {
                    last = Some(b);
                    continue;
                }
            };
            all.push(Act { kind, at_s: b.from_s, text });
            last = Some(b);
        }
        let end =
            last.map(|b| Act { kind: ActKind::End, at_s: b.to_s, text: "the plan ends".into() });
        all.into_iter().chain(end).collect()
    }

    /// Subs that the plan has of each exposure until a moment: of a block that runs its share.
    pub fn planned_until(&self, exposure: usize, now_s: f64) -> f64 {
        let share = |b: &BlockTaken| {
            let gone = ((now_s - b.from_s) / (b.to_s - b.from_s).max(1.0)).clamp(0.0, 1.0);
            gone * f64::from(b.subs)
        };
        self.blocks.iter().filter(|b| b.exposure == exposure).map(share).sum()
    }
}

/// How the latest frames are, in a sentence, and whether something is to be done about it: the last
/// first.
pub fn state_of(last: &[&FrameJudged]) -> Option<(String, bool)> {
    /// Frames in a row that are a state and no accident.
    const ROW: usize = 3;
    let first = last.first()?;
    let row = |rule: Rule| {
        let has = |j: &&&FrameJudged| j.reasons.iter().any(|r| r.rule == rule);
        last.iter().take(ROW).filter(has).count() == ROW.min(last.len()) && last.len() >= ROW
    };
    let said = |text: &str| Some((text.to_owned(), true));
    if row(Rule::Cloud) {
        return said("Cloud: the last three frames lost their starlight. Wait, or end.");
    }
    if row(Rule::Size) {
        return said("The last three frames have swollen stars: refocus now.");
    }
    if row(Rule::Shape) {
        return said("The last three frames have drawn-out stars: look at the guiding.");
    }
    match first.reasons.first() {
        Some(r) => Some((format!("The last frame is put aside: {}", r.text), false)),
        None => Some(("The last frame is good.".to_owned(), false)),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::log::quality::tests::frame_of_the_sky;
    use crate::log::quality::{NightFrame, Reason, night_judged};
    use crate::night::ephemeris::{Direction, Place, unix_midnight};

    fn block(exposure: usize, from_s: f64, to_s: f64, subs: u32) -> BlockTaken {
        BlockTaken { exposure, from_s, to_s, subs, lost_to_cloud: 0, note: String::new() }
    }

    /// IC 443 from 46 degrees north culminates near half past midnight local mean time in January.
    #[test]
    fn what_comes_is_told_in_the_order_of_time() {
        let dusk = unix_midnight(2027, 1, 10).expect("a day") + 24.0 * 3600.0;
        let h = |hours: f64| dusk + hours * 3600.0;
        let blocks = [
            block(0, h(0.0), h(2.0), 20),
            block(0, h(2.1), h(3.0), 9),
            block(1, h(3.0), h(8.0), 50),
        ];
        let place = Place { latitude_deg: 46.0, longitude_deg: -72.0, height_m: 100.0 };
        let ephemeris = Ephemeris::new(place, h(-1.0), h(10.0)).expect("sun and moon");
        let night = NightUnderWay {
            blocks: &blocks,
            filters: &["H-alpha", "[O III]"],
            ephemeris,
            target: Direction { ra_deg: 94.25, dec_deg: 22.57 }.vector(),
            focused_s: Some(h(0.5)),
            refocus_every_s: Some(3600.0),
        };
        let kinds = |now: f64| -> Vec<ActKind> {
            let all = night.ahead(now);
            assert!(
                all.windows(2).all(|w| w[0].at_s <= w[1].at_s) && all.iter().all(|a| a.at_s >= now)
            );
            let moon = [ActKind::Moonrise, ActKind::Moonset];
            all.into_iter().map(|a| a.kind).filter(|k| !moon.contains(k)).collect()
        };
        use ActKind::{Begin, End, FilterChange, Flip, Refocus};
        assert_eq!(kinds(h(-0.5)), [Begin, FilterChange, Flip, End]);
        assert_eq!(kinds(h(1.0)), [Refocus, FilterChange, Flip, End]);
        let flip = night.ahead(h(1.0)).into_iter().find(|a| a.kind == Flip).expect("in a block");
        // Sidereal time 6 h 17 min at 72 degrees west on that night: 03:52 UTC to a few minutes.
        assert!((flip.at_s - h(3.87)).abs() < 600.0, "{}", (flip.at_s - dusk) / 3600.0);
        // Overdue is now, and between blocks nothing runs that could be refocused.
        assert_eq!(night.ahead(h(2.5))[0].at_s, h(2.5));
        assert!(!kinds(h(2.05)).contains(&Refocus) && night.running(h(2.05)).is_none());
        assert_eq!(kinds(h(9.0)), []);
        assert!((night.planned_until(0, h(1.0)) - 10.0).abs() < 1e-9);
        assert!((night.planned_until(0, h(9.0)) - 29.0).abs() < 1e-9);
        assert_eq!(night.planned_until(1, h(1.0)), 0.0);
    }

    #[test]
    fn three_frames_in_a_row_are_a_state_and_one_is_an_accident() {
        let frame = frame_of_the_sky();
        let seen = [NightFrame {
            measured: &frame,
            start_s: Some(0.0),
            airmass: None,
            guiding_arcsec: None,
        }];
        let good = night_judged(&seen, &|_| 0.2).remove(0).expect("judged");
        let good = FrameJudged { reasons: Vec::new(), ..good };
        let with = |rule| FrameJudged {
            reasons: vec![Reason { rule, text: "so it is".into() }],
            ..good.clone()
        };
        let cloud = with(Rule::Cloud);
        let told = |all: &[&FrameJudged]| state_of(all).expect("frames");
        assert!(told(&[&cloud, &cloud, &cloud]).1);
        assert_eq!(
            told(&[&cloud, &cloud]),
            ("The last frame is put aside: so it is".into(), false)
        );
        assert!(!told(&[&cloud, &good, &cloud, &cloud]).1);
        assert_eq!(told(&[&good, &cloud, &cloud, &cloud]).0, "The last frame is good.");
        assert!(
            told(&[&with(Rule::Size), &with(Rule::Size), &with(Rule::Size)]).0.contains("refocus")
        );
        assert_eq!(state_of(&[]), None);
    }
}
