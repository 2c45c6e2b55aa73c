//! The currents of a bare display, output by output, and what each may be.

use std::fmt;

use crate::bare::circuit::{Circuit, Light, SwitchKind};
use crate::bare::ratings::{Group, Ratings};
use crate::glyph::Common;
use crate::units::Milliamps;

/// The most for a light in a pulse, where the rig does not say: commonly 60 to 80 mA for digits at a tenth of the time, 100
/// for single lights and dots; this is safe for all of them.
const LIGHT_PEAK: Milliamps = Milliamps(60.0);
/// The most for a light on average, where the rig does not say: commonly 20 to 25 mA.
const LIGHT_AVERAGE: Milliamps = Milliamps(25.0);

/// A current and its limit.
#[derive(Debug, Clone, PartialEq)]
pub struct Load {
    /// The carrier.
    pub carrier: Carrier,
    /// At most.
    pub current: Milliamps,
    /// The recommended limit, if it is known.
    pub limit: Option<Milliamps>,
    /// The absolute limit, if it differs.
    pub absolute: Option<Milliamps>,
}

/// The carrier of a current. Its text is its name in tables.
#[derive(Debug, Clone, PartialEq, Eq)]
#[allow(missing_docs, reason = "the words say what the fields are")]
pub enum Carrier {
    /// A light while it is lit.
    LightPeak,
    /// A light on average.
    LightAverage,
    /// The output of a line, all being alike.
    Line { role: String },
    /// The output of a select, all being alike.
    Select { role: String },
    /// The base of a switch, at the output of a line or select, all being alike.
    Base { role: String },
    /// A switch itself, all being alike.
    Switch { role: String, kind: SwitchKind },
    /// Outputs with a limit together: what they sink, or what they source.
    Group { name: String, sinks: bool },
    /// All lights of a bare face.
    Lights { face: String },
    /// Each of so many equal parts that set the currents of their lights, on average.
    Part { face: String, part: &'static str, parts: usize },
    /// All pins of the controller.
    Pins { controller: String },
    /// The supply.
    Supply,
}

impl fmt::Display for Carrier {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::LightPeak => f.write_str("a light, at its peak"),
            Self::LightAverage => f.write_str("a light, on average"),
            Self::Line { role } => write!(f, "the output of {role}, like every line"),
            Self::Select { role } => write!(f, "the output of {role}, like every select"),
            Self::Base { role } => write!(f, "the output of {role}, to the base of its switch"),
            Self::Switch { role, kind } => write!(f, "the {} of {role}", kind.name()),
            Self::Group { name, sinks: true } => write!(f, "{name}, sinking"),
            Self::Group { name, sinks: false } => write!(f, "{name}, sourcing"),
            Self::Lights { face } => write!(f, "the lights of {face}"),
            Self::Part { face, part, parts: 1 } => write!(f, "the {part} of {face}, on average"),
            Self::Part { face, part, parts } => write!(f, "each of the {parts} {part} of {face}, on average"),
            Self::Pins { controller } => write!(f, "all pins of the {controller}"),
            Self::Supply => f.write_str("the supply"),
        }
    }
}

impl Load {
    /// The load, as a sentence without its full stop: `each light carries 63.8 mA on average`.
    #[must_use]
    pub fn sentence(&self) -> String {
        let current = self.current;
        match &self.carrier {
            Carrier::LightPeak => format!("each light carries {current} at its peak"),
            Carrier::LightAverage => format!("each light carries {current} on average"),
            Carrier::Line { .. } | Carrier::Select { .. } | Carrier::Base { .. } => {
                format!("{}, carries {current}", self.carrier)
            }
            Carrier::Switch { .. } => format!("{} switches {current}", self.carrier),
            Carrier::Lights { .. } | Carrier::Part { .. } | Carrier::Supply => {
                format!("{} takes {current}", self.carrier)
            }
            Carrier::Pins { controller } => format!("the pins of the {controller} carry {current} together"),
            Carrier::Group { name, sinks: true } => format!("{name} sinks {current} in all"),
            Carrier::Group { name, sinks: false } => format!("{name} sources {current} in all"),
        }
    }
}

/// The currents of a circuit in which one resistor carries `peak`.
pub struct Currents<'c> {
    pub circuit: &'c Circuit,
    pub peak: Milliamps,
    /// True if the lights of a joined side share one resistor.
    pub is_shared: bool,
}

impl Currents<'_> {
    /// Of lights that are lit at one time.
    fn together<'l>(&self, lights: impl Iterator<Item = &'l Light>) -> Milliamps {
        // A colon at a crossing stands in place of the digit's own light.
        let path = |light: &Light| (light.joined, light.line.filter(|_| !self.is_shared));
        let mut paths: Vec<_> = lights.map(path).collect();
        paths.sort_unstable();
        paths.dedup();
        self.peak * paths.len() as f64
    }

    /// The lights with a wire.
    fn wired(&self) -> impl Iterator<Item = &Light> {
        self.circuit.lights.iter().filter(|light| light.line.is_some())
    }

    /// Of the joined side with the most lights.
    pub fn of_fullest_side(&self) -> Milliamps {
        let sides = 0..self.circuit.lights.iter().map(|light| light.joined + 1).max().unwrap_or(0);
        most(sides.map(|side| self.together(self.wired().filter(|light| light.joined == side))))
    }

    /// Of everything that can be lit at one time.
    pub fn of_all(&self) -> Milliamps {
        most(self.moments().map(|moment| self.together(self.lit_at(moment))))
    }

    /// The moments of the scan: each select, or one for all.
    fn moments(&self) -> impl Iterator<Item = Option<usize>> + use<> {
        let selects = self.circuit.selects.len();
        (0..selects.max(1)).map(move |select| (selects > 0).then_some(select))
    }

    /// The lights that can be lit at a moment of the scan. Those of their own always can.
    fn lit_at(&self, moment: Option<usize>) -> impl Iterator<Item = &Light> {
        self.wired().filter(move |light| light.select.is_none() || light.select == moment)
    }

    /// Every current that has a limit. A switch takes its output's load off it.
    pub fn loads(&self, ratings: &Ratings, duty: f64, most_peak: Option<Milliamps>) -> Vec<Load> {
        let circuit = self.circuit;
        let light =
            |carrier, current, limit, absolute| Load { carrier, current, limit: Some(limit), absolute };
        let mut loads = Vec::new();
        if circuit.timing.is_some() {
            // A figure in the rig is from the data sheet; the usual figure is only sensible.
            let limit = most_peak.unwrap_or(LIGHT_PEAK);
            loads.push(light(Carrier::LightPeak, self.peak, limit, most_peak));
        }
        loads.push(light(Carrier::LightAverage, self.peak * duty, LIGHT_AVERAGE, None));
        let output_load = |carrier, current, sources: bool| Load {
            carrier,
            current,
            limit: if sources { ratings.output_source.or(ratings.output) } else { ratings.output },
            absolute: ratings.output_sink_absolute.filter(|_| !sources).or(ratings.output_absolute),
        };
        let line = circuit.outputs.iter().enumerate().find(|(output, _)| !circuit.selects.contains(output));
        if let Some((_, line)) = line.filter(|_| self.lines_are_straight()) {
            let carrier = Carrier::Line { role: line.role.clone() };
            loads.push(output_load(carrier, self.peak, circuit.common == Common::Cathode));
        }
        if let Some(select) = circuit.selects.first().filter(|_| self.selects_are_straight()) {
            let carrier = Carrier::Select { role: circuit.outputs[*select].role.clone() };
            loads.push(output_load(carrier, self.of_fullest_side(), circuit.common == Common::Anode));
        }
        for (switch, carries, output) in [
            (&circuit.line_switch, self.peak, line.map(|(_, line)| line)),
            (
                &circuit.select_switch,
                self.of_fullest_side(),
                circuit.selects.first().map(|select| &circuit.outputs[*select]),
            ),
        ] {
            let Some(role) = output.map(|output| output.role.clone()) else { continue };
            if switch.kind == SwitchKind::None {
                continue;
            }
            let carrier = Carrier::Switch { role: role.clone(), kind: switch.kind };
            loads.push(Load { carrier, current: carries, limit: Some(switch.most), absolute: None });
            // A stage before it takes the load off the output; of outputs that only pull up it is said otherwise.
            let is_weak = ratings.weak_source().is_some();
            let sources = switch.kind.takes_from_output();
            let has_base = !(switch.is_turned_round() || is_weak && sources);
            if let Some(base) = switch.base(carries).filter(|_| has_base) {
                loads.push(output_load(Carrier::Base { role }, base, sources));
            }
        }
        for group in &ratings.groups {
            for (sinks, limit) in [(true, group.sink), (false, group.source)] {
                let Some(limit) = limit else { continue };
                let current = most(self.moments().map(|moment| self.of_group(group, sinks, moment)));
                if current.0 > 0.0 {
                    let carrier = Carrier::Group { name: group.name.clone(), sinks };
                    let absolute = Some(limit).filter(|_| group.is_absolute);
                    loads.push(Load { carrier, current, limit: Some(limit), absolute });
                }
            }
        }
        loads
    }

    fn lines_are_straight(&self) -> bool {
        self.circuit.line_switch.kind == SwitchKind::None
    }

    fn selects_are_straight(&self) -> bool {
        self.circuit.select_switch.kind == SwitchKind::None
    }

    /// The currents that the outputs of a group sink, or source, at a moment of the scan.
    fn of_group(&self, group: &Group, sinks: bool, moment: Option<usize>) -> Milliamps {
        let circuit = self.circuit;
        let is_in = |output: usize| group.outputs.contains(&output);
        let lines =
            self.lit_at(moment).filter(|light| light.line.is_some_and(is_in) && light.active != sinks);
        let mut current = Milliamps(0.0);
        if self.lines_are_straight() {
            current = self.together(lines);
        }
        let select = moment.and_then(|select| circuit.selects.get(select)).copied();
        if self.selects_are_straight()
            && select.is_some_and(is_in)
            && sinks == (circuit.common == Common::Cathode)
        {
            let of_select = self.lit_at(moment).filter(|light| light.select.is_some());
            current.0 += self.together(of_select).0;
        }
        current
    }
}

/// The largest of some currents.
pub(super) fn most(currents: impl Iterator<Item = Milliamps>) -> Milliamps {
    currents.fold(Milliamps(0.0), |most, current| if current > most { current } else { most })
}
