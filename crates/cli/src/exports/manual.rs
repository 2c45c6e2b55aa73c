//! Pages of the manual.

use super::{Format, has_mark};

/// A page of the manual.
pub struct ManualPage;

impl Format for ManualPage {
    fn wrote(&self, bytes: &[u8]) -> bool {
        has_mark(bytes, ".TH spare-tile")
    }
}
