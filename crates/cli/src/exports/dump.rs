//! Value change dumps: what lines do.

use std::path::Path;

use spare_tile_core::capture::vcd::{self, Scope};
use spare_tile_core::units::Nanos;

use super::{Format, has_mark, write_and_tell};
use crate::failure::Outcome;
use crate::session::Session;

/// A value change dump.
pub struct ValueChanges;

impl Format for ValueChanges {
    fn wrote(&self, bytes: &[u8]) -> bool {
        has_mark(bytes, "$version spare-tile ")
    }
}

/// Writes a dump of a face's lines, up to `end`, and says so.
pub fn write(path: &Path, scope: Scope<'_>, end: Nanos, session: &mut Session<'_>) -> Outcome {
    write_and_tell(path, &ValueChanges, session, |out| vcd::write(out, &[scope], end))
}
