//! The built front end, embedded in release builds and read from disk in debug ones.

use actix_web::http::header::{CACHE_CONTROL, CONTENT_TYPE, HOST, LOCATION};
use actix_web::web::Data;
use actix_web::{HttpRequest, HttpResponse};
use rust_embed::RustEmbed;

use crate::http::door::is_loopback;
use crate::settings::Settings;

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
struct Assets;

/// Where a page is asked for by a name of this machine, while browsers sign in at another: they are sent there. Only where this server ends TLS itself: a proxy in front
/// may ask by any name.
fn elsewhere(request: &HttpRequest) -> Option<String> {
    let settings = request.app_data::<Data<Settings>>()?;
    let public = settings
        .public_origin
        .as_ref()
        .filter(|_| settings.tls.is_some())?;
    let host = request.headers().get(HOST)?.to_str().ok()?;
    let own = public.split_once("://").is_some_and(|(_, of)| of == host);
    (is_loopback(host) && !own).then(|| format!("{public}{}", request.uri()))
}

/// A file of the front end; any other path is the application's own route and gets its page.
pub async fn serve(request: HttpRequest) -> HttpResponse {
    if let Some(there) = elsewhere(&request) {
        return HttpResponse::TemporaryRedirect()
            .insert_header((LOCATION, there))
            .finish();
    }
    let path = request.path().trim_start_matches('/');
    if let Some(file) = Assets::get(path) {
        let mime = mime_guess::from_path(path).first_or_octet_stream();
        // Vite names assets by their content.
        let cache = if path.starts_with("assets/") {
            "public, max-age=31536000, immutable"
        } else {
            "no-cache"
        };
        return HttpResponse::Ok()
            .insert_header((CONTENT_TYPE, mime.as_ref()))
            .insert_header((CACHE_CONTROL, cache))
            .body(file.data.into_owned());
    }
    match Assets::get("index.html") {
        Some(page) => HttpResponse::Ok()
            .insert_header((CONTENT_TYPE, "text/html; charset=utf-8"))
            .insert_header((CACHE_CONTROL, "no-cache"))
            .body(page.data.into_owned()),
        None => HttpResponse::NotFound()
            .insert_header((CONTENT_TYPE, "text/plain; charset=utf-8"))
            .body("The interface was not built: run `cargo xtask demo`, or `npm ci && npm run build` in web/. The API is under /api/v1.\n"),
    }
}
