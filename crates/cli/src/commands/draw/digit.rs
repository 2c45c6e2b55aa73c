//! Characters of segments, drawn segment by segment.

use std::path::Path;
use std::sync::Arc;

use crossterm::event::{KeyCode, KeyEvent, MouseEvent, MouseEventKind};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use spare_tile_core::drawing::sheet::Sheet;
use spare_tile_core::glyph::{Segments, Style};
use spare_tile_core::rig::glyphs;

use super::{Answer, Question, Work};
use crate::coding::Coding;
use crate::failure::Failure;
use crate::input;
use crate::rigs;
use crate::view::easel::Pens;
use crate::view::easel::digit::Sight;

/// A sheet of characters and how they are coded.
pub struct Digit {
    sheet: Sheet,
    coding: Coding,
    /// The file as it is, with its remarks.
    source: Arc<str>,
    origin: String,
}

const fn keys(segments: &'static str) -> [(&'static str, &'static str); 10] {
    [
        (segments, "segments"),
        (".", "point"),
        ("mouse", "either"),
        ("v", "negative"),
        ("u U", "undo, redo"),
        ("n", "another character"),
        ("[ ]", "those of the file"),
        ("x", "take it out"),
        ("s", "save"),
        ("q", "leave"),
    ]
}

/// The letters that are not segments are left for what else there is to do.
const KEYS: [[(&str, &str); 10]; 3] =
    [keys("a to g"), keys("a to f, g G, h to m"), keys("a A b c d D e f g G, h to m")];

impl Digit {
    /// Over the text of a glyph file.
    pub fn new(path: &Path, source: String, coding: Coding) -> Result<Self, Failure> {
        if source.starts_with("dots ") {
            let message = format!("{} is a sprite and no glyph file", path.display());
            return Err(Failure::unusable(message, "leave out what is for segments, such as --style"));
        }
        let (origin, source) = (input::called(path), Arc::from(source));
        let own = rigs::own_glyphs(&origin, &source, coding.style())?;
        Ok(Self { sheet: Sheet::of(coding.style(), &own), coding, source, origin })
    }

    const fn sight(&self) -> Sight<'_> {
        Sight { sheet: &self.sheet, coding: &self.coding }
    }
}

/// The segment of a key: the point has its dot; of two halves the small letter is the first one, the capital the second.
fn segment_of(key: char, style: Style) -> Option<usize> {
    if key == '.' {
        return Some(style.point_index());
    }
    let half = if key.is_ascii_lowercase() { '1' } else { '2' };
    let name = key.to_ascii_lowercase();
    let whole = (key == name).then(|| style.segment_index(&name.to_string())).flatten();
    whole.or_else(|| style.segment_index(&format!("{name}{half}")))
}

impl Work for Digit {
    fn title(&self) -> String {
        let order: Vec<_> = self.coding.order.names().collect();
        format!("{} segments   {}", self.sheet.style(), order.join(" "))
    }

    fn keys(&self) -> &'static [(&'static str, &'static str)] {
        &KEYS[match self.sheet.style() {
            Style::Seven => 0,
            Style::Fourteen => 1,
            Style::Sixteen => 2,
        }]
    }

    fn draw(&self, area: Rect, buffer: &mut Buffer, pens: Pens) {
        self.sight().draw(area, buffer, pens);
    }

    fn key(&mut self, key: KeyEvent) -> Answer {
        let style = self.sheet.style();
        match key.code {
            KeyCode::Char('n') => return Answer::Ask(Question::Character, String::new()),
            KeyCode::Char('x') | KeyCode::Delete => self.sheet.remove(),
            KeyCode::Char('v') => {
                let all: Segments = (0..style.point_index()).collect();
                self.sheet.draw(Segments(self.sheet.pattern().0 ^ all.0));
            }
            KeyCode::Char('[') | KeyCode::PageUp | KeyCode::Up | KeyCode::Left => self.sheet.go_on(false),
            KeyCode::Char(']') | KeyCode::PageDown | KeyCode::Down | KeyCode::Right => self.sheet.go_on(true),
            KeyCode::Char(letter) => {
                segment_of(letter, style).into_iter().for_each(|segment| self.sheet.toggle(segment));
            }
            _ => {}
        }
        Answer::Done
    }

    fn mouse(&mut self, mouse: MouseEvent, area: Rect, _: Pens) {
        match mouse.kind {
            MouseEventKind::Down(_) => {
                let segment = self.sight().segment_at(area, (mouse.column, mouse.row));
                segment.into_iter().for_each(|segment| self.sheet.toggle(segment));
            }
            MouseEventKind::ScrollUp => self.sheet.go_on(false),
            MouseEventKind::ScrollDown => self.sheet.go_on(true),
            _ => {}
        }
    }

    fn take(&mut self, _: Question, answer: &str) -> Result<(), String> {
        answer.chars().next().into_iter().for_each(|character| self.sheet.name(character));
        Ok(())
    }

    fn undo(&mut self) -> bool {
        self.sheet.undo()
    }

    fn redo(&mut self) -> bool {
        self.sheet.redo()
    }

    fn is_changed(&self) -> bool {
        self.sheet.is_changed()
    }

    fn text(&self) -> Result<String, Failure> {
        glyphs::rewrite(&self.source, &self.sheet.glyphs(), self.sheet.style())
            .map_err(|findings| rigs::failure_of_findings(&findings, &self.origin, &self.source))
    }

    fn mark_saved(&mut self, text: String) {
        self.source = text.into();
        self.sheet.mark_saved();
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Every segment has a key, and no two have the same; none of them is one that does something else.
    #[test]
    fn every_segment_has_a_key_of_its_own() {
        for style in Style::ALL {
            let keys = ('a'..='z').chain('A'..='Z').chain(['.']);
            let of_keys: Vec<_> = keys.filter_map(|key| Some((segment_of(key, *style)?, key))).collect();
            let mut segments: Vec<_> = of_keys.iter().map(|(segment, _)| *segment).collect();
            segments.sort_unstable();
            assert_eq!(segments, (0..style.segment_count()).collect::<Vec<_>>(), "{style}");
            assert!(of_keys.iter().all(|(_, key)| !"qsuUnxv[]".contains(*key)));
        }
        assert_eq!(segment_of('G', Style::Fourteen), Style::Fourteen.segment_index("g2"));
        assert_eq!(segment_of('G', Style::Seven), None);
    }
}
