//! Findings about the rig of a bare display.

use spare_tile_core::plan::Rig;
use spare_tile_core::rig::Severity;

use crate::rig_findings::findings;

const GAUGE: &str = r#"
[controller]
part = "rp2040"
[face.gauge]
kind = "seven-segment"
digits = 4
common = "cathode"
light = { colour = "red", forward_volts = 1.9 }
package = "quad-12"
[face.gauge.drive]
method = "scanned"
segments = { a = "GP2", b = "GP3", c = "GP4", d = "GP5", e = "GP6", f = "GP7", g = "GP8", dp = "GP9" }
digits = ["GP10", "GP11", "GP12", "GP13"]
digit_switch = "npn"
resistor = { ohms = 220, in = "segments" }
"#;

fn with(changes: &[(&str, &str)]) -> String {
    let changed = changes.iter().fold(GAUGE.to_owned(), |source, (found, replacement)| {
        assert!(source.contains(found), "{found}");
        source.replace(found, replacement)
    });
    findings(&changed, Severity::Warning)
}

#[test]
fn a_sound_gauge() {
    assert_eq!(with(&[]), "");
}

#[test]
fn pins_that_are_not_there_or_have_another_duty() {
    insta::assert_snapshot!(with(&[("\"GP2\"", "\"GP30\"")]), @r#"
    error at `"GP30"`: the controller has no pin GP30; its pins are GP0 to GP29, or a board's GPIO0 to GPIO29
        write the pin as its data sheet or its board names it
    "#);
    insta::assert_snapshot!(with(&[("\"GP2\"", "\"GPIO3\"")]), @r#"
    error at `"GP3"`: pin GP3 is used twice: it is a of face gauge and b of face gauge
        also `"GPIO3"`: here it is a of face gauge
        give each line a pin of its own
    "#);
    insta::assert_snapshot!(
        with(&[
            ("rp2040", "esp32"),
            ("\"GP2\"", "34"),
            ("\"GP3\"", "6"),
            ("\"GP4\"", "1"),
            ("\"GP5\"", "2"),
            ("\"GP6\"", "16"),
            ("\"GP8\"", "18"),
            ("\"GP7\"", "17"),
            ("\"GP9\"", "19"),
            ("\"GP10\", \"GP11\", \"GP12\", \"GP13\"", "21, 22, 23, 25"),
        ]),
        @"
    error at `34`: pin GPIO34 is an input only and drives nothing
        choose another pin
    error at `6`: pin GPIO6 belongs to the flash memory that holds the program
        choose another pin
    warning at `1`: pin GPIO1 is the serial port through which programs are uploaded
        choose another pin, or take the wire off while a program is uploaded
    warning at `2`: pin GPIO2 is read at start-up and chooses how the controller starts
        choose another pin, or make sure that the display leaves its level alone at start-up
    warning at `16`: pin GPIO16 is used by usual boards themselves, or not led out
        choose another pin, or make sure that it is free on your board
    warning at `17`: pin GPIO17 is used by usual boards themselves, or not led out
        choose another pin, or make sure that it is free on your board
    "
    );
}

#[test]
fn segments_and_digits_without_wire_and_wires_without_light() {
    insta::assert_snapshot!(with(&[("c = \"GP4\", ", "")]), @r#"
    error at `{ a = "GP2", b = "GP3", d = "GP5", e = "GP6", f = "GP7", g = "GP8", dp = "GP9" }`: segment c has no wire
        wire segment c, or the segment will be missing in every character
    "#);
    insta::assert_snapshot!(with(&[("\"GP13\"]", "\"GP13\", \"GP14\"]")]), @r#"
    warning at `["GP10", "GP11", "GP12", "GP13", "GP14"]`: digit 4 is wired and lights nothing
        take the wire out, or give the face what it is for
    "#);
    insta::assert_snapshot!(with(&[(", \"GP13\"]", "]")]), @r#"
    error at `["GP10", "GP11", "GP12"]`: 3 digits are wired; the face has 4
        write one for each, from left to right, or from top to bottom
    "#);
    insta::assert_snapshot!(with(&[("b = \"GP3\"", "b = \"GP2\"")]), @r#"
    error at `"GP2"`: pin GP2 is used twice: it is a of face gauge and b of face gauge
        also `"GP2"`: here it is a of face gauge
        give each line a pin of its own
    "#);
    insta::assert_snapshot!(with(&[("dp = \"GP9\"", "h = \"GP9\"")]), @"
    error at `h`: unknown segment 'h'
        allowed: a, b, c, d, e, f, g, dp
    ");
}

#[test]
fn the_select_levels_of_the_other_kind() {
    let straight = ("digit_switch = \"npn\"", "digits_active = \"high\"");
    insta::assert_snapshot!(with(&[straight, ("220", "1000")]), @r#"
    error at `"high"`: common cathode, digits straight at the pins: a digit is selected by a low level; "high" would be right for common anode
        write common = "anode" if that is what you have, or digits_active = "low", or name the switch between: digit_switch = "npn"
    "#);
    let as_anode = with(&[straight, ("220", "1000"), ("\"cathode\"", "\"anode\"")]);
    assert_eq!(as_anode, "");
}

#[test]
fn a_package_that_contradicts_the_list() {
    let package_pins = "package_pins = { 1 = \"GP6\", 2 = \"GP5\", 3 = \"GP9\", 4 = \"GP4\", 5 = \"GP8\", 6 = \"GP10\", \
                        7 = \"GP3\", 8 = \"GP11\", 9 = \"GP12\", 10 = \"GP7\", 11 = \"GP2\", 12 = \"GP13\" }";
    let segments = "segments = { a = \"GP2\", b = \"GP3\", c = \"GP4\", d = \"GP5\", e = \"GP6\", f = \"GP7\", g = \"GP8\", dp = \"GP9\" }";
    insta::assert_snapshot!(with(&[(segments, package_pins)]), @r#"
    error at `["GP10", "GP11", "GP12", "GP13"]`: the digits stand in mirrored order: by its package the leftmost is at GP13, here it is at GP10
        turn the list round: digits are written from left to right as seen
    "#);
    let one_off =
        package_pins.replace("9 = \"GP12\"", "9 = \"GP14\"").replace("8 = \"GP11\"", "8 = \"GP12\"");
    insta::assert_snapshot!(with(&[(segments, &one_off)]), @r#"
    error at `["GP10", "GP11", "GP12", "GP13"]`: digit 0 is at GP13 by its package and at GP10 here
        one of the two is wrong: follow the wire and mend it
    "#);
    insta::assert_snapshot!(with(&[(segments, &package_pins.replace("12 =", "13 ="))]), @"
    error at `13`: the package quad-12 has no pin 13
        pins are numbered from 1, counter-clockwise from the lower left
    ");
    insta::assert_snapshot!(with(&[("quad-12", "quad-14")]), @r#"
    error at `"quad-14"`: unknown package 'quad-14'
        did you mean 'quad-12'? allowed: single-10, quad-12, dots-16
    "#);
    insta::assert_snapshot!(with(&[("quad-12", "dots-16")]), @r#"
    error at `"dots-16"`: the package dots-16 has row4, which this face does not have
        choose the package of this display, or list its pins yourself: package = ["e", "d", ...]
    "#);
    insta::assert_snapshot!(with(&[("\"quad-12\"", "[\"a\", \"h\"]")]), @r#"error at `"h"`: found "h"; expected a segment, digit0, row0, column0, common, or - for nothing"#);
}

#[test]
fn currents_and_voltages() {
    insta::assert_snapshot!(with(&[("resistor = { ohms = 220, in = \"segments\" }", "")]), @r#"
    warning at `[face.gauge.drive]`: no resistor is given: nothing in the rig limits the current
        write resistor = { ohms = 220, in = "segments" }, with your value
    "#);
    insta::assert_snapshot!(with(&[("220", "68")]), @r#"
    warning at `{ ohms = 68, in = "segments" }`: the output of a, like every line, carries 17.6 mA; the most for it is 12 mA
        take a larger resistor, or put switches between: digit_switch or segment_switch, "npn" or "pnp"
    warning at `{ ohms = 68, in = "segments" }`: the pins of the rp2040 carry 141 mA together; 50 mA is the most
        take larger resistors, or feed the lights through switches or a driver part
    "#);
    insta::assert_snapshot!(with(&[("\"segments\" }", "\"digits\" }")]), @r#"
    warning at `{ ohms = 220, in = "digits" }`: the lights of a digit share one resistor: a 1 is 3.5 times as bright as an 8
        put a resistor in the line of each segment
    "#);
    insta::assert_snapshot!(with(&[("digit_switch = \"npn\"", "")]), @r#"
    warning at `{ ohms = 220, in = "segments" }`: the output of digit 0, like every select, carries 50.9 mA; the most for it is 12 mA
        take a larger resistor, or put switches between: digit_switch or segment_switch, "npn" or "pnp"
    warning at `{ ohms = 220, in = "segments" }`: the pins of the rp2040 carry 50.9 mA together; 50 mA is the most
        take larger resistors, or feed the lights through switches or a driver part
    "#);
    insta::assert_snapshot!(with(&[("1.9", "3.2")]), @r#"
    error at `{ a = "GP2", b = "GP3", c = "GP4", d = "GP5", e = "GP6", f = "GP7", g = "GP8", dp = "GP9" }`: 3.3 V is not enough for a light of 3.2 V and 0.2 V across switches: it stays dark
        feed the lights from a higher supply through switches, or take lights of a lower forward voltage
    "#);
    insta::assert_snapshot!(with(&[("\"cathode\"", "\"anode\""), ("\"npn\"", "\"pnp\"")]), @r#"
    warning at `["GP10", "GP11", "GP12", "GP13"]`: a dark segment has 1.7 V across it, from the 5 V supply to a pin at 3.3 V, and 1.9 V light it: segments that should be dark may glow, and the pin is pulled above its own supply
        feed the common side from the controller's own supply, or put switches or a register between
    warning at `["GP10", "GP11", "GP12", "GP13"]`: a pnp switch at 5 V cannot be switched off by 3.3 V: it keeps conducting
        drive it through a small npn or nmos and write { kind = "pnp", active = "high" }, or feed the lights from the controller's own supply
    warning at `{ ohms = 220, in = "segments" }`: the output of a, like every line, carries 13.2 mA; the most for it is 12 mA
        take a larger resistor, or put switches between: digit_switch or segment_switch, "npn" or "pnp"
    warning at `{ ohms = 220, in = "segments" }`: the pins of the rp2040 carry 105 mA together; 50 mA is the most
        take larger resistors, or feed the lights through switches or a driver part
    "#);
    insta::assert_snapshot!(
        with(&[("part = \"rp2040\"", "supply = { volts = 5.0, amps = 0.01 }\nlimits = { pin = 4, total = 20 }")]),
        @r#"
    warning at `{ volts = 5.0, amps = 0.01 }`: with everything lit the faces take 105 mA together; the supply gives 10 mA
        take a supply that gives more, larger resistors, or a lower brightness
    warning at `{ ohms = 220, in = "segments" }`: the output of a, like every line, carries 13.2 mA; the most for it is 4 mA
        take a larger resistor, or put switches between: digit_switch or segment_switch, "npn" or "pnp"
    warning at `{ ohms = 220, in = "segments" }`: the output of digit 0, to the base of its switch, carries 5.3 mA; the most for it is 4 mA
        take nmos or pmos switches, whose gates take no current, or a larger resistor
    warning at `{ ohms = 220, in = "segments" }`: the pins of the controller carry 105 mA together; 20 mA is the most
        take larger resistors, or feed the lights through switches or a driver part
    "#
    );
}

#[test]
fn ports_that_give_next_to_nothing() {
    let port = GAUGE.replace("rp2040", "mcs51");
    let port = port.split("segments =").next().unwrap().to_owned()
        + "segments = \"P1: dp g f e d c b a\"\ndigits = [\"P2.0\", \"P2.1\", \"P2.2\", \"P2.3\"]\n\
           resistor = { ohms = 1000, in = \"segments\" }\n";
    insta::assert_snapshot!(findings(&port, Severity::Warning), @r#"
    warning at `"P1: dp g f e d c b a"`: the mcs51 gives 0.1 mA at a high level: lights with a common cathode stay dark
        use a display with common anode, which the pins only have to pull low, or put a buffer between
    warning at `{ ohms = 1000, in = "segments" }`: the output of a, like every line, carries 3.1 mA; the most for it is 0.1 mA
        take a larger resistor, or put switches between: digit_switch or segment_switch, "npn" or "pnp"
    warning at `{ ohms = 1000, in = "segments" }`: the output of digit 0, like every select, carries 24.8 mA; the most for it is 10 mA
        take a larger resistor, or put switches between: digit_switch or segment_switch, "npn" or "pnp"
    warning at `{ ohms = 1000, in = "segments" }`: port P1 sources 24.8 mA in all; the most for it is 15 mA
        take a larger resistor, or put switches between: digit_switch or segment_switch, "npn" or "pnp"
    warning at `{ ohms = 1000, in = "segments" }`: port P2 sinks 24.8 mA in all; the most for it is 15 mA
        take a larger resistor, or put switches between: digit_switch or segment_switch, "npn" or "pnp"
    "#);
    let anode = port.replace("\"cathode\"", "\"anode\"").replace("1000", "220") + "digit_switch = \"pnp\"\n";
    insta::assert_snapshot!(findings(&anode, Severity::Warning), @r#"
    warning at `{ ohms = 220, in = "segments" }`: the output of a, like every line, carries 13.2 mA; the most for it is 10 mA
        take a larger resistor, or put switches between: digit_switch or segment_switch, "npn" or "pnp"
    warning at `{ ohms = 220, in = "segments" }`: port P1 sinks 105 mA in all; the most for it is 15 mA
        take a larger resistor, or put switches between: digit_switch or segment_switch, "npn" or "pnp"
    warning at `{ ohms = 220, in = "segments" }`: the pins of the mcs51 carry 105 mA together; 71 mA is the most
        take larger resistors, or feed the lights through switches or a driver part
    "#);
}

#[test]
fn times_without_sense() {
    insta::assert_snapshot!(with(&[("digit_switch", "blanking = \"3ms\"\ndigit_switch")]), @r#"error at `"3ms"`: found a blanking of 3 ms; expected less than a slot, which at 120 Hz is 2.08 ms"#);
    insta::assert_snapshot!(with(&[("digit_switch", "blanking = \"3 moons\"\ndigit_switch")]), @r#"error at `"3 moons"`: found 3 moons; expected a duration, such as "30us""#);
    insta::assert_snapshot!(with(&[("digit_switch", "refresh_hz = 0\ndigit_switch")]), @"error at `0`: found 0; expected a number from 1 to 100000");
    insta::assert_snapshot!(with(&[("\"npn\"", "{ kind = \"npn\", drop = 1 }")]), @r#"
    error at `{ kind = "npn", drop = 1 }`: unknown key 'drop'
        did you mean 'drop_volts'? keys here: kind, active, drop_volts, turn_off, most_ma
    "#);
}

const PARTS: &str = r#"
[face.tide]
kind = "seven-segment"
digits = 2
common = "anode"
[face.tide.drive]
method = "latched"
data = "P0"
latches = [{ latch_enable = "P2.0" }, { latch_enable = "P2.1" }]
resistor = { ohms = 1000, in = "segments" }
[face.minutes]
kind = "seven-segment"
digits = 1
common = "cathode"
[face.minutes.drive]
method = "shifted"
pins = { data = 1, clock = 2, latch = 3 }
resistor = { ohms = 1000, in = "segments" }
[face.crew]
kind = "seven-segment"
digits = 1
common = "anode"
[face.crew.drive]
method = "expander"
part = "pcf8574"
pins = { data = 4, clock = 5 }
addresses = [0x20]
resistor = { ohms = 1000, in = "segments" }
"#;

fn parts_with(found: &str, replacement: &str) -> String {
    assert!(PARTS.contains(found), "{found}");
    findings(&PARTS.replacen(found, replacement, 1), Severity::Warning)
}

#[test]
fn control_pins_that_are_forgotten() {
    assert_eq!(findings(PARTS, Severity::Warning), "");
    insta::assert_snapshot!(parts_with("\"P2.0\" }", "\"P2.0\", output_enable = \"high\" }"), @r#"
    warning at `"high"`: 74hc573 latch 0: OE is tied high: its outputs are off and the display stays dark
        tie OE to ground: output_enable = "low", or drive it from a pin
    "#);
    insta::assert_snapshot!(parts_with("\"P2.1\" }", "\"open\", output_enable = \"open\" }"), @r#"
    warning at `"open"`: 74hc573 latch 1: LE is left open: a floating pin may let data in at any time, or never: here the picture is frozen
        drive LE from a pin of its own: latch_enable = "PIN"; for a plain buffer tie it to "high"
    warning at `"open"`: 74hc573 latch 1: OE is left open: a floating pin may be low or high at any time, and with it the display dark
        tie OE to ground: output_enable = "low", or drive it from a pin
    "#);
    insta::assert_snapshot!(parts_with("\"P2.1\" }", "\"high\" }"), @r#"
    warning at `"high"`: 74hc573 latch 1: LE is tied high: it follows everything on the shared port, the other latches' data too
        drive LE from a pin of its own: latch_enable = "PIN"; for a plain buffer tie it to "high"
    "#);
    insta::assert_snapshot!(parts_with("latch = 3 }", "latch = 3 }\nclear = \"low\"\noutput_enable = \"open\""), @r#"
    warning at `"low"`: every 74hc595: SRCLR is tied low: it is cleared all the time and never holds anything
        tie SRCLR to the supply: clear = "high"
    warning at `"open"`: every 74hc595: OE is left open: a floating pin may be low or high at any time, and with it the display dark
        tie OE to ground: output_enable = "low", or drive it from a pin
    "#);
}

#[test]
fn addresses_and_outputs_that_are_not_there() {
    insta::assert_snapshot!(parts_with("[0x20]", "[0x30]"), @"
    error at `0x30`: the pcf8574 cannot have the address 0x30; it answers at 0x20 to 0x27, the A variant at 0x38 to 0x3F
        set the straps of the part and write the address that they make
    ");
    insta::assert_snapshot!(parts_with("[0x20]", "[0x20, 0x20]"), @"
    error at `0x20`: address 0x20 is used by two parts
        also `0x20`: here it is a part of face crew
        strap each part to an address of its own
    ");
    insta::assert_snapshot!(parts_with("[0x20]", "[]"), @"
    error at `[]`: no addresses are wired; the face has one for each part
        write one for each, from left to right, or from top to bottom
    ");
    insta::assert_snapshot!(parts_with("\"pcf8574\"", "\"pcf8575\""), @r#"
    error at `"pcf8575"`: unknown expander 'pcf8575'
        did you mean 'pcf8574'? allowed: pcf8574, mcp23017
    "#);
    insta::assert_snapshot!(parts_with(", { latch_enable = \"P2.1\" }", ""), @r#"
    error at `[face.tide.drive]`: the face takes 2 latches; the rig has 1
        add latches: latches = [{ latch_enable = "PIN" }, ...]
    "#);
    insta::assert_snapshot!(parts_with("part = \"pcf8574\"", "part = \"pcf8574\"\nclock_hz = 400_000"), @"error at `400_000`: found 400000; expected a number from 1 to 100000");
    insta::assert_snapshot!(parts_with("\"anode\"\n[face.crew.drive]", "\"cathode\"\n[face.crew.drive]"), @r#"
    error at `"cathode"`: the pcf8574 drives digits with common anode
        use digits with common anode and write common = "anode"
    warning at `{ ohms = 1000, in = "segments" }`: the output of a, like every line, carries 3.1 mA; the most for it is 0.1 mA
        take a larger resistor, or put switches between: digit_switch or segment_switch, "npn" or "pnp"
    "#);
    insta::assert_snapshot!(parts_with("data = \"P0\"", "data = [1, 2]"), @"error at `[1, 2]`: found a different number of pins; expected eight pins, D0 to D7");
}

/// Logic parts at 5 V want 3.5 V for a high: a 3.3 V controller is below that.
#[test]
fn levels_that_logic_parts_do_not_take_for_sure() {
    for (part, drive) in [
        ("74hc595", "method = \"shifted\"\npins = { data = 1, clock = 2, latch = 3 }"),
        (
            "74hc573",
            "method = \"latched\"\ndata = [1, 2, 3, 4, 5, 6, 7, 8]\nlatches = [{ latch_enable = 9 }]",
        ),
        (
            "mcp23017",
            "method = \"expander\"\npart = \"mcp23017\"\npins = { data = 1, clock = 2 }\naddresses = [0x20]",
        ),
    ] {
        let found = |supply: f64, more: &str| {
            findings(
                &format!(
                    "[controller]\nlogic_volts = 3.3\nsupply = {{ volts = {supply} }}\n[face.berth]\nkind = \"seven-segment\"\n\
                     digits = 1\ncommon = \"cathode\"\n[face.berth.drive]\n{drive}\nresistor = {{ ohms = 1000 }}\n{more}\n"
                ),
                Severity::Warning,
            )
        };
        let least = if part == "mcp23017" { "4 V" } else { "3.5 V" };
        let warning =
            format!("the bus is at 3.3 V; at this supply the {part} needs {least} for a reliable high");
        assert!(found(5.0, "").contains(&warning), "{}", found(5.0, ""));
        assert_eq!(found(5.0, "bus_volts = 5.0"), "");
        assert_eq!(found(3.3, ""), "");
        // More than the part stands is an error.
        let reading = Rig::read(&format!(
            "[controller]\nlogic_volts = 12.0\nsupply = {{ volts = 12.0 }}\n[face.berth]\nkind = \"seven-segment\"\n\
             digits = 1\ncommon = \"cathode\"\n[face.berth.drive]\n{drive}\nresistor = {{ ohms = 3300 }}\n"
        ));
        let errors = reading.findings.iter().filter(|finding| finding.severity == Severity::Error);
        let errors: Vec<_> = errors.map(|finding| finding.trouble.to_string()).collect();
        assert!(errors.iter().any(|error| error.contains("the supply is 12 V; the")), "{errors:?}");
    }
}

/// The errors of a digit with this package.
fn of_package(digits: usize, package: &str) -> Vec<String> {
    let (drive, segments) = match digits {
        1 => ("static", "segments = { a = 2, b = 3, c = 4, d = 5, e = 6, f = 7, g = 8 }"),
        _ => ("scanned", "segments = { a = 2, b = 3, c = 4, d = 5, e = 6, f = 7, g = 8 }\ndigits = [9, 10]"),
    };
    let source = format!(
        "[face.berth]\nkind = \"seven-segment\"\ndigits = {digits}\ncommon = \"cathode\"\npackage = {package}\n\
         [face.berth.drive]\nmethod = \"{drive}\"\n{segments}\nresistor = {{ ohms = 470 }}\n"
    );
    let findings = Rig::read(&source).findings;
    let errors = findings.iter().filter(|finding| finding.severity == Severity::Error);
    errors.map(|finding| finding.trouble.to_string()).collect()
}

#[test]
fn a_package_has_every_function_as_often_as_it_can() {
    const WHOLE: &str = r#"["e", "d", "common", "c", "dp", "b", "a", "common", "f", "g"]"#;
    assert_eq!(of_package(1, WHOLE), [""; 0]);
    assert_eq!(of_package(1, &WHOLE.replace("\"dp\"", "\"-\"")), [""; 0], "a display without a point");
    for (package, told) in [
        (
            WHOLE.replace("\"g\"", "\"f\""),
            vec!["the package own has f at 2 pins", "the package own has no pin for g"],
        ),
        (WHOLE.replace("\"g\"", "\"-\""), vec!["the package own has no pin for g"]),
        (
            WHOLE.replace(", \"f\", \"g\"", ""),
            vec!["the package own has no pin for f", "the package own has no pin for g"],
        ),
        (WHOLE.replace("common", "-"), vec!["the package own has no pin for common"]),
        (
            WHOLE.replace("\"g\"", "\"digit0\""),
            vec!["the package own has digit0, which this face does not have"],
        ),
    ] {
        assert_eq!(of_package(1, &package), told, "{package}");
    }
    // Digits that are scanned together share a package with a pin for each.
    const TWO: &str = r#"["e", "d", "dp", "c", "g", "b", "digit1", "f", "a", "digit0"]"#;
    assert_eq!(of_package(2, TWO), [""; 0]);
    assert_eq!(of_package(2, WHOLE), ["the package own has common, which this face does not have"]);
    assert_eq!(of_package(2, &TWO.replace("digit1", "-")), ["the package own has no pin for digit1"]);
}
