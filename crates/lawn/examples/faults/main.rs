//! How surely and how soon faults are found by a flow meter, and how often something is named where nothing is wrong: seeded made-up seasons.
//! `cargo run --release -p lawn --example faults`; reported in docs/PERFORMANCE.md.

mod season;

use lawn::record::flow_watch::{Named, Watch};
use season::{DAYS, Draws, Fault, Season};

/// Seasons of each kind.
const SEASONS: u64 = 200;
/// First and last day on which a fault begins: what is normal has been seen by then.
const BEGINS: (u32, u32) = (40, 120);

/// What became of a fault.
struct Outcome {
    /// Days, and runs of the zone, until it was named; `None`: it was not.
    found: Option<(u32, u32)>,
    /// Days before it on which anything was named.
    false_alarms: u32,
    /// How strong it was.
    strength: f64,
}

/// Lives a season with a fault; `right`: whether a name is the fault's.
fn live(
    mut season: Season,
    seed: u64,
    fault: impl Fn(&mut Draws, &Season) -> (Fault, f64, Option<usize>),
    right: impl Fn(&Named) -> bool,
) -> Outcome {
    let mut draws = Draws::new(seed ^ 0xF00D);
    let (fault, strength, zone) = fault(&mut draws, &season);
    let begins = if fault == Fault::Nothing {
        DAYS
    } else {
        draws.whole(BEGINS.0, BEGINS.1)
    };
    let mut watch = Watch::new(season.zones());
    let (mut false_alarms, mut runs, mut found) = (0, 0, None);
    for number in 0..DAYS {
        let now = if number >= begins {
            fault
        } else {
            Fault::Nothing
        };
        let day = season.day(number, now);
        let (_, named) = watch.day(&day.minutes(season.pulse), &day.passes);
        if number < begins {
            // A rate that is not what the site says is no false alarm, and is told once.
            let alarms = named
                .iter()
                .filter(|f| !matches!(f.named, Named::WrongRate { .. }));
            false_alarms += u32::from(alarms.count() > 0);
            continue;
        }
        let of_zone = day.passes.iter().filter(|p| Some(p.zone) == zone).count();
        if found.is_none() {
            runs += u32::try_from(of_zone).unwrap_or(0);
            if named.iter().any(|f| right(&f.named)) {
                found = Some((number - begins + 1, runs));
            }
        }
    }
    Outcome {
        found,
        false_alarms,
        strength,
    }
}

#[allow(clippy::cast_precision_loss)] // some hundred seasons
fn tell(what: &str, outcomes: &[Outcome], soon: impl Fn(&(u32, u32)) -> bool, within: &str) {
    let all = outcomes.len().max(1) as f64;
    let mut days: Vec<u32> = outcomes
        .iter()
        .filter_map(|o| o.found.map(|f| f.0))
        .collect();
    days.sort_unstable();
    let soon = outcomes
        .iter()
        .filter_map(|o| o.found)
        .filter(|f| soon(f))
        .count();
    let alarms: u32 = outcomes.iter().map(|o| o.false_alarms).sum();
    let middle = days.get(days.len() / 2).copied().unwrap_or(0);
    println!(
        "| {what} | {} | {:.1} % | {:.1} % {within} | {middle} | {} | {:.2} |",
        outcomes.len(),
        100.0 * days.len() as f64 / all,
        100.0 * soon as f64 / all,
        days.last().copied().unwrap_or(0),
        f64::from(alarms) / all,
    );
}

fn main() {
    println!(
        "| what goes wrong | seasons | found | soon | middle, days | longest, days | named wrongly a season |"
    );
    println!("|---|---|---|---|---|---|---|");
    let leaks: Vec<Outcome> = (0..SEASONS)
        .map(|seed| {
            let fault = |draws: &mut Draws, season: &Season| {
                let share = draws.between(0.05, 0.3);
                (Fault::Leak(share * season.day_l() / 24.0), share, None)
            };
            live(Season::new(seed), seed, fault, |n| {
                matches!(n, Named::Leak { .. })
            })
        })
        .collect();
    tell(
        "a leak of 5 to 30 % of a day's use",
        &leaks,
        |(days, _)| *days <= 2,
        "within 2 days",
    );
    let small: Vec<Outcome> = leaks.into_iter().filter(|o| o.strength < 0.1).collect();
    tell(
        "of these the leaks below 10 %",
        &small,
        |(days, _)| *days <= 2,
        "within 2 days",
    );
    let of_zone = |times: (f64, f64), up: bool| {
        (0..SEASONS)
            .map(|seed| {
                let zone = usize::try_from(Draws::new(seed ^ 0xBEEF).whole(0, 1)).unwrap_or(0);
                let fault = move |draws: &mut Draws, _: &Season| {
                    let times = draws.between(times.0, times.1);
                    (Fault::Flow(zone, times), times, Some(zone))
                };
                live(Season::new(seed), seed, fault, move |n| match n {
                    Named::MoreThanNormal { zone: z, .. } => up && *z == zone,
                    Named::LessThanNormal { zone: z, .. } => !up && *z == zone,
                    _ => false,
                })
            })
            .collect::<Vec<Outcome>>()
    };
    let in_three = |(_, runs): &(u32, u32)| *runs <= 3;
    tell(
        "a broken head: 15 to 60 % more",
        &of_zone((1.15, 1.6), true),
        in_three,
        "within 3 runs",
    );
    tell(
        "clogged heads: 10 to 40 % less",
        &of_zone((0.6, 0.9), false),
        in_three,
        "within 3 runs",
    );
    let shut: Vec<Outcome> = (0..SEASONS)
        .map(|seed| {
            live(
                Season::new(seed),
                seed,
                |_, _| (Fault::Shut(1), 1.0, Some(1)),
                |n| matches!(n, Named::DidNotRun { zone: 1 }),
            )
        })
        .collect();
    tell(
        "a valve that does not open",
        &shut,
        |(_, runs)| *runs <= 3,
        "within 3 runs",
    );
    let stays: Vec<Outcome> = (0..SEASONS)
        .map(|seed| {
            live(
                Season::new(seed),
                seed,
                |draws, _| (Fault::StaysOpen(1, draws.whole(8, 60)), 1.0, Some(1)),
                |n| matches!(n, Named::StaysOpen { zone: 1, .. }),
            )
        })
        .collect();
    tell(
        "a valve that closes 8 to 60 minutes late",
        &stays,
        |(_, runs)| *runs <= 3,
        "within 3 runs",
    );
    let sound: Vec<Outcome> = (1000..1000 + SEASONS)
        .map(|seed| {
            live(
                Season::new(seed),
                seed,
                |_, _| (Fault::Nothing, 0.0, None),
                |_| false,
            )
        })
        .collect();
    tell("nothing", &sound, |_| false, "");
    let rough: Vec<Outcome> = (1000..1000 + SEASONS)
        .map(|seed| {
            live(
                Season::rough(seed),
                seed,
                |_, _| (Fault::Nothing, 0.0, None),
                |_| false,
            )
        })
        .collect();
    tell(
        "nothing, where pressure wanders three times as much",
        &rough,
        |_| false,
        "",
    );
}
