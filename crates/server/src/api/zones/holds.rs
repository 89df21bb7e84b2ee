use std::collections::BTreeMap;

use lawn::site::Invalid;
use lawn::site::facts::Holds;
use serde::Deserialize;
use utoipa::IntoParams;

/// From when what changed holds.
#[derive(Debug, Default, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub(in crate::api) struct HoldsQuery {
    /// For keys that changed, each `key:always` or `key:YYYY-MM-DD`, with commas between; of others, the ground was always so, and the rest is so
    /// from today on.
    holds: Option<String>,
}

impl HoldsQuery {
    /// By key.
    pub(super) fn by_key(&self) -> Result<BTreeMap<String, Holds>, Invalid> {
        let text = self.holds.as_deref().unwrap_or_default();
        text.split(',')
            .filter(|part| !part.is_empty())
            .map(|part| {
                let refused = || {
                    Invalid::new(
                        "holds",
                        format!(
                            "\"{}\" is not key:always or key:YYYY-MM-DD",
                            lawn::text::shortened(part)
                        ),
                    )
                };
                let (key, held) = part.split_once(':').ok_or_else(refused)?;
                let held = match held {
                    "always" => Holds::Always,
                    day => Holds::From(day.parse().map_err(|_| refused())?),
                };
                Ok((key.to_owned(), held))
            })
            .collect()
    }
}
