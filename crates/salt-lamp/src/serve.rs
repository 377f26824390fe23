//! `salt-lamp serve`.

use std::io::IsTerminal;
use std::net::{IpAddr, Ipv4Addr, SocketAddr};
use std::path::PathBuf;
use std::sync::Arc;
use std::time::Duration;

use clap::Args;
use salt_lamp_core::library::{Catalogue, Figures, Library, Stars, demo_kit, shipped_entries};
use salt_lamp_core::light::Tables;
use salt_lamp_server::{App, ConnectionLimits, Front, Hosts, Play, Serving, passphrase_hash};
use salt_lamp_store::{SessionsAsked, Store};
use tokio::net::TcpListener;

use crate::folder::{Folder, asked};
use crate::say::say;
use crate::{demo, played, tls};

/// Options of `serve`.
#[derive(Args)]
pub struct Serve {
    #[command(flatten)]
    folder: Folder,
    /// Fill an empty data directory with the invented demo.
    #[arg(long, env = "SALT_LAMP_DEMO")]
    demo: bool,
    /// Begin the demo anew: what was changed in the demo's own folder is deleted. Only with --demo
    /// and without --data.
    #[arg(long, env = "SALT_LAMP_FRESH", requires = "demo", conflicts_with = "data")]
    fresh: bool,
    /// Address to listen on; 0.0.0.0 or :: lets other machines in, which takes a passphrase (see
    /// `salt-lamp passphrase`).
    #[arg(long, env = "SALT_LAMP_HOST", default_value_t = IpAddr::V4(Ipv4Addr::LOCALHOST))]
    host: IpAddr,
    /// A name under which the server may be asked besides this machine's own; give it once for each
    /// name, or several with commas between them.
    #[arg(long, env = "SALT_LAMP_ALLOW_HOST", value_name = "NAME", value_delimiter = ',')]
    allow_host: Vec<String>,
    /// Port to listen on; 0 takes a free one.
    #[arg(long, env = "SALT_LAMP_PORT", default_value_t = 7373)]
    port: u16,
    /// Speak TLS with this certificate chain (PEM).
    #[arg(long, env = "SALT_LAMP_TLS_CERT", value_name = "FILE", requires = "tls_key")]
    tls_cert: Option<PathBuf>,
    /// The certificate's private key (PEM).
    #[arg(long, env = "SALT_LAMP_TLS_KEY", value_name = "FILE", requires = "tls_cert")]
    tls_key: Option<PathBuf>,
    /// The path beneath which a reverse proxy has the program, such as /lamp.
    #[arg(long, env = "SALT_LAMP_BASE_PATH", value_name = "PATH", default_value = "")]
    base_path: String,
    /// A folder beneath which frames may be read and watched for the log; give it once for each, or
    /// several with commas between them. No other folder is read.
    #[arg(long, env = "SALT_LAMP_FRAMES", value_name = "FOLDER", value_delimiter = ',')]
    frames: Vec<PathBuf>,
    /// Believe X-Forwarded-For, X-Forwarded-Host and X-Forwarded-Proto of a reverse proxy on this
    /// machine. Takes a passphrase.
    #[arg(long, env = "SALT_LAMP_BEHIND_PROXY")]
    behind_proxy: bool,
}

impl Serve {
    /// Serves until interrupted.
    pub fn run(self) -> Result<(), Box<dyn std::error::Error>> {
        let runtime =
            tokio::runtime::Builder::new_multi_thread().enable_all().worker_threads(2).build()?;
        let outcome = runtime.block_on(self.serve());
        // Sums that nobody waits for any more do not hold up the end.
        runtime.shutdown_timeout(Duration::from_secs(1));
        outcome
    }

    /// Others are let in only with a passphrase; it may be typed now where somebody sits at a
    /// terminal.
    async fn guarded(&self, store: &Store) -> Result<(), Box<dyn std::error::Error>> {
        let reached = !self.host.is_loopback() || self.behind_proxy;
        if !reached || store.passphrase_hash().await?.is_some() {
            return Ok(());
        }
        if !std::io::stdin().is_terminal() {
            return Err(format!(
                "{} lets other machines in, and no passphrase is set: set one with `salt-lamp \
                 passphrase` for the same --data, then start again",
                if self.behind_proxy {
                    "--behind-proxy".to_owned()
                } else {
                    format!("--host {}", self.host)
                }
            )
            .into());
        }
        say("Other machines can reach this: choose a passphrase that they must know.");
        let words = tokio::task::spawn_blocking(|| asked().map_err(|e| e.to_string())).await??;
        let hash = passphrase_hash(&words)?;
        Ok(store.set_passphrase_hash(Some(&hash)).await?)
    }

    async fn serve(self) -> Result<(), Box<dyn std::error::Error>> {
        let own_demo = self.demo && self.folder.data.is_none();
        let directory = self.folder.directory(self.demo)?;
        let front = Front {
            base_path: Front::checked_base_path(&self.base_path)?,
            behind_proxy: self.behind_proxy,
            secure: self.tls_cert.is_some(),
        };
        let tls = match (&self.tls_cert, &self.tls_key) {
            (Some(cert), Some(key)) => Some(tls::acceptor(cert, key)?),
            _ => None,
        };
        if self.fresh && directory.exists() {
            std::fs::remove_dir_all(&directory)
                .map_err(|e| format!("cannot begin anew in {}: {e}", directory.display()))?;
        }
        let store = Store::open(&directory).await?;
        self.guarded(&store).await?;
        let library = Library::shipped()?;
        let tables = Tables::shipped()?;
        store.stock_shelf(&shipped_entries(&library.gear)).await?;
        if self.demo {
            store.stock_kit(&demo_kit()).await?;
            demo::seed(&store, &library.examples, &tables).await?;
        }
        let sky = (Catalogue::shipped()?, Stars::shipped()?, Figures::shipped()?);
        let mut roots = self.frames.clone();
        if self.demo {
            let own = directory.join("frames");
            std::fs::create_dir_all(&own)
                .map_err(|e| format!("cannot make {}: {e}", own.display()))?;
            roots.push(own);
        }
        // Of frames that do not say where they were taken.
        let east_deg = store.usual_site().await?.map_or(0.0, |site| site.longitude_deg);
        let app = App::new(store.clone(), tables, library, sky)
            .with_frames(&roots, east_deg)
            .map_err(|e| format!("--frames {e}; give a folder that is there"))?
            .with_player(Arc::new(played::play));
        let at = SocketAddr::new(self.host, self.port);
        let listener = TcpListener::bind(at)
            .await
            .map_err(|e| format!("cannot listen on {at}: {e}; choose another with --port"))?;
        let mut told = Told::new();
        let scheme = if front.secure { "https" } else { "http" };
        say(&format!("Salt Lamp is at {scheme}://{}{}", listener.local_addr()?, front.base_path));
        let kept =
            if own_demo { " (kept between starts; --fresh begins the demo anew)" } else { "" };
        say(&format!("Data: {}{kept}", directory.display()));
        let hosts = Hosts::new(self.host, &self.allow_host);
        let serving = Serving { hosts, front, tls, limits: ConnectionLimits::default() };
        let watch = tokio::spawn(watch_over(store.clone()));
        let frames = tokio::spawn(app.clone().watch_frames());
        if self.demo && store.log_sessions(&SessionsAsked::default()).await?.is_empty() {
            // A new user finds a night in the log, or finds it coming in.
            if let Err(problem) = app.play(Play::Night).await {
                tracing::warn!("no night was played: {}", problem.detail);
            }
        }
        let stop = async {
            told.next().await;
            // Who says it twice means at once: what was acknowledged is on the disk.
            tokio::spawn(async move {
                told.next().await;
                tracing::warn!("told to stop a second time: at once");
                std::process::exit(130);
            });
        };
        salt_lamp_server::serve(listener, app, serving, stop).await;
        watch.abort();
        frames.abort();
        if tokio::time::timeout(Duration::from_secs(1), store.close()).await.is_err() {
            tracing::warn!("the database was not closed in time; its next start mends that");
        }
        Ok(())
    }
}

/// How often what was written is moved into the database file itself, so that a copy of it is whole.
const SETTLED_EVERY: Duration = Duration::from_secs(15);
/// How often the whole database is checked.
const CHECKED_EVERY: Duration = Duration::from_secs(24 * 3600);

/// Keeps the database file whole for whoever copies it, and looks for damage once a day.
async fn watch_over(store: Store) {
    let mut checked = tokio::time::Instant::now();
    loop {
        tokio::time::sleep(SETTLED_EVERY).await;
        if let Err(e) = store.settle().await {
            tracing::warn!("{e}");
        }
        if checked.elapsed() > CHECKED_EVERY {
            checked = tokio::time::Instant::now();
            match store.check().await {
                Ok(found) => found.iter().for_each(|line| tracing::error!("{line}")),
                Err(e) => tracing::error!("{e}"),
            }
        }
    }
}

/// Hears when the user or the system asks the program to stop, from the moment it is made.
#[cfg(unix)]
struct Told(Vec<tokio::signal::unix::Signal>);

#[cfg(unix)]
impl Told {
    fn new() -> Self {
        use tokio::signal::unix::{SignalKind, signal};
        let kinds = [SignalKind::interrupt(), SignalKind::terminate()];
        Self(kinds.into_iter().filter_map(|kind| signal(kind).ok()).collect())
    }

    async fn next(&mut self) {
        std::future::poll_fn(|cx| {
            let heard = self.0.iter_mut().any(|s| s.poll_recv(cx).is_ready());
            if heard { std::task::Poll::Ready(()) } else { std::task::Poll::Pending }
        })
        .await;
    }
}

/// Hears when the user asks the program to stop.
#[cfg(not(unix))]
struct Told;

#[cfg(not(unix))]
impl Told {
    fn new() -> Self {
        Self
    }

    async fn next(&mut self) {
        let _ = tokio::signal::ctrl_c().await;
    }
}
