//! How files of records are taken.

use serde::Deserialize;
use utoipa::IntoParams;

/// How a file is taken.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub(super) struct Taken {
    /// Whether figures that are seldom so were looked at, and are so.
    #[serde(default)]
    pub(super) sure: bool,
}
