//! Texts in motion: from words and the way that they come to the act that plays them.

use std::time::Duration;

use super::Act;
use super::scroll::{self, Move, PassingText, Points, Scroll};
use super::slides::{self, Change, Slide, Slides};
use super::still::Still;
use crate::content::lettering::{Lettering, Look};
use crate::content::text::Align;
use crate::content::{Canvas, Content, ContentError};
use crate::face::Face;
use crate::words::words;

words! {
    /// How a text comes.
    pub enum Motion {
        /// It enters at one edge and leaves at the other.
        Pass = "pass",
        /// At once.
        Cut = "cut",
        /// Character by character.
        Type = "type",
        /// Column by column over the one before.
        Wipe = "wipe",
        /// It pushes the one before out.
        Push = "push",
        /// The one before turns into it, on faces with greys.
        Fade = "fade",
        /// It blinks.
        Blink = "blink",
    }
}

/// Texts, and the way that they come.
#[derive(Debug, Clone, PartialEq)]
pub struct Saying {
    /// One that passes, or several that come one after another.
    pub texts: Vec<String>,
    /// How.
    pub motion: Motion,
    /// Which way they pass or push.
    pub way: Move,
    /// How long each step stands; the usual where that is not said.
    pub step: Option<Duration>,
    /// How long each text stands that does not pass; the usual where that is not said.
    pub hold: Option<Duration>,
    /// How often all of it comes; none without end.
    pub times: Option<u32>,
    /// Places between the end of what passes and its next beginning.
    pub gap: Option<usize>,
    /// Where a text stands that does not pass; in the middle where that is not said.
    pub align: Option<Align>,
    /// Where points are that pass across digits.
    pub points: Points,
}

/// Why texts cannot come in such a way.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[allow(missing_docs, reason = "the messages say it")]
pub enum SayError {
    #[error("{0}")]
    Content(#[from] ContentError),
    #[error("one text passes at a time")]
    OneAtATime,
    #[error("a text that passes stands nowhere")]
    StandsNowhere,
    #[error("there is a gap only between texts that pass")]
    NoGap,
    #[error("there are no greys: lights are lit or dark, and nothing fades")]
    NoGreys,
    #[error("there is one row of digits: a text moves to the left or right")]
    OneRow,
    #[error("points are parted of a text that passes across digits")]
    NoPoints,
}

/// How long a text stands before it moves on: on dots so that it runs, on digits so that each character can be read.
const DOT_STEP: Duration = Duration::from_millis(60);
const DIGIT_STEP: Duration = Duration::from_millis(300);
const TYPE_STEP: Duration = Duration::from_millis(150);
const BLINK_STEP: Duration = Duration::from_millis(500);
/// A fade of this many steps takes about a second.
const FADE_STEP: Duration = Duration::from_millis(30);
const FADE_STEPS: u32 = 32;
/// The most times that a text blinks before the next one comes.
const MOST_BLINKS: usize = 1_000;
/// How long a text stands that does not pass.
const HOLD: Duration = Duration::from_secs(2);

impl Saying {
    /// The act on a face; on dots the texts look as `look` says.
    ///
    /// # Errors
    /// When the face cannot show them, or not in that way.
    pub fn act(&self, look: Option<&Look>, face: &Face, has_greys: bool) -> Result<Box<dyn Act>, SayError> {
        if self.points == Points::Parted && (self.motion != Motion::Pass || face.dots().is_some()) {
            return Err(SayError::NoPoints);
        }
        let is_upright = matches!(self.way, Move::Up | Move::Down);
        if is_upright && face.dots().is_none() && matches!(self.motion, Motion::Pass | Motion::Push) {
            return Err(SayError::OneRow);
        }
        if self.motion == Motion::Pass {
            self.passing(look, face)
        } else {
            self.slides(look, face, has_greys)
        }
    }

    /// A text that passes.
    fn passing(&self, look: Option<&Look>, face: &Face) -> Result<Box<dyn Act>, SayError> {
        let [words] = &self.texts[..] else { return Err(SayError::OneAtATime) };
        if self.hold.is_some() || self.align.is_some() {
            return Err(SayError::StandsNowhere);
        }
        let usual = if face.dots().is_some() { DOT_STEP } else { DIGIT_STEP };
        let pace = scroll::Pace { step: self.step.unwrap_or(usual), gap: self.gap, times: self.times };
        if let (Some(grid), Some(look)) = (face.dots(), look) {
            let lettering = Lettering { words: words.clone(), look: look.clone() };
            let strip = lettering.strip().map_err(ContentError::from)?;
            return Ok(Box::new(Scroll::new(strip, self.way, (grid.width, grid.height), pace)));
        }
        let to_the_right = self.way == Move::Right;
        let text = PassingText::new(words, face, face.digits(), to_the_right, self.points, pace);
        let text = text.map_err(|error| ContentError::Text { error, words: words.clone() })?;
        Ok(Box::new(text))
    }

    /// Texts that come one after another.
    fn slides(&self, look: Option<&Look>, face: &Face, has_greys: bool) -> Result<Box<dyn Act>, SayError> {
        if self.gap.is_some() {
            return Err(SayError::NoGap);
        }
        if self.motion == Motion::Fade && !has_greys {
            return Err(SayError::NoGreys);
        }
        if let (Motion::Cut, [words], None) =
            (self.motion, &self.texts[..], self.times.or(self.hold.map(|_| 1)))
        {
            // It comes at once and stays.
            let content = Content::of_words(words, None, Some(self.align()), look, face)?;
            content.draw(&mut Canvas::whole(face, &mut face.blank()))?;
            return Ok(Box::new(Still(content)));
        }
        let (change, usual) = match self.motion {
            Motion::Pass | Motion::Cut => (Change::Cut, DOT_STEP),
            Motion::Blink => (Change::Cut, BLINK_STEP),
            Motion::Type => (Change::Type, TYPE_STEP),
            Motion::Wipe => (Change::Wipe, DOT_STEP),
            Motion::Push => (Change::Push(self.way), DOT_STEP),
            Motion::Fade => (Change::Fade(FADE_STEPS), FADE_STEP),
        };
        let step = self.step.unwrap_or(usual);
        // A blinking text is lit for a step and dark for a step, until `hold` is over.
        let (hold, blinks) = match (self.motion, self.hold) {
            (Motion::Blink, None) => (step, 1),
            (Motion::Blink, Some(hold)) => {
                let blinks = (hold.as_nanos() / (2 * step.as_nanos()).max(1)).max(1);
                (step, usize::try_from(blinks).unwrap_or(MOST_BLINKS).min(MOST_BLINKS))
            }
            (_, hold) => (hold.unwrap_or(HOLD), 1),
        };
        let mut slides = Vec::new();
        for words in &self.texts {
            let slide = self.slide(words, look, face)?;
            if self.motion == Motion::Blink {
                let pair = [slide, Slide::of(face.blank())];
                slides.extend(pair.iter().cycle().take(2 * blinks).cloned());
            } else {
                slides.push(slide);
            }
        }
        let pace = slides::Pace { step, hold, times: self.times };
        Ok(Box::new(Slides::new(face, slides, change, pace)))
    }

    fn align(&self) -> Align {
        self.align.unwrap_or(Align::Centre)
    }

    /// One text where it stands.
    fn slide(&self, words: &str, look: Option<&Look>, face: &Face) -> Result<Slide, ContentError> {
        if let (Some(_), Some(look)) = (face.dots(), look) {
            let look = Look { align: self.align(), ..look.clone() };
            return Ok(Slide::on_dots(face, &Lettering { words: words.to_owned(), look })?);
        }
        let mut frame = face.blank();
        let content = Content::of_words(words, None, Some(self.align()), None, face)?;
        content.draw(&mut Canvas::whole(face, &mut frame))?;
        Ok(Slide::on_digits(face, frame))
    }
}
