//! From the time of the buses to the time of the acts: as it goes, faster, slower, held, or from another moment on.

use std::time::Duration;

use super::clock::Speed;
use super::duration;

/// How the acts' time follows the buses'.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Transport {
    /// Since when it does so, in the buses' time, and which moment of the acts that was.
    since: Duration,
    from: Duration,
    /// How fast, while it is not held.
    speed: Speed,
    is_held: bool,
}

impl Default for Transport {
    fn default() -> Self {
        Self { since: Duration::ZERO, from: Duration::ZERO, speed: Speed::TRUE, is_held: false }
    }
}

impl Transport {
    /// The moment of the acts at a moment of the buses.
    #[must_use]
    pub fn act_time(&self, bus: Duration) -> Duration {
        if self.is_held {
            return self.from;
        }
        let Speed { shown, passed } = self.speed;
        let come = bus.saturating_sub(self.since).as_nanos();
        self.from.saturating_add(duration(come.saturating_mul(shown.into()) / u128::from(passed.max(1))))
    }

    /// The first moment of the buses at which the acts have come to a moment; `None` while they are held.
    #[must_use]
    pub fn bus_time(&self, act: Duration) -> Option<Duration> {
        if self.is_held {
            return None;
        }
        let Speed { shown, passed } = self.speed;
        let come = act.saturating_sub(self.from).as_nanos();
        let takes = come.saturating_mul(passed.into()).div_ceil(u128::from(shown.max(1)));
        self.since.checked_add(duration(takes))
    }

    /// Goes on from a moment of the acts, from a moment of the buses on.
    pub fn seek(&mut self, bus: Duration, act: Duration) {
        (self.since, self.from) = (bus, act);
    }

    /// Goes on at another speed, from a moment of the buses on, unless it is held.
    pub fn go_at(&mut self, bus: Duration, speed: Speed) {
        self.seek(bus, self.act_time(bus));
        self.speed = speed;
    }

    /// Holds the acts, or lets them go on, from a moment of the buses on.
    pub fn hold(&mut self, bus: Duration, is_held: bool) {
        self.seek(bus, self.act_time(bus));
        self.is_held = is_held;
    }

    /// Returns true if the acts go as time does.
    #[must_use]
    pub fn is_true(&self) -> bool {
        !self.is_held && self.speed.shown == self.speed.passed
    }

    /// Returns true if the acts are held.
    #[must_use]
    pub const fn is_held(&self) -> bool {
        self.is_held
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        /// A moment of the acts is reached when the buses' moment for it comes, and not before.
        #[test]
        fn there_and_back(since in 0..9_000_000_u64, from in 0..9_000_000_u64, shown in 1..100_u32, passed in 1..100_u32, act in 0..90_000_000_u64) {
            let nanos = Duration::from_nanos;
            let mut transport = Transport::default();
            transport.seek(nanos(since), nanos(from));
            transport.go_at(nanos(since), Speed { shown, passed });
            let act = nanos(from + act);
            let bus = transport.bus_time(act).unwrap();
            prop_assert!(transport.act_time(bus) >= act);
            if bus > nanos(since) {
                prop_assert!(transport.act_time(bus - nanos(1)) < act);
            }
        }
    }

    #[test]
    fn what_is_held_stands_and_goes_on_from_there() {
        let second = Duration::from_secs;
        let mut transport = Transport::default();
        transport.hold(second(5), true);
        assert_eq!((transport.act_time(second(9)), transport.bus_time(second(6))), (second(5), None));
        transport.go_at(second(7), Speed { shown: 2, passed: 1 });
        assert_eq!(transport.act_time(second(9)), second(5));
        transport.hold(second(9), false);
        assert_eq!(
            (transport.act_time(second(10)), transport.bus_time(second(9))),
            (second(7), Some(second(11)))
        );
    }
}
