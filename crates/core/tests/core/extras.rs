//! Colons and lamps: wired anywhere, lit by a text, and read back from the picture.

use spare_tile_core::content::text::{Align, TextError};
use spare_tile_core::plan::Rig;
use spare_tile_core::rig::Severity;

use crate::common::{Powered, rig};

/// A clock of four digits whose colon is the point of its second digit, with two lamps on a line of their own.
fn clock() -> Rig {
    rig(r#"
        [face.clock]
        kind = "seven-segment"
        digits = 4
        colons = [{ after = 2, node = "digit2.dp" }]
        lamps = [{ name = "ebb", node = "digit4.a" }, { name = "flood", node = "digit4.g" }]
        [face.clock.drive]
        method = "max7219"
        pins = { data = 11, clock = 13, select = 10 }
        "#)
}

/// Returns the text of the face, and the light of its colon and lamps.
fn shown(rig: &Rig, words: &str, align: Align) -> Result<(String, Vec<bool>), TextError> {
    let face = &rig.faces[0].face;
    let mut powered = Powered::new(rig);
    powered.say(words, align)?;
    let picture = powered.picture();
    let extras = (0..face.extras.len()).map(|extra| picture.extra(extra) > 0.0).collect();
    Ok((picture.reading(), extras))
}

#[test]
fn clock_text_uses_the_face_s_colon_and_no_digit() {
    let clock = clock();
    assert_eq!(shown(&clock, "07:58", Align::Left), Ok(("07:58".into(), vec![true, false, false])));
    assert_eq!(shown(&clock, "0758", Align::Left), Ok(("0758".into(), vec![false; 3])));
    assert_eq!(shown(&clock, "7:58", Align::Right), Ok((" 7:58".into(), vec![true, false, false])));
    assert_eq!(
        shown(&clock, "07{colon2 flood}58", Align::Left),
        Ok(("07:58".into(), vec![true, false, true]))
    );
}

#[test]
fn the_colon_that_is_missing_is_named() {
    let missing = TextError::NoColon { after: 1, has: vec!["2".into()], position: 1 };
    assert_eq!(shown(&clock(), "7:58", Align::Left), Err(missing));
}

#[test]
fn a_colon_on_a_point_leaves_the_face_without_points() {
    assert!(!clock().faces[0].face.points);
    let shown = shown(&clock(), "0.75", Align::Left).unwrap();
    assert_eq!(shown.1, [false; 3], "a point does not light the colon");
}

#[test]
fn lamps_of_bare_digits_have_a_pin_each() {
    let berth = rig(r#"
        [face.berth]
        kind = "seven-segment"
        digits = 1
        common = "anode"
        lamps = [{ name = "free", node = "P1.0" }]
        [face.berth.drive]
        method = "static"
        segments = { a = 2, b = 3, c = 4, d = 5, e = 6, f = 7, g = 8 }
        "#);
    assert_eq!(shown(&berth, "2{free}", Align::Left), Ok(("2".into(), vec![true])));
    assert_eq!(shown(&berth, "2", Align::Left), Ok(("2".into(), vec![false])));
}

#[test]
fn nodes_that_are_taken_or_do_not_exist() {
    let told = |node: &str, second: &str| {
        let source = format!(
            r#"
            [face.clock]
            kind = "seven-segment"
            digits = 4
            lamps = [{{ name = "ebb", node = "{node}" }}, {{ name = "{second}", node = "digit7.b" }}]
            [face.clock.drive]
            method = "max7219"
            pins = {{ data = 11, clock = 13, select = 10 }}
            "#
        );
        let findings = Rig::read(&source).findings;
        let mut errors = findings.iter().filter(|finding| finding.severity == Severity::Error);
        errors.next().map(|error| error.trouble.to_string()).unwrap_or_default()
    };
    insta::assert_snapshot!(told("digit0.a", "flood"), @"node digit0.a is segment a of a digit");
    insta::assert_snapshot!(told("digit8.a", "flood"), @r#"found "digit8.a"; expected a node from "digit0.a" to "digit7.dp""#);
    insta::assert_snapshot!(told("part1.digit0.a", "flood"), @r#"found "part1.digit0.a"; expected a node from "digit0.a" to "digit7.dp""#);
    insta::assert_snapshot!(told("digit7.b", "flood"), @"node digit7.b is used by two lights");
    insta::assert_snapshot!(told("digit5.b", "ebb"), @"ebb is defined twice");
    insta::assert_snapshot!(told("digit5.b", "g"), @r#"found "g"; expected letters and digits, and no name of a segment"#);
}
