//! Who is answered: pages of this machine's own browser, that were opened from here.

use std::sync::Arc;

use axum::extract::{Request, State};
use axum::http::header::{self, HeaderValue};
use axum::http::{HeaderMap, Method, StatusCode};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};

use crate::room::Room;

/// In this header our own pages send the token.
pub const TOKEN: &str = "x-truehook-token";

/// Lets through what may come in, and says of all that goes out that it stays here.
pub async fn guard(State(room): State<Arc<Room>>, request: Request, next: Next) -> Response {
    let headers = request.headers();
    let own = request.uri().path().starts_with("/-/");
    let refused = if !is_local(headers) {
        Some("this preview answers to localhost alone")
    } else if request.method() != Method::GET && request.method() != Method::HEAD && !may_write(headers, &room.token) {
        Some("only the preview's own pages may change anything")
    } else if own && comes_from_elsewhere(headers) {
        Some("only the preview's own pages may ask for this")
    } else {
        None
    };
    let mut response = match refused {
        Some(why) => (StatusCode::FORBIDDEN, why).into_response(),
        None => next.run(request).await,
    };
    for (name, value) in [
        (header::CACHE_CONTROL, "no-store"),
        (header::X_CONTENT_TYPE_OPTIONS, "nosniff"),
        (header::X_FRAME_OPTIONS, "SAMEORIGIN"),
        (header::REFERRER_POLICY, "same-origin"),
        (header::HeaderName::from_static("cross-origin-resource-policy"), "same-origin"),
    ] {
        response.headers_mut().insert(name, HeaderValue::from_static(value));
    }
    response
}

/// Is this machine meant, under a name of its own? Any other name may have been made to lead here.
fn is_local(headers: &HeaderMap) -> bool {
    let mut hosts = headers.get_all(header::HOST).iter();
    let (Some(host), None) = (hosts.next(), hosts.next()) else { return false };
    host.to_str().is_ok_and(is_local_name)
}

fn is_local_name(host: &str) -> bool {
    let name = match host.rsplit_once(':') {
        Some((name, port)) if port.bytes().all(|byte| byte.is_ascii_digit()) => name,
        _ => host,
    };
    let name = name.to_ascii_lowercase();
    matches!(name.as_str(), "localhost" | "127.0.0.1" | "[::1]") || name.ends_with(".localhost")
}

/// Was this asked by a page of another origin?
fn comes_from_elsewhere(headers: &HeaderMap) -> bool {
    let word = |name: &str| headers.get(name).and_then(|value| value.to_str().ok());
    let site = word("sec-fetch-site").is_some_and(|site| !matches!(site, "same-origin" | "none"));
    let origin = match (word("origin"), word("host")) {
        (Some(origin), Some(host)) => origin != format!("http://{host}"),
        (Some(_), None) => true,
        (None, _) => false,
    };
    site || origin
}

/// Does it come from one of our own pages, which alone know the token?
fn may_write(headers: &HeaderMap, token: &str) -> bool {
    let given = headers.get(TOKEN).and_then(|given| given.to_str().ok());
    given.is_some_and(|given| given == token) && !comes_from_elsewhere(headers)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_names_of_this_machine_are_local() {
        for host in ["localhost:6420", "127.0.0.1:80", "[::1]:6420", "LOCALHOST", "marsh.localhost:1"] {
            assert!(is_local_name(host), "{host}");
        }
        for host in
            ["example.org", "localhost.example.org:6420", "127.0.0.1.example.org", "192.168.1.2:6420", "", ":80"]
        {
            assert!(!is_local_name(host), "{host}");
        }
    }

    #[test]
    fn what_another_page_asks_comes_from_elsewhere() {
        let headers = |pairs: &[(&'static str, &'static str)]| {
            pairs
                .iter()
                .map(|(name, value)| (header::HeaderName::from_static(name), HeaderValue::from_static(value)))
                .collect()
        };
        let host = ("host", "localhost:6420");
        for fine in [&[host][..], &[host, ("origin", "http://localhost:6420")], &[host, ("sec-fetch-site", "none")]] {
            assert!(!comes_from_elsewhere(&headers(fine)), "{fine:?}");
        }
        for bad in [
            &[host, ("origin", "http://example.org")][..],
            &[host, ("origin", "null")],
            &[host, ("origin", "http://localhost:9999")],
            &[host, ("sec-fetch-site", "cross-site")],
            &[host, ("sec-fetch-site", "same-site")],
        ] {
            assert!(comes_from_elsewhere(&headers(bad)), "{bad:?}");
        }
        let token = "0123";
        assert!(may_write(&headers(&[host, (TOKEN, "0123")]), token));
        assert!(!may_write(&headers(&[host]), token));
        assert!(!may_write(&headers(&[host, (TOKEN, "012")]), token));
        assert!(!may_write(&headers(&[host, (TOKEN, "0123"), ("origin", "http://example.org")]), token));
    }
}
