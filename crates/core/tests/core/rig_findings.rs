//! Findings about a rig file: the place, the found value, the allowed ones and the way out.

use std::fmt::Write;

use spare_tile_core::plan::Rig;
use spare_tile_core::rig::{Pin, Severity};

const DESK: &str = r#"
[face.desk]
kind = "seven-segment"
digits = 8
[face.desk.drive]
method = "max7219"
pins = { data = "GP19", clock = "GP18", select = "GP17" }
"#;

/// The findings of a rig, one a line: what stands at the place, the message, and the fix.
pub fn findings(source: &str, least: Severity) -> String {
    let mut text = String::new();
    for finding in Rig::read(source).findings.iter().filter(|finding| finding.severity <= least) {
        let place = source.get(finding.span.clone()).unwrap_or("beyond the file");
        let (severity, problem) = (finding.severity.name(), &finding.trouble);
        writeln!(text, "{severity} at `{place}`: {problem}").unwrap();
        if let Some((span, label)) = &finding.also {
            writeln!(text, "    also `{}`: {label}", &source[span.clone()]).unwrap();
        }
        if let Some(fix) = problem.fix() {
            writeln!(text, "    {fix}").unwrap();
        }
    }
    text
}

fn errors(source: &str) -> String {
    findings(source, Severity::Error)
}

fn desk_with(found: &str, replacement: &str) -> String {
    assert!(DESK.contains(found));
    errors(&DESK.replace(found, replacement))
}

#[test]
fn a_sound_rig_has_no_errors() {
    assert_eq!(errors(DESK), "");
}

#[test]
fn unknown_keys_are_all_reported_with_what_was_meant() {
    let source = DESK.replace("digits = 8", "digits = 8\ncolour = \"red\"\nlihgt = {}");
    insta::assert_snapshot!(errors(&source.replace("data =", "date =")), @r#"
    error at `colour`: unknown key 'colour'
        did you mean 'colours'? keys here: kind, digits, width, height, pitch_mm, colours, common, package, module, light, colons, lamps, buttons, glyphs, drive
    error at `lihgt`: unknown key 'lihgt'
        did you mean 'light'? keys here: kind, digits, width, height, pitch_mm, colours, common, package, module, light, colons, lamps, buttons, glyphs, drive
    error at `{ date = "GP19", clock = "GP18", select = "GP17" }`: the key 'data' is missing
        write 'data = ...' in this table
    error at `date`: unknown key 'date'
        did you mean 'data'? keys here: data, clock, select
    "#);
}

#[test]
fn unknown_names() {
    insta::assert_snapshot!(desk_with("max7219", "max7291"), @r#"
    error at `"max7291"`: unknown method 'max7291'
        did you mean 'max7219'? allowed: static, scanned, latched, shifted, expander, max7219, tm1637, tm1638, ht16k33, rgb-panel
    "#);
    insta::assert_snapshot!(desk_with("seven-segment", "sevensegment"), @r#"
    error at `"sevensegment"`: unknown value 'sevensegment'
        did you mean 'seven-segment'? allowed: seven-segment, fourteen-segment, sixteen-segment, dots
    "#);
    insta::assert_snapshot!(errors(&format!("[controller]\npart = \"rp2404\"\n{DESK}")), @r#"
    error at `"rp2404"`: unknown controller 'rp2404'
        did you mean 'rp2040'? allowed: atmega328p, atmega168, atmega2560, atmega32u4, attiny84, attiny85, mcs51, pic16f54, rp2040, rp2350, esp32, esp32s3, esp32c3, esp8266, nrf51822, nrf52833, samd21, stm32f103, stm32f205, linux
    "#);
}

#[test]
fn wrong_types_and_ranges() {
    insta::assert_snapshot!(desk_with("digits = 8", "digits = \"8\""), @r#"error at `"8"`: found the text "8"; expected a whole number"#);
    insta::assert_snapshot!(desk_with("digits = 8", "digits = 0"), @"error at `0`: found 0; expected a whole number from 1 to 64");
    insta::assert_snapshot!(desk_with("digits = 8", "digits = 65"), @"error at `65`: found 65; expected a whole number from 1 to 64");
    insta::assert_snapshot!(desk_with("digits = 8", "digits = 99999999999999999999"), @"error at `99999999999999999999`: found 99999999999999999999; expected a number that is not too large");
    insta::assert_snapshot!(desk_with("\"GP19\"", "[1, 2]"), @r#"error at `[1, 2]`: found a list; expected the name of a pin, such as "GP2" or 13"#);
    insta::assert_snapshot!(desk_with("\"GP19\"", "\"\""), @r#"error at `""`: found the text ""; expected the name of a pin, such as "GP2" or 13"#);
    insta::assert_snapshot!(errors(&format!("{DESK}brightness = 16")), @"error at `16`: found 16; expected a number from 0 to 15");
    insta::assert_snapshot!(errors(&format!("{DESK}brightness = 300")), @"error at `300`: found 300; expected a whole number from 0 to 255");
    insta::assert_snapshot!(errors(&format!("{DESK}clock_hz = 0")), @"error at `0`: found 0; expected a number from 1 to 10000000");
    insta::assert_snapshot!(errors(&format!("{DESK}clock_hz = 10_000_001")), @"error at `10_000_001`: found 10000001; expected a number from 1 to 10000000");
    insta::assert_snapshot!(errors(&format!("{DESK}digit_0 = \"top\"")), @r#"
    error at `"top"`: unknown value 'top'
        allowed: left, right
    "#);
    insta::assert_snapshot!(errors(&format!("{DESK}segments = \"dp a b c d e f\"")), @r#"error at `"dp a b c d e f"`: segment g is missing from the bit order; write each of a b c d e f g dp once"#);
}

#[test]
fn something_missing() {
    insta::assert_snapshot!(errors(""), @"
    error at ``: the rig has no face
        write a table [face.NAME] with kind, digits and a [face.NAME.drive]
    ");
    insta::assert_snapshot!(errors("[face]"), @"
    error at `[face]`: the rig has no face
        write a table [face.NAME] with kind, digits and a [face.NAME.drive]
    ");
    insta::assert_snapshot!(errors("face = 3"), @"error at `3`: found 3; expected a table of faces");
    insta::assert_snapshot!(desk_with("kind = \"seven-segment\"", ""), @r#"
    error at `[face.desk]`: the key 'kind' is missing
        write the kind of display, such as kind = "seven-segment"
    "#);
    insta::assert_snapshot!(desk_with("method = \"max7219\"", ""), @r#"
    error at `[face.desk.drive]`: the key 'method' is missing
        write method = "..."; the methods: static, scanned, latched, shifted, expander, max7219, tm1637, tm1638, ht16k33, rgb-panel
    "#);
    insta::assert_snapshot!(desk_with(", select = \"GP17\"", ""), @r#"
    error at `{ data = "GP19", clock = "GP18" }`: the key 'select' is missing
        write 'select = ...' in this table
    "#);
    insta::assert_snapshot!(errors("[face.desk]\nkind = \"seven-segment\"\ndigits = 8"), @"
    error at `[face.desk]`: the key 'drive' is missing
        write a table [face.NAME.drive] with a method
    ");
}

#[test]
fn a_text_that_is_not_toml() {
    insta::assert_snapshot!(errors("[face.desk\ndigits = 8"), @"error at ``: this is not TOML: unclosed table, expected `]`");
    insta::assert_snapshot!(errors("digits = 8\ndigits = 9"), @"error at `digits`: this is not TOML: duplicate key");
}

#[test]
fn a_pin_serves_one_line() {
    let gauge = DESK.replace("desk", "gauge").replace("GP19", "gp18").replace("\"GP18\"", "\"GP10\"");
    insta::assert_snapshot!(errors(&format!("{DESK}{gauge}")), @r#"
    error at `"gp18"`: pin gp18 is used twice: it is clock of face desk and data of face gauge
        also `"GP18"`: here it is clock of face desk
        give each line a pin of its own
    error at `"GP17"`: pin GP17 is used twice: it is select of face desk and select of face gauge
        also `"GP17"`: here it is select of face desk
        give each line a pin of its own
    "#);
}

#[test]
fn static_wants_one_digit_its_common_side_and_every_segment() {
    let berth = r#"
        [face.berth]
        kind = "seven-segment"
        digits = 1
        common = "anode"
        [face.berth.drive]
        method = "static"
        segments = { a = 2, b = 3, c = 4, d = 5, e = 6, f = 7, g = 8, dp = 9 }
    "#;
    assert_eq!(errors(berth), "");
    insta::assert_snapshot!(errors(&berth.replace("common = \"anode\"", "")), @r#"
    error at `[face.berth]`: the key 'common' is missing
        write common = "cathode" or common = "anode": the wrong one lights every segment that should be dark
    "#);
    insta::assert_snapshot!(errors(&berth.replace("digits = 1", "digits = 2")), @"
    error at `{ a = 2, b = 3, c = 4, d = 5, e = 6, f = 7, g = 8, dp = 9 }`: the segments of one digit are wired; the face has 2 digits
        write one for each, from left to right, or from top to bottom
    ");
    insta::assert_snapshot!(errors(&berth.replace(", g = 8", ", h = 8")), @"
    error at `{ a = 2, b = 3, c = 4, d = 5, e = 6, f = 7, h = 8, dp = 9 }`: segment g has no wire
        wire segment g, or the segment will be missing in every character
    error at `h`: unknown segment 'h'
        allowed: a, b, c, d, e, f, g, dp
    ");
    insta::assert_snapshot!(errors(&berth.replace("g = 8", "g = 2")), @"
    error at `2`: pin 2 is used twice: it is a of face berth and g of face berth
        also `2`: here it is a of face berth
        give each line a pin of its own
    ");
}

#[test]
fn levels_and_supplies_that_the_part_does_not_take() {
    let weak = format!("[controller]\npart = \"esp32\"\nsupply = {{ volts = 3.3 }}\n{DESK}");
    insta::assert_snapshot!(findings(&weak, Severity::Warning), @r#"
    warning at `{ volts = 3.3 }`: the supply is 3.3 V; the max7219 needs 4 V to 5.5 V
        feed the display from 4 V to 5.5 V
    warning at `[face.desk.drive]`: the bus is at 3.3 V; at this supply the max7219 needs 3.5 V for a reliable high
        put a level converter in between and write bus_volts = 5.0; without one it may seem to work, and glitch
    warning at `"GP17"`: pin GPIO17 is used by usual boards themselves, or not led out
        choose another pin, or make sure that it is free on your board
    "#);
    insta::assert_snapshot!(findings(&DESK.replace("digits = 8", "digits = 2"), Severity::Warning), @"
    warning at `[face.desk.drive]`: the max7219 gives each segment 45.7 mA; while it scans only 2 digits, 20 mA is the most, or it overheats
        take 33 kilohm or more for RSET and write rset_ohms = 33000
    ");
    insta::assert_snapshot!(desk_with("digits = 8", "digits = 8\ncommon = \"anode\""), @r#"
    error at `"anode"`: the max7219 drives digits with common cathode
        use digits with common cathode and write common = "cathode"
    "#);
}

#[test]
fn what_was_assumed_is_noted() {
    insta::assert_snapshot!(findings(DESK, Severity::Note), @r#"
    note at ``: assumed controller.supply.volts = 5
    note at ``: assumed controller.logic_volts = 5
    note at `[face.desk]`: assumed face.desk.light.colour = "red"
    note at `[face.desk]`: assumed face.desk.common = "cathode"
    note at `[face.desk.drive]`: assumed face.desk.drive.clock_hz = 1000000
    note at `[face.desk.drive]`: assumed face.desk.drive.bus_volts = 5
    note at `[face.desk.drive]`: assumed face.desk.drive.brightness = 8
    note at `[face.desk.drive]`: assumed face.desk.drive.rset_ohms = 10000
    note at `[face.desk.drive]`: assumed face.desk.drive.digit_0 = "right"
    note at `[face.desk.drive]`: assumed face.desk.drive.first = "right"
    note at `[face.desk.drive]`: assumed face.desk.drive.segments = "dp a b c d e f g"
    note at `[face.desk.drive]`: assumed face.desk.drive.decode = "none"
    "#);
}

/// A rig may override what is known of a controller.
#[test]
fn a_known_controller_may_be_overridden() {
    let read = |keys: &str| {
        let source = format!(
            "[controller]\npart = \"atmega328p\"\n{keys}\n[face.clock]\nkind = \"seven-segment\"\ndigits = 4\n\
             [face.clock.drive]\nmethod = \"tm1637\"\npins = {{ clock = \"PD2\", data = \"PD3\" }}\n"
        );
        Rig::read(&source).rig.unwrap().controller.facts.unwrap()
    };
    assert_eq!(read("").clock_hz, Some(16_000_000));
    let own = read("clock_hz = 8_000_000\nram_bytes = 1_024\nfive_volt_tolerant = true");
    assert_eq!((own.clock_hz, own.ram_bytes, own.flash_bytes), (Some(8_000_000), Some(1_024), Some(32_768)));
    assert!(own.stands_five_volts(&Pin::parse("PD2").unwrap()));
}

/// The parser calls itself at each bracket, and would overflow the stack.
#[test]
fn brackets_that_are_nested_too_deep_are_refused() {
    for open in ["[", "{ a = ", "[{ a = ", "{ ] a = \n[[track]]\n"] {
        let source = format!("face = {}", open.repeat(20_000));
        let found = errors(&source);
        assert!(found.contains("lists and tables are nested more than 64 deep"), "{found}");
    }
    assert!(!errors(&format!("face = \"{}\"\n# {}", "[".repeat(200), "{".repeat(200))).contains("nested"));
}
