//! The irrigation controller over HTTP, one device a site: takes a whole programme, runs it on the clock of who asks, and reports. What it holds and its log are
//! kept in one file, so that it may be restarted. docs/formats/controller.md describes what it speaks.

use std::collections::{BTreeMap, BTreeSet};
use std::fs::File;
use std::io::Write;
use std::net::TcpListener;
use std::path::{Path as FilePath, PathBuf};
use std::pin::Pin;
use std::sync::{Arc, Mutex};
use std::task::{Context, Poll};

use actix_web::body::{BodySize, MessageBody};
use actix_web::dev::Server;
use actix_web::http::Method;
use actix_web::http::header::AUTHORIZATION;
use actix_web::web::{Bytes, Data, Json, JsonConfig, Path, Query, get, put, resource};
use actix_web::{App, HttpRequest, HttpResponse, HttpServer};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};

pub mod device;
pub mod flow_meter;

use flow_meter::{FlowMeter, Quirks, Sink};

use device::{Device, LITRES_PER_PULSE, NotTaken, Programme, Report};

/// Most lines of the log in one answer.
const PAGE: usize = 1000;
/// Largest programme, bytes.
const LARGEST: usize = 2 * 1024 * 1024;

/// How it behaves.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Mood {
    /// It answers.
    #[default]
    Fine,
    /// It cannot be reached: connections break off, and nothing is taken.
    Offline,
    /// It answers 503 to programmes and takes none.
    Refuse,
    /// It takes and drops programmes, and the answer is lost.
    LoseReply,
}

/// The controllers of all sites.
pub struct Controllers {
    devices: BTreeMap<i64, Device>,
    mood: Mood,
    token: String,
    file: Option<PathBuf>,
    equipped: Option<Equipped>,
}

/// A flow meter that every site has from its first question on, and what is wrong there.
#[derive(Debug, Clone)]
pub struct Equipped {
    /// Where it sends what it counts.
    pub sink: Sink,
    /// Litres of a pulse.
    pub pulse_l: f64,
    /// How it misbehaves.
    pub quirks: Quirks,
    /// Zones with a broken head.
    pub broken: BTreeSet<String>,
}

impl Equipped {
    /// Gives a device its meter, if it has none, and the address of the day.
    fn put_on(&self, device: &mut Device, now: Timestamp) {
        match &mut device.flow_meter {
            Some(meter) => meter.sink = self.sink.clone(),
            None => {
                let mut meter = FlowMeter::new(self.sink.clone(), self.pulse_l, now);
                meter.quirks = self.quirks;
                device.flow_meter = Some(meter);
                device.broken.clone_from(&self.broken);
            }
        }
    }
}

impl Controllers {
    /// With what a file holds, if there is one; none: nothing is kept.
    ///
    /// # Errors
    /// The file cannot be read.
    pub fn open(file: Option<PathBuf>, token: &str) -> std::io::Result<Self> {
        let devices = match &file {
            Some(path) if path.exists() => serde_json::from_reader(File::open(path)?)?,
            _ => BTreeMap::new(),
        };
        Ok(Self {
            devices,
            mood: Mood::Fine,
            token: token.to_owned(),
            file,
            equipped: None,
        })
    }

    /// The same with a flow meter on every site.
    #[must_use]
    pub fn equipped(mut self, equipped: Option<Equipped>) -> Self {
        self.equipped = equipped;
        self
    }

    fn save(&self) -> std::io::Result<()> {
        match &self.file {
            Some(path) => write_whole(path, &serde_json::to_vec(&self.devices)?),
            None => Ok(()),
        }
    }
}

/// Writes a file so that it is the old one or the new one, whatever happens meanwhile.
fn write_whole(path: &FilePath, bytes: &[u8]) -> std::io::Result<()> {
    let beside = path.with_extension("new");
    let mut file = File::create(&beside)?;
    file.write_all(bytes)?;
    file.sync_all()?;
    std::fs::rename(beside, path)
}

type Shared = Data<Mutex<Controllers>>;

#[derive(Deserialize)]
struct AsOf {
    as_of: Timestamp,
}

#[derive(Deserialize)]
struct After {
    #[serde(default)]
    after: u64,
}

#[derive(Serialize)]
struct Reports<'a> {
    holds: Option<i64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    log: Option<String>,
    litres_per_pulse: f64,
    reports: &'a [Report],
    more: bool,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Faults {
    #[serde(default)]
    stuck: BTreeSet<String>,
    #[serde(default)]
    broken: BTreeSet<String>,
    #[serde(default)]
    clogged: BTreeSet<String>,
    #[serde(default)]
    stays_open_min: BTreeMap<String, i64>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct NewFlowMeter {
    sink: Sink,
    pulse_l: f64,
}

/// Serves until the process is told to stop.
///
/// # Errors
/// The socket.
pub async fn run(listener: TcpListener, controllers: Controllers) -> std::io::Result<()> {
    server(listener, controllers)?.await
}

/// The controllers, to be awaited; the handle stops them.
///
/// # Errors
/// The socket.
pub fn server(listener: TcpListener, controllers: Controllers) -> std::io::Result<Server> {
    let shared: Shared = Data::from(Arc::new(Mutex::new(controllers)));
    let server = HttpServer::new(move || {
        App::new()
            .app_data(shared.clone())
            .app_data(JsonConfig::default().limit(LARGEST))
            .route("/healthz", get().to(|| async { "ok\n" }))
            .service(
                resource("/v1/sites/{site}/programmes/{publication}")
                    .put(put_programme)
                    .delete(drop_programme),
            )
            .route("/v1/sites/{site}/reports", get().to(reports))
            .route("/v1/sites/{site}/faults", put().to(set_faults))
            .route("/v1/sites/{site}/flow-meter", put().to(set_flow_meter))
            .route("/v1/sites/{site}/flow-meter/quirks", put().to(set_quirks))
            .route("/v1/mood/{mood}", put().to(set_mood))
    })
    .workers(1)
    .shutdown_timeout(1)
    .listen(listener)?
    .run();
    Ok(server)
}

/// Does something with a site's device as its mood lets it, and keeps what came of it before it answers.
fn with_device(
    request: &HttpRequest,
    controllers: &Shared,
    site: i64,
    act: impl FnOnce(&mut Device) -> HttpResponse,
) -> HttpResponse {
    let Ok(mut controllers) = controllers.lock() else {
        return HttpResponse::InternalServerError().finish();
    };
    if !may(request, &controllers.token) {
        return HttpResponse::Unauthorized().body("the token is not right");
    }
    // The rest only asks.
    let changes = matches!(*request.method(), Method::PUT | Method::DELETE)
        && request.path().contains("/programmes/");
    match controllers.mood {
        Mood::Offline => return broken_off(),
        Mood::Refuse if changes => return HttpResponse::ServiceUnavailable().body("not now"),
        Mood::Fine | Mood::LoseReply | Mood::Refuse => {}
    }
    let answer = act(controllers.devices.entry(site).or_default());
    if let Err(error) = controllers.save() {
        return HttpResponse::InternalServerError().body(format!("the file: {error}"));
    }
    if changes && controllers.mood == Mood::LoseReply {
        return broken_off();
    }
    answer
}

fn may(request: &HttpRequest, token: &str) -> bool {
    let said = request.headers().get(AUTHORIZATION);
    let said = said.and_then(|v| v.to_str().ok());
    said.and_then(|v| v.strip_prefix("Bearer ")) == Some(token)
}

async fn put_programme(
    request: HttpRequest,
    path: Path<(i64, i64)>,
    asked: Query<AsOf>,
    programme: Json<Programme>,
    controllers: Shared,
) -> HttpResponse {
    let (site, publication) = path.into_inner();
    with_device(&request, &controllers, site, |device| {
        match device.put(publication, programme.into_inner(), asked.as_of) {
            Ok(true) => HttpResponse::Created().json(serde_json::json!({ "holds": publication })),
            Ok(false) => HttpResponse::Ok().json(serde_json::json!({ "holds": publication })),
            Err(NotTaken::Over(held)) => {
                HttpResponse::Conflict().json(serde_json::json!({ "holds": held }))
            }
            Err(NotTaken::Unsound(why)) => HttpResponse::UnprocessableEntity().body(why),
        }
    })
}

async fn drop_programme(
    request: HttpRequest,
    path: Path<(i64, i64)>,
    asked: Query<AsOf>,
    controllers: Shared,
) -> HttpResponse {
    let (site, publication) = path.into_inner();
    with_device(&request, &controllers, site, |device| {
        device.drop_programme(publication, asked.as_of);
        HttpResponse::NoContent().finish()
    })
}

async fn reports(
    request: HttpRequest,
    site: Path<i64>,
    asked: Query<AsOf>,
    after: Query<After>,
    controllers: Shared,
) -> HttpResponse {
    let equipped = controllers.lock().ok().and_then(|c| c.equipped.clone());
    let answer = with_device(&request, &controllers, *site, |device| {
        if let Some(equipped) = &equipped {
            equipped.put_on(device, asked.as_of);
        }
        device.advance(asked.as_of);
        let log = device.log_after(after.after);
        let reports = &log[..log.len().min(PAGE)];
        HttpResponse::Ok().json(Reports {
            holds: device.holds,
            log: device.log_id().map(str::to_owned),
            litres_per_pulse: LITRES_PER_PULSE,
            reports,
            more: reports.len() < log.len(),
        })
    });
    send_minutes(*site, &controllers).await;
    answer
}

/// Sends what a site's flow meter has counted, batch by batch; what is not acknowledged waits for the next time.
async fn send_minutes(site: i64, controllers: &Shared) {
    let due = controllers.lock().ok().and_then(|controllers| {
        let meter = controllers.devices.get(&site)?.flow_meter.as_ref()?;
        Some((meter.sink.clone(), meter.sends()))
    });
    let Some((sink, batches)) = due else { return };
    let client = awc::Client::default();
    for batch in batches {
        let sent = client.post(&sink.url).bearer_auth(&sink.token);
        let taken = sent.send_json(&batch).await;
        let taken = taken.is_ok_and(|answer| answer.status().is_success());
        if !taken {
            return;
        }
        if let Ok(mut controllers) = controllers.lock() {
            let device = controllers.devices.get_mut(&site);
            if let Some(meter) = device.and_then(|d| d.flow_meter.as_mut()) {
                meter.acknowledged(&batch);
            }
            // Lost with the process it is sent again: it is kept once.
            let _ = controllers.save();
        }
    }
}

async fn set_flow_meter(
    request: HttpRequest,
    site: Path<i64>,
    asked: Query<AsOf>,
    new: Json<NewFlowMeter>,
    controllers: Shared,
) -> HttpResponse {
    with_device(&request, &controllers, *site, |device| {
        let NewFlowMeter { sink, pulse_l } = new.into_inner();
        if pulse_l.is_nan() || pulse_l <= 0.0 {
            return HttpResponse::UnprocessableEntity().body("a pulse is more than no water");
        }
        device.flow_meter = Some(FlowMeter::new(sink, pulse_l, asked.as_of));
        HttpResponse::NoContent().finish()
    })
}

async fn set_quirks(
    request: HttpRequest,
    site: Path<i64>,
    quirks: Json<Quirks>,
    controllers: Shared,
) -> HttpResponse {
    with_device(&request, &controllers, *site, |device| {
        let Some(meter) = &mut device.flow_meter else {
            return HttpResponse::NotFound().body("no flow meter");
        };
        meter.quirks = quirks.into_inner();
        HttpResponse::NoContent().finish()
    })
}

async fn set_faults(
    request: HttpRequest,
    site: Path<i64>,
    faults: Json<Faults>,
    controllers: Shared,
) -> HttpResponse {
    with_device(&request, &controllers, *site, |device| {
        let faults = faults.into_inner();
        device.stuck = faults.stuck;
        device.broken = faults.broken;
        device.clogged = faults.clogged;
        device.stays_open_min = faults.stays_open_min;
        HttpResponse::NoContent().finish()
    })
}

async fn set_mood(request: HttpRequest, mood: Path<Mood>, controllers: Shared) -> HttpResponse {
    let Ok(mut controllers) = controllers.lock() else {
        return HttpResponse::InternalServerError().finish();
    };
    if !may(&request, &controllers.token) {
        return HttpResponse::Unauthorized().body("the token is not right");
    }
    controllers.mood = mood.into_inner();
    HttpResponse::NoContent().finish()
}

/// A connection that breaks off in the middle of an answer.
fn broken_off() -> HttpResponse {
    HttpResponse::Ok().body(BrokenOff)
}

struct BrokenOff;

impl MessageBody for BrokenOff {
    type Error = std::io::Error;

    fn size(&self) -> BodySize {
        BodySize::Sized(1)
    }

    fn poll_next(
        self: Pin<&mut Self>,
        _: &mut Context<'_>,
    ) -> Poll<Option<Result<Bytes, Self::Error>>> {
        Poll::Ready(Some(Err(std::io::Error::other("broken off"))))
    }
}
