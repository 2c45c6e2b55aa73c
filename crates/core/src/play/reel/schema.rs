//! The JSON Schema of a reel file, made of the very types that read it.

use schemars::generate::SchemaSettings;
use serde_json::{Value, json};

use super::kinds::KINDS;
use super::{ReelKeys, TrackKeys};
use crate::plan::schema::{merged, object, simplify, with};
use crate::schema::JsonSchema;

/// The schema, by the draft 2020-12.
#[must_use]
pub fn reel() -> Value {
    let settings = SchemaSettings::draft2020_12().with(|settings| settings.inline_subschemas = true);
    let mut generator = settings.into_generator();
    let acts: Vec<Value> = KINDS
        .iter()
        .map(|kind| {
            let table = merged((kind.schemas)(&mut generator));
            json!({
                "type": "object",
                "title": kind.name,
                "properties": { kind.name: table },
                "required": [kind.name],
                "additionalProperties": false
            })
        })
        .collect();
    let acts = json!({
        "description": "What it plays, one after another",
        "type": "array",
        "items": { "oneOf": acts }
    });
    let mut track = with(object(TrackKeys::json_schema(&mut generator)), "act", acts);
    track.insert("additionalProperties".to_owned(), json!(false));
    let tracks = json!({
        "description": "What plays at the same time, each on a face",
        "type": "array",
        "minItems": 1,
        "items": track
    });
    let mut root = with(object(ReelKeys::json_schema(&mut generator)), "track", tracks);
    root.insert("$schema".to_owned(), json!("https://json-schema.org/draft/2020-12/schema"));
    root.insert("title".to_owned(), json!("Spare Tile reel"));
    root.insert("description".to_owned(), json!("What plays on the displays of a rig"));
    let mut schema = Value::Object(root);
    simplify(&mut schema);
    schema
}
