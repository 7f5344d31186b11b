//! What is answered: pages and their files, and under `/-/` all that is ours.

use std::convert::Infallible;
use std::sync::Arc;
use std::time::Duration;

use axum::Router;
use axum::body::Bytes;
use axum::extract::{DefaultBodyLimit, Query, State};
use axum::http::{HeaderMap, StatusCode, Uri, header};
use axum::response::sse::{Event, KeepAlive, Sse};
use axum::response::{Html, IntoResponse, Json, Response};
use axum::routing::{get, post};
use percent_encoding::percent_decode_str;
use serde::Deserialize;
use serde_json::json;
use tokio_stream::StreamExt;
use tokio_stream::wrappers::WatchStream;

use crate::guard::{MOST, guard_shell, guard_site};
use crate::room::{Now, Room, Theme};
use crate::told::told;
use crate::view::View;
use crate::write::{Wish, carry_out};
use crate::{pages, sheets};

const SCRIPT: [(header::HeaderName, &str); 1] = [(header::CONTENT_TYPE, "text/javascript; charset=utf-8")];

/// What the shell's port answers: the shell at every path, and what it asks for.
pub fn shell(room: Arc<Room>) -> Router {
    Router::new()
        .route("/-/shell.js", get(|| async { (SCRIPT, pages::shell_script()) }))
        // Browsers ask for it by themselves, wherever they are.
        .route("/favicon.ico", get(favicon))
        .route("/-/changes", get(changes))
        .route("/-/now", get(now))
        .route("/-/origin", get(origin))
        .route("/-/do", post(wish))
        .fallback(get(shell_page))
        .layer(DefaultBodyLimit::max(MOST))
        .layer(axum::middleware::from_fn_with_state(room.clone(), guard_shell))
        .with_state(room)
}

/// What the port of the theme's pages answers: pages, their files, and the sheets that show pages. Nothing is written
/// from there, and nothing told that could.
pub fn site(room: Arc<Room>) -> Router {
    Router::new()
        .route("/-/page.js", get(|| async { (SCRIPT, pages::page_script()) }))
        .route("/favicon.ico", get(favicon))
        .route("/-/changes", get(changes))
        .route("/-/map", get(sheet_map))
        .route("/-/desk", get(sheet_desk))
        .route("/-/atlas", get(sheet_atlas))
        .fallback(get(page))
        .layer(axum::middleware::from_fn_with_state(room.clone(), guard_site))
        .with_state(room)
}

async fn shell_page(State(room): State<Arc<Room>>) -> Html<String> {
    Html(pages::shell(room.ports.site))
}

/// Which page is meant.
#[derive(Deserialize)]
struct Asked {
    #[serde(default)]
    page: String,
}

fn view(headers: &HeaderMap) -> View {
    let cookies = headers.get_all(header::COOKIE).iter().filter_map(|value| value.to_str().ok());
    View::of_cookies(&cookies.collect::<Vec<_>>().join(";"))
}

/// Does something that waits for workers, when it is its turn.
async fn in_turn<T: Send + 'static>(room: &Arc<Room>, act: impl FnOnce(&Room) -> T + Send + 'static) -> Option<T> {
    let turn = room.turns.clone().acquire_owned().await.ok()?;
    let room = room.clone();
    let done = tokio::task::spawn_blocking(move || {
        let result = act(&room);
        drop(turn);
        result
    });
    done.await.ok()
}

fn broken() -> Response {
    (StatusCode::INTERNAL_SERVER_ERROR, "the preview could not do that; see the terminal").into_response()
}

/// The theme's own, where a page refers to one.
async fn favicon(State(room): State<Arc<Room>>) -> Response {
    match in_turn(&room, |room| room.files.read("favicon.ico")).await.flatten() {
        Some(bytes) => ([(header::CONTENT_TYPE, "image/x-icon")], bytes).into_response(),
        None => StatusCode::NO_CONTENT.into_response(),
    }
}

/// A page of the site, or a file beside it.
async fn page(State(room): State<Arc<Room>>, headers: HeaderMap, uri: Uri) -> Response {
    let Ok(path) = percent_decode_str(uri.path()).decode_utf8() else {
        return (StatusCode::BAD_REQUEST, "that is no path").into_response();
    };
    let path = path.into_owned();
    let view = view(&headers);
    in_turn(&room, move |room| answer(room, &path, &view)).await.unwrap_or_else(broken)
}

fn answer(room: &Room, path: &str, view: &View) -> Response {
    let now = room.now();
    let theme = match &now.theme {
        Ok(theme) => theme,
        Err(why) => {
            return match room.last_good(path, view) {
                Some(shown) => Html(pages::live(&shown.page.html, now.number, room.ports.shell)).into_response(),
                None => (
                    StatusCode::SERVICE_UNAVAILABLE,
                    Html(pages::trouble("This theme can't be opened", why, now.number, room.ports.shell)),
                )
                    .into_response(),
            };
        }
    };
    let view = view.fitting(&theme.registry);
    if let Some(found) = theme.find(path) {
        if theme.broken
            && let Some(shown) = room.last_good(&found.path, &view)
        {
            return Html(pages::live(&shown.page.html, now.number, room.ports.shell)).into_response();
        }
        return match room.page(theme, &found.path, &view) {
            Ok(shown) => Html(pages::live(&shown.page.html, now.number, room.ports.shell)).into_response(),
            Err(why) => (
                StatusCode::INTERNAL_SERVER_ERROR,
                Html(pages::trouble("This page can't be rendered", &why, now.number, room.ports.shell)),
            )
                .into_response(),
        };
    }
    if let Some(bytes) = room.files.read(path.trim_start_matches('/')) {
        return ([(header::CONTENT_TYPE, truehook_sheets::media_type(path))], bytes).into_response();
    }
    missing(room, &now, theme, path, &view)
}

/// The theme's own page for what is not there, else one of ours.
fn missing(room: &Room, now: &Now, theme: &Theme, path: &str, view: &View) -> Response {
    let own = theme.site().pages.iter().find(|page| page.page_type == "missing");
    let shown = own.and_then(|page| room.page(theme, &page.path, view).ok());
    let html = match shown {
        Some(shown) => pages::live(&shown.page.html, now.number, room.ports.shell),
        None => {
            let known: Vec<&str> = theme.site().pages.iter().map(|page| page.path.as_str()).collect();
            pages::no_page(path, &known, now.number, room.ports.shell)
        }
    };
    (StatusCode::NOT_FOUND, Html(html)).into_response()
}

/// Tells a browser each time that something has changed.
async fn changes(State(room): State<Arc<Room>>) -> Sse<impl tokio_stream::Stream<Item = Result<Event, Infallible>>> {
    let numbers = WatchStream::new(room.number.subscribe());
    let events = numbers.map(|number| Ok(Event::default().event("number").data(number.to_string())));
    Sse::new(events).keep_alive(KeepAlive::new().interval(Duration::from_secs(15)))
}

/// What the drawer shows.
async fn now(State(room): State<Arc<Room>>, headers: HeaderMap, Query(asked): Query<Asked>) -> Response {
    let view = view(&headers);
    let told = in_turn(&room, move |room| told(room, &room.now(), &asked.page, &view)).await;
    told.map_or_else(broken, |told| Json(told).into_response())
}

/// Does something with the theme as it is now.
async fn with_theme(
    room: Arc<Room>,
    act: impl FnOnce(&Room, &Now, &Theme) -> Result<String, String> + Send + 'static,
) -> Response {
    let (room_number, shell) = (room.now().number, room.ports.shell);
    let made = in_turn(&room, move |room| {
        let now = room.now();
        match &now.theme {
            Ok(theme) => act(room, &now, theme),
            Err(why) => Err(why.clone()),
        }
    });
    match made.await {
        Some(Ok(html)) => Html(html).into_response(),
        Some(Err(why)) => {
            (StatusCode::NOT_FOUND, Html(pages::trouble("This can't be shown", &why, room_number, shell)))
                .into_response()
        }
        None => broken(),
    }
}

async fn sheet_map(State(room): State<Arc<Room>>, headers: HeaderMap, Query(asked): Query<Asked>) -> Response {
    let view = view(&headers);
    with_theme(room, move |room, _, theme| sheets::map(room, theme, &asked.page, &view)).await
}

async fn sheet_desk(State(room): State<Arc<Room>>, headers: HeaderMap) -> Response {
    let view = view(&headers);
    with_theme(room, move |room, _, theme| sheets::desk(room, theme, &view)).await
}

async fn sheet_atlas(State(room): State<Arc<Room>>, headers: HeaderMap) -> Response {
    let view = view(&headers);
    with_theme(room, move |room, _, theme| sheets::atlas(room, theme, &view)).await
}

/// Where a part of a page came from.
async fn origin(State(room): State<Arc<Room>>, headers: HeaderMap, Query(picked): Query<sheets::Picked>) -> Response {
    let view = view(&headers);
    let found = in_turn(&room, move |room| {
        let now = room.now();
        let theme = now.theme.as_ref().map_err(String::clone)?;
        sheets::origin(room, theme, &picked, &view)
    });
    match found.await {
        Some(Ok(found)) => Json(found).into_response(),
        Some(Err(why)) => (StatusCode::NOT_FOUND, Json(json!({ "trouble": why }))).into_response(),
        None => broken(),
    }
}

/// Writes something.
async fn wish(State(room): State<Arc<Room>>, body: Bytes) -> Response {
    let wish: Wish = match serde_json::from_slice(&body) {
        Ok(wish) => wish,
        Err(error) => return (StatusCode::BAD_REQUEST, Json(json!({ "trouble": error.to_string() }))).into_response(),
    };
    match in_turn(&room, move |room| carry_out(room, wish)).await {
        Some(Ok(done)) => Json(json!({ "done": done })).into_response(),
        Some(Err(why)) => (StatusCode::CONFLICT, Json(json!({ "trouble": why }))).into_response(),
        None => broken(),
    }
}
