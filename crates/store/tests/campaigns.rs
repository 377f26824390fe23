//! Campaigns and blind looks on a real file.

use salt_lamp_core::campaign::{Campaign, CampaignFraming, CampaignGoal, CampaignNight, Shot};
use salt_lamp_core::scenario::Scenario;
use salt_lamp_store::{CampaignSaved, Store, StoreError};

fn scenario() -> Scenario {
    serde_json::from_str(include_str!("../../../data/demo/larch-lane-ic-443.json"))
        .expect("the demo parses")
}

fn campaign(title: &str) -> Campaign {
    Campaign {
        title: title.into(),
        scenario: scenario(),
        contender: 0,
        site: "larch-lane".into(),
        framing: CampaignFraming { ra_deg: 94.25, dec_deg: 22.57, position_angle_deg: 20.0 },
        goals: vec![CampaignGoal { exposure: 0, quantity: None, snr: 20.0 }],
        also: Vec::new(),
        clear_share: 0.3,
        nights: Vec::new(),
    }
}

fn shot(date: &str, snr2: f64) -> CampaignNight {
    CampaignNight {
        date: date.into(),
        shots: vec![Shot {
            path: None,
            exposure: 0,
            subs: 30,
            snr2,
            lines_snr2: Default::default(),
        }],
        blocks: Vec::new(),
        struck_out: Vec::new(),
        note: String::new(),
        planned: false,
    }
}

async fn opened() -> (tempfile::TempDir, Store) {
    let dir = tempfile::tempdir().expect("a directory");
    let store = Store::open(dir.path()).await.expect("opens");
    (dir, store)
}

#[tokio::test]
async fn a_campaign_outlives_the_program_with_all_its_nights() {
    let (dir, store) = opened().await;
    let mut c = campaign("Winter");
    c.nights = vec![shot("2026-11-08", 100.0), shot("2026-11-09", 60.5)];
    let stored = store.add_campaign(&c).await.expect("added");
    assert_eq!((stored.revision, &stored.campaign), (1, &c));
    drop(store);
    let again = Store::open(dir.path()).await.expect("opens again");
    assert_eq!(again.campaign(&stored.id).await.expect("there").campaign, c);
}

#[tokio::test]
async fn of_two_saves_from_one_state_the_second_is_told() {
    let (_dir, store) = opened().await;
    let stored = store.add_campaign(&campaign("Winter")).await.expect("added");
    let mut first = stored.campaign.clone();
    first.nights.push(shot("2026-11-08", 100.0));
    assert!(matches!(store.save_campaign(&stored.id, 1, &first).await,
            Ok(CampaignSaved::Stored(s)) if s.revision == 2));
    let mut second = stored.campaign.clone();
    second.nights.push(shot("2026-11-10", 50.0));
    match store.save_campaign(&stored.id, 1, &second).await.expect("answered") {
        CampaignSaved::Conflict(current) => {
            assert_eq!(current.campaign, first, "the state that stands comes with the refusal")
        }
        CampaignSaved::Stored(_) => panic!("the first save was overwritten"),
    }
    assert_eq!(store.campaign(&stored.id).await.expect("there").campaign, first);
}

#[tokio::test]
async fn a_deleted_campaign_is_gone_and_comes_back_as_it_was() {
    let (_dir, store) = opened().await;
    let (a, b) = (
        store.add_campaign(&campaign("A")).await.expect("added"),
        store.add_campaign(&campaign("B")).await.expect("added"),
    );
    store.delete_campaign(&a.id).await.expect("deleted");
    let titles: Vec<String> =
        store.campaigns().await.expect("lists").into_iter().map(|c| c.campaign.title).collect();
    assert_eq!(titles, ["B"]);
    assert!(matches!(store.campaign(&a.id).await, Err(StoreError::NotFound { .. })));
    assert!(
        matches!(store.delete_campaign(&a.id).await, Err(StoreError::NotFound { .. })),
        "twice is too often"
    );
    assert!(matches!(
        store.save_campaign(&a.id, 1, &campaign("A")).await,
        Err(StoreError::NotFound { .. })
    ));
    let back = store.restore_campaign(&a.id).await.expect("restored");
    assert_eq!(back.campaign, campaign("A"));
    assert_eq!(store.campaigns().await.expect("lists").len(), 2);
    assert!(matches!(store.restore_campaign("nobody").await, Err(StoreError::NotFound { .. })));
    drop(b);
}

#[tokio::test]
async fn a_campaign_with_a_name_of_its_own_is_added_once() {
    let (_dir, store) = opened().await;
    store.add_campaign_as("winter", &campaign("Winter")).await.expect("added");
    let mut edited = campaign("Mine");
    edited.clear_share = 0.5;
    assert!(matches!(
        store.save_campaign("winter", 1, &edited).await,
        Ok(CampaignSaved::Stored(_))
    ));
    // What the demo brings again leaves a user's own work alone.
    let _ = store.add_campaign_as("winter", &campaign("Winter")).await;
    assert_eq!(store.campaign("winter").await.expect("there").campaign, edited);
}

#[tokio::test]
async fn a_blind_look_is_listed_only_once_it_is_revealed() {
    let (dir, store) = opened().await;
    let row = store.add_blind("IC 443", "{\"secret\":1}").await.expect("added");
    assert!(store.blinds().await.expect("lists").is_empty());
    store.set_blind_choices(&row.id, "[]", "[[0,1]]").await.expect("kept");
    assert!(
        store.set_blind_choices(&row.id, "[]", "[[1,0]]").await.is_err(),
        "another page chose meanwhile"
    );
    drop(store);
    let store = Store::open(dir.path()).await.expect("opens again");
    let there = store.blind(&row.id).await.expect("it goes on after a restart");
    assert_eq!((there.choices.as_str(), there.result, there.revealed_at), ("[[0,1]]", None, None));
    let told = store.reveal_blind(&row.id, "{\"pairs\":2}").await.expect("revealed");
    assert!(told.revealed_at.is_some() && told.result.as_deref() == Some("{\"pairs\":2}"));
    assert_eq!(store.blinds().await.expect("lists").len(), 1);
    assert!(
        store.set_blind_choices(&row.id, "[[0,1]]", "[[1,0]]").await.is_err(),
        "after the reveal nothing changes"
    );
    assert!(matches!(store.blind("nobody").await, Err(StoreError::NotFound { .. })));
}
