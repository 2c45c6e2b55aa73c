//! One turn of a scan, recorded to be looked at again: slowed down, drawn, or written out.

use std::cell::RefCell;
use std::rc::Rc;

use super::eye::Eye;
use crate::bus::{Edge, Op, Role};
use crate::frame::Frame;
use crate::picture::Picture;
use crate::pipeline::Pipeline;
use crate::rig::Mount;
use crate::units::Nanos;

/// A turn as it comes again and again while the frame stays.
pub struct Recording<'r> {
    mount: &'r Mount,
    /// The level of each line at its beginning.
    pub levels: Vec<Option<bool>>,
    /// Its edges, counted from its beginning.
    pub edges: Vec<Edge>,
    /// Its writes: when, what for, and what is written.
    pub writes: Vec<(Nanos, Role, Vec<u8>)>,
    /// How long it is.
    pub length: Nanos,
}

/// What comes over the bus.
#[derive(Default)]
struct Heard {
    levels: Vec<Option<bool>>,
    edges: Vec<Edge>,
    writes: Vec<(Nanos, Role, Vec<u8>)>,
}

impl<'r> Recording<'r> {
    /// Records the turn of a frame, after it has settled; none where the controller does no scan.
    #[must_use]
    pub fn of(mount: &'r Mount, frame: &Frame) -> Option<Self> {
        let heard = Rc::new(RefCell::new(Heard::default()));
        heard.borrow_mut().levels = mount.drive.ends.bus().idle();
        let ear = Rc::clone(&heard);
        let tap = move |at: Nanos, op: Op<'_>, edges: &[Edge]| {
            let mut heard = ear.borrow_mut();
            heard.writes.push((at, op.role, op.bytes.to_vec()));
            heard.edges.extend_from_slice(edges);
        };
        let mut pipeline = Pipeline::new(mount).with_tap(tap);
        pipeline.power_up();
        pipeline.show(frame);
        if !pipeline.turn() {
            return None;
        }
        let (begin, mut settled) = (pipeline.now(), heard.borrow_mut().take());
        pipeline.turn();
        let length = pipeline.now() - begin;
        drop(pipeline);
        let mut turn = heard.borrow_mut().take();
        for edge in settled.edges.drain(..) {
            if let Some(level) = settled.levels.get_mut(edge.line) {
                *level = Some(edge.level);
            }
        }
        turn.edges.iter_mut().for_each(|edge| edge.at = edge.at - begin);
        turn.writes.iter_mut().for_each(|(at, ..)| *at = *at - begin);
        Some(Self { mount, levels: settled.levels, edges: turn.edges, writes: turn.writes, length })
    }

    /// The recording played from its beginning, for ever.
    #[must_use]
    pub fn replay(&self) -> Replay<'_> {
        let drive = &self.mount.drive;
        let mut eye = Eye::new(drive.ends.model(), drive.wiring.node_count());
        let known = self.levels.iter().enumerate();
        let begin: Vec<_> =
            known.filter_map(|(line, level)| Some(Edge { at: Nanos(0), line, level: (*level)? })).collect();
        eye.take(&begin);
        let mut replay = Replay { turn: self, eye, levels: self.levels.clone(), next: 0, begun: Nanos(0) };
        // A part remembers more than its lines tell: a whole turn brings it into step.
        replay.play_until(self.length);
        replay
    }
}

impl Heard {
    fn take(&mut self) -> Self {
        let levels = self.levels.clone();
        Self { levels, edges: std::mem::take(&mut self.edges), writes: std::mem::take(&mut self.writes) }
    }
}

/// A recording that is being played.
pub struct Replay<'a> {
    turn: &'a Recording<'a>,
    eye: Eye,
    levels: Vec<Option<bool>>,
    /// The next edge, and when the turn that it belongs to began.
    next: usize,
    begun: Nanos,
}

impl<'a> Replay<'a> {
    /// Plays up to a moment, counted from the beginning of the recording.
    fn play_until(&mut self, until: Nanos) {
        if self.turn.edges.is_empty() {
            self.eye.pass(until);
            return;
        }
        loop {
            let edge = self.turn.edges[self.next];
            let at = self.begun + edge.at;
            if at >= until {
                break;
            }
            self.levels[edge.line] = Some(edge.level);
            self.eye.take(&[Edge { at, ..edge }]);
            self.next += 1;
            if self.next == self.turn.edges.len() {
                (self.next, self.begun) = (0, self.begun + self.turn.length);
            }
        }
        self.eye.pass(until);
    }

    /// Plays so much on; what is seen of it, and the level of each line at its end. What is longer than a slot
    /// looks as bright as it is in the mean; what is shorter is a moment.
    pub fn play(&mut self, span: Nanos) -> (Picture<'a>, &[Option<bool>]) {
        let mount = self.turn.mount;
        let from = self.eye.now();
        self.eye.open(from);
        self.play_until(from + span);
        let slot = mount.drive.ends.circuit().and_then(|circuit| circuit.timing).map(|timing| timing.slot());
        let is_moment = slot.is_some_and(|slot| span < slot);
        let nodes: Vec<_> = if is_moment {
            self.eye.light().to_vec()
        } else {
            self.eye.sights(from + span).iter().map(|sight| sight.light as f32).collect()
        };
        let mut light = vec![0.0; mount.face.element_count()];
        mount.drive.wiring.to_elements(&nodes, &mut light);
        let picture =
            if is_moment { Picture { face: &mount.face, light } } else { Picture::exposed(mount, light) };
        (picture, &self.levels)
    }
}
