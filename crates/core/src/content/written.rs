//! Numbers as they are written in files: as a number, or as a text such as "0x1F".

use std::fmt;
use std::marker::PhantomData;

#[cfg(feature = "schema")]
use crate::schema::{JsonSchema, Schema, SchemaGenerator};
use serde::de::{Deserialize, Deserializer, Error, Unexpected, Visitor};

use super::number::Decimal;

/// A value that is written as a number or as a text.
pub trait NumberOrText: Sized {
    /// The expected forms, in words.
    const EXPECTED: &'static str;

    /// Returns the value for a number.
    fn of_number(number: Decimal) -> Self;

    /// Returns the value for a text, if there is one.
    fn of_text(text: &str) -> Option<Self>;
}

/// Reads a value that is written as a number or as a text.
///
/// # Errors
/// If it is neither, or a text without a value.
pub fn number_or_text<'de, T: NumberOrText, D: Deserializer<'de>>(deserializer: D) -> Result<T, D::Error> {
    struct Either<T>(PhantomData<T>);
    impl<T: NumberOrText> Visitor<'_> for Either<T> {
        type Value = T;
        fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
            f.write_str(T::EXPECTED)
        }
        fn visit_i64<E: Error>(self, number: i64) -> Result<T, E> {
            Ok(T::of_number(number.into()))
        }
        fn visit_f64<E: Error>(self, number: f64) -> Result<T, E> {
            // The shortest form is the one in the file, except for zeros at its end.
            let wrong = |_| E::invalid_value(Unexpected::Float(number), &self);
            number.to_string().parse().map(T::of_number).map_err(wrong)
        }
        fn visit_str<E: Error>(self, text: &str) -> Result<T, E> {
            T::of_text(text).ok_or_else(|| E::invalid_value(Unexpected::Str(text), &self))
        }
    }
    deserializer.deserialize_any(Either(PhantomData))
}

/// The forms of a number in a file, for the JSON Schema.
#[cfg(feature = "schema")]
#[derive(schemars::JsonSchema)]
#[schemars(untagged)]
#[allow(dead_code, reason = "the schema needs the variants, the visitor reads them")]
enum Forms {
    Number(f64),
    Text(String),
}

impl NumberOrText for Decimal {
    const EXPECTED: &'static str = "a number";

    fn of_number(number: Decimal) -> Self {
        number
    }

    fn of_text(text: &str) -> Option<Self> {
        text.parse().ok()
    }
}

impl<'de> Deserialize<'de> for Decimal {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        number_or_text(deserializer)
    }
}

#[cfg(feature = "schema")]
impl JsonSchema for Decimal {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "Number".into()
    }

    fn json_schema(generator: &mut SchemaGenerator) -> Schema {
        Forms::json_schema(generator)
    }
}
