//! The lights themselves, as the receiving side knows them: where they are, what their two ends hang on, and when
//! current flows.
//!
//! A light conducts when both its ends are connected: its anode to the high rail and its cathode to the low one. An end
//! hangs on an output, straight or through a switch, or always on a rail.

use std::ops::Range;

use super::circuit::{Circuit, Hangs, ResistorPlace, Scanned, Switch, SwitchKind};
use crate::bus::Edge;
use crate::face::{Element, Face};
use crate::geometry::Geometry;
use crate::glyph::Common;
use crate::model::{Model, Notebook};
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
                own_is_anode: common_is_cathode,
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
    /// unless the rig knows the circuit before it to turn that round.
    fn of(switch: &Switch, is_anode: bool) -> Self {
        let connects_at = match switch.kind {
            SwitchKind::None => Some(is_anode),
            // Its emitters are at ground.
            SwitchKind::Darlington if is_anode => None,
            _ => Some(switch.active),
        };
        let is_gate = matches!(switch.kind, SwitchKind::Nmos | SwitchKind::Pmos);
        Self { connects_at, is_gate }
    }

    /// Returns true if it is connected while its output has this level; `pulls_up` tells if one without a level is weakly high.
    fn is_connected(self, level: Option<bool>, pulls_up: impl FnOnce() -> bool) -> bool {
        match level {
            Some(level) => self.connects_at == Some(level),
            None => self.is_gate && self.connects_at == Some(true) && pulls_up(),
        }
    }
}

/// Lights that share an end; their nodes are next to each other.
struct Group {
    /// The output that the shared end hangs on, and that end; none where it is at its rail.
    shared: Option<(usize, End)>,
    /// The node of its first light.
    first: usize,
    /// The other end of its lights.
    own: End,
    /// By light, the output that this end hangs on.
    outputs: Vec<usize>,
    /// True if the shared end is connected.
    connected: bool,
    /// The time until which it still is connected after its switch was turned off.
    lingers: Option<Nanos>,
}

/// A field of lights behind outputs.
pub struct Lights {
    outputs: Box<dyn Model>,
    groups: Vec<Group>,
    /// How long a shared end goes on conducting.
    turn_off: Nanos,
    /// True if the lights of a group share the current of one resistor.
    one_resistor: bool,
    /// The levels when they were last looked at.
    seen: Vec<Option<bool>>,
    /// When the next group that lingers lets go.
    lets_go: Option<Nanos>,
    changes: u64,
}

impl Group {
    fn nodes(&self) -> Range<usize> {
        self.first..self.first + self.outputs.len()
    }
}

impl Lights {
    /// The lights of a circuit behind outputs that behave as this model does.
    #[must_use]
    pub fn new(circuit: &Circuit, face: &Face, outputs: Box<dyn Model>) -> Self {
        let mut nodes = 0;
        let spots = spots(circuit, face);
        let groups = spots.chunk_by(|a, b| (a.group, a.shared) == (b.group, b.shared)).map(|alike| {
            let own_is_anode = alike[0].own_is_anode;
            let end = End::of(&circuit.select_switch, !own_is_anode);
            let first = nodes;
            nodes += alike.len();
            Group {
                shared: alike[0].shared.map(|output| (output, end)),
                first,
                own: End::of(&circuit.line_switch, own_is_anode),
                outputs: alike.iter().map(|spot| spot.own).collect(),
                connected: alike[0].shared.is_none(),
                lingers: None,
            }
        });
        Self {
            groups: groups.collect(),
            turn_off: circuit.select_switch.turn_off,
            one_resistor: circuit.resistor.is_some_and(|resistor| resistor.place == ResistorPlace::Digits),
            seen: outputs.levels().to_vec(),
            lets_go: None,
            changes: 0,
            outputs,
        }
    }

    /// The groups whose shared end is connected.
    fn connected(&self) -> impl Iterator<Item = &Group> {
        self.groups.iter().filter(|group| group.connected)
    }

    /// Looks at the outputs after something happened at `now`.
    fn look(&mut self, now: Nanos) {
        let levels = self.outputs.levels();
        if levels == self.seen {
            return;
        }
        self.seen.copy_from_slice(levels);
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
        self.changes += u64::from(any_light);
        self.lets_go = self.next_to_let_go();
    }

    fn next_to_let_go(&self) -> Option<Nanos> {
        if self.turn_off == Nanos(0) {
            return None;
        }
        self.groups.iter().filter_map(|group| group.lingers).min()
    }

    /// Writes the light of a group whose shared end is connected.
    fn light(&self, group: &Group, nodes: &mut [f32]) {
        let conducts = |output: usize| {
            group.own.is_connected(self.seen.get(output).copied().flatten(), || self.outputs.pulls_up(output))
        };
        let each = match self.one_resistor {
            false => 1.0,
            true => 1.0 / group.outputs.iter().filter(|output| conducts(**output)).count().max(1) as f32,
        };
        for (output, node) in group.outputs.iter().zip(nodes) {
            *node = if conducts(*output) { each } else { 0.0 };
        }
    }
}

impl Model for Lights {
    fn wake(&mut self, levels: &[Option<bool>]) {
        self.outputs.wake(levels);
        self.look(Nanos(0));
    }

    fn take(&mut self, edges: &[Edge]) {
        for group in edges.chunk_by(|a, b| a.at == b.at) {
            let now = group[0].at;
            self.pass(now);
            self.outputs.take(group);
            self.look(now);
        }
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
        self.lit_within(0..nodes.len(), nodes);
    }

    fn bright(&self, _: usize) -> Range<usize> {
        // Groups follow one another.
        let mut connected = self.connected();
        let Some(first) = connected.next().map(Group::nodes) else { return 0..0 };
        first.start..connected.last().map_or(first.end, |last| last.nodes().end)
    }

    fn lit_within(&self, span: Range<usize>, nodes: &mut [f32]) {
        nodes.fill(0.0);
        for group in self.connected() {
            // A group that is connected now stands wholly within the span or wholly outside.
            let own = group.nodes();
            if let (Some(from), Some(to)) =
                (own.start.checked_sub(span.start), own.end.checked_sub(span.start))
                && let Some(nodes) = nodes.get_mut(from..to)
            {
                self.light(group, nodes);
            }
        }
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
