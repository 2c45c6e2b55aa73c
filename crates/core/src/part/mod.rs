//! The parts, a folder each.
//!
//! A part's folder reads like its data sheet: its figures, the keys of its drive table, `driver.rs` the words to send as a
//! programmer reads them, `model.rs` what the part does with the edges it gets, and the two maps between lights and nodes:
//! the sending side's wiring, the receiving side's geometry. Driver and wiring share no code with model and geometry, so
//! that each can catch the other's mistakes. What a family shares has a module too: `hc`, `tm163x`, [`expander`], and
//! `grid` for parts with a display memory of grids and lines.
//!
//! ```text
//!           sending                               receiving
//!  frame --wiring--> nodes --Driver--> ops     edges --Model--> nodes lit --geometry--> lights
//!          |______________ Plan ______________________________________________________|
//! ```
//!
//! A part's plan is plain data; [`Part`] says what can be had of it, [`Display`] what of one that lights a face, [`Outputs`]
//! what of one that has outputs. A new part is a folder, its `mod` line and a line in `parts!`.

mod chip;
mod digits;
pub mod expander;
mod grid;
mod hc;
pub mod hc573;
pub mod hc595;
pub mod ht16k33;
pub mod max7219;
pub mod modules;
mod outside;
pub mod pins;
pub mod rgb_panel;
pub mod tm1637;
pub mod tm1638;
mod tm163x;
pub mod trouble;

use crate::rig::Spanned;
use crate::rig::value::Value;

use crate::schema::{Schema, SchemaGenerator};

use crate::bare::circuit::{Circuit, Hangs, SwitchKind, Timing};
use crate::bare::lights::{self, Lights};
use crate::bare::ratings::Ratings;
use crate::bare::{MAX_DEPTH, PlannedCircuit, Scanner};
use crate::bus::{Protocol, Transfer};
use crate::driver::{Driver, Writer};
use crate::face::{Channels, Element, Face};
use crate::frame::Level;
use crate::geometry::Geometry;
use crate::glyph::{BitOrder, Common, Segments};
use crate::meaning::Meaning;
use crate::model::Model;
use crate::rig::{Controller, DriveTable, Line, Place, Problem};
use crate::units::{Milliamps, Nanos, Volts, parse_duration};
use crate::wiring::Wiring;

pub use chip::{Chip, ChipPin, Component, DECOUPLING, Header, Wire, WireEnd};
use grid::GridKeys;
use modules::Hung;
pub use outside::Outside;
use trouble::PartTrouble;

/// Makes the lists of parts out of one line for each.
macro_rules! parts {
    (
        displays { $($display:ident $Display:ident,)+ }
        outputs { $($output:ident $Output:ident,)+ }
        families { $($family:ident,)+ }
    ) => {
        /// How a face is driven: the plan of what stands between the lines and its lights.
        #[derive(Debug, Clone, PartialEq)]
        #[allow(missing_docs, reason = "the parts say what they are")]
        #[allow(clippy::large_enum_variant, reason = "a rig has a handful, and none is moved about")]
        pub enum Drive {
            $($Display($display::Plan),)+
            /// A bare display behind something with outputs.
            Bare(Bare),
            /// A part of another crate.
            Outside(Outside),
        }

        /// Something with outputs, as a plan.
        #[derive(Debug, Clone, PartialEq)]
        #[allow(missing_docs, reason = "the parts say what they are")]
        pub enum OutputPlan {
            $($Output($output::Plan),)+
            /// I2C port expanders.
            Expander(expander::Plan),
        }

        impl Drive {
            /// The plan, as what it can be asked.
            #[must_use]
            pub fn display(&self) -> &dyn Display {
                match self {
                    $(Self::$Display(plan) => plan,)+
                    Self::Bare(bare) => bare,
                    Self::Outside(plan) => plan.display(),
                }
            }
        }

        impl OutputPlan {
            /// The plan, as what it can be asked.
            #[must_use]
            pub fn outputs(&self) -> &dyn Outputs {
                match self {
                    $(Self::$Output(plan) => plan,)+
                    Self::Expander(plan) => plan,
                }
            }
        }

        /// Every method that a rig may name.
        pub fn methods() -> impl Iterator<Item = &'static dyn Method> {
            [$($output::METHODS,)+ $($family::METHODS,)+ $($display::METHODS,)+].into_iter().flatten().copied()
        }
    };
}

parts! {
    displays {
        max7219 Max7219,
        tm1637 Tm1637,
        tm1638 Tm1638,
        ht16k33 Ht16k33,
        rgb_panel RgbPanel,
    }
    outputs {
        pins Pins,
        hc573 Hc573,
        hc595 Hc595,
    }
    families {
        expander,
    }
}

/// A way of driving a face, as a rig file names it. Another crate can have its own: [`crate::plan::Rig::read_with`].
pub trait Method: Sync {
    /// The word in the rig file.
    fn name(&self) -> &'static str;

    /// The inks of each dot of a face; the first is the default.
    fn channels(&self) -> &'static [Channels] {
        &[Channels::One]
    }

    /// The common side that the digits must have; `None` where both are possible and the rig must say.
    fn common(&self) -> Option<Common>;

    /// Plans the drive of one face. What is wrong with the table is reported through it; `None` means that no
    /// drive can be made, and then at least one error was reported.
    fn plan(&self, face: &Face, controller: &Controller, table: &DriveTable<'_>) -> Option<Planned>;

    /// A rig's lines for a face on one such part and for its drive, without the method: for looking at traffic of which
    /// no rig is at hand. `None` where there is nothing usual.
    fn sample(&self) -> Option<Sample> {
        None
    }

    /// The schemas of the structs that its drive table is read into: together they state its keys, all but the method.
    fn keys(&self, generator: &mut SchemaGenerator) -> Vec<Schema>;

    /// Returns the needs of such a face with this method; `None` if the method cannot drive it.
    fn needs(&self, face: &Face) -> Option<Needs>;
}

/// A usual face of seven segments on one part.
#[derive(Debug, Clone, Copy)]
pub struct Sample {
    /// How many digits it has.
    pub digits: usize,
    /// The roles of its lines.
    pub lines: &'static [&'static str],
    /// The addresses of such parts, each for this many digits; empty if they have none.
    pub addresses: &'static [u8],
}

impl Sample {
    /// The pins of a drive: any, one for each line.
    #[must_use]
    pub fn pins(&self) -> Value {
        Value::table(self.lines.iter().copied().zip(1_i64..))
    }
}

/// The method of this name.
#[must_use]
pub fn method(name: &str) -> Option<&'static dyn Method> {
    methods().find(|method| method.name() == name)
}

/// The result of reading a face and its drive table.
pub struct Planned {
    /// How the part is spoken to.
    pub protocol: Protocol,
    /// Its lines, numbered as the protocol says.
    pub lines: Vec<Line>,
    /// From elements to nodes.
    pub wiring: Wiring,
    /// The high level of the lines where they arrive, after any level converter.
    pub level: Volts,
    /// The parts between the lines and the lights.
    pub drive: Drive,
}

/// The needs of a method.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Needs {
    /// Controller pins.
    pub pins: usize,
    /// Further parts in words: `3 74hc573`.
    pub parts: String,
}

/// The plan of a part, and the values derived from it. Every end is created again for each use.
pub trait Part {
    /// The parts between the controller and the lights, for a reader: `2 max7219 in a chain`.
    fn summary(&self) -> String;

    /// How many parts of which kind it takes: `2 74hc595`. Nothing where the controller's pins do it alone.
    fn parts(&self) -> String;

    /// Returns the meaning of a transfer, from its bytes alone.
    fn explain(&self, transfer: &Transfer<'_>) -> Meaning;

    /// The chips, the one that the controller feeds first. None where the controller's pins do it alone.
    fn chips(&self) -> Vec<Chip> {
        Vec::new()
    }

    /// The pins by which each chip feeds the next: of the one before, and of the one after. `None` if they do not.
    fn chained(&self) -> Option<(ChipPin, ChipPin)> {
        None
    }

    /// Returns the connections besides the lines, in the order in which to plug them.
    fn wires(&self) -> Vec<Wire> {
        Vec::new()
    }

    /// The pins of a module with such a chip; `None` if there are no such modules.
    fn header(&self) -> Option<Header> {
        None
    }

    /// The addresses of its chips on a two-wire bus. None where they have none.
    fn addresses(&self) -> &[u8] {
        &[]
    }

    /// Why it cannot show anything though everything is sent to it: a control pin that is open or tied wrongly.
    fn handicaps(&self) -> Vec<String> {
        Vec::new()
    }
}

/// A part that lights a face, or all that does.
pub trait Display: Part {
    /// The sending end: nodes to operations.
    fn driver(&self) -> Box<dyn Driver>;

    /// The receiving end: edges to lit nodes.
    fn model(&self, face: &Face) -> Box<dyn Model>;

    /// Where the lights at its nodes are, as the receiving side knows it, whatever their common side.
    fn geometry(&self, face: &Face) -> Geometry;

    /// How the segments of a digit stand in the bytes that are sent for it.
    ///
    /// # Errors
    /// Why there is no such byte.
    fn byte_code(&self, face: &Face, digit: usize) -> Result<ByteCode, NoByte>;

    /// The highest brightness step; `None` where the drive has no brightness.
    fn max_brightness(&self) -> Option<u8> {
        None
    }

    /// The light of a brightness step, 1 being the highest step's.
    fn step_light(&self, step: u8) -> f32 {
        let _ = step;
        1.0
    }

    /// The share of time that an element is lit at the highest brightness, the light that a picture is
    /// exposed for: more than 0, at most 1.
    fn full_duty(&self) -> f32;

    /// The light of an element that has greys, fully lit at the brightness of power-up, 1 being that at the highest.
    fn usual_light(&self) -> f32 {
        1.0
    }

    /// The buttons that are down, told from what the part answered; places in [`Self::button_names`].
    fn buttons_down(&self, answer: &[u8]) -> Vec<usize> {
        let _ = answer;
        Vec::new()
    }

    /// The push buttons of the face, by the rig's names.
    fn button_names(&self) -> &[String] {
        &[]
    }

    /// How often everything is to be sent again, where the rig asks for it.
    fn resend_every(&self) -> Option<Nanos> {
        None
    }

    /// Returns true if these segments of a digit can be lit together, and no others: a part that draws characters by itself has
    /// few of them.
    fn can_light(&self, face: &Face, segments: Segments) -> bool {
        let _ = (face, segments);
        true
    }

    /// Returns the average supply current of the part with a number of lights lit, at the brightness of power-up; `None`
    /// where it feeds no lights itself.
    fn draws(&self, lights: usize) -> Option<Milliamps> {
        let _ = lights;
        None
    }

    /// Returns the average supply current of the part while the elements of its face have these levels, at the brightness of
    /// power-up; `None` where it feeds no lights itself.
    fn draws_showing(&self, levels: &[Level]) -> Option<Milliamps> {
        self.draws(levels.iter().filter(|level| **level != Level::OFF).count())
    }

    /// The share of its full light that an element gets that has this level.
    fn light_of(&self, level: Level) -> f32 {
        if level == Level::OFF { 0.0 } else { 1.0 }
    }

    /// The dots across and down of each of the modules that the face is made of, where it is made of several alike.
    fn module(&self) -> Option<(usize, usize)> {
        None
    }

    /// The modules of a chain in their places, in its order; none where there is no chain of modules.
    fn hung(&self) -> Vec<Hung> {
        Vec::new()
    }

    /// How many steps of light above dark an element can have at one brightness: 1 where it is lit or dark.
    fn grey_steps(&self) -> u32 {
        1
    }

    /// Returns true if its lights follow its lines, as those of a bare display or a panel do, and no memory.
    fn follows_lines(&self) -> bool {
        self.circuit().is_some() || self.scan().is_some()
    }

    /// How the controller scans the lights, where it does.
    fn scan(&self) -> Option<ScanTimes> {
        None
    }

    /// Returns the items that the scan lights one after another, each by its name with its elements, in the order of the scan.
    fn selected(&self, face: &Face) -> Vec<(String, Vec<Element>)> {
        let _ = face;
        Vec::new()
    }

    /// Describes the bytes of [`Self::memory`] in words; `None` if there is no such memory.
    fn memory_words(&self) -> Option<&'static str> {
        None
    }

    /// Returns a frame in the form of the display memory of its parts; `None` if they have no memory of lights.
    fn memory(&self, nodes: &[Level]) -> Option<Vec<u8>> {
        let _ = nodes;
        None
    }

    /// Returns the result of every depth of colours or greys, if the controller makes them.
    fn depths(&self) -> Vec<Depth> {
        Vec::new()
    }

    /// Returns advice to read before connecting it, each as a sentence without its full stop.
    fn remarks(&self) -> Vec<String> {
        Vec::new()
    }

    /// The lights and what they hang on, where the display is bare.
    fn circuit(&self) -> Option<&Circuit> {
        None
    }

    /// The chip and the pin at which an output of a bare display's circuit is; `None` where it is the controller's own.
    fn output_at(&self, output: usize) -> Option<(usize, ChipPin)> {
        let _ = output;
        None
    }

    /// Returns the ratings of the outputs of a bare display's circuit.
    fn ratings(&self) -> Option<Ratings> {
        None
    }
}

/// How long the pieces of a scan are.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ScanTimes {
    /// All of it once.
    pub turn: Nanos,
    /// How many pieces it has, in each of which one digit, row or column is lit.
    pub slots: usize,
    /// The shortest of them.
    pub slot: Nanos,
    /// How long all is dark at the beginning of each.
    pub blanking: Nanos,
    /// How long a light is lit in a turn.
    pub lit: Nanos,
    /// How long before it is lit a row is shifted in: so much longer than a turn is something of the frame before seen.
    pub ahead: Nanos,
    /// The switch between them and the supply or ground, and the time for which it conducts after it is switched off.
    pub switch: (SwitchKind, Nanos),
}

impl ScanTimes {
    /// How often a second all have their turn.
    #[must_use]
    pub fn refresh(&self) -> f64 {
        1e9 / self.turn.0 as f64
    }

    /// The share of time that a light is lit.
    #[must_use]
    pub fn duty(&self) -> f64 {
        self.lit.0 as f64 / self.turn.0 as f64
    }
}

/// The result of a depth of colours or greys.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Depth {
    /// How many bits each light has.
    pub bits: u8,
    /// How often a second all rows can have their turn at most.
    pub fastest: f64,
    /// The share of its own time for which a row is lit while it has its turn as often as the rig wants; `None` where that is
    /// too often.
    pub lit: Option<f64>,
    /// True if it is the rig's.
    pub is_chosen: bool,
}

/// Something with outputs.
pub trait Outputs: Part {
    /// The sending end: levels to operations. Outputs that nothing hangs on rest at `unused`.
    fn writer(&self, unused: bool) -> Box<dyn Writer>;

    /// The receiving end: edges to levels.
    fn model(&self) -> Box<dyn Model>;

    /// The ratings of its outputs.
    fn ratings(&self) -> Ratings;

    /// Where an output stands in the bytes that are sent: which byte, counted so that a later one is more significant,
    /// and which bit of it. `None` if outputs are not bits of bytes.
    fn bit_of(&self, output: usize) -> Option<(usize, usize)>;

    /// The chip and the pin at which an output is; `None` where it is the controller's own.
    fn pin_of(&self, output: usize) -> Option<(usize, ChipPin)> {
        let _ = output;
        None
    }
}

/// The segments of a digit on the bits of the bytes that are sent for it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ByteCode {
    /// Which segment sits on which bit.
    pub order: BitOrder,
    /// The polarity: with a common cathode a 1 lights, with an anode a 0.
    pub polarity: Common,
}

/// Why there is no byte for a digit.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
pub enum NoByte {
    #[error("its segments are at single pins, which are bits of no byte")]
    SinglePins,
    #[error(
        "its segments are spread over the bits of several bytes, which have other lights too, or are too many"
    )]
    Spread,
    #[error(
        "the lines that select its digits are bits of the same byte, so that it is another for each digit"
    )]
    Mixed,
    #[error("its part draws the characters itself, from codes")]
    Decoded,
    #[error("it has dots and no digits")]
    Dots,
    #[error("segment {segment} has no wire")]
    NoWire { segment: &'static str },
}

impl Part for Drive {
    fn summary(&self) -> String {
        self.display().summary()
    }

    fn parts(&self) -> String {
        self.display().parts()
    }

    fn explain(&self, transfer: &Transfer<'_>) -> Meaning {
        self.display().explain(transfer)
    }

    fn chips(&self) -> Vec<Chip> {
        self.display().chips()
    }

    fn chained(&self) -> Option<(ChipPin, ChipPin)> {
        self.display().chained()
    }

    fn wires(&self) -> Vec<Wire> {
        self.display().wires()
    }

    fn header(&self) -> Option<Header> {
        self.display().header()
    }

    fn addresses(&self) -> &[u8] {
        self.display().addresses()
    }

    fn handicaps(&self) -> Vec<String> {
        self.display().handicaps()
    }
}

impl Drive {
    /// A bare display on outputs, and its wiring.
    #[must_use]
    pub fn bare(planned: PlannedCircuit, outputs: OutputPlan) -> (Self, Wiring) {
        let PlannedCircuit { circuit, wiring } = planned;
        (Self::Bare(Bare { circuit, outputs }), wiring)
    }
}

/// A bare display: a circuit behind something with outputs.
#[derive(Debug, Clone, PartialEq)]
pub struct Bare {
    /// The lights and what they hang on.
    pub circuit: Circuit,
    /// The owner of the outputs.
    pub outputs: OutputPlan,
}

impl Part for Bare {
    fn summary(&self) -> String {
        format!("{}, {}", self.outputs.outputs().summary(), self.circuit.summary())
    }

    fn parts(&self) -> String {
        self.outputs.outputs().parts()
    }

    fn explain(&self, transfer: &Transfer<'_>) -> Meaning {
        self.outputs.outputs().explain(transfer)
    }

    fn chips(&self) -> Vec<Chip> {
        self.outputs.outputs().chips()
    }

    fn chained(&self) -> Option<(ChipPin, ChipPin)> {
        self.outputs.outputs().chained()
    }

    fn wires(&self) -> Vec<Wire> {
        self.outputs.outputs().wires()
    }

    fn addresses(&self) -> &[u8] {
        self.outputs.outputs().addresses()
    }

    fn handicaps(&self) -> Vec<String> {
        self.outputs.outputs().handicaps()
    }
}

impl Display for Bare {
    fn driver(&self) -> Box<dyn Driver> {
        // Bits that nothing hangs on rest where dark lines do.
        let unused = !self.circuit.line_switch.active;
        Box::new(Scanner::new(&self.circuit, self.outputs.outputs().writer(unused)))
    }

    fn model(&self, face: &Face) -> Box<dyn Model> {
        Box::new(Lights::new(&self.circuit, face, self.outputs.outputs().model()))
    }

    fn geometry(&self, face: &Face) -> Geometry {
        lights::geometry(&self.circuit, face)
    }

    fn byte_code(&self, face: &Face, digit: usize) -> Result<ByteCode, NoByte> {
        let (style, outputs) = (face.style(), self.outputs.outputs());
        if face.dots().is_some() {
            return Err(NoByte::Dots);
        }
        let names = style.segment_names();
        let mut places = Vec::new();
        for (segment, name) in names.iter().enumerate() {
            let light = self.circuit.lights.get(face.element(digit, segment).0).copied();
            match light.and_then(|light| light.line) {
                Some(line) => places.push((segment, outputs.bit_of(line).ok_or(NoByte::SinglePins)?)),
                None if segment == style.point_index() => {}
                None => return Err(NoByte::NoWire { segment: name }),
            }
        }
        let selects_on = |byte: usize| {
            self.circuit.selects.iter().filter_map(|select| outputs.bit_of(*select)).any(|(on, _)| on == byte)
        };
        let (least, most) = places
            .iter()
            .fold((usize::MAX, 0), |(least, most), (_, (byte, _))| (least.min(*byte), most.max(*byte)));
        // Spread over more bytes than they need, as over two ports, they are still a word, where nothing else stands in it.
        let is_own = |place: &(usize, usize)| places.iter().any(|(_, own)| own == place);
        let lines = self.circuit.lights.iter().filter_map(|light| outputs.bit_of(light.line?));
        let is_shared = lines.filter(|place| !is_own(place)).any(|(byte, _)| (least..=most).contains(&byte));
        if most.saturating_sub(least) >= names.len().div_ceil(8) && is_shared {
            return Err(NoByte::Spread);
        }
        if (least..=most).any(selects_on) {
            return Err(NoByte::Mixed);
        }
        let width = 8 * (most - least + 1);
        let on_bit = |bit: usize| {
            let found = places.iter().find(|(_, (byte, of))| 8 * (byte - least) + of == bit);
            found.map_or("-", |(segment, _)| names[*segment])
        };
        let order: Vec<_> = (0..width).rev().map(on_bit).collect();
        let order = BitOrder::parse(&order.join(" "), style).map_err(|_| NoByte::Spread)?;
        let polarity = if self.circuit.line_switch.active { Common::Cathode } else { Common::Anode };
        Ok(ByteCode { order, polarity })
    }

    fn full_duty(&self) -> f32 {
        self.circuit.timing.as_ref().map_or(1.0, |timing| timing.duty() as f32)
    }

    fn scan(&self) -> Option<ScanTimes> {
        let switch = &self.circuit.select_switch;
        self.circuit.timing.map(|timing| ScanTimes {
            turn: timing.turn(),
            slots: timing.slots * usize::from(timing.depth),
            slot: timing.piece(),
            blanking: timing.blanking,
            lit: timing.lit(),
            ahead: Nanos(0),
            switch: (switch.kind, switch.turn_off),
        })
    }

    fn depths(&self) -> Vec<Depth> {
        let Some(timing) = self.circuit.timing.filter(|timing| timing.depth > 1) else { return Vec::new() };
        let of_depth = |bits: u8| {
            let of = Timing { depth: bits, ..timing };
            let blanking = timing.blanking.0 * u64::from(bits);
            // The shortest piece is as long as a write.
            let least = (blanking + timing.write.0 * of.steps()) * timing.slots as u64;
            let is_possible = blanking < timing.slot().0 && of.piece() - timing.blanking > timing.write;
            Depth {
                bits,
                fastest: 1e9 / least.max(1) as f64,
                lit: is_possible.then(|| of.lit().0 as f64 / timing.slot().0 as f64),
                is_chosen: bits == timing.depth,
            }
        };
        (1..=MAX_DEPTH).map(of_depth).collect()
    }

    fn grey_steps(&self) -> u32 {
        self.circuit.timing.map_or(1, |timing| timing.steps() as u32)
    }

    fn light_of(&self, level: Level) -> f32 {
        match self.circuit.timing.filter(|timing| timing.depth > 1) {
            Some(timing) => f32::from(level.step(timing.depth, self.circuit.gamma)) / timing.steps() as f32,
            None => {
                if level == Level::OFF {
                    0.0
                } else {
                    1.0
                }
            }
        }
    }

    fn selected(&self, face: &Face) -> Vec<(String, Vec<Element>)> {
        let elements = |hangs: Hangs| -> Vec<Element> {
            let (width, height) = face.dots().map_or((0, 0), |grid| (grid.width, grid.height));
            match hangs {
                Hangs::Digit(digit) if digit < face.digits() => {
                    (0..face.style().segment_count()).map(|segment| face.element(digit, segment)).collect()
                }
                Hangs::Row(y) => (0..width).filter_map(|x| face.dot(x, y)).collect(),
                Hangs::Column(x) => (0..height).filter_map(|y| face.dot(x, y)).collect(),
                _ => Vec::new(),
            }
        };
        let outputs = self.circuit.selects.iter().map(|select| &self.circuit.outputs[*select]);
        let named = outputs.map(|output| (output.role.clone(), elements(output.hangs)));
        named.filter(|(_, elements)| !elements.is_empty()).collect()
    }

    fn circuit(&self) -> Option<&Circuit> {
        Some(&self.circuit)
    }

    fn ratings(&self) -> Option<Ratings> {
        Some(self.outputs.outputs().ratings())
    }

    fn output_at(&self, output: usize) -> Option<(usize, ChipPin)> {
        self.outputs.outputs().pin_of(output)
    }
}

/// Nodes as bytes, `lines` of them at a time, the first of each in bit 0 of its first byte.
fn packed(nodes: &[Level], lines: usize) -> Vec<u8> {
    let byte = |nodes: &[Level]| {
        nodes.iter().rev().fold(0, |byte, level| byte << 1 | u8::from(*level != Level::OFF))
    };
    nodes.chunks(lines).flat_map(|line| line.chunks(8).map(byte).collect::<Vec<_>>()).collect()
}

/// Returns the average current of a number of lights at a brightness step: the current of one while it is lit, over the share of time
/// that it is.
fn mean_current(display: &dyn Display, lights: usize, each: Milliamps, step: u8) -> Milliamps {
    each * lights as f64 * f64::from(display.full_duty() * display.step_light(step))
}

/// Reports lights that are the other way round in their wires than the part drives them.
fn check_common(face: &Face, part: &'static str, wants: Common, table: &DriveTable<'_>) {
    if face.common != wants {
        table.defect(Place::Face("common"), PartTrouble::WrongCommon { part, wants });
    }
}

/// Warns of a supply that the part does not take for sure; one that is too high damages it.
fn check_supply(
    controller: &Controller,
    part: &'static str,
    (least, most): (Volts, Volts),
    table: &DriveTable<'_>,
) {
    let found = controller.supply_volts;
    let trouble = PartTrouble::Supply { part, found, least, most };
    if found > most {
        table.defect(Place::Controller("supply"), trouble);
    } else if found < least {
        table.warn(Place::Controller("supply"), trouble);
    }
}

/// The high level of most inputs is this share of the supply (CMOS inputs, V_IH).
const USUAL_HIGH: f64 = 0.7;

/// Returns the high level at the part, after any level converter. Warns if it is not a sure high: under seven tenths of
/// its supply.
fn check_logic(
    controller: &Controller,
    part: &'static str,
    bus_volts: Option<Spanned<f64>>,
    table: &DriveTable<'_>,
) -> Volts {
    check_high(controller, part, USUAL_HIGH, bus_volts, table)
}

/// The same for a part whose inputs need another share of the supply.
fn check_high(
    controller: &Controller,
    part: &'static str,
    share: f64,
    bus_volts: Option<Spanned<f64>>,
    table: &DriveTable<'_>,
) -> Volts {
    let volts = table.or_assume("bus_volts", bus_volts, controller.logic_volts.0);
    let least = Volts((controller.supply_volts.0 * 10.0 * share).round() / 10.0);
    let found = Volts(*volts.get_ref());
    if found < least {
        table.warn(volts.span(), PartTrouble::LowLevel { part, found, least });
    }
    found
}

/// Warns of lines that modules pull up to a supply which the controller's pins do not stand; `lines` are those.
fn check_pulled_up<'l>(
    controller: &Controller,
    part: &'static str,
    level: Volts,
    lines: impl Iterator<Item = &'l Line>,
    table: &DriveTable<'_>,
) {
    let supply = controller.supply_volts;
    // Behind a level converter the pins see their own level.
    if level >= supply {
        return;
    }
    let too_weak: Vec<_> = lines.filter(|line| controller.stands(&line.known) < supply).collect();
    if let Some(most) = too_weak
        .iter()
        .map(|line| controller.stands(&line.known))
        .reduce(|one, other| if other < one { other } else { one })
    {
        let pins = too_weak.iter().map(|line| line.pin.to_string()).collect::<Vec<_>>().join(", ");
        let controller = controller.called().to_owned();
        table.warn(Place::Drive("pins"), PartTrouble::PulledUp { part, pins, controller, supply, most });
    }
}

/// The brightness step of a drive table.
fn brightness(keys: &GridKeys, usual: u8, most: u8, table: &DriveTable<'_>) -> u8 {
    let step = table.or_assume("brightness", keys.brightness.clone(), usual);
    table.check_range(&step, 0, most);
    *step.get_ref()
}

/// Everything is not sent again more often than this: it would leave no time for anything else.
const RESEND_LEAST: Nanos = Nanos(10_000_000);

/// How often everything is sent again; `None` when an error was found.
fn resend(written: Option<&Spanned<String>>, table: &DriveTable<'_>) -> Option<Option<Nanos>> {
    let Some(written) = written else { return Some(None) };
    let every = parse_duration(written.get_ref()).ok().map(Nanos::from);
    let every = every.filter(|every| *every >= RESEND_LEAST);
    if every.is_none() {
        let found = format!("{:?}", written.get_ref());
        let allowed = format!("a duration of {RESEND_LEAST} or more, such as \"10s\"");
        table.error(written.span(), Problem::WrongValue { found, allowed });
    }
    every.map(Some)
}

/// The place of each push button of a face; `allowed` says in words which there are.
fn buttons(
    place: impl Fn(&str) -> Option<Button>,
    allowed: &str,
    table: &DriveTable<'_>,
) -> Option<Vec<Button>> {
    let of_button = |(_, node): &(&str, &Spanned<String>)| {
        let found = place(node.get_ref());
        if found.is_none() {
            let (found, allowed) = (format!("{:?}", node.get_ref()), allowed.to_owned());
            table.error(Place::Span(node.span()), Problem::WrongValue { found, allowed });
        }
        found
    };
    table.keys().iter().map(of_button).collect()
}

/// The place of a push button in what is read: its byte and bit.
pub type Button = (usize, u8);

/// A bit of the bytes that a part answers, by name: `byte2.bit4`.
fn parse_button_bit(name: &str) -> Option<Button> {
    let (byte, bit) = name.strip_prefix("byte")?.split_once(".bit")?;
    Some((byte.parse().ok()?, bit.parse().ok().filter(|bit| *bit < 8)?))
}

/// Which of these bits are set in an answer.
fn buttons_down(bits: &[Button], answer: &[u8]) -> Vec<usize> {
    let is_down = |(byte, bit): &Button| answer.get(*byte).is_some_and(|byte| byte >> bit & 1 == 1);
    bits.iter().enumerate().filter(|(_, place)| is_down(place)).map(|(button, _)| button).collect()
}
