//! One turn of a scan, recorded to be looked at again: slowed down, drawn, or written out.

use super::scheduler::Scheduler;
use crate::board::picture::Picture;
use crate::board::{Board, End};
use crate::bus::{Edge, Op, Reply, Role};
use crate::frame::Frame;
use crate::link::{LinkError, Tap};
use crate::plan::{BothRigs, DeviceId, Rig};
use crate::units::Nanos;

/// A turn as it comes again and again while the frame stays.
pub struct Turn<'r> {
    described: &'r Rig,
    built: &'r Rig,
    face: usize,
    /// The level of each line at its beginning; lines are numbered as the face's.
    pub levels: Vec<Option<bool>>,
    /// Its edges, counted from its beginning.
    pub edges: Vec<Edge>,
    /// Its writes: when, what for, and what is written.
    pub writes: Vec<(Nanos, Role, Vec<u8>)>,
    /// How long it is.
    pub length: Nanos,
}

impl<'r> Turn<'r> {
    /// Records the turn of a frame, after it has settled; none where the controller does no scan.
    ///
    /// # Errors
    /// When the board cannot be spoken to.
    pub fn record(rigs: BothRigs<'r>, face: usize, frame: &Frame) -> Result<Option<Self>, LinkError> {
        let BothRigs { described, built } = rigs;
        let mut board = Board::built_as(rigs);
        board.record();
        let mut writes: Vec<(Nanos, Role, Vec<u8>)> = Vec::new();
        let tell = |_: DeviceId, op: &Op<'_>, reply: &Reply, _: &mut Board<'_>| {
            writes.push((reply.began, op.role, op.transfer.bytes().to_vec()));
        };
        let mut scheduler = Scheduler::new(described, Tap { link: board, tell });
        scheduler.power_up(face)?;
        scheduler.show(face, frame)?;
        if !scheduler.run_turn(face)? || !scheduler.run_turn(face)? {
            return Ok(None);
        }
        let begin = scheduler.now();
        scheduler.link_mut().link.recorded();
        let mount = &described.faces[face];
        let levels = scheduler.link().link.levels_of(mount);
        scheduler.run_turn(face)?;
        let length = scheduler.now() - begin;
        let mut edges = scheduler.link_mut().link.recorded_of(mount);
        drop(scheduler);
        edges.iter_mut().for_each(|edge| edge.at = edge.at - begin);
        writes.retain(|(at, ..)| *at >= begin);
        writes.iter_mut().for_each(|(at, ..)| *at = *at - begin);
        Ok(Some(Self { described, built, face, levels, edges, writes, length }))
    }

    /// The recording played from its beginning, for ever.
    #[must_use]
    pub fn replay(&self) -> Replay<'_> {
        let mount = &self.built.faces[self.face];
        let mut end = End::new(mount);
        // A line leads to the part's line at the same pin.
        let described = &self.described.faces[self.face].lines;
        let to: Vec<Vec<usize>> = described
            .iter()
            .map(|line| {
                let there = mount.lines.iter().enumerate().filter(|(_, built)| built.known == line.known);
                there.map(|(place, _)| place).collect()
            })
            .collect();
        let mut levels = vec![None; mount.lines.len()];
        for (level, places) in self.levels.iter().zip(&to) {
            places.iter().for_each(|place| levels[*place] = *level);
        }
        end.wake(&levels);
        let mut replay =
            Replay { turn: self, end, to, levels: self.levels.clone(), next: 0, begun: Nanos(0) };
        // A part remembers more than its lines tell: a whole turn brings it into step.
        replay.play_until(self.length);
        replay
    }
}

/// A recording that is being played.
pub struct Replay<'a> {
    turn: &'a Turn<'a>,
    end: End<'a>,
    /// By line of the face as described: the lines of the parts as built.
    to: Vec<Vec<usize>>,
    levels: Vec<Option<bool>>,
    /// The next edge, and when the turn that it belongs to began.
    next: usize,
    begun: Nanos,
}

impl<'a> Replay<'a> {
    /// Plays up to a moment, counted from the beginning of the recording.
    fn play_until(&mut self, until: Nanos) {
        if self.turn.edges.is_empty() {
            self.end.eye_mut().pass(until);
            return;
        }
        loop {
            let edge = self.turn.edges[self.next];
            let at = self.begun + edge.at;
            if at >= until {
                break;
            }
            self.levels[edge.line] = Some(edge.level);
            for line in &self.to[edge.line] {
                self.end.take(&[Edge { at, line: *line, level: edge.level }]);
            }
            self.next += 1;
            if self.next == self.turn.edges.len() {
                (self.next, self.begun) = (0, self.begun + self.turn.length);
            }
        }
        self.end.eye_mut().pass(until);
    }

    /// Plays so much on; what is seen of it, and the level of each line at its end. What is longer than a slot
    /// looks as bright as it is in the mean; what is shorter is a moment.
    pub fn play(&mut self, span: Nanos) -> (Picture<'a>, &[Option<bool>]) {
        let from = self.end.eye().now();
        self.end.eye_mut().open(from);
        self.play_until(from + span);
        let scan = self.turn.described.faces[self.turn.face].drive.display().scan();
        let picture = if scan.is_some_and(|scan| span < scan.slot) {
            Picture { face: &self.end.mount().face, light: self.end.light() }
        } else {
            let light = self.end.sights(from + span).iter().map(|sight| sight.light as f32).collect();
            self.end.exposed(light)
        };
        (picture, &self.levels)
    }
}
