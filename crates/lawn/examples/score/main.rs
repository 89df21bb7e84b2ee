//! The score of the site's week: how near plans come to a linear program with hindsight. `cargo xtask score`; docs/SCORE.md.

mod bound;
mod course;
mod figures;
mod sites;
mod skies;

use std::sync::Mutex;

use lawn::engine::replay::Foresight;

use crate::course::Course;
use crate::sites::Scored;

/// What to score, by arguments `site=NAME sky=NAME years=N seed=N zones`.
struct Asked {
    site: Option<String>,
    sky: Option<String>,
    years: i16,
    seed: u64,
    zones: bool,
}

impl Asked {
    fn of(arguments: impl Iterator<Item = String>) -> Result<Self, String> {
        let mut asked = Self {
            site: None,
            sky: None,
            years: 2,
            seed: 7,
            zones: false,
        };
        for argument in arguments {
            match argument.split_once('=') {
                Some(("site", name)) => asked.site = Some(name.to_owned()),
                Some(("sky", name)) => asked.sky = Some(name.to_owned()),
                Some(("years", n)) => {
                    asked.years = n.parse().map_err(|_| format!("{n}: years?"))?;
                }
                Some(("seed", n)) => {
                    asked.seed = n.parse().map_err(|_| format!("{n}: a seed?"))?;
                }
                None if argument == "zones" => asked.zones = true,
                _ => return Err(format!("what is {argument}?")),
            }
        }
        Ok(asked)
    }
}

fn main() -> Result<(), String> {
    let asked = Asked::of(std::env::args().skip(1))?;
    println!(
        "| site | weather | forecast | adequacy | bound − it | worst zone | bound − it | net / bound | minutes used (short nights) | waterings, of refills | drained mm/a | runoff mm/a |"
    );
    println!("|---|---|---|---|---|---|---|---|---|---|---|---|");
    let mut jobs: Vec<(Scored, Option<usize>)> = Vec::new();
    for sky in (0..skies::CLIMATES.len()).map(Some).chain([None]) {
        for site in sites::all()? {
            let name = sky.map_or("Seattle", |i| skies::CLIMATES[i].0);
            let wanted = |filter: &Option<String>, name: &str| {
                filter.as_ref().is_none_or(|f| name.contains(f.as_str()))
            };
            if wanted(&asked.site, site.name) && wanted(&asked.sky, name) {
                jobs.push((site, sky));
            }
        }
    }
    let jobs = Mutex::new(jobs);
    std::thread::scope(|scope| {
        let work = || -> Result<(), String> {
            loop {
                let Some((site, sky)) = jobs.lock().map_err(|e| e.to_string())?.pop() else {
                    return Ok(());
                };
                print!("{}", score(&asked, &site, sky)?);
            }
        };
        let workers: Vec<_> = (0..2).map(|_| scope.spawn(work)).collect();
        for worker in workers {
            worker
                .join()
                .map_err(|_| "a worker fell over".to_owned())??;
        }
        Ok(())
    })
}

fn score(asked: &Asked, site: &Scored, sky: Option<usize>) -> Result<String, String> {
    let document = &site.document;
    let sky = match sky {
        Some(i) => {
            let (name, climate) = skies::CLIMATES[i];
            skies::simulated(name, climate, asked.seed, asked.years, document)?
        }
        None => skies::open(document)?,
    };
    let course = Course::of(document, &sky)?;
    let bound = bound::bound(&course)?;
    let refills = figures::refills(document, &sky, &course)?;
    let mut text = String::new();
    let issued = sky
        .issued
        .as_ref()
        .map(|i| ("as issued", Foresight::Issued(i)));
    let foresights = [("none", Foresight::None)].into_iter().chain(issued);
    for (name, foresight) in foresights.chain([("perfect", Foresight::Perfect)]) {
        let f = figures::figures(document, &sky, &course, &bound, foresight)?;
        text += &format!(
            "| {} | {} | {name} | {:.3} | {:.3} | {:.3} | {:.3} | {:.3} | {} ({}) | {:.1}, {:.2}{} | {:.0} | {:.0} |\n",
            site.name,
            sky.name,
            f.adequacy,
            f.below,
            f.worst.0,
            f.worst.1,
            f.net,
            f.used.map_or("–".to_owned(), |u| format!("{u:.2}")),
            f.short_nights,
            f.waterings,
            f.waterings / refills,
            if site.few_nights { " few" } else { "" },
            f.drained_mm,
            f.runoff_mm,
        );
        if asked.zones {
            text += &figures::by_zone(document, &sky, &course, &bound, foresight)?;
        }
    }
    Ok(text)
}
