//! The one clock: what all faces of a rig have to send, in the order of its moments.
//!
//! A scheduler holds the driver of every face. Whatever is asked of one becomes operations with moments; slots of a scan
//! come at moments of their own, between frames and at the scan's own rate. The scheduler sends the earliest first, over
//! one link. Nothing else advances time, and looking at a picture sends nothing.

use crate::board::Board;
use crate::board::picture::Picture;
use crate::bus::{Op, Ops, Reply, Role};
use crate::driver::Driver;
use crate::frame::{Frame, Level};
use crate::link::{Link, LinkError, LinkErrorKind};
use crate::part::ScanTimes;
use crate::plan::{DeviceId, Keypad, Mount, Rig};
use crate::units::Nanos;

/// The drivers of a rig's faces at a link.
pub struct Scheduler<'r, L> {
    rig: &'r Rig,
    link: L,
    stages: Vec<Stage<'r>>,
    now: Nanos,
    /// Turns in a row of a scan that did not come again as they were.
    unlike: u32,
}

/// One face: its driver, what it has to send, and when it scans.
struct Stage<'r> {
    mount: &'r Mount,
    driver: Box<dyn Driver>,
    /// The levels of the nodes, kept between frames.
    nodes: Vec<Level>,
    /// The operations to send, the number of those that were sent, and the moment from which their moments count.
    ops: Ops,
    sent: usize,
    base: Nanos,
    /// When the next slot of its scan begins; none while nothing is scanned.
    slot_at: Option<Nanos>,
    /// When the slot after the one that is being sent begins.
    next_slot: Option<Nanos>,
    /// True if a frame waits for the next slot.
    has_waiting: bool,
}

impl Stage<'_> {
    /// The next operation, if any is left.
    fn op(&self) -> Option<Op<'_>> {
        let op = self.ops.get(self.sent)?;
        Some(Op { not_before: self.base + op.not_before, ..op })
    }

    /// When that may begin.
    fn op_at(&self) -> Option<Nanos> {
        Some(self.base + self.ops.moment(self.sent)?)
    }

    const fn device(&self) -> DeviceId {
        self.mount.device
    }
}

/// After this many scan cycles in a row that do not repeat, the scheduler stops comparing them.
const MOST_UNLIKE: u32 = 8;

impl<'r, L> Scheduler<'r, L> {
    /// The rig.
    pub const fn rig(&self) -> &'r Rig {
        self.rig
    }

    /// The link.
    pub const fn link(&self) -> &L {
        &self.link
    }

    /// The same, to be acted on.
    pub const fn link_mut(&mut self) -> &mut L {
        &mut self.link
    }

    /// Up to when everything has happened.
    #[must_use]
    pub const fn now(&self) -> Nanos {
        self.now
    }
}

impl<'r, L: Link> Scheduler<'r, L> {
    /// The faces of a rig at a link, at the moment of power-up. No operation has been sent.
    pub fn new(rig: &'r Rig, link: L) -> Self {
        let stage = |mount: &'r Mount| Stage {
            mount,
            driver: mount.drive.display().driver(),
            nodes: vec![Level::OFF; mount.wiring.node_count()],
            ops: Ops::default(),
            sent: 0,
            base: Nanos(0),
            slot_at: None,
            next_slot: None,
            has_waiting: false,
        };
        Self { rig, link, stages: rig.faces.iter().map(stage).collect(), now: Nanos(0), unlike: 0 }
    }

    /// Where push buttons are on the buses.
    #[must_use]
    pub fn device_of(&self, keypad: Keypad) -> Option<DeviceId> {
        match keypad {
            Keypad::Face(face) => Some(self.rig.faces.get(face)?.device),
            Keypad::Pins => Some(self.rig.buttons.as_ref()?.device),
        }
    }

    /// When the bus of push buttons is free.
    #[must_use]
    pub fn buttons_free_at(&self, keypad: Keypad) -> Nanos {
        self.device_free_at(self.device_of(keypad))
    }

    fn device_free_at(&self, device: Option<DeviceId>) -> Nanos {
        device.map_or(self.now, |device| self.link.free_at(device).max(self.now))
    }

    /// When the bus of a face is free.
    #[must_use]
    pub fn free_at(&self, face: usize) -> Nanos {
        self.device_free_at(self.rig.faces.get(face).map(|mount| mount.device))
    }

    /// Until when a frame waits for the next slot of a face's scan, which a frame before that would replace.
    #[must_use]
    pub fn frame_waits_until(&self, face: usize) -> Option<Nanos> {
        self.stages.get(face).filter(|stage| stage.has_waiting)?.slot_at
    }

    /// Sends the power-up sequence of a face.
    ///
    /// # Errors
    /// When the link fails.
    pub fn power_up(&mut self, face: usize) -> Result<(), LinkError> {
        self.ask(face, |driver, ops| driver.power_up(ops))
    }

    /// Sends a frame of a face. Where the controller does the scan, it is shown from the next slot on.
    ///
    /// # Errors
    /// When the link fails.
    pub fn show(&mut self, face: usize, frame: &Frame) -> Result<(), LinkError> {
        let Some(stage) = self.stages.get_mut(face) else { return Ok(()) };
        let mut nodes = std::mem::take(&mut stage.nodes);
        stage.mount.wiring.to_nodes(frame.levels(), &mut nodes);
        let sent = self.ask(face, |driver, ops| driver.frame(&nodes, ops));
        if let Some(stage) = self.stages.get_mut(face) {
            (stage.nodes, stage.has_waiting) = (nodes, true);
        }
        sent
    }

    /// Sends a brightness step.
    ///
    /// # Errors
    /// When the link fails.
    pub fn brightness(&mut self, face: usize, step: u8) -> Result<(), LinkError> {
        self.ask(face, |driver, ops| driver.brightness(step, ops))
    }

    /// Puts a face out.
    ///
    /// # Errors
    /// When the link fails.
    pub fn off(&mut self, face: usize) -> Result<(), LinkError> {
        self.ask(face, |driver, ops| driver.off(ops))
    }

    /// Lights a face again as it was before it was put out.
    ///
    /// # Errors
    /// When the link fails.
    pub fn on(&mut self, face: usize) -> Result<(), LinkError> {
        self.ask(face, |driver, ops| driver.on(ops))
    }

    /// Sends everything again.
    ///
    /// # Errors
    /// When the link fails.
    pub fn refresh(&mut self, face: usize) -> Result<(), LinkError> {
        self.ask(face, |driver, ops| driver.refresh(ops))
    }

    /// Puts the part's own test on or off.
    ///
    /// # Errors
    /// When the link fails.
    pub fn test(&mut self, face: usize, on: bool) -> Result<(), LinkError> {
        self.ask(face, |driver, ops| driver.test(on, ops))
    }

    /// Reads push buttons: the places of those that are down. They are what came back over the link.
    ///
    /// # Errors
    /// When the link fails.
    pub fn buttons(&mut self, keypad: Keypad) -> Result<Vec<usize>, LinkError> {
        match keypad {
            Keypad::Face(face) => self.buttons_of(face),
            Keypad::Pins => {
                let Some(pins) = &self.rig.buttons else { return Ok(Vec::new()) };
                let op = Op { role: Role::Buttons, transfer: pins.transfer(), not_before: self.now };
                let reply = self.link.transfer(pins.device, &op)?;
                Ok(pins.down(&reply.bytes))
            }
        }
    }

    /// The same of those beside a face.
    fn buttons_of(&mut self, face: usize) -> Result<Vec<usize>, LinkError> {
        let Some(stage) = self.stages.get_mut(face) else { return Ok(Vec::new()) };
        stage.base = self.now;
        stage.driver.keys(&mut stage.ops);
        let mut answer = Vec::new();
        self.send_all(face, &mut |role, reply| {
            if role == Role::Buttons {
                answer.extend_from_slice(&reply.bytes);
            }
        })?;
        Ok(self.stages[face].mount.drive.display().buttons_down(&answer))
    }

    /// Lets a driver put operations and sends them from now on; what other faces have to send goes between.
    fn ask(&mut self, face: usize, ask: impl FnOnce(&mut dyn Driver, &mut Ops)) -> Result<(), LinkError> {
        let Some(stage) = self.stages.get_mut(face) else { return Ok(()) };
        stage.base = self.now;
        ask(stage.driver.as_mut(), &mut stage.ops);
        self.unlike = 0;
        self.send_all(face, &mut |_, _| {})?;
        // Something to scan, perhaps: the first slot finds out.
        let stage = &mut self.stages[face];
        stage.slot_at = stage.slot_at.or(Some(self.now));
        Ok(())
    }

    fn send_all(&mut self, face: usize, heard: &mut impl FnMut(Role, &Reply)) -> Result<(), LinkError> {
        while self.op_at(face).is_some() {
            let Some((at, next)) = self.earliest() else { break };
            if next != face {
                self.step(next, at)?;
                continue;
            }
            // Operations of this face can only delay the others, so `other` stays a lower bound.
            let other = self.earliest_of(|other| other != face);
            while let Some(at) = self.op_at(face).filter(|at| other.is_none_or(|other| (*at, face) < other)) {
                if let Some((role, reply)) = self.step(face, at)? {
                    self.now = self.now.max(reply.ended);
                    heard(role, &reply);
                }
            }
        }
        Ok(())
    }

    /// Returns true if nothing is sent by itself: no face is scanned by the controller.
    #[must_use]
    pub fn is_silent(&self) -> bool {
        self.stages.iter().all(|stage| stage.op_at().is_none() && stage.slot_at.is_none())
    }

    /// The face whose turn it is next, and when.
    fn earliest(&self) -> Option<(Nanos, usize)> {
        self.earliest_of(|_| true)
    }

    /// The same among some faces.
    fn earliest_of(&self, is_asked: impl Fn(usize) -> bool) -> Option<(Nanos, usize)> {
        let asked = (0..self.stages.len()).filter(|face| is_asked(*face));
        asked.filter_map(|face| Some((self.op_at(face).or(self.stages[face].slot_at)?, face))).min()
    }

    /// When a face can send its next operation, if any is left.
    fn op_at(&self, face: usize) -> Option<Nanos> {
        let stage = &self.stages[face];
        stage.op_at().map(|at| at.max(self.link.free_at(stage.device())))
    }

    /// Lets a face do what comes next at `at`: send an operation, or begin a slot.
    fn step(&mut self, face: usize, at: Nanos) -> Result<Option<(Role, Reply)>, LinkError> {
        let stage = &mut self.stages[face];
        if stage.op_at().is_none() {
            // Where the bus is busy the slot begins late, and is as long dark at its beginning as ever.
            stage.base = at.max(self.link.free_at(stage.mount.device));
            stage.next_slot = stage.driver.slot(&mut stage.ops).map(|length| at + length);
            (stage.slot_at, stage.has_waiting) = (stage.next_slot, false);
        }
        let Some(op) = stage.op() else { return Ok(None) };
        let role = op.role;
        let reply = self.link.transfer(stage.mount.device, &op)?;
        stage.sent += 1;
        if stage.sent == stage.ops.len() {
            stage.ops.clear();
            stage.sent = 0;
            // A scan that is slower than it should be is late; it does not pile up.
            if let Some(next) = stage.next_slot.take() {
                stage.slot_at = Some(next.max(reply.ended));
            }
        }
        Ok(Some((role, reply)))
    }

    /// Lets everything happen that comes before `until`, and time pass up to it.
    ///
    /// # Errors
    /// When the link fails.
    pub fn run_until(&mut self, until: Nanos) -> Result<(), LinkError> {
        while let Some((at, face)) = self.earliest().filter(|(at, _)| *at < until) {
            if self.skip_turns(face, at, until)? {
                continue;
            }
            self.step(face, at)?;
        }
        if until > self.now {
            self.now = until;
            self.link.flush(until)?;
        }
        Ok(())
    }

    /// The program does something else for so long: nothing is sent, and whatever was due is late.
    ///
    /// # Errors
    /// When the link fails.
    pub fn block(&mut self, length: Nanos) -> Result<(), LinkError> {
        let until = self.now + length;
        for stage in &mut self.stages {
            stage.slot_at = stage.slot_at.map(|slot| slot.max(until));
        }
        self.now = until;
        self.link.flush(until)
    }

    /// Runs one whole turn of a face's scan. Whether there is one.
    ///
    /// # Errors
    /// When the link fails.
    pub fn run_turn(&mut self, face: usize) -> Result<bool, LinkError> {
        let Some(turn) = self.turn(face) else { return Ok(false) };
        let Some(begin) = self.stages.get(face).and_then(|stage| stage.slot_at) else { return Ok(false) };
        self.run_until(begin)?;
        self.run_until(begin + turn)?;
        Ok(true)
    }

    /// How long a turn of a face's scan is, where the controller does the scan.
    #[must_use]
    pub fn turn(&self, face: usize) -> Option<Nanos> {
        self.scan(face).map(|scan| scan.turn)
    }

    /// The times of a face's scan, where the controller does the scan.
    #[must_use]
    pub fn scan(&self, face: usize) -> Option<ScanTimes> {
        self.rig.faces.get(face)?.drive.display().scan()
    }

    /// Where only one face scans and nothing else comes for long, its turns are alike: one is sent, and where it comes full
    /// circle those that follow are taken as seen. Whether any were.
    fn skip_turns(&mut self, face: usize, at: Nanos, until: Nanos) -> Result<bool, LinkError> {
        const WORTH_IT: u64 = 4;
        let Some(turn) = self.turn(face) else { return Ok(false) };
        let stage = &self.stages[face];
        let alone = stage.op().is_none()
            && stage.driver.begins_turn()
            && self.stages.iter().enumerate().all(|(other, stage)| {
                other == face || (stage.op().is_none() && stage.slot_at.is_none_or(|slot| slot >= until))
            });
        if !alone || self.unlike >= MOST_UNLIKE || (until - at).0 < WORTH_IT * turn.0 {
            return Ok(false);
        }
        // One turn goes before, so that what lasts from one to the next has been seen once.
        let Some(at) = self.send_turn(face, at)? else { return Ok(true) };
        self.link.flush(at)?;
        if !self.link.simulated().is_some_and(|link| link.mark(at)) {
            self.unlike = MOST_UNLIKE;
            return Ok(true);
        }
        let Some(end) = self.send_turn(face, at)? else { return Ok(true) };
        self.link.flush(end)?;
        let Some(link) = self.link.simulated() else { return Ok(true) };
        if !link.is_as_marked(end) {
            self.unlike += 1;
            return Ok(true);
        }
        let span = end - at;
        let times = (until - end).0 / span.0.max(1);
        link.repeat(times, span);
        let skipped = Nanos(span.0 * times);
        self.stages[face].slot_at = Some(end + skipped);
        self.now = self.now.max(end + skipped);
        Ok(true)
    }

    /// Sends the slots of one turn; when the next turn begins.
    fn send_turn(&mut self, face: usize, begin: Nanos) -> Result<Option<Nanos>, LinkError> {
        let mut at = begin;
        loop {
            self.step(face, at)?;
            while let Some(op) = self.stages[face].op() {
                let then = op.not_before;
                self.step(face, then)?;
            }
            match self.stages[face].slot_at {
                None => return Ok(None),
                Some(next) => at = next,
            }
            if self.stages[face].driver.begins_turn() {
                return Ok(Some(at));
            }
        }
    }
}

impl<'r> Scheduler<'r, Board<'r>> {
    /// Where the controller scans a face, runs the turn in which what was sent takes hold, and opens the eyes after it.
    /// Returns true if it was sent.
    ///
    /// # Errors
    /// When the board cannot be spoken to.
    pub fn settle(&mut self, face: usize) -> Result<bool, LinkError> {
        let scans = self.run_turn(face)?;
        if scans {
            // Slots may differ in length: the exposure begins with one.
            if let Some(begin) = self.stages.get(face).and_then(|stage| stage.slot_at) {
                self.run_until(begin)?;
            }
            let now = self.now;
            self.link.open_eyes(now);
        }
        Ok(scans)
    }

    /// Runs on until what was sent to a face can be seen, and looks at it: where the controller does the scan that takes
    /// two turns, one that settles and one that is watched.
    ///
    /// # Errors
    /// When the board has no such face, or cannot be spoken to.
    pub fn expose(&mut self, face: usize) -> Result<Picture<'r>, LinkError> {
        if self.settle(face)? {
            self.run_turn(face)?;
        }
        let now = self.now;
        let missing = || LinkError::new(LinkErrorKind::NoDevice, format!("the board has no face {face}"));
        self.link.picture(face, now).ok_or_else(missing)
    }
}
