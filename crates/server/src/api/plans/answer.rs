//! What is answered about a plan. A plan does not change: its answer is written and packed once, and kept while it is asked for.

use std::io::Write;
use std::sync::Arc;

use actix_web::http::header::{
    ACCEPT_ENCODING, CONTENT_ENCODING, ContentType, ETAG, HeaderValue, VARY,
};
use actix_web::web::Bytes;
use actix_web::{HttpRequest, HttpResponse, HttpResponseBuilder};
use flate2::Compression;
use flate2::read::GzDecoder;
use flate2::write::GzEncoder;
use quick_cache::Weighter;
use quick_cache::sync::Cache;
use sqlx::PgPool;

use super::{CurrentPlan, PlanView};
use crate::db::plans::{Newest, PlanText};
use crate::db::{SiteId, plans};
use crate::http::error::ApiError;
use crate::planning::PLAN_VERSION;

/// Bytes of packed answers that are kept: some thousands of sites with a few zones.
const KEPT_BYTES: u64 = 16 * 1024 * 1024;

/// The tag of a site's newest plan. Weak: the same plan is sent packed or not.
pub(super) fn tag(newest: Option<Newest>) -> String {
    match newest {
        None => "W/\"none\"".to_owned(),
        Some(plan) if is_old(plan) => "W/\"old\"".to_owned(),
        Some(plan) => format!("W/\"{}\"", plan.id),
    }
}

/// Whether a plan has an older form than is shown.
fn is_old(plan: Newest) -> bool {
    plan.version < PLAN_VERSION
}

/// An answer, packed.
pub(super) struct Answer {
    tag: String,
    gzip: Bytes,
}

#[derive(Clone)]
struct ByBytes;

impl Weighter<i64, Arc<Answer>> for ByBytes {
    fn weight(&self, _: &i64, answer: &Arc<Answer>) -> u64 {
        // What the cache and the tag take beside it.
        u64::try_from(answer.gzip.len()).unwrap_or(u64::MAX) + 200
    }
}

/// The answers that are kept, by the plan's number.
pub struct PlanAnswers(Cache<i64, Arc<Answer>, ByBytes>);

impl Default for PlanAnswers {
    fn default() -> Self {
        Self(Cache::with_weighter(1000, KEPT_BYTES, ByBytes))
    }
}

impl PlanAnswers {
    /// About the newest plan of a site.
    pub(super) async fn newest(
        &self,
        pool: &PgPool,
        site: SiteId,
    ) -> Result<Arc<Answer>, ApiError> {
        let newest = plans::newest(pool, site).await?;
        self.of(pool, site, newest).await
    }

    /// About a plan of a site; `None`: about there being none.
    pub(super) async fn of(
        &self,
        pool: &PgPool,
        site: SiteId,
        newest: Option<Newest>,
    ) -> Result<Arc<Answer>, ApiError> {
        let Some(Newest { id, .. }) = newest.filter(|plan| !is_old(*plan)) else {
            return packed(None, newest).map(Arc::new);
        };
        if let Some(kept) = self.0.get(&id) {
            return Ok(kept);
        }
        let text = plans::text(pool, site, id)
            .await?
            .ok_or(ApiError::NotFound("plan"))?;
        let answer = tokio::task::spawn_blocking(move || packed(Some(&text), newest))
            .await
            .map_err(|e| ApiError::Internal(e.to_string()))??;
        let answer = Arc::new(answer);
        self.0.insert(id, answer.clone());
        Ok(answer)
    }
}

fn packed(plan: Option<&PlanText>, newest: Option<Newest>) -> Result<Answer, ApiError> {
    let broken = |error: &dyn std::fmt::Display| ApiError::Internal(error.to_string());
    let current = match plan {
        Some(plan) => Some(PlanView {
            id: plan.id,
            made_at: plan.made_at,
            plan: serde_json::from_str(&plan.result).map_err(|e| broken(&e))?,
            changes: serde_json::from_str(&plan.changes).map_err(|e| broken(&e))?,
        }),
        None => None,
    };
    let being_made = newest.is_some_and(is_old);
    let json = serde_json::to_vec(&CurrentPlan {
        current,
        being_made,
    })
    .map_err(|e| broken(&e))?;
    let mut packer = GzEncoder::new(Vec::new(), Compression::default());
    packer.write_all(&json).map_err(|e| broken(&e))?;
    let gzip = packer.finish().map_err(|e| broken(&e))?;
    Ok(Answer {
        tag: tag(newest),
        gzip: gzip.into(),
    })
}

impl Answer {
    /// The answer as the reader can take it.
    pub(super) fn respond(
        &self,
        request: &HttpRequest,
        mut answer: HttpResponseBuilder,
    ) -> HttpResponse {
        answer
            .insert_header(ContentType::json())
            .insert_header((ETAG, self.tag.as_str()))
            .insert_header((VARY, HeaderValue::from_static("accept-encoding")));
        if takes_gzip(request) {
            return answer
                .insert_header((CONTENT_ENCODING, "gzip"))
                .body(self.gzip.clone());
        }
        let mut json = Vec::new();
        match std::io::Read::read_to_end(&mut GzDecoder::new(self.gzip.as_ref()), &mut json) {
            Ok(_) => answer.body(json),
            Err(error) => {
                actix_web::ResponseError::error_response(&ApiError::Internal(error.to_string()))
            }
        }
    }
}

/// Whether the reader says that it takes gzip; `q=0` says that it does not.
fn takes_gzip(request: &HttpRequest) -> bool {
    request
        .headers()
        .get_all(ACCEPT_ENCODING)
        .filter_map(|v| v.to_str().ok())
        .flat_map(|line| line.split(','))
        .any(|coding| {
            let (name, quality) = coding.split_once(';').unwrap_or((coding, ""));
            let refused = quality
                .trim()
                .strip_prefix("q=")
                .is_some_and(|q| q.parse::<f32>().is_ok_and(|q| q <= 0.0));
            name.trim().eq_ignore_ascii_case("gzip") && !refused
        })
}
