//! What a face's drive sends, as data: which bytes stay the same, and which bit of which byte is which light.
//!
//! It is learnt from the sending side's own driver: each light alone is put into a frame, and the one bit that it changes is its
//! place. So whatever a part's driver says a program for a controller says too, and a new part needs nothing here. A drive
//! whose bytes are no sum of such bits, as where a part draws characters from codes, is refused.
//!
//! ```text
//!  image   [ b0 ][ b1 ][ b2 ] ...            what the program keeps in memory
//!             \     \     \
//!  frame   01 b0 | 02 b1 | 03 b2 | ...       steps: what it sends, byte by byte, fixed or of the image
//! ```

use std::collections::BTreeMap;

use crate::bus::{Op, Ops, Role, Transfer};
use crate::driver::{Driver, Writer};
use crate::face::Element;
use crate::frame::{Frame, Level};
use crate::part::{Bare, Drive};
use crate::plan::Mount;
use crate::units::Nanos;

/// What a drive sends.
#[derive(Debug, Clone, PartialEq)]
pub struct Sending {
    /// From power to running and dark.
    pub power_up: Vec<Step>,
    /// A whole picture; of a scanned face one slot of it.
    pub frame: Vec<Step>,
    /// Everything again, for a part that lost power.
    pub resend: Vec<Step>,
    /// Each step of brightness; none where the drive has none.
    pub brightness: Vec<Vec<Step>>,
    /// How the controller scans, where it does.
    pub scan: Option<Scan>,
    /// The image of a dark face: of a scanned one the slots one after another, and so for each bit of light.
    pub dark: Vec<u8>,
    /// By element: where in the image it is; none where it is not wired. Of a scanned one its lowest bit of light.
    pub places: Vec<Option<Place>>,
}

/// A transfer, byte by byte.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Step {
    /// What it is for.
    pub role: Role,
    /// What kind of transfer.
    pub carried: Carried,
    /// Its bytes.
    pub cells: Vec<Cell>,
}

/// What kind of transfer a step is.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Carried {
    /// Bytes in one frame of the bus.
    Bytes,
    /// Bytes to an address.
    To(u8),
    /// Output enable goes off.
    OutputsOff,
    /// Levels of pins: which bits of each byte are set.
    Levels(Vec<u8>),
}

/// A byte of a transfer.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Cell {
    /// Always the same.
    Fixed(u8),
    /// A byte of the image, by its place; of a scanned face within the slot.
    Image(usize),
}

/// Where a light is in the image.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct Place {
    /// Which byte.
    pub byte: usize,
    /// Which bit of it.
    pub bit: u8,
    /// The bit's level while it is lit.
    pub lit: bool,
    /// Whether it is in every slot of a scan, as a light is that no slot selects.
    pub in_all: bool,
}

/// How the controller scans.
#[derive(Debug, Clone, PartialEq)]
pub struct Scan {
    /// How many slots.
    pub slots: usize,
    /// How many bytes of the image each has.
    pub width: usize,
    /// How often each has its turn.
    pub turn: Nanos,
    /// How long all is dark at the beginning of each.
    pub blanking: Nanos,
    /// Darkens; nothing where a slot needs no blanking.
    pub blank: Vec<Step>,
    /// How many bits of light an element has.
    pub depth: u8,
    /// The bits of every level.
    pub steps: Vec<u8>,
}

/// Why nothing can be learnt of a drive.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum Unlearnt {
    /// Bytes that are no bits of lights.
    #[error("its part draws the characters itself, from codes: leave decode out of the drive")]
    Codes,
    /// The colours of a panel.
    #[error("a colour panel is scanned faster than a program for it is written here")]
    Panel,
}

impl Sending {
    /// Learns what the drive of a face sends.
    ///
    /// # Errors
    /// When its bytes cannot be told as bits of lights.
    pub fn of(mount: &Mount) -> Result<Self, Unlearnt> {
        match &mount.drive {
            Drive::Bare(bare) => Ok(of_outputs(mount, bare)),
            Drive::RgbPanel(_) => Err(Unlearnt::Panel),
            _ => of_part(mount),
        }
    }

    /// The image of a frame.
    #[must_use]
    pub fn image(&self, frame: &Frame) -> Vec<u8> {
        let mut image = self.dark.clone();
        let (depth, slots, width) =
            self.scan.as_ref().map_or((1, 1, 0), |scan| (scan.depth, scan.slots, scan.width));
        let plane = slots * width;
        for (place, level) in self.places.iter().zip(frame.levels()) {
            let Some(place) = place else { continue };
            let steps = match &self.scan {
                Some(scan) => scan.steps[usize::from(level.0)],
                None => u8::from(*level != Level::OFF),
            };
            for bit in (0..depth).filter(|bit| steps >> bit & 1 == 1) {
                for slot in 0..if place.in_all { slots } else { 1 } {
                    set(
                        &mut image[place.byte + slot * width + usize::from(bit) * plane],
                        place.bit,
                        place.lit,
                    );
                }
            }
        }
        image
    }

    /// The place of an element.
    #[must_use]
    pub fn place(&self, element: Element) -> Option<Place> {
        self.places.get(element.0).copied().flatten()
    }
}

impl Scan {
    /// How many bytes of the image one bit of light has.
    #[must_use]
    pub const fn plane(&self) -> usize {
        self.slots * self.width
    }
}

impl Step {
    fn fixed(op: &Op<'_>) -> Self {
        let cells = op.transfer.bytes().iter().map(|byte| Cell::Fixed(*byte)).collect();
        Self { role: op.role, carried: carried(&op.transfer), cells }
    }

    /// Whether it sets no pin.
    fn changes_nothing(&self) -> bool {
        matches!(&self.carried, Carried::Levels(mask) if mask.iter().all(|bits| *bits == 0))
    }

    /// Whether it sends anything of the image.
    #[must_use]
    pub fn has_image(&self) -> bool {
        self.cells.iter().any(|cell| matches!(cell, Cell::Image(_)))
    }
}

fn carried(transfer: &Transfer<'_>) -> Carried {
    match *transfer {
        Transfer::I2c { address, .. } => Carried::To(address),
        Transfer::OutputsOff => Carried::OutputsOff,
        Transfer::Ports { mask, .. } => Carried::Levels(mask.to_vec()),
        _ => Carried::Bytes,
    }
}

fn fixed(ops: &Ops) -> Vec<Step> {
    ops.iter().map(|op| Step::fixed(&op)).collect()
}

fn set(byte: &mut u8, bit: u8, level: bool) {
    *byte = if level { *byte | 1 << bit } else { *byte & !(1 << bit) };
}

/// What a driver sends for one frame after power-up.
struct Sent {
    power_up: Ops,
    resend: Ops,
}

impl Sent {
    /// What is sent for these nodes, and the driver that has sent it.
    fn of(mount: &Mount, nodes: &[Level]) -> (Self, Box<dyn Driver>) {
        let mut driver = mount.drive.display().driver();
        let (mut power_up, mut resend) = (Ops::default(), Ops::default());
        driver.power_up(&mut power_up);
        driver.frame(nodes, &mut Ops::default());
        driver.refresh(&mut resend);
        (Self { power_up, resend }, driver)
    }
}

/// A place in a list of transfers: which, and which byte of it.
type At = (usize, usize);

/// The one bit in which two lists of transfers differ, and its level in the second.
fn difference(dark: &Ops, lit: &Ops) -> Option<(At, u8, bool)> {
    if dark.len() != lit.len() {
        return None;
    }
    let mut found = None;
    for (number, (dark, lit)) in dark.iter().zip(lit.iter()).enumerate() {
        let (dark, lit) = (dark.transfer.bytes(), lit.transfer.bytes());
        if dark.len() != lit.len() {
            return None;
        }
        for (byte, (dark, lit)) in dark.iter().zip(lit).enumerate().filter(|(_, (dark, lit))| dark != lit) {
            let changed = dark ^ lit;
            if changed.count_ones() != 1 || found.is_some() {
                return None;
            }
            found = Some(((number, byte), changed.trailing_zeros() as u8, lit & changed != 0));
        }
    }
    found
}

/// A part with a display memory.
fn of_part(mount: &Mount) -> Result<Sending, Unlearnt> {
    let (face, wiring) = (&mount.face, &mount.wiring);
    let nodes_of = |is_lit: &dyn Fn(usize) -> bool| {
        let mut nodes = vec![Level::OFF; wiring.node_count()];
        let lit = (0..wiring.element_count()).filter(|element| is_lit(*element));
        for node in lit.filter_map(|element| wiring.node(Element(element))) {
            nodes[node.0] = Level::FULL;
        }
        nodes
    };
    let (dark, mut driver) = Sent::of(mount, &nodes_of(&|_| false));
    let (full, _) = Sent::of(mount, &nodes_of(&|_| true));
    let mut found = Vec::new();
    for element in 0..face.element_count() {
        if !wiring.has(Element(element)) {
            found.push(None);
            continue;
        }
        let (lit, _) = Sent::of(mount, &nodes_of(&|other| other == element));
        found.push(Some(difference(&dark.resend, &lit.resend).ok_or(Unlearnt::Codes)?));
    }
    let mut image = Numbered::default();
    // Of what is sent to heal a part, those transfers are the picture that have lights.
    let frame = dark.resend.iter().enumerate().filter_map(|(number, op)| {
        let lights = |byte: usize| found.iter().flatten().any(|(at, ..)| *at == (number, byte));
        let has_lights = (0..op.transfer.bytes().len()).any(lights);
        has_lights.then(|| image.step(&op, number, &lights))
    });
    let frame: Vec<_> = frame.collect();
    let resend = dark.resend.iter().enumerate();
    let resend = resend.map(|(number, op)| image.known_step(&op, number)).collect();
    let place = |((at, bit, lit), ..): ((At, u8, bool),)| {
        image.numbers.get(&at).map(|byte| Place { byte: *byte, bit, lit, in_all: false })
    };
    let places: Vec<_> = found.iter().map(|found| found.and_then(|found| place((found,)))).collect();
    let mut ops = Ops::default();
    let steps = mount.drive.display().max_brightness().map_or(0, |most| usize::from(most) + 1);
    let brightness = (0..steps).map(|step| {
        ops.clear();
        driver.brightness(step as u8, &mut ops);
        fixed(&ops)
    });
    let brightness = brightness.collect();
    let sending = Sending {
        power_up: fixed(&dark.power_up),
        frame,
        resend,
        brightness,
        scan: None,
        dark: image.dark,
        places,
    };
    // What was learnt of lights alone must hold for all together.
    let everything = Frame::of_levels(vec![Level::FULL; face.element_count()]);
    let composed = composed(&sending.resend, &sending.image(&everything));
    let sent: Vec<_> = full.resend.iter().map(|op| op.transfer.bytes().to_vec()).collect();
    if composed == sent { Ok(sending) } else { Err(Unlearnt::Codes) }
}

/// The bytes of steps with an image.
fn composed(steps: &[Step], image: &[u8]) -> Vec<Vec<u8>> {
    let byte = |cell: &Cell| match *cell {
        Cell::Fixed(byte) => byte,
        Cell::Image(place) => image.get(place).copied().unwrap_or(0),
    };
    steps.iter().map(|step| step.cells.iter().map(byte).collect()).collect()
}

/// The bytes of the image, numbered in the order in which they are sent.
#[derive(Default)]
struct Numbered {
    numbers: BTreeMap<At, usize>,
    dark: Vec<u8>,
}

impl Numbered {
    fn number(&mut self, at: At, dark: u8) -> usize {
        *self.numbers.entry(at).or_insert_with(|| {
            self.dark.push(dark);
            self.dark.len() - 1
        })
    }

    /// A transfer whose bytes are of the image where they have lights. Bytes that are 0 are taken along where a block stays one by
    /// that: between others, or behind the same register.
    fn step(&mut self, dark: &Op<'_>, number: usize, lights: &dyn Fn(usize) -> bool) -> Step {
        let bytes = dark.transfer.bytes();
        let first = (0..bytes.len()).find(|byte| lights(*byte)).unwrap_or(0);
        let last = (0..bytes.len()).rfind(|byte| lights(*byte)).unwrap_or(0);
        let is_block = (first..=last).all(|byte| lights(byte) || bytes[byte] == 0);
        let register = first.checked_sub(1).map(|before| bytes[before]);
        let is_pairs = bytes.len().is_multiple_of(2)
            && (0..bytes.len())
                .filter(|byte| lights(*byte))
                .all(|byte| byte % 2 == 1 && Some(bytes[byte - 1]) == register);
        let cells = bytes.iter().enumerate().map(|(byte, value)| {
            let is_between = is_block && (first..=last).contains(&byte);
            let is_in_pair = is_pairs && byte % 2 == 1 && Some(bytes[byte - 1]) == register && *value == 0;
            let is_image = lights(byte) || is_between || is_in_pair;
            if is_image { Cell::Image(self.number((number, byte), *value)) } else { Cell::Fixed(*value) }
        });
        Step { role: Role::Frame, carried: carried(&dark.transfer), cells: cells.collect() }
    }

    /// A transfer with the bytes of the image that are numbered already.
    fn known_step(&self, op: &Op<'_>, number: usize) -> Step {
        let cells = op.transfer.bytes().iter().enumerate().map(|(byte, value)| {
            self.numbers.get(&(number, byte)).map_or(Cell::Fixed(*value), |place| Cell::Image(*place))
        });
        Step { role: op.role, carried: carried(&op.transfer), cells: cells.collect() }
    }
}

/// A writer that knows nothing of what its outputs are.
fn fresh(bare: &Bare) -> Box<dyn Writer> {
    bare.outputs.outputs().writer(!bare.circuit.line_switch.active)
}

/// What darkens the outputs.
fn blanked(bare: &Bare) -> Ops {
    let mut ops = Ops::default();
    fresh(bare).blank(&bare.circuit.rest(), &mut ops);
    ops
}

/// Everything that brings outputs to these levels, whatever they were before: a writer leaves out what is there already.
fn written(bare: &Bare, levels: &[bool]) -> Ops {
    let (mut straight, mut after_blank) = (Ops::default(), Ops::default());
    fresh(bare).write(Role::Frame, levels, &mut straight);
    let mut writer = fresh(bare);
    writer.blank(&bare.circuit.rest(), &mut after_blank);
    after_blank.clear();
    writer.write(Role::Frame, levels, &mut after_blank);
    if after_blank.len() > straight.len() { after_blank } else { straight }
}

/// A bare display behind outputs.
fn of_outputs(mount: &Mount, bare: &Bare) -> Sending {
    let circuit = &bare.circuit;
    let rest = circuit.rest();
    let dark = written(bare, &rest);
    // Which output is each bit of each transfer; several transfers may carry the same one.
    let mut bits: BTreeMap<(usize, usize, u8), usize> = BTreeMap::new();
    for output in 0..rest.len() {
        let mut levels = rest.clone();
        levels[output] = !levels[output];
        let flipped = written(bare, &levels);
        for (number, (dark, lit)) in dark.iter().zip(flipped.iter()).enumerate() {
            for (byte, (dark, lit)) in dark.transfer.bytes().iter().zip(lit.transfer.bytes()).enumerate() {
                let changed = dark ^ lit;
                bits.extend(
                    (0..8).filter(|bit| changed >> bit & 1 == 1).map(|bit| ((number, byte, bit), output)),
                );
            }
        }
    }
    let mut numbers: BTreeMap<Vec<Option<(usize, u8)>>, usize> = BTreeMap::new();
    let mut first_dark = Vec::new();
    let mut homes: BTreeMap<usize, (usize, u8)> = BTreeMap::new();
    let mut frame = Vec::new();
    for (number, op) in dark.iter().enumerate() {
        let mut carried = carried(&op.transfer);
        let output = |byte: usize, bit: u8| bits.get(&(number, byte, bit)).copied();
        let of_outputs = |byte: usize| {
            (0..8).filter(|bit| output(byte, *bit).is_some()).fold(0, |mask, bit| mask | 1 << bit)
        };
        if let Carried::Levels(mask) = &mut carried {
            if number > 0 {
                changing(&dark, number, &bits, mask);
            }
            // Lines that are no outputs, such as those of a latch, are set apart from those that are.
            let own: Vec<u8> = mask.iter().enumerate().map(|(byte, mask)| mask & !of_outputs(byte)).collect();
            mask.iter_mut().zip(&own).for_each(|(mask, own)| *mask &= !own);
            let cells = op.transfer.bytes().iter().map(|byte| Cell::Fixed(*byte)).collect();
            frame.push(Step { role: Role::Frame, carried: Carried::Levels(own), cells });
        }
        let cells = op.transfer.bytes().iter().enumerate().map(|(byte, value)| {
            // Bytes that carry the same outputs on the same bits are one byte of the image.
            let outputs: Vec<_> = (0..8).map(|bit| output(byte, bit).map(|output| (output, bit))).collect();
            let (is_sent, own) = match &carried {
                Carried::Levels(mask) => (mask[byte] != 0, of_outputs(byte)),
                _ => (true, u8::MAX),
            };
            if outputs.iter().all(Option::is_none) || !is_sent {
                return Cell::Fixed(*value);
            }
            let place = *numbers.entry(outputs.clone()).or_insert_with(|| {
                first_dark.push(value & own);
                first_dark.len() - 1
            });
            for (output, bit) in outputs.into_iter().flatten() {
                homes.entry(output).or_insert((place, bit));
            }
            Cell::Image(place)
        });
        frame.push(Step { role: Role::Frame, cells: cells.collect(), carried });
    }
    frame.retain(|step| !step.changes_nothing());
    let (width, slots) = (first_dark.len(), circuit.selects.len().max(1));
    let depth = circuit.timing.map_or(1, |timing| timing.depth);
    let mut image = Vec::new();
    for _ in 0..depth {
        for slot in 0..slots {
            let mut of_slot = first_dark.clone();
            if let Some((place, bit)) = circuit.selects.get(slot).and_then(|select| homes.get(select)) {
                set(&mut of_slot[*place], *bit, circuit.select_switch.active);
            }
            image.extend(of_slot);
        }
    }
    let places = (0..mount.face.element_count()).map(|element| {
        let node = mount.wiring.node(Element(element))?;
        let light = circuit.lights.get(node.0)?;
        let (place, bit) = *homes.get(&light.line?)?;
        let byte = light.select.unwrap_or(0) * width + place;
        Some(Place { byte, bit, lit: light.active, in_all: light.select.is_none() && slots > 1 })
    });
    let places = places.collect();
    let mut driver = mount.drive.display().driver();
    let mut power_up = Ops::default();
    driver.power_up(&mut power_up);
    let scan = circuit.timing.map(|timing| Scan {
        slots,
        width,
        turn: timing.turn(),
        blanking: timing.blanking,
        blank: if timing.blanking.0 > 0 { reduced(fixed(&blanked(bare))) } else { Vec::new() },
        depth,
        steps: if depth > 1 {
            Level::steps(depth, circuit.gamma).to_vec()
        } else {
            (0..=u8::MAX).map(|level| u8::from(level > 0)).collect()
        },
    });
    Sending {
        power_up: reduced(fixed(&power_up)),
        resend: frame.clone(),
        frame,
        brightness: Vec::new(),
        scan,
        dark: image,
        places,
    }
}

/// Writes of pins that are always the same, without what the one before has set already.
fn reduced(mut steps: Vec<Step>) -> Vec<Step> {
    let mut held: Option<Vec<Cell>> = None;
    for step in &mut steps {
        let Carried::Levels(mask) = &mut step.carried else { return steps };
        if let Some(held) = &held {
            for ((mask, before), now) in mask.iter_mut().zip(held).zip(&step.cells) {
                if let (Cell::Fixed(before), Cell::Fixed(now)) = (before, now) {
                    *mask &= before ^ now;
                }
            }
        }
        held = Some(step.cells.clone());
    }
    steps.retain(|step| !step.changes_nothing());
    steps
}

/// Leaves in the mask of a write of pins only those that it may change: the others stand from the write before.
fn changing(ops: &Ops, number: usize, bits: &BTreeMap<(usize, usize, u8), usize>, mask: &mut [u8]) {
    let (Some(before), Some(now)) = (ops.get(number - 1), ops.get(number)) else { return };
    let levels = before.transfer.bytes().iter().zip(now.transfer.bytes());
    for ((byte, mask), (before, now)) in mask.iter_mut().enumerate().zip(levels) {
        let stays = |bit: &u8| {
            let (earlier, later) = (bits.get(&(number - 1, byte, *bit)), bits.get(&(number, byte, *bit)));
            earlier == later && before >> bit & 1 == now >> bit & 1
        };
        *mask &= (0..8).filter(|bit| !stays(bit)).fold(0, |changing, bit| changing | 1 << bit);
    }
}
