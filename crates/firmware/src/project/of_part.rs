//! What a part with a display memory sends, learnt from its driver.
//!
//! What heals a part says everything. Each light alone changes one bit of it, which is the light's place.

use std::collections::BTreeMap;

use super::sending::{Cell, Place, Sending, Step, Unlearnt, carried, fixed};
use spare_tile_core::bus::{Op, Ops, Role};
use spare_tile_core::driver::Driver;
use spare_tile_core::face::Element;
use spare_tile_core::frame::{Frame, Level};
use spare_tile_core::plan::Mount;

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
pub(super) fn of_part(mount: &Mount) -> Result<Sending, Unlearnt> {
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
    let places = found.iter().map(|found| {
        let (at, bit, lit) = (*found)?;
        Some(Place { byte: *image.numbers.get(&at)?, bit, lit, in_all: false })
    });
    let places = places.collect();
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
