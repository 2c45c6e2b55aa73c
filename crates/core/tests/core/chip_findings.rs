//! Findings about the rig of a driver chip.

use spare_tile_core::rig::Severity;

use crate::rig_findings::findings;

const DESK: &str = r#"
[controller]
supply = { volts = 5.0, amps = 1.0 }
logic_volts = 5.0
[face.desk]
kind = "seven-segment"
digits = 8
light = { colour = "red", forward_volts = 2.0, milliamps = 20 }
buttons = [{ name = "call1", node = "byte0.bit0" }]
[face.desk.drive]
method = "tm1638"
pins = { clock = 1, data = 2, strobe = 3 }
[face.clock]
kind = "seven-segment"
digits = 4
[face.clock.drive]
method = "tm1637"
pins = { clock = 1, data = 4 }
[face.sign]
kind = "fourteen-segment"
digits = 4
[face.sign.drive]
method = "ht16k33"
pins = { clock = 5, data = 6 }
addresses = [0x70]
[face.crew]
kind = "seven-segment"
digits = 4
light = { colour = "red", forward_volts = 2.0, milliamps = 20 }
[face.crew.drive]
method = "max7219"
pins = { clock = 7, data = 8, select = 9 }
rset_ohms = 28_000
"#;

fn with(found: &str, replacement: &str) -> String {
    assert!(DESK.contains(found), "{found}");
    findings(&DESK.replacen(found, replacement, 1), Severity::Warning)
}

#[test]
fn parts_may_share_a_clock() {
    assert_eq!(findings(DESK, Severity::Warning), "");
}

#[test]
fn pins_and_addresses_that_clash() {
    insta::assert_snapshot!(with("clock = 1, data = 4", "clock = 1, data = 3"), @"
    error at `3`: pin 3 is used twice: it is strobe of face desk and data of face clock
        also `3`: here it is strobe of face desk
        give each line a pin of its own
    ");
    insta::assert_snapshot!(with("clock = 5, data = 6", "clock = 2, data = 1"), @"
    error at `2`: pin 2 is used twice: it is data of face desk and clock of face sign
        also `2`: here it is data of face desk
        give each line a pin of its own
    error at `1`: pin 1 is used twice: it is clock of face desk and data of face sign
        also `1`: here it is clock of face desk
        give each line a pin of its own
    ");
    let twice = "[0x70]\n[face.sign2]\nkind = \"fourteen-segment\"\ndigits = 4\n[face.sign2.drive]\nmethod = \"ht16k33\"\n\
                 pins = { clock = 5, data = 6 }\naddresses = [0x70]";
    insta::assert_snapshot!(with("[0x70]", twice), @"
    error at `0x70`: address 0x70 is used by two parts
        also `0x70`: here it is a part of face sign
        strap each part to an address of its own
    ");
    assert_eq!(
        with("[0x70]", &twice.replace("[0x70]\n[", "[0x71]\n[")),
        "",
        "another address on the same bus"
    );
    insta::assert_snapshot!(with("[0x70]", "[0x78]"), @"
    error at `0x78`: the ht16k33 cannot have the address 0x78; it answers at 0x70 to 0x77, with 24 pins to 0x73, with 20 pins only 0x70
        set the straps of the part and write the address that they make
    ");
    insta::assert_snapshot!(with("[0x70]", "[]"), @"error at `[]`: found an empty list; expected the address of each part");
}

#[test]
fn clocks_levels_and_steps_beyond_the_part() {
    insta::assert_snapshot!(with("strobe = 3 }", "strobe = 3 }\nclock_hz = 2_000_000"), @"error at `2_000_000`: found 2000000; expected a number from 1 to 1000000");
    insta::assert_snapshot!(with("data = 4 }", "data = 4 }\nclock_hz = 400_000"), @"error at `400_000`: found 400000; expected a number from 1 to 250000");
    insta::assert_snapshot!(with("[0x70]", "[0x70]\nclock_hz = 1_000_000"), @"error at `1_000_000`: found 1000000; expected a number from 1 to 400000");
    insta::assert_snapshot!(with("[0x70]", "[0x70]\nbrightness = 16\nblink_hz = 3"), @"
    error at `16`: found 16; expected a number from 0 to 15
    error at `3`: found 3; expected 0, 0.5, 1 or 2
    ");
    insta::assert_snapshot!(with("logic_volts = 5.0", "logic_volts = 3.3"), @"
    warning at `[face.desk.drive]`: the bus is at 3.3 V; at this supply the tm1638 needs 3.5 V for a reliable high
        put a level converter in between and write bus_volts = 5.0; without one it may seem to work, and glitch
    warning at `{ clock = 1, data = 2, strobe = 3 }`: modules with a tm1638 pull its lines up to the supply of 5 V; 2 of the controller stand 3.6 V at most
        put a level converter in between and write bus_volts = 5.0, or feed the module from the controller's own supply: supply = { volts = 3.3 }
    warning at `[face.clock.drive]`: the bus is at 3.3 V; at this supply the tm1637 needs 3.5 V for a reliable high
        put a level converter in between and write bus_volts = 5.0; without one it may seem to work, and glitch
    warning at `{ clock = 1, data = 4 }`: modules with a tm1637 pull its lines up to the supply of 5 V; 1, 4 of the controller stand 3.6 V at most
        put a level converter in between and write bus_volts = 5.0, or feed the module from the controller's own supply: supply = { volts = 3.3 }
    warning at `[face.sign.drive]`: the bus is at 3.3 V; at this supply the ht16k33 needs 3.5 V for a reliable high
        put a level converter in between and write bus_volts = 5.0; without one it may seem to work, and glitch
    warning at `[face.crew.drive]`: the bus is at 3.3 V; at this supply the max7219 needs 3.5 V for a reliable high
        put a level converter in between and write bus_volts = 5.0; without one it may seem to work, and glitch
    ");
}

#[test]
fn nodes_and_digits_that_are_not_there() {
    insta::assert_snapshot!(with("byte0.bit0", "byte4.bit0"), @r#"error at `"byte4.bit0"`: found "byte4.bit0"; expected a bit of what the part answers, from "byte0.bit0" to "byte3.bit7""#);
    insta::assert_snapshot!(with("data = 4 }", "data = 4 }\ndigits = [\"grid1\", \"grid2\", \"grid3\", \"grid7\"]"), @r#"error at `"grid7"`: found "grid7"; expected a name from "grid1" to "grid6""#);
    insta::assert_snapshot!(with("data = 4 }", "data = 4 }\ndigits = [\"grid1\", \"grid2\"]"), @r#"
    error at `["grid1", "grid2"]`: 2 digits are wired; the face has 4
        write one for each, from left to right, or from top to bottom
    "#);
    insta::assert_snapshot!(with("data = 4 }", "data = 4 }\ndigits = [\"grid1\", \"grid1\", \"grid3\", \"grid4\"]"), @r#"
    error at `["grid1", "grid1", "grid3", "grid4"]`: a grid is defined twice
        give each a place and a name of its own
    "#);
    insta::assert_snapshot!(with("digits = 4", "digits = 7"), @"
    error at `7`: the face has 7 digits; the part has 6 grids, one for each digit
        give the face more parts where the method takes several, or split it into two faces
    ");
    let colon = "digits = 4\ncolons = [{ after = 2, node = \"grid2.seg1\" }]";
    insta::assert_snapshot!(with("digits = 4", colon), @r#"
    error at `"grid2.seg1"`: node grid2.seg1 is segment a of a digit
        a colon or lamp may take the dp of a digit, which then has no point, or a digit line that is free
    "#);
    insta::assert_snapshot!(with("digits = 4", &colon.replace("grid2.seg1", "grid9.seg1")), @r#"error at `"grid9.seg1"`: found "grid9.seg1"; expected a node from "grid1.seg1" to "grid6.seg8""#);
    insta::assert_snapshot!(with("data = 4 }", "data = 4 }\nresend = \"now\""), @r#"error at `"now"`: found "now"; expected a duration of 10 ms or more, such as "10s""#);
    insta::assert_snapshot!(with("data = 4 }", "data = 4 }\nstrobe = 1"), @"
    error at `strobe`: unknown key 'strobe'
        keys here: method, pins, clock_hz, segments, digits, rows, columns, green_rows, green_columns, resend, brightness, bus_volts
    ");
}

#[test]
fn keys_where_none_are_read() {
    insta::assert_snapshot!(with("digits = 4\nlight", "digits = 4\nkeys = [{ name = \"call\", node = \"byte0.bit0\" }]\nlight"), @"
    error at `keys`: unknown key 'keys'
        it is called 'buttons' now; keys here: kind, digits, width, height, pitch_mm, colours, common, package, module, light, colons, lamps, buttons, glyphs, drive
    ");
}

#[test]
fn parts_beyond_their_chain() {
    insta::assert_snapshot!(with("rset_ohms = 28_000", "chain = { parts = 3, first_part = 3 }"), @"error at `{ parts = 3, first_part = 3 }`: found 1 parts from part 3 on in a chain of 3; expected parts that lie in the chain, which has at most 64");
    insta::assert_snapshot!(with("rset_ohms = 28_000", "chain = { parts = 65, first_part = 0 }"), @"error at `{ parts = 65, first_part = 0 }`: found 1 parts from part 0 on in a chain of 65; expected parts that lie in the chain, which has at most 64");
}

#[test]
fn rset_against_the_wanted_current() {
    insta::assert_snapshot!(with("28_000", "10_000"), @"
    warning at `10_000`: RSET 10 kilohm gives a segment current of 45.5 mA; 20 mA is wanted
        take 27 kilohm for RSET
    ");
    insta::assert_snapshot!(with("28_000", "56_000"), @"
    warning at `56_000`: RSET 56 kilohm gives a segment current of 11.1 mA; 20 mA is wanted
        take 27 kilohm for RSET
    ");
}

/// Faces of one chain, each with a digit on some of its parts.
fn chained(chains: &[&str]) -> String {
    let supply = "[controller]\nsupply = { volts = 5.0, amps = 2.0 }\n".to_owned();
    let faces = chains.iter().enumerate().map(|(place, chain)| {
        format!(
            "[face.at{place}]\nkind = \"seven-segment\"\ndigits = 8\n[face.at{place}.drive]\nmethod = \"max7219\"\n\
             pins = {{ clock = 1, data = 2, select = 3 }}\nchain = {{ {chain} }}\n"
        )
    });
    findings(&faces.fold(supply, |rig, face| rig + &face), Severity::Warning)
}

#[test]
fn a_part_of_a_chain_belongs_to_one_face() {
    assert_eq!(
        chained(&["parts = 3, first_part = 0", "parts = 3, first_part = 2", "parts = 3, first_part = 1"]),
        ""
    );
    insta::assert_snapshot!(chained(&["parts = 3, first_part = 1", "parts = 3, first_part = 1"]), @"
    error at `{ parts = 3, first_part = 1 }`: part 1 of this chain is used by two faces
        also `{ parts = 3, first_part = 1 }`: here it is a part of face at0
        give each face its own parts: chain = { parts = ..., first_part = ... }
    ");
    insta::assert_snapshot!(chained(&["parts = 3, first_part = 0", "parts = 4, first_part = 1"]), @"
    error at `{ parts = 4, first_part = 1 }`: this chain has 4 parts here, and a different number for another face
        also `{ parts = 3, first_part = 0 }`: here it has 3, of face at0
        write how many parts the whole chain has, for each face the same
    ");
}

#[test]
fn an_address_belongs_to_one_part_whatever_it_is() {
    let crew = "[face.crew]\nkind = \"seven-segment\"\ndigits = 1\ncommon = \"anode\"\n[face.crew.drive]\n\
                method = \"expander\"\npart = \"pcf8574\"\naddresses = [0x20]\nclock_hz = 100_000\nresistor = { ohms = 680, in = \"segments\" }\npins = { clock = 1, data = 2 }\n";
    let pier = crew.replace("crew", "pier").replace("pcf8574", "mcp23017");
    insta::assert_snapshot!(findings(&format!("{crew}{pier}"), Severity::Warning), @"
    error at `0x20`: address 0x20 is used by two parts
        also `0x20`: here it is a part of face crew
        strap each part to an address of its own
    ");
    assert_eq!(findings(&format!("{crew}{}", pier.replace("0x20", "0x21")), Severity::Warning), "");
}

/// Defaults are not quoted as if they were written: the message has the needs of the face and the number of parts.
#[test]
fn a_face_that_is_too_large_for_its_parts() {
    let face = |kind: &str, digits: usize, common: &str, drive: &str| {
        let source = format!(
            "[face.one]\nkind = \"{kind}\"\ndigits = {digits}\ncommon = \"{common}\"\n[face.one.drive]\n{drive}\n"
        );
        findings(&source, Severity::Error)
    };
    let two_wires = "pins = { clock = 2, data = 1 }\n";
    insta::assert_snapshot!(face("fourteen-segment", 1, "anode", &format!("method = \"tm1637\"\n{two_wires}")), @r#"
    error at `"fourteen-segment"`: a digit of fourteen segments takes 15 lines; a grid of the part has 8
        drive it with ht16k33 or max7219, or from registers: method = "shifted"
    "#);
    let strobe = "method = \"tm1638\"\npins = { clock = 2, data = 1, strobe = 3 }\n";
    insta::assert_snapshot!(face("seven-segment", 9, "cathode", strobe), @"
    error at `9`: the face has 9 digits; the part has 8 grids, one for each digit
        give the face more parts where the method takes several, or split it into two faces
    ");
    let latches =
        "method = \"latched\"\ndata = \"P1\"\nlatches = [{ latch_enable = 9 }]\nresistor = { ohms = 470 }\n";
    insta::assert_snapshot!(face("seven-segment", 3, "cathode", latches), @r#"
    error at `[face.one.drive]`: the face takes 3 latches; the rig has 1
        add latches: latches = [{ latch_enable = "PIN" }, ...]
    "#);
    let expander = format!(
        "method = \"expander\"\npart = \"pcf8574\"\n{two_wires}addresses = [0x20]\nresistor = {{ ohms = 470 }}\n"
    );
    insta::assert_snapshot!(face("seven-segment", 2, "anode", &expander), @"
    error at `[face.one.drive]`: the face takes 2 parts; the rig has 1
        add the addresses of more parts: addresses = [0x20, 0x21, ...]
    ");
    // Written values are quoted.
    let written = format!(
        "{expander}segments = {{ a = \"part1.P0\", b = \"P1\", c = \"P2\", d = \"P3\", e = \"P4\", f = \"P5\", g = \"P6\" }}\n"
    );
    insta::assert_snapshot!(face("seven-segment", 1, "anode", &written), @r#"error at `"part1.P0"`: found part1.P0; expected an output from part0.P0 to part0.P7"#);
}
