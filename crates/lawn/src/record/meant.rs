//! Which of a site's things somebody means who gives an identifier, a name, or both.

use crate::text::shortened;

/// One that may be meant.
#[derive(Debug, Clone, Copy)]
pub struct Candidate<'a> {
    /// Its identifier.
    pub id: &'a str,
    /// Its name.
    pub name: &'a str,
    /// Whether it was there on the day.
    pub is_there: bool,
}

/// Why nobody knows which is meant.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Unclear {
    /// None has the identifier or name.
    None(String),
    /// Several have the name.
    Several(String),
    /// The identifier is one's, the name another's.
    Two {
        /// The identifier.
        id: String,
        /// The name of the one that has it.
        is: String,
        /// The name that was given.
        says: String,
    },
}

impl Unclear {
    /// What to say of it; `what`: what they are.
    #[must_use]
    pub fn of(&self, what: &str) -> String {
        match self {
            Self::None(said) => format!("{what} \"{said}\" is not in the site"),
            Self::Several(name) => {
                format!("several are called {name}: say which by its id under {what}")
            }
            Self::Two { id, is, says } => {
                format!("{id} is {is}, the name says {says}: leave one of the two empty")
            }
        }
    }
}

/// The one that is meant: by its identifier, else by its name, of several the one that was there. A name that is nobody else's may be an earlier one.
///
/// # Errors
/// [`Unclear`].
pub fn by<'a, T>(
    id: &str,
    name: &str,
    all: &'a [T],
    of: impl Fn(&'a T) -> Candidate<'a>,
) -> Result<&'a T, Unclear> {
    let is_called = |one: Candidate| one.name.trim().to_lowercase() == name.trim().to_lowercase();
    let named: Vec<&T> = all.iter().filter(|one| is_called(of(one))).collect();
    if let Some(found) = all.iter().find(|one| of(one).id == id) {
        let is = of(found).name;
        return if is_called(of(found)) || named.is_empty() {
            Ok(found)
        } else {
            Err(Unclear::Two {
                id: shortened(id),
                is: is.to_owned(),
                says: shortened(name),
            })
        };
    }
    let there: Vec<&T> = (named.iter().copied())
        .filter(|one| of(one).is_there)
        .collect();
    match (named.as_slice(), there.as_slice()) {
        ([one], _) | (_, [one]) => Ok(one),
        ([], _) => {
            let said = if name.is_empty() { id } else { name };
            Err(Unclear::None(shortened(said)))
        }
        _ => Err(Unclear::Several(shortened(name))),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn by_identifier_by_name_and_what_is_unclear() {
        let all = [
            ("1", "Front", false),
            ("2", "Back", true),
            ("3", "Front", true),
            ("4", "Side", false),
        ];
        let one = |id: &str, name: &str| {
            by(id, name, &all, |&(id, name, is_there)| Candidate {
                id,
                name,
                is_there,
            })
            .map(|found| found.0)
            .map_err(|unclear| unclear.of("zone"))
        };
        assert_eq!(one("1", ""), Ok("1"));
        assert_eq!(one("1", "Front"), Ok("1"));
        assert_eq!(one("", " back "), Ok("2"));
        // Of two of a name the one that was there; one alone even where it was not.
        assert_eq!(one("", "Front"), Ok("3"));
        assert_eq!(one("", "Side"), Ok("4"));
        // Renamed since; another installation's identifiers.
        assert_eq!(one("2", "Behind"), Ok("2"));
        assert_eq!(one("77", "Back"), Ok("2"));
        let says = |id: &str, name: &str| one(id, name).unwrap_err();
        assert_eq!(says("9", ""), "zone \"9\" is not in the site");
        assert_eq!(says("", "Roof"), "zone \"Roof\" is not in the site");
        assert_eq!(
            says("1", "Back"),
            "1 is Front, the name says Back: leave one of the two empty"
        );
    }
}
