use actix_web::web::{Data, Json};
use actix_web::{HttpRequest, post};
use jiff::ToSpan;
use jiff::civil::Date;
use lawn::weather::WeatherDay;
use lawn::weather::conflict::{self, Against, LiveDay};
use lawn::weather::file::{self as weather_file, CellError};
use lawn::weather::foreign::Mapping;
use lawn::weather::foreign_guess::{self, Heading};
use lawn::weather::ghcn;
use serde::Serialize;
use utoipa::ToSchema;

use super::{ImportQuery, live, read, reading, today};
use crate::api::access::{Access, Manage};
use crate::db::{Db, sites, weather};
use crate::http::body::{Upload, text};
use crate::http::error::{ApiError, Problem};

/// Most gaps and differences that a preview lists.
const MOST_LISTED: usize = 200;

/// Days that are missing between rows of a file.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct Gap {
    first: Date,
    last: Date,
}

/// A day whose live figures differ from the file's.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct Difference {
    live: WeatherDay,
    file: WeatherDay,
}

/// What an import would do. Nothing has been written.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct Preview {
    /// Rows that hold.
    rows: usize,
    first: Option<Date>,
    last: Option<Date>,
    /// Rows dated today or later: kept as a forecast.
    forecast_rows: usize,
    /// Days that are new.
    new_days: usize,
    /// Days that say what is live already.
    same_days: usize,
    /// How many days say something else.
    different_days: usize,
    /// The first of them.
    different: Vec<Difference>,
    /// Missing days between the file's rows that are not live either.
    gaps: Vec<Gap>,
    /// Columns that are not understood and not read.
    ignored_columns: Vec<String>,
    /// Figures left out because the file says that they failed a check.
    left_out: usize,
    /// The file's heading, where a person may choose how its columns are read; `null` for our own files and NOAA's.
    heading: Option<Heading>,
    /// How the columns were read, or a first guess while they were not.
    mapping: Option<Mapping>,
    /// Whether the file was read by the mapping; else it is a guess to be corrected.
    mapped: bool,
    /// Lines that do not hold; while there are any, nothing can be imported.
    errors: Vec<CellError>,
    /// Goes into If-Match of the import.
    weather_version: i64,
}

/// Reads a weather file and says what importing it would do; writes nothing. A file of another shape is read by the mapping given, or by
/// the one remembered for its heading; without either a guess comes back to be corrected.
#[utoipa::path(tag = "weather", operation_id = "preview_weather", params(("site" = i64, Path),
        ("mapping" = Option<String>, Query, description = "How a foreign file is read: a Mapping as JSON")),
    request_body(content = String, content_type = "text/csv"), responses(
    (status = 200, description = "What the import would do", body = Preview),
    (status = 400, description = "Not a text file", body = Problem)))]
#[post("/sites/{site}/weather-imports/preview")]
pub(in crate::api) async fn preview(
    access: Access<Manage>,
    request: HttpRequest,
    db: Data<Db>,
    Upload(body): Upload,
) -> Result<Json<Preview>, ApiError> {
    let mapping = ImportQuery::of(&request)?.mapping()?;
    let site = sites::get(db.pool(), access.site).await?;
    let today = today(&site);
    let known = match (&mapping, foreign_guess::heading(text(&body)?)) {
        (None, Ok(Some(heading))) => {
            weather::mapping(db.pool(), access.site, &heading.signature()).await?
        }
        _ => None,
    };
    let known: Option<Mapping> = known.and_then(|known| serde_json::from_value(known).ok());
    let live = live(db.pool(), access.site).await?;
    let found = reading(move || {
        let mut found = preview_of(text(&body)?, mapping, known, &live, today);
        found.weather_version = site.weather_version;
        Ok(found)
    })
    .await?;
    Ok(Json(found))
}

/// What importing a text would do: read by a mapping, if one was chosen or is known for its heading.
fn preview_of(
    text: &str,
    mut mapping: Option<Mapping>,
    known: Option<Mapping>,
    live: &[LiveDay],
    today: Date,
) -> Preview {
    let mut file = read(text, mapping.as_ref(), today);
    // Ours has our headings, NOAA's has none; any other is read as a person says.
    let unread = match file.errors.as_slice() {
        [only] => only.line == 1 && matches!(only.column.as_str(), "" | "date"),
        _ => false,
    };
    let ours = mapping.is_none() && (!unread || ghcn::is_ghcn(text));
    let heading = if ours {
        None
    } else {
        foreign_guess::heading(text).unwrap_or_else(|error| {
            file.errors = vec![error];
            None
        })
    };
    if mapping.is_none() && heading.is_some() && known.is_some() {
        mapping = known;
        file = read(text, mapping.as_ref(), today);
    }
    let mapped = mapping.is_some();
    if !mapped && let Some(heading) = &heading {
        mapping = Some(foreign_guess::guess(heading));
        // Its lines are not wrong: nobody has said yet how to read them.
        file = weather_file::File::default();
    }
    let mut days = file.days();
    days.sort_by_key(|d| d.date);
    let mut found = Preview {
        rows: days.len(),
        first: days.first().map(|d| d.date),
        last: days.last().map(|d| d.date),
        forecast_rows: 0,
        new_days: 0,
        same_days: 0,
        different_days: 0,
        different: Vec::new(),
        gaps: Vec::new(),
        ignored_columns: file.ignored,
        left_out: file.left_out,
        heading,
        mapping,
        mapped,
        errors: file.errors,
        weather_version: 0,
    };
    let mut before: Option<Date> = None;
    for day in days {
        // Gaps of the past only: a forecast need not be whole.
        if let Some(before) = before
            && before < today
        {
            found.gap(before, day.date.min(today), |date| {
                conflict::find(live, date).is_some()
            });
        }
        before = Some(day.date);
        if day.date >= today {
            found.forecast_rows += 1;
            continue;
        }
        match (
            conflict::against(live, &day),
            conflict::find(live, day.date),
        ) {
            (Against::Different, Some(live)) => found.different.push(Difference {
                live: live.day.clone(),
                file: day,
            }),
            (Against::Same, _) => found.same_days += 1,
            _ => found.new_days += 1,
        }
    }
    found.different_days = found.different.len();
    found.different.truncate(MOST_LISTED);
    found
}

impl Preview {
    /// Notes the days between two rows that nothing covers.
    fn gap(&mut self, before: Date, after: Date, covered: impl Fn(Date) -> bool) {
        let mut first = None;
        let mut date = before.saturating_add(1.day());
        while date < after && self.gaps.len() < MOST_LISTED {
            let missing = !covered(date);
            if missing {
                first.get_or_insert(date);
            }
            let next = date.saturating_add(1.day());
            if (!missing || next == after)
                && let Some(first) = first.take()
            {
                let last = if missing {
                    date
                } else {
                    date.saturating_sub(1.day())
                };
                self.gaps.push(Gap { first, last });
            }
            date = next;
        }
    }
}
