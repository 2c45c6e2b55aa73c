//! The whole way from frames to the picture, for one face.
//!
//! A pipeline is a face with power: it holds the driver, the bus and the model, sends frames through them,
//! and shows what the model lights. A [`Tap`] listens on the way without changing anything.

use crate::bus::{Bus, Edge, Op, Ops};
use crate::drive::Driver;
use crate::frame::{Frame, Level};
use crate::picture::Picture;
use crate::rig::Mount;
use crate::scan::eye::{Eye, Sight};
use crate::units::Nanos;

/// Listens to what passes over the bus.
pub trait Tap {
    /// An operation that begins at `at`, with the edges that it became.
    fn op(&mut self, at: Nanos, op: Op<'_>, edges: &[Edge]);
}

impl<F: FnMut(Nanos, Op<'_>, &[Edge])> Tap for F {
    fn op(&mut self, at: Nanos, op: Op<'_>, edges: &[Edge]) {
        self(at, op, edges);
    }
}

/// A face with power.
pub struct Pipeline<'r> {
    mount: &'r Mount,
    driver: Box<dyn Driver>,
    bus: Box<dyn Bus>,
    /// Watches the model.
    eye: Eye,
    tap: Option<Box<dyn Tap + 'r>>,
    /// When the bus is free.
    free: Nanos,
    // Kept between frames, so that a frame costs no allocation.
    nodes: Vec<Level>,
    ops: Ops,
    edges: Vec<Edge>,
}

impl<'r> Pipeline<'r> {
    /// A face that just got power: its driver has said nothing yet.
    #[must_use]
    pub fn new(mount: &'r Mount) -> Self {
        let drive = &mount.drive;
        Self {
            mount,
            driver: drive.ends.driver(),
            bus: drive.ends.bus(),
            eye: Eye::new(drive.ends.model(), drive.wiring.node_count()),
            tap: None,
            free: Nanos(0),
            nodes: vec![Level::OFF; drive.wiring.node_count()],
            ops: Ops::default(),
            edges: Vec::new(),
        }
    }

    /// The same with a listener.
    #[must_use]
    pub fn with_tap(mut self, tap: impl Tap + 'r) -> Self {
        self.tap = Some(Box::new(tap));
        self
    }

    /// Puts another sending end in place of the drive's own: a driver that is under test, or one with a
    /// fault put in.
    #[must_use]
    pub fn with_driver(mut self, driver: Box<dyn Driver>) -> Self {
        self.driver = driver;
        self
    }

    /// Sends the power-up sequence.
    pub fn power_up(&mut self) {
        self.driver.power_up(&mut self.ops);
        self.send();
    }

    /// Sends a frame of the face. Where the controller does the scan, this is its first turn.
    pub fn show(&mut self, frame: &Frame) {
        self.mount.drive.wiring.to_nodes(frame.levels(), &mut self.nodes);
        self.driver.frame(&self.nodes, &mut self.ops);
        self.send();
    }

    /// Sends one more turn of the scan. Returns whether there is one to send: only where the controller does
    /// the scan.
    pub fn turn(&mut self) -> bool {
        self.driver.turn(&mut self.ops);
        let any = !self.ops.is_empty();
        self.send();
        any
    }

    /// Sends a brightness step, up to [`crate::drive::Ends::max_brightness`].
    pub fn brightness(&mut self, step: u8) {
        self.driver.brightness(step, &mut self.ops);
        self.send();
    }

    /// Puts the display out.
    pub fn off(&mut self) {
        self.driver.off(&mut self.ops);
        self.send();
    }

    /// Lights the display again as it was before it was put out.
    pub fn on(&mut self) {
        self.driver.on(&mut self.ops);
        self.send();
    }

    /// Sends everything again.
    pub fn refresh(&mut self) {
        self.driver.refresh(&mut self.ops);
        self.send();
    }

    /// Puts the part's own test on or off.
    pub fn test(&mut self, on: bool) {
        self.driver.test(on, &mut self.ops);
        self.send();
    }

    /// Reads the keys: the places of those that are down.
    pub fn keys(&mut self) -> Vec<usize> {
        self.driver.keys(&mut self.ops);
        let answer = self.eye.model().answer();
        self.send();
        self.mount.drive.ends.keys_down(&answer)
    }

    /// Presses a key of the face, or lets it go.
    pub fn press(&mut self, key: usize, down: bool) {
        self.eye.model_mut().press(key, down);
    }

    /// Lets the bus rest until `at`, counted from power-up; nothing when it is busy beyond that.
    pub fn wait_until(&mut self, at: Nanos) {
        self.free = self.free.max(at);
    }

    /// When the bus is free: up to when everything has happened.
    #[must_use]
    pub const fn now(&self) -> Nanos {
        self.free
    }

    /// Opens the eye: what it [sees](Self::sights) begins here.
    pub fn open_eye(&mut self) {
        self.eye.open(self.free);
    }

    /// What a person perceived of each element since the eye was opened.
    pub fn sights(&mut self) -> Vec<Sight> {
        let nodes = self.eye.sights(self.free);
        let mut elements = vec![Sight::default(); self.mount.face.element_count()];
        self.mount.drive.wiring.to_elements(&nodes, &mut elements);
        elements
    }

    /// What is seen of the frame that was sent last: the lights as they stand, or, where the controller does
    /// the scan, their mean over one more turn of it.
    pub fn picture(&mut self) -> Picture<'r> {
        self.open_eye();
        if self.turn() {
            let mean: Vec<_> = self.sights().iter().map(|sight| sight.light as f32).collect();
            return Picture::exposed(self.mount, mean);
        }
        self.eye.pass(self.free);
        let mut light = vec![0.0; self.mount.face.element_count()];
        self.mount.drive.wiring.to_elements(self.eye.light(), &mut light);
        Picture::exposed(self.mount, light)
    }

    fn send(&mut self) {
        let begin = self.free;
        // Of several parts that answer one after another, each gives its own part of the answer.
        let mut answered = 0;
        for op in self.ops.iter() {
            let at = self.free.max(begin + op.not_before);
            self.edges.clear();
            self.free = if op.reads == 0 {
                self.bus.send(op.bytes, at, &mut self.edges)
            } else {
                let answer = self.eye.model().answer();
                let own = answer.get(answered..answered + op.reads).unwrap_or_default();
                answered += op.reads;
                self.bus.exchange(op.bytes, own, at, &mut self.edges)
            };
            self.eye.take(&self.edges);
            if let Some(tap) = &mut self.tap {
                tap.op(at, op, &self.edges);
            }
        }
        self.free = self.free.max(begin + self.ops.length());
        self.ops.clear();
    }
}
