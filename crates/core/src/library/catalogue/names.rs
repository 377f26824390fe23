//! Names as people type them.

use crate::library::catalogue::object::CatalogueObject;

/// Words for a catalogue, and how its numbers are written here.
const WRITTEN: [(&str, &str); 10] = [
    ("sharpless", "sh2"),
    ("barnard", "b"),
    ("vandenbergh", "vdb"),
    ("lynds", "ldn"),
    ("messier", "m"),
    ("caldwell", "c"),
    ("cederblad", "ced"),
    ("collinder", "cr"),
    ("melotte", "mel"),
    ("sh", "sh2"),
];

/// Whether two names are of one object, however they are written.
pub fn same_name(a: &str, b: &str) -> bool {
    key(a) == key(b) && !key(a).is_empty()
}

/// A name without case, blanks, hyphens, apostrophes and leading zeros, its catalogue in short:
/// "NGC 0281", "ngc281" and "N.G.C. 281" are one name, as are "Sh2-101", "sh 2 101" and "Sharpless
/// 101".
pub(super) fn key(text: &str) -> String {
    let lower: String = text.to_lowercase();
    let bare = lower.trim().trim_start_matches("the ");
    let letters: String = bare.chars().filter(|c| c.is_alphanumeric()).collect();
    let digits = letters.find(|c: char| c.is_ascii_digit()).unwrap_or(letters.len());
    let (word, number) = letters.split_at(digits);
    if number.is_empty() {
        return letters;
    }
    let word = WRITTEN.iter().find(|(long, _)| *long == word).map_or(word, |(_, short)| *short);
    // "sh" has been read as "sh2": its own 2 is not said twice, unless it is the number.
    let number = match (word, number.strip_prefix('2')) {
        ("sh2", Some(rest)) if bare.contains("2-") || bare.contains("2 ") => rest,
        ("sh2", Some(rest)) if rest.len() >= 2 && bare.starts_with("sh2") => rest,
        _ => number,
    };
    format!("{word}{}", number.trim_start_matches('0'))
}

/// One name of an object.
#[derive(Clone, Debug)]
pub(super) struct Name {
    pub(super) key: String,
    pub(super) object: usize,
    /// The object's own name.
    pub(super) own: bool,
    /// A name in words, which people misspell.
    pub(super) popular: bool,
}

/// Every name of every object.
pub(super) fn names_of(objects: &[CatalogueObject]) -> Vec<Name> {
    let mut out = Vec::with_capacity(objects.len() * 2);
    for (object, o) in objects.iter().enumerate() {
        let mut add = |text: &str, own: bool, popular: bool| {
            out.push(Name { key: key(text), object, own, popular });
        };
        add(&o.name, true, false);
        o.designations.iter().for_each(|d| add(d, false, false));
        o.other_names.iter().for_each(|n| add(n, false, true));
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn one_name_however_it_is_typed() {
        for text in ["NGC 281", "ngc281", " N.G.C. 281 ", "NGC 0281"] {
            assert_eq!(key(text), "ngc281", "{text}");
        }
        for text in ["Sh2-101", "sh2 101", "SH 2-101", "Sharpless 101", "Sharpless 2-101", "sh2101"]
        {
            assert_eq!(key(text), "sh2101", "{text}");
        }
        assert_eq!(
            (key("Sh2-2"), key("Sh2-28"), key("Sh2-240")),
            ("sh22".into(), "sh228".into(), "sh2240".into())
        );
        for (text, wanted) in [
            ("Barnard 33", "b33"),
            ("van den Bergh 142", "vdb142"),
            ("LDN 1251", "ldn1251"),
            ("Messier 31", "m31"),
            ("Caldwell 9", "c9"),
            ("The Heart Nebula", "heartnebula"),
            ("Barnard's Loop", "barnardsloop"),
            ("SNR G 074.0-08.5", "snrg740085"),
        ] {
            assert_eq!(key(text), wanted, "{text}");
        }
    }
}
