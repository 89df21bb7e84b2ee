//! Asking the weather service. A site keeps working on what it has while the service is down, slow or sends nonsense.

use jiff::civil::Date;
use jiff::tz::TimeZone;
use jiff::{Timestamp, ToSpan};
use lawn::weather::WeatherDay;
use lawn::weather::file as weather_file;
use reqwest::Method;
use serde_json::Value;

use crate::clock;
use crate::db::feeds::Feed;
use crate::db::sites::SiteRow;
use crate::db::{self, Db, SiteId};
use crate::outside::{self, Outside, Unusable};
use crate::planning::{self, Failure};
use crate::settings::Settings;
use crate::tls;

/// Days of history that a new subscription brings: a year and a month, for climatology.
const HISTORY_DAYS: i64 = 396;
/// Climates that the stand-in knows, with names for people.
pub const CLIMATES: [(&str, &str); 5] = [
    ("transition", "Transition"),
    ("humid-cool", "Humid cool"),
    ("mediterranean-dry", "Mediterranean dry"),
    ("humid-subtropical", "Humid subtropical"),
    ("continental", "Continental"),
];

/// The service.
#[derive(Debug, Clone)]
pub struct WeatherService(Outside);

/// The simulated service, as feeds name it.
pub const SIMULATED: &str = "simulated";
/// Any other, which is asked by the place alone (docs/formats/weather-service.md).
pub const SERVICE: &str = "service";

/// What a feed of the simulated service is asked with.
#[must_use]
pub fn simulated(climate: &str, seed: i64) -> Value {
    serde_json::json!({ "climate": climate, "seed": seed })
}

/// A feed's own part of a question: `climate=continental&seed=7&`. Its values are words and numbers of ours.
fn asked_with(parameters: &Value) -> String {
    let pairs = parameters.as_object().into_iter().flatten();
    pairs
        .map(|(name, value)| match value.as_str() {
            Some(text) => format!("{name}={text}&"),
            None => format!("{name}={value}&"),
        })
        .collect()
}

/// What every question says, and the site's day.
fn common(feed: &Feed, site: &SiteRow, now: Timestamp) -> (String, Date) {
    let zone = TimeZone::get(&site.site.time_zone).unwrap_or(TimeZone::UTC);
    let local = now.to_zoned(zone).datetime();
    let common = format!(
        "{}latitude={}&longitude={}&elevation_m={}&as_of={}",
        asked_with(&feed.parameters),
        site.site.latitude,
        site.site.longitude,
        site.site.elevation_m,
        local.strftime("%Y-%m-%dT%H:%M:%S")
    );
    (common, local.date())
}

impl WeatherService {
    /// The simulated one at an address.
    ///
    /// # Errors
    /// [`tls::Error`].
    pub fn new(base: &str) -> Result<Self, tls::Error> {
        Outside::new(base, None, None).map(Self)
    }

    /// The one of the settings, if they name one.
    ///
    /// # Errors
    /// [`tls::Error`].
    pub fn of(settings: &Settings) -> Result<Option<Self>, tls::Error> {
        let service = settings.weather_url.as_deref().map(|base| {
            let root = settings.weather_certificate.as_deref();
            Outside::new(base, settings.weather_key.clone(), root).map(Self)
        });
        service.transpose()
    }

    /// Observed days from a date to yesterday by the site's clock.
    ///
    /// # Errors
    /// [`Unusable`].
    pub async fn observed(
        &self,
        feed: &Feed,
        site: &SiteRow,
        now: Timestamp,
        from: Date,
    ) -> Result<Vec<WeatherDay>, Unusable> {
        let (common, today) = common(feed, site, now);
        let yesterday = today.saturating_sub(1.day());
        if from > yesterday {
            return Ok(Vec::new());
        }
        let query = format!("{common}&from={from}&to={yesterday}");
        self.days("observed", &query, from, yesterday).await
    }

    /// Today by the site's clock and the days after it, as forecast.
    ///
    /// # Errors
    /// [`Unusable`].
    pub async fn forecast(
        &self,
        feed: &Feed,
        site: &SiteRow,
        now: Timestamp,
    ) -> Result<Vec<WeatherDay>, Unusable> {
        let (common, today) = common(feed, site, now);
        let last = today.saturating_add(13.days());
        self.days("forecast", &common, today, last).await
    }

    async fn days(
        &self,
        what: &str,
        query: &str,
        first: Date,
        last: Date,
    ) -> Result<Vec<WeatherDay>, Unusable> {
        let question = self.0.ask(Method::GET, &format!("/v1/{what}?{query}"));
        let text = outside::answer(question).await?;
        let nonsense = |what: &str| Unusable::nonsense(what);
        let file = tokio::task::spawn_blocking(move || {
            let mut file = weather_file::read(&text);
            file.errors.extend(file.repeated());
            file
        })
        .await
        .map_err(|_| nonsense("a file that cannot be read"))?;
        if let Some(error) = file.errors.first() {
            return Err(Unusable::nonsense(&error.to_string()));
        }
        let days = file.days();
        if days.is_empty() {
            return Err(nonsense("no days"));
        }
        if let Some(day) = days.iter().find(|d| d.date < first || d.date > last) {
            return Err(Unusable::Nonsense(format!(
                "{} was not asked for",
                day.date
            )));
        }
        Ok(days)
    }
}

/// Asks for a site and keeps what comes, replanning if asked to. `Ok(Some(_))`: why nothing came; it is noted and asked again later.
///
/// # Errors
/// [`Failure`]: the database.
pub async fn fetch(
    db: &Db,
    service: &WeatherService,
    id: SiteId,
    replan: bool,
) -> Result<Option<Unusable>, Failure> {
    let pool = db.pool();
    let Some(feed) = db::feeds::get(pool, id).await? else {
        return Ok(None);
    };
    let site = db::sites::get(pool, id).await?;
    let now = clock::now(site.simulated_now);
    let today = clock::local_date(now, &site.site.time_zone);
    let from = match db::feeds::last_day(pool, id).await? {
        Some(last) => last.saturating_add(1.day()),
        None => today.saturating_sub(HISTORY_DAYS.days()),
    };
    // No transaction is open while another machine is asked.
    let asked = async {
        let observed = service.observed(&feed, &site, now, from).await?;
        Ok::<_, Unusable>((observed, service.forecast(&feed, &site, now).await?))
    };
    let (observed, forecast) = match asked.await {
        Ok(answer) => answer,
        Err(unusable) => {
            // Said once; what goes on is the feed's own count.
            if feed.failures == 0 {
                tracing::warn!(site = id.0, %unusable, "weather service");
            }
            let mut tx = db.write(id).await?;
            db::feeds::failed(&mut *tx, id, &unusable.to_string()).await?;
            tx.commit().await?;
            return Ok(Some(unusable));
        }
    };
    let mut tx = db.write(id).await?;
    if !observed.is_empty() {
        db::weather::upsert_days(&mut *tx, id, &observed, "service", None).await?;
    }
    db::weather::insert_forecast(&mut *tx, id, now, &forecast).await?;
    db::feeds::succeeded(&mut *tx, id, now).await?;
    db::sites::weather_changed(&mut *tx, id).await?;
    if replan {
        planning::replan(&mut tx, id).await?;
    }
    tx.commit().await?;
    Ok(None)
}
