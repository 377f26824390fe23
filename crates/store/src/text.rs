//! Text as it stands in the file, whatever became of it.

use sqlx::error::BoxDynError;
use sqlx::sqlite::{SqliteTypeInfo, SqliteValueRef};
use sqlx::{Decode, Sqlite, Type};

/// A text of which a byte may have been altered so that it is no UTF-8 any more. Such bytes become
/// U+FFFD: its row's checksum then does not fit, and one row is named instead of a whole list
/// failing.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) struct Text(pub String);

impl Type<Sqlite> for Text {
    fn type_info() -> SqliteTypeInfo {
        <str as Type<Sqlite>>::type_info()
    }

    fn compatible(info: &SqliteTypeInfo) -> bool {
        <[u8] as Type<Sqlite>>::compatible(info)
    }
}

impl<'r> Decode<'r, Sqlite> for Text {
    fn decode(value: SqliteValueRef<'r>) -> Result<Self, BoxDynError> {
        let bytes = <&[u8] as Decode<Sqlite>>::decode(value)?;
        Ok(Self(String::from_utf8_lossy(bytes).into_owned()))
    }
}

impl From<Text> for String {
    fn from(text: Text) -> Self {
        text.0
    }
}
