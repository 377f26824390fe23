//! Where the data stand, and what is done with them besides serving: a passphrase, a check, a
//! backup.

use std::io::{BufRead, IsTerminal};
use std::path::PathBuf;

use clap::Args;
use salt_lamp_server::{check_passphrase, passphrase_hash};
use salt_lamp_store::{Store, StoreError};

use crate::say::say;

type Outcome = Result<(), Box<dyn std::error::Error>>;

/// Where the data stand.
#[derive(Args)]
pub struct Folder {
    /// Data directory. The default is salt-lamp in the user's data folder: ~/.local/share on Linux,
    /// ~/Library/Application Support on macOS, %APPDATA% on Windows; with --demo salt-lamp-demo
    /// beside it.
    #[arg(long, env = "SALT_LAMP_DATA")]
    pub data: Option<PathBuf>,
}

impl Folder {
    /// The directory, the demo's own where it is the demo's.
    pub fn directory(&self, demo: bool) -> Result<PathBuf, String> {
        if let Some(directory) = &self.data {
            return Ok(directory.clone());
        }
        let dirs = directories::ProjectDirs::from("", "", "salt-lamp")
            .ok_or("no data folder is known here; give --data DIR")?;
        // Beside the user's own data, never in it: the demo can be begun anew.
        let own = dirs.data_dir();
        Ok(if demo { own.with_file_name("salt-lamp-demo") } else { own.to_owned() })
    }
}

/// Runs something short on the data of a folder: of one that nobody serves, or beside who serves it.
fn with_store<T, F: Future<Output = Result<T, StoreError>>>(
    opened: impl Future<Output = Result<Store, StoreError>>,
    work: impl FnOnce(Store) -> F,
) -> Result<T, Box<dyn std::error::Error>> {
    let runtime = tokio::runtime::Builder::new_current_thread().enable_all().build()?;
    runtime.block_on(async {
        let store = opened.await?;
        let done = work(store.clone()).await;
        store.close().await;
        Ok(done?)
    })
}

/// Options of `passphrase`.
#[derive(Args)]
pub struct Passphrase {
    #[command(flatten)]
    folder: Folder,
    /// Take the passphrase away: whoever is at this machine may then use the program, and it
    /// answers this machine only.
    #[arg(long)]
    remove: bool,
}

impl Passphrase {
    /// Sets the passphrase, read from the terminal or the first line of standard input.
    pub fn run(self) -> Outcome {
        let directory = self.folder.directory(false)?;
        if self.remove {
            let open = Store::open(&directory);
            with_store(open, |store| async move { store.set_passphrase_hash(None).await })?;
            say("The passphrase is taken away; all browsers are signed out.");
            return Ok(());
        }
        let words = asked()?;
        let hash = passphrase_hash(&words)?;
        let open = Store::open(&directory);
        with_store(open, |store| async move { store.set_passphrase_hash(Some(&hash)).await })?;
        say("The passphrase is set; all browsers are signed out.");
        Ok(())
    }
}

/// A passphrase as it is typed, twice at a terminal.
pub fn asked() -> Result<String, Box<dyn std::error::Error>> {
    let words = if std::io::stdin().is_terminal() {
        let words = rpassword::prompt_password("New passphrase: ")?;
        check_passphrase(&words).map_err(|e| format!("the passphrase: {e}"))?;
        if rpassword::prompt_password("Once more: ")? != words {
            return Err("the two differ; nothing was changed".into());
        }
        words
    } else {
        let mut line = String::new();
        std::io::stdin().lock().read_line(&mut line)?;
        line.trim_end_matches(['\n', '\r']).to_owned()
    };
    check_passphrase(&words).map_err(|e| format!("the passphrase: {e}"))?;
    Ok(words)
}

/// Options of `check`.
#[derive(Args)]
pub struct Check {
    #[command(flatten)]
    folder: Folder,
    /// Check the demo's own folder.
    #[arg(long)]
    demo: bool,
}

impl Check {
    /// Checks the whole database and every row; an error where something is damaged.
    pub fn run(self) -> Outcome {
        let directory = self.folder.directory(self.demo)?;
        let beside = Store::beside(&directory);
        let found = with_store(beside, |store| async move { store.check().await })?;
        found.iter().for_each(|line| say(line));
        match found.len() {
            0 => say("All is well: every page, index and row is as it was written."),
            1 => return Err("1 thing is damaged".into()),
            n => return Err(format!("{n} things are damaged").into()),
        }
        Ok(())
    }
}

/// Options of `backup`.
#[derive(Args)]
pub struct Backup {
    #[command(flatten)]
    folder: Folder,
    /// The file to write: a whole database, to be put in the place of salt-lamp.db. It must not be
    /// there yet.
    to: PathBuf,
}

impl Backup {
    /// Writes a copy of the database.
    pub fn run(self) -> Outcome {
        let directory = self.folder.directory(false)?;
        if self.to.exists() {
            return Err(format!("{} is there already; name another file", self.to.display()).into());
        }
        let to = self.to.clone();
        let beside = Store::beside(&directory);
        with_store(beside, |store| async move { store.backup(&to).await })?;
        say(&format!("Copied to {}.", self.to.display()));
        Ok(())
    }
}
