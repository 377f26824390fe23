//! `salt-lamp serve`.

use std::net::{IpAddr, Ipv4Addr, SocketAddr};
use std::path::PathBuf;

use clap::Args;
use salt_lamp_core::library::{Catalogue, Figures, Library, Stars, demo_kit, shipped_entries};
use salt_lamp_core::light::Tables;
use salt_lamp_server::{App, Hosts};
use salt_lamp_store::Store;
use tokio::net::TcpListener;

use crate::demo;
use crate::say::say;

/// Options of `serve`.
#[derive(Args)]
pub struct Serve {
    /// Data directory. The default is salt-lamp in the user's data folder: ~/.local/share on Linux,
    /// ~/Library/Application Support on macOS, %APPDATA% on Windows; with --demo salt-lamp-demo
    /// beside it.
    #[arg(long, env = "SALT_LAMP_DATA")]
    data: Option<PathBuf>,
    /// Fill an empty data directory with the invented demo.
    #[arg(long, env = "SALT_LAMP_DEMO")]
    demo: bool,
    /// Begin the demo anew: what was changed in the demo's own folder is deleted. Only with --demo
    /// and without --data.
    #[arg(long, env = "SALT_LAMP_FRESH", requires = "demo", conflicts_with = "data")]
    fresh: bool,
    /// Address to listen on; 0.0.0.0 lets other machines in (there is no password).
    #[arg(long, env = "SALT_LAMP_HOST", default_value_t = IpAddr::V4(Ipv4Addr::LOCALHOST))]
    host: IpAddr,
    /// A name under which the server may be asked besides this machine's own; give it once for each
    /// name, or several with commas between them.
    #[arg(long, env = "SALT_LAMP_ALLOW_HOST", value_name = "NAME", value_delimiter = ',')]
    allow_host: Vec<String>,
    /// Port to listen on; 0 takes a free one.
    #[arg(long, env = "SALT_LAMP_PORT", default_value_t = 7373)]
    port: u16,
}

impl Serve {
    /// Serves until interrupted.
    pub fn run(self) -> Result<(), Box<dyn std::error::Error>> {
        tokio::runtime::Builder::new_multi_thread()
            .enable_all()
            .worker_threads(2)
            .build()?
            .block_on(self.serve())
    }

    async fn serve(self) -> Result<(), Box<dyn std::error::Error>> {
        let own_demo = self.demo && self.data.is_none();
        let directory = match self.data {
            Some(directory) => directory,
            None => {
                let dirs = directories::ProjectDirs::from("", "", "salt-lamp")
                    .ok_or("no data folder is known here; give --data DIR")?;
                // Beside the user's own data, never in it: the demo can be begun anew.
                let own = dirs.data_dir();
                if self.demo { own.with_file_name("salt-lamp-demo") } else { own.to_owned() }
            }
        };
        if self.fresh && directory.exists() {
            std::fs::remove_dir_all(&directory)
                .map_err(|e| format!("cannot begin anew in {}: {e}", directory.display()))?;
        }
        let store = Store::open(&directory).await?;
        let library = Library::shipped()?;
        let tables = Tables::shipped()?;
        store.stock_shelf(&shipped_entries(&library.gear)).await?;
        if self.demo {
            store.stock_kit(&demo_kit()).await?;
            demo::seed(&store, &library.examples, &tables).await?;
        }
        let sky = (Catalogue::shipped()?, Stars::shipped()?, Figures::shipped()?);
        let app = App::new(store.clone(), tables, library, sky);
        let at = SocketAddr::new(self.host, self.port);
        let listener = TcpListener::bind(at)
            .await
            .map_err(|e| format!("cannot listen on {at}: {e}; choose another with --port"))?;
        say(&format!("Salt Lamp is at http://{}", listener.local_addr()?));
        let kept =
            if own_demo { " (kept between starts; --fresh begins the demo anew)" } else { "" };
        say(&format!("Data: {}{kept}", directory.display()));
        salt_lamp_server::serve(
            listener,
            app,
            Hosts::new(self.host, &self.allow_host),
            interrupted(),
        )
        .await?;
        store.close().await;
        Ok(())
    }
}

/// Ends when the user or the system asks the program to stop.
async fn interrupted() {
    let interrupt = tokio::signal::ctrl_c();
    #[cfg(unix)]
    {
        use tokio::signal::unix::{SignalKind, signal};
        match signal(SignalKind::terminate()) {
            Ok(mut terminate) => {
                tokio::select! { _ = interrupt => {}, _ = terminate.recv() => {} }
            }
            Err(_) => {
                let _ = interrupt.await;
            }
        }
    }
    #[cfg(not(unix))]
    {
        let _ = interrupt.await;
    }
}
