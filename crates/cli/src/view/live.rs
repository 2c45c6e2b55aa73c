//! A picture redrawn in place on a terminal, until its end or until someone stops it.

use std::time::{Duration, Instant};

use crossterm::cursor::{MoveTo, MoveToColumn, MoveUp};
use crossterm::event::KeyCode;
use crossterm::terminal::{self, Clear, ClearType};
use crossterm::{execute, queue};

use super::terminal::{Heard, Screen, Terminal, Wish, is_interrupt};
use crate::failure::{Failure, Outcome};
use crate::session::Session;
use spare_tile_core::units::counted;

/// Why a wait ended.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Woken {
    /// Its moment has come.
    Due,
    /// The person has seen enough.
    Quit,
    /// The user or the system asks the program to end at once.
    Interrupt,
    /// The drawing is gone and must be drawn again.
    Redraw,
}

/// A terminal that is being drawn on. However it goes out of scope, the terminal is as it was before.
pub struct Live {
    start: Instant,
    /// How many lines the last drawing took.
    lines: u16,
    terminal: Terminal,
}

impl Live {
    /// Takes the terminal; elapsed time begins here.
    pub fn begin(session: &mut Session<'_>) -> Result<Self, Failure> {
        session.out.flush()?;
        Ok(Self { start: Instant::now(), lines: 0, terminal: Terminal::take(Screen::Lines)? })
    }

    /// Draws over what was drawn before. What the screen has no lines for is counted.
    pub fn draw(&mut self, drawing: &str, session: &mut Session<'_>) -> Outcome {
        if self.lines > 0 {
            queue!(session.out.unguarded(), MoveUp(self.lines), MoveToColumn(0))?;
        }
        // The last line of the screen is where the cursor stands.
        let most = match terminal::size() {
            Ok((_, rows)) if rows > 1 => usize::from(rows) - 1,
            // A terminal that does not know its size is taken to be high enough.
            _ => usize::MAX,
        };
        let all: Vec<_> = drawing.split('\n').collect();
        let shown = if all.len() > most { most - 1 } else { all.len() };
        let left_out = (shown < all.len()).then(|| {
            format!("({}: the window is too low)", counted(all.len() - shown, "more line", "more lines"))
        });
        let lines = all.iter().take(shown).copied().chain(left_out.as_deref());
        let mut count = 0;
        for line in lines {
            // In raw mode a newline does not return to the first column.
            write!(session.out, "{line}")?;
            queue!(session.out.unguarded(), Clear(ClearType::UntilNewLine))?;
            session.out.unguarded().write_all(b"\r\n")?;
            count += 1;
        }
        queue!(session.out.unguarded(), Clear(ClearType::FromCursorDown))?;
        self.lines = count;
        Ok(session.out.flush()?)
    }

    /// Sleeps until a moment counted from the beginning, forever if there is none; ends early when the user asks to
    /// stop, or when all is to be drawn again. Then the screen is empty and the session has its new width.
    pub fn wait_until(
        &mut self,
        deadline: Option<Duration>,
        session: &mut Session<'_>,
    ) -> Result<Woken, Failure> {
        loop {
            let left = || deadline.map(|deadline| deadline.saturating_sub(self.start.elapsed()));
            match self.terminal.wait(left)? {
                None => return Ok(Woken::Due),
                Some(Wish::GoOn) => {}
                Some(Wish::Quit) => return Ok(Woken::Quit),
                Some(Wish::Interrupt) => return Ok(Woken::Interrupt),
                Some(Wish::Redraw) => {
                    self.start_over(session)?;
                    return Ok(Woken::Redraw);
                }
            }
        }
    }

    /// Waits for the next key. When all is to be drawn again the screen is empty and the session has its new width.
    pub fn hear(&mut self, session: &mut Session<'_>) -> Result<Heard, Failure> {
        loop {
            let Some(heard) = self.terminal.hear(|| None)? else { continue };
            if heard == Heard::Redraw {
                self.start_over(session)?;
            }
            return Ok(heard);
        }
    }

    /// Takes the width of the terminal, and begins on an empty screen.
    fn start_over(&mut self, session: &mut Session<'_>) -> Outcome {
        session.measure();
        execute!(session.out.unguarded(), Clear(ClearType::All), MoveTo(0, 0))?;
        self.lines = 0;
        Ok(())
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

/// Waits for a key; returns true unless it asks to end.
pub fn ask_to_go_on(session: &mut Session<'_>) -> Result<bool, Failure> {
    let key = ask("any key goes on, q ends ", session)?;
    Ok(!matches!(key, KeyCode::Char('q' | 'Q') | KeyCode::Esc))
}

/// Asks something that a single key answers; the question is removed again.
///
/// # Errors
/// When the person or the system interrupts.
pub fn ask(question: &str, session: &mut Session<'_>) -> Result<KeyCode, Failure> {
    session.out.flush()?;
    // The handlers are installed first, then other programs may send signals.
    let terminal = Terminal::take(Screen::Lines)?;
    write!(session.out, "{question}")?;
    session.out.flush()?;
    let key = loop {
        match terminal.hear(|| None)? {
            Some(Heard::Redraw) => {
                session.measure();
                execute!(session.out.unguarded(), MoveToColumn(0), Clear(ClearType::CurrentLine))?;
                write!(session.out, "{question}")?;
                session.out.flush()?;
            }
            Some(Heard::Key(key)) if is_interrupt(key) => break None,
            Some(Heard::Interrupt) => break None,
            Some(Heard::Key(key)) => break Some(key.code),
            Some(Heard::Mouse(_)) | None => {}
        }
    };
    drop(terminal);
    execute!(session.out.unguarded(), MoveToColumn(0), Clear(ClearType::CurrentLine))?;
    key.ok_or_else(Failure::interrupted)
}
