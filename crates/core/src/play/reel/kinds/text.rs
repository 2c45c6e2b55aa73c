//! `text`: words that stand or move.

use serde::Deserialize;

use super::super::super::say::{Motion, SayError, Saying};
use super::super::super::scroll::{Move, Points};
use super::super::super::{Act, Value};
use super::super::keys::{LookKeys, NoKeys, time_if_any};
use super::super::making::{Making, Varying};
use super::Keys;
use crate::content::text::Align;
use crate::rig::{Spanned, TextOrList};

/// Shows a text, or several one after another. "{name}" stands for a variable.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct TextKeys {
    /// The text, or several in a list
    say: TextOrList<String>,
    /// The motion in which it comes [default: pass if there is a `way`, otherwise cut]
    motion: Option<Motion>,
    /// The way in which it passes or pushes
    way: Option<Move>,
    /// The time for each step of the motion
    every: Option<Spanned<String>>,
    /// How long each text stands that does not pass
    hold: Option<Spanned<String>>,
    /// Dots or digits between the end of what passes and its next beginning
    gap: Option<usize>,
    /// Where a text stands that does not pass; in the middle where that is not said
    align: Option<Align>,
    /// Each point of what passes across digits takes one of its own
    part_points: Option<bool>,
    /// How it looks on dots
    look: Option<LookKeys>,
}

impl Keys for TextKeys {
    type Form = NoKeys;

    fn act(&self, _: &NoKeys, making: &mut Making<'_>) -> Option<Box<dyn Act>> {
        let texts = match &self.say {
            TextOrList::Text(text) => vec![text.clone()],
            TextOrList::List(texts) => texts.clone(),
        };
        let usual = if self.way.is_some() { Motion::Pass } else { Motion::Cut };
        let motion = self.motion.unwrap_or(usual);
        let stands = motion == Motion::Cut && texts.len() == 1 && self.hold.is_none();
        let saying = Saying {
            motion,
            way: self.way.unwrap_or(Move::Left),
            step: time_if_any(self.every.as_ref(), making)?,
            hold: time_if_any(self.hold.as_ref(), making)?,
            // By itself, so that a gap comes between them.
            times: if stands { None } else { Some(making.times.take().unwrap_or(1)) },
            gap: self.gap,
            align: self.align,
            points: if self.part_points == Some(true) { Points::Parted } else { Points::Joined },
            texts,
        };
        let look = LookKeys::on_dots(self.look.as_ref(), "board", Align::Left, making)?;
        let face = making.face.clone();
        let has_greys = making.mount.drive.display().grey_steps() > 1;
        let names: Vec<_> = making.names_in(&saying.texts.join("\n"));
        let first: Vec<_> = names.iter().map(|name| making.variables[name].clone()).collect();
        let on_dots = face.dots().is_some();
        let make = move |names: &[String], values: &[Value]| {
            let texts = saying.texts.iter().map(|text| filled(text, names, values, on_dots)).collect();
            Saying { texts, ..saying.clone() }.act(look.as_ref(), &face, has_greys)
        };
        match make(&names, &first) {
            Err(error) => making.cannot(&error, fix(&error)),
            Ok(act) if names.is_empty() => Some(act),
            Ok(_) => {
                let known = names.clone();
                Some(Box::new(Varying::new(names, first, move |values| make(&known, values).ok())))
            }
        }
    }
}

/// The text with the values of its variables, whose braces are just braces.
fn filled(text: &str, names: &[String], values: &[Value], on_dots: bool) -> String {
    names.iter().zip(values).fold(text.to_owned(), |text, (name, value)| {
        let words = match value {
            Value::Number(number) => number.to_string(),
            Value::Words(words) => words.chars().map(|letter| braced(letter, on_dots)).collect(),
        };
        text.replace(&format!("{{{name}}}"), &words)
    })
}

/// A character of a text in which braces mean something.
fn braced(letter: char, on_dots: bool) -> String {
    match letter {
        '{' => "{{".to_owned(),
        '}' if on_dots => "{}".to_owned(),
        '}' => "}}".to_owned(),
        letter => letter.to_string(),
    }
}

const fn fix(error: &SayError) -> Option<&'static str> {
    match error {
        SayError::Content(_) => None,
        SayError::OneAtATime => Some("write one text, or another motion: motion = \"push\""),
        SayError::StandsNowhere => Some("leave out hold and align, or write motion = \"wipe\""),
        SayError::NoGap => Some("leave out gap, or write motion = \"pass\""),
        SayError::NoGreys => Some("write motion = \"wipe\", or in the drive of a scanned face depth = 4"),
        SayError::OneRow => Some("write way = \"left\" or way = \"right\""),
        SayError::NoPoints => Some("leave out part_points, or write motion = \"pass\" on digits"),
    }
}
