//! The one clock: what comes when, and that skipping what comes again changes nothing that is seen.

use std::cell::RefCell;
use std::time::Duration;

use proptest::prelude::*;
use proptest::sample::Index;
use spare_tile_core::board::Board;
use spare_tile_core::board::eye::Eye;
use spare_tile_core::board::seen::Sight;
use spare_tile_core::bus::{Edge, Op, Reply, Role};
use spare_tile_core::content::text::Align;
use spare_tile_core::content::{Canvas, Region};
use spare_tile_core::face::Face;
use spare_tile_core::link::{Link, LinkError, Simulated, Tap};
use spare_tile_core::plan::{BothRigs, ButtonId, DeviceId, Keypad, Rig};
use spare_tile_core::play::count::{Count, Pace, Range};
use spare_tile_core::play::keyboard::KeyEvent;
use spare_tile_core::play::place::{Part, Placed};
use spare_tile_core::play::scheduler::Scheduler;
use spare_tile_core::play::turn::Turn;
use spare_tile_core::play::{Act, Inputs, KeyMoment, Player, Reel, Track};
use spare_tile_core::units::Nanos;

use crate::common::{rig, saying};

const GAUGE: &str = include_str!("../../../cli/demo/gauge.toml");
const QUAY: &str = include_str!("../../../cli/demo/quay.toml");

/// Returns the perceived light of a face over some cycles of its scan.
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

/// A board that counts what is sent to it.
struct Counting<'r> {
    board: Board<'r>,
    sent: usize,
}

impl Link for Counting<'_> {
    fn transfer(&mut self, device: DeviceId, op: &Op<'_>) -> Result<Reply, LinkError> {
        self.sent += 1;
        self.board.transfer(device, op)
    }

    fn free_at(&self, device: DeviceId) -> Nanos {
        self.board.free_at(device)
    }

    fn flush(&mut self, now: Nanos) -> Result<(), LinkError> {
        self.board.flush(now)
    }

    fn simulated(&mut self) -> Option<&mut dyn Simulated> {
        self.board.simulated()
    }
}

/// Parts of other faces that hear nothing do not keep a scan from being skipped.
#[test]
fn an_hour_of_a_scan_is_few_transfers() {
    for source in [GAUGE, QUAY] {
        let rig = rig(source);
        let mut scheduler = Scheduler::new(&rig, Counting { board: Board::new(&rig), sent: 0 });
        for face in 0..rig.faces.len() {
            scheduler.power_up(face).unwrap();
        }
        scheduler.show(0, &saying(&rig, "48")).unwrap();
        let hour = scheduler.now() + Nanos(3_600_000_000_000);
        scheduler.run_until(hour).unwrap();
        let sent = scheduler.link_mut().sent;
        assert!(sent < 300, "{sent}");
    }
}

/// Words that stay, or one for each call that was pressed.
struct Calls(&'static str);

impl Act for Calls {
    fn draw(&self, _: Duration, inputs: &Inputs, canvas: &mut Canvas<'_>) {
        let pressed = inputs.keys(Duration::MAX).iter().filter(|key| key.event == KeyEvent::Down).count();
        canvas.write(&format!("{}{pressed}", self.0), Align::Left).unwrap();
    }

    fn next_change(&self, _: Duration, _: &Inputs) -> Option<Duration> {
        None
    }

    fn length(&self) -> Option<Duration> {
        None
    }
}

fn place(rig: &Rig, name: &str) -> usize {
    rig.faces.iter().position(|mount| mount.face.name == name).unwrap()
}

fn counting(every: Duration, face: &Face) -> Box<dyn Act> {
    let hold = Duration::from_secs(1);
    let range = Range { from: 0.into(), to: Some(9999.into()), step: 1.into() };
    Box::new(Count::new(range, Pace { every, hold, again: false }, Default::default(), None, face).unwrap())
}

fn reel(tracks: impl IntoIterator<Item = (usize, Box<dyn Act>)>) -> Reel {
    let track = |(face, act)| Track { face, act };
    Reel { tracks: tracks.into_iter().map(track).collect() }
}

/// Returns the transfers of a reel up to a time: the device, and their beginning and end.
fn sent(rig: &Rig, reel: &Reel, length: Duration) -> Vec<(DeviceId, Nanos, Nanos)> {
    let sent = RefCell::new(Vec::new());
    let tell = |device: DeviceId, _: &Op<'_>, reply: &Reply, _: &mut Board<'_>| {
        sent.borrow_mut().push((device, reply.began, reply.ended));
    };
    let mut player = Player::new(rig, reel, Tap { link: Board::new(rig), tell }).unwrap();
    let begin = player.scheduler().now();
    player.advance(length).unwrap();
    drop(player);
    let mut sent = sent.into_inner();
    sent.retain(|(_, began, _)| *began >= begin);
    sent
}

/// Letters at 0x70 and four digits at 0x71, on the same two wires.
const SHARED: &str = r#"
    [face.boat]
    kind = "fourteen-segment"
    digits = 8
    [face.boat.drive]
    method = "ht16k33"
    pins = { clock = "GPIO22", data = "GPIO21" }
    addresses = [0x70]
    [face.wait]
    kind = "seven-segment"
    digits = 4
    [face.wait.drive]
    method = "ht16k33"
    pins = { clock = "GPIO22", data = "GPIO21" }
    addresses = [0x71]
"#;

#[test]
fn faces_on_one_bus_take_turns() {
    let rig = rig(SHARED);
    assert_eq!(rig.buses.len(), 1);
    let reel = reel([
        (0, counting(Duration::from_millis(7), &rig.faces[0].face)),
        (1, counting(Duration::from_millis(5), &rig.faces[1].face)),
    ]);
    let sent = sent(&rig, &reel, Duration::from_millis(500));
    for pair in sent.windows(2) {
        assert!(pair[0].2 <= pair[1].1, "{pair:?}");
    }
    let of = |face: usize| sent.iter().filter(|(device, ..)| *device == rig.faces[face].device).count();
    // A frame of either is a transfer, or two where what changed lies apart.
    assert!((71..150).contains(&of(0)) && (99..210).contains(&of(1)), "{} {}", of(0), of(1));
    let mut player = Player::new(&rig, &reel, Board::new(&rig)).unwrap();
    player.advance(Duration::from_millis(500)).unwrap();
    let now = player.scheduler().now();
    let board = player.scheduler_mut().link_mut();
    let readings = [0, 1].map(|face| board.picture(face, now).unwrap().reading());
    assert_eq!(readings, ["      71", " 100"]);
}

/// A change that comes while the bus is busy is drawn when the bus is free, with its content at that time.
#[test]
fn late_frames_are_left_out_and_time_does_not_run_away() {
    let rig = rig(include_str!("../../../cli/demo/desk.toml"));
    let clock = place(&rig, "clock");
    let reel = reel([(clock, counting(Duration::from_micros(100), &rig.faces[clock].face))]);
    let mut player = Player::new(&rig, &reel, Board::new(&rig)).unwrap();
    let mut frames = 0;
    let length = Duration::from_millis(100);
    while let Some(next) = player.next_moment().filter(|next| *next < length) {
        frames += usize::from(player.advance(next).unwrap());
        let late = player.scheduler().free_at(clock).max(player.moment(next)) - player.moment(next);
        assert!(late < Nanos(1_000_000), "after {next:?} the bus is behind by {late}");
    }
    // An address and a digit are 18 clocks of 10 us with start and stop around them: about 0.22 ms.
    assert!((400..=460).contains(&frames), "{frames} of 1000");
    player.advance(length).unwrap();
    let now = player.scheduler().now();
    let shown: u32 =
        player.scheduler_mut().link_mut().picture(clock, now).unwrap().reading().trim().parse().unwrap();
    assert!((980..=1000).contains(&shown), "{shown}");
}

/// Of the changes within a slot of a scan only the last can be seen: those between it and the first are not drawn.
#[test]
fn a_scan_takes_a_frame_for_each_slot() {
    let rig = rig(GAUGE);
    let reel = reel([(0, counting(Duration::from_micros(1), &rig.faces[0].face))]);
    let mut player = Player::new(&rig, &reel, Board::new(&rig)).unwrap();
    let slot: Duration = player.scheduler().scan(0).unwrap().slot.into();
    let (mut frames, mut last) = (0_usize, Duration::ZERO);
    while let Some(next) = player.next_moment().filter(|next| *next < 4 * slot) {
        frames += usize::from(player.advance(next).unwrap());
        assert!(next - last <= slot + Duration::from_micros(1), "{last:?} to {next:?}");
        last = next;
    }
    // In each the first change, because no frame waits, and the last.
    assert!((8..=9).contains(&frames), "{frames} frames in 4 slots");
}

#[test]
fn what_stays_sends_nothing_but_its_resends() {
    let rig = rig(include_str!("../../../cli/demo/desk.toml"));
    let sent_for = |face: &str, length: u64| {
        let reel = reel([(place(&rig, face), Box::new(Calls("TEAL ")) as Box<dyn Act>)]);
        sent(&rig, &reel, Duration::from_secs(length))
            .into_iter()
            .map(|(_, began, _)| began)
            .collect::<Vec<_>>()
    };
    // The sign has no resend: the frame, and silence.
    let sign = sent_for("sign", 100);
    assert!(
        !sign.is_empty() && sign.iter().all(|at| *at < Nanos::from(Duration::from_millis(100))),
        "{sign:?}"
    );
    // The desk says everything again every ten seconds: at 10, 20 and 30 of 35.
    let desk = sent_for("desk", 35);
    let seconds: std::collections::BTreeSet<u64> = desk.iter().map(|at| at.0 / 1_000_000_000).collect();
    assert_eq!(seconds.into_iter().collect::<Vec<_>>(), [0, 10, 20, 30]);
}

#[test]
fn push_buttons_that_are_polled_become_inputs() {
    let rig = rig(include_str!("../../../cli/demo/desk.toml"));
    let desk = place(&rig, "desk");
    let reel = reel([(desk, Box::new(Calls("CALL ")) as Box<dyn Act>)]);
    let mut player = Player::new(&rig, &reel, Board::new(&rig)).unwrap();
    player.poll_buttons(Keypad::Face(desk), Duration::from_millis(5));
    let mut read = |at: u64, press: Option<bool>| {
        player.advance(Duration::from_millis(at)).unwrap();
        let now = player.scheduler().now();
        let board = player.scheduler_mut().link_mut();
        if let Some(down) = press {
            board.press(ButtonId { keypad: Keypad::Face(desk), button: 2 }, down);
        }
        (board.picture(desk, now).unwrap().reading(), player.inputs().keys(Duration::MAX).to_vec())
    };
    assert_eq!(read(50, Some(true)).0, "CALL 0  ");
    // Contacts bounce: a press counts once it has stood for 20 ms.
    assert_eq!(read(60, None).0, "CALL 0  ");
    let (reading, keys) = read(100, Some(false));
    assert_eq!(reading, "CALL 1  ");
    let [KeyMoment { at, button, event: KeyEvent::Down }] = keys[..] else { panic!("{keys:?}") };
    assert_eq!(button, ButtonId { keypad: Keypad::Face(desk), button: 2 });
    assert!((70..=85).contains(&at.as_millis()), "{at:?}");
    let (_, keys) = read(200, None);
    assert_eq!(keys.iter().map(|key| key.event).collect::<Vec<_>>(), [KeyEvent::Down, KeyEvent::Up]);
}

#[test]
fn two_acts_share_a_face() {
    let rig = crate::common::max7219(8, "");
    let half = |start, make: fn(&Face) -> Box<dyn Act>| -> Box<dyn Act> {
        let region = Region::Digits { start, length: 4 };
        let part = Part::of(&rig.faces[0].face, region);
        Box::new(Placed::new(make(&part.face), part, region))
    };
    let count = |face: &Face| counting(Duration::from_millis(100), face);
    let reel = reel([(0, half(0, |_| Box::new(Calls("At ")))), (0, half(4, count))]);
    let mut player = Player::new(&rig, &reel, Board::new(&rig)).unwrap();
    for (at, reading) in [(50, "At 0   0"), (1250, "At 0  12"), (99_999, "At 0 999")] {
        player.advance(Duration::from_millis(at)).unwrap();
        let now = player.scheduler().now();
        assert_eq!(player.scheduler_mut().link_mut().picture(0, now).unwrap().reading(), reading);
    }
}

/// A scan goes on while frames come, and no turn of it is cut: each digit has its whole slot.
#[test]
fn frames_never_cut_a_turn_of_the_scan() {
    let rig = rig(GAUGE);
    let reel = reel([(0, counting(Duration::from_micros(3_300), &rig.faces[0].face))]);
    let sent = sent(&rig, &reel, Duration::from_millis(500));
    // Frames and the dark before them, by turns: eight writes a turn of 8.33 ms.
    let begins: Vec<u64> = sent.iter().map(|(_, began, _)| began.0).collect();
    let slots: Vec<u64> = begins.chunks(2).map(|pair| pair[0]).collect();
    assert!(slots.len() >= 239, "{}", slots.len());
    for pair in slots.windows(2) {
        assert!((2_083_000..=2_084_000).contains(&(pair[1] - pair[0])), "{pair:?}");
    }
}

/// Moments count from the beginning: after thirty days a frame still comes at its own, to the nanosecond. A rate that does not go
/// into a second drifts no more than one that does.
#[test]
fn after_thirty_days_frames_come_at_their_moments() {
    let rig = crate::common::max7219(8, "");
    let month = Duration::from_secs(30 * 24 * 3600);
    let every = Duration::from_nanos(61_234_567_891);
    let range = Range { from: 0.into(), to: None, step: 1.into() };
    let pace = Pace { every, hold: every, again: false };
    let count = Count::new(range, pace, Default::default(), None, &rig.faces[0].face).unwrap();
    let reel = reel([(0, Box::new(count) as Box<dyn Act>)]);
    let mut shown: Vec<Nanos> = Vec::new();
    let tell = |_: DeviceId, op: &Op<'_>, reply: &Reply, _: &mut Board<'_>| {
        if op.role == Role::Frame && shown.last().is_none_or(|last| reply.began - *last > Nanos(1_000_000)) {
            shown.push(reply.began);
        }
    };
    let mut player = Player::new(&rig, &reel, Tap { link: Board::new(&rig), tell }).unwrap();
    let begins = player.moment(Duration::ZERO);
    player.advance(month).unwrap();
    drop(player);
    assert_eq!(shown.len() as u128, month.as_nanos() / every.as_nanos() + 1);
    for (place, began) in shown.iter().enumerate() {
        assert_eq!(*began - begins, Nanos(every.as_nanos() as u64 * place as u64), "frame {place}");
    }
}

/// An event for an eye.
#[derive(Debug, Clone)]
enum Happening {
    /// Turns of one of three pictures come, so many, each so much longer than it needs to be.
    Turns(usize, u64, u64),
    /// Time passes.
    Passes(u64),
    /// Somebody looks so far ahead that the next turns come late.
    Ahead(u64),
    /// The same, up to an edge of one of the pictures, so that the edges before it come late.
    AheadInto(usize, Index),
    /// A new window opens.
    Opens,
}

fn happening() -> impl Strategy<Value = Happening> {
    prop_oneof![
        4 => (0..3_usize, 1..9_u64, 0..2_u64).prop_map(|(words, turns, longer)| {
            Happening::Turns(words, turns, longer * 7)
        }),
        1 => (0..3_000_000_u64).prop_map(Happening::Passes),
        1 => (0..90_000_000_u64).prop_map(Happening::Ahead),
        1 => (0..3_usize, any::<Index>()).prop_map(|(words, edge)| Happening::AheadInto(words, edge)),
        1 => Just(Happening::Opens),
    ]
}

/// Shows the same edges to an eye that gets whole turns, and recognises that they repeat, and to one that gets a moment at
/// a time, and cannot.
fn both_eyes_see_the_same(slow: bool, happenings: Vec<Happening>) -> Result<(), TestCaseError> {
    // Transistors that let go late light the digit before with the segments of the next.
    let switch = if slow { "{ kind = \"npn\", turn_off = \"50us\" }" } else { "\"npn\"" };
    let source = GAUGE.replace("= \"npn\"", &format!("= {switch}"));
    let rig = rig(&source);
    let mount = &rig.faces[0];
    let turns: Vec<_> = ["48.7", "1111", "-"]
        .map(|words| Turn::record(BothRigs::new(&rig, None), 0, &saying(&rig, words)).unwrap().unwrap())
        .into();
    let new = || {
        let display = mount.drive.display();
        Eye::new(display.model(&mount.face), display.geometry(&mount.face).node_count())
    };
    let (mut by_turn, mut by_moment, mut now) = (new(), new(), Nanos(0));
    for happening in happenings {
        match happening {
            Happening::Turns(words, times, longer) => {
                for _ in 0..times {
                    let turn = &turns[words];
                    let edges: Vec<_> =
                        turn.edges.iter().map(|edge| Edge { at: now + edge.at, ..*edge }).collect();
                    by_turn.take(&edges);
                    edges.chunk_by(|a, b| a.at == b.at).for_each(|moment| by_moment.take(moment));
                    now = now + turn.length + Nanos(longer);
                }
            }
            Happening::Passes(time) => {
                now = now + Nanos(time);
                by_turn.pass(now);
                by_moment.pass(now);
            }
            Happening::Ahead(time) => {
                by_turn.pass(now + Nanos(time));
                by_moment.pass(now + Nanos(time));
            }
            Happening::AheadInto(words, edge) => {
                let at = now + edge.get(&turns[words].edges).at;
                by_turn.pass(at);
                by_moment.pass(at);
            }
            Happening::Opens => {
                by_turn.open(now);
                by_moment.open(now);
            }
        }
        prop_assert_eq!(by_turn.now(), by_moment.now());
        prop_assert_eq!(by_turn.light(), by_moment.light());
    }
    prop_assert_eq!(by_turn.sights(now), by_moment.sights(now));
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn a_stream_that_repeats_is_seen_all_the_same(
        slow in any::<bool>(),
        happenings in proptest::collection::vec(happening(), 1..12),
    ) {
        both_eyes_see_the_same(slow, happenings)?;
    }
}

/// A turn of which all edges but the last come late ends on time, and is not the turn of the stream.
#[test]
fn a_turn_that_is_late_in_part_is_not_repeated() {
    let happenings = vec![Happening::Ahead(35_416_680), Happening::Opens, Happening::Turns(0, 7, 0)];
    both_eyes_see_the_same(false, happenings).unwrap();
}
