//! The server: where it listens, what runs beside it, and how it ends.

use std::io::ErrorKind;
use std::net::{Ipv4Addr, SocketAddr, TcpListener};
use std::sync::Arc;
use std::sync::mpsc::{RecvTimeoutError, channel};
use std::time::Duration;

use camino::Utf8PathBuf;
use tokio::runtime;
use truehook_changes::Changes;
use truehook_stage::workers::Program;

use crate::PreviewError;
use crate::room::{Ports, Room};
use crate::{connections, routes};

/// The port where none is named.
pub const PORT: u16 = 6420;
/// How many ports after it are tried.
const FURTHER: u16 = 20;

/// What a preview is to show, and where.
pub struct Options {
    /// The theme's folder.
    pub folder: Utf8PathBuf,
    /// The port that is wanted.
    pub port: Option<u16>,
    /// The language of all who choose none.
    pub language: Option<String>,
    /// How workers are started.
    pub program: Program,
}

/// A preview that listens already.
pub struct Started {
    /// Where it can be looked at.
    pub address: String,
    /// Where its pages are by themselves.
    pub site: String,
    /// The port that was wanted, where another one had to be taken.
    pub instead_of: Option<u16>,
    listeners: [TcpListener; 2],
    room: Arc<Room>,
}

/// Listens, on loopback alone, and begins to open the theme and to watch it.
///
/// # Errors
/// Where no port is free, or files can't be watched.
pub fn start(options: Options) -> Result<Started, PreviewError> {
    let wanted = options.port.unwrap_or(PORT);
    let listener = listen(wanted)?;
    let port = listener.local_addr()?.port();
    let beside = listen(port.checked_add(1).ok_or(PreviewError::NoPort(wanted, port))?)?;
    let ports = Ports { shell: port, site: beside.local_addr()?.port() };
    let folder = options.folder.canonicalize_utf8().unwrap_or(options.folder);
    let room = Arc::new(Room::new(folder, ports, options.program, options.language));
    let changes = Changes::new()?;
    let (ready, begun) = channel();
    let following = room.clone();
    std::thread::Builder::new().name("follow".into()).stack_size(64 * 1024 * 1024).spawn(move || {
        let told = ready.clone();
        let followed = following.follow(changes, || drop(ready.send(Ok(()))));
        drop(told.send(followed));
    })?;
    // Large themes take their time; pages wait for them by themselves.
    match begun.recv_timeout(Duration::from_secs(2)) {
        Ok(Err(error)) => return Err(error.into()),
        Ok(Ok(())) | Err(RecvTimeoutError::Timeout | RecvTimeoutError::Disconnected) => {}
    }
    let [address, site] = [ports.shell, ports.site].map(|port| format!("http://localhost:{port}/"));
    Ok(Started { address, site, instead_of: (port != wanted).then_some(wanted), listeners: [listener, beside], room })
}

fn listen(wanted: u16) -> Result<TcpListener, PreviewError> {
    let last = wanted.saturating_add(FURTHER);
    for port in wanted..=last {
        match TcpListener::bind(SocketAddr::from((Ipv4Addr::LOCALHOST, port))) {
            Ok(listener) => return Ok(listener),
            Err(error) if matches!(error.kind(), ErrorKind::AddrInUse | ErrorKind::PermissionDenied) => {}
            Err(error) => return Err(error.into()),
        }
    }
    Err(PreviewError::NoPort(wanted, last))
}

impl Started {
    /// Serves until it is interrupted, and then ends at once.
    ///
    /// # Errors
    /// Where the system refuses.
    pub fn run(self) -> Result<(), PreviewError> {
        // Renderers wait for workers, and the few threads that there are must not.
        let runtime =
            runtime::Builder::new_multi_thread().worker_threads(2).max_blocking_threads(256).enable_all().build()?;
        let [shell, site] = self.listeners;
        let served = runtime.block_on(async {
            tokio::select! {
                served = connections::serve(shell, routes::shell(self.room.clone())) => served,
                served = connections::serve(site, routes::site(self.room)) => served,
                interrupted = tokio::signal::ctrl_c() => interrupted,
            }
        });
        runtime.shutdown_background();
        Ok(served?)
    }
}
