//! Nets: the wires at the controller's pins, what is done to them, and who listens.

use super::end::End;
use super::fault::Fault;
use crate::bus::panel::{self, Panel};
use crate::bus::{Edge, Protocol, Reply, Transfer, Wires, spi};
use crate::model::resolved;
use crate::rig::Pin;
use crate::units::Nanos;

/// All wires of a board, with the receiving ends at them.
#[derive(Default)]
pub struct Nets<'r> {
    pins: Vec<Pin>,
    nets: Vec<Net>,
    ends: Vec<Connected<'r>>,
    buttons: Vec<Contact>,
    /// The ends that answer, by their places.
    answering: Vec<usize>,
    /// False while no end has edges waiting or an answer coming.
    is_stirred: bool,
    now: Nanos,
    recorded: Option<Vec<Edge>>,
}

/// The wire at one controller pin.
#[derive(Default)]
struct Net {
    /// The level that the controller drives, now and at power-up.
    driven: Option<bool>,
    idle: Option<bool>,
    /// The level at which a resistor keeps it where nobody drives it.
    pull: Option<bool>,
    /// The level at which a push button holds it.
    held: Option<bool>,
    /// The level at its far end.
    level: Option<bool>,
    /// Who listens: the end, and the number of the line there.
    listeners: Vec<(usize, usize)>,
    /// The ends that may drive it.
    answered_by: Vec<usize>,
    fault: NetFault,
}

/// A push button at a net.
#[derive(Clone, Copy)]
struct Contact {
    net: usize,
    /// The level that it makes.
    active: bool,
}

/// The fault of a wire.
#[derive(Debug, Default, Clone, Copy, PartialEq)]
enum NetFault {
    #[default]
    None,
    Stuck(bool),
    Open,
    /// It touches another.
    Shorted(usize),
    /// The rise that is lost, counted from now on; its fall is lost too.
    LostPulse(u64),
    Losing,
}

/// A receiving end in its place.
struct Connected<'r> {
    end: End<'r>,
    protocol: Protocol,
    /// The net of each of its lines.
    lines: Vec<usize>,
    company: Company,
    /// The net that it answers on, what it does to it, and what it will do.
    answers_on: Option<usize>,
    answer: Option<bool>,
    coming: Option<(Nanos, Option<bool>)>,
    /// Edges that it has not been given yet.
    waiting: Vec<Edge>,
    /// How often it was given any.
    heard: u64,
}

/// Who else is on the lines of an end.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Company {
    /// Nobody.
    None,
    /// Other ends of the same bus share its clock and data; its select is its own.
    Selected,
    /// Others, or something is wrong with a wire: only its edges tell what it hears.
    Other,
}

/// Edges are handed over in pieces that stay in the cache.
const MOST_WAITING: usize = 512;

impl<'r> Nets<'r> {
    /// The net of each of these pins; one that has none gets one.
    pub fn of_pins(&mut self, pins: &[Pin]) -> Vec<usize> {
        let mut net = |pin: &Pin| {
            self.pins.iter().position(|known| known == pin).unwrap_or_else(|| {
                self.pins.push(pin.clone());
                self.nets.push(Net::default());
                self.pins.len() - 1
            })
        };
        pins.iter().map(&mut net).collect()
    }

    /// Connects the controller's end of a device.
    pub fn connect_controller(&mut self, protocol: &Protocol, lines: &[usize]) {
        for (net, idle) in lines.iter().zip(protocol.idle()) {
            self.nets[*net].idle = self.nets[*net].idle.or(idle);
        }
        for (line, net) in lines.iter().enumerate() {
            if let Some(pull) = protocol.pull(line) {
                // Nobody drives it between transfers.
                (self.nets[*net].idle, self.nets[*net].pull) = (None, Some(pull));
            }
        }
    }

    /// Connects a receiving end.
    pub fn connect_end(&mut self, end: End<'r>, protocol: &Protocol, lines: &[usize]) {
        let place = self.ends.len();
        for (line, net) in lines.iter().enumerate() {
            self.nets[*net].listeners.push((place, line));
        }
        let answers_on = protocol.answer_line().and_then(|line| lines.get(line)).copied();
        if let Some(net) = answers_on {
            self.nets[net].answered_by.push(place);
            self.nets[net].pull = Some(true);
            self.answering.push(place);
        }
        self.ends.push(Connected {
            end,
            protocol: protocol.clone(),
            lines: lines.to_vec(),
            company: Company::Other,
            answers_on,
            answer: None,
            coming: None,
            waiting: Vec::new(),
            heard: 0,
        });
    }

    /// Connects a push button: the level that it makes, and the one at which a resistor keeps its net meanwhile. It is known by its net.
    pub fn connect_button(&mut self, net: usize, active: bool, pull: Option<bool>) {
        // A resistor is stronger than a pull inside the controller.
        self.nets[net].pull = pull.or(self.nets[net].pull);
        self.buttons.push(Contact { net, active });
    }

    /// Presses a push button, or lets it go.
    pub fn press(&mut self, at: Nanos, button: usize, down: bool) {
        let Some(Contact { net, active }) = self.buttons.get(button).copied() else { return };
        let at = at.max(self.now);
        self.come_to(at);
        self.nets[net].held = down.then_some(active);
        self.look(at, net);
    }

    /// Power comes: every line is idle.
    pub fn power_up(&mut self) {
        for net in 0..self.nets.len() {
            self.nets[net].driven = self.nets[net].idle;
        }
        for net in 0..self.nets.len() {
            self.nets[net].level = self.resolve(net);
        }
        for place in 0..self.ends.len() {
            let levels: Vec<_> = self.ends[place].lines.iter().map(|net| self.nets[*net].level).collect();
            self.ends[place].end.wake(&levels);
            self.ends[place].company = self.company_of(place);
        }
    }

    fn company_of(&self, place: usize) -> Company {
        let end = &self.ends[place];
        let net = |net: &usize| &self.nets[*net];
        if end.lines.iter().map(net).any(|net| net.fault != NetFault::None) {
            return Company::Other;
        }
        let is_own = |(line, found): (usize, &usize)| net(found).listeners == [(place, line)];
        if end.lines.iter().enumerate().all(is_own) {
            return Company::None;
        }
        let (Protocol::Spi(_), [clock, data, select]) = (&end.protocol, &end.lines[..]) else {
            return Company::Other;
        };
        let is_selected = |(on_clock, on_data): (&(usize, usize), &(usize, usize))| {
            (on_clock.1, on_data.1) == (spi::CLOCK, spi::DATA)
                && on_clock.0 == on_data.0
                && matches!(self.ends[on_clock.0].protocol, Protocol::Spi(_))
        };
        let (clocked, fed) = (&net(clock).listeners, &net(data).listeners);
        let are_alike = clocked.len() == fed.len() && clocked.iter().zip(fed).all(is_selected);
        if is_own((spi::SELECT, select)) && are_alike { Company::Selected } else { Company::Other }
    }

    pub fn put(&mut self, fault: &Fault) {
        let net_of = |nets: &mut Self, pin: &Pin| nets.of_pins(std::slice::from_ref(pin))[0];
        match fault {
            Fault::Stuck { pin, high } => {
                let net = net_of(self, pin);
                self.nets[net].fault = NetFault::Stuck(*high);
            }
            Fault::Open { pin } => {
                let net = net_of(self, pin);
                self.nets[net].fault = NetFault::Open;
            }
            Fault::LostPulse { pin, rise } => {
                let net = net_of(self, pin);
                self.nets[net].fault = NetFault::LostPulse(*rise);
            }
            Fault::Shorted { first, second } => {
                let (first, second) = (net_of(self, first), net_of(self, second));
                self.nets[first].fault = NetFault::Shorted(second);
                self.nets[second].fault = NetFault::Shorted(first);
            }
            _ => {}
        }
    }

    /// Returns true if a part answers on a net, or a push button is at it.
    pub fn is_answered(&self, net: usize) -> bool {
        self.nets.get(net).is_some_and(|net| !net.answered_by.is_empty())
            || self.buttons.iter().any(|contact| contact.net == net)
    }

    pub fn pins(&self) -> &[Pin] {
        &self.pins
    }

    pub fn levels(&self) -> Vec<Option<bool>> {
        self.nets.iter().map(|net| net.level).collect()
    }

    pub fn record(&mut self) {
        self.recorded.get_or_insert_default();
    }

    pub fn recorded(&mut self) -> Vec<Edge> {
        self.recorded.as_mut().map(std::mem::take).unwrap_or_default()
    }

    pub fn end_mut(&mut self, place: usize) -> Option<&mut End<'r>> {
        self.ends.get_mut(place).map(|connected| &mut connected.end)
    }

    pub fn ends_mut(&mut self) -> impl Iterator<Item = &mut End<'r>> {
        self.ends.iter_mut().map(|connected| &mut connected.end)
    }

    /// The nets that each end is connected to.
    pub fn reached(&self) -> impl Iterator<Item = &[usize]> {
        self.ends.iter().map(|connected| connected.lines.as_slice())
    }

    /// Everything that what comes from `now` on depends on; none where a part cannot tell, or someone records.
    pub fn state(&self, now: Nanos) -> Option<Vec<u64>> {
        let answers =
            self.ends.iter().any(|connected| connected.answer.is_some() || connected.coming.is_some());
        if answers || !self.are_sound() {
            return None;
        }
        let of_net = |net: &Net| net.driven.map_or(2, u64::from) + 3 * net.held.map_or(2, u64::from);
        let mut state: Vec<u64> = self.nets.iter().map(of_net).collect();
        for connected in &self.ends {
            let model = connected.end.eye().model();
            match model.state(now) {
                Some(of_part) => state.extend(of_part),
                // A model without a state is unchanged while it hears nothing and does not change by itself.
                None if model.next_change().is_none() => state.push(connected.heard),
                None => return None,
            }
        }
        Some(state)
    }

    /// Returns true if nothing is wrong with any, and nobody records what happens.
    pub fn are_sound(&self) -> bool {
        self.recorded.is_none() && self.nets.iter().all(|net| net.fault == NetFault::None)
    }

    pub fn shift(&mut self, by: Nanos) {
        self.now = self.now + by;
    }

    /// Returns the level of a net from all its drivers.
    fn resolve(&self, net: usize) -> Option<bool> {
        let own = |net: &Net| {
            let answers = net.answered_by.iter().filter_map(|end| self.ends[*end].answer);
            // A low level wins.
            let answer = answers.chain(net.held).min();
            (net.driven, answer)
        };
        let this = &self.nets[net];
        let (driven, answer) = own(this);
        match this.fault {
            NetFault::Stuck(high) => Some(high),
            NetFault::Open => resolved([None, answer], this.pull),
            NetFault::Shorted(other) => {
                let (other_driven, other_answer) = own(&self.nets[other]);
                let one = resolved([driven, answer], None);
                let two = resolved([other_driven, other_answer], None);
                resolved([one, two], this.pull.or(self.nets[other].pull))
            }
            _ => resolved([driven, answer], this.pull),
        }
    }

    /// Passes a change of the level of a net at `at` on to its listeners.
    #[inline]
    fn look(&mut self, at: Nanos, net: usize) {
        let this = &self.nets[net];
        let is_plain = this.answered_by.is_empty() && this.pull.is_none() && this.held.is_none();
        let level = if is_plain && this.fault == NetFault::None { this.driven } else { self.resolve(net) };
        let Some(level) = level else { return };
        let this = &mut self.nets[net];
        if this.level == Some(level) {
            return;
        }
        match &mut this.fault {
            NetFault::LostPulse(0) if level => {
                this.fault = NetFault::Losing;
                return;
            }
            NetFault::LostPulse(rises) if level => *rises -= 1,
            NetFault::Losing => this.fault = NetFault::None,
            _ => {}
        }
        this.level = Some(level);
        if let Some(recorded) = &mut self.recorded {
            recorded.push(Edge { at, line: net, level });
        }
        for (end, line) in &this.listeners {
            self.ends[*end].waiting.push(Edge { at, line: *line, level });
        }
        self.is_stirred = true;
    }

    /// The controller does something to a net. Time has come to `at` for everyone who answers.
    #[inline]
    fn drive(&mut self, at: Nanos, net: usize, level: Option<bool>) {
        // A transfer on another bus, which lasts longer, may have come further.
        if at != self.now {
            self.come_to(at);
        }
        if std::mem::replace(&mut self.nets[net].driven, level) != level {
            self.look(at, net);
            if let NetFault::Shorted(other) = self.nets[net].fault {
                self.look(at, other);
            }
        }
    }

    /// Carries a burst over in one piece, where its lines lead to one end that takes it so, one for one, and nothing is wrong
    /// with them. Returns when it is over; `None` where it has to go edge by edge.
    pub fn burst(&mut self, panel: &Panel, columns: &[u8], at: Nanos, lines: &[usize]) -> Option<Nanos> {
        let last = columns.last()?;
        let end = self.alone_at(lines)?;
        self.come_to(at);
        if !self.ends[end].end.take_burst(columns, at, panel) {
            return None;
        }
        self.ends[end].heard += 1;
        let mut set = |line: usize, level: bool| {
            let net = &mut self.nets[lines[line]];
            (net.driven, net.level) = (Some(level), Some(level));
        };
        set(panel::CLOCK, false);
        set(panel::ENABLE, last >> panel.data_lines & 1 == 1);
        for line in 0..panel.data_lines {
            set(panel::ADDRESS + panel.address_lines + line, last >> line & 1 == 1);
        }
        Some(at + panel.length(columns.len()))
    }

    /// Carries a transfer over as bytes, under the same conditions; what came of it.
    pub fn whole(
        &mut self,
        protocol: &Protocol,
        transfer: Transfer<'_>,
        at: Nanos,
        lines: &[usize],
    ) -> Option<Reply> {
        let end = match transfer {
            Transfer::Spi { .. } => self.selected_at(lines)?,
            _ => self.alone_at(lines)?,
        };
        self.come_to(at);
        let connected = &mut self.ends[end];
        let is_same = std::mem::discriminant(&connected.protocol) == std::mem::discriminant(protocol);
        if !is_same || connected.answer.is_some() || connected.coming.is_some() {
            return None;
        }
        let reply = connected.end.take_whole(protocol, transfer, at)?;
        connected.heard += 1;
        if let (Transfer::Spi { bytes }, Some(clock)) = (transfer, lines.first()) {
            for (other, _) in self.nets[*clock].listeners.iter().filter(|(other, _)| *other != end) {
                self.ends[*other].heard += 1;
                self.ends[*other].end.overhear(bytes);
            }
        }
        match (protocol.leaves(transfer), transfer) {
            // Who is there has had the last bit.
            (Some((line, level)), Transfer::Spi { .. }) => {
                let net = &mut self.nets[lines[line]];
                (net.driven, net.level) = (level, level.or(net.level));
            }
            (Some((line, level)), _) => self.drive(reply.ended, lines[line], level),
            (None, _) => {}
        }
        Some(reply)
    }

    /// The end to which lines lead one for one, where nobody records.
    fn straight_at(&self, lines: &[usize]) -> Option<usize> {
        let (end, _) = *self.nets.get(*lines.last()?)?.listeners.first()?;
        (self.recorded.is_none() && self.ends[end].lines == lines).then_some(end)
    }

    /// The same where it is alone there and nothing is wrong with them.
    fn alone_at(&self, lines: &[usize]) -> Option<usize> {
        let is_free = |end: &usize| {
            let end = &self.ends[*end];
            end.company == Company::None && end.waiting.is_empty()
        };
        self.straight_at(lines).filter(is_free)
    }

    /// The same where its select is its own, and it shares its clock and data with nobody but ends like it.
    fn selected_at(&mut self, lines: &[usize]) -> Option<usize> {
        // The last line of these is the select.
        let end = self.straight_at(lines).filter(|end| self.ends[*end].company != Company::Other)?;
        let Self { nets, ends, .. } = self;
        let hears = |(end, _): &(usize, usize)| {
            let other = &mut ends[*end];
            other.waiting.is_empty() && other.end.takes_bytes()
        };
        nets[lines[spi::CLOCK]].listeners.iter().all(hears).then_some(end)
    }

    fn read(&mut self, at: Nanos, net: usize) -> bool {
        self.come_to(at);
        self.nets[net].level.unwrap_or(true)
    }

    /// Lets those that answer hear what has happened, and do what they do until `at`.
    fn come_to(&mut self, at: Nanos) {
        if self.is_stirred && !self.answering.is_empty() {
            self.hand_over_to_answering();
            loop {
                let due =
                    self.answering.iter().filter_map(|end| Some((self.ends[*end].coming?.0, *end))).min();
                let Some((then, end)) = due.filter(|(then, _)| *then <= at) else { break };
                let connected = &mut self.ends[end];
                connected.answer = connected.coming.take().and_then(|(_, answer)| answer);
                if let Some(net) = connected.answers_on {
                    self.look(then, net);
                }
                self.hand_over_to_answering();
            }
            self.is_stirred = self.answering.iter().any(|end| self.ends[*end].coming.is_some());
        }
        self.now = self.now.max(at);
    }

    fn hand_over_to_answering(&mut self) {
        for place in 0..self.answering.len() {
            let connected = &mut self.ends[self.answering[place]];
            let Some(last) = connected.waiting.last().map(|edge| edge.at) else { continue };
            connected.hand_over();
            let wanted = connected.end.answer();
            let coming = connected.coming.map_or(connected.answer, |(_, answer)| answer);
            if wanted != coming {
                let delay = connected.end.eye().model().answer_delay();
                connected.coming = Some((last + delay, wanted));
            }
        }
    }

    /// A transfer is over at `end`: everyone hears the rest of it.
    pub fn finish(&mut self, end: Nanos) {
        self.come_to(end);
        self.ends.iter_mut().for_each(Connected::hand_over);
    }
}

impl Connected<'_> {
    fn hand_over(&mut self) {
        if !self.waiting.is_empty() {
            self.heard += 1;
            self.end.take(&self.waiting);
            self.waiting.clear();
        }
    }
}

/// The lines of one device among the nets.
pub struct Lines<'n, 'r> {
    nets: &'n mut Nets<'r>,
    lines: &'n [usize],
}

impl<'n, 'r> Lines<'n, 'r> {
    pub fn new(nets: &'n mut Nets<'r>, lines: &'n [usize]) -> Self {
        Self { nets, lines }
    }
}

impl Wires for Lines<'_, '_> {
    #[inline]
    fn drive(&mut self, at: Nanos, line: usize, level: Option<bool>) {
        let Some(net) = self.lines.get(line) else { return };
        self.nets.drive(at, *net, level);
        // Who does not answer may hear of it later.
        if let Some((end, _)) = self.nets.nets[*net].listeners.first()
            && self.nets.ends[*end].waiting.len() >= MOST_WAITING
        {
            self.nets.ends[*end].hand_over();
        }
    }

    fn read(&mut self, at: Nanos, line: usize) -> bool {
        self.lines.get(line).is_none_or(|net| self.nets.read(at, *net))
    }
}
