//! The cards of a FITS header, or of one that was pasted as text.

use std::collections::HashMap;

/// Length of a card, characters.
pub(crate) const CARD: usize = 80;
/// Length of a block, bytes.
pub(crate) const BLOCK: usize = 2880;
/// Blocks of a header, at most: 18,000 cards.
const MOST_BLOCKS: usize = 500;

/// The cards of a header, keys in capitals, text without its quotes. Of a key that comes twice the
/// first counts.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Cards(pub(crate) HashMap<String, String>);

impl Cards {
    /// Reads a header as text: a card on each line, or one card after another of 80 characters.
    pub fn read(text: &str) -> Self {
        let lines: Vec<String> = if text.trim().lines().count() > 1 {
            text.lines().map(str::to_owned).collect()
        } else {
            let letters: Vec<char> = text.chars().collect();
            letters.chunks(CARD).map(|c| c.iter().collect()).collect()
        };
        Self::of(lines.iter().map(String::as_str))
    }

    /// Reads the header that begins at a byte of a file: its cards, and where its data begin.
    /// `None` where it has no end.
    pub fn of_file(bytes: &[u8], from: usize) -> Option<(Self, usize)> {
        let own = bytes.get(from..)?;
        let end = own
            .chunks_exact(CARD)
            .take(MOST_BLOCKS * BLOCK / CARD)
            .position(|c| c.starts_with(b"END ") || c == b"END")?;
        let letters = |c: &[u8]| -> String {
            // What is no ASCII is some program's own: kept as a letter each.
            c.iter()
                .map(|b| if b.is_ascii_graphic() || *b == b' ' { *b as char } else { '?' })
                .collect()
        };
        let lines: Vec<String> = own[..end * CARD].chunks_exact(CARD).map(letters).collect();
        let length = ((end + 1) * CARD).div_ceil(BLOCK) * BLOCK;
        Some((Self::of(lines.iter().map(String::as_str)), from + length))
    }

    fn of<'a>(lines: impl Iterator<Item = &'a str>) -> Self {
        let mut cards = HashMap::<String, String>::new();
        // The key whose text goes on in the next card (FITS 4.0, 4.2.1.2).
        let mut open: Option<String> = None;
        for line in lines {
            if line.trim() == "END" {
                break;
            }
            if let (Some(key), Some(rest)) = (&open, line.strip_prefix("CONTINUE")) {
                let more = value(rest);
                let text = cards.entry(key.clone()).or_default();
                if text.ends_with('&') {
                    text.pop();
                }
                *text += &more;
                if !more.ends_with('&') {
                    open = None;
                }
                continue;
            }
            open = None;
            let line = line.strip_prefix("HIERARCH ").unwrap_or(line);
            let Some((key, rest)) = line.split_once('=') else { continue };
            let key = key.trim().to_uppercase();
            if key.is_empty() || key.contains(' ') || cards.contains_key(&key) {
                continue;
            }
            let text = value(rest);
            if text.ends_with('&') {
                open = Some(key.clone());
            }
            cards.insert(key, text);
        }
        Self(cards)
    }

    /// The first of these keys that is there and not empty.
    pub fn text<'a>(&self, keys: &[&'a str]) -> Option<(&'a str, &str)> {
        keys.iter().find_map(|k| {
            let text = self.0.get(*k)?.as_str();
            (!text.is_empty()).then_some((*k, text))
        })
    }

    /// The first of these keys that holds a number.
    pub fn number<'a>(&self, keys: &[&'a str]) -> Option<(&'a str, f64)> {
        keys.iter().find_map(|k| {
            let number: f64 = self.0.get(*k)?.replace(['D', 'd'], "E").parse().ok()?;
            number.is_finite().then_some((*k, number))
        })
    }

    /// The number of a key.
    pub fn of_key(&self, key: &str) -> Option<f64> {
        self.number(&[key]).map(|(_, n)| n)
    }

    /// The whole number of a key.
    pub fn whole(&self, key: &str) -> Option<i64> {
        self.0.get(key)?.parse().ok()
    }
}

/// A card's value: text between quotes, where two quotes are one, or what stands before a slash.
fn value(rest: &str) -> String {
    let rest = rest.trim_start();
    if let Some(quoted) = rest.strip_prefix('\'') {
        let mut out = String::new();
        let mut letters = quoted.chars().peekable();
        while let Some(c) = letters.next() {
            if c == '\'' && letters.next_if_eq(&'\'').is_none() {
                break;
            }
            out.push(c);
        }
        return out.trim().to_owned();
    }
    rest.split('/').next().unwrap_or_default().trim().to_owned()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn long_text_goes_on_and_the_first_of_two_counts() {
        let cards = Cards::read(
            "OBJECT  = 'a rather long &'\nCONTINUE  'name of a &'\nCONTINUE  'nebula' / it is\n\
             GAIN = 100\nGAIN = 5\nHIERARCH FILTER = 'Ha'\nnonsense\nEXPTIME = 3.0D2\nEND\nX = 1",
        );
        assert_eq!(cards.text(&["OBJECT"]), Some(("OBJECT", "a rather long name of a nebula")));
        assert_eq!(cards.number(&["ISO", "GAIN"]), Some(("GAIN", 100.0)));
        assert_eq!(cards.number(&["EXPTIME"]), Some(("EXPTIME", 300.0)));
        assert_eq!(cards.text(&["FILTER"]).map(|t| t.1), Some("Ha"));
        assert!(cards.text(&["X"]).is_none());
    }

    #[test]
    fn a_header_without_an_end_is_none() {
        assert!(Cards::of_file(&[b' '; 2880], 0).is_none());
        assert!(Cards::of_file(&[], 0).is_none() && Cards::of_file(&[1, 2], 9).is_none());
        let mut block = vec![b' '; 2880];
        block[80..83].copy_from_slice(b"END");
        assert_eq!(Cards::of_file(&block, 0).map(|(_, at)| at), Some(2880));
    }
}
