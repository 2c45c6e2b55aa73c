//! Greys that the controller makes on lights that it scans itself.

use crate::common::{Powered, rig};
use proptest::prelude::*;
use spare_tile_core::frame::{Frame, Level};
use spare_tile_core::plan::Rig;

/// The beacon with these lines added to its drive.
fn beacon(drive: &str) -> String {
    include_str!("../../../cli/demo/beacon.toml").replace("blanking = \"10us\"", drive)
}

fn frame(levels: &[u8]) -> Frame {
    let mut frame = Frame::dark(levels.len());
    frame.levels_mut().iter_mut().zip(levels).for_each(|(slot, level)| *slot = Level(*level));
    frame
}

/// The light that a level should have, by the definition.
fn wanted(level: u8, bits: i32, gamma: f64) -> f64 {
    let steps = 2_f64.powi(bits) - 1.0;
    ((f64::from(level) / 255.0).powf(gamma) * steps).round() / steps
}

fn error(source: &str) -> String {
    let finding = Rig::read(source).findings.into_iter().find(|finding| finding.trouble.assumed().is_none());
    finding.map_or_else(String::new, |finding| finding.trouble.to_string())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn any_greys_come_back_to_the_depth(
        levels in prop::collection::vec(any::<u8>(), 64),
        bits in 2..=6_i32,
        gamma in prop::sample::select(&[1.0, 2.2]),
        by_columns in any::<bool>(),
        blanking in prop::sample::select(&["0us", "10us"]),
    ) {
        let source = beacon(&format!("blanking = \"{blanking}\"\ndepth = {bits}\ngamma = {gamma:?}"));
        let source = if by_columns { source.replace("scan = \"rows\"", "scan = \"columns\"") } else { source };
        let rig = rig(&source);
        let mut powered = Powered::new(&rig);
        powered.show(&frame(&levels));
        let picture = powered.picture();
        for (level, light) in levels.iter().zip(&picture.light) {
            let wanted = wanted(*level, bits, gamma);
            // A write takes a microsecond, which the shortest of the pieces feels.
            prop_assert!((f64::from(*light) - wanted).abs() < 0.004, "level {level}: {light}, not {wanted}");
        }
    }

    /// Without greys whatever is not dark is lit fully.
    #[test]
    fn without_a_depth_there_are_none(levels in prop::collection::vec(any::<u8>(), 64)) {
        let rig = rig(&beacon("blanking = \"10us\""));
        let mut powered = Powered::new(&rig);
        powered.show(&frame(&levels));
        for (level, light) in levels.iter().zip(&powered.picture().light) {
            prop_assert!((light - f32::from(u8::from(*level > 0))).abs() < 0.01, "{level}: {light}");
        }
    }
}

#[test]
fn greys_through_registers_are_those_of_pins() {
    let outputs = |letters: &str, part: usize| {
        let outputs: Vec<_> = letters.chars().map(|output| format!("\"part{part}.Q{output}\"")).collect();
        outputs.join(", ")
    };
    let rig = rig(&format!(
        "[controller]\nsupply = {{ volts = 5.0, amps = 1.0 }}\n[face.beacon]\nkind = \"dots\"\nwidth = 8\nheight = 8\ncommon = \"anode\"\n\
         [face.beacon.drive]\nmethod = \"shifted\"\npins = {{ data = 1, clock = 2, latch = 3 }}\nclock_hz = 8_000_000\nrows = [{}]\n\
         columns = [{}]\nresistor = {{ ohms = 1000, in = \"segments\" }}\nrefresh_hz = 100\ndepth = 4\ngamma = 1.0\n",
        outputs("ABCDEFGH", 0),
        outputs("ABCDEFGH", 1)
    ));
    let levels: Vec<u8> = (0..64).map(|place| (place % 16 * 17) as u8).collect();
    let mut powered = Powered::new(&rig);
    powered.show(&frame(&levels));
    for (level, light) in levels.iter().zip(&powered.picture().light) {
        let wanted = wanted(*level, 4, 1.0);
        assert!((f64::from(*light) - wanted).abs() < 0.01, "level {level}: {light}, not {wanted}");
    }
}

#[test]
fn greys_that_cannot_be_are_refused_with_the_reason() {
    // The findings about the beacon are the same with greys.
    assert_eq!(error(&beacon("blanking = \"10us\"\ndepth = 4")), error(&beacon("blanking = \"10us\"")));
    assert!(
        error(&beacon("blanking = \"10us\"\ndepth = 7"))
            .starts_with("found 7; expected a number from 1 to 6")
    );
    let dark = error(&beacon("blanking = \"300us\"\ndepth = 4"));
    assert_eq!(
        dark,
        "found a blanking of 300 us; expected less than a piece of a slot, which at 150 Hz is 208 us"
    );
    let slow = error(&beacon("blanking = \"10us\"\ndepth = 6\nwrite = \"15us\""));
    assert!(
        slow.starts_with(
            "found a write of 15 us; expected less than the shortest piece is lit, which at 6 bits"
        ),
        "{slow}"
    );
    let still = include_str!("../../../cli/demo/berth.toml")
        .replace("method = \"static\"", "method = \"static\"\ndepth = 2");
    assert_eq!(error(&still), "lights that are not scanned have no greys");
}
