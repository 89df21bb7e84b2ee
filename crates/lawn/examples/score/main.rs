//! The score of the site's week: how near plans come to a linear program with hindsight. `cargo xtask score`; docs/SCORE.md.

mod bound;
mod course;
mod figures;
mod linear;
mod sites;
mod six;
mod skies;

use std::sync::Mutex;

use lawn::engine::replay::Foresight;

use lawn::site::School;

use crate::bound::Bound;
use crate::course::Course;
use crate::sites::Scored;
use crate::skies::Sky;

/// Which table.
#[derive(Clone, Copy, PartialEq)]
enum Table {
    /// The water balance beside its bound.
    Balance,
    /// The schools that go by the calendar, beside the same bound.
    Schools,
    /// Six zones in the manner of the WaterSense test.
    Six,
}

/// What to score, by arguments `site=NAME sky=NAME years=N seed=N zones`, and `schools` or `six` for another table.
struct Asked {
    table: Table,
    site: Option<String>,
    sky: Option<String>,
    years: i16,
    seed: u64,
    zones: bool,
}

impl Asked {
    fn of(arguments: impl Iterator<Item = String>) -> Result<Self, String> {
        let mut asked = Self {
            table: Table::Balance,
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
                None if argument == "schools" => asked.table = Table::Schools,
                None if argument == "six" => asked.table = Table::Six,
                _ => return Err(format!("what is {argument}?")),
            }
        }
        Ok(asked)
    }
}

fn main() -> Result<(), String> {
    let asked = Asked::of(std::env::args().skip(1))?;
    let heading = match asked.table {
        Table::Balance => {
            "| site | weather | forecast | adequacy | bound − it | worst zone | bound − it | net / bound | minutes used (short nights) | waterings, of refills | drained mm/a | runoff mm/a |"
        }
        Table::Schools => {
            "| site | weather | school | adequacy | bound − it | worst zone | net / bound | waterings | drained mm/a | runoff mm/a |"
        }
        Table::Six => {
            "| zone | weather | forecast | stretches | adequacy % | strict adequacy % | excess % | runoff % | strict excess % | gross / net |"
        }
    };
    println!("{heading}");
    println!("{}", "|---".repeat(heading.matches('|').count() - 1) + "|");
    if asked.table == Table::Six {
        return six(&asked);
    }
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
    if asked.table == Table::Schools {
        return schools(site, &sky, &course, &bound);
    }
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

/// Every school, each morning without a forecast.
fn schools(site: &Scored, sky: &Sky, course: &Course, bound: &Bound) -> Result<String, String> {
    let mut text = String::new();
    for school in School::usual() {
        let document = site.document.clone().with_school(school);
        let f = figures::figures(&document, sky, course, bound, Foresight::None)?;
        text += &format!(
            "| {} | {} | {} | {:.3} | {:.3} | {:.3} | {:.3} | {:.1} | {:.0} | {:.0} |\n",
            site.name,
            sky.name,
            school.name().replace('_', " "),
            f.adequacy,
            f.below,
            f.worst.0,
            f.net,
            f.waterings,
            f.drained_mm,
            f.runoff_mm,
        );
    }
    Ok(text)
}

/// Six zones in the manner of the WaterSense test.
fn six(asked: &Asked) -> Result<(), String> {
    let document = six::six();
    for (name, climate) in skies::CLIMATES {
        if asked
            .sky
            .as_ref()
            .is_some_and(|sky| !name.contains(sky.as_str()))
        {
            continue;
        }
        let sky = skies::simulated(name, climate, asked.seed, asked.years, &document)?;
        let issued = sky.issued.as_ref().map(Foresight::Issued);
        for (name, foresight) in [
            ("none", Some(Foresight::None)),
            ("as issued", issued),
            ("perfect", Some(Foresight::Perfect)),
        ] {
            if let Some(foresight) = foresight {
                print!("{}", six::rows(&sky, name, foresight)?);
            }
        }
    }
    Ok(())
}
