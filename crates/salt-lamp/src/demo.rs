//! The invented demo: what a new user finds when the demo is served.

use salt_lamp_core::gear::Example;
use salt_lamp_store::{Store, StoreError};

/// Puts the examples into a store that has no scenarios yet; one that has some is left alone.
pub async fn seed(store: &Store, examples: &[Example]) -> Result<(), StoreError> {
    if !store.scenarios().await?.is_empty() {
        return Ok(());
    }
    // Last changed is listed first: the first example goes in last. Their ids make stable links.
    for example in examples.iter().rev() {
        match store.restore_scenario(example.id).await {
            Err(StoreError::NotFound { .. }) => drop(store.add_scenario_as(example.id, &example.scenario).await?),
            other => drop(other?),
        }
    }
    Ok(())
}
