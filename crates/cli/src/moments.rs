//! Moments, and the time zone of this computer.

use std::path::Path;

use jiff::Timestamp;
use jiff::tz::TimeZone;
use spare_tile_core::play::clock::{parse_moment, parse_zone};

/// Reads a moment for an option `--time`: a time of today, a date and time, or one with its own offset. Without an offset it is in
/// the zone of this computer.
pub fn moment(text: &str) -> Result<Timestamp, String> {
    parse_moment(text, &local_zone(), Timestamp::now()).map_err(|error| error.to_string())
}

/// Returns the zone of this computer: the one that TZ names, or the one that the file of the system links to, or UTC.
pub fn local_zone() -> TimeZone {
    let named = std::env::var("TZ").ok().filter(|name| !name.is_empty());
    let of_system = || {
        let file = Path::new("/etc/localtime").canonicalize().ok()?;
        let (_, name) = file.to_str()?.split_once("zoneinfo/")?;
        Some(name.to_owned())
    };
    let name = named.map(|name| name.trim_start_matches(':').to_owned()).or_else(of_system);
    name.and_then(|name| parse_zone(&name).ok()).unwrap_or(TimeZone::UTC)
}
