//! The invented demo: what a new user finds when the demo is served.

use std::collections::BTreeMap;

use salt_lamp_core::campaign::{Campaign, CampaignFraming, CampaignGoal, CampaignNight, Shot};
use salt_lamp_core::library::Example;
use salt_lamp_store::{Store, StoreError};

/// Puts the examples into a store that has no scenarios yet; one that has some is left alone.
pub async fn seed(store: &Store, examples: &[Example]) -> Result<(), StoreError> {
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
        store.add_campaign_as("ic-443-winter", &campaign(example)).await?;
    }
    Ok(())
}

/// An invented campaign, two nights old.
fn campaign(example: &Example) -> Campaign {
    let night = |date: &str, note: &str, ha: (u32, f64), oiii: (u32, f64)| CampaignNight {
        date: date.to_owned(),
        shots: [ha, oiii]
            .into_iter()
            .enumerate()
            .map(|(exposure, (subs, snr2))| Shot {
                exposure,
                subs,
                snr2,
                lines_snr2: BTreeMap::new(),
            })
            .collect(),
        note: note.to_owned(),
        planned: false,
    };
    Campaign {
        title: "IC 443, winter 2026-27".to_owned(),
        scenario: example.scenario.clone(),
        contender: 0,
        site: "larch-lane".to_owned(),
        framing: CampaignFraming { ra_deg: 94.25, dec_deg: 22.57, position_angle_deg: 20.0 },
        goals: [0, 1].map(|exposure| CampaignGoal { exposure, quantity: None, snr: 20.0 }).to_vec(),
        clear_share: 0.25,
        nights: vec![
            night("2026-11-08", "clear until two", (30, 138.0), (42, 92.0)),
            night("2026-11-15", "thin cloud at first", (18, 70.0), (30, 61.0)),
        ],
    }
}
