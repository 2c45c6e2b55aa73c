//! The lights themselves: where current flows.
//!
//! A light conducts when both its ends are connected: its anode to the high rail and its cathode to the low
//! one. An end hangs on an output, straight or through a switch, or on a rail for good.

use super::circuit::{Circuit, ResistorPlace, Switch, SwitchKind};
use super::port::Receiver;
use crate::bus::Edge;
use crate::drive::{Model, Note};
use crate::glyph::Common;
use crate::units::Nanos;

/// One end of a light, as it hangs on an output.
#[derive(Clone, Copy)]
struct End {
    /// The level at the output that connects it.
    connects_at: bool,
}

impl End {
    /// An anode needs the high rail, a cathode the low one: straight at an output that is the output's level.
    /// A transistor connects its rail when it conducts: with a high base or gate, or for the p kinds a low one,
    /// unless the rig knows the circuit before it to turn that round.
    fn of(switch: &Switch, is_anode: bool) -> Self {
        let connects_at = match switch.kind {
            SwitchKind::None => is_anode,
            _ => switch.active,
        };
        Self { connects_at }
    }

    fn is_connected(self, level: Option<bool>) -> bool {
        level == Some(self.connects_at)
    }
}

/// A select: the joined end of some lights.
struct Select {
    output: usize,
    /// The lights: node and output of the line.
    lights: Vec<(usize, usize)>,
    connected: bool,
    /// Until when it still conducts though it was told to stop.
    lingers: Option<Nanos>,
}

/// A field of lights behind the outputs of a port.
pub struct Lights {
    receiver: Box<dyn Receiver>,
    line: End,
    select: End,
    selects: Vec<Select>,
    /// The lights whose joined end is at its rail, by that end: node and output of the line.
    single: Vec<Vec<(usize, usize)>>,
    /// How long a select goes on conducting.
    turn_off: Nanos,
    /// Whether the lights of a select share the current of one resistor.
    shared: bool,
    /// The levels when they were last looked at.
    seen: Vec<Option<bool>>,
    changes: u64,
}

impl Lights {
    pub fn new(circuit: &Circuit, receiver: Box<dyn Receiver>) -> Self {
        let lights_of = |select: usize| {
            let lights = circuit.lights.iter().enumerate().filter(|(_, light)| light.select == Some(select));
            lights.filter_map(|(node, light)| Some((node, light.line?))).collect::<Vec<_>>()
        };
        let selects = circuit.selects.iter().enumerate().map(|(index, output)| Select {
            output: *output,
            lights: lights_of(index),
            connected: false,
            lingers: None,
        });
        let ends = circuit.lights.iter().map(|light| light.joined + 1).max().unwrap_or(0);
        let mut single = vec![Vec::new(); ends];
        for (node, light) in circuit.lights.iter().enumerate().filter(|(_, light)| light.select.is_none()) {
            single[light.joined].extend(light.line.map(|line| (node, line)));
        }
        let anodes_joined = circuit.common == Common::Anode;
        Self {
            line: End::of(&circuit.line_switch, !anodes_joined),
            select: End::of(&circuit.select_switch, anodes_joined),
            selects: selects.collect(),
            single,
            turn_off: circuit.select_switch.turn_off,
            shared: circuit.resistor.is_some_and(|resistor| resistor.place == ResistorPlace::Digits),
            seen: receiver.levels().to_vec(),
            changes: 0,
            receiver,
        }
    }

    /// Looks at the outputs after something happened at `now`.
    fn look(&mut self, now: Nanos) {
        let levels = self.receiver.levels();
        if levels == self.seen {
            return;
        }
        self.seen.copy_from_slice(levels);
        self.changes += 1;
        for select in &mut self.selects {
            if self.select.is_connected(levels.get(select.output).copied().flatten()) {
                (select.connected, select.lingers) = (true, None);
            } else if select.connected && select.lingers.is_none() {
                match self.turn_off {
                    Nanos(0) => select.connected = false,
                    turn_off => select.lingers = Some(now + turn_off),
                }
            }
        }
    }

    /// Writes the light of these lights, whose joined end is connected.
    fn light(&self, lights: &[(usize, usize)], nodes: &mut [f32]) {
        let conducts = |output: usize| self.line.is_connected(self.seen.get(output).copied().flatten());
        let each = match self.shared {
            false => 1.0,
            true => 1.0 / lights.iter().filter(|(_, output)| conducts(*output)).count().max(1) as f32,
        };
        for (node, output) in lights {
            if let Some(node) = nodes.get_mut(*node) {
                *node = if conducts(*output) { each } else { 0.0 };
            }
        }
    }
}

impl Model for Lights {
    fn take(&mut self, edges: &[Edge]) {
        for group in edges.chunk_by(|a, b| a.at == b.at) {
            let now = group[0].at;
            self.pass(now);
            self.receiver.take(group);
            self.look(now);
        }
    }

    fn changes(&self) -> u64 {
        self.changes
    }

    fn next_change(&self) -> Option<Nanos> {
        if self.turn_off == Nanos(0) {
            return None;
        }
        self.selects.iter().filter_map(|select| select.lingers).min()
    }

    fn pass(&mut self, now: Nanos) {
        if self.turn_off == Nanos(0) {
            return;
        }
        for select in &mut self.selects {
            if select.lingers.is_some_and(|until| until <= now) {
                (select.connected, select.lingers) = (false, None);
                self.changes += 1;
            }
        }
    }

    fn listen(&mut self) {
        self.receiver.listen();
    }

    fn heard(&mut self) -> Vec<Note> {
        self.receiver.heard()
    }

    fn lit(&self, nodes: &mut [f32]) {
        nodes.fill(0.0);
        self.single.iter().for_each(|lights| self.light(lights, nodes));
        for select in self.selects.iter().filter(|select| select.connected) {
            self.light(&select.lights, nodes);
        }
    }
}
