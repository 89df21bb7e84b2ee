//! Files of comma-separated values that we write.

use actix_web::HttpResponse;
use actix_web::http::header::CONTENT_DISPOSITION;
use lawn::text::csv_cell;

/// A file to be saved under a name of our own.
#[must_use]
pub fn file(name: &str, text: String) -> HttpResponse {
    HttpResponse::Ok()
        .content_type("text/csv; charset=utf-8")
        .insert_header((
            CONTENT_DISPOSITION,
            format!("attachment; filename=\"{name}\""),
        ))
        .body(text)
}

/// A file of a heading and rows of cells; texts are guarded ([`csv_cell`]).
#[must_use]
pub fn table<const COLUMNS: usize>(
    name: &str,
    heading: [&str; COLUMNS],
    rows: impl IntoIterator<Item = [String; COLUMNS]>,
) -> HttpResponse {
    let mut text = heading.join(",");
    text.push('\n');
    for row in rows {
        text.push_str(&row.map(|cell| csv_cell(&cell)).join(","));
        text.push('\n');
    }
    file(name, text)
}

/// A cell of what may be missing.
#[must_use]
pub fn or_empty<T: ToString>(value: Option<T>) -> String {
    value.map_or_else(String::new, |v| v.to_string())
}
