//! From the keys of a drive table to a circuit.

use std::ops::Range;

use crate::rig::Spanned;

use super::circuit::{
    Circuit, Crossed, Hangs, Light, Output, Resistor, ResistorPlace, Scanned, Switch, SwitchKind,
};
use super::keys::{CircuitKeys, LevelKey, ScanBy, Segments, Table};
use super::trouble::{CircuitTrouble, opposite};
use super::values::Values;
use crate::face::{Element, Face};
use crate::glyph::{BitOrder, Common};
use crate::rig::{DriveTable, FilePlace, Function, Pin, Place, Problem};
use crate::units::Ohms;
use crate::wiring::{Node, Wiring, WiringError};

/// A circuit and how the face is wired to its lights.
pub struct PlannedCircuit {
    /// The circuit.
    pub circuit: Circuit,
    /// From elements to the circuit's lights.
    pub wiring: Wiring,
}

/// Where a port has the segments that a rig gives as an order: the output with this bit of this digit's part
/// (0 where all digits share one).
pub type Numbered<'p> = &'p dyn Fn(&str, usize, usize) -> Option<Pin>;

/// Plans the circuit of a face. `scanned` says whether the method can and must scan; `None` leaves it to whether
/// selects are given. What is wrong is reported through the table.
pub fn plan(
    face: &Face,
    keys: &CircuitKeys,
    scanned: Option<bool>,
    numbered: Numbered<'_>,
    table: &DriveTable<'_>,
) -> Option<PlannedCircuit> {
    if face.dots().is_some() && scanned == Some(false) {
        table.error(Place::Face("kind"), Problem::NoDots);
        return None;
    }
    let mut plan = Plan {
        face,
        keys,
        table,
        numbered,
        outputs: Vec::new(),
        crossed: Vec::new(),
        package: package_table(keys, table)?,
    };
    let is_scanned = scanned.unwrap_or_else(|| keys.is_scanned(table));
    let (mut lights, selects, scanned) = match face.dots() {
        Some(_) => plan.dots()?,
        None => plan.digits(is_scanned)?,
    };
    let wired_for = plan.wired_for();
    if let Some(written) = keys.wired_for.as_ref().filter(|_| wired_for != face.common) {
        table.defect(written.span(), CircuitTrouble::OtherCommon { common: face.common, wired_for });
    }
    // The rows are those in the rig; the columns are the other side of the lights.
    let joined_side = if scanned == Scanned::Columns { opposite(wired_for) } else { wired_for };
    let values = Values { keys, table };
    let timing = if selects.is_empty() { None } else { Some(values.timing(selects.len())?) };
    let gamma = values.gamma(timing.as_ref())?;
    if let Some(depth) = keys.depth.as_ref().filter(|_| timing.is_none()) {
        table.error(depth.span(), CircuitTrouble::NoGreys);
        return None;
    }
    let line_switch =
        values.switch("segment_switch", keys.segment_switch.as_ref(), joined_side == Common::Cathode)?;
    let mut select_switch = match (&keys.digit_switch, selects.is_empty()) {
        (None, true) => Switch::none(joined_side == Common::Anode),
        (written, _) => values.switch("digit_switch", written.as_ref(), joined_side == Common::Anode)?,
    };
    if !selects.is_empty() {
        table.or_assume("digits_active", keys.digits_active.clone(), select_switch.active.into());
    }
    if let Some(written) = &keys.digits_active {
        let active = *written.get_ref() == LevelKey::High;
        if select_switch.kind == SwitchKind::None && active != select_switch.active {
            let word = if active { "high" } else { "low" };
            table.defect(written.span(), CircuitTrouble::SelectLevel { common: joined_side, written: word });
        }
        select_switch.active = active;
    }
    for light in &mut lights {
        light.active = line_switch.active;
    }
    let nodes = plan.wire(&mut lights, &selects, &line_switch)?;
    let resistor = keys.resistor.as_ref().map(|key| Resistor {
        ohms: Ohms(*key.get_ref().ohms.get_ref()),
        place: key.get_ref().place.unwrap_or_else(|| {
            table.assume("resistor.in", "\"segments\"");
            ResistorPlace::Segments
        }),
    });
    if let Some(key) = &keys.resistor {
        table.check_range(&key.get_ref().ohms, 0.0, 1e9);
    }
    let node_count = lights.len();
    let circuit = Circuit {
        lights,
        selects,
        scanned,
        common: joined_side,
        line_switch,
        select_switch,
        resistor,
        timing,
        gamma,
        places: values.places(),
        outputs: plan.outputs,
        crossed: plan.crossed,
    };
    let wiring = Wiring::new(nodes, node_count);
    if let Err(WiringError::Shared { second, .. }) = wiring
        && let Some(name) = second.0.checked_sub(face.extra(0).0).and_then(|extra| table.extras().get(extra))
    {
        table.error(name.span(), Problem::NodeTwice { node: name.get_ref().clone() });
    }
    Some(PlannedCircuit { circuit, wiring: wiring.ok()? })
}

/// The outputs at the pins of the package, by what the pins are for.
type ByFunction = Vec<(Function, Spanned<Pin>)>;

fn package_table(keys: &CircuitKeys, table: &DriveTable<'_>) -> Option<ByFunction> {
    let Some(written) = &keys.package_pins else { return Some(Vec::new()) };
    let Some(package) = table.package() else {
        table.error(written.span(), Problem::MissingKey { key: "package" });
        return None;
    };
    let mut found = Vec::new();
    for (number, pin) in written.get_ref() {
        let function =
            number.get_ref().parse::<usize>().ok().and_then(|n| package.pins.get(n.checked_sub(1)?));
        match function {
            None => {
                let problem =
                    Problem::NoPackagePin { package: package.name.clone(), pin: number.get_ref().clone() };
                table.error(number.span(), problem);
                return None;
            }
            Some(Function::Nothing) => {
                table.warn(number.span(), Problem::NoLight { line: format!("pin {}", number.get_ref()) });
            }
            // The common side of a static digit goes to a rail, not to an output.
            Some(function) => found.push((*function, pin.clone())),
        }
    }
    Some(found)
}

/// An order of segments, and the port that is named before it, if any: `P1: dp g f e d c b a`.
fn port_and_names(order: &str) -> (&str, &str) {
    order.split_once(':').map_or(("", order), |(port, names)| (port.trim(), names.trim()))
}

struct Plan<'p> {
    face: &'p Face,
    keys: &'p CircuitKeys,
    table: &'p DriveTable<'p>,
    numbered: Numbered<'p>,
    outputs: Vec<Output>,
    crossed: Vec<Crossed>,
    package: ByFunction,
}

/// The lights, the outputs that select some of them, and what those are.
type Lights = (Vec<Light>, Vec<usize>, Scanned);

impl Plan<'_> {
    /// The common side for which the circuit is made.
    fn wired_for(&self) -> Common {
        self.keys.wired_for.as_ref().map_or(self.face.common, |written| *written.get_ref())
    }

    fn scans_columns(&self) -> bool {
        self.keys.scan.as_ref().is_some_and(|scan| *scan.get_ref() == ScanBy::Columns)
    }

    /// Adds an output; its place among them.
    fn output(&mut self, role: String, hangs: Hangs, pin: &Spanned<Pin>) -> usize {
        let function = match hangs {
            Hangs::Segment(segment) | Hangs::SegmentOf { segment, .. } => Some(Function::Segment(segment)),
            Hangs::Digit(digit) => Some(Function::Digit(digit)),
            Hangs::Row(row) => Some(Function::Row(row)),
            Hangs::Column(column) => Some(Function::Column(column)),
            Hangs::Extra(_) => None,
        };
        let package_pins =
            function.zip(self.table.package()).map(|(function, package)| package.pins_of(function).collect());
        let (place, pin) = (FilePlace(pin.span()), pin.get_ref().clone());
        let package_pins = package_pins.unwrap_or_default();
        self.outputs.push(Output { role, hangs, pin, package_pins, place });
        self.outputs.len() - 1
    }

    /// The lights of digits, in the order of the elements, and the selects.
    fn digits(&mut self, scanned: bool) -> Option<Lights> {
        let face = self.face;
        let count = face.style().segment_count();
        if !scanned {
            if let Some(digits) = &self.keys.digits {
                let problem = Problem::NoLight { line: "the list of digits".into() };
                self.table.error(digits.span(), problem);
            }
            let mut lights = Vec::new();
            for digit in 0..face.digits() {
                let pins = self.segment_pins(digit, true)?;
                let segments = pins.into_iter().enumerate().map(|(segment, pin)| {
                    let name = face.style().segment_names()[segment];
                    let role =
                        if face.digits() == 1 { name.to_owned() } else { format!("digit {digit} {name}") };
                    let hangs = Hangs::SegmentOf { digit, segment };
                    let line = pin.map(|pin| self.output(role, hangs, &pin));
                    Light { line, active: true, select: None, joined: digit }
                });
                lights.extend(segments.collect::<Vec<_>>());
            }
            return Some((lights, Vec::new(), Scanned::Nothing));
        }
        if let Some(package) = self.table.package()
            && package.is_of_each_digit(face)
        {
            let problem =
                Problem::PackageOfOther { package: package.name.clone(), function: "common".to_owned() };
            self.table.error(Place::Face("package"), problem);
            return None;
        }
        let pins = self.segment_pins(0, false)?;
        let names = face.style().segment_names();
        let lines: Vec<_> = pins
            .into_iter()
            .enumerate()
            .map(|(segment, pin)| {
                pin.map(|pin| self.output(names[segment].to_owned(), Hangs::Segment(segment), &pin))
            })
            .collect();
        let selects = self.select_pins()?;
        if selects.len() < face.digits() {
            let (found, needed) = (format!("{} digits", selects.len()), face.digits().to_string());
            self.table.error(Place::Drive("digits"), Problem::WrongCount { found, needed });
            return None;
        }
        let selects: Vec<_> = selects
            .iter()
            .enumerate()
            .map(|(digit, pin)| self.output(format!("digit {digit}"), Hangs::Digit(digit), pin))
            .collect();
        let lights = (0..face.digits() * count).map(|element| Light {
            line: lines[element % count],
            active: true,
            select: Some(element / count),
            joined: element / count,
        });
        Some((lights.collect(), selects, Scanned::Digits))
    }

    /// The pin of each segment of a digit, in the style's order; the point may have none.
    fn segment_pins(&self, digit: usize, single: bool) -> Option<Vec<Option<Spanned<Pin>>>> {
        let (style, table) = (self.face.style(), self.table);
        let names = style.segment_names();
        let mut pins = vec![None; names.len()];
        let place = match &self.keys.segments {
            None if !self.package.is_empty() && (self.face.digits() == 1 || !single) => {
                for (function, pin) in &self.package {
                    if let Function::Segment(segment) = function {
                        pins[*segment] = Some(pin.clone());
                    }
                }
                self.keys.package_pins.as_ref().map_or_else(|| table.place(), Spanned::span)
            }
            None => {
                let order = table.or_assume("segments", None, BitOrder::usual(style).to_string());
                self.ordered(&order, digit, &mut pins)?
            }
            Some(written) => match written.get_ref() {
                Segments::Order(order) => {
                    self.ordered(&Spanned::new(written.span(), order.clone()), digit, &mut pins)?
                }
                Segments::Table(segments) => {
                    if single && self.face.digits() > 1 {
                        let found = "the segments of one digit".to_owned();
                        let needed = format!("{} digits", self.face.digits());
                        table.error(written.span(), Problem::WrongCount { found, needed });
                        return None;
                    }
                    self.named(segments, &mut pins);
                    written.span()
                }
                Segments::Tables(tables) => {
                    let needed = if single { self.face.digits() } else { 1 };
                    let Some(segments) = tables.get(digit).filter(|_| tables.len() == needed) else {
                        let found = format!("the segments of {} digits", tables.len());
                        let needed = format!("{needed} to be wired");
                        table.error(written.span(), Problem::WrongCount { found, needed });
                        return None;
                    };
                    self.named(segments.get_ref(), &mut pins);
                    segments.span()
                }
            },
        };
        // The point stands last and may have no pin.
        let mut missing =
            names.iter().zip(&pins).take(style.point_index()).filter(|(_, pin)| pin.is_none()).peekable();
        if missing.peek().is_none() {
            return Some(pins);
        }
        for (name, _) in missing {
            table.error(place.clone(), Problem::NoWire { light: format!("segment {name}") });
        }
        None
    }

    fn named(&self, segments: &Table, pins: &mut [Option<Spanned<Pin>>]) {
        let style = self.face.style();
        for (name, pin) in segments {
            match style.segment_index(name.get_ref()) {
                Some(index) => pins[index] = Some(pin.clone()),
                None => {
                    let problem = Problem::unknown_name("segment", name.get_ref(), style.segment_names());
                    self.table.error(name.span(), problem);
                }
            }
        }
    }

    fn ordered(
        &self,
        order: &Spanned<String>,
        digit: usize,
        pins: &mut [Option<Spanned<Pin>>],
    ) -> Option<Range<usize>> {
        let (port, names) = port_and_names(order.get_ref());
        let parsed = BitOrder::parse(names, self.face.style())
            .map_err(|error| self.table.error(order.span(), Problem::BitOrder(error)))
            .ok()?;
        for (segment, pin) in pins.iter_mut().enumerate() {
            let Some(bit) = parsed.bit_of(segment) else { continue };
            let Some(found) = (self.numbered)(port, digit, bit) else {
                let found = format!("{:?}", order.get_ref());
                let allowed = "the pin of each segment, as in { a = \"PIN\", ... }, or an order on a port: \
                               \"P1: dp g f e d c b a\""
                    .to_owned();
                self.table.error(order.span(), Problem::WrongValue { found, allowed });
                return None;
            };
            *pin = Some(Spanned::new(order.span(), found));
        }
        Some(order.span())
    }

    /// The pins that select the digits, from left to right. Where list and package both tell, they must agree.
    fn select_pins(&self) -> Option<Vec<Spanned<Pin>>> {
        let by_package = self.package_list(Function::Digit);
        let Some(written) = &self.keys.digits else {
            if by_package.is_empty() {
                self.table.error(self.table.place(), Problem::MissingKey { key: "digits" });
                return None;
            }
            return Some(by_package);
        };
        let list = written.get_ref();
        let differs = |(a, b): (&Spanned<Pin>, &Spanned<Pin>)| a.get_ref() != b.get_ref();
        if !by_package.is_empty()
            && let Some(digit) = by_package.iter().zip(list).position(differs)
        {
            let (package, found) =
                (by_package[digit].get_ref().to_string(), list[digit].get_ref().to_string());
            let mirrored =
                by_package.len() == list.len() && !by_package.iter().zip(list.iter().rev()).any(differs);
            let problem = if mirrored {
                CircuitTrouble::MirroredDigits { first: package, written: found }
            } else {
                CircuitTrouble::OtherThanPackage { digit, by_package: package, written: found }
            };
            self.table.error(written.span(), problem);
        }
        Some(list.clone())
    }

    /// The outputs at the package's pins for 0, 1 and so on of a function, as far as they go.
    fn package_list(&self, function: fn(usize) -> Function) -> Vec<Spanned<Pin>> {
        let pin = |index| self.package.iter().find(|(found, _)| *found == function(index));
        (0..).map_while(|index| pin(index).map(|(_, pin)| pin.clone())).collect()
    }

    /// The lights of dots, row by row, and the selects.
    fn dots(&mut self) -> Option<Lights> {
        let grid = self.face.dots()?;
        let rows = self.dot_pins("rows", self.keys.rows.as_ref(), grid.height, Function::Row)?;
        let columns = self.dot_pins("columns", self.keys.columns.as_ref(), grid.width, Function::Column)?;
        self.table.or_assume("scan", self.keys.scan.clone(), ScanBy::Rows);
        let mut add = |pins: &[Spanned<Pin>], what: &str, hangs: fn(usize) -> Hangs| -> Vec<usize> {
            let pins = pins.iter().enumerate();
            pins.map(|(index, pin)| self.output(format!("{what} {index}"), hangs(index), pin)).collect()
        };
        let rows = add(&rows, "row", Hangs::Row);
        let columns = add(&columns, "column", Hangs::Column);
        let by_columns = self.scans_columns();
        let light = |dot: usize| {
            let (x, y) = (dot % grid.width, dot / grid.width);
            let (line, select) = if by_columns { (rows[y], x) } else { (columns[x], y) };
            Light { line: Some(line), active: true, select: Some(select), joined: select }
        };
        let lights = (0..grid.width * grid.height).map(light).collect();
        Some(if by_columns { (lights, columns, Scanned::Columns) } else { (lights, rows, Scanned::Rows) })
    }

    fn dot_pins(
        &self,
        key: &'static str,
        written: Option<&Spanned<Vec<Spanned<Pin>>>>,
        count: usize,
        function: fn(usize) -> Function,
    ) -> Option<Vec<Spanned<Pin>>> {
        let pins = match written {
            Some(written) => written.get_ref().clone(),
            None => self.package_list(function),
        };
        if pins.is_empty() {
            self.table.error(self.table.place(), Problem::MissingKey { key });
            return None;
        }
        if pins.len() != count {
            let (found, needed) = (format!("{} {key}", pins.len()), count.to_string());
            self.table.error(Place::Drive(key), Problem::WrongCount { found, needed });
            return None;
        }
        Some(pins)
    }

    /// The light of each element, those of colons and lamps added. What has no wire has no light.
    fn wire(
        &mut self,
        lights: &mut Vec<Light>,
        selects: &[usize],
        line_switch: &Switch,
    ) -> Option<Vec<Option<Node>>> {
        let (face, table) = (self.face, self.table);
        let wired = |node: usize| lights[node].line.map(|_| Node(node));
        let mut nodes: Vec<_> = (0..face.extra(0).0).map(wired).collect();
        let mut beyond = vec![false; selects.len()];
        for (place, (extra, name)) in face.extras.iter().zip(table.extras()).enumerate() {
            let light = match self.crossing(name.get_ref(), selects.len()) {
                Some((digit, segment)) => {
                    let segment_name = face.style().segment_names()[segment];
                    let line = self.outputs.iter().position(|output| output.hangs == Hangs::Segment(segment));
                    if line.is_none() {
                        let light = format!("segment {segment_name}");
                        table.error(name.span(), Problem::NoWire { light });
                        return None;
                    }
                    beyond[digit] = true;
                    let is_point = segment == face.style().point_index();
                    if digit < face.digits() && !is_point {
                        let node = name.get_ref().clone();
                        table.error(name.span(), Problem::NodeTaken { node, segment: segment_name });
                        return None;
                    }
                    if self.crossed.iter().any(|taken| (taken.digit, taken.segment) == (digit, segment)) {
                        table.error(name.span(), Problem::NodeTwice { node: name.get_ref().clone() });
                        return None;
                    }
                    // A colon on a digit's dp: that digit has no point.
                    if digit < face.digits() {
                        let Element(point) = face.element(digit, segment);
                        nodes[point] = None;
                    }
                    self.crossed.push(Crossed { extra: place, digit, segment });
                    Light { line, active: line_switch.active, select: Some(digit), joined: digit }
                }
                None => {
                    let Some(pin) = Pin::parse(name.get_ref()) else {
                        let found = format!("{:?}", name.get_ref());
                        let allowed = "the name of a pin, or a place such as \"digit2.dp\"".to_owned();
                        table.error(name.span(), Problem::WrongValue { found, allowed });
                        return None;
                    };
                    let pin = Spanned::new(name.span(), pin);
                    let line = self.output(extra.name.clone(), Hangs::Extra(place), &pin);
                    // Its other side is at the rail of the circuit's common side, whatever is scanned.
                    let active = match line_switch.kind {
                        SwitchKind::None => self.wired_for() == Common::Cathode,
                        _ => line_switch.active,
                    };
                    let joined = selects.len().max(face.digits()) + lights.len();
                    Light { line: Some(line), active, select: None, joined }
                }
            };
            lights.push(light);
            nodes.push(Some(Node(lights.len() - 1)));
        }
        for (digit, lit) in beyond.iter().enumerate().skip(face.digits()) {
            if face.dots().is_none() && !lit {
                table.warn(Place::Drive("digits"), Problem::NoLight { line: format!("digit {digit}") });
            }
        }
        Some(nodes)
    }

    /// A crossing of the scan by its name: `digit2.dp`.
    fn crossing(&self, name: &str, selects: usize) -> Option<(usize, usize)> {
        let (digit, segment) = name.strip_prefix("digit")?.split_once('.')?;
        let digit = digit.parse().ok().filter(|digit| *digit < selects)?;
        Some((digit, self.face.style().segment_index(segment)?))
    }
}
