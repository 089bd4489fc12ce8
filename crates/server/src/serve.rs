//! Connections: how many, how long they may idle, and how they end.

use std::pin::pin;
use std::sync::Arc;
use std::time::Duration;

use axum::Router;
use hyper::server::conn::http1;
use hyper_util::rt::{TokioIo, TokioTimer};
use hyper_util::server::graceful::GracefulShutdown;
use hyper_util::service::TowerToHyperService;
use tokio::net::TcpListener;
use tokio::sync::Semaphore;
use tokio_io_timeout::TimeoutStream;

/// Most connections at a time; more wait to be accepted.
const MAX_CONNECTIONS: usize = 256;
/// How long the head of a request, or the next request, is waited for.
const HEAD_PATIENCE: Duration = Duration::from_secs(20);
/// How long a client may leave an answer unread.
const UNREAD_PATIENCE: Duration = Duration::from_secs(30);
/// How long answers under way may take once the server is asked to stop.
const FAREWELL: Duration = Duration::from_millis(1200);

/// Serves until `stop` is done, then ends soon whatever is open.
pub async fn serve(listener: TcpListener, router: Router, stop: impl Future<Output = ()>) {
    let places = Arc::new(Semaphore::new(MAX_CONNECTIONS));
    let open = GracefulShutdown::new();
    let mut stop = pin!(stop);
    loop {
        let next = async {
            let place = Arc::clone(&places).acquire_owned().await;
            (place, listener.accept().await)
        };
        let (place, accepted) = tokio::select! {
            next = next => next,
            () = &mut stop => break,
        };
        let Ok((stream, _)) = accepted else {
            // out of file handles: some connection will end
            tokio::time::sleep(Duration::from_millis(50)).await;
            continue;
        };
        // without it small answers wait for the client's acknowledgement
        let _ = stream.set_nodelay(true);
        let mut stream = TimeoutStream::new(stream);
        stream.set_write_timeout(Some(UNREAD_PATIENCE));
        let connection = http1::Builder::new()
            .timer(TokioTimer::new())
            .header_read_timeout(HEAD_PATIENCE)
            .serve_connection(
                TokioIo::new(Box::pin(stream)),
                TowerToHyperService::new(router.clone()),
            );
        let connection = open.watch(connection);
        tokio::spawn(async move {
            // a client that goes away in the middle is its own affair
            let _ = connection.await;
            drop(place);
        });
    }
    drop(listener);
    let _ = tokio::time::timeout(FAREWELL, open.shutdown()).await;
}

/// Done when the user or the system asks the process to stop. It listens from the call on, not from the first wait on.
pub fn asked_to_stop() -> impl Future<Output = ()> {
    use tokio::signal::unix::{SignalKind, signal};
    let [mut interrupted, mut terminated] =
        [SignalKind::interrupt(), SignalKind::terminate()].map(|kind| signal(kind).ok());
    async fn came(signal: &mut Option<tokio::signal::unix::Signal>) {
        match signal {
            Some(signal) => drop(signal.recv().await),
            // without a signal handler the server simply runs on
            None => std::future::pending().await,
        }
    }
    async move {
        tokio::select! {
            () = came(&mut interrupted) => {}
            () = came(&mut terminated) => {}
        }
    }
}
