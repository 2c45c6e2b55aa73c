//! A log of a run that is sent again lights the same lights.

use std::time::Duration;

use proptest::prelude::*;
use spare_tile_core::board::Board;
use spare_tile_core::board::seen::Sight;
use spare_tile_core::bus::{Op, Reply};
use spare_tile_core::link::Tap;
use spare_tile_core::plan::{DeviceId, Rig};
use spare_tile_core::play::reel::read;
use spare_tile_core::play::replay::{Log, Replay, head, line};
use spare_tile_core::play::{Player, Playing};
use spare_tile_core::units::Nanos;

use crate::common::OneSprite;
use crate::common::rig;

const RIGS: [&str; 6] = [
    include_str!("../../../cli/demo/desk.toml"),
    include_str!("../../../cli/demo/gauge.toml"),
    include_str!("../../../cli/demo/quay.toml"),
    include_str!("../../../cli/demo/beacon.toml"),
    include_str!("../../../cli/demo/board.toml"),
    include_str!("../../../cli/demo/departures.toml"),
];

/// A reel with a number on every face.
fn numbers(rig: &Rig) -> String {
    let track = |name: &str| {
        format!(
            "[[track]]\nface = \"{name}\"\n[[track.act]]\ncount = {{ from = 7, step = -1, to = 1, every = \"3ms\" }}\n"
        )
    };
    rig.faces.iter().map(|mount| track(&mount.face.name)).collect()
}

/// Plays it so long: the log, when playing began and was over, and what the eye had seen of each face by then.
fn played(rig: &Rig, length: Duration) -> (String, Nanos, Nanos, Vec<Vec<Sight>>) {
    let program = read(&numbers(rig), rig, &OneSprite, &[]).0.unwrap();
    let mut log = Vec::new();
    let tell = |id: DeviceId, op: &Op<'_>, reply: &Reply, _: &mut Board<'_>| {
        let mount = rig.faces.iter().find(|mount| mount.device == id).unwrap();
        log.push(line(&mount.face.name, op, reply.began));
    };
    let mut player = Player::of_program(rig, &program, Tap { link: Board::new(rig), tell }).unwrap();
    player.advance(length).unwrap();
    let (begins, now) = (player.moment(Duration::ZERO), player.scheduler().now());
    let board = &mut player.scheduler_mut().link_mut().link;
    let seen = (0..rig.faces.len()).map(|face| board.sights(face, now)).collect();
    drop(player);
    (format!("{}\n{}", head(begins, length), log.join("\n")), begins, now, seen)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn a_run_that_is_sent_again_is_the_same(which in 0..RIGS.len(), length_us in 1_000..30_000_u64) {
        let rig = rig(RIGS[which]);
        let length = Duration::from_micros(length_us);
        let (text, begins, now, seen) = played(&rig, length);
        let log = Log::read(&text, &rig).unwrap();
        prop_assert_eq!(log.length(), length);
        let mut replay = Replay::new(&rig, &log, Board::new(&rig));
        replay.advance((now - begins).into()).unwrap();
        let again: Vec<_> = (0..rig.faces.len()).map(|face| replay.link_mut().sights(face, now)).collect();
        prop_assert!(again == seen, "{:?}", rig.name);
    }

    #[test]
    fn any_text_is_a_log_or_not(text in "[a-z0-9{}\":, \n]{0,200}", put in 0..400_usize) {
        let rig = rig(RIGS[0]);
        let _ = Log::read(&text, &rig);
        let (sound, ..) = played(&rig, Duration::from_millis(2));
        let spoiled: String = sound.chars().take(put).chain(text.chars()).chain(sound.chars().skip(put)).collect();
        let _ = Log::read(&spoiled, &rig);
    }
}

#[test]
fn no_update_is_seen_in_part() {
    for rig in [RIGS[0], RIGS[2], RIGS[4]].map(rig) {
        let length = Duration::from_millis(15);
        let (text, begins, ..) = played(&rig, length);
        let log = Log::read(&text, &rig).unwrap();
        let at = |moment: Duration| {
            let mut replay = Replay::new(&rig, &log, Board::new(&rig).at_rest());
            replay.advance(moment).unwrap();
            replay.pictures().into_iter().map(|picture| picture.light).collect::<Vec<_>>()
        };
        // Late in each step everything has been sent.
        let whole: Vec<_> = (0..6).map(|step| at(Duration::from_micros(3_000 * step + 2_990))).collect();
        for line in text.lines().skip(1) {
            let line: serde_json::Value = serde_json::from_str(line).unwrap();
            let Some(moment) = line["at_ns"].as_u64().unwrap().checked_sub(begins.0) else { continue };
            // Scanned faces are seen over a turn.
            let stands = |face: &usize| rig.faces[*face].drive.display().scan().is_none();
            for (face, light) in
                at(Duration::from_nanos(moment)).iter().enumerate().filter(|(face, _)| stands(face))
            {
                assert!(whole.iter().any(|step| step[face] == *light), "{:?}: {line}", rig.name);
            }
        }
    }
}

#[test]
fn what_is_wrong_is_said_with_its_line() {
    let rig = rig(RIGS[0]);
    let wrong = |lines: &str| {
        let text = format!("{}\n{lines}", head(Nanos(0), Duration::from_secs(1)));
        Log::read(&text, &rig).map(|_| ()).unwrap_err().to_string()
    };
    let op = |rest: &str| format!("{{\"at_ns\":5,\"face\":\"desk\",\"role\":\"frame\",{rest}}}");
    insta::assert_debug_snapshot!([
        Log::read("", &rig).unwrap_err().to_string(),
        Log::read("{\"spare_tile_ops\":2,\"begins_ns\":0,\"length_ns\":5}", &rig).unwrap_err().to_string(),
        Log::read("name = 3", &rig).unwrap_err().to_string(),
        wrong(&op("\"bus\":\"strobe\",\"bytes\":\"4\"")),
        wrong(&op("\"bus\":\"i2c\",\"bytes\":\"40\"")),
        wrong(&op("\"bus\":\"can\",\"bytes\":\"40\"")),
        wrong(&op("\"bus\":\"ports\",\"bytes\":\"40\"")),
        wrong(&op("\"bus\":\"strobe\",\"reads\":100000")),
        wrong(&op("\"bus\":\"strobe\"").replace("desk", "dusk")),
        wrong(&op("\"bus\":\"strobe\"").replace("frame", "fame")),
    ], @r#"
    [
        "line 1: there is nothing in it",
        "line 1: version 2 of the form; this program reads 1",
        "line 1: this is not JSON: expected ident",
        "line 2: '4' is not a byte of two hexadecimal digits",
        "line 2: an i2c transfer has an address from 0 to 127",
        "line 2: unknown variant `can`, expected one of `spi`, `i2c`, `two-wire`, `strobe`, `shift`, `outputs-off`, `ports`, `burst`, `inputs`",
        "line 2: the mask of ports is as long as their bytes",
        "line 2: 100000 bytes to be read; 64 at most",
        "line 2: the rig has no face 'dusk'",
        "line 2: 'fame' is not a role of an operation",
    ]
    "#);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// A skip to a moment shows the same picture as playing up to it.
    #[test]
    fn a_skip_shows_what_playing_shows(which in 0..RIGS.len(), at_ms in 0..4_000_u64) {
        let rig = rig(RIGS[which]);
        let at = Duration::from_millis(at_ms);
        // It changes often, and goes on for longer than a skip draws before its end.
        let reel = numbers(&rig).replace("3ms", "300ms").replace("[[track]]", "[[track]]\nloop = true");
        let program = read(&reel, &rig, &OneSprite, &[]).0.unwrap();
        let seen = |skips: bool| {
            let mut player = Player::of_program(&rig, &program, Board::new(&rig)).unwrap();
            if !skips {
                // Draw everything before it.
                player.advance(at.saturating_sub(Duration::from_nanos(1))).unwrap();
            }
            player.skip_to(at).unwrap();
            player.expose().unwrap();
            player.pictures().into_iter().map(|picture| picture.reading()).collect::<Vec<_>>()
        };
        prop_assert_eq!(seen(true), seen(false));
    }
}
