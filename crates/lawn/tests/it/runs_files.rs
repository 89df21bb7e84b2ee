//! Files of runs, and what they add to a record.

use jiff::civil::date;
use jiff::tz::TimeZone;
use jiff::{SignedDuration, Timestamp};
use lawn::quantity::Area;
use lawn::record::runs_file::{Filed, read, write};
use lawn::record::runs_import::{Becomes, Coming, import};
use lawn::record::said::Said;
use lawn::record::watered::{Passes, Watered};
use lawn::site::SiteDocument;
use proptest::prelude::*;

fn at(text: &str) -> Timestamp {
    text.parse().unwrap()
}

fn now() -> Timestamp {
    at("2026-11-20T12:00:00Z")
}

fn clock() -> TimeZone {
    TimeZone::get("America/New_York").unwrap()
}

fn document() -> SiteDocument {
    lawn::site::document::read(
        r#"{"format": "fresh-meadow-site", "version": 2, "site": {"name": "S", "time_zone": "America/New_York", "latitude": 36,
        "longitude": -80, "elevation_m": 300}, "zones": [
        {"id": "1", "name": "=Front", "grass": "tall_fescue", "soil": "loam", "slope_pct": 1, "area_m2": 400, "sprinkler": "fixed_spray"},
        {"id": "2", "name": "Back, by the road", "grass": "tall_fescue", "soil": "loam", "slope_pct": 1, "area_m2": 300, "sprinkler": "fixed_spray",
         "active_from": "2026-05-01"}]}"#,
    )
    .unwrap()
}

fn filed(started: &str, said: Said, passes: u32, run_s: i64) -> Filed {
    let started = at(started);
    Filed {
        date: started.to_zoned(clock()).date(),
        started_at: Some(started),
        zone: "1".to_owned(),
        name: "=Front".to_owned(),
        passes,
        run_s,
        watered: Watered::all(),
        said,
        who: Some("Hazel Fern".to_owned()),
        planned: None,
    }
}

fn numbered(runs: &[Filed]) -> Vec<(u64, Filed)> {
    (2..).zip(runs.iter().cloned()).collect()
}

fn outcome(known: &[Filed], runs: &[Filed], sure: bool) -> Result<Vec<Becomes>, Vec<String>> {
    let document = document();
    let coming = Coming {
        document: &document,
        known,
        filed: &numbered(runs),
        now: now(),
        sure,
    };
    let faults = |faults: Vec<_>| faults.iter().map(ToString::to_string).collect();
    import(&coming).map_err(faults)
}

fn any_watered() -> impl Strategy<Value = Watered> {
    prop_oneof![
        (0.01..1.0_f64).prop_map(|share| Watered::Own { share }),
        (1.0..60.0_f64, 1.0..300.0_f64).prop_map(|(flow_l_min, reached)| Watered::Hose {
            flow_l_min,
            reached_m2: Area::from_m2(reached)
        }),
        Just(Watered::Unmeasured),
    ]
}

proptest! {
    /// Around the night of 1 November 2026, on which the clock is set back: an hour comes twice.
    #[test]
    fn runs_that_are_written_are_read_again_and_known_again(
        figures in prop::collection::btree_map(
            (0..2_usize, 0..400_000_i64),
            (0..7_usize, 1..5_u32, 0..1000_i64, any_watered(), prop::option::of((1..5_u32, 5..5000_i64)), 0..1_000_000_i64),
            1..40,
        ),
    ) {
        let from = at("2026-10-30T00:00:00Z");
        let runs: Vec<Filed> = figures.into_iter().map(|((zone, second), (said, passes, more, watered, planned, micros))| {
            let started_at = from + SignedDuration::from_secs(second) + SignedDuration::from_micros(micros);
            let said = Said::ALL[said];
            let did_not_run = said == Said::Denied;
            let passes = if did_not_run { 0 } else { passes };
            let planned = planned.map(|(passes, run_s)| Passes { passes, run_s });
            Filed {
                date: started_at.to_zoned(clock()).date(),
                started_at: Some(started_at),
                zone: (zone + 1).to_string(),
                name: ["=Front", "Back, by the road"][zone].to_owned(),
                passes,
                run_s: if did_not_run { 0 } else { i64::from(passes) + more },
                watered,
                said,
                who: None,
                planned: planned.or(did_not_run.then_some(Passes { passes: 1, run_s: 60 })),
            }
        }).collect();
        let document = document();
        let written = write(&runs, &clock());
        prop_assert_eq!(read(&written, &document), Ok(numbered(&runs)), "{}", written);
        let crlf = format!("\u{feff}{}", written.replace('\n', "\r\n"));
        prop_assert_eq!(read(&crlf, &document), Ok(numbered(&runs)));
        let listed = serde_json::to_string(&runs).unwrap();
        let placed: Vec<(u64, Filed)> = (1..).zip(runs.iter().cloned()).collect();
        prop_assert_eq!(read(&listed, &document), Ok(placed));

        let new = runs.iter().map(|run| Becomes::New(run.started_at.unwrap())).collect::<Vec<_>>();
        prop_assert_eq!(outcome(&[], &runs, true), Ok(new));
        prop_assert_eq!(outcome(&runs, &runs, false), Ok(vec![Becomes::Known; runs.len()]));
    }
}

#[test]
fn a_formula_of_a_name_is_kept_from_being_one() {
    let text = write(
        &[filed("2026-06-16T08:10:00Z", Said::Changed, 4, 2430)],
        &clock(),
    );
    let line = text.lines().nth(1).unwrap();
    assert_eq!(
        line,
        "2026-06-16,1,4,607,2430,'=Front,04:10:00,changed,Hazel Fern,own,1,,,,"
    );
}

#[test]
fn a_sheet_of_ones_own_needs_days_zones_and_minutes() {
    let sheet = "date,started,name,minutes\n2026-06-16,4:10,ahead, 25\n";
    let wrong = read(sheet, &document()).unwrap_err();
    assert_eq!(
        wrong[0].to_string(),
        "line 2, column zone: zone \"ahead\" is not in the site"
    );
    let sheet =
        "date,started,name,minutes\n2026-06-16,4:10,=front, 25.5\n2026-06-17,19:00,=FRONT,10\n";
    let runs = read(sheet, &document()).unwrap();
    let first = Filed {
        who: None,
        name: "=front".to_owned(),
        ..filed("2026-06-16T08:10:00Z", Said::Hand, 1, 1530)
    };
    assert_eq!(runs[0], (2, first));
    let plans: Vec<_> = (runs.iter())
        .filter_map(|(_, run)| run.run(&clock()))
        .map(|run| (run.run_s, run.after_noon, run.assumed))
        .collect();
    assert_eq!(plans, [(1530, false, false), (600, true, false)]);
    // The four columns of old, as the command line plans from them: no time of day.
    let old = "date,zone,passes,pass_s\n2026-06-16,1,2,300\n2026-06-17,1,0,300\n";
    let runs = read(old, &document()).unwrap();
    assert_eq!((runs[0].1.run_s, runs[0].1.started_at), (600, None));
    assert_eq!(runs[1].1.run(&clock()), None, "it did not run");
}

#[test]
fn the_hour_that_comes_twice_and_the_one_that_does_not_come() {
    let text = |started: &str| format!("date,started,zone,minutes\n{started},1,10\n");
    let one = |started: &str| {
        let runs = read(&text(started), &document()).map_err(|faults| faults[0].to_string())?;
        Ok::<_, String>(runs[0].1.started_at.unwrap())
    };
    assert_eq!(one("2026-11-01,01:30"), Ok(at("2026-11-01T05:30:00Z")));
    let second = at("2026-11-01T06:30:00Z");
    assert_eq!(one("2026-11-01,01:30:00-05:00"), Ok(second));
    let written = write(
        &[filed("2026-11-01T06:30:00Z", Said::Hand, 1, 60)],
        &clock(),
    );
    assert!(written.contains(",01:30:00-05:00,"), "{written}");
    assert_eq!(
        one("2026-03-08,02:30"),
        Err("line 2, column started: 02:30 is not a time of 2026-03-08: the clock is set forward over it".to_owned())
    );
    assert_eq!(
        one("2026-06-16,00:30:00+10:00"),
        Err(
            "line 2, column started: is on 2026-06-15 by the site's clock, not on 2026-06-16"
                .to_owned()
        )
    );
}

#[test]
fn what_does_not_hold_is_said_with_line_and_column() {
    let hose = "date,zone,passes,pass_s,by,flow_l_min,reached_m2\n2026-06-16,1,1,60,";
    for (text, line, column) in [
        ("zone,passes\n".to_owned(), 1, ""),
        ("date,zone\n2026-06-16,3\n".to_owned(), 2, "minutes"),
        ("date,zone,minutes\n2026-06-16,3,1\n".to_owned(), 2, "zone"),
        ("date,zone,minutes\n2026-06-31,1,1\n".to_owned(), 2, "date"),
        ("date,zone,minutes\n,1,1\n".to_owned(), 2, "date"),
        ("date,zone,minutes\n1850-06-16,1,1\n".to_owned(), 2, "date"),
        ("date,zone,minutes\n2026-06-16,1,0\n".to_owned(), 2, "run_s"),
        (
            "date,zone,minutes\n2026-06-16,1,1e300\n".to_owned(),
            2,
            "run_s",
        ),
        (
            "date,zone,minutes\n2026-06-16,1,NaN\n".to_owned(),
            2,
            "run_s",
        ),
        (
            "date,zone,minutes\n2026-06-16,1,ten\n".to_owned(),
            2,
            "minutes",
        ),
        (
            "date,zone,passes,pass_s\n2026-06-16,1,1.5,60\n".to_owned(),
            2,
            "passes",
        ),
        (
            "date,zone,passes,pass_s\n2026-06-16,1,1001,60\n".to_owned(),
            2,
            "passes",
        ),
        (
            "date,zone,passes,pass_s\n2026-06-16,1,1,0\n".to_owned(),
            2,
            "run_s",
        ),
        (
            "date,zone,passes,pass_s\n2026-06-16,1,1\n".to_owned(),
            2,
            "",
        ),
        (
            "date,zone,minutes,said\n2026-06-16,1,1,perhaps\n".to_owned(),
            2,
            "said",
        ),
        (
            "date,zone,minutes,said\n2026-06-16,1,1,denied\n".to_owned(),
            2,
            "passes",
        ),
        (
            "date,zone,passes,said\n2026-06-16,1,0,hand\n".to_owned(),
            2,
            "said",
        ),
        (
            "date,zone,minutes,planned_s\n2026-06-16,1,1,0\n".to_owned(),
            2,
            "planned_s",
        ),
        (
            "date,zone,minutes,planned_s,planned_passes\n2026-06-16,1,1,9,0\n".to_owned(),
            2,
            "planned_passes",
        ),
        (
            "date,zone,minutes,started\n2026-06-16,1,1,noon\n".to_owned(),
            2,
            "started",
        ),
        (format!("{hose}rain,,\n"), 2, "by"),
        (format!("{hose}hose,,20\n"), 2, "flow_l_min"),
        (format!("{hose}hose,18,900\n"), 2, "by"),
        (
            r#"[{"date":"2026-06-16","zone":"1","passes":1,"run_s":60}]"#.to_owned(),
            1,
            "",
        ),
        (
            r#"[{"date":"2026-06-16","zone":"9","passes":1,"run_s":60,"said":"hand"}]"#.to_owned(),
            1,
            "zone",
        ),
    ] {
        let faults = read(&text, &document()).unwrap_err();
        let first = &faults[0];
        assert_eq!(
            (first.line, first.column.as_str()),
            (line, column),
            "{text}: {first}"
        );
    }
    // A record in which nothing ran yet.
    assert_eq!(read(&write(&[], &clock()), &document()), Ok(Vec::new()));
    // Every line at fault is told, not the first alone.
    let faults = read(
        "date,zone,minutes\n2026-06-16,1,0\n2026-06-16,8,1\n",
        &document(),
    );
    assert_eq!(faults.unwrap_err().len(), 2);
}

#[test]
fn a_file_answers_what_nobody_has_answered() {
    let start = "2026-06-16T08:00:00Z";
    let planned = Some(Passes {
        passes: 2,
        run_s: 1200,
    });
    let assumed = Filed {
        planned,
        ..filed(start, Said::Assumed, 2, 1200)
    };
    let known = [assumed.clone()];
    let answers = Ok(vec![Becomes::Answer(0)]);
    assert_eq!(
        outcome(&known, &[filed(start, Said::Confirmed, 2, 1200)], false),
        answers
    );
    assert_eq!(
        outcome(&known, &[filed(start, Said::Changed, 2, 900)], false),
        answers
    );
    assert_eq!(
        outcome(&known, &[filed(start, Said::Denied, 0, 0)], false),
        answers
    );
    assert_eq!(outcome(&known, &known, false), Ok(vec![Becomes::Known]));
    let column = |known: &Filed, run: Filed| {
        let faults = outcome(std::slice::from_ref(known), &[run], true).unwrap_err();
        assert_eq!(faults.len(), 1);
        faults[0].clone()
    };
    // Other minutes in a line that nobody's word stands in, or that only says "ran".
    for said in [Said::Assumed, Said::Confirmed] {
        assert_eq!(
            column(&assumed, filed(start, said, 2, 900)),
            "line 2, column run_s: the record has 2 passes, 20 min in all, assumed of it: put changed under said where it ran for another time"
        );
    }
    // A word stands until it is taken back; an older file that nobody had answered says nothing against it.
    let denied = filed(start, Said::Denied, 0, 0);
    assert_eq!(
        outcome(std::slice::from_ref(&denied), &known, false),
        Ok(vec![Becomes::Known])
    );
    assert!(
        column(&denied, filed(start, Said::Confirmed, 2, 1200)).contains("take that back first")
    );
    assert!(column(&assumed, filed(start, Said::Hand, 1, 600)).contains("another word of it"));
}

#[test]
fn what_cannot_be_or_is_seldom_so_is_told_by_its_line() {
    let start = "2026-06-16T08:00:00Z";
    let says = |known: &[Filed], runs: &[Filed], sure: bool| {
        outcome(known, runs, sure).map_err(|faults| faults.join("; "))
    };
    let long = filed(start, Said::Hand, 1, 5 * 3600);
    let overlapping = filed("2026-06-16T08:59:00Z", Said::Hand, 1, 600);
    let both = [long.clone(), overlapping.clone()];
    let asked = says(&[], &both[..1], false).unwrap_err();
    assert!(
        asked.starts_with("line 2, column run_s: is more than four hours"),
        "{asked}"
    );
    let hour = filed(start, Said::Confirmed, 1, 3600);
    let asked = says(std::slice::from_ref(&hour), &both[1..], false).unwrap_err();
    assert_eq!(
        asked,
        "line 2, column started: a run in the record of the zone, from 04:00 on, overlaps with it: 1 pass, 60 min in all, confirmed; \
         import it as sure if both ran"
    );
    // The later of two is asked about however the file is sorted; what did not run overlaps with nothing.
    let asked = says(&[], &[overlapping.clone(), hour.clone()], false).unwrap_err();
    assert!(
        asked.starts_with("line 3, column started: line 2 of the zone, from 04:59 on"),
        "{asked}"
    );
    let new: Vec<_> = [&long, &overlapping]
        .map(|run| Becomes::New(run.started_at.unwrap()))
        .into();
    assert_eq!(says(&[], &both, true), Ok(new));
    let denied = filed(start, Said::Denied, 0, 0);
    assert!(says(&[denied], &both[1..], false).is_ok());
    // The same line twice is one run.
    let twice = says(&[], &[hour.clone(), hour.clone()], false).unwrap();
    assert_eq!(twice[1], Becomes::Known);
    for (run, what) in [
        (
            filed("2026-11-21T08:00:00Z", Said::Hand, 1, 60),
            "column started: is still to come",
        ),
        (
            Filed {
                started_at: None,
                ..hour.clone()
            },
            "column started: is missing",
        ),
        (
            filed(start, Said::Denied, 0, 0),
            "column passes: did not run",
        ),
        (
            Filed {
                zone: "2".to_owned(),
                ..filed("2026-04-16T08:00:00Z", Said::Hand, 1, 60)
            },
            "column date: Back, by the road did not exist on 2026-04-16",
        ),
    ] {
        let told = says(&[], &[run], true).unwrap_err();
        assert!(told.contains(what), "{told}");
    }
    let other = filed(start, Said::Hand, 1, 60);
    let told = says(&[], &[hour, other], true).unwrap_err();
    assert!(
        told.contains("line 2 has another run of the zone that begins then"),
        "{told}"
    );
    assert_eq!(filed(start, Said::Hand, 1, 60).date, date(2026, 6, 16));
}
