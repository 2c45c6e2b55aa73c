//! Rigs as values: what is read, built and written says the same.

use proptest::prelude::*;
use spare_tile_core::plan::Rig;
use spare_tile_core::rig::Document;
use spare_tile_core::rig::value::Value;

const RIGS: [&str; 4] = [
    include_str!("../../../cli/demo/quillmoor.toml"),
    include_str!("../../../cli/demo/gauge.toml"),
    include_str!("../../../cli/demo/desk.toml"),
    include_str!("../../../cli/demo/departures.toml"),
];

#[test]
fn a_file_its_value_and_the_file_of_that_make_the_same_rig() {
    for source in RIGS {
        let document = Document::read(source).unwrap();
        let written = document.to_string();
        assert_eq!(Document::read(&written).unwrap(), document);
        let rig = Rig::read(source).rig.unwrap();
        assert!(Rig::of(&document).rig.unwrap() == rig);
        assert!(Rig::read(&written).rig.unwrap() == rig);
    }
}

#[test]
fn findings_of_a_value_are_those_of_its_file() {
    let mut document = Document::read(RIGS[1]).unwrap();
    assert!(document.set(&["face", "gauge", "drive", "refresh_hz"], 1_000_000_i64));
    assert!(document.set(&["face", "gauge", "drive", "colour"], "green"));
    let words = |findings: &[spare_tile_core::rig::Finding]| {
        let mut words: Vec<_> = findings.iter().map(|finding| finding.trouble.to_string()).collect();
        words.sort();
        words
    };
    let found = words(&Rig::of(&document).findings);
    assert_eq!(found, words(&Rig::read(&document.to_string()).findings));
    assert!(found.iter().any(|words| words.contains("colour")), "{found:?}");
}

fn value() -> impl Strategy<Value = Value> {
    let leaf = prop_oneof![
        any::<String>().prop_map(Value::from),
        any::<i64>().prop_map(Value::from),
        (-1e9..1e9_f64).prop_map(Value::from),
        any::<bool>().prop_map(Value::from),
    ];
    leaf.prop_recursive(3, 24, 4, |inner| {
        let table = prop::collection::btree_map(any::<String>(), inner.clone(), 0..4);
        prop_oneof![prop::collection::vec(inner, 0..4).prop_map(Value::list), table.prop_map(Value::table)]
    })
}

proptest! {
    /// Whatever the keys and values, the text of a document is read as that document.
    #[test]
    fn any_document_is_written_and_read_again(
        face in any::<String>(),
        entries in prop::collection::btree_map(any::<String>(), value(), 0..6),
    ) {
        let mut document = Document::default();
        for (key, value) in entries {
            document.set(&["face", &face, &key], value.clone());
            document.set(&[&key], value);
        }
        let written = document.to_string();
        prop_assert_eq!(Document::read(&written).map_err(|_| TestCaseError::fail(written.clone()))?, document);
    }
}
