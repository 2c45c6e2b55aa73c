//! The model is a check: when the driver's bytes are broken, the picture is wrong in the way that the real
//! display would be.

use crate::common::{max7219, saying};
use spare_tile_core::board::Board;
use spare_tile_core::bus::{Op, Reply, Transfer};
use spare_tile_core::link::{Link, LinkError};
use spare_tile_core::plan::{DeviceId, Rig};
use spare_tile_core::play::scheduler::Scheduler;
use spare_tile_core::units::Nanos;

/// A link on which the bytes of an operation are changed, or lost.
struct Altered<'r, F> {
    board: Board<'r>,
    fault: F,
}

impl<F: Fn(&[u8]) -> Option<Vec<u8>>> Link for Altered<'_, F> {
    fn transfer(&mut self, device: DeviceId, op: &Op<'_>) -> Result<Reply, LinkError> {
        match (self.fault)(op.transfer.bytes()) {
            None => Ok(Reply::default()),
            Some(bytes) => {
                self.board.transfer(device, &Op { transfer: Transfer::Spi { bytes: &bytes }, ..*op })
            }
        }
    }

    fn free_at(&self, device: DeviceId) -> Nanos {
        self.board.free_at(device)
    }
}

/// Returns the text of a face that was sent `words` over such a link.
fn reading(rig: &Rig, words: &str, fault: impl Fn(&[u8]) -> Option<Vec<u8>>) -> String {
    let mut scheduler = Scheduler::new(rig, Altered { board: Board::new(rig), fault });
    scheduler.power_up(0).unwrap();
    scheduler.show(0, &saying(rig, words)).unwrap();
    let now = scheduler.now();
    scheduler.link_mut().board.picture(0, now).unwrap().reading()
}

#[test]
fn without_a_fault_the_words_are_read() {
    assert_eq!(reading(&max7219(8, ""), "BERTH 2.5", |bytes| Some(bytes.to_vec())), "bErtH 2.5");
}

#[test]
fn a_turned_bit_order_shows_other_segments() {
    let turned = |bytes: &[u8]| match bytes {
        [register @ 1..=8, data] => Some(vec![*register, data.reverse_bits()]),
        other => Some(other.to_vec()),
    };
    // On data bits 7 to 0 stand dp a b c d e f g: turned round, an 8 (7F) is FE, every segment but g with the
    // point, and a 1 (30, b c) is 0C, d and e.
    assert_eq!(reading(&max7219(2, ""), "81", turned), "0.?");
}

#[test]
fn a_missing_shutdown_release_leaves_the_display_dark() {
    let never_run = |bytes: &[u8]| (bytes != [0x0C, 1]).then(|| bytes.to_vec());
    assert_eq!(reading(&max7219(8, ""), "BERTH 2", never_run), " ".repeat(8));
}

#[test]
fn a_scan_limit_too_low_cuts_the_far_digits_off() {
    let low = |bytes: &[u8]| match bytes {
        [0x0B, _] => Some(vec![0x0B, 3]),
        other => Some(other.to_vec()),
    };
    // Digit line 0 stands at the right: the digits that are still scanned are the last four.
    assert_eq!(reading(&max7219(8, ""), "BERTH 25", low), "    H 25");
    assert_eq!(reading(&max7219(8, "digit_0 = \"left\"\nfirst = \"left\""), "BERTH 25", low), "bErt    ");
}

#[test]
fn words_in_the_wrong_order_swap_the_parts_of_a_chain() {
    let swapped = |bytes: &[u8]| Some(bytes.chunks(2).rev().flatten().copied().collect());
    assert_eq!(reading(&max7219(16, ""), "DUNLIN  BERTH 2", swapped), "bErtH 2 dUnLIn  ");
}

#[test]
fn a_decode_mode_left_on_shows_code_b_instead_of_segments() {
    let decoded = |bytes: &[u8]| match bytes {
        [0x09, _] => Some(vec![0x09, 0xFF]),
        other => Some(other.to_vec()),
    };
    // Undecoded 8 is 7F: code B takes its low four bits, F, as a blank. 1 is 30: as 0.
    assert_eq!(reading(&max7219(2, ""), "81", decoded), " 0");
}
