//! What a text may hold, wherever it comes from: a request, a file, another machine.

use std::borrow::Cow;

use serde::{Deserialize, Deserializer};
use serde_json::Value;

use crate::invalid::Invalid;

/// Longest name of a site, a zone or a person, characters.
pub const LONGEST_NAME: usize = 120;

/// The first control character of a file's text and its line, from 1; line breaks and tabs are none.
#[must_use]
pub fn control_in_file(text: &str) -> Option<(u64, char)> {
    let (at, found) = text
        .char_indices()
        .find(|(_, c)| c.is_control() && !matches!(c, '\n' | '\r' | '\t'))?;
    let before = text.get(..at).unwrap_or_default();
    let lines = before.bytes().filter(|b| *b == b'\n').count();
    Some((u64::try_from(lines).unwrap_or(u64::MAX) + 1, found))
}

/// A file's text as it is read: without a byte order mark, and lines ended by line feeds alone, so that they are counted right.
#[must_use]
pub fn in_lines(file: &str) -> Cow<'_, str> {
    let text = file.trim_start_matches('\u{feff}');
    if text.contains("\r\n") {
        Cow::Owned(text.replace("\r\n", "\n"))
    } else {
        Cow::Borrowed(text)
    }
}

/// What is said of a control character: no database or terminal takes it as text.
#[must_use]
pub fn refusal(control: char) -> String {
    format!(
        "holds a control character (U+{:04X}); remove it",
        u32::from(control)
    )
}

/// A message that may repeat what somebody sent, on one line: control characters, also line breaks within a cell, are shown as such.
#[must_use]
pub fn cleaned(message: &str) -> String {
    message
        .chars()
        .map(|c| if c.is_control() { '\u{fffd}' } else { c })
        .collect()
}

/// A message that may repeat what somebody sent, cleaned and cut to a length that people read.
#[must_use]
pub fn shortened(message: &str) -> String {
    const MOST: usize = 300;
    let mut short: String = cleaned(message).chars().take(MOST + 1).collect();
    if short.chars().count() > MOST {
        short.pop();
        short.push('…');
    }
    short
}

/// Checks every text and key of a JSON value: none holds a control character. `path` names the value itself; empty: the whole.
///
/// # Errors
/// The first field that does, such as `zones[2].name`.
pub fn check_json(path: &str, value: &Value) -> Result<(), Invalid> {
    let plain = |text: &str| match text.chars().find(|c| c.is_control()) {
        Some(control) => Err(Invalid::new(path, refusal(control))),
        None => Ok(()),
    };
    match value {
        Value::String(text) => plain(text),
        Value::Array(values) => values
            .iter()
            .enumerate()
            .try_for_each(|(i, value)| check_json(&format!("{path}[{i}]"), value)),
        Value::Object(fields) => fields.iter().try_for_each(|(key, value)| {
            plain(key)?;
            let dot = if path.is_empty() { "" } else { "." };
            check_json(&format!("{path}{dot}{key}"), value)
        }),
        Value::Null | Value::Bool(_) | Value::Number(_) => Ok(()),
    }
}

/// Checks a name for people: 1 to 120 characters, of which one can be seen.
///
/// # Errors
/// Empty, invisible or too long.
pub fn check_name(field: &str, name: &str) -> Result<(), Invalid> {
    let length = name.trim().chars().count();
    if let Some(control) = name.chars().find(|c| c.is_control()) {
        return Err(Invalid::new(field, refusal(control)));
    }
    if let Some(mark) = hidden_mark(name) {
        let message = format!(
            "holds an invisible mark (U+{:04X}), with which it could look like another name; remove it",
            u32::from(mark)
        );
        return Err(Invalid::new(field, message));
    }
    if !name.chars().any(is_seen) {
        return Err(Invalid::new(field, "must not be empty"));
    }
    if length > LONGEST_NAME {
        return Err(Invalid::new(
            field,
            format!("has {length} characters; at most {LONGEST_NAME} are allowed"),
        ));
    }
    Ok(())
}

/// The first character of a text that is not seen and changes how the rest is seen or compared: marks of direction, of no width, and tags (Unicode's `Cf` and variants
/// of it, those in use). Joiners stay between two characters of which neither is ASCII: some scripts and pictures are written with them.
fn hidden_mark(text: &str) -> Option<char> {
    let others = |c: Option<char>| c.is_some_and(|c| !c.is_ascii());
    let mut before = None;
    let mut rest = text.chars().peekable();
    while let Some(c) = rest.next() {
        let is_hidden = match c {
            '\u{200c}' | '\u{200d}' => !(others(before) && others(rest.peek().copied())),
            '\u{ad}'
            | '\u{61c}'
            | '\u{180e}'
            | '\u{200b}'
            | '\u{200e}'
            | '\u{200f}'
            | '\u{202a}'..='\u{202e}'
            | '\u{2060}'..='\u{206f}'
            | '\u{feff}'
            | '\u{fff9}'..='\u{fffb}'
            | '\u{e0000}'..='\u{e007f}' => true,
            _ => false,
        };
        if is_hidden {
            return Some(c);
        }
        before = Some(c);
    }
    None
}

/// Whether a character leaves a mark: no space, and none of the joiners and marks of direction (Unicode's `Cf`, those in use).
fn is_seen(c: char) -> bool {
    !c.is_whitespace()
        && !c.is_control()
        && !matches!(c, '\u{ad}' | '\u{61c}' | '\u{180e}' | '\u{200b}'..='\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2060}'..='\u{206f}' | '\u{feff}' | '\u{2800}' | '\u{3164}')
}

/// Reads a text without the spaces around it, of whatever kind: what is kept and what is counted is the same everywhere.
pub(crate) fn trimmed<'de, D: Deserializer<'de>>(deserializer: D) -> Result<String, D::Error> {
    let text = String::deserialize(deserializer)?;
    Ok(if text.trim().len() == text.len() {
        text
    } else {
        text.trim().to_owned()
    })
}

/// A text as a cell of CSV: quoted where it must be, and never read as a formula by a spreadsheet, which takes =, +, -, @ and, before
/// them, a tab or a carriage return for the beginning of one (OWASP, "CSV injection", from memory).
#[must_use]
pub fn csv_cell(text: &str) -> String {
    let guarded = if text.starts_with(['=', '+', '-', '@', '\t', '\r']) {
        format!("'{text}")
    } else {
        text.to_owned()
    };
    if guarded.contains(['"', ',', '\n', '\r']) {
        format!("\"{}\"", guarded.replace('"', "\"\""))
    } else {
        guarded
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn no_name_hides_marks_and_joiners_stay_where_they_are_written() {
        let fault = |name: &str| check_name("name", name).err().map(|e| e.message);
        // Of Unicode's tables: a Persian word with its non-joiner, and a family of three.
        for name in [
            "Vörgarten 2",
            "می\u{200c}خواهم",
            "\u{1f468}\u{200d}\u{1f469}\u{200d}\u{1f467}",
        ] {
            assert_eq!(fault(name), None, "{name}");
        }
        for (name, mark) in [
            ("Front\u{202e}nwal", "U+202E"),
            ("\u{2066}Front\u{2069}", "U+2066"),
            ("Fro\u{200b}nt", "U+200B"),
            ("Fro\u{200d}nt", "U+200D"),
            ("Front\u{200c}", "U+200C"),
            ("Front\u{e0041}", "U+E0041"),
            ("\u{feff}Front", "U+FEFF"),
        ] {
            assert!(
                fault(name).is_some_and(|said| said.contains(mark)),
                "{name:?}"
            );
        }
    }

    #[test]
    fn a_cell_is_no_formula_and_stays_one_cell() {
        for (text, cell) in [
            ("Front", "Front"),
            ("=1+1", "'=1+1"),
            ("\t=1+1", "'\t=1+1"),
            ("\r@x", "\"'\r@x\""),
            ("-2", "'-2"),
            ("a,\"b\"", "\"a,\"\"b\"\"\""),
        ] {
            assert_eq!(csv_cell(text), cell);
        }
    }

    #[test]
    fn lines_of_any_system_are_ended_alike() {
        assert_eq!(in_lines("\u{feff}a\r\nb\n"), "a\nb\n");
        assert!(matches!(in_lines("a\nb"), Cow::Borrowed("a\nb")));
    }

    #[test]
    fn a_control_character_is_found_with_its_line_and_its_field() {
        assert_eq!(control_in_file("a\tb\r\nc\u{0}d"), Some((2, '\u{0}')));
        assert_eq!(control_in_file("a,b\r\n1,2\r\n"), None);
        let value = serde_json::json!({ "zones": [{ "name": "Front" }, { "name": "a\u{7f}" }] });
        let error = check_json("", &value).unwrap_err();
        assert_eq!(
            error.to_string(),
            "zones[1].name: holds a control character (U+007F); remove it"
        );
        assert!(check_json("", &serde_json::json!({ "a\u{0}": 1 })).is_err());
    }

    #[test]
    fn a_name_can_be_seen() {
        assert!(check_name("name", "Front").is_ok());
        assert!(check_name("name", "\u{2003}Vörgarten\u{a0}").is_ok());
        for name in ["", " ", "\u{a0}\u{2003}", "\u{200b}\u{2060}", "\u{202e}"] {
            assert!(check_name("name", name).is_err(), "{name:?}");
        }
        assert!(check_name("name", &"x".repeat(120)).is_ok());
        assert!(check_name("name", &"x".repeat(121)).is_err());
        assert!(check_name("name", "a\nb").is_err());
    }
}
