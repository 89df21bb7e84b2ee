//! What minutes give: the truth about so many minutes so many times a week on a zone, for the person at a plain dial.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::dose;
use crate::engine::zone_model::ZoneModel;
use crate::invalid::Invalid;
use crate::quantity::{Area, Depth, RunTime, Volume};
use crate::ranges;
use crate::weather::DailyWeather;

/// Most times a week.
pub const MOST_TIMES: u8 = 14;

/// So many minutes so many times a week.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Minutes {
    /// Time that water runs each time, min.
    pub run_minutes: f64,
    /// Times a week, 1 to 14.
    pub times: u8,
}

impl Minutes {
    /// Checks both figures.
    ///
    /// # Errors
    /// The first that does not hold.
    pub fn validate(&self) -> Result<(), Invalid> {
        Invalid::unless_within("run_minutes", ranges::RUN_MINUTES, self.run_minutes)?;
        if self.times == 0 || self.times > MOST_TIMES {
            return Err(Invalid::new(
                "times",
                format!("1 to {MOST_TIMES} times a week, not {}", self.times),
            ));
        }
        Ok(())
    }
}

/// What minutes give on a zone.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct MinutesGive {
    /// Depth out of the sprinklers each time.
    pub gross_mm: Depth,
    /// Net depth each time, as the driest part counts it, if it is given without runoff.
    pub net_mm: Depth,
    /// The same of a week.
    pub week_net_mm: Depth,
    /// Volume out of the sprinklers in a week, L.
    pub week_l: Volume,
    /// What the driest quarter of the zone gets each time.
    pub driest_mm: Depth,
    /// Its share of the mean: low-quarter uniformity.
    pub evenness: f64,
    /// How deep it wets the soil each time, where what may be used is used up.
    pub wets_mm: Depth,
    /// How deep the roots go.
    pub roots_mm: Depth,
    /// The time after which water runs off, if it runs in one go; `null`: not within these minutes.
    pub runs_off_after_s: Option<i64>,
    /// What then runs off each time.
    pub runoff_mm: Depth,
    /// In how many passes it should be given.
    pub passes: u32,
    /// Rest between them, s.
    pub soak_s: i64,
    /// What the turf uses on such a day, mm.
    pub etc_mm: Depth,
    /// Days for which each time lasts at that use, without rain.
    pub lasts_days: f64,
}

/// What minutes give on a zone, on days like `day`.
#[must_use]
pub fn minutes_give(
    model: &ZoneModel,
    area: Area,
    day: &DailyWeather,
    minutes: Minutes,
) -> MinutesGive {
    let run = RunTime::from_minutes(minutes.run_minutes);
    let gross = model.rate.value * run;
    let net = model.net_of_gross(gross);
    let times = f64::from(minutes.times);
    let in_one_go = dose::irrigation(model, 1, run);
    let longest = model.longest_pass.filter(|longest| longest.s() < run.s());
    let passes = longest.map_or(1, |longest| {
        let passes = RunTime::from_s((run.s() / longest.s() - 1e-9).ceil()).round_s();
        u32::try_from(passes).unwrap_or(u32::MAX).max(1)
    });
    let pass_s = run.floor_s() / i64::from(passes);
    let etc = model.etc(day);
    // Used evenly over the roots down to what may be used: the front goes as deep as the water fills that.
    let dry_share = model.raw(etc) / model.taw;
    let lacks = model.available.value * dry_share;
    MinutesGive {
        gross_mm: gross,
        net_mm: net,
        week_net_mm: net * times,
        week_l: gross * times * area,
        driest_mm: gross * (1.0 - model.spray_loss.value) * model.evenness.value,
        evenness: model.evenness.value,
        wets_mm: if lacks > 0.0 {
            net / lacks
        } else {
            Depth::ZERO
        },
        roots_mm: model.root_depth.value,
        runs_off_after_s: (in_one_go.runoff > Depth::ZERO)
            .then_some(longest.map(RunTime::floor_s))
            .flatten(),
        runoff_mm: in_one_go.runoff,
        passes,
        soak_s: if passes > 1 { model.soak_s(pass_s) } else { 0 },
        etc_mm: etc,
        lasts_days: if etc > Depth::ZERO { net / etc } else { 0.0 },
    }
}
