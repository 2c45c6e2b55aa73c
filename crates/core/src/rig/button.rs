//! The table of a push button on a pin of the controller, as it is written in a rig file.

use super::pin::Pin;
use super::spanned::Spanned;
use crate::words::words;

words! {
    /// The level of a button's pin while it is pressed.
    #[derive(Default)]
    pub enum Active {
        /// The button connects the pin with ground.
        #[default] Low = "low",
        /// The button connects the pin with the controller's high level.
        High = "high",
    }
}

words! {
    /// The pull that keeps a button's pin at the other level while nobody presses.
    pub enum Pull {
        /// The controller's own pull-up or pull-down.
        Controller = "controller",
        /// A resistor of its own.
        Resistor = "resistor",
    }
}

impl Active {
    /// The level while the button is pressed.
    #[must_use]
    pub const fn level(self) -> bool {
        matches!(self, Self::High)
    }

    /// The name of what keeps the pin at the other level.
    #[must_use]
    pub const fn pull(self) -> &'static str {
        match self {
            Self::Low => "pull-up",
            Self::High => "pull-down",
        }
    }
}

/// The keys of a push button on a pin of the controller.
#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct ButtonKeys {
    /// The controller's pin.
    pub pin: Spanned<Pin>,
    /// The level of the pin while the button is pressed: "low" is a button to ground.
    pub active: Option<Spanned<Active>>,
    /// The pull that keeps the pin at the other level meanwhile.
    pub pull: Option<Spanned<Pull>>,
}
