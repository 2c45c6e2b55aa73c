//! Tables and sprites as source.

use proptest::prelude::*;
use spare_tile_core::bus::Ops;
use spare_tile_core::content::Canvas;
use spare_tile_core::content::pictures::place;
use spare_tile_core::dots::sprite;
use spare_tile_core::frame::Level;
use spare_tile_core::glyph::OwnGlyphs;
use spare_tile_core::glyph::literals::{self, BareBase};
use spare_tile_firmware::data::{Data, Order};
use spare_tile_firmware::forms::FORMS;
use spare_tile_firmware::table::{Index, Table};

use crate::common::{common, exact, rig, style_and_order};

proptest! {
    #[test]
    fn every_table_is_read_back_from_its_source((style, order) in style_and_order(), common in common()) {
        let name = "signs";
        let table = Table::new(name, &exact(style), order.clone(), common, Index::Masked, &OwnGlyphs::default());
        let table = table.unwrap();
        for form in FORMS.iter().filter(|form| !form.name().ends_with("-asm")) {
            let source = form.write(&table).unwrap();
            // The rows are what stands between the first assignment and the end of the array.
            let array: Vec<_> = source.lines().skip_while(|line| !line.contains('=')).collect();
            let end = array.iter().position(|line| line.starts_with(['}', ']', ')'])).unwrap();
            let word = 8 * order.byte_count().next_power_of_two();
            let values = literals::parse(&array[..=end].join("\n"), BareBase::Hex, word).unwrap();
            let wanted: Vec<_> = table.entries.iter().map(|entry| entry.bits).collect();
            prop_assert_eq!(&values[..wanted.len()], &wanted[..], "{}", form.name());
            prop_assert_eq!(values.len(), table.length());
        }
    }
}

/// The memory of a face's parts, as source has it, is what its driver sends.
#[test]
fn a_frame_for_a_controller_is_what_the_parts_are_sent() {
    let rig = rig(include_str!("../../../cli/demo/board.toml"));
    let mount = &rig.faces[0];
    let gull = sprite::read(include_str!("../../../cli/demo/gull.dots")).unwrap();
    let data = Data::of_sprite("gull", &gull, Order::of(Some(mount))).unwrap();
    let dots = data.arrays.iter().find(|array| array.suffix == "dots").unwrap();
    for (shot, (bytes, _)) in gull.shots.iter().zip(&dots.rows) {
        let mut frame = mount.face.blank();
        place(&mut Canvas::whole(&mount.face, &mut frame), &shot.raster, (0, 0));
        let mut nodes = vec![Level::OFF; mount.wiring.node_count()];
        mount.wiring.to_nodes(frame.levels(), &mut nodes);
        // Nothing is known of the parts yet: every register is sent. The word for the farthest part comes first.
        let (mut driver, mut ops) = (mount.drive.display().driver(), Ops::default());
        driver.frame(&nodes, &mut ops);
        assert_eq!(ops.len(), 8);
        for op in ops.iter() {
            let words: Vec<_> = op.transfer.bytes().chunks(2).rev().collect();
            for (part, word) in words.iter().enumerate() {
                assert_eq!(u16::from(word[1]), bytes[8 * part + usize::from(word[0]) - 1], "part {part}");
            }
        }
    }
}
