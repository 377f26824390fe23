//! Files that are sent while they are made: a large one never stands in memory as a whole.

use std::io::{self, Write};
use std::pin::Pin;
use std::sync::Arc;
use std::task::{Context, Poll};

use axum::body::{Body, HttpBody};
use hyper::body::{Bytes, Frame};
use tokio::sync::{OwnedSemaphorePermit, mpsc};

use crate::http::blocking::{Pool, Threads};
use crate::{App, Problem};

/// Pieces that may wait for the network.
const WAITING: usize = 2;

type Piece = io::Result<Bytes>;

/// Where a file is written to: each piece goes to whoever reads the answer, and waits for him.
struct Pieces(mpsc::Sender<Piece>);

impl Write for Pieces {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        let sent = self.0.blocking_send(Ok(Bytes::copy_from_slice(bytes)));
        sent.map_err(|_| io::Error::from(io::ErrorKind::BrokenPipe)).map(|()| bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}

/// Breaks the answer off unless the file was written to its end: half a file is never taken for a
/// whole one.
struct Unfinished(Option<mpsc::Sender<Piece>>);

impl Drop for Unfinished {
    fn drop(&mut self) {
        if let Some(sender) = self.0.take() {
            let _ = sender.blocking_send(Err(io::Error::other("the file was not finished")));
        }
    }
}

/// The answer's body.
struct Received(mpsc::Receiver<Piece>);

impl HttpBody for Received {
    type Data = Bytes;
    type Error = io::Error;

    fn poll_frame(
        mut self: Pin<&mut Self>,
        cx: &mut Context<'_>,
    ) -> Poll<Option<io::Result<Frame<Bytes>>>> {
        self.0.poll_recv(cx).map(|piece| piece.map(|p| p.map(Frame::data)))
    }
}

impl App {
    /// An answer that `work` writes while it is sent, as many at a time as there are processors.
    /// Work whose reader is gone fails at its next piece.
    ///
    /// # Errors
    /// 429 where too many wait already.
    pub(crate) async fn sent(
        &self,
        work: impl FnOnce(&Self, &Threads, &mut dyn Write) -> io::Result<()> + Send + 'static,
    ) -> Result<Body, Problem> {
        let (permit, threads) = Pool::file(&self.pool).await?;
        let app = self.clone();
        let (sender, receiver) = mpsc::channel(WAITING);
        tokio::task::spawn_blocking(move || {
            let _permit: OwnedSemaphorePermit = permit;
            let mut unfinished = Unfinished(Some(sender.clone()));
            match work(&app, &threads, &mut Pieces(sender)) {
                Ok(()) => drop(unfinished.0.take()),
                Err(e) => tracing::debug!("a file was not sent to its end: {e}"),
            }
        });
        Ok(Body::new(Received(receiver)))
    }
}

impl Pool {
    /// A place among the files that are made at once, and threads for it.
    ///
    /// # Errors
    /// 429 where too many wait already.
    async fn file(pool: &Arc<Self>) -> Result<(OwnedSemaphorePermit, Threads), Problem> {
        let _counted = pool.queued()?;
        let permit = Arc::clone(&pool.files).acquire_owned().await;
        permit.map(|p| (p, pool.threads())).map_err(|_| Problem::busy())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    async fn all(mut receiver: Received) -> (usize, bool) {
        let (mut length, mut whole) = (0, true);
        while let Some(piece) = receiver.0.recv().await {
            match piece {
                Ok(bytes) => length += bytes.len(),
                Err(_) => whole = false,
            }
        }
        (length, whole)
    }

    fn made(work: impl FnOnce(&mut Pieces) -> io::Result<()> + Send + 'static) -> Received {
        let (sender, receiver) = mpsc::channel(WAITING);
        tokio::task::spawn_blocking(move || {
            let mut unfinished = Unfinished(Some(sender.clone()));
            if work(&mut Pieces(sender)).is_ok() {
                unfinished.0.take();
            }
        });
        Received(receiver)
    }

    #[tokio::test(flavor = "multi_thread")]
    async fn a_file_that_is_not_finished_is_broken_off() {
        let piece = [7_u8; 1000];
        let good = made(move |out| (0..50).try_for_each(|_| out.write_all(&piece)));
        assert_eq!(all(good).await, (50_000, true));
        let failed = made(move |out| {
            out.write_all(&piece)?;
            Err(io::Error::other("no more"))
        });
        assert_eq!(all(failed).await, (1000, false));
        let panicked = made(|_| std::panic::resume_unwind(Box::new("broken")));
        assert_eq!(all(panicked).await, (0, false));
    }

    #[tokio::test(flavor = "multi_thread")]
    async fn who_makes_it_stops_when_nobody_reads() {
        let (told, heard) = tokio::sync::oneshot::channel();
        let received = made(move |out| {
            let ended = loop {
                if let Err(e) = out.write_all(&[0; 10]) {
                    break e;
                }
            };
            let _ = told.send(ended.kind());
            Err(ended)
        });
        drop(received);
        assert_eq!(heard.await.ok(), Some(io::ErrorKind::BrokenPipe));
    }
}
