//! Who may ask. Without a passphrase: whoever reaches this machine's loopback, as with any program of
//! one's own. With one: a browser that signed in, known by a cookie, or a script that carries a
//! token. Both are random secrets of which only a hash is kept; the passphrase is kept as an
//! argon2id hash.

use std::collections::HashMap;
use std::net::{IpAddr, Ipv6Addr};
use std::sync::{Mutex, PoisonError};
use std::time::{Duration, Instant};

use argon2::password_hash::{PasswordHash, SaltString};
use argon2::{Argon2, PasswordHasher, PasswordVerifier};
use axum::extract::{Request, State};
use axum::http::{HeaderMap, Method, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};
use headers::authorization::Bearer;
use headers::{Authorization, Cookie, HeaderMapExt};
use salt_lamp_store::Store;
use sha2::{Digest, Sha256};
use tokio::sync::Semaphore;

use crate::http::proxy::Client;
use crate::{App, Problem};

/// Name of the cookie.
const COOKIE: &str = "salt_lamp";
/// How long a browser stays signed in, s: thirty days.
pub(crate) const SESSION_S: i64 = 30 * 86_400;
/// Shortest passphrase, characters.
pub const SHORTEST_PASSPHRASE: usize = 8;
/// Longest passphrase, characters.
pub const LONGEST_PASSPHRASE: usize = 200;
/// Attempts before the first wait.
const FREE_ATTEMPTS: u32 = 3;
/// Longest wait between attempts.
const LONGEST_WAIT: Duration = Duration::from_secs(60);
/// A peer that has not tried for this long begins anew.
const FORGOTTEN: Duration = Duration::from_secs(900);
/// Peers that are remembered, at most.
const MOST_PEERS: usize = 1000;

/// Whether a passphrase is accepted.
///
/// # Errors
/// What is accepted, in words.
pub fn check_passphrase(words: &str) -> Result<(), String> {
    let length = words.chars().count();
    if words.chars().any(char::is_control) {
        return Err("has a control character in it".to_owned());
    }
    if (SHORTEST_PASSPHRASE..=LONGEST_PASSPHRASE).contains(&length) {
        return Ok(());
    }
    Err(format!("give {SHORTEST_PASSPHRASE} to {LONGEST_PASSPHRASE} characters; this has {length}"))
}

/// The hash by which a passphrase is kept: argon2id with the parameters that RFC 9106 and the
/// library recommend for 19 MiB (two passes, one lane).
///
/// # Errors
/// Where it cannot be made.
pub fn passphrase_hash(words: &str) -> Result<String, String> {
    let salt =
        SaltString::encode_b64(uuid::Uuid::new_v4().as_bytes()).map_err(|e| e.to_string())?;
    let hash = Argon2::default().hash_password(words.as_bytes(), &salt);
    hash.map(|h| h.to_string()).map_err(|e| e.to_string())
}

fn matches(words: &str, hash: &str) -> bool {
    let Ok(hash) = PasswordHash::new(hash) else { return false };
    Argon2::default().verify_password(words.as_bytes(), &hash).is_ok()
}

/// A secret of 244 random bits, as text.
pub(crate) fn new_secret() -> String {
    format!("{}{}", uuid::Uuid::new_v4().simple(), uuid::Uuid::new_v4().simple())
}

/// What a secret is known by.
pub(crate) fn known_by(secret: &str) -> String {
    Sha256::digest(secret.as_bytes()).iter().map(|b| format!("{b:02x}")).collect()
}

/// Attempts that failed, by who made them.
#[derive(Default)]
struct Failed(HashMap<IpAddr, (u32, Instant)>);

impl Failed {
    /// How long a peer has to wait yet.
    fn wait(&self, peer: IpAddr, now: Instant) -> Option<Duration> {
        let (count, last) = self.0.get(&peer)?;
        let power = count.checked_sub(FREE_ATTEMPTS)?;
        let wait = Duration::from_secs(1 << power.min(10)).min(LONGEST_WAIT);
        wait.checked_sub(now.duration_since(*last)).filter(|left| !left.is_zero())
    }

    fn failed(&mut self, peer: IpAddr, now: Instant) {
        self.0.retain(|_, (_, last)| now.duration_since(*last) < FORGOTTEN);
        if self.0.len() >= MOST_PEERS && !self.0.contains_key(&peer) {
            let oldest = self.0.iter().min_by_key(|(_, (_, last))| *last).map(|(p, _)| *p);
            oldest.and_then(|p| self.0.remove(&p));
        }
        let entry = self.0.entry(peer).or_insert((0, now));
        *entry = (entry.0.saturating_add(1), now);
    }
}

/// One household's IPv6 addresses are one peer: the first 64 bits.
fn peer_of(address: IpAddr) -> IpAddr {
    match address.to_canonical() {
        IpAddr::V6(v6) => {
            let s = v6.segments();
            IpAddr::V6(Ipv6Addr::new(s[0], s[1], s[2], s[3], 0, 0, 0, 0))
        }
        v4 => v4,
    }
}

/// Who may ask, while the program runs.
pub(crate) struct Access {
    failed: Mutex<Failed>,
    /// Hashing takes tens of milliseconds and 19 MiB: one at a time.
    hashing: Semaphore,
}

impl Default for Access {
    fn default() -> Self {
        Self { failed: Mutex::default(), hashing: Semaphore::new(1) }
    }
}

impl Access {
    /// Checks a passphrase, slower with every failure of the same peer.
    ///
    /// # Errors
    /// 401 for a wrong one, 429 for one that comes too soon.
    pub async fn admit(&self, store: &Store, peer: IpAddr, words: &str) -> Result<(), Problem> {
        let peer = peer_of(peer);
        let early = || {
            self.failed.lock().unwrap_or_else(PoisonError::into_inner).wait(peer, Instant::now())
        };
        if let Some(wait) = early() {
            return Err(Problem::too_soon(wait));
        }
        let Some(hash) = store.passphrase_hash().await? else {
            return Err(Problem::no_passphrase());
        };
        let Ok(_one) = self.hashing.acquire().await else { return Err(Problem::busy()) };
        // Others of the same peer may have failed while this one waited for its turn.
        if let Some(wait) = early() {
            return Err(Problem::too_soon(wait));
        }
        let words = words.to_owned();
        let fits = tokio::task::spawn_blocking(move || matches(&words, &hash)).await;
        let mut failed = self.failed.lock().unwrap_or_else(PoisonError::into_inner);
        if fits.is_ok_and(|fits| fits) {
            failed.0.remove(&peer);
            return Ok(());
        }
        failed.failed(peer, Instant::now());
        tracing::warn!("a wrong passphrase from {peer}");
        Err(Problem::wrong_passphrase())
    }

    /// The hash of a new passphrase.
    ///
    /// # Errors
    /// 422 for one that is not accepted.
    pub async fn hash(&self, field: &str, words: String) -> Result<String, Problem> {
        check_passphrase(&words).map_err(|e| Problem::field(field, e))?;
        let Ok(_one) = self.hashing.acquire().await else { return Err(Problem::busy()) };
        let made = tokio::task::spawn_blocking(move || passphrase_hash(&words)).await;
        made.map_err(Problem::fault)?.map_err(Problem::fault)
    }
}

/// Who asked, as far as it is known.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Asker {
    /// No passphrase is set: anybody who gets here.
    Anybody,
    /// A browser that signed in, with the id of its session.
    Session(String),
    /// A script with a token.
    Token,
}

/// The secret in a browser's cookie.
pub(crate) fn cookie(headers: &HeaderMap) -> Option<String> {
    headers.typed_get::<Cookie>()?.get(COOKIE).map(str::to_owned)
}

/// A cookie that a page's scripts cannot read and that no other site's page sends along.
pub(crate) fn set_cookie(secret: &str, seconds: i64, client: &Client) -> String {
    let secure = if client.secure { "; Secure" } else { "" };
    let path = client.base_path();
    format!("{COOKIE}={secret}; Path={path}; HttpOnly; SameSite=Strict; Max-Age={seconds}{secure}")
}

/// Who asks; `None` for a stranger.
pub(crate) async fn asker(store: &Store, headers: &HeaderMap) -> Result<Option<Asker>, Problem> {
    if store.passphrase_hash().await?.is_none() {
        return Ok(Some(Asker::Anybody));
    }
    if let Some(Authorization(bearer)) = headers.typed_get::<Authorization<Bearer>>() {
        let token = store.token(&known_by(bearer.token())).await?;
        return Ok(token.map(|_| Asker::Token));
    }
    let Some(secret) = cookie(headers) else { return Ok(None) };
    Ok(store.session(&known_by(&secret)).await?.map(|s| Asker::Session(s.id)))
}

/// What a stranger may ask: whether the program is up, whether a passphrase is set, and to be let in.
fn is_open(method: &Method, path: &str) -> bool {
    let open = ["/api/v1/health", "/api/v1/access", "/api/v1/access/sign-in"];
    // The front end holds nothing of the user's: it is what asks for the passphrase.
    !path.starts_with("/api/") || (open.contains(&path) && *method != Method::PUT)
}

/// Answers 401 to strangers.
pub(crate) async fn admit(State(app): State<App>, mut request: Request, next: Next) -> Response {
    let path = request.uri().path();
    let open = is_open(request.method(), path);
    // Where nothing hangs on who asks, nothing is looked up.
    if open && !matches!(path, "/api/v1/access" | "/api/v1/health") {
        return next.run(request).await;
    }
    let health = path == "/api/v1/health";
    match asker(&app.store, request.headers()).await {
        Ok(Some(asker)) => drop(request.extensions_mut().insert(asker)),
        Ok(None) if open => {}
        Ok(None) => {
            let mut response = Problem::sign_in().into_response();
            let challenge = axum::http::HeaderValue::from_static("Bearer realm=\"Salt Lamp\"");
            response.headers_mut().insert(header::WWW_AUTHENTICATE, challenge);
            return response;
        }
        // A database that cannot be asked is what it would tell of.
        Err(_) if health => {}
        Err(problem) => return problem.into_response(),
    }
    next.run(request).await
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_passphrase_is_known_by_its_hash_and_never_kept() {
        let hash = passphrase_hash("nine moons over the lake").unwrap();
        assert!(hash.starts_with("$argon2id$v=19$m=19456,t=2,p=1$") && !hash.contains("moons"));
        assert!(matches("nine moons over the lake", &hash));
        assert!(!matches("nine moons over the lakes", &hash) && !matches("x", "no hash"));
        assert_ne!(hash, passphrase_hash("nine moons over the lake").unwrap(), "salted");
        assert!(check_passphrase("short").is_err() && check_passphrase("a\u{7}bcdefgh").is_err());
        assert!(check_passphrase(&"å".repeat(8)).is_ok());
        assert!(check_passphrase(&"x".repeat(201)).is_err());
    }

    #[test]
    fn attempts_are_slowed_for_who_fails_and_for_nobody_else() {
        let (mut failed, now) = (Failed::default(), Instant::now());
        let [a, b]: [IpAddr; 2] = ["192.0.2.1", "192.0.2.2"].map(|a| a.parse().unwrap());
        for _ in 0..FREE_ATTEMPTS {
            assert_eq!(failed.wait(a, now), None);
            failed.failed(a, now);
        }
        assert_eq!(failed.wait(a, now), Some(Duration::from_secs(1)));
        assert_eq!(failed.wait(b, now), None);
        failed.failed(a, now);
        assert_eq!(failed.wait(a, now + Duration::from_secs(1)), Some(Duration::from_secs(1)));
        assert_eq!(failed.wait(a, now + Duration::from_secs(2)), None);
        for _ in 0..40 {
            failed.failed(a, now);
        }
        assert_eq!(failed.wait(a, now), Some(LONGEST_WAIT));
        // Long ago is forgotten, and so is the oldest of too many.
        failed.failed(b, now + FORGOTTEN);
        assert_eq!(failed.wait(a, now + FORGOTTEN), None);
        for i in 0..2000_u32 {
            failed.failed(IpAddr::from(i.to_be_bytes()), now + FORGOTTEN);
        }
        assert!(failed.0.len() <= MOST_PEERS);
    }

    #[test]
    fn a_household_is_one_peer() {
        let of = |a: &str| peer_of(a.parse().unwrap());
        assert_eq!(of("2001:db8:1:2:3:4:5:6"), of("2001:db8:1:2::9"));
        assert_ne!(of("2001:db8:1:2::1"), of("2001:db8:1:3::1"));
        assert_eq!(of("::ffff:192.0.2.1"), of("192.0.2.1"));
    }

    #[test]
    fn secrets_differ_and_are_known_by_their_digest() {
        assert!(new_secret().len() == 64 && new_secret() != new_secret());
        // FIPS 180-4, example of one block.
        assert!(known_by("abc").starts_with("ba7816bf8f01cfea414140de5dae2223"));
    }

    #[test]
    fn strangers_may_ask_little() {
        for (method, path) in [
            (Method::GET, "/"),
            (Method::GET, "/night"),
            (Method::GET, "/api/v1/health"),
            (Method::GET, "/api/v1/access"),
            (Method::POST, "/api/v1/access/sign-in"),
        ] {
            assert!(is_open(&method, path), "{path}");
        }
        for (method, path) in [
            (Method::GET, "/api/v1/scenarios"),
            (Method::GET, "/api/v1/health/"),
            (Method::GET, "/api/"),
            (Method::GET, "/api/v1/access/tokens"),
            (Method::PUT, "/api/v1/access/passphrase"),
        ] {
            assert!(!is_open(&method, path), "{path}");
        }
    }
}
