//! Who may ask: a page of another origin must not reach what stands on this machine, under whatever
//! name it found it.
//!
//! Two things are checked. The Host header must be a name of this server's own: a stranger's domain
//! that resolves to this machine (DNS rebinding) carries its own name there. And a request that
//! changes something must not come from a page of another origin: browsers say where a page is from
//! in Origin and Sec-Fetch-Site. A program without a browser sends neither and is let through.

use std::net::IpAddr;
use std::sync::Arc;

use axum::extract::{Request, State};
use axum::http::{HeaderMap, Method};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};

use crate::Problem;
use crate::http::proxy::Client;

/// The names under which this server answers.
#[derive(Clone, Debug, Default)]
pub struct Hosts {
    names: Vec<String>,
    any_address: bool,
}

impl Hosts {
    /// Loopback names, the address that is listened on, and names that the user allows. Listening
    /// on all addresses answers to any address written as numbers: such an address cannot be made
    /// to point elsewhere.
    pub fn new(listened: IpAddr, allowed: &[String]) -> Self {
        let mut names: Vec<String> =
            allowed.iter().map(|n| n.trim().to_ascii_lowercase()).collect();
        names.push(listened.to_string());
        Self { names, any_address: listened.is_unspecified() }
    }

    /// Whether a Host header, with or without its port, names this server.
    pub fn knows(&self, host: &str) -> bool {
        let name = without_port(host).to_ascii_lowercase();
        let bare = name.trim_start_matches('[').trim_end_matches(']').trim_end_matches('.');
        let address: Option<IpAddr> = bare.parse().ok();
        bare == "localhost"
            || bare.ends_with(".localhost")
            || address.is_some_and(|a| a.is_loopback() || self.any_address)
            || self.names.iter().any(|n| n == bare)
    }
}

fn without_port(host: &str) -> &str {
    match host.rsplit_once(':') {
        // The colons of an IPv6 address stand inside its brackets.
        Some((name, port))
            if port.bytes().all(|b| b.is_ascii_digit())
                && (!name.contains(':') || name.ends_with(']')) =>
        {
            name
        }
        _ => host,
    }
}

/// Whether a request that changes something comes from a page of another origin.
fn is_foreign(headers: &HeaderMap, host: &str) -> bool {
    let text =
        |name: &str| headers.get(name).map(|v| v.to_str().unwrap_or("?").to_ascii_lowercase());
    let own = |origin: String| {
        origin
            .split_once("://")
            .is_some_and(|(scheme, rest)| matches!(scheme, "http" | "https") && rest == host)
    };
    match (text("origin"), text("sec-fetch-site")) {
        (Some(origin), _) => !own(origin),
        (None, Some(site)) => !matches!(site.as_str(), "same-origin" | "none"),
        (None, None) => false,
    }
}

/// Answers 421 to a name that is not this server's, and 403 to a page of another origin that would
/// change something.
pub(crate) async fn guard(
    State(hosts): State<Arc<Hosts>>,
    request: Request,
    next: Next,
) -> Response {
    let named = request.extensions().get::<Client>().map(|c| c.host.as_str());
    let host = named.unwrap_or_default().to_ascii_lowercase();
    if !hosts.knows(&host) {
        return Problem::unknown_host(&host).into_response();
    }
    let safe = matches!(*request.method(), Method::GET | Method::HEAD | Method::OPTIONS);
    if !safe && is_foreign(request.headers(), &host) {
        return Problem::foreign_origin().into_response();
    }
    next.run(request).await
}

#[cfg(test)]
mod tests {
    use super::*;

    fn hosts(listened: &str, allowed: &[&str]) -> Hosts {
        Hosts::new(
            listened.parse().unwrap(),
            &allowed.iter().map(|s| (*s).to_owned()).collect::<Vec<_>>(),
        )
    }

    #[test]
    fn own_names_with_and_without_ports() {
        let h = hosts("127.0.0.1", &["Lamp.lan"]);
        for good in [
            "localhost",
            "localhost:7373",
            "127.0.0.1:7373",
            "127.0.0.9",
            "[::1]:7373",
            "[::1]",
            "LAMP.lan:80",
            "lamp.lan.",
            "app.localhost",
        ] {
            assert!(h.knows(good), "{good}");
        }
        for bad in [
            "",
            "evil.example",
            "localhost.evil.example",
            "127.0.0.1.evil.example",
            "192.168.1.4:7373",
            "lamp.lan.evil",
            "[::2]",
            ":7373",
        ] {
            assert!(!h.knows(bad), "{bad}");
        }
    }

    #[test]
    fn listening_on_all_addresses_answers_to_numbers_but_not_to_names() {
        let h = hosts("0.0.0.0", &[]);
        assert!(h.knows("192.168.1.4:7373") && h.knows("[fe80::1]:7373") && h.knows("localhost"));
        assert!(!h.knows("evil.example:7373"));
        assert!(hosts("192.168.1.4", &[]).knows("192.168.1.4:7373"));
    }

    #[test]
    fn a_page_of_another_origin_is_foreign() {
        let of = |pairs: &[(&'static str, &str)]| {
            let headers = pairs
                .iter()
                .map(|(k, v)| (axum::http::HeaderName::from_static(k), v.parse().unwrap()))
                .collect();
            is_foreign(&headers, "localhost:7373")
        };
        assert!(
            !of(&[])
                && !of(&[("origin", "http://localhost:7373")])
                && !of(&[("origin", "https://localhost:7373")])
        );
        assert!(!of(&[("sec-fetch-site", "same-origin")]) && !of(&[("sec-fetch-site", "none")]));
        for origin in [
            "null",
            "http://localhost:8080",
            "http://evil.example",
            "http://localhost:7373.evil.example",
            "file://localhost:7373",
        ] {
            assert!(of(&[("origin", origin)]), "{origin}");
        }
        assert!(of(&[("sec-fetch-site", "cross-site")]) && of(&[("sec-fetch-site", "same-site")]));
    }
}
