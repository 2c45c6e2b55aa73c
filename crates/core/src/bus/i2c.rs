//! I2C: two wires, open drain, with addresses and acknowledges.
//!
//! ```text
//!        start  7-bit address, write   ack    8 data bits   ack  stop
//!  data  '\_____<a6>...<a0>_______\____lo____<d7>...<d0>____lo___/'
//!  clock ''\_____/'\...../'\___/'\____/'\____/'\.../'\_____/'\__/''
//! ```
//!
//! Data changes while the clock is low; a fall of data while the clock is high is a start, a rise a stop. The part that
//! is addressed pulls data low for the ninth clock. Nobody drives data high: the pull-up does.

use super::{Edge, Reply, Wires};
use crate::units::{Hertz, Nanos};

/// The number of each line: SCL.
pub const CLOCK: usize = 0;
/// SDA, driven by controller and part.
pub const DATA: usize = 1;

/// The controller's end of the two wires.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct I2c {
    /// The clock rate that is asked for: the bus is never faster, and slower where the shortest times of the
    /// specification ask for it.
    pub clock: Hertz,
}

/// The shortest times of a clock in its mode: low, which is also how long the bus is free, and high, which is also how
/// long a start is held (I2C-bus specification, characteristics of the bus lines).
const fn shortest(clock: Hertz) -> (Nanos, Nanos) {
    match clock.0 {
        ..=100_000 => (Nanos(4_700), Nanos(4_000)),
        100_001..=400_000 => (Nanos(1_300), Nanos(600)),
        400_001..=1_000_000 => (Nanos(500), Nanos(260)),
        _ => (Nanos(320), Nanos(120)),
    }
}

/// A transfer that is on its way: the clock is low, and fell at `low`.
struct Transmission<'w, W> {
    wires: &'w mut W,
    low: Nanos,
    /// How long the clock stays low, and high.
    times: (Nanos, Nanos),
}

impl<W: Wires> Transmission<'_, W> {
    /// One clock; data is low, or let go. Returns the level of data while the clock was high.
    fn clock_out(&mut self, let_go: bool) -> bool {
        let (low_time, high_time) = self.times;
        self.wires.drive(self.low + Nanos(low_time.0 / 2), DATA, if let_go { None } else { Some(false) });
        let high = self.low + low_time;
        self.wires.drive(high, CLOCK, Some(true));
        let level = self.wires.read(high + Nanos(high_time.0 / 2), DATA);
        self.low = high + high_time;
        self.wires.drive(self.low, CLOCK, Some(false));
        level
    }

    /// A byte; whether it was acknowledged.
    fn write(&mut self, byte: u8) -> bool {
        for bit in (0..8).rev() {
            self.clock_out(byte >> bit & 1 == 1);
        }
        !self.clock_out(true)
    }

    /// A byte from the part, acknowledged or not.
    fn read(&mut self, acknowledge: bool) -> u8 {
        let byte = (0..8).fold(0, |byte, _| byte << 1 | u8::from(self.clock_out(true)));
        self.clock_out(!acknowledge);
        byte
    }

    /// Data up, clock up, data falls, clock falls.
    fn start_again(&mut self) {
        let (low_time, high_time) = self.times;
        self.wires.drive(self.low + Nanos(low_time.0 / 2), DATA, None);
        let high = self.low + low_time;
        self.wires.drive(high, CLOCK, Some(true));
        // Set up for as long as the clock is low elsewhere (t_SU;STA).
        self.wires.drive(high + low_time, DATA, Some(false));
        self.low = high + low_time + high_time;
        self.wires.drive(self.low, CLOCK, Some(false));
    }

    fn stop(self) -> Nanos {
        let (low_time, high_time) = self.times;
        self.wires.drive(self.low + Nanos(low_time.0 / 2), DATA, Some(false));
        let high = self.low + low_time;
        self.wires.drive(high, CLOCK, Some(true));
        let stop = high + high_time;
        self.wires.drive(stop, DATA, None);
        stop + low_time
    }
}

impl I2c {
    /// How long the clock is low and high: half and half where that is long enough for both.
    #[must_use]
    pub fn times(&self) -> (Nanos, Nanos) {
        let (low, high) = shortest(self.clock);
        let period = Nanos(1_000_000_000_u64.div_ceil(u64::from(self.clock.0.max(1))));
        let half = Nanos(period.0 / 2);
        let low_time = low.max(half);
        (low_time, high.max(period - low_time))
    }

    /// Writes to an address, and reads from it where that is asked for. Where nobody acknowledges the transfer ends.
    pub fn send(&self, address: u8, bytes: &[u8], reads: usize, wires: &mut impl Wires, reply: &mut Reply) {
        let times = self.times();
        wires.drive(reply.began, DATA, Some(false));
        let low = reply.began + times.1;
        wires.drive(low, CLOCK, Some(false));
        let mut on_its_way = Transmission { wires, low, times };
        reply.acknowledged =
            std::iter::once(&(address << 1)).chain(bytes).all(|byte| on_its_way.write(*byte));
        if reads > 0 && reply.acknowledged {
            on_its_way.start_again();
            reply.acknowledged = on_its_way.write(address << 1 | 1);
            if reply.acknowledged {
                // The controller acknowledges every byte but the last that it wants.
                reply.bytes = (0..reads).map(|index| on_its_way.read(index + 1 < reads)).collect();
            }
        }
        reply.ended = on_its_way.stop();
    }
}

/// An event on the two wires.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Event {
    /// A transfer begins, or a repeated start.
    Start,
    /// Eight bits and their acknowledge.
    Byte {
        /// The bits, the first received the most significant.
        value: u8,
        /// True if data was low at the ninth clock.
        acknowledged: bool,
    },
    /// The transfer ends.
    Stop,
}

/// Reads the two wires: edges to events. However long a part stretches the clock, and whatever comes, it
/// reads on.
#[derive(Debug, Clone)]
pub struct Listener {
    clock: bool,
    data: bool,
    /// The bits since the start or the last byte, while a transfer lasts.
    bits: Option<(u16, u8)>,
}

impl Default for Listener {
    fn default() -> Self {
        Self { clock: true, data: true, bits: None }
    }
}

impl Listener {
    /// The levels of the lines as power comes.
    pub fn wake(&mut self, levels: &[Option<bool>]) {
        let level = |line: usize| levels.get(line).copied().flatten().unwrap_or(true);
        (self.clock, self.data) = (level(CLOCK), level(DATA));
    }

    /// How many bits of a byte have come and are not yet one.
    #[must_use]
    pub fn bits(&self) -> u8 {
        self.bits.map_or(0, |(_, count)| count)
    }

    /// Takes one edge.
    pub fn take(&mut self, edge: &Edge) -> Option<Event> {
        match edge.line {
            CLOCK if edge.level != self.clock => {
                self.clock = edge.level;
                if edge.level { self.sample() } else { None }
            }
            DATA if edge.level != self.data => {
                self.data = edge.level;
                match (self.clock, edge.level) {
                    (false, _) => None,
                    (true, false) => {
                        self.bits = Some((0, 0));
                        Some(Event::Start)
                    }
                    (true, true) => self.bits.take().map(|_| Event::Stop),
                }
            }
            _ => None,
        }
    }

    fn sample(&mut self) -> Option<Event> {
        let (bits, count) = self.bits.as_mut()?;
        *bits = *bits << 1 | u16::from(self.data);
        *count += 1;
        if *count < 9 {
            return None;
        }
        let byte = Event::Byte { value: (*bits >> 1) as u8, acknowledged: *bits & 1 == 0 };
        self.bits = Some((0, 0));
        Some(byte)
    }
}

/// The part's own levels on the two wires: it acknowledges its address and the written bytes, and sends the bytes that are read
/// from it.
#[derive(Debug, Clone, Default)]
pub struct Target {
    clock: bool,
    data: bool,
    /// Rising clocks since the last byte, and the bits that they brought.
    rises: u8,
    byte: u8,
    /// The transfer as this part sees it.
    stage: Stage,
    /// True if it pulls data low.
    pulls: bool,
}

#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
enum Stage {
    /// No transfer, or one for others.
    #[default]
    Deaf,
    /// The address comes.
    Address,
    /// It is written to.
    Written,
    /// It is read from: this byte is on its way.
    Read(u8),
}

impl Target {
    /// The levels of the lines as power comes.
    pub fn wake(&mut self, levels: &[Option<bool>]) {
        let level = |line: usize| levels.get(line).copied().flatten().unwrap_or(true);
        (self.clock, self.data) = (level(CLOCK), level(DATA));
    }

    /// Takes one edge. `has` says whether an address is its own, `next` gives the next byte that is read.
    pub fn take(&mut self, edge: &Edge, has: impl Fn(u8) -> bool, mut next: impl FnMut() -> u8) {
        match edge.line {
            DATA => {
                self.data = edge.level;
                if self.clock {
                    // A start while data falls, a stop while it rises.
                    (self.rises, self.byte, self.pulls) = (0, 0, false);
                    self.stage = if edge.level { Stage::Deaf } else { Stage::Address };
                }
            }
            CLOCK if edge.level && !self.clock => {
                self.clock = true;
                self.rises += 1;
                if self.rises <= 8 {
                    self.byte = self.byte << 1 | u8::from(self.data);
                } else if let Stage::Read(_) = self.stage
                    && self.data
                {
                    // The controller has what it wanted.
                    self.stage = Stage::Deaf;
                }
            }
            CLOCK if !edge.level && self.clock => {
                self.clock = false;
                self.fall(has, &mut next);
            }
            _ => {}
        }
    }

    fn fall(&mut self, has: impl Fn(u8) -> bool, next: &mut impl FnMut() -> u8) {
        match (self.rises, self.stage) {
            (8, Stage::Address) => self.pulls = has(self.byte >> 1),
            (8, Stage::Written) => self.pulls = true,
            (8, _) => self.pulls = false,
            (9, stage) => {
                self.stage = match stage {
                    Stage::Address if !self.pulls => Stage::Deaf,
                    Stage::Address if self.byte & 1 == 0 => Stage::Written,
                    Stage::Address | Stage::Read(_) => Stage::Read(next()),
                    stage => stage,
                };
                (self.rises, self.byte) = (0, 0);
                self.pulls = matches!(self.stage, Stage::Read(byte) if byte & 0x80 == 0);
            }
            (rises, Stage::Read(byte)) => self.pulls = byte << rises & 0x80 == 0,
            _ => {}
        }
    }

    /// Its level on the data line: low, or released.
    #[must_use]
    pub fn answer(&self) -> Option<bool> {
        self.pulls.then_some(false)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bus::{Protocol, Unanswered};
    use proptest::prelude::*;

    /// A part that pulls data low for each ninth clock: written by hand, not by a model.
    struct Acknowledging {
        wires: Unanswered,
        falls: usize,
    }

    impl Wires for Acknowledging {
        fn drive(&mut self, at: Nanos, line: usize, level: Option<bool>) {
            let pulls = self.falls > 0 && self.falls.is_multiple_of(9);
            if line == DATA && pulls && level.is_none() {
                return self.wires.drive(at, DATA, Some(false));
            }
            self.wires.drive(at, line, level);
            if line == CLOCK && level == Some(false) {
                self.falls += 1;
            }
        }

        fn read(&mut self, at: Nanos, line: usize) -> bool {
            self.wires.read(at, line)
        }
    }

    fn send(clock: u32, address: u8, bytes: &[u8]) -> (Vec<Event>, Reply, Vec<Edge>) {
        let i2c = I2c { clock: Hertz(clock) };
        let mut wires = Acknowledging { wires: Unanswered::of(&Protocol::I2c(i2c)), falls: 0 };
        let mut reply = Reply::default();
        i2c.send(address, bytes, 0, &mut wires, &mut reply);
        let mut listener = Listener::default();
        let edges = wires.wires.edges;
        (edges.iter().filter_map(|edge| listener.take(edge)).collect(), reply, edges)
    }

    #[test]
    fn a_write_to_an_address_nobody_has_ends_after_it() {
        let i2c = I2c { clock: Hertz(100_000) };
        let (mut wires, mut reply) = (Unanswered::of(&Protocol::I2c(i2c)), Reply::default());
        i2c.send(0x21, &[0xFF], 0, &mut wires, &mut reply);
        let mut listener = Listener::default();
        let events: Vec<_> = wires.edges.iter().filter_map(|edge| listener.take(edge)).collect();
        let unanswered = Event::Byte { value: 0x42, acknowledged: false };
        assert_eq!(events, [Event::Start, unanswered, Event::Stop]);
        assert!(!reply.acknowledged);
    }

    #[test]
    fn no_clock_is_shorter_than_the_specification_allows() {
        for (clock, low, high) in [(100_000, 4_700, 4_000), (400_000, 1_300, 600), (250_000, 1_300, 600)] {
            let edges = send(clock, 0x70, &[0x21]).2;
            let clocks: Vec<_> = edges.iter().filter(|edge| edge.line == CLOCK).collect();
            for pair in clocks.windows(2) {
                let stood = (pair[1].at - pair[0].at).0;
                assert!(stood >= if pair[0].level { high } else { low }, "{clock}: {stood}");
            }
            let whole = clocks[3].at - clocks[1].at;
            assert!(whole.0 >= 1_000_000_000 / u64::from(clock), "the clock that is asked for is a ceiling");
        }
    }

    proptest! {
        #[test]
        fn what_is_sent_is_heard(
            address in 0..0x80_u8,
            data in prop::collection::vec(any::<u8>(), 0..20),
            clock in 1_000..1_700_000_u32,
        ) {
            let byte = |value: u8| Event::Byte { value, acknowledged: true };
            let bytes = std::iter::once(address << 1).chain(data.iter().copied());
            let expected: Vec<_> =
                std::iter::once(Event::Start).chain(bytes.map(byte)).chain([Event::Stop]).collect();
            let (events, reply, edges) = send(clock, address, &data);
            prop_assert_eq!(events, expected);
            prop_assert!(reply.acknowledged && edges.is_sorted_by_key(|edge| edge.at));
        }

        #[test]
        fn any_edges_are_survived(edges in prop::collection::vec((0..3_usize, any::<bool>()), 0..200)) {
            let mut listener = Listener::default();
            for (line, level) in edges {
                listener.take(&Edge { at: Nanos(0), line, level });
            }
        }
    }
}
