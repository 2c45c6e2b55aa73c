//! The board: the receiving side of a whole rig, as it is built. It is the link on which everything is proved.
//!
//! ```text
//!  op --protocol--> what the controller does to its pins
//!                      |
//!        nets, one a controller pin: driven, pulled low by parts, pulled up
//!                      |                                  ^
//!                    edges --> model of each face's parts | answers
//!                                 | geometry, eye
//!                              pictures
//! ```
//!
//! The controller's end is the rig as it is described: it says at which pins a transfer comes out. The other end is the rig
//! as it is built: it says to which pins a part's lines are connected. What holds the two together is the wire at a pin, and
//! nothing else. Acknowledges and the answers of parts come over the wires like anything else.

pub mod end;
pub mod eye;
pub mod fault;
mod nets;
pub mod picture;
pub mod presses;
pub mod seen;

use crate::bus::{Edge, Op, Protocol, Reply, Transfer, Wires};
use crate::link::{FanOut, Glance, Link, LinkError, Simulated, Tap};
use crate::plan::{BothRigs, ButtonId, DeviceId, Keypad, Mount, Rig};
use crate::rig::Pin;
use crate::units::Nanos;

pub use end::End;
use fault::Fault;
use nets::{Lines, Nets};
use picture::Picture;
use seen::{Mark, Sight};

/// A rig's hardware with power.
pub struct Board<'r> {
    described: &'r Rig,
    nets: Nets<'r>,
    /// By described bus and device: the net of each line.
    outward: Vec<Vec<Vec<usize>>>,
    /// By described bus: which others share its time, and when each of those groups is free.
    group: Vec<usize>,
    free: Vec<Nanos>,
    marked: Option<Marked>,
}

/// How everything stood at a moment.
struct Marked {
    /// All that what comes depends on: two moments with the same are the same but for their time.
    state: Vec<u64>,
    /// The observations of the eyes.
    eyes: Vec<Mark>,
}

impl<'r> Board<'r> {
    /// Hardware that is built as it is described; power has just come.
    #[must_use]
    pub fn new(rig: &'r Rig) -> Self {
        Self::built_as(BothRigs::new(rig, None))
    }

    /// Hardware that is built as one rig says, at a controller that takes it for what another describes.
    #[must_use]
    pub fn built_as(rigs: BothRigs<'r>) -> Self {
        let BothRigs { described, built } = rigs;
        let mut nets = Nets::default();
        let mut outward = Vec::new();
        for bus in &described.buses {
            let of_bus = nets.of_pins(&bus.pins);
            let lines = |lines: &[usize]| lines.iter().map(|line| of_bus[*line]).collect::<Vec<_>>();
            outward.push(bus.devices.iter().map(|device| lines(&device.lines)).collect::<Vec<_>>());
            for device in &bus.devices {
                nets.connect_controller(&device.protocol, &lines(&device.lines));
            }
        }
        for mount in &built.faces {
            let Some(device) = built.device(mount.device) else { continue };
            let pins: Vec<Pin> = mount.lines.iter().map(|line| line.known.clone()).collect();
            let lines = nets.of_pins(&pins);
            nets.connect_end(End::new(mount), &device.protocol, &lines);
        }
        for button in built.pin_buttons() {
            let net = nets.of_pins(std::slice::from_ref(&button.line.known))[0];
            nets.connect_button(net, button.active.level(), button.pulled_outside());
        }
        nets.power_up();
        let group = groups(&outward, &nets);
        let free = vec![Nanos(0); described.buses.len()];
        Self { described, nets, outward, group, free, marked: None }
    }

    /// Puts a fault on the hardware, from its power-up on.
    pub fn put(&mut self, fault: &Fault) {
        match fault {
            Fault::Swapped { first, second } => {
                let nets = self.nets.of_pins(&[first.clone(), second.clone()]);
                for net in self.outward.iter_mut().flatten().flatten() {
                    if let Some(place) = nets.iter().position(|swapped| swapped == net) {
                        *net = nets[1 - place];
                    }
                }
            }
            Fault::Unpowered { face } => {
                self.nets.end_mut(*face).into_iter().for_each(End::cut_supply);
            }
            Fault::DeadLight { face, element } => {
                self.nets.end_mut(*face).into_iter().for_each(|end| end.break_light(*element));
            }
            Fault::Stuck { .. } | Fault::Open { .. } | Fault::Shorted { .. } | Fault::LostPulse { .. } => {
                self.nets.put(fault);
            }
        }
        self.nets.power_up();
    }

    /// The pins that have lines, by the data sheet's names: edges number them in this order.
    #[must_use]
    pub fn pins(&self) -> &[Pin] {
        self.nets.pins()
    }

    /// The level of each of them.
    #[must_use]
    pub fn levels(&self) -> Vec<Option<bool>> {
        self.nets.levels()
    }

    /// The net of each line of a face, as the controller sees them.
    #[must_use]
    pub fn lines_of(&self, mount: &Mount) -> &[usize] {
        self.lines(mount.device).unwrap_or_default()
    }

    /// The level of each line of a face.
    #[must_use]
    pub fn levels_of(&self, mount: &Mount) -> Vec<Option<bool>> {
        let levels = self.levels();
        self.lines_of(mount).iter().map(|net| levels[*net]).collect()
    }

    fn lines(&self, device: DeviceId) -> Option<&[usize]> {
        self.outward.get(device.bus)?.get(device.device).map(Vec::as_slice)
    }

    /// A program does something to one of the controller's [pins](Self::pins): it drives it, or lets it go, and then its pull-up makes it
    /// high where no part pulls it low.
    pub fn drive(&mut self, at: Nanos, pin: usize, level: Option<bool>) {
        let level = if self.nets.is_answered(pin) { level } else { level.or(Some(true)) };
        Lines::new(&mut self.nets, &[pin]).drive(at, 0, level);
    }

    /// The level that it reads there.
    pub fn read(&mut self, at: Nanos, pin: usize) -> bool {
        Lines::new(&mut self.nets, &[pin]).read(at, 0)
    }

    /// Begins to record what happens on the lines.
    pub fn record(&mut self) {
        self.nets.record();
    }

    /// Returns the edges on the lines since the last call, in order of time.
    pub fn recorded(&mut self) -> Vec<Edge> {
        self.nets.recorded()
    }

    /// The same, of the lines of a face and numbered as those; what happened elsewhere is forgotten.
    pub fn recorded_of(&mut self, mount: &Mount) -> Vec<Edge> {
        let recorded = self.recorded();
        let lines = self.lines_of(mount);
        let of_face = |edge: &Edge| {
            let line = lines.iter().position(|net| *net == edge.line)?;
            Some(Edge { line, ..*edge })
        };
        recorded.iter().filter_map(of_face).collect()
    }

    /// The receiving end of a face, by its place in the rig as built.
    pub fn end(&mut self, face: usize) -> Option<&mut End<'r>> {
        self.nets.end_mut(face)
    }

    /// Presses a push button of the hardware as it is built, or lets it go.
    pub fn press(&mut self, id: ButtonId, down: bool) {
        self.press_at(Nanos(0), id, down);
    }

    /// The same at a moment, or now if that is over.
    pub fn press_at(&mut self, at: Nanos, id: ButtonId, down: bool) {
        match id.keypad {
            Keypad::Face(face) => {
                if let Some(end) = self.nets.end_mut(face) {
                    end.model_mut().press(id.button, down);
                }
            }
            Keypad::Pins => self.nets.press(at, id.button, down),
        }
    }

    /// Opens the eye on every face: what it sees begins here.
    pub fn open_eyes(&mut self, at: Nanos) {
        self.nets.ends_mut().for_each(|end| end.eye_mut().open(at));
    }

    /// The same on the faces that the controller scans, of which a picture is what the eye has seen.
    pub fn open_eyes_on_scans(&mut self, at: Nanos) {
        let scanned = self.nets.ends_mut().filter(|end| end.turn().is_some());
        scanned.for_each(|end| end.eye_mut().open(at));
    }

    /// Lets the eyes rest on the faces whose parts scan their lights by themselves. Pictures stay what they are; what an eye would
    /// have [seen](Self::sights) there is nothing until it is opened.
    #[must_use]
    pub fn at_rest(mut self) -> Self {
        self.nets.ends_mut().for_each(End::rest);
        self
    }

    /// Returns the perceived light of each element of a face since the eye was opened.
    pub fn sights(&mut self, face: usize, until: Nanos) -> Vec<Sight> {
        self.nets.end_mut(face).map_or_else(Vec::new, |end| end.sights(until))
    }

    /// Returns the picture of a face at `now`. This changes nothing.
    pub fn picture(&mut self, face: usize, now: Nanos) -> Option<Picture<'r>> {
        self.nets.end_mut(face).map(|end| end.picture(now))
    }
}

impl Link for Board<'_> {
    fn transfer(&mut self, id: DeviceId, op: &Op<'_>) -> Result<Reply, LinkError> {
        let missing = || LinkError::no_device(id);
        let device = self.described.device(id).ok_or_else(missing)?;
        let lines = self.outward.get(id.bus).and_then(|bus| bus.get(id.device)).ok_or_else(missing)?;
        let group = self.group[id.bus];
        let at = self.free[group].max(op.not_before);
        let in_one_piece = match (&device.protocol, op.transfer) {
            (Protocol::Panel(panel), Transfer::Burst { columns }) => {
                let ended = self.nets.burst(panel, columns, at, lines);
                ended.map(|ended| Reply { acknowledged: true, began: at, ended, ..Reply::default() })
            }
            (protocol, transfer) => self.nets.whole(protocol, transfer, at, lines),
        };
        let reply = in_one_piece
            .unwrap_or_else(|| device.protocol.send(op.transfer, at, &mut Lines::new(&mut self.nets, lines)));
        self.nets.finish(reply.ended);
        self.free[group] = reply.ended;
        Ok(reply)
    }

    fn free_at(&self, id: DeviceId) -> Nanos {
        self.group.get(id.bus).and_then(|group| self.free.get(*group)).copied().unwrap_or_default()
    }

    fn shares_time(&self, one: DeviceId, other: DeviceId) -> bool {
        self.group.get(one.bus) == self.group.get(other.bus)
    }

    fn flush(&mut self, now: Nanos) -> Result<(), LinkError> {
        self.nets.ends_mut().for_each(|end| end.eye_mut().pass(now));
        Ok(())
    }

    fn simulated(&mut self) -> Option<&mut dyn Simulated> {
        Some(self)
    }
}

impl Simulated for Board<'_> {
    fn mark(&mut self, now: Nanos) -> bool {
        let eyes = |nets: &mut Nets<'_>| nets.ends_mut().map(|end| end.eye_mut().mark()).collect();
        self.marked = self.nets.state(now).map(|state| Marked { state, eyes: eyes(&mut self.nets) });
        self.marked.is_some()
    }

    fn is_as_marked(&mut self, now: Nanos) -> bool {
        let state = self.nets.state(now);
        state.is_some() && state.as_ref() == self.marked.as_ref().map(|marked| &marked.state)
    }

    fn repeat(&mut self, times: u64, span: Nanos) {
        let eyes = self.marked.iter().flat_map(|marked| &marked.eyes);
        for (end, mark) in self.nets.ends_mut().zip(eyes) {
            end.eye_mut().repeat(mark, times);
        }
        let skipped = Nanos(span.0.saturating_mul(times));
        self.nets.shift(skipped);
        for free in &mut self.free {
            *free = *free + skipped;
        }
    }

    fn answers_alike(&mut self) -> bool {
        self.nets.are_sound()
            && self.nets.ends_mut().all(|end| end.model_mut().notebook().is_none_or(|notes| !notes.is_open()))
    }
}

/// A link that ends at a board, whatever stands before it or beside it.
pub trait OnBoard<'b>: Link {
    /// The board.
    fn board(&mut self) -> &mut Board<'b>;
}

impl<'b> OnBoard<'b> for Board<'b> {
    fn board(&mut self) -> &mut Board<'b> {
        self
    }
}

impl<'b, L: OnBoard<'b>, F: FnMut(DeviceId, &Op<'_>, &Reply)> OnBoard<'b> for Glance<L, F> {
    fn board(&mut self) -> &mut Board<'b> {
        self.link.board()
    }
}

impl<'b, L, F> OnBoard<'b> for Tap<L, F>
where
    L: OnBoard<'b>,
    F: FnMut(DeviceId, &Op<'_>, &Reply, &mut L),
{
    fn board(&mut self) -> &mut Board<'b> {
        self.link.board()
    }
}

impl<'b, L: Link, B: OnBoard<'b>> OnBoard<'b> for FanOut<L, B> {
    fn board(&mut self) -> &mut Board<'b> {
        self.second.board()
    }
}

/// Which buses share their time: each with itself, and with those whose lines lead to the same part.
fn groups(outward: &[Vec<Vec<usize>>], nets: &Nets<'_>) -> Vec<usize> {
    let mut group: Vec<usize> = (0..outward.len()).collect();
    for reached in nets.reached() {
        let touches = |bus: &usize| outward[*bus].iter().flatten().any(|net| reached.contains(net));
        let touched: Vec<usize> = (0..outward.len()).filter(touches).map(|bus| group[bus]).collect();
        if let Some(least) = touched.iter().copied().min() {
            group.iter_mut().filter(|group| touched.contains(group)).for_each(|group| *group = least);
        }
    }
    group
}
