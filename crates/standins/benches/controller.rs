//! The controller takes a week's programme of forty zones over HTTP, with its file written: a newer one each time.

use std::net::TcpListener;

use actix_web::rt::System;
use criterion::{Criterion, criterion_group, criterion_main};
use jiff::{Timestamp, ToSpan};
use standins::controller::device::{Pass, Programme, Valve};
use standins::controller::{Controllers, server};
use std::io::{Read, Write};
use std::net::{SocketAddr, TcpStream};

/// Forty zones, three passes each on three nights.
fn programme() -> Programme {
    let from = Timestamp::UNIX_EPOCH;
    let at = |minute: i64| from.checked_add(minute.minutes()).unwrap_or(Timestamp::MAX);
    let passes = (0..40).flat_map(|zone| (0..9).map(move |pass| (zone, pass)));
    Programme {
        from,
        valves: (0..40)
            .map(|zone| Valve {
                zone: zone.to_string(),
                name: format!("Lawn {zone}"),
                flow_l_min: 50.0,
            })
            .collect(),
        passes: passes
            .map(|(zone, pass)| Pass {
                id: format!("{zone}-{pass}"),
                zone: zone.to_string(),
                starts: at(1000 + 480 * pass + 10 * zone),
                seconds: 420,
            })
            .collect(),
    }
}

fn put(address: SocketAddr, publication: u64, body: &str) -> std::io::Result<String> {
    let mut stream = TcpStream::connect(address)?;
    write!(
        stream,
        "PUT /v1/sites/1/programmes/{publication}?as_of=1970-01-01T00:00:00Z HTTP/1.1\r\nHost: here\r\nAuthorization: Bearer bench\r\n\
         Content-Type: application/json\r\nContent-Length: {}\r\nConnection: close\r\n\r\n{body}",
        body.len()
    )?;
    let mut answer = String::new();
    stream.read_to_string(&mut answer)?;
    Ok(answer)
}

fn benches(c: &mut Criterion) {
    let file = std::env::temp_dir().join(format!("fresh-meadow-bench-{}.json", std::process::id()));
    let Ok(listener) = TcpListener::bind("127.0.0.1:0") else {
        panic!("a port is free")
    };
    let Ok(address) = listener.local_addr() else {
        panic!("it has an address")
    };
    let kept = file.clone();
    std::thread::spawn(move || {
        System::new().block_on(async {
            let controllers = Controllers::open(Some(kept), "bench")?;
            server(listener, controllers)?.await
        })
    });
    let Ok(body) = serde_json::to_string(&programme()) else {
        panic!("a programme is JSON")
    };
    let mut publication = 0;
    c.bench_function("controller_takes_forty_zones", |b| {
        b.iter(|| {
            publication += 1;
            let answer = put(address, publication, &body);
            assert!(answer.is_ok_and(|a| a.starts_with("HTTP/1.1 201")));
        });
    });
    // Of this run alone.
    let _ = std::fs::remove_file(file);
}

criterion_group!(all, benches);
criterion_main!(all);
