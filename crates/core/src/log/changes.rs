//! Two states of a document as the fields in which they differ, and a field put back.

use serde::{Deserialize, Serialize};
use serde_json::Value;
use utoipa::ToSchema;

/// What a figure stands in.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum HolderOfFigure {
    /// A site, a telescope or a camera of the kit.
    Kit,
    /// A campaign.
    Campaign,
}

/// A field that was changed.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct FieldChange {
    /// What it stands in.
    pub holder: HolderOfFigure,
    /// The id of that.
    pub id: String,
    /// Its name.
    pub name: String,
    /// Where it stands in the document, as a JSON pointer (RFC 6901).
    pub field: String,
    /// What stood there; null of a field that was not there.
    pub before: Value,
    /// What stands there now.
    pub after: Value,
}

/// Fields in which two documents differ, each with both values: of objects their own fields, of
/// lists that are as long their entries, else the list as a whole. What is not there is null.
pub fn differences(before: &Value, after: &Value) -> Vec<(String, Value, Value)> {
    let mut out = Vec::new();
    gather(String::new(), before, after, &mut out);
    out
}

fn gather(at: String, before: &Value, after: &Value, out: &mut Vec<(String, Value, Value)>) {
    match (before, after) {
        (a, b) if a == b => {}
        (Value::Object(a), Value::Object(b)) => {
            let mut keys: Vec<&String> = a.keys().chain(b.keys()).collect();
            keys.sort();
            keys.dedup();
            for key in keys {
                let [x, y] = [a, b].map(|o| o.get(key).unwrap_or(&Value::Null));
                let name = key.replace('~', "~0").replace('/', "~1");
                gather(format!("{at}/{name}"), x, y, out);
            }
        }
        (Value::Array(a), Value::Array(b)) if a.len() == b.len() => {
            for (i, (x, y)) in a.iter().zip(b).enumerate() {
                gather(format!("{at}/{i}"), x, y, out);
            }
        }
        (a, b) => out.push((at, a.clone(), b.clone())),
    }
}

/// What stands at a place of a document; null where nothing does.
pub fn standing<'a>(document: &'a Value, field: &str) -> &'a Value {
    document.pointer(field).unwrap_or(&Value::Null)
}

/// Puts a value at a place of a document, in an object that is there; null takes the field away.
/// Whether there was such a place.
pub fn put(document: &mut Value, field: &str, value: &Value) -> bool {
    let Some((parent, name)) = field.rsplit_once('/') else { return false };
    let name = name.replace("~1", "/").replace("~0", "~");
    match document.pointer_mut(parent) {
        Some(Value::Object(fields)) => {
            if value.is_null() {
                fields.remove(&name);
            } else {
                fields.insert(name, value.clone());
            }
            true
        }
        Some(Value::Array(list)) => {
            match name.parse::<usize>().ok().and_then(|i| list.get_mut(i)) {
                Some(own) => {
                    *own = value.clone();
                    true
                }
                None => false,
            }
        }
        _ => false,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    #[test]
    fn what_differs_is_found_and_put_back() {
        let before = json!({"a": 1.0, "b": {"x/y": [1, 2], "list": [1]}, "gone": true});
        let after = json!({"a": 2.0, "b": {"x/y": [1, 3], "list": [1, 2]}, "new": {"sd": 0.1}});
        let all = differences(&before, &after);
        let fields: Vec<&str> = all.iter().map(|d| d.0.as_str()).collect();
        assert_eq!(fields, ["/a", "/b/list", "/b/x~1y/1", "/gone", "/new"]);
        let (mut back, mut forth) = (after.clone(), before.clone());
        for (field, was, is) in &all {
            assert_eq!(standing(&back, field), is, "{field}");
            assert!(put(&mut back, field, was) && put(&mut forth, field, is), "{field}");
        }
        assert_eq!((back, forth), (before.clone(), after));
        assert!(!put(&mut before.clone(), "/nowhere/x", &json!(1)));
        assert!(differences(&before, &before).is_empty());
    }
}
