//! `number`: a number that stands.

use serde::Deserialize;

use super::super::super::Act;
use super::super::super::cursor::Cursor;
use super::super::super::gauge::Source;
use super::super::super::reading::Reading;
use super::super::super::still::Still;
use super::super::keys::{GivenOrName, LookKeys, checked_form};
use super::super::making::{CannotPlay, Making};
use super::Keys;
use crate::content::number::NumberFormat;
use crate::content::text::Align;
use crate::content::{Canvas, Content};
use crate::rig::Spanned;

/// Shows a number, or a variable as it is.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct NumberKeys {
    /// The number, or a variable: "{level}"
    value: Spanned<GivenOrName>,
    /// A figure of the variable blinks; this variable says which: 0 is the ones, 1 the tens
    cursor: Option<Spanned<String>>,
    /// How it looks on dots
    look: Option<LookKeys>,
}

impl Keys for NumberKeys {
    type Form = NumberFormat;

    fn act(&self, form: &NumberFormat, making: &mut Making<'_>) -> Option<Box<dyn Act>> {
        let look = LookKeys::on_dots(self.look.as_ref(), "board", Align::Right, making)?;
        let format = checked_form(form, look.as_ref(), making)?;
        let value = match making.source(&self.value)? {
            Source::Fixed(value) => value,
            Source::Variable(variable) => {
                let is_dots = look.is_some();
                let reading = Reading { format, look, ..Reading::of(variable) };
                return match &self.cursor {
                    None => Some(Box::new(reading)),
                    Some(_) if is_dots => making.cannot("a cursor blinks on digits, not on dots", None),
                    Some(at) => {
                        making.knows(at.get_ref(), at.span())?;
                        Some(Box::new(Cursor { reading, at: at.get_ref().clone() }))
                    }
                };
            }
        };
        if let Some(at) = &self.cursor {
            let message = "a cursor changes a variable, and this number stays as it is".to_owned();
            let fix = Some("show a variable: value = \"{minutes}\"".to_owned());
            return making.findings.stop(at.span(), CannotPlay { message, fix });
        }
        let content = match look {
            Some(look) => Content::Figures { value, format, look },
            None => Content::Number { value, format, align: Align::Right },
        };
        let drawn = content.draw(&mut Canvas::whole(making.face, &mut making.face.blank()));
        match drawn {
            Ok(()) => Some(Box::new(Still(content))),
            Err(error) => making.cannot(error, None),
        }
    }
}
