//! A user's own characters that are being drawn, segment by segment.

use super::history::History;
use crate::glyph::{OwnGlyphs, Segments, Style, glyph};

/// Characters that are being drawn, and the current one: one of them, or a pattern without a character.
#[derive(Debug, Clone)]
pub struct Sheet {
    style: Style,
    history: History<State, Option<usize>>,
    at: Option<usize>,
    saved: Vec<(char, Segments)>,
}

#[derive(Debug, Clone, PartialEq, Eq)]
struct State {
    glyphs: Vec<(char, Segments)>,
    /// The pattern without a character.
    loose: Segments,
}

impl Sheet {
    /// The characters of a file; the first is looked at.
    #[must_use]
    pub fn of(style: Style, glyphs: &OwnGlyphs) -> Self {
        let glyphs: Vec<_> = glyphs.all().collect();
        let at = if glyphs.is_empty() { None } else { Some(0) };
        let saved = glyphs.clone();
        Self { style, history: History::new(State { glyphs, loose: Segments::NONE }), at, saved }
    }

    /// How many segments a digit has.
    #[must_use]
    pub const fn style(&self) -> Style {
        self.style
    }

    /// All characters, in the order of the file.
    #[must_use]
    pub fn characters(&self) -> &[(char, Segments)] {
        &self.history.now().glyphs
    }

    /// The characters as a face takes them.
    #[must_use]
    pub fn glyphs(&self) -> OwnGlyphs {
        let mut own = OwnGlyphs::default();
        self.characters().iter().for_each(|(character, segments)| own.draw(*character, *segments));
        own
    }

    /// The place of the character that is looked at; `None` where that is none yet.
    #[must_use]
    pub const fn at(&self) -> Option<usize> {
        self.at
    }

    /// The character that is looked at.
    #[must_use]
    pub fn character(&self) -> Option<char> {
        self.at.map(|at| self.characters()[at].0)
    }

    /// The lit segments.
    #[must_use]
    pub fn pattern(&self) -> Segments {
        let state = self.history.now();
        self.at.map_or(state.loose, |at| state.glyphs[at].1)
    }

    /// Lights a segment, or puts it out.
    pub fn toggle(&mut self, segment: usize) {
        if segment < self.style.segment_count() {
            self.draw(Segments(self.pattern().0 ^ 1 << segment));
        }
    }

    /// Lights these segments and no others.
    pub fn draw(&mut self, segments: Segments) {
        let mut next = self.history.now().clone();
        match self.at {
            Some(at) => next.glyphs[at].1 = segments,
            None => next.loose = segments,
        }
        self.history.change(next, self.at);
    }

    /// Selects a character. A missing one is added: it begins as the pattern without a character or, if nothing of
    /// that was lit, as the style draws it.
    pub fn name(&mut self, character: char) {
        if let Some(at) = self.characters().iter().position(|(known, _)| *known == character) {
            self.at = Some(at);
            return;
        }
        let loose = if self.at.is_none() { self.pattern() } else { Segments::NONE };
        let own = glyph(self.style, character).map_or(Segments::NONE, |glyph| glyph.segments);
        let mut next = self.history.now().clone();
        next.glyphs.push((character, if loose == Segments::NONE { own } else { loose }));
        next.loose = Segments::NONE;
        self.at = Some(next.glyphs.len() - 1);
        self.history.change(next, self.at);
    }

    /// Takes the character out; a pattern that is none becomes dark.
    pub fn remove(&mut self) {
        let Some(at) = self.at else { return self.draw(Segments::NONE) };
        let mut next = self.history.now().clone();
        next.glyphs.remove(at);
        self.history.change(next, self.at);
        self.go_to(self.at);
    }

    /// Looks at a character by its place, the last one where there are not so many, or at what is none yet.
    pub fn go_to(&mut self, at: Option<usize>) {
        self.at = at.and_then(|at| Some(at.min(self.characters().len().checked_sub(1)?)));
    }

    /// Looks at the next character, or the one before; past either end at what is none yet.
    pub fn go_on(&mut self, forward: bool) {
        let count = self.characters().len();
        self.at = match (self.at, forward) {
            (None, true) => (count > 0).then_some(0),
            (None, false) => count.checked_sub(1),
            (Some(at), true) => Some(at + 1).filter(|at| *at < count),
            (Some(at), false) => at.checked_sub(1),
        };
    }

    /// Returns true if a character was changed since they were saved.
    #[must_use]
    pub fn is_changed(&self) -> bool {
        *self.characters() != self.saved[..]
    }

    /// Takes note that they were saved as they are.
    pub fn mark_saved(&mut self) {
        self.saved = self.characters().to_vec();
    }

    /// Takes the last change back, and looks at where it was. Whether there was one.
    pub fn undo(&mut self) -> bool {
        let place = self.history.undo();
        self.look_at(place)
    }

    /// Makes again what was undone, and looks at it. Whether there was something.
    pub fn redo(&mut self) -> bool {
        let place = self.history.redo();
        self.look_at(place)
    }

    fn look_at(&mut self, place: Option<Option<usize>>) -> bool {
        self.go_to(place.unwrap_or(self.at));
        place.is_some()
    }
}
