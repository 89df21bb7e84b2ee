//! Who may water when: the days ahead under the site's hours and local rules, as the editor of rules draws them.

use jiff::Timestamp;
use jiff::civil::Date;
use serde::Serialize;
use utoipa::ToSchema;

use crate::site::calendar;
use crate::site::{Invalid, SiteDocument};
use crate::view::days::instant;

/// Days that are drawn.
const DAYS: usize = 14;

/// A day's hours under the rules.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct AllowedDay {
    /// The civil day.
    pub date: Date,
    /// The stage in force; `null`: none.
    pub stage: Option<String>,
    /// Hours in which at least one zone may be watered, in time order.
    pub windows: Vec<AllowedWindow>,
    /// Zones to which rules leave nothing of the day's hours.
    pub closed: Vec<ClosedZone>,
}

/// Hours within which who may water does not change.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct AllowedWindow {
    /// They begin.
    pub opens: Timestamp,
    /// They end.
    pub closes: Timestamp,
    /// The zones that a rule bars from them.
    pub barred: Vec<String>,
}

/// A zone that is closed on a day.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct ClosedZone {
    /// The zone.
    pub zone: String,
    /// The place of the first rule that closes it.
    pub rule: u32,
}

/// The next two weeks of a site from a day on.
///
/// # Errors
/// The site does not hold.
pub fn allowed_days(document: &SiteDocument, today: Date) -> Result<Vec<AllowedDay>, Invalid> {
    document.validate()?;
    let time_zone = document.site.zone()?;
    let id = |zone: &usize| document.zones.get(*zone).map(|z| z.id.clone());
    let days = calendar::days(document, &time_zone, today, DAYS);
    Ok(days
        .into_iter()
        .map(|day| {
            let windows = day.windows.iter().enumerate();
            AllowedDay {
                date: day.date,
                stage: document.rules.stage(day.date).map(str::to_owned),
                windows: windows
                    .map(|(i, window)| AllowedWindow {
                        opens: instant(window.start_s),
                        closes: instant(window.end_s),
                        barred: day
                            .barred
                            .get(i)
                            .map(|b| b.iter().filter_map(id).collect())
                            .unwrap_or_default(),
                    })
                    .collect(),
                closed: day
                    .closed
                    .iter()
                    .filter_map(|(zone, rule)| {
                        Some(ClosedZone {
                            zone: id(zone)?,
                            rule: u32::try_from(*rule).ok()?,
                        })
                    })
                    .collect(),
            }
        })
        .collect())
}
