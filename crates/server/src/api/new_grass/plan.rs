use actix_web::get;
use actix_web::web::{Data, Json, Path};
use jiff::ToSpan;
use jiff::civil::Date;
use lawn::new_grass::backwards::{Judge, Line, Set};
use lawn::new_grass::materials::{Labels, Materials, materials};
use lawn::new_grass::method::Method;
use lawn::new_grass::season::SeasonAhead;
use lawn::new_grass::weeks::{InHours, plot};
use lawn::quantity::Area;
use lawn::ranges;
use lawn::site::Invalid;
use lawn::stress::repair::SPRAY_DAYS;
use science::turf::Grass;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use super::PAST_YEARS;
use super::weeks::ToSow;
use crate::api::access::{Access, Read};
use crate::computing::{Turns, computed};
use crate::db::Db;
use crate::http::error::{ApiError, Problem};
use crate::http::query::Asked;
use crate::past_year;

/// Days before today that a spray may lie.
const SPRAYED_DAYS: i64 = 120;

/// Days that a person sets, and what the labels say.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct SowingDays {
    /// The grass; absent: the zone's.
    grass: Option<Grass>,
    /// How; absent: seed on bare ground, or sod of a grass without seed.
    method: Option<Method>,
    /// In which hours it is to be watered; absent: of the day.
    #[serde(default)]
    hours: InHours,
    /// The day of sowing; absent: days that go together are proposed.
    sow: Option<Date>,
    /// The day of working the soil; absent: two days before sowing.
    soil_work: Option<Date>,
    /// The day of spraying weeds; absent: nothing is sprayed.
    spray: Option<Date>,
    /// Days from spraying to sowing, by the label; absent: 28.
    wait_days: Option<f64>,
    /// Area to be sown, m²; absent: the zone's.
    area_m2: Option<f64>,
    /// Share of the seed that is this grass, %.
    purity_pct: Option<f64>,
    /// Share of it that germinates, %.
    germination_pct: Option<f64>,
    /// Nitrogen of the starter, %.
    nitrogen_pct: Option<f64>,
    /// Phosphate of the starter, %.
    phosphate_pct: Option<f64>,
    /// Share of its nitrogen that is slow-release, %.
    slow_pct: Option<f64>,
    /// From plug to plug, mm.
    spacing_mm: Option<f64>,
    /// Lime by a soil test, kg/m².
    lime_kg_m2: Option<f64>,
}

/// New grass planned backwards from frost, and what it takes.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct SowingPlan {
    line: Line,
    materials: Materials,
}

impl SowingDays {
    fn labels(&self) -> Result<Labels, Invalid> {
        let usual = Labels::default();
        let labels = Labels {
            purity_pct: self.purity_pct.unwrap_or(usual.purity_pct),
            germination_pct: self.germination_pct.unwrap_or(usual.germination_pct),
            nitrogen_pct: self.nitrogen_pct.unwrap_or(usual.nitrogen_pct),
            phosphate_pct: self.phosphate_pct.unwrap_or(usual.phosphate_pct),
            slow_pct: self.slow_pct.unwrap_or(usual.slow_pct),
            spacing_mm: self.spacing_mm.unwrap_or(usual.spacing_mm),
            lime_kg_m2: self.lime_kg_m2.unwrap_or(usual.lime_kg_m2),
        };
        labels.validate()?;
        Ok(labels)
    }

    /// The days that a person set; `None`: none is, propose them.
    fn set(&self, today: Date) -> Result<Option<Set>, Invalid> {
        let wait_days = match self.wait_days {
            None => SPRAY_DAYS,
            Some(days) => {
                Invalid::unless_within("wait_days", ranges::SPRAY_WAIT, days)?;
                #[allow(clippy::cast_possible_truncation)] // within its range
                let days = days.round() as i64;
                days
            }
        };
        let Some(sow) = self.sow else {
            return Ok(None);
        };
        let set = Set {
            spray: self.spray,
            soil_work: self
                .soil_work
                .unwrap_or_else(|| sow.saturating_sub(2.days())),
            sow,
            wait_days,
        };
        holds(&set, today)?;
        Ok(Some(set))
    }
}

/// Whether days that a person set are ones that can be planned.
pub(super) fn holds(set: &Set, today: Date) -> Result<(), Invalid> {
    let earliest = today.saturating_sub(SPRAYED_DAYS.days());
    let last = lawn::days::last_to_plan(today);
    let days = [
        ("spray", set.spray),
        ("soil_work", Some(set.soil_work)),
        ("sow", Some(set.sow)),
    ];
    for (field, day) in days {
        let Some(day) = day else { continue };
        lawn::days::check(field, day, last)?;
        if day < earliest {
            let message = format!("{day} is long over: {earliest} at the earliest");
            return Err(Invalid::new(field, message));
        }
    }
    Ok(())
}

/// New grass for a zone planned backwards from the first hard frost of past autumns, with what does not go together, and what it takes. Nothing is changed.
#[utoipa::path(tag = "new grass", operation_id = "plan_sowing", params(("site" = i64, Path), ("zone" = i64, Path), SowingDays), responses(
    (status = 200, description = "The days, and what it takes", body = SowingPlan),
    (status = 404, description = "No such zone here", body = Problem),
    (status = 422, description = "A day or a figure does not hold", body = Problem)))]
#[get("/sites/{site}/zones/{zone}/sowing-plan")]
pub(in crate::api) async fn plan_sowing(
    access: Access<Read>,
    path: Path<(String, i64)>,
    Asked(days): Asked<SowingDays>,
    db: Data<Db>,
    turns: Data<Turns>,
) -> Result<Json<SowingPlan>, ApiError> {
    let _turn = turns.take(access.account, access.site).await?;
    let mut db = db.pool().acquire().await?;
    let to_sow = ToSow::read(&mut db, access.site, path.1).await?;
    let told = past_year::told_of(&mut db, access.site, to_sow.today, PAST_YEARS).await?;
    drop(db);
    let sown = to_sow.sown(days.grass, days.method)?;
    let labels = days.labels()?;
    let set = days.set(to_sow.today)?;
    let zone = &to_sow.document.zones[to_sow.place];
    let area = match days.area_m2 {
        None => zone.area_m2,
        Some(m2) => {
            Invalid::unless_within("area_m2", ranges::AREA, m2)?;
            if m2 > zone.area_m2.m2() {
                let message = format!("{} is no larger than {} m²", zone.name, zone.area_m2.m2());
                return Err(Invalid::new("area_m2", message).into());
            }
            Area::from_m2(m2)
        }
    };
    let found = computed(move || {
        let record = past_year::series(&to_sow.document, &told);
        let (document, today) = (&to_sow.document, to_sow.today);
        let plot = plot(document, to_sow.place, sown, days.hours, today)?;
        let rules: Vec<String> = document.rules.list.iter().map(|r| r.name.clone()).collect();
        let judge = Judge {
            sown,
            plot: &plot,
            rules: &rules,
            season: SeasonAhead::of(sown.0, sown.1, &record, today),
            record: &record,
            latitude: document.site.latitude,
            today,
        };
        let line = judge.line(&set.unwrap_or_else(|| judge.proposed()));
        let materials = materials(area, &line, &labels);
        Ok::<_, Invalid>(SowingPlan { line, materials })
    });
    Ok(Json(found.await??))
}
