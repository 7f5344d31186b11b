//! Connections: so many at once, and none that keeps its place without asking for anything.

use std::io;
use std::net::TcpListener;
use std::sync::Arc;
use std::time::Duration;

use axum::Router;
use hyper::server::conn::http1;
use hyper_util::rt::{TokioIo, TokioTimer};
use hyper_util::service::TowerToHyperService;
use tokio::sync::Semaphore;

/// How long the head of a request may take.
const PATIENCE: Duration = Duration::from_secs(5);
/// How many connections one port has at most.
const MOST: u64 = 512;
/// How many at least, however few files may be open.
const LEAST: u64 = 8;
/// What else the program has open: workers, watched folders, and files that it reads.
const OTHERS: u64 = 40;

/// How many connections one of two ports may have, by how many files may be open.
fn most() -> usize {
    #[cfg(unix)]
    let files = {
        use rustix::process::{Resource, getrlimit};
        getrlimit(Resource::Nofile).current.unwrap_or(u64::MAX)
    };
    #[cfg(not(unix))]
    let files = u64::MAX;
    (files.saturating_sub(OTHERS) / 2).clamp(LEAST, MOST) as usize
}

/// Serves the connections of a port.
///
/// # Errors
/// Where the system refuses to listen at all.
pub async fn serve(listener: TcpListener, router: Router) -> io::Result<()> {
    listener.set_nonblocking(true)?;
    let listener = tokio::net::TcpListener::from_std(listener)?;
    let places = Arc::new(Semaphore::new(most()));
    loop {
        // Who comes when all places are taken waits until somebody goes, or has taken too long.
        let Ok(place) = places.clone().acquire_owned().await else { return Ok(()) };
        let Ok((stream, _)) = listener.accept().await else {
            // Too many files are open, or whoever came has gone.
            tokio::time::sleep(Duration::from_millis(50)).await;
            continue;
        };
        // Answers are small, and somebody waits for each.
        let _ = stream.set_nodelay(true);
        let service = TowerToHyperService::new(router.clone());
        tokio::spawn(async move {
            let _place = place;
            let mut server = http1::Builder::new();
            server.timer(TokioTimer::new()).header_read_timeout(PATIENCE);
            // Whoever breaks off has nobody to be told of it.
            let _ = server.serve_connection(TokioIo::new(stream), service).await;
        });
    }
}
