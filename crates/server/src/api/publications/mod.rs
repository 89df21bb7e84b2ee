//! Published weeks: what is in force, what changed since, publishing and withdrawing, by hand or each morning by rule; and the controller that is to run them.

use jiff::Timestamp;
use jiff::civil::Date;
use lawn::view::since_published::SincePublished;
use serde::Serialize;
use utoipa::ToSchema;

use crate::db::publications::PublicationRow;

mod controller;
mod mornings;
mod publish;
mod show;
mod withdraw;

pub(super) use controller::*;
pub(super) use mornings::*;
pub(super) use publish::*;
pub(super) use show::*;
pub(super) use withdraw::*;

/// A published week.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct PublicationView {
    id: i64,
    /// The plan that it is.
    plan: i64,
    /// Whether the site's rule published it.
    by_rule: bool,
    /// Who did; `null`: the rule, or somebody who is gone.
    who: Option<String>,
    /// By the site's clock.
    published_at: Timestamp,
    /// Its last day; on days after it the newest plan is in force.
    last_day: Date,
}

impl From<PublicationRow> for PublicationView {
    fn from(row: PublicationRow) -> Self {
        Self {
            id: row.id,
            plan: row.plan,
            by_rule: row.by_rule,
            who: row.who,
            published_at: row.published_at,
            last_day: row.last_day,
        }
    }
}

/// How a site publishes, and what is in force.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct Publishing {
    /// Whether the plan is published each morning by itself.
    each_morning: bool,
    /// What was published last and not withdrawn; `null`: nothing, and the newest plan is in force.
    published: Option<PublicationView>,
    /// What became of it; `null`: the newest plan is what was published, or its days are over.
    since: Option<SincePublished>,
    /// The site's controller; `null`: this server reaches none.
    controller: Option<ControllerView>,
}
