//! `salt-lamp serve`.

use std::net::{IpAddr, Ipv4Addr, SocketAddr};
use std::path::PathBuf;

use clap::Args;
use salt_lamp_core::catalogue::Catalogue;
use salt_lamp_core::gear::Library;
use salt_lamp_core::light::Tables;
use salt_lamp_core::shelf::shipped_entries;
use salt_lamp_server::{App, Hosts};
use salt_lamp_store::Store;
use tokio::net::TcpListener;

use crate::demo;

/// Options of `serve`.
#[derive(Args)]
pub struct Serve {
    /// Data directory; the default is the platform's data folder, or a throw-away one with --demo.
    #[arg(long)]
    data: Option<PathBuf>,
    /// Fill an empty data directory with the invented demo.
    #[arg(long)]
    demo: bool,
    /// Address to listen on; 0.0.0.0 lets other machines in (there is no password).
    #[arg(long, default_value_t = IpAddr::V4(Ipv4Addr::LOCALHOST))]
    host: IpAddr,
    /// A name under which the server may be asked besides this machine's own; give it once for each name.
    #[arg(long, value_name = "NAME")]
    allow_host: Vec<String>,
    /// Port to listen on; 0 takes a free one.
    #[arg(long, default_value_t = 7373)]
    port: u16,
}

impl Serve {
    /// Serves until interrupted.
    pub fn run(self) -> Result<(), Box<dyn std::error::Error>> {
        tokio::runtime::Builder::new_multi_thread().enable_all().worker_threads(2).build()?.block_on(self.serve())
    }

    async fn serve(self) -> Result<(), Box<dyn std::error::Error>> {
        let throw_away = self.demo && self.data.is_none();
        let directory = match self.data {
            Some(directory) => directory,
            None if self.demo => std::env::temp_dir().join(format!("salt-lamp-demo-{}", std::process::id())),
            None => {
                let dirs = directories::ProjectDirs::from("", "", "salt-lamp").ok_or("no data folder is known here; give --data DIR")?;
                dirs.data_dir().to_owned()
            }
        };
        let store = Store::open(&directory).await?;
        let library = Library::shipped()?;
        store.stock_shelf(&shipped_entries(&library.gear)).await?;
        if self.demo {
            demo::seed(&store, &library.examples).await?;
        }
        let app = App::new(store.clone(), Tables::shipped()?, library, Catalogue::shipped()?);
        let at = SocketAddr::new(self.host, self.port);
        let listener = TcpListener::bind(at).await.map_err(|e| format!("cannot listen on {at}: {e}; choose another with --port"))?;
        println!("Salt Lamp is at http://{}", listener.local_addr()?);
        println!("Data: {}{}", directory.display(), if throw_away { " (thrown away at the end)" } else { "" });
        salt_lamp_server::serve(listener, app, Hosts::new(self.host, &self.allow_host), interrupted()).await?;
        store.close().await;
        if throw_away {
            std::fs::remove_dir_all(&directory)?;
        }
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
