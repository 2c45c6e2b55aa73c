//! The model is a check: when the driver's bytes are broken, the picture is wrong in the way that the real
//! display would be.

use crate::common::max7219;
use spare_tile_core::bus::Ops;
use spare_tile_core::drive::Driver;
use spare_tile_core::frame::Level;
use spare_tile_core::glyph::text;
use spare_tile_core::pipeline::Pipeline;
use spare_tile_core::rig::Rig;

/// A driver whose operations pass through a fault: it changes the bytes of one, or drops it.
struct Faulty<F> {
    inner: Box<dyn Driver>,
    fault: F,
}

impl<F: Fn(&[u8]) -> Option<Vec<u8>>> Faulty<F> {
    fn pass(&mut self, ops: &mut Ops, send: impl FnOnce(&mut dyn Driver, &mut Ops)) {
        let mut sound = Ops::default();
        send(self.inner.as_mut(), &mut sound);
        for op in sound.iter() {
            if let Some(bytes) = (self.fault)(op.bytes) {
                ops.push(op.role, bytes);
            }
        }
    }
}

impl<F: Fn(&[u8]) -> Option<Vec<u8>>> Driver for Faulty<F> {
    fn power_up(&mut self, ops: &mut Ops) {
        self.pass(ops, |driver, ops| driver.power_up(ops));
    }
    fn frame(&mut self, nodes: &[Level], ops: &mut Ops) {
        self.pass(ops, |driver, ops| driver.frame(nodes, ops));
    }
    fn brightness(&mut self, step: u8, ops: &mut Ops) {
        self.pass(ops, |driver, ops| driver.brightness(step, ops));
    }
    fn off(&mut self, ops: &mut Ops) {
        self.pass(ops, |driver, ops| driver.off(ops));
    }
    fn on(&mut self, ops: &mut Ops) {
        self.pass(ops, |driver, ops| driver.on(ops));
    }
    fn refresh(&mut self, ops: &mut Ops) {
        self.pass(ops, |driver, ops| driver.refresh(ops));
    }
}

/// What is read off a face that was sent `words` with a fault in the driver.
fn reading(rig: &Rig, words: &str, fault: impl Fn(&[u8]) -> Option<Vec<u8>> + 'static) -> String {
    let mount = &rig.faces[0];
    let mut frame = mount.face.blank();
    text::write(words, &mount.face, text::Field::whole(&mount.face, text::Align::Left), &mut frame).unwrap();
    let faulty = Faulty { inner: mount.drive.ends.driver(), fault };
    let mut pipeline = Pipeline::new(mount).with_driver(Box::new(faulty));
    pipeline.power_up();
    pipeline.show(&frame);
    pipeline.picture().reading()
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
