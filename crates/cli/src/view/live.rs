//! A picture redrawn in place on a terminal, until its end or until someone stops it.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::{Duration, Instant};

use crossterm::cursor::{Hide, MoveToColumn, MoveUp, Show};
use crossterm::event::{self, Event, KeyCode, KeyEvent, KeyModifiers};
use crossterm::terminal::{self, Clear, ClearType};
use crossterm::{execute, queue};

use crate::failure::{Exit, Failure, Outcome};
use crate::session::Session;

/// Why playing stopped before its end.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Stop {
    /// The person has seen enough.
    Quit,
    /// The person or the system wants the program to end at once.
    Interrupt,
}

/// A terminal that is being drawn on. However it goes out of scope, the terminal is as it was before.
pub struct Live {
    start: Instant,
    /// How many lines the last drawing took.
    lines: u16,
    /// Set by a signal that asks the program to end.
    signalled: Arc<AtomicBool>,
}

/// How long a wait may go without a look at the signals.
const LOOK_EVERY: Duration = Duration::from_millis(100);

impl Live {
    /// Takes the terminal; elapsed time begins here.
    pub fn begin(session: &mut Session<'_>) -> Result<Self, Failure> {
        let signalled = Arc::new(AtomicBool::new(false));
        // SIGHUP keeps its usual end: with the terminal gone there is nothing to give back, and whoever waits
        // for its keys waits for ever. A second signal ends at once what the first could not.
        for signal in [signal_hook::consts::SIGTERM, signal_hook::consts::SIGINT] {
            let status = Exit::Interrupted as i32;
            signal_hook::flag::register_conditional_shutdown(signal, status, Arc::clone(&signalled))?;
            signal_hook::flag::register(signal, Arc::clone(&signalled))?;
        }
        session.out.flush()?;
        terminal::enable_raw_mode()?;
        let live = Self { start: Instant::now(), lines: 0, signalled };
        execute!(session.out, Hide)?;
        Ok(live)
    }

    /// Draws over what was drawn before.
    pub fn draw(&mut self, drawing: &str, session: &mut Session<'_>) -> Outcome {
        if self.lines > 0 {
            queue!(session.out, MoveUp(self.lines), MoveToColumn(0))?;
        }
        // In raw mode a newline does not return to the first column.
        for line in drawing.split('\n') {
            write!(session.out, "{line}")?;
            queue!(session.out, Clear(ClearType::UntilNewLine))?;
            write!(session.out, "\r\n")?;
        }
        self.lines = drawing.split('\n').count().try_into().unwrap_or(u16::MAX);
        Ok(session.out.flush()?)
    }

    /// Sleeps until a moment counted from the beginning, for good when there is none; ends early when
    /// someone asks to stop.
    pub fn wait_until(&mut self, deadline: Option<Duration>) -> Result<Option<Stop>, Failure> {
        loop {
            if self.signalled.load(Ordering::Relaxed) {
                return Ok(Some(Stop::Interrupt));
            }
            // Even when the moment has come already, a key that was pressed is heard first.
            let left = deadline.map(|deadline| deadline.saturating_sub(self.start.elapsed()));
            if !event::poll(left.unwrap_or(LOOK_EVERY).min(LOOK_EVERY))? {
                if left == Some(Duration::ZERO) {
                    return Ok(None);
                }
                continue;
            }
            if let Event::Key(key) = event::read()?
                && let Some(stop) = stop(key)
            {
                return Ok(Some(stop));
            }
        }
    }

    /// How long it has been since the beginning.
    pub fn elapsed(&self) -> Duration {
        self.start.elapsed()
    }

    /// Gives the terminal back, with the last picture on it.
    pub fn end(self, session: &mut Session<'_>) -> Outcome {
        drop(self);
        Ok(session.out.flush()?)
    }
}

/// What a key asks for.
fn stop(key: KeyEvent) -> Option<Stop> {
    match key.code {
        KeyCode::Char('c') if key.modifiers.contains(KeyModifiers::CONTROL) => Some(Stop::Interrupt),
        KeyCode::Char('q' | 'Q') | KeyCode::Esc => Some(Stop::Quit),
        _ => None,
    }
}

/// Waits for a key; whether it asks to go on.
pub fn ask_to_go_on(session: &mut Session<'_>) -> Result<bool, Failure> {
    write!(session.out, "any key goes on, q ends ")?;
    session.out.flush()?;
    terminal::enable_raw_mode()?;
    let stop = loop {
        match event::read() {
            Ok(Event::Key(key)) => break Ok(stop(key)),
            Ok(_) => {}
            Err(error) => break Err(error),
        }
    };
    terminal::disable_raw_mode()?;
    execute!(session.out, MoveToColumn(0), Clear(ClearType::CurrentLine))?;
    match stop? {
        Some(Stop::Interrupt) => Err(Failure::interrupted()),
        stop => Ok(stop.is_none()),
    }
}

impl Drop for Live {
    fn drop(&mut self) {
        // On the way out nothing more can be done when the terminal does not answer.
        let _ = execute!(std::io::stdout(), Show);
        let _ = terminal::disable_raw_mode();
    }
}
