//! Searching the catalogue.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::library::catalogue::list::Catalogue;
use crate::library::catalogue::names::key;
use crate::library::catalogue::object::{CatalogueObject, EmissionFrom};
use crate::scenario::target::TargetKind;

/// What to look for.
#[derive(Clone, Debug, Default, PartialEq, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct CatalogueQuery {
    /// Part of a name; blanks, hyphens and case do not matter, and a slip of the finger is forgiven.
    pub text: String,
    /// Only this kind.
    pub kind: Option<TargetKind>,
    /// Only this constellation, three letters.
    pub constellation: Option<String>,
    /// At least this long, arcmin.
    pub at_least_arcmin: Option<f64>,
    /// At most this long, arcmin.
    pub at_most_arcmin: Option<f64>,
}

/// What was found.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct CatalogueAnswer {
    /// How many objects match.
    pub matches: usize,
    /// The first of them: names that match best first, then the largest.
    pub objects: Vec<CatalogueObject>,
    /// Whether no name holds what was typed, and these are called something like it.
    pub alike: bool,
}

/// How much of a name may be mistyped: one letter in four (common practice, no source).
const SLIPS: f64 = 0.25;

/// Letters that have to be put in, left out, changed or swapped to make one text of another, up to
/// `most` (restricted Damerau-Levenshtein distance; Damerau 1964, CACM 7, 171).
fn slips(a: &[u8], b: &[u8], most: usize) -> Option<usize> {
    if a.len().abs_diff(b.len()) > most {
        return None;
    }
    let mut before: Vec<usize> = Vec::new();
    let mut last: Vec<usize> = (0..=b.len()).collect();
    for i in 1..=a.len() {
        let mut row = vec![i; b.len() + 1];
        for j in 1..=b.len() {
            let change = last[j - 1] + usize::from(a[i - 1] != b[j - 1]);
            row[j] = change.min(last[j] + 1).min(row[j - 1] + 1);
            if i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1] {
                row[j] = row[j].min(before[j - 2] + 1);
            }
        }
        if row.iter().all(|d| *d > most) {
            return None;
        }
        before = std::mem::replace(&mut last, row);
    }
    Some(last[b.len()]).filter(|d| *d <= most)
}

/// Where an object stands when nothing was typed: what everybody photographs before what is merely
/// large.
fn much_imaged(o: &CatalogueObject) -> u8 {
    match o.emission.from {
        EmissionFrom::HandTable => 0,
        EmissionFrom::RoughHandTable => 1,
        _ if o.other_names.iter().any(|n| n.starts_with("M ")) => 1,
        EmissionFrom::Magnitude | EmissionFrom::Class | EmissionFrom::Kind => 2,
    }
}

/// What a popular name is also called: without what it is.
fn bare(name: &str) -> &str {
    ["nebula", "galaxy", "cluster"].iter().find_map(|w| name.strip_suffix(w)).unwrap_or(name)
}

impl Catalogue {
    /// One object as people call it: by any of its names, else the best match of a search; `None`
    /// where no name holds the words.
    pub fn called(&self, words: &str) -> Option<&CatalogueObject> {
        self.get(words).or_else(|| {
            let query = CatalogueQuery { text: words.to_owned(), ..CatalogueQuery::default() };
            let found = self.search(&query, 1);
            let first =
                found.objects.first().filter(|_| !found.alike && !words.trim().is_empty())?;
            self.get(&first.name)
        })
    }

    /// Searches; answers at most `most` objects.
    pub fn search(&self, query: &CatalogueQuery, most: usize) -> CatalogueAnswer {
        let text = key(&query.text);
        // The best that any of an object's names does: whole, at the start, within.
        let mut rank: Vec<u8> = self
            .objects
            .iter()
            .map(|o| if text.is_empty() { much_imaged(o) } else { u8::MAX })
            .collect();
        if !text.is_empty() {
            for n in &self.names {
                let r = match n.key.find(&text) {
                    Some(0) if n.key.len() == text.len() => 0,
                    Some(0) => 1,
                    Some(_) => 2,
                    None => continue,
                };
                rank[n.object] = rank[n.object].min(r);
            }
        }
        let alike = !text.is_empty() && rank.iter().all(|r| *r == u8::MAX);
        if alike {
            self.alike(&text, &mut rank);
        }
        let size = |o: &CatalogueObject| o.major_arcmin.unwrap_or(0.0);
        let fits = |o: &CatalogueObject| {
            query.kind.is_none_or(|k| o.kind == k)
                && query
                    .constellation
                    .as_ref()
                    .is_none_or(|c| c.is_empty() || o.constellation.eq_ignore_ascii_case(c))
                && query.at_least_arcmin.is_none_or(|s| size(o) >= s)
                && query.at_most_arcmin.is_none_or(|s| size(o) <= s)
        };
        let mut found: Vec<(u8, &CatalogueObject)> =
            rank.into_iter().zip(&self.objects).filter(|(r, o)| *r < u8::MAX && fits(o)).collect();
        found.sort_by(|(ra, a), (rb, b)| ra.cmp(rb).then(size(b).total_cmp(&size(a))));
        CatalogueAnswer {
            alike: alike && !found.is_empty(),
            matches: found.len(),
            objects: found.into_iter().take(most).map(|(_, o)| o.clone()).collect(),
        }
    }

    /// Ranks popular names by how many letters stand wrong in what was typed.
    fn alike(&self, text: &str, rank: &mut [u8]) {
        let most = (text.len() as f64 * SLIPS).floor() as usize;
        if most == 0 || text.chars().all(|c| c.is_ascii_digit()) {
            return;
        }
        for n in self.names.iter().filter(|n| n.popular) {
            let wrong = [n.key.as_str(), bare(&n.key)]
                .into_iter()
                .filter_map(|k| slips(text.as_bytes(), k.as_bytes(), most))
                .min();
            if let Some(d) = wrong.and_then(|d| u8::try_from(d).ok()) {
                rank[n.object] = rank[n.object].min(3 + d);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn slips_are_counted_as_a_typist_makes_them() {
        let d = |a: &str, b: &str| slips(a.as_bytes(), b.as_bytes(), 4);
        // Put in, left out, changed, swapped; the worked example of the literature: kitten, sitting.
        assert_eq!((d("hart", "heart"), d("pelicann", "pelican")), (Some(1), Some(1)));
        assert_eq!((d("rosetta", "rosette"), d("pelcian", "pelican")), (Some(1), Some(1)));
        assert_eq!((d("kitten", "sitting"), d("heart", "heart")), (Some(3), Some(0)));
        assert_eq!((d("north", "andromeda"), slips(b"abc", b"xyz", 2)), (None, None));
    }

    #[test]
    fn names_are_found_as_people_say_and_misspell_them() {
        let c = Catalogue::shipped().unwrap();
        let first = |text: &str| {
            let found = c.search(&CatalogueQuery { text: text.into(), ..Default::default() }, 1);
            (found.objects.first().map_or(String::new(), |o| o.name.clone()), found.alike)
        };
        for (text, name) in [
            ("Heart", "IC 1805"),
            ("the heart nebula", "IC 1805"),
            ("Sh2-101", "Sh2-101"),
            ("sharpless 171", "NGC 7822"),
            ("vdB 142", "vdB 142"),
            ("LDN 1251", "LDN 1251"),
            ("barnard 33", "B 33"),
            ("Simeis 147", "Sh2-240"),
            ("thors helmet", "NGC 2359"),
            ("elephant's trunk n", "vdB 142"),
            ("m 31", "NGC 224"),
            ("caldwell 49", "NGC 2237"),
            ("Maia", "NGC 1432"),
        ] {
            assert_eq!(first(text), (name.to_owned(), false), "{text}");
        }
        for (text, name) in [
            ("rosetta", "NGC 2237"),
            ("hart nebula", "IC 1805"),
            ("pelcian", "IC 5070"),
            ("andromida galaxy", "NGC 224"),
            ("wizzard", "NGC 7380"),
            ("jelyfish nebula", "IC 443"),
        ] {
            assert_eq!(first(text), (name.to_owned(), true), "{text}");
        }
        assert_eq!(first("qqqqqqqq").0, "");
    }

    #[test]
    fn three_hundred_names_in_words_and_more() {
        let c = Catalogue::shipped().unwrap();
        let popular: std::collections::BTreeSet<&str> =
            c.names.iter().filter(|n| n.popular).map(|n| n.key.as_str()).collect();
        let words = popular.iter().filter(|n| n.chars().all(char::is_alphabetic)).count();
        assert!(words >= 300, "{words}");
    }
}
