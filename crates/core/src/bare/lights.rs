//! The lights themselves, as the receiving side knows them: where they are, what their two ends hang on, and when
//! current flows.
//!
//! A light conducts when both its ends are connected: its anode to the high rail and its cathode to the low one. An end
//! hangs on an output, straight or through a switch, or always on a rail.

use super::circuit::{Circuit, Hangs, ResistorPlace, Scanned, Switch, SwitchKind};
use crate::bus::Edge;
use crate::face::{Element, Face};
use crate::geometry::Geometry;
use crate::glyph::Common;
use crate::model::{Model, Notebook, ones};
use crate::units::Nanos;

/// A light between an output of its own and something that it shares with others.
struct Spot {
    element: Element,
    own: usize,
    /// The output that others share; none where the shared end is at a rail.
    shared: Option<usize>,
    /// The index of the shared digit, row or column; each light at a rail of its own has an index of its own.
    group: usize,
    /// True if the anode is at the light's own output.
    own_is_anode: bool,
}

/// All lights of a circuit, found by what hangs on its outputs.
fn spots(circuit: &Circuit, face: &Face) -> Vec<Spot> {
    // Which end of a digit's lights, of a static digit's lights and of a row is the joined one.
    let common_is_cathode = face.common == Common::Cathode;
    let hanging = || circuit.outputs.iter().enumerate().map(|(output, found)| (output, found.hangs));
    let mut spots = Vec::new();
    for (own, hangs) in hanging() {
        match hangs {
            Hangs::Segment(segment) => {
                for (shared, other) in hanging() {
                    let Hangs::Digit(digit) = other else { continue };
                    let at_crossing =
                        circuit.crossed.iter().find(|light| (light.digit, light.segment) == (digit, segment));
                    let element = match at_crossing {
                        Some(light) => face.extra(light.extra),
                        None if digit < face.digits() => face.element(digit, segment),
                        None => continue,
                    };
                    let group = digit;
                    spots.push(Spot {
                        element,
                        own,
                        shared: Some(shared),
                        group,
                        own_is_anode: common_is_cathode,
                    });
                }
            }
            Hangs::SegmentOf { digit, segment } => spots.push(Spot {
                element: face.element(digit, segment),
                own,
                shared: None,
                group: digit,
                own_is_anode: common_is_cathode,
            }),
            Hangs::Extra(extra) => spots.push(Spot {
                element: face.extra(extra),
                own,
                shared: None,
                // Beyond every digit, row and column.
                group: face.digits() + circuit.outputs.len() + extra,
                // A light of its own is put in as the circuit wants it.
                own_is_anode: wants_anode(circuit),
            }),
            Hangs::Row(y) if circuit.scanned == Scanned::Columns => {
                for (shared, other) in hanging() {
                    if let Hangs::Column(x) = other
                        && let Some(element) = face.dot(x, y)
                    {
                        let own_is_anode = face.common == Common::Anode;
                        spots.push(Spot { element, own, shared: Some(shared), group: x, own_is_anode });
                    }
                }
            }
            Hangs::Column(x) if circuit.scanned == Scanned::Rows => {
                for (shared, other) in hanging() {
                    if let Hangs::Row(y) = other
                        && let Some(element) = face.dot(x, y)
                    {
                        let own_is_anode = common_is_cathode;
                        spots.push(Spot { element, own, shared: Some(shared), group: y, own_is_anode });
                    }
                }
            }
            Hangs::Digit(_) | Hangs::Row(_) | Hangs::Column(_) => {}
        }
    }
    // Lights that switch together are adjacent, so that the eye compares one short range.
    spots.sort_by_key(|spot| (spot.group, spot.shared));
    spots
}

/// Returns true if a circuit has the anode of a light at the light's own output.
fn wants_anode(circuit: &Circuit) -> bool {
    circuit.common == Common::Cathode
}

/// Where the lights of a circuit are.
#[must_use]
pub fn geometry(circuit: &Circuit, face: &Face) -> Geometry {
    Geometry::new(spots(circuit, face).into_iter().map(|spot| Some(spot.element)).collect())
}

/// One end of a light, as it hangs on an output.
#[derive(Clone, Copy, PartialEq)]
struct End {
    /// The level at the output that connects it; none where the switch cannot.
    connects_at: Option<bool>,
    /// True if the output only charges a gate, for which a weak level will do.
    is_gate: bool,
}

impl End {
    /// An anode needs the high rail, a cathode the low one: straight at an output that is the output's level.
    /// A transistor connects its rail when it conducts: with a high base or gate, or for the p kinds a low one,
    /// unless the rig knows the circuit before it to turn that round. Where the light does not fit
    /// the circuit, that rail is the wrong one.
    fn of(switch: &Switch, is_anode: bool, fits: bool) -> Self {
        let connects_at = match switch.kind {
            SwitchKind::None => Some(is_anode),
            _ if !fits => None,
            // Its emitters are at ground.
            SwitchKind::Darlington if is_anode => None,
            _ => Some(switch.active),
        };
        let is_gate = matches!(switch.kind, SwitchKind::Nmos | SwitchKind::Pmos);
        Self { connects_at, is_gate }
    }

    /// Returns true if it is connected while its output has this level; `pulls_up` tells if one without a level is weakly high.
    fn is_connected(self, level: Option<bool>, pulls_up: impl FnOnce() -> bool) -> bool {
        if level.is_some() {
            return level == self.connects_at;
        }
        self.is_gate && self.connects_at == Some(true) && pulls_up()
    }
}

/// Lights that share an end; their nodes are next to each other.
struct Group {
    /// The output that the shared end hangs on, and that end; none where it is at its rail.
    shared: Option<(usize, End)>,
    /// The node of its first light.
    first: usize,
    /// The place of what its other ends hang on; groups that are scanned have one in common.
    lines: usize,
    /// True if the shared end is connected.
    connected: bool,
    /// The time until which it still is connected after its switch was turned off.
    lingers: Option<Nanos>,
    reported: Reported,
}

/// The lights of a group in the last report.
struct Reported {
    lit: Vec<u64>,
    light: f32,
}

/// The outputs that the own ends of a group's lights hang on.
struct Lines {
    outputs: Vec<usize>,
    end: End,
    /// By light, 64 in a word: whether its own end is connected.
    connected: Vec<u64>,
    /// The light of each that conducts.
    light: f32,
}

/// A field of lights behind outputs.
pub struct Lights {
    outputs: Box<dyn Model>,
    groups: Vec<Group>,
    lines: Vec<Lines>,
    /// How long a shared end goes on conducting.
    turn_off: Nanos,
    /// True if the lights of a group share the current of one resistor.
    one_resistor: bool,
    /// The count of changes of the outputs when they were last looked at.
    seen: u64,
    /// When the next group that lingers lets go.
    lets_go: Option<Nanos>,
    changes: u64,
}

impl Lights {
    /// The lights of a circuit behind outputs that behave as this model does.
    #[must_use]
    pub fn new(circuit: &Circuit, face: &Face, outputs: Box<dyn Model>) -> Self {
        let (mut first, mut lines) = (0, Vec::<Lines>::new());
        let spots = spots(circuit, face);
        let groups = spots.chunk_by(|a, b| (a.group, a.shared) == (b.group, b.shared)).map(|alike| {
            let own_is_anode = alike[0].own_is_anode;
            let fits = own_is_anode == wants_anode(circuit);
            let shared_end = End::of(&circuit.select_switch, !own_is_anode, fits);
            let mut own = End::of(&circuit.line_switch, own_is_anode, fits);
            if alike[0].shared.is_none() && !fits {
                // Both its ends never differ the right way.
                own.connects_at = None;
            }
            let outputs: Vec<usize> = alike.iter().map(|spot| spot.own).collect();
            let words = alike.len().div_ceil(64);
            let known = lines.iter().position(|known| known.end == own && known.outputs == outputs);
            let place = known.unwrap_or(lines.len());
            if known.is_none() {
                lines.push(Lines { outputs, end: own, connected: vec![0; words], light: 1.0 });
            }
            first += alike.len();
            Group {
                shared: alike[0].shared.map(|output| (output, shared_end)),
                first: first - alike.len(),
                lines: place,
                connected: alike[0].shared.is_none(),
                lingers: None,
                reported: Reported { lit: vec![0; words], light: 1.0 },
            }
        });
        let mut lights = Self {
            groups: groups.collect(),
            lines,
            turn_off: circuit.select_switch.turn_off,
            one_resistor: circuit.resistor.is_some_and(|resistor| resistor.place == ResistorPlace::Digits),
            seen: outputs.changes(),
            lets_go: None,
            changes: 0,
            outputs,
        };
        lights.look_at_lines();
        lights
    }

    /// Takes edges; what is to be done after each moment at which lights may change is done with the lights and the moment.
    fn take_and(&mut self, edges: &[Edge], mut then: impl FnMut(&mut Self, Nanos)) {
        for group in edges.chunk_by(|a, b| a.at == b.at) {
            let now = group[0].at;
            while let Some(at) = self.lets_go.filter(|at| *at <= now) {
                self.pass(at);
                then(self, at);
            }
            let before = self.changes;
            self.outputs.take(group);
            self.look(now);
            if self.changes != before {
                then(self, now);
            }
        }
    }

    /// Looks at the outputs after something happened at `now`.
    fn look(&mut self, now: Nanos) {
        let changes = self.outputs.changes();
        if std::mem::replace(&mut self.seen, changes) == changes {
            return;
        }
        let levels = self.outputs.levels();
        let mut any_light = false;
        for group in &mut self.groups {
            // One that is connected before or after may look different; the levels of the others change nothing.
            any_light |= group.connected;
            let Some((output, end)) = group.shared else { continue };
            if end.is_connected(levels.get(output).copied().flatten(), || self.outputs.pulls_up(output)) {
                (group.connected, group.lingers) = (true, None);
                any_light = true;
            } else if group.connected && group.lingers.is_none() {
                match self.turn_off {
                    Nanos(0) => group.connected = false,
                    turn_off => group.lingers = Some(now + turn_off),
                }
            }
        }
        if any_light {
            self.changes += 1;
            self.look_at_lines();
        }
        self.lets_go = self.next_to_let_go();
    }

    /// Finds out which own ends are connected.
    fn look_at_lines(&mut self) {
        let levels = self.outputs.levels();
        for lines in &mut self.lines {
            for (word, outputs) in lines.connected.iter_mut().zip(lines.outputs.chunks(64)) {
                *word = outputs.iter().rev().fold(0, |word, output| {
                    let level = levels.get(*output).copied().flatten();
                    word << 1 | u64::from(lines.end.is_connected(level, || self.outputs.pulls_up(*output)))
                });
            }
            if self.one_resistor {
                let conducting: u32 = lines.connected.iter().map(|word| word.count_ones()).sum();
                lines.light = 1.0 / conducting.max(1) as f32;
            }
        }
    }

    /// Reports the differences from the last report.
    fn report(&mut self, mut report: impl FnMut(usize, f32)) {
        for Group { first, lines, connected, reported, .. } in &mut self.groups {
            if !*connected && reported.lit.iter().all(|word| *word == 0) {
                continue;
            }
            let lines = &self.lines[*lines];
            let is_other_light = std::mem::replace(&mut reported.light, lines.light) != lines.light;
            for (index, (reported, lit)) in reported.lit.iter_mut().zip(&lines.connected).enumerate() {
                let lit = if *connected { *lit } else { 0 };
                let before = std::mem::replace(reported, lit);
                let changed = if is_other_light { before | lit } else { before ^ lit };
                for place in ones(changed) {
                    let light = if lit >> place & 1 == 1 { lines.light } else { 0.0 };
                    report(*first + index * 64 + place, light);
                }
            }
        }
    }

    fn next_to_let_go(&self) -> Option<Nanos> {
        if self.turn_off == Nanos(0) {
            return None;
        }
        self.groups.iter().filter_map(|group| group.lingers).min()
    }
}

impl Model for Lights {
    fn wake(&mut self, levels: &[Option<bool>]) {
        self.outputs.wake(levels);
        self.seen = self.outputs.changes().wrapping_sub(1);
        self.look(Nanos(0));
    }

    fn take(&mut self, edges: &[Edge]) {
        self.take_and(edges, |_, _| ());
    }

    fn take_reporting(&mut self, edges: &[Edge], report: &mut dyn FnMut(Nanos, usize, f32)) -> bool {
        self.take_and(edges, |lights, at| lights.report(|node, light| report(at, node, light)));
        true
    }

    fn changes(&self) -> u64 {
        self.changes
    }

    fn next_change(&self) -> Option<Nanos> {
        self.lets_go
    }

    fn pass(&mut self, now: Nanos) {
        if self.lets_go.is_none_or(|at| now < at) {
            return;
        }
        for group in &mut self.groups {
            if group.lingers.is_some_and(|until| until <= now) {
                (group.connected, group.lingers) = (false, None);
                self.changes += 1;
            }
        }
        self.lets_go = self.next_to_let_go();
    }

    fn lit(&self, nodes: &mut [f32]) {
        nodes.fill(0.0);
        for group in self.groups.iter().filter(|group| group.connected) {
            let lines = &self.lines[group.lines];
            let lit = lines.connected.iter().zip((0..).step_by(64));
            for place in lit.flat_map(|(word, first)| ones(*word).map(move |place| first + place)) {
                if let Some(node) = nodes.get_mut(group.first + place) {
                    *node = lines.light;
                }
            }
        }
    }

    fn report_lights(&mut self, report: &mut dyn FnMut(usize, f32)) -> bool {
        self.report(report);
        true
    }

    fn levels(&self) -> &[Option<bool>] {
        self.outputs.levels()
    }

    fn registers(&self) -> Option<String> {
        self.outputs.registers()
    }

    fn answer(&self) -> Option<bool> {
        self.outputs.answer()
    }

    fn answer_delay(&self) -> Nanos {
        self.outputs.answer_delay()
    }

    fn state(&self, now: Nanos) -> Option<Vec<u64>> {
        let mut state = self.outputs.state(now)?;
        state.extend(self.groups.iter().map(|group| match group.lingers {
            Some(until) => 2 + until.0.wrapping_sub(now.0),
            None => u64::from(group.connected),
        }));
        Some(state)
    }

    fn shift(&mut self, by: Nanos) {
        self.outputs.shift(by);
        for group in &mut self.groups {
            group.lingers = group.lingers.map(|until| until + by);
        }
        self.lets_go = self.lets_go.map(|at| at + by);
    }

    fn pending(&self) -> Option<String> {
        self.outputs.pending()
    }

    fn why_dark(&self) -> Option<&'static str> {
        self.outputs.why_dark()
    }

    fn notebook(&mut self) -> Option<&mut Notebook> {
        self.outputs.notebook()
    }
}
