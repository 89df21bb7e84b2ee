//! Files of minutes and of readings: what is written is read again, however it is cut; what does not hold is named by its line.

use jiff::tz::TimeZone;
use jiff::{SignedDuration, Timestamp};
use lawn::record::readings::Follows;
use lawn::record::readings_file::{self, Filed};
use lawn::record::told_minutes::{Batch, File, Hours, heading, lines};
use proptest::prelude::*;

fn latest() -> Timestamp {
    "2026-06-18T00:00:00Z".parse().unwrap()
}

fn read(text: &str, pieces: usize) -> Result<Hours, Vec<(u64, String, String)>> {
    let mut file = File::new(latest());
    for piece in text.as_bytes().chunks(pieces) {
        if !file.take(piece) {
            break;
        }
    }
    file.finish().map_err(|faults| {
        let faults = faults.into_iter();
        faults.map(|f| (f.line, f.column, f.message)).collect()
    })
}

#[test]
fn a_file_of_more_than_twenty_years_and_an_open_quote_are_refused_at_their_lines() {
    let named = |text: &str| {
        let faults = read(text, 50).unwrap_err();
        let named = faults.into_iter().map(|(line, _, message)| (line, message));
        named.collect::<Vec<_>>()
    };
    let spread =
        "minute,pulses\n1900-01-01T00:00:00Z,1\n2026-06-01T00:00:00Z,2\n2026-06-01T00:01:00Z,2\n";
    let faults = named(spread);
    assert_eq!(faults.iter().map(|f| f.0).collect::<Vec<_>>(), [3, 4]);
    assert!(faults[0].1.contains("twenty years"), "{faults:?}");
    let within = "minute,pulses\n2006-07-01T00:00:00Z,1\n2026-06-01T00:00:00Z,2\n";
    assert_eq!(read(within, 50).map(|hours| hours.minutes()), Ok(2));
    for open in [
        "minute,pulses\n\"2026-06-01T00:00:00Z,2\n",
        "minute,pulses\n2026-06-01T00:00:00Z,\"2\n",
        "minute,\"pulses\n2026-06-01T00:00:00Z,2\n",
    ] {
        let faults = named(open);
        assert!(faults[0].1.contains("not closed"), "{faults:?}");
    }
    let quoted = "\"minute\",\"pulses\"\n\"2026-06-01T00:00:00Z\",\"2\"\n";
    assert_eq!(read(quoted, 50).map(|hours| hours.minutes()), Ok(1));
}

proptest! {
    #[test]
    fn minutes_that_are_written_are_read_again_however_the_file_is_cut(
        first in 0..200_000_i64,
        counts in prop::collection::vec(prop::option::weighted(0.8, 0..30_000_u16), 1..400),
        piece in 1..200_usize,
        crlf: bool,
    ) {
        let from = latest() - SignedDuration::from_mins(first + 500);
        let batch = Batch { from, counts };
        prop_assume!(batch.counts.iter().any(Option::is_some));
        let told = Hours::of(&batch);
        let mut columns = heading() + &lines(&batch);
        if crlf {
            columns = format!("\u{feff}{}", columns.replace('\n', "\r\n"));
        }
        prop_assert_eq!(read(&columns, piece), Ok(told.clone()));
        let listed = serde_json::to_string(&batch).unwrap();
        prop_assert_eq!(read(&listed, piece), Ok(told.clone()));
        prop_assert_eq!(told.minutes(), batch.counts.iter().flatten().count());
        let hours: Vec<_> = told.iter().collect();
        prop_assert!(hours.iter().all(|(hour, minutes)| hour.as_second() % 3600 == 0 && minutes.len() == 60));
    }

    #[test]
    fn readings_that_are_written_are_read_again(
        figures in prop::collection::vec((0..900_000_i64, 0.0..99_999.0_f64, 0..3_u8, prop::option::of(0.0..9999.0_f64)), 1..30),
    ) {
        let filed: Vec<Filed> = figures.into_iter().map(|(minute, register, follows, old_register)| Filed {
            read_at: latest() - SignedDuration::from_mins(minute),
            meter: "7".to_owned(),
            name: "Lawn, \"front\"".to_owned(),
            register,
            follows: match follows {
                0 => Follows::On,
                1 => Follows::RolledOver,
                _ => Follows::NewMeter { old_register, began_with: register / 2.0 },
            },
            read_by: Some("Willow".to_owned()),
        }).collect();
        let numbered = |from: u64| (from..).zip(filed.clone()).collect::<Vec<_>>();
        let zone = TimeZone::get("America/New_York").unwrap();
        prop_assert_eq!(readings_file::read(&readings_file::write(&filed, &zone)), Ok(numbered(2)));
        let listed = serde_json::to_string(&filed).unwrap();
        prop_assert_eq!(readings_file::read(&listed), Ok(numbered(1)));
    }
}

#[test]
fn a_file_that_is_no_such_file_is_refused_by_its_line() {
    let fault = |text: &str| {
        let faults = read(text, 64).unwrap_err();
        let (line, column, message) = faults[0].clone();
        (faults.len(), line, column, message)
    };
    let (_, line, _, message) = fault("when,what\n1,2\n");
    assert!(line == 1 && message.contains("heading"), "{message}");
    let (count, line, column, _) = fault(
        "{\"from\":\"2026-06-01T00:00:00Z\",\"counts\":[1]}\n{\"from\":\"2026-06-01T00:00:00Z\",\"counts\":[2]}\n{\"from\":1}\n",
    );
    assert_eq!((count, line, column.as_str()), (2, 2, "counts"));
    let endless = "7".repeat(300 * 1024);
    assert!(fault(&endless).3.contains("longer than 256 kB"));
    let binary = [b"minute,pulses\n".as_slice(), &[0xff, 0xfe]].concat();
    let mut file = File::new(latest());
    file.take(&binary);
    assert!(file.finish().unwrap_err()[0].message.contains("UTF-8"));
    // After a hundred faults the rest does not matter.
    let wrong = format!("minute,pulses\n{}", "x,1\n".repeat(500));
    assert_eq!(fault(&wrong).0, 100);
    // Twenty years of hours, one minute of each, and more.
    let mut many = heading();
    for hour in 0..176_000_i64 {
        let at = latest() - SignedDuration::from_hours(hour + 1);
        many.push_str(&format!("{at},1\n"));
    }
    assert!(fault(&many).3.contains("send it in parts"));
}

#[test]
fn readings_that_are_none_are_refused_by_their_lines() {
    let fault = |text: &str| {
        let fault = readings_file::read(text).unwrap_err().remove(0);
        (fault.line, fault.column)
    };
    let head = "read_at,meter,register,follows\n";
    assert_eq!(fault(""), (1, String::new()));
    assert_eq!(fault("read_at,register\n"), (1, String::new()));
    assert_eq!(fault(head), (1, String::new()));
    assert_eq!(
        fault(&format!("{head}2026-06-01 08:00,7,1,on\n")),
        (2, "read_at".to_owned())
    );
    assert_eq!(
        fault(&format!("{head}2026-06-01T08:00:00Z,7,,on\n")),
        (2, "register".to_owned())
    );
    assert_eq!(
        fault(&format!("{head}2026-06-01T08:00:00Z,7,1.2.3,on\n")),
        (2, "register".to_owned())
    );
    assert_eq!(
        fault(&format!("{head}2026-06-01T08:00:00Z,7,1,back\n")),
        (2, "follows".to_owned())
    );
    assert_eq!(
        fault(&format!("{head}2026-06-01T08:00:00Z,7,1\n")),
        (2, String::new())
    );
    assert_eq!(
        fault("[{\"read_at\":\"2026-06-01T08:00:00Z\"}]"),
        (1, String::new())
    );
    assert_eq!(fault("[\n{]"), (2, String::new()));
    assert_eq!(
        fault(&format!("{head}2026-06-01T08:00:00Z,7\u{7},1,on\n")),
        (2, String::new())
    );
}
