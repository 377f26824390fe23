//! Curves of the shelf's things, kept as rows of their own so that they can be asked about.

use std::collections::BTreeMap;

use serde_json::Value;
use sqlx::SqliteConnection;

use crate::StoreError;

/// The curves a document may hold, as paths within `item`.
const CURVES: [&[&str]; 5] = [
    &["filter", "curve"],
    &["sensor", "qe"],
    &["sensor", "cfa_curves", "r"],
    &["sensor", "cfa_curves", "g"],
    &["sensor", "cfa_curves", "b"],
];

pub(crate) type Points = Vec<[f64; 2]>;

/// What stands at a path within a document's `item`.
pub(crate) fn at<'v>(document: &'v mut Value, path: &[&str]) -> Option<&'v mut Value> {
    path.iter().try_fold(document.get_mut("item")?, |value, key| value.get_mut(*key))
}

/// Takes the curves out of a document, leaving empty lists in their place.
pub(crate) fn take_curves(document: &mut Value) -> BTreeMap<String, Points> {
    let mut curves = BTreeMap::new();
    for path in CURVES {
        if let Some(value) = at(document, path)
            && let Ok(points) = serde_json::from_value::<Points>(value.clone())
        {
            *value = Value::Array(Vec::new());
            curves.insert(path.join("."), points);
        }
    }
    curves
}

/// Writes a thing's curves, row by row.
pub(crate) async fn insert_curves(
    tx: &mut SqliteConnection,
    id: &str,
    curves: &BTreeMap<String, Points>,
) -> Result<(), StoreError> {
    for (curve, points) in curves {
        for (position, [nm, value]) in points.iter().enumerate() {
            sqlx::query(
                "INSERT INTO curve_point (shelf_id, curve, position, wavelength_nm, value) \
                VALUES (?, ?, ?, ?, ?)",
            )
            .bind(id)
            .bind(curve)
            .bind(position as i64)
            .bind(nm)
            .bind(value)
            .execute(&mut *tx)
            .await?;
        }
    }
    Ok(())
}
