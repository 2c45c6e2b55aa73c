//! The closed loop: a frame goes through wiring, driver, bus and model, and comes back identical.

use crate::common::{Powered, berth, frame, frames, lit, max7219, wide};
use proptest::prelude::*;
use spare_tile_core::content::text;
use spare_tile_core::glyph::Style;
use spare_tile_core::plan::Rig;

/// Sends frames one after another and compares each with what the model then lights.
fn assert_each_comes_back(rig: &Rig, frames: &[Vec<bool>]) {
    let mut powered = Powered::new(rig);
    assert!(lit(&powered.picture()).iter().all(|lit| !lit), "dark after power-up");
    for wanted in frames {
        powered.show(&frame(wanted));
        assert_eq!(&lit(&powered.picture()), wanted);
    }
}

fn end() -> impl Strategy<Value = &'static str> {
    prop::sample::select(&["left", "right"])
}

fn bit_order() -> impl Strategy<Value = String> {
    let names = Style::Seven.segment_names().to_vec();
    Just(names).prop_shuffle().prop_map(|names| names.join(" "))
}

/// The sixteen bits of two digit lines, one of them without a segment.
fn wide_bit_order() -> impl Strategy<Value = String> {
    let names = [Style::Fourteen.segment_names(), &["-"]].concat();
    Just(names).prop_shuffle().prop_map(|names| names.join(" "))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(256))]

    #[test]
    fn any_frame_through_any_chain(
        (digits, frames) in (1..=64_usize).prop_flat_map(|digits| (Just(digits), frames(8 * digits))),
        first in end(),
        digit_0 in end(),
        order in bit_order(),
        clock_hz in 1..=10_000_000_u32,
    ) {
        let drive = format!(
            "first = \"{first}\"\ndigit_0 = \"{digit_0}\"\nsegments = \"{order}\"\nclock_hz = {clock_hz}"
        );
        assert_each_comes_back(&max7219(digits, &drive), &frames);
    }

    #[test]
    fn any_frame_of_wide_digits_in_any_bit_order(
        (digits, frames) in (1..=64_usize).prop_flat_map(|digits| (Just(digits), frames(15 * digits))),
        first in end(),
        digit_0 in end(),
        order in wide_bit_order(),
    ) {
        let drive = format!("first = \"{first}\"\ndigit_0 = \"{digit_0}\"\nsegments = \"{order}\"");
        assert_each_comes_back(&wide("fourteen-segment", digits, &drive), &frames);
    }

    #[test]
    fn any_frame_through_bare_pins(frames in frames(8), common in prop::sample::select(&["cathode", "anode"])) {
        assert_each_comes_back(&berth(common), &frames);
    }

    #[test]
    fn a_text_is_written_as_its_cells_say(words in "[ -~\u{b0}\u{20ac}]{0,10}|[0-9A-F.]{0,10}") {
        let rig = max7219(8, "");
        let face = &rig.faces[0].face;
        let (mut written, mut by_cells) = (face.blank(), face.blank());
        let whole = text::Field::whole(face, text::Align::Left);
        let used = text::write(&words, face, whole, &mut written);
        let cells: Vec<_> = text::cells(&words, face.points).collect();
        let segments: Result<Vec<_>, _> =
            cells.iter().take(face.digits()).map(|cell| cell.segments(face.style(), &face.own_glyphs)).collect();
        match segments {
            Err(error) => prop_assert_eq!(used, Err(error)),
            Ok(_) if cells.len() > face.digits() => {
                let (needed, digits, position) = (cells.len(), face.digits(), cells[face.digits()].position);
                prop_assert_eq!(used, Err(text::TextError::TooLong { needed, digits, position }));
            }
            Ok(segments) => {
                segments.iter().enumerate().for_each(|(digit, lit)| face.put(&mut by_cells, digit, *lit));
                prop_assert_eq!((used, written), (Ok(cells.len()), by_cells));
            }
        }
    }

    #[test]
    fn any_text_is_refused_or_shown_whole(words in ".{0,12}") {
        let rig = max7219(8, "");
        let face = &rig.faces[0].face;
        let mut wanted = face.blank();
        if text::write(&words, face, text::Field::whole(face, text::Align::Left), &mut wanted).is_ok() {
            let mut powered = Powered::new(&rig);
            powered.show(&wanted);
            for digit in 0..face.digits() {
                prop_assert_eq!(powered.picture().lit(digit), face.lit(&wanted, digit));
            }
        }
    }
}

#[test]
fn wide_digits_take_two_lines_each() {
    for (kind, wired) in [("fourteen-segment", 15), ("sixteen-segment", 16)] {
        for digits in [1, 4, 5, 13, 64] {
            let rig = wide(kind, digits, "");
            let face = &rig.faces[0].face;
            assert_eq!(face.points, kind == "fourteen-segment", "sixteen segments fill both lines");
            let count = face.style().segment_count();
            let lit = (0..digits * count).map(|element| element % 5 != 2 && element % count < wired);
            assert_each_comes_back(&rig, &[lit.collect()]);
            let words: String = "TEAL 0715".chars().cycle().take(digits).collect();
            let mut frame = face.blank();
            text::write(&words, face, text::Field::whole(face, text::Align::Left), &mut frame).unwrap();
            let mut powered = Powered::new(&rig);
            powered.show(&frame);
            assert_eq!(powered.picture().reading(), words);
        }
    }
}

#[test]
fn every_number_of_digits() {
    for digits in 1..=64 {
        let lit: Vec<bool> = (0..8 * digits).map(|element| element % 3 == 0 || element % 7 == 1).collect();
        assert_each_comes_back(&max7219(digits, ""), &[lit.clone(), lit.iter().map(|lit| !lit).collect()]);
    }
}

#[test]
fn brightness_changes_the_light_and_not_the_picture() {
    let rig = max7219(12, "");
    let mut powered = Powered::new(&rig);
    let mut wanted = rig.faces[0].face.blank();
    text::write(
        "TEAL 48",
        &rig.faces[0].face,
        text::Field::whole(&rig.faces[0].face, text::Align::Right),
        &mut wanted,
    )
    .unwrap();
    powered.show(&wanted);
    for step in 0..=15_u8 {
        powered.scheduler.brightness(0, step).unwrap();
        assert_eq!(powered.picture().reading(), "     tEAL 48");
        let light = powered.picture().segment(10, 1);
        assert!((light - (2.0 * f32::from(step) + 1.0) / 31.0).abs() < 1e-6, "step {step}: {light}");
    }
    powered.scheduler.off(0).unwrap();
    assert!(lit(&powered.picture()).iter().all(|lit| !lit));
}
