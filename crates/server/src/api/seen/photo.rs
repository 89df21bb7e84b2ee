use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, get, put};

use crate::api::access::{Access, Read, Record};
use crate::db::{Db, seen};
use crate::http::body::Incoming;
use crate::http::error::{ApiError, Problem};
use crate::http::picture::{self, Pictures};

/// Puts a photo to what was seen: JPEG, PNG or WebP, 8 MB at most. It is drawn anew, so that nothing but the picture is kept, not where it was taken either.
#[utoipa::path(tag = "soil", operation_id = "put_photo", params(("site" = i64, Path), ("seen" = i64, Path)),
    request_body(content = Vec<u8>, content_type = "image/*"), responses(
    (status = 204, description = "Kept"),
    (status = 404, description = "Nothing such", body = Problem),
    (status = 413, description = "Larger than 8 MB", body = Problem),
    (status = 422, description = "Not a picture that can be read, or one of too many pixels", body = Problem),
    (status = 429, description = "Six photos of the account wait already", body = Problem),
    (status = 503, description = "Others send photos at the moment", body = Problem)))]
#[put("/sites/{site}/seen/{seen}/photo")]
pub(in crate::api) async fn put_photo(
    access: Access<Record>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    pictures: Data<Pictures>,
    body: Incoming,
) -> Result<HttpResponse, ApiError> {
    let drawn = pictures.drawn(access.account, access.site, body).await?;
    if !seen::put_photo(db.pool(), access.site, path.1, &drawn).await? {
        return Err(ApiError::NotFound("note"));
    }
    Ok(HttpResponse::NoContent().finish())
}

/// The photo of what was seen.
#[utoipa::path(tag = "soil", operation_id = "show_photo", params(("site" = i64, Path), ("seen" = i64, Path)), responses(
    (status = 200, description = "The photo", body = Vec<u8>, content_type = "image/jpeg"),
    (status = 404, description = "No such photo", body = Problem)))]
#[get("/sites/{site}/seen/{seen}/photo")]
pub(in crate::api) async fn show_photo(
    access: Access<Read>,
    path: Path<(String, i64)>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let jpeg = seen::photo(db.pool(), access.site, path.1).await?;
    Ok(picture::shown(jpeg.ok_or(ApiError::NotFound("photo"))?))
}
