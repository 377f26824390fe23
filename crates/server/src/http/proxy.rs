//! What stands before this server: nothing, or a reverse proxy on the same machine that adds a path,
//! a name and a secure connection. What a proxy says is believed only where the user allowed it, and
//! only of a proxy on this machine.

use std::net::{IpAddr, Ipv4Addr, SocketAddr};
use std::sync::Arc;

use axum::extract::{ConnectInfo, Request, State};
use axum::http::uri::{PathAndQuery, Uri};
use axum::http::{HeaderMap, StatusCode, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};

/// How the program is reached.
#[derive(Clone, Debug, Default)]
pub struct Front {
    /// The path beneath which it is reached, such as "/lamp"; empty for the root.
    pub base_path: String,
    /// Whether X-Forwarded-For, -Host and -Proto of a proxy on this machine are believed.
    pub behind_proxy: bool,
    /// Whether it speaks TLS itself.
    pub secure: bool,
}

impl Front {
    /// A base path as it is kept: a slash before it and none behind it.
    ///
    /// # Errors
    /// What is accepted, in words.
    pub fn checked_base_path(said: &str) -> Result<String, String> {
        let bare = said.trim().trim_matches('/');
        let fits = |c: char| c.is_ascii_alphanumeric() || "-_./~".contains(c);
        if !bare.chars().all(fits) || bare.split('/').any(|s| matches!(s, "." | "..")) {
            return Err(format!(
                "the base path \"{said}\" is not accepted: give letters, digits, - and _, such as \
                 /lamp"
            ));
        }
        Ok(if bare.is_empty() { String::new() } else { format!("/{bare}") })
    }
}

/// Who asks, by which way.
#[derive(Clone, Debug)]
pub(crate) struct Client {
    /// The address that asks.
    pub address: IpAddr,
    /// The name under which it asks, with its port.
    pub host: String,
    /// Whether its connection is secure.
    pub secure: bool,
    front: Arc<Front>,
}

impl Client {
    /// The path of the whole program, as a cookie needs it.
    pub fn base_path(&self) -> &str {
        if self.front.base_path.is_empty() { "/" } else { &self.front.base_path }
    }

    /// What stands in a page so that its addresses are found.
    pub fn base_href(&self) -> String {
        format!("{}/", self.front.base_path)
    }

    fn of(front: &Arc<Front>, request: &Request) -> Self {
        let peer = request.extensions().get::<ConnectInfo<SocketAddr>>();
        // Without a connection there is only a test.
        let peer = peer.map_or(IpAddr::V4(Ipv4Addr::LOCALHOST), |c| c.0.ip().to_canonical());
        let headers = request.headers();
        let host = text(headers, header::HOST.as_str())
            .or_else(|| request.uri().authority().map(|a| a.to_string()))
            .unwrap_or_default();
        let plain = Self { address: peer, host, secure: front.secure, front: Arc::clone(front) };
        if !front.behind_proxy || !peer.is_loopback() {
            return plain;
        }
        // The last of a list is what the proxy itself saw; what stands before it anybody can send.
        let last = |name: &str| {
            text(headers, name).and_then(|v| v.rsplit(',').next().map(|l| l.trim().to_owned()))
        };
        Self {
            address: last("x-forwarded-for").and_then(|a| a.parse().ok()).unwrap_or(peer),
            host: last("x-forwarded-host").unwrap_or(plain.host.clone()),
            secure: last("x-forwarded-proto").map_or(plain.secure, |p| p == "https"),
            ..plain
        }
    }
}

fn text(headers: &HeaderMap, name: &str) -> Option<String> {
    headers.get(name).and_then(|v| v.to_str().ok()).map(str::to_owned)
}

/// Takes the base path off a request and says who asks; the base path alone is sent on to its
/// folder.
pub(crate) async fn arrive(
    State(front): State<Arc<Front>>,
    mut request: Request,
    next: Next,
) -> Response {
    let client = Client::of(&front, &request);
    if !front.base_path.is_empty() {
        match inner(&front.base_path, request.uri()) {
            Inner::At(uri) => *request.uri_mut() = uri,
            Inner::Redirect => {
                let to = [(header::LOCATION, client.base_href())];
                return (StatusCode::PERMANENT_REDIRECT, to).into_response();
            }
        }
    }
    request.extensions_mut().insert(client);
    next.run(request).await
}

enum Inner {
    At(Uri),
    Redirect,
}

/// An address beneath the base path as the program knows it. A proxy may have taken the base path
/// off already.
fn inner(base: &str, uri: &Uri) -> Inner {
    let Some(rest) = uri.path().strip_prefix(base) else { return Inner::At(uri.clone()) };
    if rest.is_empty() {
        return Inner::Redirect;
    }
    if !rest.starts_with('/') {
        return Inner::At(uri.clone());
    }
    let whole = uri.query().map_or_else(|| rest.to_owned(), |q| format!("{rest}?{q}"));
    let mut parts = uri.clone().into_parts();
    parts.path_and_query = PathAndQuery::try_from(whole).ok();
    Inner::At(Uri::from_parts(parts).unwrap_or_else(|_| uri.clone()))
}

#[cfg(test)]
mod tests {
    use axum::body::Body;

    use super::*;

    fn request(peer: &str, headers: &[(&'static str, &str)]) -> Request {
        let mut r = Request::builder().uri("/");
        for (name, value) in headers {
            r = r.header(*name, *value);
        }
        let mut r = r.body(Body::empty()).unwrap();
        let at: SocketAddr = peer.parse().unwrap();
        r.extensions_mut().insert(ConnectInfo(at));
        r
    }

    const SAID: [(&str, &str); 4] = [
        ("host", "127.0.0.1:7373"),
        ("x-forwarded-for", "203.0.113.7, 192.0.2.9"),
        ("x-forwarded-host", "lamp.example"),
        ("x-forwarded-proto", "https"),
    ];

    #[test]
    fn a_proxy_is_believed_where_it_is_allowed_and_on_this_machine() {
        let front = |behind_proxy| Arc::new(Front { behind_proxy, ..Front::default() });
        let told = |front: &Arc<Front>, peer: &str| {
            let c = Client::of(front, &request(peer, &SAID));
            (c.address.to_string(), c.host, c.secure)
        };
        let plain = |a: &str| (a.to_owned(), "127.0.0.1:7373".to_owned(), false);
        assert_eq!(told(&front(false), "127.0.0.1:9"), plain("127.0.0.1"));
        assert_eq!(told(&front(true), "192.0.2.5:9"), plain("192.0.2.5"));
        let through = ("192.0.2.9".to_owned(), "lamp.example".to_owned(), true);
        assert_eq!(told(&front(true), "127.0.0.1:9"), through);
        assert_eq!(told(&front(true), "[::1]:9"), through);
    }

    #[test]
    fn a_base_path_comes_off_once() {
        let at = |uri: &str| match inner("/lamp", &uri.parse().unwrap()) {
            Inner::At(uri) => uri.to_string(),
            Inner::Redirect => "redirect".to_owned(),
        };
        assert_eq!(at("/lamp/night?date=2027-01-01"), "/night?date=2027-01-01");
        assert_eq!(at("/lamp"), "redirect");
        assert_eq!(at("/lamp/"), "/");
        assert_eq!(at("/lampshade"), "/lampshade");
        assert_eq!(at("/night"), "/night");
        assert_eq!(Front::checked_base_path("lamp/").as_deref(), Ok("/lamp"));
        assert_eq!(Front::checked_base_path("/"), Ok(String::new()));
        for bad in ["/a b", "/../x", "/<script>", "/\"x"] {
            assert!(Front::checked_base_path(bad).is_err(), "{bad}");
        }
    }
}
