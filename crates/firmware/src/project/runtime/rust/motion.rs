//! How texts pass and displays blink: shared by displays of digits and of dots.

/// The moments at which something is due again and again.
pub(crate) struct Every {
    ms: u32,
    /// When it was due last; none before its first step.
    last: Option<u32>,
}

impl Every {
    pub(crate) const fn new(ms: u32) -> Self {
        Self { ms, last: None }
    }

    /// Returns true if it is due.
    pub(crate) fn is_due(&mut self, now: u32) -> bool {
        let last = *self.last.get_or_insert(now);
        let is_due = now.wrapping_sub(last) >= self.ms;
        if is_due {
            self.last = Some(last.wrapping_add(self.ms));
        }
        is_due
    }
}

/// A text that passes, step by step.
pub(crate) struct Passing {
    every: Every,
    /// The steps that it has taken.
    pub(crate) at: usize,
    /// The steps that it takes.
    length: usize,
    /// Passes that are left; 0 is forever.
    passes: u8,
}

impl Passing {
    pub(crate) const fn new(length: usize, every_ms: u32, passes: u8) -> Self {
        let every_ms = if every_ms == 0 { 1 } else { every_ms };
        Self {
            every: Every::new(every_ms),
            at: 0,
            length,
            passes,
        }
    }

    pub(crate) fn is_due(&mut self, now: u32) -> bool {
        self.every.is_due(now)
    }

    /// Takes a step. Returns false if it was the last one.
    pub(crate) fn step(&mut self) -> bool {
        self.at += 1;
        if self.at < self.length {
            return true;
        }
        self.at = 0;
        let goes_on = self.passes != 1;
        self.passes = self.passes.saturating_sub(1);
        goes_on
    }
}

/// A blink: lit for this long, dark for as long.
pub(crate) struct Blink {
    half: Every,
    is_dark: bool,
}

impl Blink {
    /// None if it lasts no time.
    pub(crate) fn new(half_ms: u32) -> Option<Self> {
        (half_ms != 0).then_some(Self {
            half: Every::new(half_ms),
            is_dark: false,
        })
    }

    /// Returns true if it changes now.
    pub(crate) fn step(&mut self, now: u32) -> bool {
        let is_due = self.half.is_due(now);
        self.is_dark ^= is_due;
        is_due
    }

    pub(crate) fn is_dark(blink: &Option<Self>) -> bool {
        blink.as_ref().is_some_and(|blink| blink.is_dark)
    }
}
