//! Publishing the newest plan of a site: it is in force for its days, whatever newer plans say. By hand, or each morning by the site's rule.

use sqlx::PgConnection;

use crate::clock;
use crate::db::history::{self, Event};
use crate::db::publications::{self, NewPublication};
use crate::db::{AccountId, SiteId, controllers, plans, programmes, sites};

/// Publishes a plan of a site, the newest, at the site's instant; its row must be locked. A window that is open stays as it was planned. `account`: who does
/// it, with a key of the sender's; none: the site's rule.
///
/// # Errors
/// The database.
pub async fn publish(
    db: &mut PgConnection,
    id: SiteId,
    plan: i64,
    account: Option<(AccountId, &str)>,
) -> sqlx::Result<i64> {
    let site = sites::get(&mut *db, id).await?;
    let now = clock::now(site.simulated_now);
    let today = clock::local_date(now, &site.site.time_zone);
    let programme = programmes::of_plans(&mut *db, &[plan]).await?.remove(&plan);
    let open = programme.as_ref().map_or(now, |p| p.settle(now).until);
    let last = programme.and_then(|p| Some(p.days.last()?.date));
    let new = NewPublication {
        site: id,
        plan,
        account: account.map(|(account, _)| account),
        at: now,
        from: open,
        last_day: last.unwrap_or(today),
        idempotency_key: account.map(|(_, key)| key),
    };
    let last_day = new.last_day;
    match account {
        Some((account, _)) => {
            history::note(&mut *db, id, account, &Event::Published { last_day }).await?;
        }
        None => history::note_by_rule(&mut *db, id, &Event::PublishedByRule { last_day }).await?,
    }
    let publication = publications::add(&mut *db, &new).await?;
    // As a window opens there is no time to lose.
    controllers::ask_at_once(db, id).await?;
    Ok(publication)
}

/// Publishes the newest plan of a site whose rule says so; nothing where there is none.
///
/// # Errors
/// The database.
pub async fn by_rule(db: &mut PgConnection, id: SiteId) -> sqlx::Result<()> {
    if let Some(newest) = plans::newest(&mut *db, id).await? {
        publish(db, id, newest.id, None).await?;
    }
    Ok(())
}
