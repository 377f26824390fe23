use std::collections::BTreeMap;

use super::*;
use crate::decide::rig_focus::rig_focus;
use crate::library::gear::Library;
use crate::library::rig::{Orientation, Rig, Slot};
use crate::library::shelf::{ShelfEntry, ShelfThing, demo_kit, shipped_entries};

fn shelf() -> BTreeMap<String, ShelfEntry> {
    let library = Library::shipped().unwrap();
    shipped_entries(&library.gear).into_iter().chain(demo_kit()).collect()
}

fn rig(shelf: &BTreeMap<String, ShelfEntry>, id: &str, filters: &[Option<&str>]) -> Rig {
    let ShelfThing::Rig(mut rig) = shelf[id].thing.clone() else { panic!("{id} is no rig") };
    let slot = |(number, filter): (u32, &Option<&str>)| Slot {
        number,
        filter: filter.map(str::to_owned),
        orientation: Orientation::Unknown,
        since: None,
    };
    rig.slots = (1..).zip(filters).map(slot).collect();
    rig
}

/// The names of the sets that these filters make, those to start with marked.
fn sets(id: &str, filters: &[Option<&str>]) -> Vec<String> {
    let shelf = shelf();
    let rig = rig(&shelf, id, filters);
    let parts = rig.parts("Rig", &|id| shelf.get(id)).unwrap();
    let mark = |s: WheelSet| format!("{}{}", if s.first_choice { "" } else { "- " }, s.name);
    wheel_sets(&parts).into_iter().map(mark).collect()
}

#[test]
fn a_mono_wheel_makes_sets_of_one_width_and_luminance_with_colours() {
    let wheel = ["lum", "red", "green", "blue", "ha-3", "oiii-3", "sii-3", "ha-7"].map(Some);
    assert_eq!(
        sets("refractor-mono", &wheel),
        [
            "H-alpha, [O III] and [S II] 3 nm",
            "H-alpha 7 nm",
            "L, R, G, B",
            "- R, G, B",
            "- Luminance"
        ]
    );
    // Colours without luminance; a wheel with a hole can go without a filter.
    let wheel = [Some("red"), Some("green"), Some("blue"), None];
    assert_eq!(sets("refractor-mono", &wheel), ["R, G, B", "- no filter"]);
    assert_eq!(sets("refractor-mono", &[Some("red"), Some("green")]), [""; 0]);
}

#[test]
fn a_colour_drawer_makes_a_path_of_each_filter_and_a_pair_of_two() {
    let drawer = ["dual-7", "sii-oiii", "uv-ir-cut"].map(Some);
    assert_eq!(
        sets("reflector-colour", &drawer),
        [
            "Dual band 7 nm + [S II] and [O III] 6 nm",
            "Dual band 7 nm",
            "- [S II] and [O III] 6 nm",
            "UV-IR cut",
            "- no filter"
        ]
    );
    assert_eq!(sets("reflector-colour", &[]), ["no filter"]);
}

#[test]
fn a_target_starts_with_what_shows_it() {
    let (shelf, library) = (shelf(), Library::shipped().unwrap());
    let wheel = ["lum", "red", "green", "blue", "ha-3", "oiii-3", "sii-3"].map(Some);
    let rig = rig(&shelf, "refractor-mono", &wheel);
    let parts = rig.parts("Rig", &|id| shelf.get(id)).unwrap();
    let sets = wheel_sets(&parts);
    let first = |kind: TargetKind| {
        let preset = library.targets.iter().find(|t| t.kind == kind).unwrap();
        let target = preset.named("x", crate::scenario::target::Known::Preset);
        sets_for(&target, &sets).into_iter().map(|i| sets[i].key.clone()).collect::<Vec<_>>()
    };
    assert_eq!(first(TargetKind::SupernovaRemnant), ["lines-1", "lrgb"]);
    assert_eq!(first(TargetKind::Galaxy), ["lrgb"]);
    assert_eq!(first(TargetKind::GalaxyWithHIi), ["lrgb", "lines-1"]);
    assert_eq!(first(TargetKind::Cluster), ["lrgb"]);
}

#[test]
fn subs_are_lengths_that_people_set_within_what_the_mount_holds() {
    let (shelf, library) = (shelf(), Library::shipped().unwrap());
    let wheel = ["lum", "red", "green", "blue", "ha-3", "oiii-3", "sii-3"].map(Some);
    let mut rig = rig(&shelf, "refractor-mono", &wheel);
    rig.longest_sub_s = Some(200.0);
    let parts = rig.parts("Rig", &|id| shelf.get(id)).unwrap();
    let mut s = library.examples[0].scenario.clone();
    s.contenders = wheel_sets(&parts).iter().map(|set| light_path_of(&parts, set)).collect();
    let tables = Tables::shipped().unwrap();
    let fitted = with_advised_subs(s.check().unwrap(), &tables).check().unwrap();
    let subs: Vec<Vec<f64>> = fitted
        .scenario()
        .contenders
        .iter()
        .map(|c| c.exposures.iter().map(|e| e.sub_s).collect())
        .collect();
    // Narrow bands run into the mount's limit, of a length that people set; broad ones do not.
    assert_eq!(subs[0], [180.0; 3]);
    assert!(subs[1].iter().all(|s| SAID_S.contains(s) && *s < 180.0), "{subs:?}");
    assert_eq!(fitted.scenario().contenders[1].exposures[0].share, 0.5);
    assert_eq!((said_s(40.0, 25.0), said_s(31.0, 1e9)), (20.0, 45.0));
    assert_eq!((said_s(0.2, 0.5), said_s(1e4, 1e9)), (0.5, 1200.0));
}

#[test]
fn a_filter_moves_the_focus_by_a_third_of_its_thickness() {
    let mut shelf = shelf();
    let of = |shelf: &BTreeMap<String, ShelfEntry>| {
        let rig = rig(shelf, "reflector-colour", &[Some("dual-7"), Some("uv-ir-cut"), None]);
        rig_focus(&rig.parts("Rig", &|id| shelf.get(id)).unwrap())
    };
    let set = |shelf: &mut BTreeMap<String, ShelfEntry>, id: &str, mm| {
        if let ShelfThing::Filter(f) = &mut shelf.get_mut(id).unwrap().thing {
            f.filter.thickness_mm = Some(mm);
        }
    };
    // 2 lambda N^2 at 550 nm and f/2.8.
    assert!((of(&shelf).depth_um - 8.624).abs() < 1e-9);
    set(&mut shelf, "dual-7", 2.0);
    set(&mut shelf, "uv-ir-cut", 2.0);
    let told = of(&shelf);
    assert_eq!(told.slots.len(), 2);
    assert!((told.slots[0].shift_mm.unwrap() - 2.0 / 3.0).abs() < 1e-12);
    assert!((told.slots[0].back_focus_mm.unwrap() - 56.0 - 2.0 / 3.0).abs() < 1e-12);
    assert_eq!(told.parfocal, Some(true));
    set(&mut shelf, "uv-ir-cut", 1.0);
    let told = of(&shelf);
    assert_eq!(told.parfocal, Some(false));
    assert!(told.words.contains("instead of 56.0 mm"), "{}", told.words);
}
