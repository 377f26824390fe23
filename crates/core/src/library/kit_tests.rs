use std::collections::BTreeMap;

use super::*;
use crate::library::gear::Library;
use crate::library::rig_file::RigFile;
use crate::library::shelf::{demo_kit, shipped_entries};

fn shelf() -> BTreeMap<String, ShelfEntry> {
    let library = Library::shipped().unwrap();
    shipped_entries(&library.gear).into_iter().chain(demo_kit()).collect()
}

fn rig_of(shelf: &BTreeMap<String, ShelfEntry>, id: &str) -> (String, Rig) {
    match &shelf[id] {
        ShelfEntry { name, thing: ShelfThing::Rig(r), .. } => (name.clone(), r.clone()),
        _ => panic!("{id} is no rig"),
    }
}

#[test]
fn the_demo_s_rigs_stand_on_shipped_parts_and_are_accepted() {
    let shelf = shelf();
    for id in ["refractor-mono", "reflector-colour"] {
        assert!(shelf[id].clone().check().is_ok());
        let (name, rig) = rig_of(&shelf, id);
        assert!(rig.parts(&name, &|id| shelf.get(id)).is_ok(), "{id}");
    }
}

#[test]
fn every_starter_names_shipped_filters() {
    let shelf = shelf();
    for id in crate::library::shelf::STARTERS.iter().flat_map(|s| s.filters).flatten() {
        assert!(matches!(shelf[*id].thing, ShelfThing::Filter(_)), "{id}");
    }
}

#[test]
fn a_price_is_the_sum_of_its_parts_and_what_is_typed_on_top() {
    let mut shelf = shelf();
    let (name, rig) = rig_of(&shelf, "reflector-colour");
    let price = |shelf: &BTreeMap<String, ShelfEntry>| {
        rig.parts(&name, &|id| shelf.get(id)).unwrap().price()
    };
    let before = price(&shelf);
    assert_eq!(before.total, 1700.0 + 1900.0 + 260.0 + 1500.0);
    assert_eq!((before.parts, before.filters, before.unknown), (3600.0, 260.0, 0));
    // A part that costs more makes the rig cost more; what was typed on top stays.
    if let ShelfThing::Camera(k) = &mut shelf.get_mut("colour-26").unwrap().thing {
        k.price = Some(2100.0);
    }
    let after = price(&shelf);
    assert_eq!((after.total - before.total, after.extra), (200.0, 1500.0));
    if let ShelfThing::Telescope(t) = &mut shelf.get_mut("reflector-150").unwrap().thing {
        t.price = None;
    }
    assert_eq!(price(&shelf).unknown, 1);
}

#[test]
fn a_light_path_has_the_rig_s_reducer_limit_and_price_without_filters() {
    let shelf = shelf();
    let (name, mut rig) = rig_of(&shelf, "refractor-mono");
    (rig.reducer, rig.longest_sub_s, rig.gain) = (Some(0.8), Some(180.0), Some(0.0));
    let parts = rig.parts(&name, &|id| shelf.get(id)).unwrap();
    let path = parts.light_path("a".to_owned(), Vec::new());
    assert!((path.optics.focal_ratio() - 5.5 * 0.8).abs() < 1e-9);
    assert_eq!((path.optics.longest_sub_s, path.gain), (Some(180.0), 0.0));
    assert_eq!(path.price, Some(1200.0 + 2300.0 + 1400.0));
}

#[test]
fn a_file_holds_every_part_and_comes_back_as_it_was() {
    let shelf = shelf();
    let (name, rig) = rig_of(&shelf, "refractor-mono");
    let file = RigFile::new(&name, &rig, &|id| shelf.get(id)).unwrap();
    assert_eq!(file.parts.len(), 2 + 7);
    let text = serde_json::to_string(&file).unwrap();
    let back: RigFile = serde_json::from_str(&text).unwrap();
    assert_eq!(back.clone().check().unwrap(), file);
    // Elsewhere its parts have other ids.
    let ids = [("mono-26".to_owned(), "x".to_owned())].into();
    assert_eq!(back.rig.with_ids(&ids).camera, "x");
}

#[test]
fn what_is_wrong_is_named_by_its_field() {
    let shelf = shelf();
    let (name, mut rig) = rig_of(&shelf, "refractor-mono");
    rig.slots[1].number = 1;
    rig.slots[2].since = Some("3 October".to_owned());
    rig.slots[3].filter = Some("mono-26".to_owned());
    rig.overhead_s_per_sub = -1.0;
    let entry = ShelfEntry {
        name: name.clone(),
        sources: BTreeMap::new(),
        thing: ShelfThing::Rig(rig.clone()),
    };
    let paths: Vec<String> = entry.check().unwrap_err().into_iter().map(|e| e.path).collect();
    assert_eq!(
        paths,
        [
            "thing.item.overhead_s_per_sub",
            "thing.item.slots[1].number",
            "thing.item.slots[2].since"
        ]
    );
    let wrong = rig.parts(&name, &|id| shelf.get(id)).unwrap_err();
    assert_eq!(wrong[0].path, "thing.item.slots[3].filter");
}
