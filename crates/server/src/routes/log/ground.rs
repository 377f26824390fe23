//! What a night is learned from: its frames, what was planned of their target, the kit and the site.

use salt_lamp_core::campaign::{CLEAR_SHARE, Campaign, CampaignFraming};
use salt_lamp_core::library::{ShelfThing, same_name};
use salt_lamp_core::log::{FrameJudged, NightAir, is_of, same_optics};
use salt_lamp_core::scenario::{Contender, Scenario, Site};
use salt_lamp_store::{
    HeaderName, LogSession, LoggedFrame, StoredCampaign, StoredEntry, StoredScenario,
};

use super::{air, judged};
use crate::{App, Problem};

/// What was planned of a target: a campaign with its revision, or a comparison as if it were one.
pub(super) struct Planned {
    pub(super) id: String,
    pub(super) revision: Option<i64>,
    pub(super) campaign: Campaign,
}

impl Planned {
    fn of_campaign(c: StoredCampaign) -> Self {
        Self { id: c.id, revision: Some(c.revision), campaign: c.campaign }
    }

    /// A comparison: any of its light paths, pointed as the frames are.
    fn of_comparison(
        s: StoredScenario,
        [ra_deg, dec_deg]: [f64; 2],
        shelf: &[StoredEntry],
    ) -> Self {
        let mut scenario = s.scenario;
        as_in_kit(&mut scenario, shelf);
        let campaign = Campaign {
            title: scenario.title.clone(),
            contender: 0,
            also: (1..scenario.contenders.len()).collect(),
            site: String::new(),
            framing: CampaignFraming { ra_deg, dec_deg, position_angle_deg: 0.0 },
            goals: Vec::new(),
            clear_share: CLEAR_SHARE,
            nights: Vec::new(),
            scenario,
        };
        Self { id: s.row.id, revision: None, campaign }
    }
}

/// Puts what the kit knows by now of telescopes and cameras into a comparison's light paths.
fn as_in_kit(s: &mut Scenario, shelf: &[StoredEntry]) {
    for c in &mut s.contenders {
        let own = shelf.iter().filter(|e| e.mine && is_part(&e.entry.thing, c));
        for thing in own.map(|e| e.entry.thing.clone()).collect::<Vec<_>>() {
            match thing {
                ShelfThing::Telescope(t) => c.optics.throughput = t.optics.throughput,
                ShelfThing::Camera(k) => {
                    (c.sensor.gains, c.sensor.dark) = (k.sensor.gains, k.sensor.dark);
                }
                _ => {}
            }
        }
    }
}

/// Everything that a night is learned from.
pub(crate) struct Ground {
    pub(super) session: LogSession,
    pub(crate) frames: Vec<(LoggedFrame, Option<FrameJudged>)>,
    pub(super) planned: Vec<Planned>,
    /// Comparisons of the target beside them, the last changed first.
    pub(super) beside: Vec<Planned>,
    pub(super) names: Vec<HeaderName>,
    pub(super) shelf: Vec<StoredEntry>,
    pub(super) air: NightAir,
}

impl Ground {
    pub(crate) async fn of(app: &App, id: &str) -> Result<Self, Problem> {
        let session = app.store.log_session(id).await?;
        let frames = judged(app, id).await?.frames;
        let shelf = app.store.shelf(true).await?;
        let ours = |c: &Campaign| frames.iter().any(|(f, _)| is_of(&f.measured, c));
        let campaigns = app.store.campaigns().await?.into_iter().filter(|c| ours(&c.campaign));
        let mut planned: Vec<Planned> = campaigns.map(Planned::of_campaign).collect();
        let mut beside = comparisons(app, &frames, &shelf).await?;
        if planned.is_empty() && !beside.is_empty() {
            planned.push(beside.remove(0));
        }
        Ok(Self {
            session,
            frames,
            planned,
            beside,
            names: app.store.header_names().await?,
            shelf,
            air: air(app).await?,
        })
    }

    /// The site where the frames say that they were taken, else a campaign's, else that of its sky by
    /// its name, else the usual one.
    pub(crate) fn site(&self, c: &Campaign) -> Option<(&StoredEntry, &Site)> {
        let here = self.frames.iter().find_map(|(f, _)| f.measured.site());
        let is_here = |e: &&StoredEntry| match (&e.entry.thing, here) {
            (ShelfThing::Site(s), Some(p)) => s.is_at(p.latitude_deg, p.longitude_deg),
            _ => false,
        };
        let sites = || self.shelf.iter().filter(|e| matches!(e.entry.thing, ShelfThing::Site(_)));
        let own = sites()
            .find(is_here)
            .or_else(|| sites().find(|e| e.id == c.site))
            .or_else(|| sites().find(|e| Some(&e.entry.name) == c.scenario.sky.site.as_ref()))
            .or_else(|| sites().find(|e| e.mine))?;
        match &own.entry.thing {
            ShelfThing::Site(site) => Some((own, site)),
            _ => None,
        }
    }
}

/// Comparisons of one target that are looked at.
const COMPARISONS: usize = 8;

/// The comparisons whose target the frames are of, the last changed first.
async fn comparisons(
    app: &App,
    frames: &[(LoggedFrame, Option<FrameJudged>)],
    shelf: &[StoredEntry],
) -> Result<Vec<Planned>, Problem> {
    let header = |f: &LoggedFrame| {
        let h = &f.measured.read.header;
        Some((h.object.clone()?, [h.ra_deg?, h.dec_deg?]))
    };
    let Some((object, at)) = frames.iter().find_map(|(f, _)| header(f)) else {
        return Ok(Vec::new());
    };
    let mut all = Vec::new();
    let rows = app.store.scenarios().await?;
    for row in rows.iter().filter(|s| same_name(&s.target, &object)).take(COMPARISONS) {
        let stored = app.store.scenario(&row.id).await?;
        all.push(Planned::of_comparison(stored, at, shelf));
    }
    Ok(all)
}

/// Whether a thing of the kit is a part of a light path.
pub(super) fn is_part(thing: &ShelfThing, c: &Contender) -> bool {
    match thing {
        ShelfThing::Telescope(t) => same_optics(&t.optics, &c.optics),
        ShelfThing::Camera(k) => k.sensor.name == c.sensor.name,
        _ => false,
    }
}
