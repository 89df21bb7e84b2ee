//! Who asks: the address that connects or, behind a proxy that the settings trust, the address that the proxy names.

use std::net::{IpAddr, Ipv6Addr};

use actix_web::dev::ServiceRequest;
use actix_web::http::header::HeaderMap;
use actix_web::web::Data;
use actix_web::{FromRequest, HttpRequest, dev::Payload};
use std::future::{Ready, ready};

use crate::settings::Settings;

/// The header in which proxies name who asked them, the latest last.
const FORWARDED: &str = "x-forwarded-for";

/// Who asks, as limits count them: an IPv4 address, or the /64 network of an IPv6 one, of which a household has all.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub struct Peer(pub String);

impl Peer {
    /// Of a request that is not routed yet.
    #[must_use]
    pub fn of(request: &ServiceRequest) -> Self {
        Self::from(
            request.peer_addr().map(|a| a.ip()),
            request.headers(),
            request.app_data::<Data<Settings>>(),
        )
    }

    fn from(
        connected: Option<IpAddr>,
        headers: &HeaderMap,
        settings: Option<&Data<Settings>>,
    ) -> Self {
        let trusted: &[IpAddr] = settings.map_or(&[], |s| s.trusted_proxies.as_slice());
        let Some(connected) = connected else {
            return Self("unknown".to_owned());
        };
        let mut asks = connected.to_canonical();
        // From the nearest on: what a proxy that is not trusted says, and all before it, anybody may have written.
        let mut named = headers
            .get_all(FORWARDED)
            .filter_map(|v| v.to_str().ok())
            .flat_map(|line| line.split(','))
            .collect::<Vec<_>>();
        while trusted.contains(&asks) {
            let Some(before) = named.pop().and_then(|name| name.trim().parse().ok()) else {
                break;
            };
            asks = IpAddr::to_canonical(&before);
        }
        Self(match asks {
            IpAddr::V4(v4) => v4.to_string(),
            IpAddr::V6(v6) if v6.is_loopback() => v6.to_string(),
            IpAddr::V6(v6) => {
                let [a, b, c, d, ..] = v6.segments();
                format!("{}/64", Ipv6Addr::new(a, b, c, d, 0, 0, 0, 0))
            }
        })
    }
}

impl FromRequest for Peer {
    type Error = actix_web::Error;
    type Future = Ready<Result<Self, actix_web::Error>>;

    fn from_request(request: &HttpRequest, _: &mut Payload) -> Self::Future {
        ready(Ok(Self::from(
            request.peer_addr().map(|a| a.ip()),
            request.headers(),
            request.app_data::<Data<Settings>>(),
        )))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use actix_web::http::header::{HeaderName, HeaderValue};

    fn peer(connected: &str, forwarded: &[&str], trusted: &[&str]) -> String {
        let mut headers = HeaderMap::new();
        for line in forwarded {
            headers.append(
                HeaderName::from_static(FORWARDED),
                HeaderValue::from_str(line).unwrap(),
            );
        }
        let settings = Data::new(Settings {
            trusted_proxies: trusted.iter().map(|t| t.parse().unwrap()).collect(),
            ..Settings::load(None, &|n| {
                (n == "FRESH_MEADOW_DATABASE_URL").then(|| "postgres://x".to_owned())
            })
            .unwrap()
        });
        Peer::from(Some(connected.parse().unwrap()), &headers, Some(&settings)).0
    }

    #[test]
    fn only_a_trusted_proxy_is_believed_and_only_its_own_word() {
        assert_eq!(peer("192.0.2.7", &["198.51.100.9"], &[]), "192.0.2.7");
        let proxy = &["192.0.2.7"];
        assert_eq!(peer("192.0.2.7", &["198.51.100.9"], proxy), "198.51.100.9");
        assert_eq!(
            peer("192.0.2.7", &["203.0.113.1, 198.51.100.9"], proxy),
            "198.51.100.9",
            "what stands before the proxy's word anybody may have written"
        );
        assert_eq!(
            peer(
                "192.0.2.7",
                &["203.0.113.1", "198.51.100.9, 192.0.2.8"],
                &["192.0.2.7", "192.0.2.8"]
            ),
            "198.51.100.9"
        );
        assert_eq!(peer("203.0.113.5", &["198.51.100.9"], proxy), "203.0.113.5");
        assert_eq!(peer("192.0.2.7", &["nobody"], proxy), "192.0.2.7");
    }

    #[test]
    fn a_household_has_one_network() {
        assert_eq!(peer("2001:db8:1:2:aaaa::1", &[], &[]), "2001:db8:1:2::/64");
        assert_eq!(peer("::ffff:192.0.2.7", &[], &[]), "192.0.2.7");
        assert_eq!(peer("::1", &[], &[]), "::1");
    }
}
