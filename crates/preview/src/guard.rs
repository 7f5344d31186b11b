//! Who is answered: pages of this machine's own browser, that were opened from here.

use std::sync::Arc;
use std::time::{Duration, Instant};

use axum::body::{Body, to_bytes};
use axum::extract::{Request, State};
use axum::http::header::{self, HeaderValue};
use axum::http::{HeaderMap, Method, StatusCode};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};

use crate::room::Room;

/// How much somebody may send, in bytes.
pub const MOST: usize = 64 * 1024;
/// In this header our own pages send the token.
pub const TOKEN: &str = "x-truehook-token";

/// How long somebody may take to send what is to be done.
const PATIENCE: Duration = Duration::from_secs(10);

/// Lets through what may ask the shell, and says of all that goes out that it stays here.
pub async fn guard_shell(State(room): State<Arc<Room>>, request: Request, next: Next) -> Response {
    let headers = request.headers();
    let own = request.uri().path().starts_with("/-/");
    let writes = request.method() != Method::GET && request.method() != Method::HEAD;
    let refused = if !is_local(headers) {
        Some("this preview answers to localhost alone")
    } else if writes && !may_write(headers, &room.token) {
        Some("only the preview's own pages may change anything")
    } else if own && comes_from_elsewhere(headers, false) {
        Some("only the preview's own pages may ask for this")
    } else {
        None
    };
    let mut response = match refused {
        Some(why) => (StatusCode::FORBIDDEN, why).into_response(),
        None if writes => answer_in_time(request, next).await,
        None => next.run(request).await,
    };
    let sites: Vec<String> = LOCAL.iter().map(|name| format!("http://{name}:{}", room.ports.site)).collect();
    let policy = format!(
        "default-src 'none'; script-src 'self'; style-src 'unsafe-inline'; connect-src 'self'; img-src 'self' data:; \
         frame-src {}; base-uri 'none'; form-action 'none'; frame-ancestors 'none'",
        sites.join(" ")
    );
    mark(&mut response, &policy);
    response.headers_mut().insert(header::X_FRAME_OPTIONS, HeaderValue::from_static("DENY"));
    response
}

/// The same for the theme's pages. Nothing can be changed there, and only the shell may show them in a frame.
pub async fn guard_site(State(room): State<Arc<Room>>, request: Request, next: Next) -> Response {
    let headers = request.headers();
    let own = request.uri().path().starts_with("/-/");
    let mut response = if !is_local(headers) {
        (StatusCode::FORBIDDEN, "this preview answers to localhost alone").into_response()
    } else if request.method() != Method::GET && request.method() != Method::HEAD {
        (StatusCode::METHOD_NOT_ALLOWED, "pages can only be looked at").into_response()
    } else if own && comes_from_elsewhere(headers, true) {
        (StatusCode::FORBIDDEN, "only the preview's own pages may ask for this").into_response()
    } else {
        next.run(request).await
    };
    let shells: Vec<String> = LOCAL.iter().map(|name| format!("http://{name}:{}", room.ports.shell)).collect();
    mark(&mut response, &format!("frame-ancestors 'self' {}", shells.join(" ")));
    response
}

/// Sets the headers of a response: it is not cached, and no page of another origin can read it.
fn mark(response: &mut Response, policy: &str) {
    for (name, value) in [
        (header::CACHE_CONTROL, "no-store"),
        (header::X_CONTENT_TYPE_OPTIONS, "nosniff"),
        (header::REFERRER_POLICY, "same-origin"),
        (header::HeaderName::from_static("cross-origin-resource-policy"), "same-origin"),
    ] {
        response.headers_mut().insert(name, HeaderValue::from_static(value));
    }
    if let Ok(policy) = HeaderValue::from_str(policy) {
        response.headers_mut().insert(header::CONTENT_SECURITY_POLICY, policy);
    }
}

/// Answers a request whose body has come in time.
async fn answer_in_time(request: Request, next: Next) -> Response {
    let (parts, body) = request.into_parts();
    let (method, path, begun) = (parts.method.clone(), parts.uri.path().to_string(), Instant::now());
    let response = match tokio::time::timeout(PATIENCE, to_bytes(body, MOST)).await {
        Ok(Ok(bytes)) => next.run(Request::from_parts(parts, Body::from(bytes))).await,
        Ok(Err(_)) => (StatusCode::PAYLOAD_TOO_LARGE, "that is more than anybody has to send").into_response(),
        Err(_) => (StatusCode::REQUEST_TIMEOUT, "that took too long").into_response(),
    };
    let (status, milliseconds) = (response.status().as_u16(), begun.elapsed().as_millis());
    tracing::debug!(%method, path, status, milliseconds, "answered");
    response
}

/// The names by which browsers know this machine.
const LOCAL: [&str; 3] = ["localhost", "127.0.0.1", "[::1]"];

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

/// Was this asked by a page of another origin? `framed`: a page of this machine may show it in a frame.
fn comes_from_elsewhere(headers: &HeaderMap, framed: bool) -> bool {
    let word = |name: &str| headers.get(name).and_then(|value| value.to_str().ok());
    let shown = framed && word("sec-fetch-mode") == Some("navigate");
    let site = word("sec-fetch-site").is_some_and(|site| match site {
        "same-origin" | "none" => false,
        "same-site" => !shown,
        _ => true,
    });
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
    given.is_some_and(|given| given == token) && !comes_from_elsewhere(headers, false)
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
            assert!(!comes_from_elsewhere(&headers(fine), false), "{fine:?}");
        }
        for bad in [
            &[host, ("origin", "http://example.org")][..],
            &[host, ("origin", "null")],
            &[host, ("origin", "http://localhost:9999")],
            &[host, ("sec-fetch-site", "cross-site")],
            &[host, ("sec-fetch-site", "same-site")],
        ] {
            assert!(comes_from_elsewhere(&headers(bad), false), "{bad:?}");
        }
        // A frame of the shell shows it; nothing else of this machine may ask for it.
        let framed = [host, ("sec-fetch-site", "same-site"), ("sec-fetch-mode", "navigate")];
        assert!(!comes_from_elsewhere(&headers(&framed), true) && comes_from_elsewhere(&headers(&framed), false));
        let fetched = [host, ("sec-fetch-site", "same-site"), ("sec-fetch-mode", "no-cors")];
        assert!(comes_from_elsewhere(&headers(&fetched), true));
        let token = "0123";
        assert!(may_write(&headers(&[host, (TOKEN, "0123")]), token));
        assert!(!may_write(&headers(&[host]), token));
        assert!(!may_write(&headers(&[host, (TOKEN, "012")]), token));
        assert!(!may_write(&headers(&[host, (TOKEN, "0123"), ("origin", "http://example.org")]), token));
    }
}
