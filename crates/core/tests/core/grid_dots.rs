//! Dots on parts with a display memory of grids and lines.

use crate::common::{Powered, frame, lit, rig};
use proptest::prelude::*;
use spare_tile_core::bus::{Ops, Transfer};
use spare_tile_core::face::Element;
use spare_tile_core::frame::Level;
use spare_tile_core::plan::Rig;

/// Dots on a part, with these lines added to the face and to its drive.
fn source((width, height): (usize, usize), method: &str, face: &str, drive: &str) -> String {
    let pins = if method == "tm1638" { "clock = 1, data = 2, strobe = 3" } else { "clock = 1, data = 2" };
    format!(
        "[face.beacon]\nkind = \"dots\"\nwidth = {width}\nheight = {height}\n{face}\n[face.beacon.drive]\nmethod = \"{method}\"\n\
         pins = {{ {pins} }}\n{drive}\n"
    )
}

fn names(prefix: &str, numbers: &[usize]) -> String {
    let names: Vec<_> = numbers.iter().map(|number| format!("\"{prefix}{number}\"")).collect();
    format!("[{}]", names.join(", "))
}

/// The errors of a rig, without the notes.
fn error(source: &str) -> String {
    let finding = Rig::read(source).findings.into_iter().find(|finding| finding.trouble.assumed().is_none());
    finding.map_or_else(String::new, |finding| finding.trouble.to_string())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// Rows and columns on any grids and lines, either way round, are wired as they are built.
    #[test]
    fn any_picture_on_any_lines_comes_back(
        coms in Just((0..8_usize).collect::<Vec<_>>()).prop_shuffle(),
        rows in Just((0..16_usize).collect::<Vec<_>>()).prop_shuffle(),
        (crossed, two) in (any::<bool>(), any::<bool>()),
        lights in prop::collection::vec(any::<bool>(), 128),
    ) {
        let (grids, lines) = (names("com", &coms), names("row", &rows[..8]));
        let green = names("row", &rows[8..]);
        let (keys, green_key) = if crossed { (("columns", "rows"), "green_rows") } else { (("rows", "columns"), "green_columns") };
        let green = if two { format!("{green_key} = {green}") } else { String::new() };
        let drive = format!("{} = {grids}\n{} = {lines}\n{green}", keys.0, keys.1);
        let face = if two { "colours = [\"red\", \"green\"]" } else { "" };
        let rig = rig(&source((8, 8), "ht16k33", face, &drive));
        let lights = &lights[..rig.faces[0].face.element_count()];
        let mut powered = Powered::new(&rig);
        powered.show(&frame(lights));
        prop_assert_eq!(&lit(&powered.picture()), lights);
    }

    /// A module that lies otherwise than its rig says shows the picture turned as it lies.
    #[test]
    fn a_module_that_lies_otherwise_shows_the_picture_turned(lights in prop::collection::vec(any::<bool>(), 64)) {
        let described = rig(&source((8, 8), "tm1638", "", ""));
        let upwards: Vec<_> = (1..=8).collect();
        let downwards: Vec<_> = (1..=8).rev().collect();
        let seen = |rows: String, columns: String| {
            let built = rig(&source((8, 8), "tm1638", "", &format!("rows = {rows}\ncolumns = {columns}")));
            let mut powered = Powered::built_as(&described, &built);
            powered.show(&frame(&lights));
            lit(&powered.picture())
        };
        let from = |at: &dyn Fn(usize, usize) -> (usize, usize)| -> Vec<bool> {
            (0..64).map(|place| at(place % 8, place / 8)).map(|(x, y)| lights[y * 8 + x]).collect()
        };
        prop_assert_eq!(seen(names("grid", &upwards), names("seg", &upwards)), lights.clone());
        prop_assert_eq!(seen(names("grid", &downwards), names("seg", &upwards)), from(&|x, y| (x, 7 - y)));
        prop_assert_eq!(seen(names("grid", &downwards), names("seg", &downwards)), from(&|x, y| (7 - x, 7 - y)));
        prop_assert_eq!(seen(names("seg", &upwards), names("grid", &upwards)), from(&|x, y| (y, x)));
    }

    #[test]
    fn parts_side_by_side_make_one_face(lights in prop::collection::vec(any::<bool>(), 32 * 8)) {
        let rig = rig(&source((32, 8), "ht16k33", "", ""));
        prop_assert_eq!(rig.faces[0].drive.display().parts(), "2 ht16k33");
        let mut powered = Powered::new(&rig);
        powered.show(&frame(&lights));
        prop_assert_eq!(lit(&powered.picture()), lights);
    }
}

/// By the data sheet: byte 2c is rows 0-7 of common c, byte 2c + 1 rows 8-15.
#[test]
fn red_and_green_are_in_bytes_of_their_own() {
    let rig = rig(&source((8, 8), "ht16k33", "colours = [\"red\", \"green\"]", ""));
    let mount = &rig.faces[0];
    let mut frame = mount.face.blank();
    let Element(first) = mount.face.dot(3, 2).unwrap();
    // Row 2, column 3: red alone. Row 2, column 0: both.
    frame.levels_mut()[first] = Level::FULL;
    let Element(first) = mount.face.dot(0, 2).unwrap();
    frame.levels_mut()[first..first + 2].fill(Level::FULL);
    let mut nodes = vec![Level::OFF; mount.wiring.node_count()];
    mount.wiring.to_nodes(frame.levels(), &mut nodes);
    let (mut driver, mut ops) = (mount.drive.display().driver(), Ops::default());
    driver.power_up(&mut ops);
    ops.clear();
    driver.frame(&nodes, &mut ops);
    let sent: Vec<_> = ops.iter().map(|op| op.transfer).collect();
    assert_eq!(sent, [Transfer::I2c { address: 0x70, bytes: &[0x04, 0b1001, 0b0001], reads: 0 }]);
}

#[test]
fn what_cannot_be_is_told() {
    let of = |size, face: &str, drive: &str| error(&source(size, "tm1638", face, drive));
    assert_eq!(of((8, 8), "", ""), "");
    assert_eq!(of((12, 8), "", ""), "the key 'rows' is missing");
    assert_eq!(
        of((8, 8), "colours = [\"red\", \"green\"]", ""),
        "the method tm1638 drives dots of one colour"
    );
    let upwards: Vec<_> = (1..=8).collect();
    let grids = names("grid", &upwards);
    assert!(of((8, 8), "", &format!("rows = {grids}\ncolumns = {grids}")).starts_with("found a mixture"));
    assert!(of((8, 8), "", "rows = [\"com1\"]").starts_with("1 rows are wired; the face has 8"));
    let twice = names("seg", &[1, 1, 2, 3, 4, 5, 6, 7]);
    assert_eq!(of((8, 8), "", &format!("columns = {twice}")), "node grid1.seg1 is used by two lights");
    assert!(
        of((8, 8), "", &format!("rows = {}", names("com", &upwards)))
            .contains("expected grid1 to grid8, or seg1 to seg10")
    );
    let lamp = "lamps = [{ name = \"x\", node = \"grid1.seg9\" }]";
    assert_eq!(of((8, 8), lamp, ""), "the method tm1638 lights nothing on this face but its dots");
}
