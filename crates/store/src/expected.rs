//! What a save takes to be stored.

/// The revisions over which a save may write: one of a list, or whatever is there.
///
/// ```
/// use salt_lamp_store::Expected;
/// assert_eq!(Expected::from(3), Expected::one_of([3]));
/// assert_ne!(Expected::from(3), Expected::anything());
/// ```
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Expected(Option<Vec<i64>>);

impl Expected {
    /// Whatever is stored, as long as something is.
    pub fn anything() -> Self {
        Self(None)
    }

    /// One of these revisions.
    pub fn one_of(revisions: impl IntoIterator<Item = i64>) -> Self {
        Self(Some(revisions.into_iter().collect()))
    }

    /// The revisions as a JSON list for SQLite's `json_each`; null for whatever is there.
    pub(crate) fn as_json(&self) -> Option<String> {
        self.0.as_ref().map(|list| {
            format!("[{}]", list.iter().map(i64::to_string).collect::<Vec<_>>().join(","))
        })
    }
}

impl From<i64> for Expected {
    fn from(revision: i64) -> Self {
        Self::one_of([revision])
    }
}
