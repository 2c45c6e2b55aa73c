//! A stopwatch, started, stopped and asked for laps by push buttons.

use std::time::Duration;

use super::figures::{Between, Figures};
use super::keyboard::KeyEvent;
use super::{Act, Inputs, Kind, duration};
use crate::content::lettering::Look;
use crate::content::{Canvas, ContentError};
use crate::face::Face;
use crate::plan::ButtonId;

/// A stopwatch. It begins at nothing, standing.
///
/// Its first button lets it run and stop. While it runs the second one holds the figures, which are then those of a lap, and lets
/// them go again; while it stands it sets them back to nothing.
#[derive(Debug, Clone, PartialEq)]
pub struct Stopwatch {
    /// The button that lets it run and stop.
    pub start: ButtonId,
    /// The button for laps, and to set it back.
    pub lap: Option<ButtonId>,
    /// True if hundredths of a second are shown behind minutes and seconds.
    pub hundredths: bool,
    /// How the figures look on dots.
    pub look: Option<Look>,
}

/// How it stands.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
struct State {
    /// The time on the watch when it was last started or stopped.
    ran: Duration,
    /// Since when it runs.
    since: Option<Duration>,
    /// The held time.
    held: Option<Duration>,
}

impl State {
    fn total(&self, at: Duration) -> Duration {
        self.ran + self.since.map_or(Duration::ZERO, |since| at.saturating_sub(since))
    }
}

impl Stopwatch {
    /// Checks that its figures fit a face.
    ///
    /// # Errors
    /// When they do not.
    pub fn check(&self, face: &Face) -> Result<(), ContentError> {
        let figures = self.figures(Duration::ZERO).widest();
        figures.draw(false, self.look.as_ref(), &mut Canvas::whole(face, &mut face.blank()))
    }

    /// How it stands at a moment: what its buttons have done since the act began.
    fn state(&self, elapsed: Duration, inputs: &Inputs) -> State {
        let began = inputs.absolute(Duration::ZERO);
        let keys = inputs.keys(elapsed).iter();
        let pressed = keys.filter(|key| key.event == KeyEvent::Down && key.at >= began);
        pressed.fold(State::default(), |mut state, key| {
            if key.button == self.start {
                match state.since.take() {
                    Some(since) => state.ran += key.at - since,
                    None => state.since = Some(key.at),
                }
            } else if Some(key.button) == self.lap {
                state = match state {
                    State { held: Some(_), .. } => State { held: None, ..state },
                    State { since: Some(_), .. } => State { held: Some(state.total(key.at)), ..state },
                    _ => State::default(),
                };
            }
            state
        })
    }

    /// The figures at a moment.
    #[must_use]
    pub fn shows(&self, elapsed: Duration, inputs: &Inputs) -> Duration {
        let state = self.state(elapsed, inputs);
        state.held.unwrap_or_else(|| state.total(inputs.absolute(elapsed)))
    }

    /// The unit of its last figure.
    const fn unit(&self) -> Duration {
        if self.hundredths { Duration::from_millis(10) } else { Duration::from_secs(1) }
    }

    /// Minutes, seconds and perhaps hundredths; more than 99 minutes are dashes.
    fn figures(&self, shown: Duration) -> Figures {
        let (minutes, seconds) = (shown.as_secs() / 60, shown.as_secs() % 60);
        let mut groups = vec![format!("{minutes:02}"), format!("{seconds:02}")];
        if self.hundredths {
            groups.push(format!("{:02}", shown.subsec_millis() / 10));
        }
        if minutes > 99 {
            groups.iter_mut().for_each(|group| "--".clone_into(group));
        }
        Figures { groups, between: Between::Colon { lit: true }, is_afternoon: false }
    }

    /// Draws these groups of figures as it draws those that it shows.
    pub fn draw_groups(&self, groups: Vec<String>, canvas: &mut Canvas<'_>) {
        let figures = Figures { groups, between: Between::Colon { lit: true }, is_afternoon: false };
        if figures.draw(false, self.look.as_ref(), canvas).is_err() {
            canvas.clear();
        }
    }
}

impl Act for Stopwatch {
    fn draw(&self, elapsed: Duration, inputs: &Inputs, canvas: &mut Canvas<'_>) {
        let figures = self.figures(self.shows(elapsed, inputs));
        if figures.draw(false, self.look.as_ref(), canvas).is_err() {
            canvas.clear();
        }
    }

    fn next_change(&self, elapsed: Duration, inputs: &Inputs) -> Option<Duration> {
        let state = self.state(elapsed, inputs);
        let runs = state.since.is_some() && state.held.is_none();
        let next = runs.then(|| {
            let (total, unit) = (state.total(inputs.absolute(elapsed)).as_nanos(), self.unit().as_nanos());
            let left = unit - total % unit;
            elapsed + duration(left)
        });
        next.into_iter().chain(inputs.next_key(elapsed)).min()
    }

    fn length(&self) -> Option<Duration> {
        None
    }

    fn kind(&self) -> Kind<'_> {
        Kind::Stopwatch(self)
    }
}
