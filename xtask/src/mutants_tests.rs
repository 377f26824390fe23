//! Tests of [`super`].

use super::*;

#[test]
fn every_patch_finds_its_line_once_and_changes_it() -> Outcome {
    let patches = read_patches()?;
    assert!(patches.len() >= 11);
    for patch in &patches {
        let (_, broken, whole) = patched(patch, &root())?;
        assert_ne!(broken, whole, "{}", patch.what);
        assert!(!patch.old.contains('\n') && !patch.new.contains('\n'), "{}: one line", patch.what);
    }
    Ok(())
}

#[test]
fn a_draw_takes_each_room_in_turn_and_depends_on_its_seed() {
    let all: Vec<Mutant> =
        ["light/a.rs", "light/b.rs", "light/c.rs", "night/d.rs", "night/e.rs", "gear.rs"]
            .iter()
            .map(|f| Mutant {
                name: format!("{SOURCES}{f}:1"),
                file: format!("{SOURCES}{f}"),
                at: 0,
            })
            .collect();
    let one: Vec<_> = drawn(&all, 1).into_iter().map(|m| m.file).collect();
    assert_eq!(one.len(), 5, "rooms that are not named stay out");
    assert!(one[0].contains("light/") && one[1].contains("night/") && one[2].contains("light/"));
    assert_eq!(one, drawn(&all, 1).into_iter().map(|m| m.file).collect::<Vec<_>>());
    assert!(
        (2..20)
            .any(|seed| drawn(&all, seed).into_iter().map(|m| m.file).collect::<Vec<_>>() != one)
    );
}

#[test]
fn a_file_that_moved_leaves_its_old_place() {
    let made = tempfile::tempdir().expect("a folder");
    let folder = made.path().to_owned();
    fs::create_dir_all(folder.join("room")).expect("made");
    let (old, new) = (folder.join("room.rs"), folder.join("room/mod.rs"));
    fs::write(&old, "").and_then(|()| fs::write(&new, "")).expect("written");
    drop_others(&folder, &BTreeSet::from([new.clone()])).expect("dropped");
    assert!(!old.exists() && new.exists());
}
