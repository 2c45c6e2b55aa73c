//! A project as the templates read it: plain data, in which nothing is left to work out but how a language says it.

mod keys;
mod laid;
mod own;
mod passages;
mod sent;
mod zone;

use serde::Serialize;

pub use keys::{ActionModel, AskModel, ButtonModel, ContactModel, JumpModel, KeysModel, StateModel};
pub use laid::{DigitsModel, DotsModel, GlyphModel, MarkModel, SeatsModel, SetModel};
pub use own::{FontModel, OwnDigits, OwnDots, OwnLamp, OwnModel};
pub use passages::PassageModel;
pub use sent::{BusLine, BusModel, Piece, ResendModel, Run, ScanModel, StepModel};
pub use zone::{ZoneChange, ZoneModel};

use sent::place_of;

/// The whole project.
#[derive(Debug, Clone, Serialize)]
pub struct Model {
    /// What the rig is called.
    pub title: String,
    /// What the reel is called, or the app.
    pub content: String,
    /// The controller, by its name in the rig.
    pub controller: String,
    /// Its clock, where it is known.
    pub clock: Option<u32>,
    /// Its memory for programs and tables, in bytes.
    pub flash: Option<u64>,
    /// Its memory for variables.
    pub ram: Option<u64>,
    /// Each line once.
    pub lines: Vec<Line>,
    /// The faces that show something, in the rig's order.
    pub faces: Vec<FaceModel>,
    /// Whether times are longer than a 16-bit count of milliseconds carries.
    pub long_times: bool,
    /// Values that are shown and are not known beforehand.
    pub values: Vec<ValueModel>,
    /// Variables that are shown and stay what they are at first, with that value.
    pub fixed: Vec<(String, String)>,
    /// The buttons on pins that do something, or of a person's own program all.
    pub pin_buttons: Option<KeysModel>,
    /// Whether a key holds what plays.
    pub holds: bool,
    /// True if a person's own program says what is shown.
    pub is_own: bool,
    /// The fonts with which it can write on dots.
    pub fonts: Vec<FontModel>,
}

/// A value that keys change or that the person's own code gives.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct ValueModel {
    /// The variable of the reel.
    pub variable: String,
    /// Its name in the source.
    pub id: String,
    /// What it is at first, in units of its last place.
    pub first: i64,
    /// How many places after the point it has.
    pub places: u32,
    /// How many bits it takes in the source, with its sign: 16 or 32.
    pub bits: u32,
    /// Whether the person's own code gives it.
    pub is_given: bool,
    /// The meaning of its numbers, behind its name: `: 1 while it is lit`, `: 0 is "TEAL", 1 is "KNOT"`; empty if they are the value.
    pub means: String,
}

/// A lamp that a key lights and puts out.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct LampModel {
    /// Its name in the rig.
    pub name: String,
    /// The value that says whether it is lit.
    pub value: usize,
    /// What is lit of it.
    pub marks: Vec<MarkModel>,
}

/// A line of the controller.
#[derive(Debug, Clone, Serialize)]
pub struct Line {
    /// Its number in the program.
    pub number: usize,
    /// The controller's pin.
    pub pin: String,
    /// What it is for, one name for each face that is on it.
    pub names: Vec<String>,
    /// Whether it is ever let go, for a pull-up to make it high.
    pub is_open: bool,
    /// The controller's own pull that is switched on, if the line is only read: `up`, `down` or `none`.
    pub input: Option<&'static str>,
    /// Whether it is high between transfers.
    pub is_high: bool,
    /// The port that it is a bit of, where pins are that: `PB`, `P1`, `RA`.
    pub port: Option<String>,
    /// Its bit there.
    pub bit: Option<u8>,
    /// What it is called on the usual board: `13`, `A0`, or as in the data sheet; none where it comes out nowhere.
    pub board_pin: Option<String>,
}

/// One face.
#[derive(Debug, Clone, Serialize)]
pub struct FaceModel {
    /// Its name in the rig.
    pub name: String,
    /// Its name in the source.
    pub id: String,
    /// The same in capitals.
    pub caps: String,
    /// What it is: `4 seven-segment digits`.
    pub about: String,
    /// Its drive in words.
    pub drive: String,
    /// Its bus.
    pub bus: BusModel,
    /// From power to running and dark.
    pub power_up: Vec<StepModel>,
    /// A whole picture; of a scanned face one slot.
    pub frame: Vec<Piece>,
    /// How it is scanned.
    pub scan: Option<ScanModel>,
    /// The image of a dark face.
    pub dark: Vec<u8>,
    /// Its digits, where figures or strips are put on them.
    pub digits: Option<DigitsModel>,
    /// Its dots, where figures or strips are put on them.
    pub dots: Option<DotsModel>,
    /// Figures that are put on it.
    pub sets: Vec<SetModel>,
    /// Whole pictures: as the image has them, or of colours so many dots and their colour again and again, row by row.
    pub stills: Vec<Vec<u8>>,
    /// By colour: for each piece of a slot which of a dot's three lights are lit, the lowest line in bit 0. None where dots have one light.
    pub colours: Vec<Vec<u8>>,
    /// Moving strips, by column.
    pub strips: Vec<Vec<Vec<u8>>>,
    /// What it shows, one after another.
    pub passages: Vec<PassageModel>,
    /// The name of each of them in the source.
    pub shows: Vec<String>,
    /// Whether it ends with a picture that stays for good.
    pub has_end: bool,
    /// The transfers for each step of brightness; none where nothing changes it.
    pub brightness: Vec<Vec<StepModel>>,
    /// How many such steps a person's own program can set, by these transfers or by the scan.
    pub brightness_steps: usize,
    /// What is sent again and again, where the rig asks for it.
    pub resend: Option<ResendModel>,
    /// Its keys, where they do something.
    pub keys: Option<KeysModel>,
    /// The moments from which a key lets it go on.
    pub jumps: Vec<JumpModel>,
    /// Its lamps that keys switch.
    pub lamps: Vec<LampModel>,
    /// Whether what it shows is drawn again as values change.
    pub follows: bool,
    /// Whether keys run or set what it shows.
    pub is_heard: bool,
    /// Whether there are pictures for what does not fit.
    pub has_beyond: bool,
    /// True if a slow controller may fall behind.
    pub may_lag: bool,
    /// The tables from which a person's own program draws, if it does.
    pub own: Option<OwnModel>,
}

impl Model {
    /// Returns true if a person's own program writes on digits.
    pub fn has_own_digits(&self) -> bool {
        self.faces.iter().any(|face| matches!(face.own, Some(OwnModel::Digits(_))))
    }

    /// Returns true if it can ask whether a part acknowledges.
    pub fn hears_acknowledges(&self) -> bool {
        self.is_own && self.faces.iter().any(|face| ["i2c", "two_wire"].contains(&face.bus.kind))
    }

    /// Returns true if it writes on dots.
    pub fn has_own_dots(&self) -> bool {
        self.faces.iter().any(|face| matches!(face.own, Some(OwnModel::Dots(_))))
    }

    /// Returns true if buttons do something, or values are shown that are not known beforehand.
    pub(super) fn has_actions(&self) -> bool {
        !self.values.is_empty() || self.has_keys() && !self.is_own
    }

    /// Whether the person's own code gives values.
    pub(super) fn has_readings(&self) -> bool {
        self.values.iter().any(|value| value.is_given)
    }

    /// Whether keys do something.
    pub(super) fn has_keys(&self) -> bool {
        self.keypads().next().is_some()
    }

    /// All buttons: those of each face, then those on pins.
    pub(super) fn keypads(&self) -> impl Iterator<Item = &KeysModel> {
        self.faces.iter().filter_map(|face| face.keys.as_ref()).chain(&self.pin_buttons)
    }

    /// All that keys do.
    pub(super) fn actions(&self) -> impl Iterator<Item = &ActionModel> {
        self.keypads().flat_map(|keys| &keys.buttons).flat_map(|button| &button.does)
    }

    /// Whether a key adds at another figure than the last one.
    pub(super) fn steps_at_figures(&self) -> bool {
        self.actions().any(|action| matches!(action, ActionModel::Add { at: Some(_), .. }))
    }

    /// How many bits hold a bit for each button that is read together with others: 8, 16 or 32.
    pub(super) fn key_bits(&self) -> u32 {
        let counts = self.keypads().map(|keys| keys.buttons.len());
        let most = if self.is_own { counts.sum() } else { counts.max().unwrap_or(0) };
        match most {
            0..=8 => 8,
            9..=16 => 16,
            _ => 32,
        }
    }
}

impl FaceModel {
    /// The rows of a face of dots on which a person's own program writes.
    pub(super) fn own_height(&self) -> Option<usize> {
        match &self.own {
            Some(OwnModel::Dots(dots)) => Some(dots.height),
            _ => None,
        }
    }

    /// The longest time for which one thing is shown, in milliseconds.
    pub(super) fn longest(&self) -> u32 {
        self.passages.iter().map(PassageModel::longest).max().unwrap_or(0)
    }

    /// Whether a time of it does not fit half of a 16-bit count.
    pub(super) fn has_long_times(&self) -> bool {
        let resends = self.resend.as_ref().map(|resend| resend.every);
        let clocks = self.passages.iter().filter_map(|passage| match passage {
            // The time as it is goes on however long something else is shown.
            PassageModel::Clock { goes_on: true, .. } => Some(u32::MAX),
            PassageModel::Clock { lasts, .. } => Some(*lasts),
            _ => None,
        });
        clocks.chain(resends).chain([self.longest()]).any(|time| time > 0x7FFF)
    }
}
