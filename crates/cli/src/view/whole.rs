//! The whole screen of a terminal, drawn cell by cell and listened to.

use std::io::Write;
use std::time::Duration;

use ratatui::Terminal as Cells;
use ratatui::backend::CrosstermBackend;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

use super::terminal::{Heard, Screen, Terminal};
use crate::failure::Failure;

/// The whole screen, while it is taken. What was there comes back when this is dropped.
pub struct WholeScreen<W: Write> {
    cells: Cells<CrosstermBackend<W>>,
    terminal: Terminal,
}

impl<W: Write> WholeScreen<W> {
    /// Takes the screen that is written to.
    pub fn take(out: W) -> Result<Self, Failure> {
        // First the signals are heard that may end the program, then the screen is touched.
        let terminal = Terminal::take(Screen::Whole)?;
        Ok(Self { cells: Cells::new(CrosstermBackend::new(out))?, terminal })
    }

    /// Draws everything again and writes what differs. Returns its place.
    pub fn draw(&mut self, draw: impl FnOnce(Rect, &mut Buffer)) -> Result<Rect, Failure> {
        let mut window = Rect::ZERO;
        self.cells.draw(|frame| {
            window = frame.area();
            // A window may be without rows or columns for a moment; then there are no cells to draw on.
            if !window.is_empty() {
                draw(window, frame.buffer_mut());
            }
        })?;
        Ok(window)
    }

    /// Returns the next event, or `None` after the timeout. If the size of the screen has changed, prepares the screen.
    pub fn hear(&mut self, left: impl Fn() -> Option<Duration>) -> Result<Option<Heard>, Failure> {
        let heard = self.terminal.hear(left)?;
        if heard == Some(Heard::Redraw) {
            // Not its clear, which asks the terminal where the cursor is, between the keys.
            let size = self.cells.size()?;
            self.cells.resize(size.into())?;
        }
        Ok(heard)
    }
}
