//! A value that is a name, or a list of its own in place of one.

use std::fmt;
use std::marker::PhantomData;

use serde::de::{Deserialize, Deserializer, SeqAccess, Visitor};

/// A name for something known, or a list of what it consists of.
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "schema", schemars(untagged))]
pub enum TextOrList<T> {
    /// The name.
    Text(String),
    /// The list.
    List(Vec<T>),
}

impl<'de, T: Deserialize<'de>> Deserialize<'de> for TextOrList<T> {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct EitherVisitor<T>(PhantomData<T>);
        impl<'de, T: Deserialize<'de>> Visitor<'de> for EitherVisitor<T> {
            type Value = TextOrList<T>;
            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("a name, or a list")
            }
            fn visit_str<E: serde::de::Error>(self, text: &str) -> Result<TextOrList<T>, E> {
                Ok(TextOrList::Text(text.to_owned()))
            }
            fn visit_seq<A: SeqAccess<'de>>(self, mut items: A) -> Result<TextOrList<T>, A::Error> {
                let mut list = Vec::new();
                while let Some(item) = items.next_element()? {
                    list.push(item);
                }
                Ok(TextOrList::List(list))
            }
        }
        deserializer.deserialize_any(EitherVisitor(PhantomData))
    }
}
