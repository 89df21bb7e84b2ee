//! The built front end, embedded in release builds and read from disk in debug ones.

use actix_web::http::header::{CACHE_CONTROL, CONTENT_TYPE};
use actix_web::{HttpRequest, HttpResponse};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
struct Assets;

/// A file of the front end; any other path is the application's own route and gets its page.
pub async fn serve(request: HttpRequest) -> HttpResponse {
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
