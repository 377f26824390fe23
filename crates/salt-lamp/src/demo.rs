//! The invented demo: scenarios that a new user finds when the demo is served.

use salt_lamp_formats::read_scenario;
use salt_lamp_store::Store;

/// Id and document of each demo scenario; the ids make stable links.
const SCENARIOS: [(&str, &[u8]); 4] = [
    ("heron-lake-ngc-7129", include_bytes!("../../../data/demo/heron-lake-ngc-7129.json")),
    ("heron-lake-ngc-2403", include_bytes!("../../../data/demo/heron-lake-ngc-2403.json")),
    ("larch-lane-ngc-7822", include_bytes!("../../../data/demo/larch-lane-ngc-7822.json")),
    ("larch-lane-ic-443", include_bytes!("../../../data/demo/larch-lane-ic-443.json")),
];

/// Puts the demo into a store that has no scenarios yet; one that has some is left alone.
pub async fn seed(store: &Store) -> Result<(), Box<dyn std::error::Error>> {
    if !store.scenarios().await?.is_empty() {
        return Ok(());
    }
    for (id, document) in SCENARIOS {
        let scenario = read_scenario(document)?;
        match store.restore_scenario(id).await {
            Ok(_) => {}
            Err(_) => {
                store.add_scenario_as(id, scenario.scenario()).await?;
            }
        }
    }
    Ok(())
}
