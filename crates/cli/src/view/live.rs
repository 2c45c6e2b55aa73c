//! A picture redrawn in place on a terminal, until its end or until someone stops it.

use std::time::{Duration, Instant};

use crossterm::cursor::{MoveTo, MoveToColumn, MoveUp};
use crossterm::terminal::{self, Clear, ClearType};
use crossterm::{execute, queue};

use super::terminal::{Screen, Terminal, Wish};
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
    /// The person or the system wants the program to end at once.
    Interrupt,
    /// What was drawn is gone: it is to be drawn again.
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
            queue!(session.out, MoveUp(self.lines), MoveToColumn(0))?;
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
            queue!(session.out, Clear(ClearType::UntilNewLine))?;
            write!(session.out, "\r\n")?;
            count += 1;
        }
        queue!(session.out, Clear(ClearType::FromCursorDown))?;
        self.lines = count;
        Ok(session.out.flush()?)
    }

    /// Sleeps until a moment counted from the beginning, for good when there is none; ends early when someone asks to
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
                    session.measure();
                    execute!(session.out, Clear(ClearType::All), MoveTo(0, 0))?;
                    self.lines = 0;
                    return Ok(Woken::Redraw);
                }
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

/// Waits for a key; whether it asks to go on.
pub fn ask_to_go_on(session: &mut Session<'_>) -> Result<bool, Failure> {
    const PROMPT: &str = "any key goes on, q ends ";
    session.out.flush()?;
    // First the signals are heard, then someone is told that they may be sent.
    let terminal = Terminal::take(Screen::Lines)?;
    write!(session.out, "{PROMPT}")?;
    session.out.flush()?;
    let wish = loop {
        match terminal.wait(|| None)? {
            Some(Wish::Redraw) => {
                session.measure();
                execute!(session.out, MoveToColumn(0), Clear(ClearType::CurrentLine))?;
                write!(session.out, "{PROMPT}")?;
                session.out.flush()?;
            }
            Some(wish) => break wish,
            None => {}
        }
    };
    drop(terminal);
    execute!(session.out, MoveToColumn(0), Clear(ClearType::CurrentLine))?;
    match wish {
        Wish::Interrupt => Err(Failure::interrupted()),
        wish => Ok(wish != Wish::Quit),
    }
}
