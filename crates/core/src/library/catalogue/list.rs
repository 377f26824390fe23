//! The catalogue in memory.

use std::collections::HashMap;

use crate::library::catalogue::load;
use crate::library::catalogue::names::{Name, key, names_of};
use crate::library::catalogue::object::CatalogueObject;
use crate::scenario::pointing::Pointing;
use crate::scenario::target::TargetKind;

/// The catalogue in memory.
#[derive(Clone, Debug)]
pub struct Catalogue {
    pub(super) objects: Vec<CatalogueObject>,
    /// Every name as it is looked for, with the object it is of; popular ones marked.
    pub(super) names: Vec<Name>,
    by_name: HashMap<String, usize>,
}

impl Catalogue {
    /// The shipped catalogue.
    ///
    /// # Errors
    /// The row that is damaged; a test reads them all.
    pub fn shipped() -> Result<Self, String> {
        Ok(Self::of(load::shipped()?))
    }

    /// A catalogue of objects.
    fn of(objects: Vec<CatalogueObject>) -> Self {
        let names = names_of(&objects);
        let mut by_name = HashMap::new();
        // An object's own name before another's second name.
        for own in [true, false] {
            for n in names.iter().filter(|n| n.own == own) {
                by_name.entry(n.key.clone()).or_insert(n.object);
            }
        }
        Self { objects, names, by_name }
    }

    /// Number of objects.
    pub fn len(&self) -> usize {
        self.objects.len()
    }

    /// All objects.
    pub fn objects(&self) -> &[CatalogueObject] {
        &self.objects
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.objects.is_empty()
    }

    /// One object by any of its names, however it is spelt: "NGC 7822", "ngc7822", "Sharpless 171".
    pub fn get(&self, name: &str) -> Option<&CatalogueObject> {
        self.by_name.get(&key(name)).map(|i| &self.objects[*i])
    }

    /// The object that a frame shows, whose middle looks there: of those whose own middle lies
    /// within the radius and that are no larger than four of them the largest, the less so the
    /// farther off; a cluster or a dark nebula only where nothing else lies there; the nearest
    /// where nothing does.
    pub fn at_place(&self, at: &Pointing, radius_arcmin: f64) -> Option<&CatalogueObject> {
        let off_arcmin = |o: &CatalogueObject| {
            let [east, north] = at.east_north_arcsec(o.ra_deg, o.dec_deg)?;
            Some(east.hypot(north) / 60.0)
        };
        let near: Vec<(&CatalogueObject, f64)> =
            self.objects.iter().filter_map(|o| Some((o, off_arcmin(o)?))).collect();
        let size = |o: &CatalogueObject| o.major_arcmin.unwrap_or(0.0);
        let weight =
            |(o, off): &(&CatalogueObject, f64)| size(o) * (1.0 - off / radius_arcmin).powi(2);
        let shines =
            |o: &CatalogueObject| !matches!(o.kind, TargetKind::Cluster | TargetKind::DarkNebula);
        near.iter()
            .filter(|(o, off)| *off <= radius_arcmin && size(o) <= 4.0 * radius_arcmin)
            .max_by(|a, b| shines(a.0).cmp(&shines(b.0)).then(weight(a).total_cmp(&weight(b))))
            .or_else(|| near.iter().min_by(|a, b| a.1.total_cmp(&b.1)))
            .map(|(o, _)| *o)
    }

    /// The constellations that occur, sorted.
    pub fn constellations(&self) -> Vec<String> {
        let all: std::collections::BTreeSet<_> = self
            .objects
            .iter()
            .map(|o| o.constellation.clone())
            .filter(|c| !c.is_empty())
            .collect();
        all.into_iter().collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::library::catalogue::search::CatalogueQuery;

    fn shipped() -> Catalogue {
        Catalogue::shipped().unwrap()
    }

    #[test]
    fn the_catalogue_holds_thousands_and_the_demo_targets() {
        let c = shipped();
        assert!(c.len() > 5000, "{}", c.len());
        assert_eq!(c.get("ic443").unwrap().kind, TargetKind::SupernovaRemnant);
        assert_eq!(c.get("NGC 2403").unwrap().kind, TargetKind::GalaxyWithHIi);
        assert!(c.get("NGC 7129").is_some() && c.get("ngc 7822").is_some());
    }

    /// What the objects are: from memory.
    #[test]
    fn what_reflects_starlight_is_no_h_ii_region() {
        let c = shipped();
        let kind = |name: &str| c.get(name).unwrap().kind;
        for name in [
            "NGC 1432", "NGC 1435", "NGC 7023", "NGC 1333", "M 78", "NGC 1977", "IC 349",
            "IC 4604", "NGC 1909",
        ] {
            let found = c
                .search(&CatalogueQuery { text: name.into(), ..Default::default() }, 1)
                .objects
                .remove(0);
            assert_eq!(found.kind, TargetKind::ReflectionNebula, "{name}");
        }
        for name in [
            "NGC 1499", "NGC 6523", "NGC 6611", "NGC 6618", "NGC 6514", "NGC 2024", "IC 405",
            "NGC 2237", "NGC 7000", "IC 2177",
        ] {
            assert_eq!(kind(name), TargetKind::HIiRegion, "{name}");
        }
        // A bare "nebula" that nobody here knows to be ionised does not count as such.
        assert!(
            c.objects()
                .iter()
                .filter(|o| o.code == "Neb" && o.kind == TargetKind::ReflectionNebula)
                .count()
                > 40
        );
    }

    #[test]
    fn search_by_name_kind_constellation_and_size() {
        let c = shipped();
        let find =
            |text: &str| c.search(&CatalogueQuery { text: text.into(), ..Default::default() }, 10);
        assert_eq!(find("M 33").objects[0].name, "NGC 598");
        assert_eq!(find("m33").objects[0].name, "NGC 598");
        assert_eq!(find("north america").objects[0].name, "NGC 7000");
        assert_eq!(find("no such thing").matches, 0);
        let big = CatalogueQuery {
            kind: Some(TargetKind::HIiRegion),
            constellation: Some("Cyg".into()),
            at_least_arcmin: Some(30.0),
            ..Default::default()
        };
        let found = c.search(&big, 100);
        assert!(
            found.matches > 0
                && found
                    .objects
                    .iter()
                    .all(|o| o.constellation == "Cyg" && o.major_arcmin >= Some(30.0))
        );
    }
}
