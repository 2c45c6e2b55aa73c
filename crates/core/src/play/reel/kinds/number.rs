//! `number`: a number that stands.

use schemars::JsonSchema;
use serde::Deserialize;

use super::super::super::Act;
use super::super::super::gauge::Source;
use super::super::super::reading::Reading;
use super::super::super::still::Still;
use super::super::keys::{FormKeys, GivenOrName, LookKeys};
use super::super::making::Making;
use super::Keys;
use crate::content::text::Align;
use crate::content::{Canvas, Content};
use crate::rig::Spanned;

/// Shows a number, or a variable as it is.
#[derive(Deserialize, JsonSchema)]
pub struct NumberKeys {
    /// The number, or a variable: "{level}"
    value: Spanned<GivenOrName>,
    /// How it looks on dots
    look: Option<LookKeys>,
}

impl Keys for NumberKeys {
    type Form = FormKeys;

    fn act(&self, form: &FormKeys, making: &mut Making<'_>) -> Option<Box<dyn Act>> {
        let look = match making.face.dots() {
            Some(_) => Some(LookKeys::look(self.look.as_ref(), "board", Align::Right, making)?),
            None => None,
        };
        let format = form.format();
        let value = match making.source(&self.value)? {
            Source::Fixed(value) => value,
            Source::Variable(variable) => {
                return Some(Box::new(Reading { format, look, ..Reading::of(variable) }));
            }
        };
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
