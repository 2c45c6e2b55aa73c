//! Transfers that are taken as bytes against the same transfers edge by edge: nobody can tell the difference, however
//! odd they are.

use proptest::prelude::*;
use spare_tile_core::board::Board;
use spare_tile_core::bus::{Op, Reply, Role, Transfer};
use spare_tile_core::link::Link;
use spare_tile_core::plan::{ButtonId, Keypad, Rig};
use spare_tile_core::units::Nanos;

use crate::common::rig;

/// A face with keys on each bus that carries transfers as bytes, at this clock.
fn desk(clock_hz: u32) -> Rig {
    rig(&format!(
        r#"
        [controller]
        part = "esp32"
        [face.desk]
        kind = "seven-segment"
        digits = 8
        buttons = [{{ name = "call1", node = "byte0.bit0" }}, {{ name = "call2", node = "byte3.bit4" }}]
        [face.desk.drive]
        method = "tm1638"
        pins = {{ strobe = "GPIO25", clock = "GPIO26", data = "GPIO27" }}
        clock_hz = {clock_hz}
        [face.clock]
        kind = "seven-segment"
        digits = 4
        buttons = [{{ name = "up", node = "F7" }}, {{ name = "down", node = "EF" }}]
        [face.clock.drive]
        method = "tm1637"
        pins = {{ clock = "GPIO32", data = "GPIO33" }}
        clock_hz = {clock_hz}
        [face.sign]
        kind = "fourteen-segment"
        digits = 12
        buttons = [{{ name = "one", node = "byte0.bit3" }}, {{ name = "two", node = "byte6.bit1" }}]
        [face.sign.drive]
        method = "ht16k33"
        pins = {{ clock = "GPIO22", data = "GPIO21" }}
        addresses = [0x70, 0x71]
        clock_hz = {}
        [face.gauge]
        kind = "seven-segment"
        digits = 4
        [face.gauge.drive]
        method = "max7219"
        pins = {{ data = "GPIO23", clock = "GPIO18", select = "GPIO17" }}
        [face.board]
        kind = "dots"
        width = 16
        height = 8
        [face.board.drive]
        method = "max7219"
        pins = {{ data = "GPIO23", clock = "GPIO18", select = "GPIO16" }}
        "#,
        // Beyond 250 kHz low and high are no longer of one length.
        clock_hz * 8 / 5
    ))
}

/// An action on a board.
#[derive(Debug, Clone)]
enum Deed {
    Send { face: usize, address: u8, bytes: Vec<u8>, reads: usize },
    Press { face: usize, button: usize, down: bool },
    Wait(u64),
}

fn deeds() -> impl Strategy<Value = Vec<Deed>> {
    // Commands of the parts, mostly, so that lights go on and keys are asked for.
    let first = prop_oneof![
        any::<u8>(),
        prop::sample::select(vec![
            0x40, 0x42, 0x44, 0x8F, 0x80, 0xC0, 0xC5, 0x21, 0x81, 0x83, 0xE3, 0x00, 0x20, 0x0C, 0x0F, 0x01
        ]),
    ];
    let bytes = prop_oneof![
        4 => (first, prop::collection::vec(any::<u8>(), 0..20)).prop_map(|(first, rest)| [vec![first], rest].concat()),
        1 => Just(Vec::new()),
    ];
    let send = (0..5_usize, prop::sample::select(vec![0x70, 0x71, 0x22]), bytes, 0..8_usize)
        .prop_map(|(face, address, bytes, reads)| Deed::Send { face, address, bytes, reads });
    let press = (0..3_usize, 0..2_usize, any::<bool>()).prop_map(|(face, button, down)| Deed::Press {
        face,
        button,
        down,
    });
    let wait = (0..2_000_000_000_u64).prop_map(Deed::Wait);
    prop::collection::vec(prop_oneof![6 => send, 2 => press, 1 => wait], 1..40)
}

/// Does it; what came back, where something was sent.
fn perform(deed: &Deed, rig: &Rig, board: &mut Board<'_>, now: &mut Nanos) -> Option<Reply> {
    match deed {
        Deed::Press { face, button, down } => {
            board.press(ButtonId { keypad: Keypad::Face(*face), button: *button }, *down)
        }
        Deed::Wait(nanos) => *now = *now + Nanos(*nanos),
        Deed::Send { face, address, bytes, reads } => {
            let (bytes, reads, address) = (bytes.as_slice(), *reads, *address);
            let transfer = match face {
                0 => Transfer::Strobe { bytes, reads },
                1 => Transfer::TwoWire { bytes, reads },
                3 | 4 => Transfer::Spi { bytes },
                _ => Transfer::I2c { address, bytes, reads },
            };
            let op = Op { role: Role::Frame, transfer, not_before: *now };
            let reply = board.transfer(rig.faces[*face].device, &op).unwrap();
            *now = (*now).max(reply.ended);
            return Some(reply);
        }
    }
    None
}

proptest! {
    #[test]
    fn a_transfer_in_one_piece_is_the_same_as_its_edges(
        clock in 20_000..=250_000_u32,
        before in deeds(),
        after in deeds(),
    ) {
        let rig = desk(clock);
        // A recorder gets the edges, so that everything is sent edge by edge.
        let (mut whole, mut by_edges) = (Board::new(&rig), Board::new(&rig));
        by_edges.record();
        let mut resting = Board::new(&rig).at_rest();
        let mut now = Nanos(0);
        for (place, deed) in before.iter().chain(&after).enumerate() {
            if place == before.len() {
                // From here on both go edge by edge, and neither has lost its place.
                whole.record();
            }
            let (mut then, mut at_rest) = (now, now);
            perform(deed, &rig, &mut resting, &mut at_rest);
            let reply = perform(deed, &rig, &mut whole, &mut then);
            prop_assert_eq!(reply, perform(deed, &rig, &mut by_edges, &mut now), "{:?}", deed);
            prop_assert_eq!(whole.levels(), by_edges.levels(), "{:?}", deed);
        }
        for face in 0..5 {
            prop_assert_eq!(whole.sights(face, now), by_edges.sights(face, now));
            let light = by_edges.picture(face, now).unwrap().light;
            prop_assert_eq!(&whole.picture(face, now).unwrap().light, &light);
            prop_assert_eq!(&resting.picture(face, now).unwrap().light, &light);
        }
    }
}

/// The property above would hold of parts that hear nothing. These do.
#[test]
fn bytes_light_lights_and_bring_keys() {
    let rig = desk(100_000);
    let mut board = Board::new(&rig);
    let mut now = Nanos(0);
    let mut send = |face, address, bytes: &[u8], reads| {
        let deed = Deed::Send { face, address, bytes: bytes.to_vec(), reads };
        (0..3).for_each(|face| board.press(ButtonId { keypad: Keypad::Face(face), button: 1 }, true));
        let reply = perform(&deed, &rig, &mut board, &mut now).unwrap();
        (
            reply.bytes,
            reply.acknowledged,
            board.picture(face, now).unwrap().light.iter().any(|light| *light > 0.0),
        )
    };
    assert_eq!(send(0, 0, &[0x42], 4), (vec![0, 0, 0, 0x10], true, false));
    assert_eq!(send(0, 0, &[0x8F], 0), (vec![], true, true));
    assert_eq!(send(1, 0, &[0x42], 1), (vec![0xEF], true, false));
    assert_eq!(send(1, 0, &[0x8F], 0), (vec![], true, true));
    assert_eq!(send(2, 0x22, &[0x21], 0), (vec![], false, false), "no part has this address");
    assert_eq!(send(2, 0x71, &[0x40], 2), (vec![2, 0], true, false));
    assert_eq!(send(2, 0x70, &[0x21], 0), (vec![], true, false));
    assert_eq!(send(2, 0x70, &[0x81], 0), (vec![], true, true));
    // The last two bytes are the part's, the two before them went through it. What it overhears it has not taken.
    assert_eq!(send(3, 0, &[0x0F, 0x01], 0), (vec![], true, true));
    assert_eq!(send(4, 0, &[0x0C], 0), (vec![], true, false));
    assert_eq!(send(4, 0, &[0x0F, 0x01, 0x0F, 0x00], 0), (vec![], true, true));
}
