//! Photos over the API: drawn anew without what else the file says, refused at their field where they are too large, and never in more memory than is said.

use std::io::{Cursor, Write};
use std::process::Stdio;

use flate2::Crc;
use flate2::write::ZlibEncoder;
use image::{ImageFormat, Rgb, RgbImage};
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use tokio::task::JoinSet;

use crate::harness::{Api, App, Process, expect};

/// A small picture in a format.
pub fn picture(format: ImageFormat) -> Vec<u8> {
    let picture = RgbImage::from_fn(40, 30, |x, y| {
        Rgb([
            u8::try_from(x * 6).unwrap(),
            u8::try_from(y * 8).unwrap(),
            90,
        ])
    });
    let mut bytes = Cursor::new(Vec::new());
    picture.write_to(&mut bytes, format).unwrap();
    bytes.into_inner()
}

/// A JPEG that says where it was taken and that it lies on its side (EXIF: orientation 6, and a text among the places).
fn with_place() -> Vec<u8> {
    let jpeg = picture(ImageFormat::Jpeg);
    let mut exif =
        b"Exif\0\0II*\0\x08\0\0\0\x01\0\x12\x01\x03\0\x01\0\0\0\x06\0\0\0\0\0\0\0".to_vec();
    exif.extend_from_slice(b"GPS 36.4 N 80.5 W");
    let mut bytes = jpeg[..2].to_vec();
    bytes.extend_from_slice(&[0xff, 0xe1]);
    bytes.extend_from_slice(&u16::try_from(exif.len() + 2).unwrap().to_be_bytes());
    bytes.extend_from_slice(&exif);
    bytes.extend_from_slice(&jpeg[2..]);
    bytes
}

/// Something that was seen, to which a photo can be put: the photo's path.
async fn place_for_a_photo(api: &Api, site: &str) -> String {
    let body = json!({ "seen": { "seen": "footprints" }, "idempotency_key": "wilt-00001" });
    let seen = format!("{site}/zones/1/seen");
    let noted = api.send(Method::POST, &seen, body).await;
    let noted = match noted.status() {
        // Noted before.
        StatusCode::OK => noted.json().await.unwrap(),
        _ => expect(noted, StatusCode::CREATED).await,
    };
    format!("{site}/seen/{}/photo", noted["id"])
}

/// A single-coloured JPEG of a size and a number of components that lies on its side, as its coding has it: one scan of blocks of which each is a bit for no change and a
/// bit for no detail (ITU-T T.81, annex B).
fn plain_jpeg(frame: u8, (width, height): (u16, u16), components: u8) -> Vec<u8> {
    const BASELINE: u8 = 0xc0;
    let mut bytes = vec![0xff, 0xd8];
    let mut segment = |marker: u8, content: &[u8]| {
        let length = u16::try_from(content.len() + 2).unwrap();
        bytes.extend([0xff, marker]);
        bytes.extend(length.to_be_bytes());
        bytes.extend(content);
    };
    segment(
        0xe1,
        b"Exif\0\0II*\0\x08\0\0\0\x01\0\x12\x01\x03\0\x01\0\0\0\x06\0\0\0\0\0\0\0",
    );
    let mut quantization = vec![0];
    quantization.extend([1; 64]);
    segment(0xdb, &quantization);
    let mut sizes = vec![8];
    sizes.extend(height.to_be_bytes());
    sizes.extend(width.to_be_bytes());
    sizes.push(components);
    for component in 1..=components {
        sizes.extend([component, 0x11, 0]);
    }
    segment(frame, &sizes);
    for table in [0x00, 0x10] {
        let mut codes = vec![table, 1];
        codes.extend([0; 15]);
        codes.push(0);
        segment(0xc4, &codes);
    }
    let mut scan = vec![components];
    for component in 1..=components {
        scan.extend([component, 0]);
    }
    // A progressive picture's first scan holds the blocks' means alone.
    let (last, bits) = if frame == BASELINE { (63, 2) } else { (0, 1) };
    scan.extend([0, last, 0]);
    segment(0xda, &scan);
    let blocks = usize::from(width.div_ceil(8)) * usize::from(height.div_ceil(8));
    let length = (blocks * bits * usize::from(components)).div_ceil(8);
    bytes.resize(bytes.len() + length, 0);
    bytes.extend([0xff, 0xd9]);
    bytes
}

/// A JPEG with as much of what nobody reads in front of it as a file may have.
fn filled_up(jpeg: &[u8]) -> Vec<u8> {
    let mut bytes = jpeg[..2].to_vec();
    while bytes.len() + jpeg.len() + usize::from(u16::MAX) < 8 * 1024 * 1024 {
        bytes.extend([0xff, 0xef, 0xff, 0xff]);
        bytes.resize(bytes.len() + usize::from(u16::MAX) - 2, 0);
    }
    bytes.extend_from_slice(&jpeg[2..]);
    bytes
}

/// So many zeros, packed.
fn packed_zeros(megabytes: usize) -> Vec<u8> {
    let mut packer = ZlibEncoder::new(Vec::new(), flate2::Compression::best());
    for _ in 0..megabytes {
        packer.write_all(&vec![0; 1_000_000]).unwrap();
    }
    packer.finish().unwrap()
}

/// A black PNG with 16 bits for each of red, green, blue and opacity, or as much of one as its zeros reach; `more` stands before its pixels.
fn plain_png(
    (width, height): (u32, u32),
    more: &[(&[u8; 4], Vec<u8>)],
    megabytes: usize,
) -> Vec<u8> {
    let mut bytes = b"\x89PNG\r\n\x1a\n".to_vec();
    let mut chunk = |kind: &[u8; 4], content: &[u8]| {
        bytes.extend(u32::try_from(content.len()).unwrap().to_be_bytes());
        let mut crc = Crc::new();
        crc.update(kind);
        crc.update(content);
        bytes.extend(kind);
        bytes.extend(content);
        bytes.extend(crc.sum().to_be_bytes());
    };
    let mut head = width.to_be_bytes().to_vec();
    head.extend(height.to_be_bytes());
    head.extend([16, 6, 0, 0, 0]);
    chunk(b"IHDR", &head);
    for (kind, content) in more {
        chunk(kind, content);
    }
    chunk(b"IDAT", &packed_zeros(megabytes));
    chunk(b"IEND", &[]);
    bytes
}

#[tokio::test]
async fn a_photo_is_drawn_anew_without_the_place_where_it_was_taken() {
    let (app, api, site) = App::with_dry_zone().await;
    let path = place_for_a_photo(&api, &site).await;
    expect(
        api.request(Method::GET, &path).send().await.unwrap(),
        StatusCode::NOT_FOUND,
    )
    .await;
    let put = async |bytes: Vec<u8>| {
        api.request(Method::PUT, &path)
            .body(bytes)
            .send()
            .await
            .unwrap()
            .status()
    };
    for format in [ImageFormat::Png, ImageFormat::WebP, ImageFormat::Jpeg] {
        assert_eq!(
            put(picture(format)).await,
            StatusCode::NO_CONTENT,
            "{format:?}"
        );
    }
    let sent = with_place();
    assert!(sent.windows(3).any(|w| w == b"GPS"));
    assert_eq!(put(sent).await, StatusCode::NO_CONTENT);
    let got = api.request(Method::GET, &path).send().await.unwrap();
    assert_eq!(got.headers()["content-type"], "image/jpeg");
    let bytes = got.bytes().await.unwrap();
    assert!(!bytes.windows(4).any(|w| w == b"Exif") && !bytes.windows(3).any(|w| w == b"GPS"));
    // Turned upright: what lay on its side stands.
    let upright = image::load_from_memory(&bytes).unwrap();
    assert_eq!((upright.width(), upright.height()), (30, 40));
    // Not pictures, and too large ones; what was kept stays.
    for bad in [
        b"GIF89a".to_vec(),
        Vec::new(),
        picture(ImageFormat::Png)[..60].to_vec(),
    ] {
        assert_eq!(put(bad).await, StatusCode::UNPROCESSABLE_ENTITY);
    }
    assert_eq!(
        put(vec![0; 8 * 1024 * 1024 + 1]).await,
        StatusCode::PAYLOAD_TOO_LARGE
    );
    let kept: i64 = sqlx::query_scalar("SELECT count(*) FROM seen_photo")
        .fetch_one(&app.pool)
        .await
        .unwrap();
    assert_eq!(kept, 1);
    assert_eq!(api.json(&format!("{site}/seen")).await[0]["photo"], true);
}

/// What is answered to a photo.
async fn put(api: &Api, path: &str, bytes: Vec<u8>) -> (StatusCode, Value) {
    let answer = api.request(Method::PUT, path).body(bytes);
    let answer = answer.send().await.unwrap();
    let status = answer.status();
    let text = answer.text().await.unwrap();
    (status, serde_json::from_str(&text).unwrap_or_default())
}

const BASELINE: u8 = 0xc0;
const PROGRESSIVE: u8 = 0xc2;

#[tokio::test]
async fn pictures_of_too_many_pixels_are_refused_at_their_field_and_a_cameras_is_taken() {
    let (_app, api, site) = App::with_dry_zone().await;
    let path = place_for_a_photo(&api, &site).await;
    let mut moving = b"RIFF\0\0\0\0WEBPANIM".to_vec();
    moving.extend([0; 20]);
    let mut lossless = b"RIFF\0\0\0\0WEBPVP8L".to_vec();
    lossless.resize(300_000, 0);
    for (bytes, words) in [
        (plain_jpeg(BASELINE, (9200, 9200), 3), "50 million pixels"),
        (
            plain_jpeg(PROGRESSIVE, (4000, 3001), 3),
            "12 million pixels",
        ),
        (plain_png((12_000, 12_000), &[], 1), "12 million pixels"),
        (lossless, "256 kB"),
        (moving, "moves"),
    ] {
        let (status, problem) = put(&api, &path, bytes).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{words}");
        assert_eq!(problem["field"], "photo");
        let said = problem["detail"].as_str().unwrap();
        assert!(said.contains(words), "{said}");
    }
    let camera = plain_jpeg(BASELINE, (8000, 6000), 3);
    let (status, problem) = put(&api, &path, camera).await;
    assert_eq!(status, StatusCode::NO_CONTENT, "{problem}");
    let kept = api.get(&path).await.bytes().await.unwrap();
    let kept = image::load_from_memory(&kept).unwrap();
    assert_eq!((kept.width(), kept.height()), (1200, 1600), "upright");
    // A colour profile that inflates is let lie.
    let mut profile = b"x\0\0".to_vec();
    profile.extend(packed_zeros(300));
    let inflating = plain_png((100, 100), &[(b"iCCP", profile)], 1);
    assert_eq!(put(&api, &path, inflating).await.0, StatusCode::NO_CONTENT);
}

/// A figure of a process's memory, MB.
fn memory_mb(process: &Process, figure: &str) -> u64 {
    let status = format!("/proc/{}/status", process.child.id());
    let status = std::fs::read_to_string(status).unwrap();
    let line = status.lines().find_map(|line| line.strip_prefix(figure));
    let kb = line.unwrap().trim().trim_end_matches(" kB");
    kb.parse::<u64>().unwrap() / 1024
}

#[tokio::test]
async fn photos_of_many_accounts_together_stay_within_their_memory() {
    let (app, _, site) = App::with_dry_zone().await;
    let mut crew = Vec::new();
    for n in 0..8 {
        let email = format!("crew{n}@meadow.example");
        app.member(&email, &site, "crew").await;
        crew.push(email);
    }
    let server = Process::start(&app, Stdio::null(), &[]);
    server.answers().await;
    let mut apis = Vec::new();
    for email in &crew {
        apis.push(server.app.sign_in(email).await);
    }
    let path = place_for_a_photo(&apis[0], &site).await;
    let small = put(&apis[0], &path, picture(ImageFormat::Jpeg)).await;
    assert_eq!(small.0, StatusCode::NO_CONTENT);
    // What it has needed most is counted from here on.
    let peak = format!("/proc/{}/clear_refs", server.child.id());
    std::fs::write(peak, "5").unwrap();
    let idle = memory_mb(&server, "VmRSS:");
    let worst = [
        filled_up(&plain_jpeg(BASELINE, (7071, 7071), 3)),
        filled_up(&plain_jpeg(BASELINE, (7071, 7071), 4)),
        plain_jpeg(PROGRESSIVE, (4000, 3000), 4),
        plain_jpeg(BASELINE, (9200, 9200), 3),
        plain_png((4000, 3000), &[], 97),
        plain_png((12_000, 12_000), &[], 1),
    ];
    let mut putting = JoinSet::new();
    for api in apis {
        for bytes in worst.clone() {
            let request = api.request(Method::PUT, &path).body(bytes);
            putting.spawn(async move { request.send().await.unwrap().status() });
        }
    }
    let answers = putting.join_all().await;
    let count = |status| answers.iter().filter(|s| **s == status).count();
    let (kept, refused) = (
        count(StatusCode::NO_CONTENT),
        count(StatusCode::UNPROCESSABLE_ENTITY),
    );
    let later = count(StatusCode::SERVICE_UNAVAILABLE) + count(StatusCode::TOO_MANY_REQUESTS);
    assert_eq!(kept + refused + later, answers.len(), "{answers:?}");
    assert!(kept >= 4, "{kept} of {answers:?}");
    let taken = memory_mb(&server, "VmHWM:") - idle;
    println!(
        "{kept} photos kept, {refused} refused, {later} told to come later: {taken} MB above {idle} MB"
    );
    assert!(taken < 256, "{taken} MB above {idle} MB");
}
