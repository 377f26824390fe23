//! The invented demo: what a new user finds when the demo is served.

use std::collections::BTreeMap;

use salt_lamp_core::campaign::{Campaign, CampaignFraming, CampaignGoal, CampaignNight, Shot};
use salt_lamp_core::decide::purpose;
use salt_lamp_core::library::Example;
use salt_lamp_core::light::{Quantity, Tables};
use salt_lamp_core::scenario::{Exposure, TargetKind};
use salt_lamp_core::signal::Model;
use salt_lamp_core::trial::{Judged, Treatment, Trial, TrialDesign, TrialKind};
use salt_lamp_store::{Store, StoreError};

/// Puts the examples into a store that has no scenarios yet; one that has some is left alone.
pub async fn seed(store: &Store, examples: &[Example], tables: &Tables) -> Result<(), StoreError> {
    if !store.scenarios().await?.is_empty() {
        return Ok(());
    }
    // Last changed is listed first: the first example goes in last. Their ids make stable links.
    for example in examples.iter().rev() {
        match store.restore_scenario(example.id).await {
            Err(StoreError::NotFound { .. }) => {
                drop(store.add_scenario_as(example.id, &example.scenario).await?)
            }
            other => drop(other?),
        }
    }
    if let Some(example) = examples.iter().find(|e| e.id == "larch-lane-ic-443")
        && store.campaigns().await?.is_empty()
    {
        store.add_campaign_as("ic-443-winter", &campaign(example, tables)).await?;
        if let Some(trial) = trial(example) {
            store.add_trial_as("two-3-nm-sets", &trial).await?;
        }
    }
    Ok(())
}

/// An invented trial: two H-alpha filters of 3 nm that their boxes say are alike.
fn trial(example: &Example) -> Option<Trial> {
    let mut scenario = example.scenario.clone();
    scenario.title = "NGC 281: two sets of 3 nm".to_owned();
    scenario.target.name = "NGC 281".to_owned();
    scenario.target.kind = TargetKind::HIiRegion;
    let l = &mut scenario.target.lines_rayleigh;
    (l.ha, l.nii, l.oiii, l.sii, l.hb) = (160.0, 50.0, 8.0, 40.0, 45.0);
    scenario.target.continuum = None;
    scenario.contenders.truncate(1);
    let path = scenario.contenders.first_mut()?;
    path.name = "Mono, two H-alpha 3 nm".to_owned();
    let mut sets = Vec::new();
    for set in ["set one", "set two"] {
        let mut e = path.exposures.first()?.clone();
        (e.share, e.test_frame) = (0.5, None);
        let filter = e.filter.as_mut()?;
        filter.name = format!("H-alpha 3 nm, {set}");
        filter.price = filter.price.map(|p| if set == "set two" { 1.8 * p } else { p });
        sets.push(e);
    }
    path.exposures = sets;
    let dearer = |e: &Exposure| e.filter.as_ref().and_then(|f| f.price).unwrap_or(0.0);
    let dearer = dearer(&path.exposures[1]) - dearer(&path.exposures[0]);
    let framing = CampaignFraming { ra_deg: 13.25, dec_deg: 56.62, position_angle_deg: 0.0 };
    Some(Trial {
        title: "Two H-alpha filters of 3 nm".to_owned(),
        scenario,
        site: "larch-lane".to_owned(),
        framing,
        treatment: Treatment::Filter,
        judged: Judged::PatchSnr,
        quantity: Quantity::Ha,
        kinds: [0, 1].map(|exposure| TrialKind { path: 0, exposure }).to_vec(),
        design: TrialDesign { dearer: Some(dearer), ..TrialDesign::default() },
        nights: Vec::new(),
        marks: None,
        frames: Vec::new(),
    })
}

/// An invented campaign, two nights old.
fn campaign(example: &Example, tables: &Tables) -> Campaign {
    let night = |date: &str, note: &str, ha: (u32, f64), oiii: (u32, f64)| CampaignNight {
        date: date.to_owned(),
        shots: [ha, oiii]
            .into_iter()
            .enumerate()
            .map(|(exposure, (subs, snr2))| Shot {
                path: None,
                exposure,
                subs,
                snr2,
                lines_snr2: BTreeMap::new(),
            })
            .collect(),
        blocks: Vec::new(),
        struck_out: Vec::new(),
        note: note.to_owned(),
        planned: false,
    };
    // What its scenario wants of each filter, as a signal to noise of the mean.
    let goals = match example.scenario.clone().check() {
        Ok(checked) => {
            let path = &Model::nominal(&checked, tables).paths[0];
            let goal = |(exposure, e)| CampaignGoal {
                exposure,
                quantity: None,
                snr: purpose(e).map_or(example.scenario.usual_snr(), |q| path.mean_snr_at_goal(q)),
            };
            path.exposures.iter().enumerate().map(goal).collect()
        }
        Err(_) => Vec::new(),
    };
    Campaign {
        title: "IC 443, winter 2026-27".to_owned(),
        scenario: example.scenario.clone(),
        contender: 0,
        site: "larch-lane".to_owned(),
        framing: CampaignFraming { ra_deg: 94.25, dec_deg: 22.57, position_angle_deg: 20.0 },
        goals,
        also: Vec::new(),
        clear_share: 0.25,
        nights: vec![
            night("2026-11-08", "clear until two", (30, 138.0), (42, 92.0)),
            night("2026-11-15", "thin cloud at first", (18, 70.0), (30, 61.0)),
        ],
    }
}
