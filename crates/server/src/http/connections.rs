//! Connections: how many, how long, and how they end.
//!
//! A client that sends nothing, sends half a question, or reads no answer holds a connection and
//! nothing else, and that for a bounded time. When all seats are taken, the one that has waited
//! longest without a question gives up its own; when the program is told to stop, connections
//! without a question end at once and the others have a few seconds.

use std::collections::HashMap;
use std::net::SocketAddr;
use std::pin::Pin;
use std::sync::atomic::{AtomicBool, AtomicU64, AtomicUsize, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::task::{Context, Poll};
use std::time::{Duration, Instant};

use axum::Router;
use axum::body::{Body, HttpBody};
use axum::extract::ConnectInfo;
use axum::http::{Request, Response, header};
use hyper::body::{Bytes, Frame, Incoming, SizeHint};
use hyper::server::conn::http1;
use hyper_util::rt::{TokioIo, TokioTimer};
use tokio::io::{AsyncRead, AsyncWrite, AsyncWriteExt};
use tokio::net::{TcpListener, TcpStream};
use tokio::sync::{Notify, watch};
use tokio::task::JoinSet;
use tokio_io_timeout::TimeoutStream;
use tokio_rustls::TlsAcceptor;
use tower::ServiceExt;

/// How long and how many.
#[derive(Clone, Copy, Debug)]
pub struct ConnectionLimits {
    /// Connections at once.
    pub most: usize,
    /// A question's head, and the time between two questions on one connection.
    pub head: Duration,
    /// A write that the client does not take.
    pub write: Duration,
    /// A question with its answer, from head to last byte. Streams of events are exempt.
    pub total: Duration,
    /// What questions under way get when the program is told to stop.
    pub grace: Duration,
}

impl Default for ConnectionLimits {
    fn default() -> Self {
        Self {
            most: 256,
            head: Duration::from_secs(20),
            write: Duration::from_secs(30),
            total: Duration::from_secs(180),
            grace: Duration::from_secs(7),
        }
    }
}

/// How often a connection looks at its clock.
const LOOK: Duration = Duration::from_millis(500);

/// One connection as others see it.
struct Seat {
    began: Instant,
    /// Questions under way.
    busy: AtomicUsize,
    /// Since when it is busy, or waits: milliseconds after `began`.
    since_ms: AtomicU64,
    /// Whether its answer is a stream of events, which may last.
    lasting: AtomicBool,
    leave: Notify,
}

impl Seat {
    fn new() -> Self {
        Self {
            began: Instant::now(),
            busy: AtomicUsize::new(0),
            since_ms: AtomicU64::new(0),
            lasting: AtomicBool::new(false),
            leave: Notify::new(),
        }
    }

    fn changed(&self) {
        let ms = u64::try_from(self.began.elapsed().as_millis()).unwrap_or(u64::MAX);
        self.since_ms.store(ms, Ordering::Relaxed);
    }

    fn waits(&self) -> bool {
        self.busy.load(Ordering::Relaxed) == 0
    }

    /// For how long it has been busy, or has waited.
    fn lasted(&self) -> Duration {
        let since = Duration::from_millis(self.since_ms.load(Ordering::Relaxed));
        self.began.elapsed().saturating_sub(since)
    }

    fn is_over(&self, total: Duration) -> bool {
        !self.waits() && !self.lasting.load(Ordering::Relaxed) && self.lasted() > total
    }
}

/// A question under way: from its head to the last byte of its answer.
struct UnderWay(Arc<Seat>);

impl UnderWay {
    fn new(seat: &Arc<Seat>) -> Self {
        seat.busy.fetch_add(1, Ordering::Relaxed);
        seat.changed();
        Self(Arc::clone(seat))
    }
}

impl Drop for UnderWay {
    fn drop(&mut self) {
        self.0.lasting.store(false, Ordering::Relaxed);
        self.0.changed();
        self.0.busy.fetch_sub(1, Ordering::Relaxed);
    }
}

/// All connections.
#[derive(Default)]
struct Seats {
    taken: Mutex<HashMap<u64, Arc<Seat>>>,
    next: AtomicU64,
}

impl Seats {
    /// A seat, if there is one or one that only waits can be cleared.
    fn take(self: &Arc<Self>, most: usize) -> Option<Seated> {
        let mut taken = self.taken.lock().unwrap_or_else(PoisonError::into_inner);
        if taken.len() >= most {
            let waiting = taken.iter().filter(|(_, s)| s.waits());
            let (id, seat) = waiting.max_by_key(|(_, s)| s.lasted())?;
            let id = *id;
            seat.leave.notify_one();
            taken.remove(&id);
        }
        let (id, seat) = (self.next.fetch_add(1, Ordering::Relaxed), Arc::new(Seat::new()));
        taken.insert(id, Arc::clone(&seat));
        Some(Seated { id, seat, seats: Arc::clone(self) })
    }

    fn busy(&self) -> usize {
        let taken = self.taken.lock().unwrap_or_else(PoisonError::into_inner);
        taken.values().filter(|s| !s.waits()).count()
    }
}

/// A seat, as long as its connection lasts.
struct Seated {
    id: u64,
    seat: Arc<Seat>,
    seats: Arc<Seats>,
}

impl Drop for Seated {
    fn drop(&mut self) {
        let mut taken = self.seats.taken.lock().unwrap_or_else(PoisonError::into_inner);
        taken.remove(&self.id);
    }
}

/// What is said to whom there is no seat for.
const NO_SEAT: &[u8] =
    b"HTTP/1.1 503 Service Unavailable\r\nretry-after: 5\r\nconnection: close\r\n\
    content-length: 0\r\n\r\n";

/// Answers connections of `listener` with `app` until `stop` ends, and ends the rest within the
/// grace that `limits` give.
pub(crate) async fn answer(
    listener: TcpListener,
    tls: Option<TlsAcceptor>,
    app: Router,
    limits: ConnectionLimits,
    stop: impl Future<Output = ()>,
) {
    let seats = Arc::new(Seats::default());
    let (told, stopping) = watch::channel(false);
    let mut all = JoinSet::new();
    tokio::pin!(stop);
    loop {
        let stream = tokio::select! {
            () = &mut stop => break,
            Some(_) = all.join_next() => continue,
            accepted = listener.accept() => accepted,
        };
        match stream {
            Ok((stream, peer)) => {
                let Some(seated) = seats.take(limits.most) else {
                    all.spawn(refuse(stream));
                    continue;
                };
                let one = Connection { app: app.clone(), peer, limits, stopping: stopping.clone() };
                all.spawn(one.run(stream, tls.clone(), seated));
            }
            // Out of files, or a client that left before it was let in: others go on.
            Err(e) => {
                tracing::warn!("a connection was not taken: {e}");
                tokio::time::sleep(Duration::from_millis(50)).await;
            }
        }
    }
    drop(listener);
    tracing::warn!(
        "told to stop: {} questions under way have {} s",
        seats.busy(),
        limits.grace.as_secs()
    );
    let _ = told.send(true);
    let rest = async { while all.join_next().await.is_some() {} };
    if tokio::time::timeout(limits.grace, rest).await.is_err() {
        tracing::warn!("{} questions were broken off", seats.busy());
        all.shutdown().await;
    }
}

async fn refuse(mut stream: TcpStream) {
    let said = async {
        stream.write_all(NO_SEAT).await?;
        stream.shutdown().await
    };
    let _ = tokio::time::timeout(Duration::from_secs(1), said).await;
}

/// What a connection needs to know.
struct Connection {
    app: Router,
    peer: SocketAddr,
    limits: ConnectionLimits,
    stopping: watch::Receiver<bool>,
}

impl Connection {
    async fn run(self, stream: TcpStream, tls: Option<TlsAcceptor>, seated: Seated) {
        let _ = stream.set_nodelay(true);
        let Some(tls) = tls else { return self.talk(stream, &seated.seat).await };
        // Who has not said who is there in time goes, as one does who sends no head.
        let limits = self.limits;
        let mut stopping = self.stopping.clone();
        let greeted = tokio::select! {
            done = tokio::time::timeout(limits.head, tls.accept(stream)) => done,
            () = seated.seat.leave.notified() => return,
            _ = stopping.wait_for(|s| *s) => return,
        };
        match greeted {
            Ok(Ok(stream)) => self.talk(stream, &seated.seat).await,
            Ok(Err(e)) => tracing::debug!("no secure connection with {}: {e}", self.peer),
            Err(_) => {}
        }
    }

    async fn talk(self, stream: impl AsyncRead + AsyncWrite + Send + 'static, seat: &Arc<Seat>) {
        let Self { app, peer, limits, mut stopping } = self;
        let mut stream = TimeoutStream::new(stream);
        stream.set_write_timeout(Some(limits.write));
        let of_question = Arc::clone(seat);
        let service = hyper::service::service_fn(move |request: Request<Incoming>| {
            let (app, seat) = (app.clone(), Arc::clone(&of_question));
            async move {
                let under_way = UnderWay::new(&seat);
                let mut request = request.map(Body::new);
                request.extensions_mut().insert(ConnectInfo(peer));
                let response = app.oneshot(request).await?;
                let lasts = is_stream_of_events(&response);
                under_way.0.lasting.store(lasts, Ordering::Relaxed);
                let slices = |body| Slices { body, rest: Bytes::new(), _under_way: under_way };
                Ok::<_, std::convert::Infallible>(response.map(slices))
            }
        });
        let mut builder = http1::Builder::new();
        builder.timer(TokioTimer::new()).header_read_timeout(limits.head);
        let conversation = builder.serve_connection(TokioIo::new(Box::pin(stream)), service);
        tokio::pin!(conversation);
        let mut clock = tokio::time::interval(LOOK);
        let mut told: Option<Instant> = None;
        loop {
            tokio::select! {
                ended = &mut conversation => {
                    if let Err(e) = ended {
                        tracing::debug!("connection with {peer}: {e}");
                    }
                    return;
                }
                () = seat.leave.notified() => return,
                _ = stopping.wait_for(|s| *s), if told.is_none() => {
                    told = Some(Instant::now());
                    conversation.as_mut().graceful_shutdown();
                }
                _ = clock.tick() => {
                    // The end of an answer may be on its way yet; half a question is none.
                    if told.is_some_and(|at| at.elapsed() > LOOK) && seat.waits() {
                        return;
                    }
                    if seat.is_over(limits.total) {
                        tracing::warn!("a question of {peer} took over {} s", limits.total.as_secs());
                        return;
                    }
                }
            }
        }
    }
}

/// A body in pieces, each asked for when the ones before it are on their way: its question is under
/// way until the last of them is, and not only until the body was made.
struct Slices {
    body: Body,
    rest: Bytes,
    _under_way: UnderWay,
}

/// Bytes of a piece.
const SLICE: usize = 64 * 1024;

impl HttpBody for Slices {
    type Data = Bytes;
    type Error = axum::Error;

    fn poll_frame(
        mut self: Pin<&mut Self>,
        cx: &mut Context<'_>,
    ) -> Poll<Option<Result<Frame<Bytes>, axum::Error>>> {
        if self.rest.is_empty() {
            match std::task::ready!(Pin::new(&mut self.body).poll_frame(cx)) {
                Some(Ok(frame)) => match frame.into_data() {
                    Ok(data) => self.rest = data,
                    Err(other) => return Poll::Ready(Some(Ok(other))),
                },
                ended => return Poll::Ready(ended),
            }
        }
        let length = self.rest.len().min(SLICE);
        Poll::Ready(Some(Ok(Frame::data(self.rest.split_to(length)))))
    }

    fn is_end_stream(&self) -> bool {
        self.rest.is_empty() && self.body.is_end_stream()
    }

    fn size_hint(&self) -> SizeHint {
        let rest = self.rest.len() as u64;
        let mut hint = self.body.size_hint();
        if let Some(upper) = hint.upper() {
            hint.set_upper(upper + rest);
        }
        hint.set_lower(hint.lower() + rest);
        hint
    }
}

fn is_stream_of_events<B>(response: &Response<B>) -> bool {
    let kind = response.headers().get(header::CONTENT_TYPE);
    kind.is_some_and(|k| k.as_bytes().starts_with(b"text/event-stream"))
}

#[cfg(test)]
mod tests {
    use axum::routing::{get, post};
    use tokio::io::AsyncReadExt;
    use tokio::sync::oneshot;

    use super::*;

    struct Server {
        at: SocketAddr,
        stop: oneshot::Sender<()>,
        done: tokio::task::JoinHandle<()>,
    }

    const QUICK: ConnectionLimits = ConnectionLimits {
        most: 4,
        head: Duration::from_millis(300),
        write: Duration::from_millis(300),
        total: Duration::from_millis(1500),
        grace: Duration::from_millis(400),
    };

    async fn server(limits: ConnectionLimits) -> Server {
        let forever = || async { tokio::time::sleep(Duration::from_secs(60)).await };
        let app = Router::new()
            .route("/", get(|| async { "here" }))
            .route("/large", get(|| async { vec![7_u8; 60_000_000] }))
            .route("/slow", get(forever))
            .route("/body", post(|body: String| async move { body }));
        let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
        let at = listener.local_addr().unwrap();
        let (stop, stopped) = oneshot::channel::<()>();
        let done = tokio::spawn(answer(listener, None, app, limits, async {
            let _ = stopped.await;
        }));
        Server { at, stop, done }
    }

    async fn said(at: SocketAddr, text: &str) -> TcpStream {
        let mut s = TcpStream::connect(at).await.unwrap();
        s.write_all(text.as_bytes()).await.unwrap();
        s
    }

    /// What comes until the other side closes, within ten seconds.
    async fn rest(mut s: TcpStream) -> Option<String> {
        let mut all = Vec::new();
        let read = s.read_to_end(&mut all);
        // A reset is an end, too.
        let _ = tokio::time::timeout(Duration::from_secs(10), read).await.ok()?;
        Some(String::from_utf8_lossy(&all).into_owned())
    }

    /// A connection whose answer has begun and is not read on.
    async fn begun(at: SocketAddr, path: &str) -> TcpStream {
        let mut s = said(at, &format!("GET {path} HTTP/1.1\r\nhost: a\r\n\r\n")).await;
        s.read_exact(&mut [0; 8]).await.unwrap();
        s
    }

    const ASK: &str = "GET / HTTP/1.1\r\nhost: a\r\nconnection: close\r\n\r\n";

    #[tokio::test]
    async fn half_a_question_no_question_and_an_answer_without_end_are_bounded() {
        let s = server(QUICK).await;
        assert!(rest(said(s.at, ASK).await).await.unwrap().ends_with("here"));
        for half in
            ["", "GET / HT", "GET / HTTP/1.1\r\nhost: a\r\n", "GET / HTTP/1.1\r\nhost: a\r\n\r\n"]
        {
            assert!(rest(said(s.at, half).await).await.is_some(), "{half:?} is held for ever");
        }
        let slow = "GET /slow HTTP/1.1\r\nhost: a\r\n\r\n";
        assert_eq!(rest(said(s.at, slow).await).await.as_deref(), Some(""));
        let drip = "POST /body HTTP/1.1\r\nhost: a\r\ncontent-length: 9\r\n\r\nab";
        assert_eq!(rest(said(s.at, drip).await).await.as_deref(), Some(""));
    }

    #[tokio::test]
    async fn an_answer_that_nobody_reads_frees_its_seat() {
        let write = Duration::from_secs(2);
        let s = server(ConnectionLimits { most: 1, write, ..QUICK }).await;
        let lazy = begun(s.at, "/large").await;
        // Busy: nobody else gets in, and is told so.
        assert!(rest(said(s.at, ASK).await).await.unwrap().starts_with("HTTP/1.1 503"));
        let from = Instant::now();
        while !rest(said(s.at, ASK).await).await.unwrap().ends_with("here") {
            assert!(from.elapsed() < Duration::from_secs(20), "its seat is held for ever");
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
        drop(lazy);
    }

    #[tokio::test]
    async fn told_to_stop_it_sends_what_it_has_begun() {
        let grace = Duration::from_secs(20);
        let s = server(ConnectionLimits { write: grace, total: grace, grace, ..QUICK }).await;
        let slow = begun(s.at, "/large").await;
        s.stop.send(()).unwrap();
        tokio::time::sleep(Duration::from_millis(1500)).await;
        assert!(rest(slow).await.unwrap().len() > 60_000_000, "it was cut off");
        assert!(tokio::time::timeout(Duration::from_secs(10), s.done).await.is_ok());
    }

    #[tokio::test]
    async fn who_only_waits_makes_room() {
        let s = server(ConnectionLimits { head: Duration::from_secs(30), ..QUICK }).await;
        let mut idle = Vec::new();
        for _ in 0..20 {
            idle.push(said(s.at, "GET / HTTP").await);
        }
        assert!(rest(said(s.at, ASK).await).await.unwrap().ends_with("here"));
    }

    #[tokio::test]
    async fn told_to_stop_it_ends_whatever_clients_do() {
        let s = server(ConnectionLimits {
            head: Duration::from_secs(30),
            total: Duration::from_secs(30),
            ..QUICK
        })
        .await;
        let _half = said(s.at, "GET / HTTP/1.1\r\n").await;
        let _slow = said(s.at, "GET /slow HTTP/1.1\r\nhost: a\r\n\r\n").await;
        let _large = begun(s.at, "/large").await;
        s.stop.send(()).unwrap();
        let ended = tokio::time::timeout(Duration::from_secs(10), s.done).await;
        assert!(ended.is_ok(), "it goes on");
    }
}
