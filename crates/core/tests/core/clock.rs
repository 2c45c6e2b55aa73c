//! The one clock: what comes when, and that skipping what comes again changes nothing that is seen.

use spare_tile_core::board::Board;
use spare_tile_core::board::eye::Sight;
use spare_tile_core::board::link::Tap;
use spare_tile_core::bus::{Op, Reply};
use spare_tile_core::plan::{DeviceId, Rig};
use spare_tile_core::play::scheduler::Scheduler;
use spare_tile_core::units::Nanos;

use crate::common::{rig, saying};

const GAUGE: &str = include_str!("../../../../demo/gauge.toml");
const QUAY: &str = include_str!("../../../../demo/quay.toml");

/// What is seen of a face over some turns of its scan.
fn seen(rig: &Rig, words: &str, turns: u64, skipping: bool) -> Vec<Sight> {
    let tell = |_: DeviceId, _: &Op<'_>, _: &Reply, _: &mut Board<'_>| {};
    // A tap hears everything, so that nothing can be skipped.
    let mut tapped = Scheduler::new(rig, Tap { link: Board::new(rig), tell });
    let mut plain = Scheduler::new(rig, Board::new(rig));
    let frame = saying(rig, words);
    macro_rules! watch {
        ($scheduler:ident, $board:expr) => {{
            $scheduler.power_up(0).unwrap();
            $scheduler.show(0, &frame).unwrap();
            $scheduler.run_turn(0).unwrap();
            let begin = $scheduler.now();
            $board.open_eyes(begin);
            let end = begin + Nanos($scheduler.turn(0).unwrap().0 * turns);
            $scheduler.run_until(end).unwrap();
            $board.sights(0, end)
        }};
    }
    if skipping { watch!(plain, plain.link_mut()) } else { watch!(tapped, tapped.link_mut().link) }
}

#[test]
fn what_is_skipped_is_seen_all_the_same() {
    for (source, words) in [(GAUGE, "48.7"), (QUAY, "18:4 ")] {
        let rig = rig(source);
        for turns in [3, 4, 5, 17, 100] {
            let (skipped, sent) = (seen(&rig, words, turns, true), seen(&rig, words, turns, false));
            for (element, (skipped, sent)) in skipped.iter().zip(&sent).enumerate() {
                let name = rig.faces[0].face.name_of(spare_tile_core::face::Element(element));
                assert!((skipped.light - sent.light).abs() < 1e-9, "{name} {turns}: {skipped:?} {sent:?}");
                assert_eq!(
                    (skipped.longest_lit, skipped.longest_dark),
                    (sent.longest_lit, sent.longest_dark),
                    "{name} {turns}"
                );
                assert!((skipped.flashes_hz - sent.flashes_hz).abs() < 1e-6, "{name} {turns}");
            }
        }
    }
}
