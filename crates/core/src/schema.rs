//! The schemas of the structs that files are read into, with the feature `schema`. Without it every struct has the same
//! empty one: the parts need no second form, and nothing of schemas is compiled.

#[cfg(feature = "schema")]
pub use schemars::{JsonSchema, Schema, SchemaGenerator};

#[cfg(not(feature = "schema"))]
pub use none::{JsonSchema, Schema, SchemaGenerator};

#[cfg(not(feature = "schema"))]
mod none {
    /// A schema that is not there.
    #[derive(Debug, Clone, Copy)]
    pub struct Schema;

    /// A stand-in for the collector of the schemas of a file.
    #[derive(Debug)]
    pub struct SchemaGenerator;

    /// A type with a schema: every one.
    pub trait JsonSchema {
        /// Returns nothing to go by.
        #[must_use]
        fn json_schema(_: &mut SchemaGenerator) -> Schema {
            Schema
        }
    }

    impl<T: ?Sized> JsonSchema for T {}
}
