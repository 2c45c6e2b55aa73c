//! Transfers in words: they name the lights that are lit.

use proptest::prelude::*;
use spare_tile_core::board::Board;
use spare_tile_core::bus::{Op, Reply, Role};
use spare_tile_core::link::Tap;
use spare_tile_core::plan::teller::Teller;
use spare_tile_core::plan::{DeviceId, Rig};
use spare_tile_core::play::scheduler::Scheduler;

use crate::common::{frame, lit, max7219, rig, saying};

/// Returns the words for the transfers of a frame, and the lights after them.
fn told(rig: &Rig, lit_elements: &[bool]) -> (Vec<String>, Vec<bool>) {
    let mut said = Vec::new();
    let teller = Teller::new(&rig.faces[0]);
    let tell = |_: DeviceId, op: &Op<'_>, _: &Reply, _: &mut Board<'_>| {
        if op.role == Role::Frame {
            said.push(teller.of_transfer(&op.transfer));
        }
    };
    let mut scheduler = Scheduler::new(rig, Tap { link: Board::new(rig), tell });
    scheduler.power_up(0).unwrap();
    scheduler.show(0, &frame(lit_elements)).unwrap();
    let now = scheduler.now();
    let picture = lit(&scheduler.link_mut().link.picture(0, now).unwrap());
    drop(scheduler);
    (said, picture)
}

fn clock() -> Rig {
    rig(
        "[face.clock]\nkind = \"seven-segment\"\ndigits = 4\ncolons = [{ after = 2, node = \"grid2.seg8\" }]\n\
         [face.clock.drive]\nmethod = \"tm1637\"\npins = { clock = 1, data = 2 }\n",
    )
}

#[test]
fn digits_by_what_they_show() {
    let lit_by = |rig: &Rig, words: &str| -> Vec<bool> {
        saying(rig, words).levels().iter().map(|level| level.0 > 0).collect()
    };
    let clock = clock();
    assert_eq!(
        told(&clock, &lit_by(&clock, "1{a}:-")).0,
        ["digit 0: 1, b c; digit 1: ~, a; digit 2: -, g; colon2 on"]
    );
    // The last digit line of the part is the leftmost digit.
    let desk = max7219(2, "");
    assert_eq!(told(&desk, &lit_by(&desk, "4.")).0, ["digit 0: 4., b c f g dp"]);
    let coded = max7219(2, "decode = \"code-b\"");
    assert_eq!(told(&coded, &lit_by(&coded, "-H")).0, ["digit 1: H, b c e f g", "digit 0: -, g"]);
}

#[test]
fn rows_of_dots_as_they_look() {
    let board = rig(
        "[face.board]\nkind = \"dots\"\nwidth = 16\nheight = 8\n[face.board.drive]\nmethod = \"max7219\"\n\
                     pins = { data = 1, clock = 2, select = 3 }\n",
    );
    let mut dots = vec![false; 128];
    (dots[3 * 16], dots[3 * 16 + 9]) = (true, true);
    assert_eq!(told(&board, &dots).0, ["row 3: #........#......"]);
}

proptest! {
    /// The named segments add up to the picture, digit by digit.
    #[test]
    fn all_that_is_lit_is_told(lit_elements in prop::collection::vec(any::<bool>(), 4 * 8 + 1)) {
        let clock = clock();
        let face = &clock.faces[0].face;
        let (said, picture) = told(&clock, &lit_elements);
        let mut told = vec![false; picture.len()];
        for part in said.iter().flat_map(|said| said.split("; ")) {
            if let Some(on) = part.strip_prefix("colon2 ") {
                told[face.extra(0).0] = on == "on";
                continue;
            }
            let Some((digit, rest)) = part.strip_prefix("digit ").and_then(|part| part.split_once(": ")) else { continue };
            let names = rest.rsplit_once(", ").map_or(rest, |(_, names)| names);
            for segment in names.split(' ').filter_map(|name| face.style().segment_index(name)) {
                told[face.element(digit.parse().unwrap(), segment).0] = true;
            }
        }
        prop_assert_eq!(told, picture);
    }
}
