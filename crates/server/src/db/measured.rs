//! All that was measured and seen of sites' zones, as the sites' documents have it.

use std::collections::BTreeMap;

use lawn::site::SiteDocument;
use lawn::site::counting::ZoneTest;
use lawn::site::soil_counting::{ZoneSeen, ZoneSoilTest};
use sqlx::PgConnection;

use super::{SiteId, ZoneId, sprinkler_tests, undecodable};

/// What was measured and seen, by zone.
#[derive(Debug, Default)]
pub struct Measured {
    sprinklers: BTreeMap<ZoneId, Vec<ZoneTest>>,
    ground: BTreeMap<ZoneId, (Vec<ZoneSoilTest>, Vec<ZoneSeen>)>,
}

/// Of sites' zones.
pub async fn of_sites(db: &mut PgConnection, sites: &[SiteId]) -> sqlx::Result<Measured> {
    Ok(Measured {
        sprinklers: sprinkler_tests::kept(&mut *db, sites).await?,
        ground: ground(db, sites).await?,
    })
}

/// Tests of the soil in the order in which they were done, and what was seen, in time order: in one question.
async fn ground(
    db: &mut PgConnection,
    sites: &[SiteId],
) -> sqlx::Result<BTreeMap<ZoneId, (Vec<ZoneSoilTest>, Vec<ZoneSeen>)>> {
    let sites: Vec<i64> = sites.iter().map(|site| site.0).collect();
    let rows = sqlx::query!(
        r#"SELECT z.id, t.tests, s.seen
           FROM zone z
           LEFT JOIN LATERAL (
               SELECT json_agg(json_build_object('date', t.date, 'holds_from', t.holds_from, 'test', t.test, 'standing',
                   CASE WHEN t.voided_at IS NOT NULL THEN 'void' WHEN t.pinned THEN 'pinned' ELSE 'automatic' END) ORDER BY t.date, t.id) AS tests
               FROM soil_test t WHERE t.zone_id = z.id) t ON true
           LEFT JOIN LATERAL (
               SELECT json_agg(json_build_object('date', s.date, 'after_noon', s.after_noon, 'seen', s.seen, 'spot', s.spot, 'place',
                   CASE WHEN s.x_m IS NOT NULL THEN json_build_object('x_m', s.x_m, 'y_m', s.y_m) END) ORDER BY s.date, s.after_noon, s.id) AS seen
               FROM seen s WHERE s.zone_id = z.id AND s.undone_at IS NULL) s ON true
           WHERE z.site_id = ANY($1) AND (t.tests IS NOT NULL OR s.seen IS NOT NULL)"#,
        &sites
    )
    .fetch_all(db)
    .await?;
    let of = rows.into_iter().map(|r| {
        let tests = r.tests.map(serde_json::from_value).transpose();
        let seen = r.seen.map(serde_json::from_value).transpose();
        let tests = tests.map_err(undecodable)?.unwrap_or_default();
        let seen = seen.map_err(undecodable)?.unwrap_or_default();
        Ok((ZoneId(r.id), (tests, seen)))
    });
    of.collect()
}

impl Measured {
    /// Gives a document's zones what was measured and seen of them.
    pub fn put_into(&mut self, document: &mut SiteDocument) {
        for zone in &mut document.zones {
            let Some(id) = zone.id.parse().ok().map(ZoneId) else {
                continue;
            };
            zone.tests = self.sprinklers.remove(&id).unwrap_or_default();
            (zone.soil_tests, zone.seen) = self.ground.remove(&id).unwrap_or_default();
        }
    }
}
