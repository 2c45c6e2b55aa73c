//! Real pixels on a terminal that shows them: it is asked by which protocol, and how large its cells are.
//!
//! Two protocols are spoken: the graphics protocol of kitty, which takes a PNG, and sixel. A terminal that answers neither gets
//! the [blocks](super::blocks).

use std::io::{self, IsTerminal, Write};

use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use crossterm::terminal;
use icy_sixel::{DiffusionMethod, MethodForLargest, MethodForRep, PixelFormat, Quality};

use super::page::Page;
use super::{pixels, png};
use crate::failure::{Failure, Outcome};
use crate::session::{Depth, Session};

/// How a terminal takes pictures.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Protocol {
    Kitty,
    Sixel,
}

/// The abilities of a terminal, by its own answers.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Graphics {
    protocol: Protocol,
    /// The width and height of a cell in pixels.
    cell: (u16, u16),
}

/// Does it take a picture (it answers OK), how large is a cell (`6;height;width t`), and which features has it: 4 is sixel. Every
/// terminal answers the last one.
const QUESTIONS: &str = "\u{1b}_Gi=1,s=1,v=1,a=q,t=d,f=24;AAAA\u{1b}\\\u{1b}[16t\u{1b}[c";
/// For how long it may think.
const PATIENCE_MS: u64 = 1000;
/// A usual cell, of a terminal that does not say.
const USUAL_CELL: (u16, u16) = (8, 16);
/// The most lines that a picture takes.
const MOST_LINES: f32 = 10.0;
/// The graphics protocol of kitty takes so much at a time.
const PIECE: usize = 4096;

impl Graphics {
    /// Asks the terminal of a session. `None` if it shows no pictures, if it is none, or if the person wants another drawing.
    pub fn of(session: &mut Session<'_>) -> Option<Self> {
        let wants_pixels = session.depth == Depth::True && !session.ascii && !session.lit_only;
        if !(session.live && wants_pixels && io::stdin().is_terminal()) {
            return None;
        }
        session.out.flush().ok()?;
        // So that the answers come at once, and are not shown.
        terminal::enable_raw_mode().ok()?;
        let answer = ask();
        terminal::disable_raw_mode().ok()?;
        Self::of_answer(&answer?)
    }

    /// From the answers to the questions.
    fn of_answer(answer: &str) -> Option<Self> {
        let replies: Vec<_> = answer.split('\u{1b}').collect();
        let numbers = |begin: &str, end: char| {
            let inner = replies.iter().find_map(|reply| reply.strip_prefix(begin)?.strip_suffix(end));
            inner.map(|inner| inner.split(';').filter_map(|number| number.parse().ok()).collect::<Vec<u16>>())
        };
        let is_kitty = replies.contains(&"_Gi=1;OK");
        let has_sixel = numbers("[?", 'c').is_some_and(|features| features.contains(&4));
        let protocol = match (is_kitty, has_sixel) {
            (true, _) => Protocol::Kitty,
            (false, true) => Protocol::Sixel,
            (false, false) => return None,
        };
        let cell = match numbers("[6;", 't').as_deref() {
            Some([height, width]) if *height > 0 && *width > 0 => (*width, *height),
            _ => USUAL_CELL,
        };
        Some(Self { protocol, cell })
    }

    /// Shows a drawing as large as there is room for.
    ///
    /// # Errors
    /// When it is too large for memory, or cannot be written.
    pub fn show(&self, page: Page, session: &mut Session<'_>) -> Outcome {
        let sequence = self.sequence(page, session.columns).map_err(Failure::unusable_plainly)?;
        // Every character of it is ours.
        Ok(writeln!(session.out.unguarded(), "{sequence}")?)
    }

    /// The sequence that shows a drawing within this number of columns.
    fn sequence(&self, page: Page, columns: usize) -> Result<String, String> {
        let (width, height) = (f32::from(self.cell.0) * columns as f32, f32::from(self.cell.1) * MOST_LINES);
        let scale = (width / page.width).min(height / page.height);
        match self.protocol {
            Protocol::Kitty => Ok(kitty(&png::at_scale(&page, scale)?)),
            Protocol::Sixel => sixel(page, scale),
        }
    }
}

fn kitty(png: &[u8]) -> String {
    let data = STANDARD.encode(png);
    let mut pieces = data.as_bytes().chunks(PIECE).peekable();
    let (mut sequence, mut keys) = (String::new(), "a=T,f=100,");
    while let Some(piece) = pieces.next() {
        let more = u8::from(pieces.peek().is_some());
        let piece = String::from_utf8_lossy(piece);
        sequence.push_str(&format!("\u{1b}_G{keys}m={more};{piece}\u{1b}\\"));
        keys = "";
    }
    sequence
}

fn sixel(page: Page, scale: f32) -> Result<String, String> {
    let mut canvas = pixels::Canvas::new(&page, scale)?;
    let all = canvas.show(page).ok_or("an empty drawing")?;
    let bytes = canvas.cut(all).concat();
    icy_sixel::sixel_string(
        &bytes,
        all.width as i32,
        all.height as i32,
        PixelFormat::RGB888,
        DiffusionMethod::None,
        MethodForLargest::Auto,
        MethodForRep::Auto,
        Quality::HIGH,
    )
    .map_err(|error| format!("cannot form the picture: {error:?}"))
}

/// Writes the questions and reads until the last is answered.
fn ask() -> Option<String> {
    let (mut answer, mut question) = (Vec::new(), QUESTIONS);
    while !answer.ends_with(b"c") {
        let mut buffer = [0; 256];
        let read =
            xterm_query::query_buffer(question, &mut buffer, PATIENCE_MS).ok().filter(|read| *read > 0)?;
        answer.extend_from_slice(&buffer[..read]);
        question = "";
    }
    String::from_utf8(answer).ok()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_terminals_answer() {
        let both = "\u{1b}_Gi=1;OK\u{1b}\\\u{1b}[6;20;9t\u{1b}[?62;4;22c";
        assert_eq!(Graphics::of_answer(both), Some(Graphics { protocol: Protocol::Kitty, cell: (9, 20) }));
        let sixel = "\u{1b}[?63;1;2;4;6c";
        assert_eq!(
            Graphics::of_answer(sixel),
            Some(Graphics { protocol: Protocol::Sixel, cell: USUAL_CELL })
        );
        for nothing in ["\u{1b}[?62;14;22c", "\u{1b}_Gi=1;ENOTSUPPORTED\u{1b}\\\u{1b}[?1;2c", "", "c"] {
            assert_eq!(Graphics::of_answer(nothing), None, "{nothing:?}");
        }
    }

    #[test]
    fn a_large_picture_comes_in_pieces() {
        let sequence = kitty(&[7; 2 * PIECE]);
        let pieces: Vec<_> = sequence.split("\u{1b}\\").filter(|piece| !piece.is_empty()).collect();
        assert_eq!(pieces.len(), 3);
        assert!(pieces[0].starts_with("\u{1b}_Ga=T,f=100,m=1;") && pieces[2].starts_with("\u{1b}_Gm=0;"));
        assert!(pieces.iter().all(|piece| piece.len() < PIECE + 30));
    }
}
