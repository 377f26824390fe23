//! Which filter of the kit a header means: "Ha", "H-alpha" and "H" are one line's filter to whoever
//! wrote them.

/// Names of lines and colours as headers have them; each row means one thing (common practice, no
/// source).
const MEANINGS: [&[&str]; 8] = [
    &["ha", "halpha", "h", "hydrogenalpha"],
    &["oiii", "o3", "o", "oxygen"],
    &["sii", "s2", "s", "sulfur", "sulphur"],
    &["hb", "hbeta"],
    &["l", "lum", "luminance"],
    &["r", "red"],
    &["g", "green"],
    &["b", "blue"],
];

/// Letters and digits alone, small.
fn plain(name: &str) -> String {
    name.chars().filter(|c| c.is_alphanumeric()).flat_map(char::to_lowercase).collect()
}

/// Whether two names of filters are one but for case, blanks and signs.
pub fn same_filter(a: &str, b: &str) -> bool {
    plain(a) == plain(b)
}

/// What a name speaks of: the meaning of one of its words. "H-alpha 3 nm" speaks of H-alpha, and
/// "Red, gap at sodium" of red; a dual band's name, which speaks of two, of neither.
fn meaning(name: &str) -> Option<usize> {
    let of = |word: &str| MEANINGS.iter().position(|all| all.contains(&word));
    if let Some(whole) = of(&plain(name)) {
        return Some(whole);
    }
    // "[O III]" and "H-alpha" are one word each.
    let lower = name.to_lowercase().replace("o iii", "oiii").replace("s ii", "sii");
    let words = lower.split(|c: char| c.is_whitespace() || ",;/+()[]".contains(c));
    let mut told: Vec<usize> = words.map(plain).filter_map(|w| of(&w)).collect();
    // What a colour's name adds of a line is where its edge lies: the first word counts.
    let colours = 4;
    if told.first().is_some_and(|m| *m >= colours) {
        told.truncate(1);
    }
    told.dedup();
    match told[..] {
        [one] => Some(one),
        _ => None,
    }
}

/// All of some names that a header's name may mean: the same name but for case and signs, else those
/// that speak of the same line or colour.
pub fn alike(said: &str, names: &[&str]) -> Vec<usize> {
    let of = |is: &dyn Fn(&str) -> bool| -> Vec<usize> {
        (0..names.len()).filter(|i| is(names[*i])).collect()
    };
    let same = of(&|n| plain(n) == plain(said));
    match meaning(said) {
        Some(own) if same.is_empty() => of(&|n| meaning(n) == Some(own)),
        _ => same,
    }
}

/// The one of some names that a header's name means; `None` where none does, or more than one.
pub fn meant(said: &str, names: &[&str]) -> Option<usize> {
    match alike(said, names)[..] {
        [one] => Some(one),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn headers_mean_filters_as_people_call_them() {
        let sho = ["H-alpha 3 nm", "[O III] 3 nm", "[S II] 3 nm"];
        for (said, which) in [
            ("Ha", Some(0)),
            ("H_alpha", Some(0)),
            ("h-ALPHA 3nm", Some(0)),
            ("OIII", Some(1)),
            ("O3", Some(1)),
            ("O III", Some(1)),
            ("S2", Some(2)),
            ("SII 3nm", Some(2)),
            ("Lum", None),
            ("Dual", None),
            ("", None),
        ] {
            assert_eq!(meant(said, &sho), which, "{said}");
        }
        let lrgb = [
            "Luminance",
            "Red, gap at sodium",
            "Green, overlapping blue at [O III]",
            "Blue, overlapping green at [O III]",
        ];
        for (said, which) in [("L", 0), ("R", 1), ("Green", 2), ("blue", 3), ("lum", 0)] {
            assert_eq!(meant(said, &lrgb), Some(which), "{said}");
        }
        assert_eq!(meant("Blue, overlapping green at [O III]", &lrgb), Some(3));
    }

    #[test]
    fn what_could_be_two_is_neither() {
        assert_eq!(meant("Ha", &["H-alpha 3 nm", "H-alpha 7 nm"]), None);
        assert_eq!(alike("Ha", &["H-alpha 3 nm", "[S II] 3 nm", "H-alpha 7 nm"]), [0, 2]);
        assert_eq!(meant("H-alpha 7nm", &["H-alpha 3 nm", "H-alpha 7 nm"]), Some(1));
        assert_eq!(meant("Ha", &["H-alpha + [O III] 7 nm", "[S II] 3 nm"]), None);
    }
}
