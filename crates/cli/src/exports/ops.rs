//! Logs of operations.

use super::Format;

/// A log of operations: a line of JSON for each.
pub struct OpsLog;

impl Format for OpsLog {
    fn wrote(&self, bytes: &[u8]) -> bool {
        bytes.starts_with(b"{\"spare_tile_ops")
    }
}
