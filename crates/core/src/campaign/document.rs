//! A campaign as it is kept: a target's framing, goals and nights.

use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::light::lines::Quantity;
use crate::night::plan::spec::{MOST_SNR2, StruckOut};
use crate::scenario::check::{Checker, FieldRange, MAX_CONTENDERS, MOST_ENTRIES, is_date};
use crate::scenario::document::Scenario;
use crate::scenario::field_error::FieldError;
use crate::scenario::pointing::Pointing;

/// Framing that stays the same from night to night.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CampaignFraming {
    /// Right ascension of the middle, degrees, ICRS.
    pub ra_deg: f64,
    /// Declination of the middle, degrees, ICRS.
    pub dec_deg: f64,
    /// Position angle of up, degrees from north through east.
    #[serde(default)]
    pub position_angle_deg: f64,
}

impl CampaignFraming {
    /// Checks it as the field `framing`.
    pub(crate) fn checked_by(&self, c: &mut Checker) {
        c.place_on_sky("framing", self.ra_deg, self.dec_deg);
        let angle = self.position_angle_deg;
        c.within("framing.position_angle_deg", angle, -360.0, 360.0, "degrees");
    }
}

impl From<Pointing> for CampaignFraming {
    fn from(at: Pointing) -> Self {
        let Pointing { ra_deg, dec_deg, position_angle_deg } = at;
        Self { ra_deg, dec_deg, position_angle_deg }
    }
}

/// What one exposure must reach.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CampaignGoal {
    /// Index of the exposure in the contender.
    pub exposure: usize,
    /// The line that must reach it; null for what the exposure is for. A dual band may have a goal
    /// for each of its lines.
    #[serde(default)]
    pub quantity: Option<Quantity>,
    /// Signal to noise.
    pub snr: f64,
}

/// One exposure's share of a night that was shot.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Shot {
    /// Index of the contender, where it is another than the campaign's own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub path: Option<usize>,
    /// Index of the exposure.
    pub exposure: usize,
    /// Subs that were kept.
    pub subs: u32,
    /// Square of the signal to noise that they add in what the exposure is for.
    pub snr2: f64,
    /// The same for every line that its filter records.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    #[schema(value_type = BTreeMap<String, f64>)]
    pub lines_snr2: BTreeMap<Quantity, f64>,
}

impl Shot {
    /// What it adds to a line; to what the exposure is for where none is named, or where only that
    /// was kept.
    pub fn snr2_of(&self, quantity: Option<Quantity>, purpose: Option<Quantity>) -> f64 {
        match quantity {
            Some(q) if Some(q) != purpose => self.lines_snr2.get(&q).copied().unwrap_or(0.0),
            _ => self.snr2,
        }
    }
}

/// One block of a night as it went.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct BlockTaken {
    /// Index of the exposure.
    pub exposure: usize,
    /// Start, seconds since 1970 UTC.
    pub from_s: f64,
    /// End, seconds since 1970 UTC.
    pub to_s: f64,
    /// Subs that were kept.
    pub subs: u32,
    /// Subs that cloud took.
    #[serde(default)]
    pub lost_to_cloud: u32,
    /// Free text.
    #[serde(default)]
    pub note: String,
}

/// A night that was shot, or is planned.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CampaignNight {
    /// Evening's date, such as "2027-01-10".
    pub date: String,
    /// What was shot.
    pub shots: Vec<Shot>,
    /// The same block by block, where it was kept so: hours, cloud and notes. What counts are the
    /// shots.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub blocks: Vec<BlockTaken>,
    /// Hours of it that were struck out: a night that was cut stays so.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub struck_out: Vec<StruckOut>,
    /// Free text.
    #[serde(default)]
    pub note: String,
    /// Only planned so far: it does not count towards the goals.
    #[serde(default)]
    pub planned: bool,
}

/// Share of clear nights with which a campaign begins: one in four, until its user says better
/// (common practice, no source).
pub const CLEAR_SHARE: f64 = 0.25;

/// A campaign as it is kept.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Campaign {
    /// Free text.
    pub title: String,
    /// Target, sky and rig; of its contenders the one that is named.
    pub scenario: Scenario,
    /// Index of the contender that is used.
    pub contender: usize,
    /// Other contenders of the scenario whose frames count too.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub also: Vec<usize>,
    /// Id of the site on the shelf.
    pub site: String,
    /// Framing.
    pub framing: CampaignFraming,
    /// Goals.
    pub goals: Vec<CampaignGoal>,
    /// Share of nights that are clear, 0-1.
    pub clear_share: f64,
    /// Nights that were shot.
    #[serde(default)]
    pub nights: Vec<CampaignNight>,
}

/// Most subs of one filter in one night: one a second from dusk to dawn.
const MOST_SUBS: f64 = 100_000.0;

/// Most nights of a campaign.
const MOST_NIGHTS: usize = 5_000;

impl Campaign {
    /// Checks every field.
    ///
    /// # Errors
    /// All fields that are wrong, with what is accepted.
    pub fn check(&self) -> Result<(), Vec<FieldError>> {
        Checker::errors_of(|c| self.checked_by(c))
    }

    /// The ranges of a campaign's own numbers; those of its scenario are the scenario's.
    pub fn ranges(scenario: Scenario) -> Vec<FieldRange> {
        let shot =
            Shot { path: None, exposure: 0, subs: 0, snr2: 0.0, lines_snr2: BTreeMap::new() };
        let campaign = Self {
            title: String::new(),
            scenario,
            contender: 0,
            also: Vec::new(),
            site: String::new(),
            framing: CampaignFraming { ra_deg: 0.0, dec_deg: 0.0, position_angle_deg: 0.0 },
            goals: vec![CampaignGoal { exposure: 0, quantity: None, snr: 1.0 }],
            clear_share: CLEAR_SHARE,
            nights: vec![CampaignNight {
                date: String::new(),
                shots: vec![shot],
                blocks: Vec::new(),
                struck_out: Vec::new(),
                note: String::new(),
                planned: false,
            }],
        };
        Checker::ranges_of(|c| campaign.checked_by(c))
    }

    fn checked_by(&self, c: &mut Checker) {
        c.title("title", &self.title);
        c.text("site", &self.site);
        if let Err(list) = self.scenario.clone().check() {
            list.into_iter().for_each(|e| c.wrong(format!("scenario.{}", e.path), e.message));
        }
        let exposures =
            self.scenario.contenders.get(self.contender).map_or(0, |c| c.exposures.len());
        if exposures == 0 {
            c.wrong("contender", format!("there is no contender {}; count from 0", self.contender));
        }
        let also = c.at_most("also", self.also.len(), MAX_CONTENDERS);
        for (i, path) in self.also.iter().enumerate().take(also) {
            let twice = *path == self.contender || self.also[..i].contains(path);
            if twice || *path >= self.scenario.contenders.len() {
                c.wrong(
                    format!("also[{i}]"),
                    format!("{path}; give each other contender of the scenario once, from 0"),
                );
            }
        }
        self.framing.checked_by(c);
        c.within("clear_share", self.clear_share, 0.01, 1.0, "of the nights that are clear");
        // Without a contender there are no exposures to check against: that is told once.
        let known = |exposure: usize| exposures == 0 || exposure < exposures;
        let goals = &self.goals[..c.at_most("goals", self.goals.len(), MOST_ENTRIES)];
        for (i, g) in goals.iter().enumerate() {
            if !known(g.exposure) {
                c.wrong(
                    format!("goals[{i}].exposure"),
                    format!("there is no exposure {}; count from 0", g.exposure),
                );
            }
            c.within(format_args!("goals[{i}].snr"), g.snr, 0.1, 1000.0, "");
            if g.quantity == Some(Quantity::HaAlone) {
                c.wrong(
                    format!("goals[{i}].quantity"),
                    "H-alpha alone; a night counts H-alpha with [N II]: give ha, oiii, sii, hb, \
                        continuum or null",
                );
            }
        }
        for (i, g) in goals.iter().enumerate() {
            if goals[..i].iter().any(|o| (o.exposure, o.quantity) == (g.exposure, g.quantity)) {
                c.wrong(
                    format!("goals[{i}]"),
                    "the same exposure and line as a goal before it; give each once",
                );
            }
        }
        if self.goals.is_empty() {
            c.wrong("goals", "empty; give at least one goal");
        }
        let nights = c.at_most("nights", self.nights.len(), MOST_NIGHTS);
        for (i, n) in self.nights.iter().enumerate().take(nights) {
            let shots = c.at_most(&format!("nights[{i}].shots"), n.shots.len(), MOST_ENTRIES);
            let struck = format!("nights[{i}].struck_out");
            let struck = c.at_most(&struck, n.struck_out.len(), MOST_ENTRIES);
            c.page(format_args!("nights[{i}].note"), &n.note);
            if !is_date(&n.date) {
                c.wrong(
                    format!("nights[{i}].date"),
                    format!(
                        "\"{}\" is no date; give one such as 2027-01-10, between 1980 and 2090",
                        n.date
                    ),
                );
            }
            for (j, s) in n.struck_out.iter().enumerate().take(struck) {
                let at = format_args!("nights[{i}].struck_out[{j}].to_s");
                c.within(at, s.to_s - s.from_s, 60.0, 86_400.0, "s after its start");
            }
            let of_night = n.shots.first().and_then(|s| s.path).map(|p| self.exposures_of(p));
            let of_block = |x: usize| of_night.map_or_else(|| known(x), |all| x < all);
            self.blocks_checked(c, &format!("nights[{i}].blocks"), &n.blocks, &of_block);
            for (j, s) in n.shots.iter().enumerate().take(shots) {
                let at = format!("nights[{i}].shots[{j}]");
                let of_path = s.path.map_or(exposures, |p| self.exposures_of(p));
                if of_path > 0 && s.exposure >= of_path {
                    c.wrong(
                        format!("{at}.exposure"),
                        format!("there is no exposure {}; count from 0", s.exposure),
                    );
                }
                c.within(format_args!("{at}.subs"), f64::from(s.subs), 0.0, MOST_SUBS, "subs");
                for (q, v) in &s.lines_snr2 {
                    c.within(format_args!("{at}.lines_snr2.{}", q.key()), *v, 0.0, MOST_SNR2, "");
                }
                c.within(format_args!("{at}.snr2"), s.snr2, 0.0, MOST_SNR2, "");
            }
        }
    }

    fn blocks_checked(
        &self,
        c: &mut Checker,
        at: &str,
        blocks: &[BlockTaken],
        known: &dyn Fn(usize) -> bool,
    ) {
        let count = c.at_most(at, blocks.len(), MOST_ENTRIES);
        for (j, b) in blocks.iter().enumerate().take(count) {
            if !known(b.exposure) {
                c.wrong(
                    format!("{at}[{j}].exposure"),
                    format!("there is no exposure {}; count from 0", b.exposure),
                );
            }
            c.within(format_args!("{at}[{j}].subs"), f64::from(b.subs), 0.0, MOST_SUBS, "subs");
            let lost = f64::from(b.lost_to_cloud);
            c.within(format_args!("{at}[{j}].lost_to_cloud"), lost, 0.0, MOST_SUBS, "subs");
            let length = b.to_s - b.from_s;
            c.within(format_args!("{at}[{j}].to_s"), length, 1.0, 172_800.0, "s after its start");
            c.page(format_args!("{at}[{j}].note"), &b.note);
        }
    }

    /// Exposures of one of the scenario's contenders.
    pub fn exposures_of(&self, contender: usize) -> usize {
        self.scenario.contenders.get(contender).map_or(0, |c| c.exposures.len())
    }

    /// Whether a shot was taken through the campaign's own light path.
    pub fn is_own(&self, shot: &Shot) -> bool {
        shot.path.is_none_or(|p| p == self.contender)
    }

    /// Square of the signal to noise that a goal has; `purpose` is what its exposure is for. Frames
    /// of another light path count for the line that a goal is of, whatever filter it came through;
    /// for stars and galaxies in their own light they count where the filter has the same name.
    pub fn done_snr2(&self, goal: &CampaignGoal, purpose: Option<Quantity>) -> f64 {
        let shots = self.nights.iter().filter(|n| !n.planned).flat_map(|n| &n.shots);
        let name = |path: usize, exposure: usize| {
            let e = self.scenario.contenders.get(path)?.exposures.get(exposure)?;
            Some(e.filter.as_ref().map_or("", |f| f.name.as_str()))
        };
        let wanted = goal.quantity.or(purpose);
        let one = |s: &Shot| -> f64 {
            if self.is_own(s) {
                let same = s.exposure == goal.exposure;
                return if same { s.snr2_of(goal.quantity, purpose) } else { 0.0 };
            }
            let Some((q, path)) = wanted.zip(s.path) else { return 0.0 };
            let alike = q != Quantity::Continuum
                || name(path, s.exposure) == name(self.contender, goal.exposure);
            if alike { s.lines_snr2.get(&q).copied().unwrap_or(0.0) } else { 0.0 }
        };
        shots.map(one).sum()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_date_is_one_of_the_calendar() {
        for good in ["2027-01-10", "2028-02-29", "1980-01-01", "2090-12-31"] {
            assert!(is_date(good), "{good}");
        }
        for bad in [
            "",
            "2027-1-10",
            "2027-02-29",
            "2027-13-01",
            "2027-00-10",
            "2027-01-32",
            "1979-12-31",
            "10.01.2027",
            "2027-01-10T20:00",
            "-027-01-10",
            "yesterday",
        ] {
            assert!(!is_date(bad), "{bad}");
        }
    }
}
