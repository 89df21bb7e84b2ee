//! Soil tests of the demo: what a groundskeeper measured in two springs, with honest scatter. They agree with what the zones said before.

use jiff::civil::{Date, date};
use lawn::measure::soil::SoilTest;
use lawn::site::Zone;
use lawn::site::counting::Standing;
use lawn::site::soil_counting::ZoneSoilTest;
use sqlx::PgConnection;

use super::{Error, defect};
use crate::db::soil_tests::{self, NewSoilTest};
use crate::db::{AccountId, ZoneId};

/// Zone, day, and the test as the site document has it.
const MADE: [(&str, Date, &str); 4] = [
    (
        "Playing field",
        date(2025, 3, 18),
        r#"{ "method": "lab", "sand_pct": 63, "silt_pct": 24, "clay_pct": 12, "organic_pct": 2.9 }"#,
    ),
    (
        "East bank",
        date(2026, 4, 22),
        r#"{ "method": "jar", "sand_to_mm": 24, "silt_to_mm": 53, "clay_to_mm": 101 }"#,
    ),
    (
        "Library lawn",
        date(2026, 5, 12),
        r#"{ "method": "core", "roots_mm": [138, 162, 150] }"#,
    ),
    (
        "Schoolhouse strip",
        date(2026, 5, 12),
        r#"{ "method": "drops", "seconds": [2, 1.5, 4, 7, 2.5] }"#,
    ),
];

/// Adds the tests to the demo's zones.
pub(super) async fn add(
    db: &mut PgConnection,
    zones: &[Zone],
    account: AccountId,
) -> Result<(), Error> {
    for (number, (name, date, test)) in (1..).zip(MADE) {
        let zone = zones.iter().find(|zone| zone.name == name);
        let zone = zone.ok_or_else(|| defect(format!("no zone {name}")))?;
        let test: SoilTest = serde_json::from_str(test).map_err(defect)?;
        test.validate().map_err(defect)?;
        let kept = ZoneSoilTest {
            date,
            holds_from: None,
            standing: Standing::Automatic,
            test,
        };
        let new = NewSoilTest {
            zone: ZoneId(zone.id.parse().map_err(defect)?),
            account: Some(account),
            kept: &kept,
            idempotency_key: &format!("demo-soil-{number}"),
        };
        soil_tests::add(&mut *db, &new).await?;
    }
    Ok(())
}
