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
struct Blink {
    half: Every,
    is_dark: bool,
}

/// The state of a display beside its content.
pub(crate) struct Showing {
    /// The steps of the brightness; 0 if it cannot be set.
    pub(crate) brightness_steps: u8,
    /// True if the display acknowledged the last picture, or has no acknowledge.
    pub(crate) is_answered: bool,
    /// True if the image has to be drawn.
    pub(crate) is_changed: bool,
    brightness: Option<u8>,
    blink: Option<Blink>,
}

impl Showing {
    pub(crate) const fn new(brightness_steps: u8) -> Self {
        Self {
            brightness_steps,
            is_answered: true,
            is_changed: false,
            brightness: None,
            blink: None,
        }
    }

    /// Begins a blink with its lit half, or ends it if it lasts no time.
    pub(crate) fn blink(&mut self, half_ms: u32) {
        self.is_changed |= self.is_dark();
        self.blink = (half_ms != 0).then_some(Blink {
            half: Every::new(half_ms),
            is_dark: false,
        });
    }

    /// Returns true in the dark half of a blink.
    pub(crate) fn is_dark(&self) -> bool {
        self.blink.as_ref().is_some_and(|blink| blink.is_dark)
    }

    pub(crate) fn at_brightness(&mut self, step: u8) {
        self.brightness = self
            .brightness_steps
            .checked_sub(1)
            .map(|highest| step.min(highest));
    }

    /// Goes on with a blink. Returns whether the image is new, and the step of the brightness if it was set since the last step.
    pub(crate) fn step(&mut self, now: u32, is_answered: bool) -> (bool, Option<u8>) {
        self.is_answered = is_answered;
        if let Some(blink) = &mut self.blink {
            let is_over = blink.half.is_due(now);
            blink.is_dark ^= is_over;
            self.is_changed |= is_over;
        }
        (
            core::mem::take(&mut self.is_changed),
            self.brightness.take(),
        )
    }
}
