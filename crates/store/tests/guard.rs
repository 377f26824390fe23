//! The store's door: one process a folder, whose database it is, damage that is noticed, a folder
//! that vanished, and a copy of the file that is never empty.

use std::path::Path;

use salt_lamp_core::Scenario;
use salt_lamp_core::library::{Library, demo_kit, shipped_entries};
use salt_lamp_store::{FILE_NAME, Store, StoreError, Trouble};

fn demo() -> Scenario {
    serde_json::from_str(include_str!("../../../data/demo/larch-lane-ic-443.json"))
        .expect("the demo parses")
}

async fn filled(dir: &Path) -> String {
    let store = Store::open(dir).await.expect("opens");
    let gear = shipped_entries(&Library::shipped().expect("library").gear);
    store.stock_shelf(&gear).await.expect("stocked");
    store.stock_kit(&demo_kit()).await.expect("the kit");
    let id = store.add_scenario(&demo()).await.expect("added").row.id;
    store.close().await;
    id
}

async fn refused(dir: &Path) -> String {
    let file = dir.join(FILE_NAME);
    let before = std::fs::read(&file).expect("there");
    let e = Store::open(dir).await.expect_err("refused");
    assert!(matches!(e, StoreError::Refused { .. }), "{e:?}");
    assert_eq!(std::fs::read(&file).expect("there"), before, "the file was changed");
    e.to_string()
}

/// One statement on a database of which nobody else knows.
async fn run(file: &Path, sql: &'static str) {
    let url = format!("sqlite:{}?mode=rwc", file.display());
    let pool = sqlx::SqlitePool::connect(&url).await.expect("opens");
    sqlx::query(sql).execute(&pool).await.expect("runs");
    pool.close().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_folder_is_one_process_s_and_two_first_starts_come_to_a_sane_end() {
    let dir = tempfile::tempdir().expect("a directory");
    let (a, b) = tokio::join!(Store::open(dir.path()), Store::open(dir.path()));
    let (won, lost) = if a.is_ok() { (a, b) } else { (b, a) };
    let store = won.expect("one of them starts");
    let e = lost.expect_err("the other does not");
    assert!(matches!(e, StoreError::InUse { .. }), "{e}");
    assert!(e.to_string().contains("another Salt Lamp uses the folder"), "{e}");
    store.close().await;
    // Closed, it is free again though a copy of the handle lives on.
    let again = Store::open(dir.path()).await.expect("opens again");
    drop(store);
    again.close().await;
}

#[tokio::test]
async fn what_is_not_ours_is_refused_in_plain_words_and_not_touched() {
    let dir = tempfile::tempdir().expect("a directory");
    let file = dir.path().join(FILE_NAME);
    std::fs::write(&file, "shopping list").expect("written");
    assert!(refused(dir.path()).await.contains("is no database"));
    // Another program's, with and without a name of its own.
    std::fs::remove_file(&file).expect("removed");
    run(&file, "CREATE TABLE recipe (name TEXT)").await;
    assert!(refused(dir.path()).await.contains("is another program's database"));
    run(&file, "PRAGMA application_id = 7").await;
    assert!(refused(dir.path()).await.contains("is another program's database"));
    // Of a newer version.
    let other = tempfile::tempdir().expect("a directory");
    filled(other.path()).await;
    let newer = "INSERT INTO _sqlx_migrations VALUES (9001, 'of tomorrow', '', TRUE, x'00', 1)";
    run(&other.path().join(FILE_NAME), newer).await;
    let said = refused(other.path()).await;
    assert!(said.contains("newer Salt Lamp") && said.contains("9001"), "{said}");
}

#[tokio::test]
async fn an_empty_file_is_a_first_start() {
    let dir = tempfile::tempdir().expect("a directory");
    std::fs::write(dir.path().join(FILE_NAME), "").expect("written");
    Store::open(dir.path()).await.expect("opens").close().await;
}

#[tokio::test]
async fn a_row_that_still_parses_but_was_altered_is_named_and_the_rest_is_served() {
    let dir = tempfile::tempdir().expect("a directory");
    let id = filled(dir.path()).await;
    let file = dir.path().join(FILE_NAME);
    run(
        &file,
        "UPDATE scenario SET document = replace(document, '\"read_noise_e\":1.5', \
         '\"read_noise_e\":7.5')",
    )
    .await;
    run(&file, "UPDATE curve_point SET value = value * 0.5 WHERE shelf_id = 'uhc'").await;
    let store = Store::open(dir.path()).await.expect("opens");
    let e = store.scenario(&id).await.expect_err("altered");
    assert!(e.to_string().contains("its checksum does not fit"), "{e}");
    assert!(store.shelf_entry("uhc").await.is_err());
    assert!(store.shelf(true).await.expect("the rest").len() > 20);
    let damaged = store.damaged().await.expect("asked");
    let named: Vec<&str> = damaged.iter().map(|d| d.what.as_str()).collect();
    assert_eq!(named, ["scenario", "thing on the shelf"]);
    assert_eq!(store.check().await.expect("asked").len(), 2);
    assert_eq!(store.troubles().await.len(), 2);
    store.close().await;
    // Mended by hand and unsealed, it is trusted again.
    run(
        &file,
        "UPDATE scenario SET checksum = NULL, document = replace(document, \
         '\"read_noise_e\":7.5', '\"read_noise_e\":1.5')",
    )
    .await;
    let store = Store::open(dir.path()).await.expect("opens");
    assert_eq!(store.scenario(&id).await.expect("sound").scenario, demo());
    let later = Scenario { title: "Later".to_owned(), ..demo() };
    store.save_scenario(&id, 1, &later).await.expect("saved");
    assert_eq!(store.scenario(&id).await.expect("sound").scenario.title, "Later");
}

/// Random bytes of the file are altered, six at a time: either the start refuses it in plain words,
/// or all that is served is as it was stored, or named as damaged.
#[tokio::test]
async fn altered_bytes_are_refused_or_named_and_never_served_as_good() {
    let dir = tempfile::tempdir().expect("a directory");
    let id = filled(dir.path()).await;
    let sound = std::fs::read(dir.path().join(FILE_NAME)).expect("read");
    let store = Store::open(dir.path()).await.expect("opens");
    let shelf = store.shelf(true).await.expect("the shelf");
    store.close().await;
    let (mut refused, mut named) = (0, 0);
    for seed in 1..=crate::common::trials(30) {
        let dir = tempfile::tempdir().expect("a directory");
        let bytes = crate::common::with_flipped_bits(&sound, seed);
        std::fs::write(dir.path().join(FILE_NAME), &bytes).expect("written");
        let store = match Store::open(dir.path()).await {
            Ok(store) => store,
            Err(e) => {
                let plain = matches!(
                    e,
                    StoreError::Refused { .. } | StoreError::Migration(_) | StoreError::Database(_)
                );
                assert!(plain, "seed {seed}: {e:?}");
                refused += 1;
                continue;
            }
        };
        match store.scenario(&id).await {
            Ok(s) => assert_eq!(s.scenario, demo(), "seed {seed}"),
            Err(e) => {
                named += 1;
                assert!(
                    matches!(e, StoreError::Damaged { .. } | StoreError::NotFound { .. }),
                    "{e:?}"
                );
            }
        }
        let damaged = store.damaged().await.expect("asked");
        named += damaged.len();
        for entry in store.shelf(true).await.expect("the shelf") {
            let was = shelf.iter().find(|e| e.id == entry.id);
            assert_eq!(was.map(|e| &e.entry), Some(&entry.entry), "seed {seed}");
        }
        store.close().await;
    }
    assert!(refused + named > 0, "nothing was ever noticed");
}

#[cfg(unix)]
#[tokio::test]
async fn a_folder_that_vanished_takes_no_write_and_says_so() {
    let dir = tempfile::tempdir().expect("a directory");
    let at = dir.path().join("data");
    let store = Store::open(&at).await.expect("opens");
    assert!(store.troubles().await.is_empty());
    store.add_scenario(&demo()).await.expect("added");
    let away = dir.path().join("away");
    std::fs::rename(&at, &away).expect("moved");
    let e = store.add_scenario(&demo()).await.expect_err("it would be lost");
    assert_eq!(e.trouble(), Trouble::Gone, "{e}");
    let e = store.stock_kit(&demo_kit()).await.expect_err("it would be lost");
    assert_eq!(e.trouble(), Trouble::Gone, "{e}");
    // Another file in its place is another file.
    std::fs::create_dir(&at).expect("made");
    std::fs::write(at.join(FILE_NAME), "").expect("written");
    assert!(store.add_scenario(&demo()).await.is_err());
    std::fs::remove_dir_all(&at).expect("removed");
    std::fs::rename(&away, &at).expect("put back");
    store.add_scenario(&demo()).await.expect("goes on");
    assert_eq!(store.scenarios().await.expect("listed").len(), 2);
}

#[tokio::test]
async fn a_copy_of_the_file_alone_is_whole_and_so_is_a_backup() {
    let dir = tempfile::tempdir().expect("a directory");
    let store = Store::open(dir.path()).await.expect("opens");
    let id = store.add_scenario(&demo()).await.expect("added").row.id;
    store.settle().await.expect("settled");
    let copy = tempfile::tempdir().expect("a directory");
    std::fs::copy(dir.path().join(FILE_NAME), copy.path().join(FILE_NAME)).expect("copied");
    let second = tempfile::tempdir().expect("a directory");
    // Beside the process that has the folder, too, which goes on.
    let beside = Store::beside(dir.path()).await.expect("opens beside");
    assert!(beside.check().await.expect("asked").is_empty());
    beside.backup(&second.path().join(FILE_NAME)).await.expect("written");
    assert!(beside.add_scenario(&demo()).await.is_err(), "it only reads");
    store.add_scenario(&demo()).await.expect("goes on");
    assert!(store.backup(&second.path().join(FILE_NAME)).await.is_err(), "it is there already");
    for at in [copy.path(), second.path()] {
        let other = Store::open(at).await.expect("opens");
        assert_eq!(other.scenario(&id).await.expect("in it").scenario, demo());
    }
}

#[tokio::test(flavor = "multi_thread", worker_threads = 4)]
async fn readers_do_not_wait_for_who_writes() {
    let dir = tempfile::tempdir().expect("a directory");
    let store = Store::open(dir.path()).await.expect("opens");
    let id = store.add_scenario(&demo()).await.expect("added").row.id;
    // Another program holds the database for writing.
    let url = format!("sqlite:{}", dir.path().join(FILE_NAME).display());
    let other = sqlx::SqlitePool::connect(&url).await.expect("opens");
    let held = other.begin_with("BEGIN IMMEDIATE").await.expect("held");
    let writers: Vec<_> = (0..8)
        .map(|_| {
            let store = store.clone();
            tokio::spawn(async move { store.add_scenario(&demo()).await.map(|_| ()) })
        })
        .collect();
    tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    for _ in 0..20 {
        let read = tokio::time::timeout(std::time::Duration::from_secs(1), store.scenario(&id));
        read.await.expect("a reader waits").expect("read");
    }
    held.rollback().await.expect("let go");
    for writer in writers {
        writer.await.expect("no panic").expect("written");
    }
    assert_eq!(store.scenarios().await.expect("listed").len(), 9);
}

#[tokio::test]
async fn sessions_and_tokens_end() {
    let dir = tempfile::tempdir().expect("a directory");
    let store = Store::open(dir.path()).await.expect("opens");
    assert_eq!(store.passphrase_hash().await.expect("asked"), None);
    store.set_passphrase_hash(Some("$argon2id$1")).await.expect("set");
    store.add_session("a", "a browser", 60).await.expect("added");
    store.add_session("b", "another", 60).await.expect("added");
    store.add_session("late", "ended", -1).await.expect("added");
    assert_eq!(store.sessions().await.expect("listed").len(), 2);
    assert!(store.session("late").await.expect("asked").is_none());
    let a = store.session("a").await.expect("asked").expect("there");
    store.end_sessions(Some(&a.id)).await.expect("ended");
    assert!(store.session("a").await.expect("asked").is_none());
    assert!(store.end_sessions(Some(&a.id)).await.is_err());
    let token = store.add_token("t", "a script", 60).await.expect("made");
    assert_eq!(token.used_at, None);
    store.token("t").await.expect("asked").expect("there");
    assert!(store.tokens().await.expect("listed")[0].used_at.is_some());
    store.add_token("u", "ended", -1).await.expect("made");
    assert!(store.token("u").await.expect("asked").is_none());
    // Another passphrase signs everybody out; tokens stay until they are ended.
    store.set_passphrase_hash(Some("$argon2id$2")).await.expect("set");
    assert!(store.sessions().await.expect("listed").is_empty());
    assert!(store.token("t").await.expect("asked").is_some());
    store.end_token(&token.id).await.expect("ended");
    assert!(store.token("t").await.expect("asked").is_none());
}
