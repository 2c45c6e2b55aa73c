//! The schema of rig files against the reader: what the program reads it allows, and slips of the pen it marks.

use jsonschema::Validator;
use proptest::prelude::*;
use proptest::sample::select;
use serde_json::Value;
use spare_tile_core::draft::kinds::KINDS;
use spare_tile_core::draft::{Wish, rig as draft};
use spare_tile_core::part::methods;
use spare_tile_core::plan::{Rig, schema};
use spare_tile_core::play::reel::schema as reels;
use spare_tile_core::rig::{Severity, controllers};

use crate::common::LANDING;
use crate::rig_findings::findings;

fn validator() -> Validator {
    jsonschema::draft202012::new(&schema::rig()).unwrap()
}

fn json(source: &str) -> Value {
    serde_json::to_value(source.parse::<toml::Table>().unwrap()).unwrap()
}

/// The places that the schema marks in a rig.
fn marked(source: &str) -> Vec<String> {
    validator().iter_errors(&json(source)).map(|error| error.instance_path().to_string()).collect()
}

#[test]
fn it_is_a_schema_and_allows_every_rig_of_the_landing() {
    assert!(jsonschema::draft202012::meta::is_valid(&schema::rig()));
    for source in LANDING {
        assert_eq!(marked(source), Vec::<String>::new(), "{source}");
    }
}

#[test]
fn it_allows_every_rig_to_begin_with_and_every_default_written_out() {
    let validator = validator();
    for kind in KINDS {
        for controller in controllers::names() {
            let wish = Wish::of(kind);
            let Ok(source) = draft(&wish, Some(controller)) else { continue };
            assert!(validator.is_valid(&json(&source)), "{source}");
            // The comments are keys too.
            let uncommented =
                |line: &str| line.strip_prefix("# ").filter(|rest| rest.contains(" = ")).map(str::to_owned);
            let written: Vec<_> =
                source.lines().map(|line| uncommented(line).unwrap_or_else(|| line.to_owned())).collect();
            let written = written.join("\n");
            assert!(validator.is_valid(&json(&written)), "{written}");
        }
    }
}

#[test]
fn it_has_every_method_and_describes_every_key() {
    let schema = schema::rig();
    let drives = &schema["properties"]["face"]["additionalProperties"]["properties"]["drive"]["allOf"];
    let names: Vec<_> =
        drives.as_array().unwrap().iter().map(|drive| drive["then"]["title"].as_str().unwrap()).collect();
    assert_eq!(names, methods().map(|method| method.name()).collect::<Vec<_>>());
    fn check(schema: &Value, path: &str) {
        if let Some(keys) = schema["properties"].as_object() {
            for (key, schema) in keys {
                let is_told = schema.get("description").is_some() || schema.get("const").is_some();
                assert!(is_told, "{path}.{key} has no description");
            }
        }
        match schema {
            Value::Object(object) => {
                object.iter().for_each(|(key, schema)| check(schema, &format!("{path}.{key}")))
            }
            Value::Array(items) => items.iter().for_each(|schema| check(schema, path)),
            _ => {}
        }
    }
    check(&schema, "");
    assert!(!schema.to_string().contains("null"), "TOML has no null");
}

#[test]
fn slips_of_the_pen_are_marked() {
    let gauge = LANDING[5];
    for (found, slip) in [
        ("digits = 4", "digit = 4"),
        ("digits = 4", "digits = \"four\""),
        ("kind = \"seven-segment\"", "kind = \"seven\""),
        ("common = \"cathode\"", "common = \"cathod\""),
        ("method = \"scanned\"", "method = \"scaned\""),
        ("digit_switch = \"npn\"", "digit_switch = \"nnp\""),
        ("[controller]", "[controler]"),
    ] {
        assert!(gauge.contains(found), "{found}");
        let source = gauge.replacen(found, slip, 1);
        assert!(!marked(&source).is_empty(), "{slip}");
        // The reader says so too.
        assert!(Rig::read(&source).rig.is_none(), "{slip}");
    }
    assert!(!marked("name = \"nothing\"").is_empty(), "a rig has a face");
}

#[test]
fn a_list_is_no_table() {
    let source = LANDING[6].replace("supply = { volts = 5.0, amps = 0.5 }", "supply = [5.0, 0.5]");
    assert_eq!(marked(&source), ["/controller/supply"]);
    insta::assert_snapshot!(findings(&source, Severity::Error), @"error at `[5.0, 0.5]`: found a list; expected a table");
}

/// Values that a key may be given by mistake, or not.
fn value() -> impl Strategy<Value = &'static str> {
    select(vec![
        "4",
        "-1",
        "0.5",
        "true",
        "\"high\"",
        "\"npn\"",
        "[]",
        "[1, 2]",
        "{}",
        "{ a = 1 }",
        "\"\"",
        "\"100us\"",
    ])
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(512))]

    /// A line of a rig of the landing with another value, or another key: what the reader takes the schema allows.
    #[test]
    fn what_the_reader_takes_it_allows(rig in select(LANDING.to_vec()), line in 0..60_usize, value in value()) {
        let mut lines: Vec<String> = rig.lines().map(str::to_owned).collect();
        let line = line % lines.len();
        let Some((key, _)) = lines[line].split_once(" = ") else { return Ok(()) };
        lines[line] = format!("{key} = {value}");
        let source = lines.join("\n");
        if source.parse::<toml::Table>().is_ok() && Rig::read(&source).rig.is_some() {
            prop_assert_eq!(marked(&source), Vec::<String>::new(), "{}", source);
        }
    }
}

/// The schema of reels knows every act and describes every key, and allows what the reader reads.
#[test]
fn the_schema_of_reels() {
    let schema = reels::reel();
    assert!(jsonschema::draft202012::meta::is_valid(&schema));
    let validator = jsonschema::draft202012::new(&schema).unwrap();
    for source in crate::reels::SOUND {
        assert!(validator.is_valid(&json(source)), "{source}");
    }
    for source in [
        "[[track]]\n[[track.act]]\ncuont = { from = 0 }\n",
        "[[track]]\n[[track.act]]\ncount = { form = 0 }\n",
        "[[track]]\n[[track.act]]\ntext = { way = \"left\" }\n",
        "[[track]]\n[[track.act]]\ntext = { say = \"TEAL\", motion = \"run\" }\n",
        "name = 3\n[[track]]\nact = []\n",
        "loop = true\n",
    ] {
        assert!(!validator.is_valid(&json(source)), "{source}");
    }
    let acts =
        schema["properties"]["track"]["items"]["properties"]["act"]["items"]["oneOf"].as_array().unwrap();
    assert_eq!(acts.len(), 15);
    for act in acts {
        let name = act["title"].as_str().unwrap();
        for (key, value) in act["properties"][name]["properties"].as_object().unwrap() {
            assert!(value["description"].is_string(), "{name}.{key} is not described");
        }
    }
}

/// A typing error is marked at its own key, and not at the whole drive.
#[test]
fn a_mistake_in_a_drive_is_marked_at_its_place() {
    let rig = |drive: &str| {
        format!("[face.clock]\nkind = \"seven-segment\"\ndigits = 4\n[face.clock.drive]\n{drive}\n")
    };
    let sound = "method = \"tm1637\"\npins = { clock = 2, data = 3 }";
    assert_eq!(marked(&rig(sound)), [""; 0]);
    assert_eq!(marked(&rig(&format!("{sound}\nclock_hz = \"fast\""))), ["/face/clock/drive/clock_hz"]);
    let validator = validator();
    let typo = json(&rig(&format!("{sound}\nclok_hz = 9")));
    let errors: Vec<_> = validator.iter_errors(&typo).map(|error| error.to_string()).collect();
    assert!(errors.len() == 1 && errors[0].contains("clok_hz"), "{errors:?}");
    assert_eq!(marked(&rig("method = \"tm1673\"")), ["/face/clock/drive/method"]);
}

#[test]
fn hardware_as_built_may_leave_out_anything_and_no_slip_passes() {
    let validator = jsonschema::draft202012::new(&schema::built()).unwrap();
    for (source, sound) in [
        ("", true),
        ("[face.clock]\ncommon = \"cathode\"", true),
        ("[face.clock.drive]\npins = { clock = 2 }", true),
        ("[face.clock.drive]\nmethod = \"max7219\"\nmodules = { rotate = 90 }", true),
        ("[face.clock.drive]\nmethod = \"max7219\"\nmodulse = { rotate = 90 }", false),
        ("[face.clock]\ncomon = \"cathode\"", false),
    ] {
        assert_eq!(validator.is_valid(&json(source)), sound, "{source}");
    }
}

#[test]
fn unknown_keys_of_a_track_are_marked() {
    let validator = jsonschema::draft202012::new(&reels::reel()).unwrap();
    let track =
        |more: &str| json(&format!("[[track]]\nface = \"desk\"\n{more}\n[[track.act]]\nblank = {{}}\n"));
    assert!(validator.is_valid(&track("loop = true")));
    assert!(!validator.is_valid(&track("lop = true")));
}
