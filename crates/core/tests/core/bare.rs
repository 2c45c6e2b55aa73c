//! Bare displays behind every kind of port: what goes in as a frame comes back from edges through the model, and
//! the eye sees it over a whole turn.

use proptest::prelude::*;
use spare_tile_core::bus::{Ops, Role};
use spare_tile_core::frame::Level;
use spare_tile_core::glyph::{BitOrder, Style};
use spare_tile_core::plan::{Mount, Rig};

use crate::common::{Powered, frame, frames, rig, saying};

/// How a face is driven in a random rig.
#[derive(Debug, Clone)]
struct Wired {
    kind: &'static str,
    digits: usize,
    common: &'static str,
    method: Method,
    digit_switch: &'static str,
    segment_switch: &'static str,
    refresh: u32,
    /// A number from which orders of pins are shuffled.
    shuffle: u64,
}

#[derive(Debug, Clone, Copy, PartialEq)]
enum Method {
    Static,
    Scanned,
    Latched { scanned: bool, enables: bool },
    Shifted { scanned: bool, enable: bool, lsb_first: bool, right: bool },
    Expander,
}

impl Wired {
    fn style(&self) -> Style {
        match self.kind {
            "seven-segment" => Style::Seven,
            "fourteen-segment" => Style::Fourteen,
            _ => Style::Sixteen,
        }
    }

    /// The numbers below `count` in an order of their own.
    fn shuffled(&self, count: usize) -> Vec<usize> {
        let mut numbers: Vec<_> = (0..count).collect();
        let mut state = self.shuffle | 1;
        for place in (1..count).rev() {
            state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
            numbers.swap(place, (state >> 33) as usize % (place + 1));
        }
        numbers
    }

    /// `{ a = "..." }` with these outputs for the segments from `first` on.
    fn table(&self, outputs: &[String], first: usize) -> String {
        let names = self.style().segment_names().iter().enumerate();
        let wires: Vec<_> = names.map(|(i, name)| format!("{name} = \"{}\"", outputs[first + i])).collect();
        format!("{{ {} }}", wires.join(", "))
    }

    /// The lines of the drive table that place segments and digits on these outputs.
    fn placed(&self, outputs: &[String], scanned: bool) -> String {
        let count = self.style().segment_count();
        if scanned {
            let digits: Vec<_> =
                (0..self.digits).map(|digit| format!("\"{}\"", outputs[count + digit])).collect();
            format!("segments = {}\ndigits = [{}]", self.table(outputs, 0), digits.join(", "))
        } else {
            let tables: Vec<_> = (0..self.digits).map(|digit| self.table(outputs, digit * count)).collect();
            format!("segments = [{}]", tables.join(", "))
        }
    }

    fn toml(&self) -> String {
        let count = self.style().segment_count();
        let is_scanned = match self.method {
            Method::Static | Method::Expander => false,
            Method::Scanned => true,
            Method::Latched { scanned, .. } | Method::Shifted { scanned, .. } => scanned,
        };
        let needed = if is_scanned { count + self.digits } else { count * self.digits };
        let parts = needed.div_ceil(8);
        let of_parts = |prefix: &str, names: [&str; 8]| -> Vec<String> {
            let order = self.shuffled(8 * parts);
            order.iter().map(|place| format!("{prefix}{}.{}", place / 8, names[place % 8])).collect()
        };
        let drive = match self.method {
            Method::Static | Method::Scanned => {
                let outputs: Vec<_> = self.shuffled(needed).iter().map(|pin| format!("X{pin}")).collect();
                let name = if is_scanned { "scanned" } else { "static" };
                format!("method = \"{name}\"\n{}", self.placed(&outputs, is_scanned))
            }
            Method::Latched { enables, .. } => {
                let outputs = of_parts("latch", ["Q0", "Q1", "Q2", "Q3", "Q4", "Q5", "Q6", "Q7"]);
                let enable = |latch| if enables { format!("\"O{latch}\"") } else { "\"low\"".to_owned() };
                let latches: Vec<_> = (0..parts)
                    .map(|latch| {
                        format!("{{ latch_enable = \"L{latch}\", output_enable = {} }}", enable(latch))
                    })
                    .collect();
                format!(
                    "method = \"latched\"\ndata = \"P0\"\nlatches = [{}]\n{}",
                    latches.join(", "),
                    self.placed(&outputs, is_scanned)
                )
            }
            Method::Shifted { enable, lsb_first, right, .. } => {
                let outputs = of_parts("part", ["QA", "QB", "QC", "QD", "QE", "QF", "QG", "QH"]);
                let enable = if enable { ", enable = 7" } else { "" };
                let sent = if lsb_first { "lsb-first" } else { "msb-first" };
                let first = if right { "right" } else { "left" };
                format!(
                    "method = \"shifted\"\npins = {{ data = 4, clock = 5, latch = 6{enable} }}\nsent = \"{sent}\"\n\
                     first = \"{first}\"\nclock_hz = 8_000_000\n{}",
                    self.placed(&outputs, is_scanned)
                )
            }
            Method::Expander => {
                let parts = needed.div_ceil(16);
                let order = self.shuffled(16 * parts);
                let name = |place: &usize| {
                    format!("part{}.GP{}{}", place / 16, ["A", "B"][place / 8 % 2], place % 8)
                };
                let outputs: Vec<_> = order.iter().map(name).collect();
                let addresses: Vec<_> = (0..parts).map(|part| (0x20 + part).to_string()).collect();
                format!(
                    "method = \"expander\"\npart = \"mcp23017\"\npins = {{ data = 4, clock = 5 }}\naddresses = [{}]\n{}",
                    addresses.join(", "),
                    self.placed(&outputs, false)
                )
            }
        };
        format!(
            "[face.f]\nkind = \"{}\"\ndigits = {}\ncommon = \"{}\"\n[face.f.drive]\n{drive}\ndigit_switch = \"{}\"\n\
             segment_switch = \"{}\"\nrefresh_hz = {}\nblanking = \"25us\"\n",
            self.kind, self.digits, self.common, self.digit_switch, self.segment_switch, self.refresh
        )
    }
}

fn method() -> impl Strategy<Value = Method> {
    prop_oneof![
        Just(Method::Static),
        Just(Method::Scanned),
        (any::<bool>(), any::<bool>()).prop_map(|(scanned, enables)| Method::Latched { scanned, enables }),
        (any::<bool>(), any::<bool>(), any::<bool>(), any::<bool>()).prop_map(
            |(scanned, enable, lsb_first, right)| { Method::Shifted { scanned, enable, lsb_first, right } }
        ),
        Just(Method::Expander),
    ]
}

fn switch() -> impl Strategy<Value = &'static str> {
    prop::sample::select(&["none", "npn", "pnp", "nmos", "pmos"])
}

fn wired() -> impl Strategy<Value = Wired> {
    let kind = prop::sample::select(&["seven-segment", "fourteen-segment", "sixteen-segment"]);
    let common = prop::sample::select(&["cathode", "anode"]);
    let rest = (switch(), switch(), 50..400_u32, any::<u64>());
    (kind, 1..=5_usize, common, method(), rest).prop_map(|(kind, digits, common, method, rest)| {
        let (digit_switch, segment_switch, refresh, shuffle) = rest;
        Wired { kind, digits, common, method, digit_switch, segment_switch, refresh, shuffle }
    })
}

/// Sends frames one after another and compares each with what the eye then sees, over a whole turn of a scan.
fn check_each_comes_back(rig: &Rig, frames: &[Vec<bool>]) -> Result<(), TestCaseError> {
    let mut powered = Powered::new(rig);
    prop_assert!(powered.picture().light.iter().all(|light| *light == 0.0), "dark after power-up");
    for wanted in frames {
        powered.show(&frame(wanted));
        let seen: Vec<_> = powered.picture().light.iter().map(|light| *light > 0.5).collect();
        prop_assert_eq!(&seen, wanted);
        // No ghosts: what is to be dark gives no light at all.
        let any: Vec<_> = powered.picture().light.iter().map(|light| *light > 0.0).collect();
        prop_assert_eq!(&any, wanted);
    }
    powered.scheduler.off(0).unwrap();
    prop_assert!(powered.picture().light.iter().all(|light| *light == 0.0), "dark after off");
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(256))]

    #[test]
    fn any_frame_through_any_bare_rig((wired, frames) in wired().prop_flat_map(|wired| {
        let elements = wired.digits * wired.style().segment_count();
        (Just(wired), frames(elements))
    })) {
        check_each_comes_back(&rig(&wired.toml()), &frames)?;
    }

    #[test]
    fn any_dots_by_rows_or_columns(
        frames in frames(64),
        common in prop::sample::select(&["cathode", "anode"]),
        scan in prop::sample::select(&["rows", "columns"]),
        switch in switch(),
    ) {
        let pins = "package_pins = { 9 = 0, 14 = 1, 8 = 2, 12 = 3, 1 = 4, 7 = 5, 2 = 6, 5 = 7, 13 = 8, 3 = 9, \
                    4 = 10, 10 = 11, 6 = 12, 11 = 13, 15 = 14, 16 = 15 }";
        let dots = format!(
            "[face.beacon]\nkind = \"dots\"\nwidth = 8\nheight = 8\ncommon = \"{common}\"\npackage = \"dots-16\"\n\
             [face.beacon.drive]\nmethod = \"scanned\"\nscan = \"{scan}\"\ndigit_switch = \"{switch}\"\n{pins}\n"
        );
        check_each_comes_back(&rig(&dots), &frames)?;
    }

    #[test]
    fn the_default_order_of_a_part_for_each_digit(
        frames in frames(24),
        first in prop::sample::select(&["left", "right"]),
    ) {
        let minutes = format!(
            "[face.minutes]\nkind = \"seven-segment\"\ndigits = 3\ncommon = \"anode\"\n[face.minutes.drive]\n\
             method = \"shifted\"\npins = {{ data = 1, clock = 2, latch = 3 }}\nfirst = \"{first}\"\n"
        );
        check_each_comes_back(&rig(&minutes), &frames)?;
        let crew = "[face.crew]\nkind = \"seven-segment\"\ndigits = 3\ncommon = \"anode\"\n[face.crew.drive]\n\
                    method = \"expander\"\npart = \"pcf8574\"\npins = { data = 1, clock = 2 }\n\
                    addresses = [0x20, 0x3F, 0x27]\n";
        check_each_comes_back(&rig(crew), &frames)?;
    }
}

/// The bytes of the frame that shows `words`, blanking left out.
fn written(rig: &Rig, words: &str) -> Vec<Vec<u8>> {
    let mount = &rig.faces[0];
    let mut nodes = vec![Level::OFF; mount.wiring.node_count()];
    mount.wiring.to_nodes(saying(rig, words).levels(), &mut nodes);
    let (mut driver, mut ops) = (mount.drive.display().driver(), Ops::default());
    driver.power_up(&mut Ops::default());
    driver.frame(&nodes, &mut ops);
    while driver.slot(&mut ops).is_some() && !driver.begins_turn() {}
    let frames = ops.iter().filter(|op| op.role == Role::Frame);
    frames.map(|op| op.transfer.bytes().to_vec()).collect()
}

#[test]
fn port_values_of_the_digits() {
    let berth = |common: &str| {
        rig(&format!(
            "[face.berth]\nkind = \"seven-segment\"\ndigits = 1\ncommon = \"{common}\"\n[face.berth.drive]\n\
             method = \"static\"\nsegments = \"P1: dp g f e d c b a\"\n"
        ))
    };
    let values = |common: &str| -> Vec<u8> {
        "0123456789".chars().map(|digit| written(&berth(common), &digit.to_string())[0][0]).collect()
    };
    assert_eq!(values("anode"), [0xC0, 0xF9, 0xA4, 0xB0, 0x99, 0x92, 0x82, 0xF8, 0x80, 0x90]);
    assert_eq!(values("cathode"), [0x3F, 0x06, 0x5B, 0x4F, 0x66, 0x6D, 0x7D, 0x07, 0x7F, 0x6F]);
}

/// Twelve pins of the package in their order on two ports: pin 1 on P1.0, pin 9 on P2.0.
const QUAD: &str = r#"
    [face.gauge]
    kind = "seven-segment"
    digits = 4
    common = "cathode"
    package = "quad-12"
    [face.gauge.drive]
    method = "scanned"
    package_pins = { 1 = "P1.0", 2 = "P1.1", 3 = "P1.2", 4 = "P1.3", 5 = "P1.4", 6 = "P1.5", 7 = "P1.6",
        8 = "P1.7", 9 = "P2.0", 10 = "P2.1", 11 = "P2.2", 12 = "P2.3" }
"#;

#[test]
fn four_digits_on_twelve_pins() {
    // Pins 1-8 are e d dp c g D4 b D3, pins 9-12 D2 f a D1; a selected digit's pin is low, a lit segment's high.
    // "-0.48": a minus is pin 5; 0. is all but pin 5; 4 is pins 4 5 7 10; 8 is all but pin 3.
    let expected = [
        [0b1011_0000, 0b0000_0001],
        [0b1110_1111, 0b0000_1110],
        [0b0111_1000, 0b0000_1011],
        [0b1101_1011, 0b0000_1111],
    ];
    assert_eq!(written(&rig(QUAD), "-0.48"), expected);
}

#[test]
fn a_resistor_in_the_common_line_makes_a_1_brighter_than_an_8() {
    let shared = QUAD.replace("method", "resistor = { ohms = 220, in = \"digits\" }\n    method");
    let rig = rig(&shared);
    let mut powered = Powered::new(&rig);
    powered.show(&saying(&rig, "18"));
    let picture = powered.picture();
    assert!((picture.segment(0, 1) / picture.segment(1, 1) - 3.5).abs() < 0.01);
}

#[test]
fn without_blanking_a_slow_switch_ghosts() {
    let ghosts = |blanking: &str| {
        let slow = format!(
            "blanking = \"{blanking}\"\n    digit_switch = {{ kind = \"npn\", turn_off = \"20us\" }}\n    method"
        );
        let rig = rig(&QUAD.replace("method", &slow));
        let mut powered = Powered::new(&rig);
        powered.show(&saying(&rig, "1 8 "));
        let picture = powered.picture();
        (0..4).map(|digit| picture.segment(digit, 0)).collect::<Vec<_>>()
    };
    assert_eq!(ghosts("30us")[..2], [0.0, 0.0]);
    let light = ghosts("0us");
    // Digit 1 is blank, but lingers while the 8 of digit 2 is there already: 20 us of its 2083.
    assert!((light[1] - 20.0 / 2083.0).abs() < 1e-3, "{light:?}");
}

/// The segments of a digit behind a latch are the bits of a byte, in the order of the latch's outputs.
#[test]
fn a_digit_behind_a_latch_is_a_byte() {
    let source = "[face.berth]\nkind = \"seven-segment\"\ndigits = 2\ncommon = \"cathode\"\n[face.berth.drive]\n\
                  method = \"latched\"\ndata = [1, 2, 3, 4, 5, 6, 7, 8]\nlatches = [{ latch_enable = 9, output_enable = \"low\" }, \
                  { latch_enable = 10, output_enable = \"low\" }]\nsegments = \"dp g f e d c b a\"\nresistor = { ohms = 470 }\n";
    let rig = rig(source);
    let Mount { face, drive, .. } = &rig.faces[0];
    for digit in 0..2 {
        let code = drive.display().byte_code(face, digit).unwrap();
        assert_eq!(code.order, BitOrder::parse("dp g f e d c b a", face.style()).unwrap(), "digit {digit}");
    }
}
