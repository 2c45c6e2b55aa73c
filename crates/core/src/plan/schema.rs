//! The JSON Schema of a rig file, made of the very types that read it: an editor that knows it completes keys and values,
//! and marks what is wrong, while a rig is written.

use crate::schema::{JsonSchema, Schema, SchemaGenerator};
use schemars::generate::SchemaSettings;
use serde_json::{Map, Value, json};

use super::MAX_FACES;
use crate::part::{Method, methods};
use crate::rig::face::{FaceKeys, RigKeys};

/// The schema, by the draft 2020-12.
#[must_use]
pub fn rig() -> Value {
    let settings = SchemaSettings::draft2020_12().with(|settings| settings.inline_subschemas = true);
    let mut generator = settings.into_generator();
    let drives: Vec<_> = methods().map(|method| drive(method, &mut generator)).collect();
    let names: Vec<_> = methods().map(|method| method.name()).collect();
    // The method selects the branch: then an error is marked at its own key, and not at the whole table.
    let drive = json!({
        "description": "How it is driven: the method, and its keys",
        "type": "object",
        "required": ["method"],
        "properties": { "method": { "description": "What drives it", "enum": names } },
        "allOf": drives
    });
    let face = with(object(FaceKeys::json_schema(&mut generator)), "drive", drive);
    let names = json!({
        "description": "The displays, each by a name of your own",
        "type": "object",
        "minProperties": 1,
        "maxProperties": MAX_FACES,
        "additionalProperties": face
    });
    let mut root = with(object(RigKeys::json_schema(&mut generator)), "face", names);
    root.insert("$schema".to_owned(), json!("https://json-schema.org/draft/2020-12/schema"));
    root.insert("title".to_owned(), json!("Spare Tile rig"));
    root.insert(
        "description".to_owned(),
        json!("The hardware of segment and dot displays on one controller"),
    );
    let mut schema = Value::Object(root);
    simplify(&mut schema);
    schema
}

/// The schema of a file for `--built`: that of a rig in which every key may be left out.
#[must_use]
pub fn built() -> Value {
    let mut schema = rig();
    need_nothing(&mut schema);
    if let Value::Object(root) = &mut schema {
        root.insert("title".to_owned(), json!("Spare Tile hardware as built"));
        let about = "The hardware as it really is; what is left out is taken from the rig";
        root.insert("description".to_owned(), json!(about));
    }
    schema
}

/// Takes out which keys are required, but for those that select a branch.
fn need_nothing(schema: &mut Value) {
    match schema {
        Value::Array(items) => items.iter_mut().for_each(need_nothing),
        Value::Object(object) => {
            object.remove("required");
            object.remove("minProperties");
            object.iter_mut().filter(|(key, _)| *key != "if").for_each(|(_, value)| need_nothing(value));
        }
        _ => {}
    }
}

/// Takes out what says nothing of a TOML file: null, which it cannot have, and the widths of numbers in memory.
pub(crate) fn simplify(schema: &mut Value) {
    match schema {
        Value::Array(items) => items.iter_mut().for_each(simplify),
        Value::Object(object) => {
            object.values_mut().for_each(simplify);
            object.remove("format");
            if let Some(Value::Array(words)) = object.get_mut("enum") {
                words.retain(|word| !word.is_null());
            }
            let kinds = object.get_mut("type");
            if let Some(Value::Array(kinds)) = kinds {
                kinds.retain(|kind| kind != "null");
                if let [kind] = &kinds[..] {
                    let kind = kind.clone();
                    object.insert("type".to_owned(), kind);
                }
            }
            if let Some(Value::Array(choices)) = object.get_mut("anyOf") {
                choices.retain(|choice| *choice != json!({ "type": "null" }));
                // A single choice is merged with its type; the description of the key goes before that of its type.
                if let [Value::Object(only)] = &choices[..] {
                    let only = only.clone();
                    object.remove("anyOf");
                    for (key, value) in only {
                        object.entry(key).or_insert(value);
                    }
                }
            }
        }
        _ => {}
    }
}

/// The schema of a method's drive table: the keys of all its structs, if the method is this one.
fn drive(method: &dyn Method, generator: &mut SchemaGenerator) -> Value {
    let name = json!({ "const": method.name() });
    let mut whole = with(merged(method.keys(generator)), "method", name.clone());
    whole.insert("title".to_owned(), json!(method.name()));
    json!({ "if": { "required": ["method"], "properties": { "method": name } }, "then": whole })
}

/// The schema of a table whose keys are stated by several structs.
pub(crate) fn merged(schemas: impl IntoIterator<Item = Schema>) -> Map<String, Value> {
    let (mut properties, mut required) = (Map::new(), Vec::new());
    for schema in schemas {
        let mut part = object(schema);
        if let Some(Value::Object(keys)) = part.remove("properties") {
            properties.extend(keys);
        }
        if let Some(Value::Array(keys)) = part.remove("required") {
            required.extend(keys);
        }
    }
    let mut whole = Map::new();
    whole.insert("type".to_owned(), json!("object"));
    whole.insert("additionalProperties".to_owned(), json!(false));
    whole.insert("properties".to_owned(), Value::Object(properties));
    whole.insert("required".to_owned(), Value::Array(required));
    whole
}

pub(crate) fn object(schema: Schema) -> Map<String, Value> {
    match schema.to_value() {
        Value::Object(object) => object,
        _ => Map::new(),
    }
}

/// The schema of a table with one key more, which must be there.
pub(crate) fn with(mut table: Map<String, Value>, key: &str, schema: Value) -> Map<String, Value> {
    if let Some(Value::Object(properties)) = table.get_mut("properties") {
        properties.insert(key.to_owned(), schema);
    }
    let required = table.entry("required").or_insert_with(|| json!([]));
    if let Value::Array(required) = required {
        required.push(json!(key));
    }
    table
}
