//! Watches clock and data against the limits of a data sheet.

use super::Edge;
use crate::units::{Hertz, Nanos};

/// Limits of a clocked input.
#[derive(Debug, Clone, Copy)]
pub struct Limits {
    /// The fastest clock.
    pub clock: Hertz,
    /// How long data must stand before it is sampled.
    pub setup: Nanos,
    /// How long it must stand after that.
    pub hold: Nanos,
}

/// The broken limit.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum Violation {
    /// From one rising clock to the next.
    Clock(Nanos),
    /// From the change of data to the clock.
    Setup(Nanos),
    /// From the clock to the change of data.
    Hold(Nanos),
    /// A level that stood for less than any bit could.
    Glitch(Nanos),
}

impl std::fmt::Display for Violation {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Clock(period) => write!(f, "clock too fast: {period} from one rise to the next"),
            Self::Setup(time) => write!(f, "setup too short: data changed {time} before the clock rose"),
            Self::Glitch(time) => write!(f, "a glitch: a level that stood for {time}"),
            Self::Hold(time) => write!(f, "hold too short: data changed {time} after the clock rose"),
        }
    }
}

/// Watches a clock and its data line.
#[derive(Debug, Clone)]
pub struct Watch {
    limits: Limits,
    clock_line: usize,
    data_line: usize,
    rose: Option<Nanos>,
    changed: Option<Nanos>,
    /// When the clock changed last, up or down.
    clocked: Option<Nanos>,
}

impl Watch {
    /// Watches these two lines.
    #[must_use]
    pub const fn new(limits: Limits, clock_line: usize, data_line: usize) -> Self {
        Self { limits, clock_line, data_line, rose: None, changed: None, clocked: None }
    }

    /// Takes an edge; what it breaks.
    pub fn take(&mut self, edge: &Edge) -> Option<Violation> {
        let shortest = Nanos(1_000_000_000 / u64::from(self.limits.clock.0.max(1)));
        let last = match edge.line {
            line if line == self.clock_line => self.clocked.replace(edge.at),
            line if line == self.data_line => self.changed,
            _ => return None,
        };
        // A sixteenth of the fastest bit is not a level that was sent.
        if let Some(stood) = last.map(|last| edge.at - last).filter(|stood| stood.0 < shortest.0 / 16) {
            if edge.line == self.data_line {
                self.changed = Some(edge.at);
            } else if edge.level {
                self.rose = Some(edge.at);
            }
            return Some(Violation::Glitch(stood));
        }
        if edge.line == self.clock_line && edge.level {
            let before = self.rose.replace(edge.at).map(|rose| edge.at - rose);
            let stood = self.changed.map(|changed| edge.at - changed);
            return match (before, stood) {
                (Some(period), _) if period < shortest => Some(Violation::Clock(period)),
                (_, Some(stood)) if stood < self.limits.setup => Some(Violation::Setup(stood)),
                _ => None,
            };
        }
        if edge.line == self.data_line {
            self.changed = Some(edge.at);
            let held = self.rose.map(|rose| edge.at - rose)?;
            return (held < self.limits.hold).then_some(Violation::Hold(held));
        }
        None
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_limit_is_watched() {
        let limits = Limits { clock: Hertz(1_000_000), setup: Nanos(100), hold: Nanos(50) };
        let mut watch = Watch::new(limits, 0, 1);
        let mut take = |at, line, level| watch.take(&Edge { at: Nanos(at), line, level });
        assert_eq!((take(0, 1, true), take(100, 0, true)), (None, None));
        assert_eq!(take(140, 1, false), Some(Violation::Hold(Nanos(40))));
        assert_eq!((take(600, 0, false), take(1_050, 1, true)), (None, None));
        assert_eq!(take(1_100, 0, true), Some(Violation::Setup(Nanos(50))));
        assert_eq!((take(1_300, 0, false), take(1_600, 0, true)), (None, Some(Violation::Clock(Nanos(500)))));
        assert_eq!(take(1_620, 0, false), Some(Violation::Glitch(Nanos(20))));
    }
}
