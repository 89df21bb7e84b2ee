use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, get, put};

use crate::api::access::{Access, Read, Record};
use crate::db::{Db, patches};
use crate::http::body::Incoming;
use crate::http::error::{ApiError, Problem};
use crate::http::picture::{self, Pictures};

/// Puts a photo to a look at a patch: JPEG, PNG or WebP, 8 MB at most. It is drawn anew, so that nothing but the picture is kept, not where it was taken either.
#[utoipa::path(tag = "stress", operation_id = "put_patch_photo", params(("site" = i64, Path), ("look" = i64, Path)),
    request_body(content = Vec<u8>, content_type = "image/*"), responses(
    (status = 204, description = "Kept"),
    (status = 404, description = "No such look here", body = Problem),
    (status = 413, description = "Larger than 8 MB", body = Problem),
    (status = 422, description = "Not a picture that can be read, or one of too many pixels", body = Problem),
    (status = 429, description = "Six photos of the account wait already", body = Problem),
    (status = 503, description = "Others send photos at the moment", body = Problem)))]
#[put("/sites/{site}/patch-looks/{look}/photo")]
pub(in crate::api) async fn put_patch_photo(
    access: Access<Record>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    pictures: Data<Pictures>,
    body: Incoming,
) -> Result<HttpResponse, ApiError> {
    let drawn = pictures.drawn(access.account, access.site, body).await?;
    if !patches::put_photo(db.pool(), access.site, path.1, &drawn).await? {
        return Err(ApiError::NotFound("look"));
    }
    Ok(HttpResponse::NoContent().finish())
}

/// The photo of a look at a patch.
#[utoipa::path(tag = "stress", operation_id = "show_patch_photo", params(("site" = i64, Path), ("look" = i64, Path)), responses(
    (status = 200, description = "The photo", body = Vec<u8>, content_type = "image/jpeg"),
    (status = 404, description = "No such photo", body = Problem)))]
#[get("/sites/{site}/patch-looks/{look}/photo")]
pub(in crate::api) async fn show_patch_photo(
    access: Access<Read>,
    path: Path<(String, i64)>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let jpeg = patches::photo(db.pool(), access.site, path.1).await?;
    Ok(picture::shown(jpeg.ok_or(ApiError::NotFound("photo"))?))
}
