//! A value with its place in the file.

use std::ops::Range;

#[cfg(feature = "schema")]
use crate::schema::{JsonSchema, Schema, SchemaGenerator};
use serde::Deserialize;

/// A value that a rig file gives, and where it stands there.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Deserialize)]
#[serde(transparent)]
pub struct Spanned<T>(serde_spanned::Spanned<T>);

impl<T> Spanned<T> {
    /// A value at a place.
    pub fn new(span: Range<usize>, value: T) -> Self {
        Self(serde_spanned::Spanned::new(span, value))
    }

    /// Its place, in bytes from the beginning of the file.
    pub fn span(&self) -> Range<usize> {
        self.0.span()
    }

    /// The value.
    pub fn get_ref(&self) -> &T {
        self.0.get_ref()
    }

    /// The value without its place.
    pub fn into_inner(self) -> T {
        self.0.into_inner()
    }
}

/// In a schema places play no part: it is that of the value.
#[cfg(feature = "schema")]
impl<T: JsonSchema> JsonSchema for Spanned<T> {
    fn inline_schema() -> bool {
        T::inline_schema()
    }

    fn schema_name() -> std::borrow::Cow<'static, str> {
        T::schema_name()
    }

    fn schema_id() -> std::borrow::Cow<'static, str> {
        T::schema_id()
    }

    fn json_schema(generator: &mut SchemaGenerator) -> Schema {
        T::json_schema(generator)
    }
}

/// A place in a rig file, kept in what follows from the file. It is not part of what the rig says: any two are equal.
#[derive(Debug, Clone, Default)]
pub struct FilePlace(pub Range<usize>);

impl PartialEq for FilePlace {
    fn eq(&self, _: &Self) -> bool {
        true
    }
}

impl Eq for FilePlace {}
