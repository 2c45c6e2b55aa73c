//! Two rigs: what is described, and what is built.

use super::{PinButton, Rig};
use crate::rig::Document;

/// A rig as it is described, which says what is sent, and as it is built, which receives it.
#[derive(Debug, Clone, Copy)]
pub struct BothRigs<'r> {
    /// The rig as the file describes it.
    pub described: &'r Rig,
    /// The hardware; of the same faces, in the same order.
    pub built: &'r Rig,
}

impl<'r> BothRigs<'r> {
    /// A rig, and its hardware if that is another one.
    #[must_use]
    pub fn new(described: &'r Rig, built: Option<&'r Rig>) -> Self {
        Self { described, built: built.unwrap_or(described) }
    }
}

/// Why one rig cannot be the hardware of another.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum BuiltError {
    /// A face is missing.
    #[error("the rig as built has no face '{face}'")]
    NoFace {
        /// Which.
        face: String,
    },
    /// A push button on a pin is missing.
    #[error("the rig as built has no button '{button}'")]
    NoButton {
        /// Which.
        button: String,
    },
    /// A face is another kind of display, or has other colons and lamps.
    #[error("face '{face}' is described as {described} and built as {built}")]
    OtherFace {
        /// Which.
        face: String,
        /// Its name in words.
        described: String,
        /// The hardware as built.
        built: String,
    },
    /// A face has other colons and lamps.
    #[error("face '{face}' has other colons or lamps as built than as described")]
    OtherExtras {
        /// Which.
        face: String,
    },
}

impl Rig {
    /// The hardware that a file describes as a change of this rig, with the circuits as they are: where only `common` differs another
    /// display is in them.
    #[must_use]
    pub fn with_circuits_kept(&self, mut changed: Document) -> Document {
        for mount in self.faces.iter().filter(|mount| mount.drive.display().circuit().is_some()) {
            let face = ["face", mount.face.name.as_str()];
            let says = |key: &[&str]| changed.get(&[&face, key].concat()).is_some();
            if says(&["common"]) && !says(&["drive", "wired_for"]) && !says(&["drive", "method"]) {
                changed.set(&[&face[..], &["drive", "wired_for"]].concat(), mount.face.common.name());
            }
        }
        changed
    }

    /// This rig as the hardware of another: the same faces and buttons in the same order, however they are driven and wired.
    ///
    /// # Errors
    /// When a face or a button is missing, or a face is another display.
    pub fn as_built_for(mut self, described: &Self) -> Result<Self, BuiltError> {
        let mut faces = Vec::with_capacity(described.faces.len());
        for mount in &described.faces {
            let face = mount.face.name.clone();
            let Some(place) = self.faces.iter().position(|built| built.face.name == face) else {
                return Err(BuiltError::NoFace { face });
            };
            let built = self.faces.swap_remove(place);
            if built.face.layout != mount.face.layout {
                let (described, built) = (mount.face.summary(), built.face.summary());
                return Err(BuiltError::OtherFace { face, described, built });
            }
            if built.face.extras != mount.face.extras {
                return Err(BuiltError::OtherExtras { face });
            }
            faces.push(built);
        }
        self.faces = faces;
        let of = |button: &PinButton| {
            let built = self.pin_buttons().iter().find(|built| built.name == button.name);
            built.cloned().ok_or_else(|| BuiltError::NoButton { button: button.name.clone() })
        };
        let buttons = described.pin_buttons().iter().map(of).collect::<Result<Vec<_>, _>>()?;
        if let Some(own) = &mut self.buttons {
            own.buttons = buttons;
        }
        Ok(self)
    }
}
