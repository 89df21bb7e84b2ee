//! What an account must be: on the command line and by invitation.

use lawn::site::Invalid;
use lawn::text::check_name;

/// Least length of a password, characters.
pub const LEAST_PASSWORD: usize = 10;
/// Greatest, so that hashing stays bounded.
const MOST_PASSWORD: usize = 200;

/// Longest e-mail address, bytes in UTF-8 (RFC 5321, 4.5.3.1.3, less the angle brackets).
pub const LONGEST_EMAIL: usize = 254;

/// An address as accounts are kept and found by: without spaces around it, in lower case. Nobody else lowers it: PostgreSQL's idea of
/// lower case differs for some letters.
#[must_use]
pub fn lower_case(email: &str) -> String {
    email.trim().to_lowercase()
}

/// The beginning of what may be very long.
fn shortened(text: &str) -> String {
    text.chars().take(60).collect()
}

/// Checks name, address and password of a new account.
///
/// # Errors
/// The first that does not hold, by field.
pub fn check(name: &str, email: &str, password: &str) -> Result<(), Invalid> {
    check_name("name", name)?;
    let email = email.trim();
    let parts = email.split_once('@');
    if parts.is_none_or(|(local, domain)| local.is_empty() || domain.is_empty())
        || lower_case(email).len() > LONGEST_EMAIL
        || email.chars().any(|c| c.is_whitespace() || c.is_control())
    {
        return Err(Invalid::new(
            "email",
            format!("\"{}\" is not an e-mail address", shortened(email)),
        ));
    }
    check_password(password, &[name, email])
}

/// Guesses below which a password is refused: among the first million that a guesser tries (zxcvbn's scores 0 and 1).
const FEWEST_GUESSES: u64 = 1_000_000;

/// Checks a password as NIST SP 800-63B asks: long enough, and none that guessers try first, such as a common one, a date, or the
/// person's own name; no rule about kinds of characters. `about` is what a guesser knows of the person.
///
/// # Errors
/// Too short, too long, or too easily guessed.
pub fn check_password(password: &str, about: &[&str]) -> Result<(), Invalid> {
    let invalid = |message: String| Err(Invalid::new("password", message));
    let length = password.chars().count();
    if !(LEAST_PASSWORD..=MOST_PASSWORD).contains(&length) {
        return invalid(format!(
            "a password has {LEAST_PASSWORD} to {MOST_PASSWORD} characters; a short sentence is a good one"
        ));
    }
    let parts: Vec<&str> = about
        .iter()
        .flat_map(|text| text.split(['@', '.', ' ']))
        .filter(|part| part.len() > 2)
        .collect();
    if zxcvbn::zxcvbn(password, &parts).guesses() < FEWEST_GUESSES {
        return invalid(
            "this password is among the first that are tried; a short sentence of your own is a good one"
                .to_owned(),
        );
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_first_field_that_does_not_hold_is_named() {
        let field = |n, e, p| check(n, e, p).err().map(|i| i.field);
        assert_eq!(
            field("Hazel", "hazel@meadow.example", "three dry days"),
            None
        );
        assert_eq!(
            field(" ", "hazel@meadow.example", "three dry days").unwrap(),
            "name"
        );
        assert_eq!(
            field("Hazel", "hazel at meadow", "three dry days").unwrap(),
            "email"
        );
        assert_eq!(field("Hazel", "@", "three dry days").unwrap(), "email");
        assert_eq!(
            field("Hazel", "hazel@meadow.example", "short").unwrap(),
            "password"
        );
        for easy in [
            "password123",
            "1234567890",
            "qwertyuiop",
            "hazelhazel",
            "aaaaaaaaaaaa",
            "2026-06-18",
            "iloveyou12",
        ] {
            assert_eq!(
                field("Hazel", "hazel@meadow.example", easy).unwrap(),
                "password",
                "{easy}"
            );
        }
        let long = format!("{}@meadow.example", "x".repeat(8000));
        assert_eq!(field("Hazel", &long, "three dry days").unwrap(), "email");
        // 253 bytes as typed, more in lower case.
        let dotted = format!("{}@m.example", "\u{130}".repeat(121));
        assert_eq!(field("Hazel", &dotted, "three dry days").unwrap(), "email");
        assert_eq!(
            field("Hazel\u{0}", "hazel@meadow.example", "three dry days").unwrap(),
            "name"
        );
    }
}
