//! What a recording put on a display: everything that was said on the bus, and every change of the picture.

use super::{Change, Level};
use crate::bus::Edge;
use crate::drive::Note;
use crate::picture::Picture;
use crate::rig::Mount;
use crate::scan::eye::Eye;
use crate::units::Nanos;

/// Something that happened.
pub enum Happening<'r> {
    /// The bus said something, or something about it was odd.
    Note(Note),
    /// The picture changed, and stood.
    Picture(Nanos, Picture<'r>),
}

impl Happening<'_> {
    /// When.
    #[must_use]
    pub fn at(&self) -> Nanos {
        match self {
            Self::Note(note) => note.at,
            Self::Picture(at, _) => *at,
        }
    }
}

/// What is wanted of a recording.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Wanted {
    /// Everything.
    Story,
    /// Just what there is to see.
    Pictures,
    /// Just the last picture: the fastest.
    Last,
}

/// A picture that changes again within this time is on its way to the next: a frame takes several transfers.
const STANDS: Nanos = Nanos(1_000_000);

/// Follows a recording.
pub struct Follower<'r> {
    mount: &'r Mount,
    wanted: Wanted,
    eye: Eye,
    /// By wire: the line that it is.
    map: Vec<Option<usize>>,
    levels: Vec<Option<bool>>,
    /// The model's count of changes, and when it last went up.
    changes: u64,
    changed: Option<Nanos>,
    /// Which elements were lit in the last picture, and how brightly.
    seen: Vec<f32>,
    /// How long a turn is, where the controller scans: pictures are what the eye gets in one.
    turn: Option<Nanos>,
    edges: Vec<Edge>,
    /// The level of each line while nothing is sent.
    idle: Vec<Option<bool>>,
    /// What happened after the last change of lights: a picture may yet come before it.
    waiting: Vec<Happening<'r>>,
}

impl<'r> Follower<'r> {
    /// Follows a recording of a face's lines; `map` has the line of each wire.
    #[must_use]
    pub fn new(mount: &'r Mount, map: Vec<Option<usize>>, wanted: Wanted) -> Self {
        let mut model = mount.drive.ends.model();
        if wanted == Wanted::Story {
            model.listen();
        }
        let circuit = mount.drive.ends.circuit();
        let eye = Eye::new(model, mount.drive.wiring.node_count());
        Self {
            wanted,
            changes: eye.model().changes(),
            changed: None,
            seen: vec![0.0; mount.face.element_count()],
            turn: circuit.and_then(|circuit| circuit.timing).map(|timing| timing.turn()),
            levels: vec![None; mount.drive.lines.len()],
            eye,
            mount,
            map,
            edges: Vec::new(),
            idle: mount.drive.ends.bus().idle(),
            waiting: Vec::new(),
        }
    }

    /// Takes changes in order of time; what happened is added, in order of time.
    pub fn take(&mut self, changes: &[Change], happened: &mut Vec<Happening<'r>>) {
        if self.wanted == Wanted::Last && self.turn.is_none() {
            let mut edges = std::mem::take(&mut self.edges);
            edges.clear();
            edges.extend(changes.iter().filter_map(|change| self.edge(change)));
            self.eye.model_mut().take(&edges);
            self.edges = edges;
            return;
        }
        for change in changes {
            if let Some(edge) = self.edge(change) {
                self.pass(edge.at);
                self.step(edge);
            }
        }
        self.release(happened);
    }

    /// Hands out, in order of time, what nothing can come before any more.
    fn release(&mut self, happened: &mut Vec<Happening<'r>>) {
        self.waiting.extend(self.eye.model_mut().heard().into_iter().map(Happening::Note));
        self.waiting.sort_by_key(Happening::at);
        let settled = self.changed.map_or(self.waiting.len(), |changed| {
            self.waiting.partition_point(|happening| happening.at() <= changed)
        });
        happened.extend(self.waiting.drain(..settled));
    }

    /// The edge of a line that a change is, if it is one.
    fn edge(&mut self, change: &Change) -> Option<Edge> {
        let line = (*self.map.get(change.wire as usize)?)?;
        let level = match change.level {
            Level::Low => false,
            // A line that nothing drives is pulled up, or of no concern.
            Level::High | Level::Open => true,
            Level::Unknown => return None,
        };
        let before = self.levels[line].replace(level);
        // How a recording begins is no edge where the line rests as it should.
        let begins = before.is_none() && self.idle[line] == Some(level);
        (before != Some(level) && !begins).then_some(Edge { at: change.at, line, level })
    }

    fn step(&mut self, edge: Edge) {
        if self.turn.is_some() {
            self.eye.take(&[edge]);
            return;
        }
        self.eye.model_mut().take(&[edge]);
        let changes = self.eye.model().changes();
        if changes != self.changes {
            self.changes = changes;
            self.changed = Some(edge.at);
        }
    }

    /// Time passes until `now`: pictures that stood are told.
    fn pass(&mut self, now: Nanos) {
        match self.turn {
            None => {
                if let Some(changed) = self.changed.filter(|changed| now - *changed >= STANDS) {
                    self.changed = None;
                    let light = self.light_now();
                    self.tell(changed, light);
                }
            }
            Some(turn) => {
                while now - self.eye.opened() >= turn {
                    let (begin, end) = (self.eye.opened(), self.eye.opened() + turn);
                    let nodes: Vec<_> = self.eye.sights(end).iter().map(|sight| sight.light as f32).collect();
                    self.eye.open(end);
                    let light = self.elements(&nodes);
                    self.tell(begin, light);
                    // Nothing happens for long: it need not be looked at turn by turn.
                    if now - self.eye.opened() > Nanos(turn.0.saturating_mul(1_000)) {
                        self.eye.open(now - turn);
                    }
                }
            }
        }
    }

    /// The recording has ended at `now`.
    pub fn finish(&mut self, now: Nanos, happened: &mut Vec<Happening<'r>>) {
        self.pass(now);
        if let Some(changed) = self.changed.take() {
            let light = self.light_now();
            self.tell(changed, light);
        }
        self.release(happened);
    }

    /// What is seen now.
    #[must_use]
    pub fn picture(&self) -> Picture<'r> {
        let light = if self.turn.is_some() { self.seen.clone() } else { self.light_now() };
        Picture::exposed(self.mount, light)
    }

    fn light_now(&self) -> Vec<f32> {
        let mut nodes = vec![0.0; self.mount.drive.wiring.node_count()];
        self.eye.model().lit(&mut nodes);
        self.elements(&nodes)
    }

    fn elements(&self, nodes: &[f32]) -> Vec<f32> {
        let mut light = vec![0.0; self.mount.face.element_count()];
        self.mount.drive.wiring.to_elements(nodes, &mut light);
        light
    }

    /// Tells a picture that differs from the last one by more than an eye overlooks.
    fn tell(&mut self, at: Nanos, mut light: Vec<f32>) {
        let full = self.mount.drive.ends.full_duty();
        if self.turn.is_some() {
            // Parts of a turn and ghosts are no picture.
            light.iter_mut().filter(|light| **light < 0.25 * full).for_each(|light| *light = 0.0);
        }
        let differs = light.iter().zip(&self.seen).any(|(now, before)| {
            (*now > 0.0) != (*before > 0.0) || (self.turn.is_none() && (now - before).abs() > 1e-6)
        });
        if differs {
            self.seen.clone_from(&light);
            if self.wanted != Wanted::Last {
                let picture = Picture::exposed(self.mount, light);
                self.waiting.push(Happening::Picture(at, picture));
            }
        }
    }
}
