//! The Week's request against the bare queries it needs, in one run, taken in turns: prints medians and their ratio.
//! `cargo bench -p fresh-meadow`.

use std::time::{Duration, Instant};

use fresh_meadow::{db, demo};
use sha2::{Digest, Sha256};

mod served;

use served::{Failure, demo_on, on_a_database, serve};

const ROUNDS: usize = 400;

fn main() -> Result<(), Failure> {
    on_a_database(measure)
}

async fn measure(database_url: String) -> Result<(), Failure> {
    let pool = demo_on(&database_url).await?;
    let origin = serve(&database_url)?;
    let client = fresh_meadow::tls::asking(None)?
        .cookie_store(true)
        .build()?;
    let signed_in = client
        .post(format!("{origin}/api/v1/session"))
        .header("origin", &origin)
        .json(&serde_json::json!({ "email": demo::EMAIL, "password": demo::PASSWORD }))
        .send()
        .await?;
    let cookie = signed_in.headers()["set-cookie"].to_str()?.to_owned();
    let id = cookie.split([';', '=']).nth(1).unwrap_or_default();
    let hash = Sha256::digest(id).to_vec();
    let week = format!("{origin}/api/v1/sites/1/plan");
    let site = db::SiteId(1);

    let (mut requests, mut queries) = (Vec::new(), Vec::new());
    let mut bytes = 0;
    for round in 0..ROUNDS + 50 {
        let begun = Instant::now();
        bytes = client.get(&week).send().await?.bytes().await?.len();
        let request = begun.elapsed();
        let begun = Instant::now();
        db::accounts::session_role(&pool, &hash, site).await?;
        db::plans::newest(&pool, site).await?;
        let bare = begun.elapsed();
        // The first rounds warm connections and caches.
        if round >= 50 {
            requests.push(request);
            queries.push(bare);
        }
    }
    let (request, bare) = (median(requests), median(queries));
    println!("Week request, eight zones, {bytes} bytes: median {request:?}");
    println!("the bare queries it needs:               median {bare:?}");
    println!("ratio: {:.2}", request.as_secs_f64() / bare.as_secs_f64());
    Ok(())
}

fn median(mut times: Vec<Duration>) -> Duration {
    times.sort_unstable();
    times[times.len() / 2]
}
