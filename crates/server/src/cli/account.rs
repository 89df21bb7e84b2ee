//! `fresh-meadow account add` and `load-demo`.

use std::io::BufRead;

use clap::{Args, Subcommand, ValueEnum};

use super::{Failure, serve};
use crate::api::access::Role;
use crate::db::{SiteId, accounts, sites};
use crate::weather_service::WeatherService;
use crate::{account, password};

#[derive(Debug, Args)]
pub(crate) struct DemoArguments {
    #[command(flatten)]
    settings: serve::Arguments,
}

#[derive(Debug, Args)]
pub(crate) struct AccountArguments {
    #[command(subcommand)]
    command: AccountCommand,
}

#[derive(Debug, Subcommand)]
enum AccountCommand {
    /// Adds an account; the password is the first line of standard input.
    Add(AddArguments),
    /// Sets a password that was lost anew, and ends the account's sessions; the password is the first line of standard input.
    Password(PasswordArguments),
}

#[derive(Debug, Args)]
struct PasswordArguments {
    #[command(flatten)]
    settings: serve::Arguments,
    /// E-mail address of the account.
    #[arg(long)]
    email: String,
}

#[derive(Debug, Args)]
struct AddArguments {
    #[command(flatten)]
    settings: serve::Arguments,
    /// E-mail address to sign in with.
    #[arg(long)]
    email: String,
    /// Name for people.
    #[arg(long)]
    name: String,
    /// A site to belong to.
    #[arg(long, requires = "role")]
    site: Option<i64>,
    /// The role there.
    #[arg(long, requires = "site")]
    role: Option<RoleName>,
}

#[derive(Debug, Clone, Copy, ValueEnum)]
enum RoleName {
    Viewer,
    Crew,
    Manager,
    Owner,
}

impl From<RoleName> for Role {
    fn from(name: RoleName) -> Self {
        match name {
            RoleName::Viewer => Self::Viewer,
            RoleName::Crew => Self::Crew,
            RoleName::Manager => Self::Manager,
            RoleName::Owner => Self::Owner,
        }
    }
}

/// Adds an account, or sets its password anew.
pub(crate) fn run(a: &AccountArguments) -> Result<String, Failure> {
    match &a.command {
        AccountCommand::Add(a) => add(a),
        AccountCommand::Password(a) => set_password(a),
    }
}

/// The first line of standard input.
fn typed_password() -> Result<String, Failure> {
    let mut secret = String::new();
    std::io::stdin().lock().read_line(&mut secret)?;
    Ok(secret.trim_end_matches(['\r', '\n']).to_owned())
}

fn set_password(a: &PasswordArguments) -> Result<String, Failure> {
    let settings = a.settings.settings()?;
    let secret = typed_password()?;
    let email = account::lower_case(&a.email);
    account::check_password(&secret, &[&email])
        .map_err(|e| Failure(format!("{}: {}", e.field, e.message)))?;
    serve::runtime()?.block_on(async {
        let pool = crate::db::connect(&settings.database_url, 2).await?;
        let hash = password::hash(secret).await?;
        let mut tx = pool.begin().await?;
        let id = accounts::reset_password(&mut *tx, &email, &hash)
            .await?
            .ok_or_else(|| Failure(format!("{email} has no account")))?;
        accounts::end_sessions(&mut *tx, id).await?;
        tx.commit().await?;
        Ok(format!(
            "{email} has a new password; whoever was signed in with the old one no longer is\n"
        ))
    })
}

fn add(a: &AddArguments) -> Result<String, Failure> {
    let settings = a.settings.settings()?;
    let secret = typed_password()?;
    account::check(&a.name, &a.email, &secret)
        .map_err(|e| Failure(format!("{}: {}", e.field, e.message)))?;
    serve::runtime()?.block_on(async {
        crate::db::migrate(&settings.database_url).await?;
        let pool = crate::db::connect(&settings.database_url, 2).await?;
        let hash = password::hash(secret).await?;
        let mut tx = pool.begin().await?;
        let email = account::lower_case(&a.email);
        let id = accounts::insert(&mut *tx, &email, a.name.trim(), &hash, false)
            .await?
            .ok_or_else(|| Failure(format!("{email} has an account already")))?;
        if let (Some(site), Some(role)) = (a.site, a.role) {
            if !sites::exists(&mut *tx, SiteId(site)).await? {
                return Err(Failure(format!("there is no site {site}")));
            }
            sites::add_member(&mut *tx, SiteId(site), id, Role::from(role).name()).await?;
        }
        tx.commit().await?;
        Ok(format!("account of {email} added\n"))
    })
}

/// Loads the demo once; a database that holds it keeps what was done there since.
pub(crate) fn load_demo(a: &DemoArguments) -> Result<String, Failure> {
    let settings = a.settings.settings()?;
    let Some(address) = &settings.weather_url else {
        return Err(Failure(
            "the demo's weather comes from the weather service: set FRESH_MEADOW_WEATHER_URL"
                .to_owned(),
        ));
    };
    let service = WeatherService::new(address)?;
    serve::runtime()?.block_on(async {
        // An empty database is one without tables.
        let migrated = crate::db::migrate(&settings.database_url).await;
        migrated.map_err(|e| {
            Failure(format!(
                "the database cannot be brought to this version: {e}"
            ))
        })?;
        let pool = crate::db::connect(&settings.database_url, 2).await?;
        // The simulated flow meter's, where there is one.
        let flow_token = std::env::var("FRESH_MEADOW_FLOW_TOKEN").ok();
        let loaded = crate::demo::load(&pool, &service, flow_token.as_deref()).await?;
        Ok(if loaded {
            String::from("demo loaded\n")
        } else {
            String::from("demo is there already\n")
        })
    })
}
