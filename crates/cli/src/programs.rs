//! Programs for controllers, and the reasons why a target does not support one.

use spare_tile_core::plan::Rig;
use spare_tile_firmware::project::error::ProjectError;
use spare_tile_firmware::project::making::Content;
use spare_tile_firmware::project::targets::Target;
use spare_tile_firmware::project::{self, Texts, WriteError, Written};

use crate::failure::Failure;

/// Returns the files of a program.
///
/// # Errors
/// If the target does not support it.
pub fn write(
    rig: &Rig,
    content: &Content<'_>,
    target: &dyn Target,
    texts: &Texts<'_>,
) -> Result<Vec<Written>, Failure> {
    project::write(rig, content, target, texts).map_err(|error| {
        let help = "other targets: c99 runs on anything; see the list in docs/guide/firmware-targets.md";
        match error {
            WriteError::Project(error @ ProjectError::Target { .. }) => {
                Failure::unusable(error.to_string(), help)
            }
            error => Failure::unusable_plainly(error.to_string()),
        }
    })
}
