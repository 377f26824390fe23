//! Reading the shipped files and joining them.

use std::collections::{HashMap, HashSet};

use serde::Deserialize;
use serde::de::DeserializeOwned;

use crate::library::catalogue::emission::{EmissionByHand, Knowledge};
use crate::library::catalogue::object::{CatalogueEmission, CatalogueObject, CatalogueSource};
use crate::light::tables::Tables;
use crate::scenario::target::TargetKind;

const OBJECTS: &str = include_str!("../../../../../data/catalogue/objects.csv");
const NEBULAE: &str = include_str!("../../../../../data/catalogue/nebulae.csv");
const HAND: &str = include_str!("../../../../../data/catalogue/hand.csv");
const EMISSION: &str = include_str!("../../../../../data/catalogue/emission.csv");

/// A row of `objects.csv`.
#[derive(Deserialize)]
struct Object {
    name: String,
    preset: TargetKind,
    #[serde(rename = "type")]
    code: String,
    ra_deg: f64,
    dec_deg: f64,
    constellation: String,
    major_arcmin: Option<f64>,
    minor_arcmin: Option<f64>,
    pa_deg: Option<f64>,
    v_mag: Option<f64>,
    b_mag: Option<f64>,
    b_mag_arcsec2: Option<f64>,
    other_names: String,
    designations: String,
}

/// A row of `nebulae.csv`: an object of its own, or what it adds to the one that it joins.
#[derive(Deserialize)]
struct Nebula {
    name: String,
    kind: Option<TargetKind>,
    code: String,
    ra_deg: Option<f64>,
    dec_deg: Option<f64>,
    constellation: String,
    major_arcmin: Option<f64>,
    minor_arcmin: Option<f64>,
    v_mag: Option<f64>,
    class: Option<u8>,
    joins: String,
    other_names: String,
}

/// A row of `hand.csv`: what it says stands for what the others say.
#[derive(Deserialize)]
struct ByHand {
    name: String,
    kind: TargetKind,
    ra_deg: Option<f64>,
    dec_deg: Option<f64>,
    major_arcmin: Option<f64>,
    minor_arcmin: Option<f64>,
    designations: String,
    names: String,
}

/// All rows of a shipped file.
fn rows<T: DeserializeOwned>(file: &str, text: &str) -> Result<Vec<T>, String> {
    let mut reader = csv::Reader::from_reader(text.as_bytes());
    reader.deserialize().collect::<Result<_, _>>().map_err(|e| format!("{file}: {e}"))
}

fn listed(text: &str) -> impl Iterator<Item = String> {
    text.split("; ").filter(|n| !n.is_empty()).map(str::to_owned)
}

/// Puts a name to a list that does not hold it yet.
fn put(list: &mut Vec<String>, name: String) {
    if !name.is_empty() && !list.contains(&name) {
        list.push(name);
    }
}

impl From<Object> for CatalogueObject {
    fn from(o: Object) -> Self {
        Self {
            name: o.name,
            kind: o.preset,
            kind_from: CatalogueSource::OpenNgc,
            // A bare "nebula" may reflect or shine of itself.
            kind_known: o.code != "Neb",
            code: o.code,
            ra_deg: o.ra_deg,
            dec_deg: o.dec_deg,
            constellation: o.constellation,
            size_from: o.major_arcmin.map(|_| CatalogueSource::OpenNgc),
            major_arcmin: o.major_arcmin,
            minor_arcmin: o.minor_arcmin,
            pa_deg: o.pa_deg,
            mag_from: o.v_mag.or(o.b_mag).map(|_| CatalogueSource::OpenNgc),
            v_mag: o.v_mag,
            b_mag: o.b_mag,
            b_mag_arcsec2: o.b_mag_arcsec2,
            class: None,
            other_names: listed(&o.other_names).collect(),
            designations: listed(&o.designations).collect(),
            emission: CatalogueEmission::NONE,
        }
    }
}

impl Nebula {
    /// An object of its own; `None` where it has no place or kind.
    fn alone(self) -> Option<CatalogueObject> {
        Some(CatalogueObject {
            kind: self.kind?,
            kind_from: CatalogueSource::Nebulae,
            // Lynds' and Cederblad's bright nebulae are not told apart by what makes them shine.
            kind_known: self.code != "bn"
                || self.name.starts_with("Sh2")
                || self.name.starts_with("RCW"),
            code: self.code,
            ra_deg: self.ra_deg?,
            dec_deg: self.dec_deg?,
            constellation: self.constellation,
            size_from: self.major_arcmin.map(|_| CatalogueSource::Nebulae),
            major_arcmin: self.major_arcmin,
            minor_arcmin: self.minor_arcmin,
            pa_deg: None,
            mag_from: self.v_mag.map(|_| CatalogueSource::Nebulae),
            v_mag: self.v_mag,
            b_mag: None,
            b_mag_arcsec2: None,
            class: self.class,
            other_names: listed(&self.other_names).collect(),
            designations: Vec::new(),
            emission: CatalogueEmission::NONE,
            name: self.name,
        })
    }

    /// Another name, a class, and a size or a magnitude for an object that has none.
    fn added_to(self, o: &mut CatalogueObject) {
        put(&mut o.designations, self.name);
        listed(&self.other_names).for_each(|n| put(&mut o.other_names, n));
        o.class = o.class.or(self.class);
        if o.v_mag.is_none() && self.v_mag.is_some() {
            o.v_mag = self.v_mag;
            o.mag_from = Some(CatalogueSource::Nebulae);
        }
        if o.major_arcmin.is_none() && self.major_arcmin.is_some() {
            (o.major_arcmin, o.minor_arcmin) = (self.major_arcmin, self.minor_arcmin);
            o.size_from = Some(CatalogueSource::Nebulae);
        }
    }
}

impl ByHand {
    fn alone(&self) -> Option<CatalogueObject> {
        Some(CatalogueObject {
            name: self.name.clone(),
            kind: self.kind,
            kind_from: CatalogueSource::Hand,
            kind_known: true,
            code: String::new(),
            ra_deg: self.ra_deg?,
            dec_deg: self.dec_deg?,
            constellation: String::new(),
            major_arcmin: None,
            minor_arcmin: None,
            size_from: None,
            pa_deg: None,
            mag_from: None,
            v_mag: None,
            b_mag: None,
            b_mag_arcsec2: None,
            class: None,
            other_names: Vec::new(),
            designations: Vec::new(),
            emission: CatalogueEmission::NONE,
        })
    }

    fn over(self, o: &mut CatalogueObject) {
        if o.kind != self.kind || !o.kind_known {
            o.kind_from = CatalogueSource::Hand;
        }
        (o.kind, o.kind_known) = (self.kind, true);
        if let (Some(ra), Some(dec)) = (self.ra_deg, self.dec_deg) {
            (o.ra_deg, o.dec_deg) = (ra, dec);
        }
        if self.major_arcmin.is_some() {
            (o.major_arcmin, o.minor_arcmin) = (self.major_arcmin, self.minor_arcmin);
            o.size_from = Some(CatalogueSource::Hand);
        }
        for d in listed(&self.designations) {
            put(&mut o.designations, d);
        }
        // What people say comes before what lists say, the Messier number before both.
        let (messier, others): (Vec<_>, Vec<_>) =
            std::mem::take(&mut o.other_names).into_iter().partition(|n| n.starts_with("M "));
        o.other_names = messier;
        listed(&self.names).for_each(|n| put(&mut o.other_names, n));
        others.into_iter().for_each(|n| put(&mut o.other_names, n));
    }
}

/// The constellation of the nearest object that has one.
fn neighbour(objects: &[CatalogueObject], to: &CatalogueObject) -> String {
    let off = |o: &CatalogueObject| {
        let turn = (o.ra_deg - to.ra_deg + 180.0).rem_euclid(360.0) - 180.0;
        (turn * to.dec_deg.to_radians().cos()).hypot(o.dec_deg - to.dec_deg)
    };
    objects
        .iter()
        .filter(|o| !o.constellation.is_empty())
        .min_by(|a, b| off(a).total_cmp(&off(b)))
        .map_or_else(String::new, |o| o.constellation.clone())
}

/// The objects of all files, joined, with what they emit.
pub(super) fn shipped() -> Result<Vec<CatalogueObject>, String> {
    let mut objects: Vec<CatalogueObject> =
        rows::<Object>("objects.csv", OBJECTS)?.into_iter().map(CatalogueObject::from).collect();
    let mut at: HashMap<String, usize> =
        objects.iter().enumerate().map(|(i, o)| (o.name.clone(), i)).collect();
    // A number that an object of the first file goes by is that object too.
    for (i, o) in objects.iter().enumerate() {
        for d in o.designations.iter().chain(&o.other_names) {
            at.entry(d.clone()).or_insert(i);
        }
    }
    let mut add = |objects: &mut Vec<CatalogueObject>, o: CatalogueObject| {
        at.insert(o.name.clone(), objects.len());
        objects.push(o);
    };
    let (joining, alone): (Vec<_>, Vec<_>) =
        rows::<Nebula>("nebulae.csv", NEBULAE)?.into_iter().partition(|n| !n.joins.is_empty());
    alone.into_iter().filter_map(Nebula::alone).for_each(|o| add(&mut objects, o));
    let hand: Vec<ByHand> = rows("hand.csv", HAND)?;
    for h in &hand {
        if !objects.iter().any(|o| o.name == h.name) {
            let o = h.alone().ok_or_else(|| format!("hand.csv: {} stands nowhere", h.name))?;
            add(&mut objects, o);
        }
    }
    for n in joining {
        let i = *at.get(&n.joins).ok_or_else(|| format!("nebulae.csv: no {} to join", n.joins))?;
        n.added_to(&mut objects[i]);
    }
    // What the hand list calls another name of an object is no object of its own.
    let absorbed: HashSet<String> = hand.iter().flat_map(|h| listed(&h.designations)).collect();
    // A popular name that the hand list gives is not another object's.
    let mut owners: HashMap<String, HashSet<String>> = HashMap::new();
    for h in &hand {
        for n in listed(&h.names) {
            owners.entry(n).or_default().insert(h.name.clone());
        }
    }
    for h in hand {
        let i = at[&h.name];
        h.over(&mut objects[i]);
    }
    // What stands by hand alone lies in the constellation of its nearest neighbour.
    let lost: Vec<usize> =
        (0..objects.len()).filter(|i| objects[*i].constellation.is_empty()).collect();
    for i in lost {
        objects[i].constellation = neighbour(&objects, &objects[i]);
    }
    for o in &mut objects {
        let name = &o.name;
        o.other_names.retain(|n| owners.get(n).is_none_or(|of| of.contains(name)));
    }
    objects.retain(|o| !absorbed.contains(&o.name));
    for o in &mut objects {
        // A number is named once, and not beside the popular names.
        o.designations.retain(|d| *d != o.name && !o.other_names.contains(d));
    }
    let by_hand: HashMap<String, EmissionByHand> =
        rows::<EmissionByHand>("emission.csv", EMISSION)?
            .into_iter()
            .map(|e| (e.name.clone(), e))
            .collect();
    if let Some(name) = by_hand.keys().find(|n| !at.contains_key(*n)) {
        return Err(format!("emission.csv: {name} stands nowhere"));
    }
    let tables = Tables::shipped().map_err(|e| e.to_string())?;
    let known = Knowledge::new(&tables, by_hand);
    for o in &mut objects {
        o.emission = known.emission(o);
    }
    Ok(objects)
}

#[cfg(test)]
mod tests {
    use crate::library::catalogue::list::Catalogue;

    /// Objects that stand in several catalogues are one: from memory and common practice.
    #[test]
    fn one_object_under_all_its_names() {
        let c = Catalogue::shipped().unwrap();
        for names in [
            &["NGC 7000", "Sh2-117", "LBN 373", "C 20", "North America Nebula"][..],
            &["IC 1805", "Sh2-190", "LBN 654", "Heart Nebula"],
            &["NGC 2237", "Sh2-275", "C 49", "Rosette Nebula"],
            &["NGC 6523", "M 8", "Sh2-25", "LBN 25", "Lagoon Nebula"],
            &["IC 443", "Sh2-248", "SNR G 189.1+03.0", "LBN 844", "Jellyfish Nebula"],
            &["Sh2-240", "SNR G 180.0-01.7", "Simeis 147"],
            &["Sh2-274", "Abell 21", "PK 205+14.1", "Medusa Nebula"],
            &["IC 434", "LBN 953"],
            &["Sh2-129", "LBN 449", "Flying Bat Nebula"],
            &["Sh2-136", "vdB 141", "Ghost Nebula"],
            &["LBN 777", "vdB 27"],
            &["C 9", "Sh2-155", "LBN 529", "Cave Nebula"],
            &["Mel 22", "M 45", "Pleiades"],
        ] {
            let first = &c.get(names[0]).unwrap().name;
            for name in names {
                assert_eq!(c.get(name).map(|o| &o.name), Some(first), "{name}");
            }
        }
        // Neighbours that are not one.
        for (a, b) in
            [("IC 434", "B 33"), ("IC 1396", "vdB 142"), ("NGC 6960", "NGC 6992"), ("M 42", "M 43")]
        {
            assert_ne!(c.get(a).unwrap().name, c.get(b).unwrap().name);
        }
    }

    #[test]
    fn fourteen_thousand_objects_and_no_name_twice() {
        let c = Catalogue::shipped().unwrap();
        assert!(c.len() >= 14_000, "{}", c.len());
        let mut seen = std::collections::HashSet::new();
        assert!(c.objects().iter().all(|o| seen.insert(&o.name)));
        for o in c.objects() {
            assert_eq!(o.constellation.len(), 3, "{}", o.name);
            assert!((0.0..360.0).contains(&o.ra_deg) && o.dec_deg.abs() <= 90.0, "{}", o.name);
        }
    }
}
