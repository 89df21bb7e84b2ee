//! What an account must be: on the command line and by invitation.

use lawn::site::Invalid;

/// Least length of a password, characters.
pub const LEAST_PASSWORD: usize = 10;
/// Greatest, so that hashing stays bounded.
const MOST_PASSWORD: usize = 200;

/// Checks name, address and password of a new account.
///
/// # Errors
/// The first that does not hold, by field.
pub fn check(name: &str, email: &str, password: &str) -> Result<(), Invalid> {
    let invalid = |field: &str, message: String| {
        Err(Invalid {
            field: field.to_owned(),
            message,
        })
    };
    if name.trim().is_empty() || name.chars().count() > 120 {
        return invalid("name", "give a name of up to 120 characters".to_owned());
    }
    let email = email.trim();
    let parts = email.split_once('@');
    if parts.is_none_or(|(local, domain)| local.is_empty() || domain.is_empty())
        || email.len() > 254
        || email.chars().any(char::is_whitespace)
    {
        return invalid("email", format!("\"{email}\" is not an e-mail address"));
    }
    check_password(password)
}

/// Checks a password: length alone; a sentence is better than a riddle.
///
/// # Errors
/// Too short or too long.
pub fn check_password(password: &str) -> Result<(), Invalid> {
    let length = password.chars().count();
    if (LEAST_PASSWORD..=MOST_PASSWORD).contains(&length) {
        return Ok(());
    }
    Err(Invalid {
        field: "password".to_owned(),
        message: format!(
            "a password has {LEAST_PASSWORD} to {MOST_PASSWORD} characters; a short sentence is a good one"
        ),
    })
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
    }
}
