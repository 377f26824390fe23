//! Checksums of rows: made when a row is written, compared when it is read. A byte that a disk or a
//! cable has altered leaves a document that still parses now and then; nothing altered is served as
//! good.

use crate::text::Text;
use crate::{Store, StoreError};

/// The checksum (CRC-32, IEEE 802.3) of the texts of a row, each with its length before it.
pub(crate) fn of(texts: &[&str]) -> i64 {
    let mut sum = crc32fast::Hasher::new();
    for text in texts {
        sum.update(&(text.len() as u64).to_le_bytes());
        sum.update(text.as_bytes());
    }
    i64::from(sum.finalize())
}

/// What a row whose checksum does not fit says of itself.
pub(crate) const ALTERED: &str = "its checksum does not fit: something altered it since it was \
    stored (a failing disk, or another program). Set its checksum to NULL where it was mended by \
    hand";

/// Whether the texts of a row are those that were written. One without a checksum was never sealed.
pub(crate) fn fits(sum: Option<i64>, texts: &[&str]) -> bool {
    sum.is_none_or(|sum| sum == of(texts))
}

impl Store {
    /// Seals the rows of before there were checksums, and those that were mended by hand.
    pub(crate) async fn seal(&self) -> Result<(), StoreError> {
        self.seal_shelf().await?;
        self.seal_frames().await?;
        for (table, key, texts) in [
            ("scenario", "id", "title, target, document"),
            ("campaign", "id", "title, document, ''"),
            ("blind_look", "id", "title, document, ''"),
            ("target_emission", "object", "document, '', ''"),
            ("lesson", "id", "document, '', ''"),
            ("trial", "id", "title, document, ''"),
        ] {
            let sql = format!("SELECT {key}, {texts} FROM {table} WHERE checksum IS NULL");
            let rows: Vec<(Text, Text, Text, Text)> =
                sqlx::query_as(sqlx::AssertSqlSafe(sql)).fetch_all(&self.pool).await?;
            if rows.is_empty() {
                continue;
            }
            let count = texts.split(", ").filter(|t| *t != "''").count();
            let sql = format!("UPDATE {table} SET checksum = ? WHERE {key} = ?");
            let mut tx = self.begin().await?;
            for (id, a, b, c) in &rows {
                sqlx::query(sqlx::AssertSqlSafe(sql.clone()))
                    .bind(of(&[a.0.as_str(), &b.0, &c.0][..count]))
                    .bind(&id.0)
                    .execute(&mut *tx)
                    .await?;
            }
            tx.commit().await?;
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn one_bit_and_a_moved_border_are_noticed() {
        let sum = of(&["ab", "c"]);
        assert_eq!(sum, of(&["ab", "c"]));
        assert_ne!(sum, of(&["a", "bc"]));
        assert_ne!(sum, of(&["ac", "c"]));
        assert!(fits(None, &["x"]) && fits(Some(sum), &["ab", "c"]) && !fits(Some(sum), &["x"]));
        // The check value of the CRC catalogue: CRC-32 of "123456789".
        assert_eq!(crc32fast::hash(b"123456789"), 0xCBF4_3926);
    }
}
