//! Acts: what is seen at any moment, and that nothing is missed between the moments at which they say they change.

use std::time::Duration;

use jiff::Timestamp;
use jiff::tz::TimeZone;
use proptest::prelude::*;
use proptest::sample::select;
use spare_tile_core::content::lettering::Look;
use spare_tile_core::content::number::{Decimal, NumberFormat};
use spare_tile_core::content::text::Align;
use spare_tile_core::content::{Canvas, Content, Region};
use spare_tile_core::dots::own;
use spare_tile_core::face::Face;
use spare_tile_core::frame::Frame;
use spare_tile_core::plan::{ButtonId, Keypad};
use spare_tile_core::play::clock::{
    Afternoon, Clock, Colon, DateOrder, Shows, Speed, Style, parse_moment, parse_zone,
};
use spare_tile_core::play::gauge::{Bar, Gauge, Plot, Scale, Source};
use spare_tile_core::play::keyboard::KeyEvent;
use spare_tile_core::play::lamps::Lamps;
use spare_tile_core::play::place::{self, Placed};
use spare_tile_core::play::reading::{Of, Reading, Smooth};
use spare_tile_core::play::scroll::Move;
use spare_tile_core::play::sequence::{Part, Sequence};
use spare_tile_core::play::still::Still;
use spare_tile_core::play::stopwatch::Stopwatch;
use spare_tile_core::play::{Act, Inputs, KeyMoment, Value};

use crate::common::rig;

const SECOND: Duration = Duration::from_secs(1);

fn drawn(act: &dyn Act, face: &Face, inputs: &Inputs, at: Duration) -> Frame {
    let mut frame = face.blank();
    act.draw(at, inputs, &mut Canvas::whole(face, &mut frame));
    frame
}

/// Returns the text of a face of digits.
fn read(act: &dyn Act, face: &Face, inputs: &Inputs, at: Duration) -> String {
    let frame = drawn(act, face, inputs, at);
    let light = frame.levels().iter().map(|level| f32::from(level.0)).collect();
    spare_tile_core::board::picture::Picture { face, light }.reading()
}

/// From a moment to just before the next one at which the act says that it changes, it looks the same.
fn check_next_change(act: &dyn Act, face: &Face, inputs: &Inputs, at: Duration, on_the_way: u32) {
    let now = drawn(act, face, inputs, at);
    let next = act.next_change(at, inputs);
    let until = next.unwrap_or(at + 100_000 * SECOND);
    assert!(until > at, "{until:?} is not after {at:?}");
    let just_before = until - Duration::from_nanos(1);
    for part in 0..=on_the_way {
        let between = at + (just_before - at) * part / on_the_way.max(1);
        assert_eq!(drawn(act, face, inputs, between), now, "at {between:?}, from {at:?} to {until:?}");
    }
}

fn moment(text: &str) -> Timestamp {
    text.parse().unwrap()
}

const PLAIN: Style = Style { seconds: false, twelve: None, colon: Colon::Steady, look: None };

/// Four digits with a colon and without points.
fn landing_clock() -> Face {
    rig(include_str!("../../../cli/demo/desk.toml")).faces.remove(1).face
}

/// Four digits with points and without a colon.
fn gauge() -> Face {
    rig(include_str!("../../../cli/demo/gauge.toml")).faces.remove(0).face
}

/// A clock that begins at a moment.
fn clock_at(from: &str, zone: &str, shows: Shows, (style, face): (Style, Face)) -> (Clock, Face) {
    let zone = parse_zone(zone).unwrap();
    let clock = Clock::new(shows, zone, style, Some(moment(from)), Speed::TRUE, &face, Region::whole(&face));
    (clock.unwrap(), face)
}

fn seen(from: &str, zone: &str, shows: Shows, style: Style, after: &[u64]) -> Vec<String> {
    seen_on(landing_clock(), (from, zone), shows, style, after)
}

fn seen_on(face: Face, (from, zone): (&str, &str), shows: Shows, style: Style, after: &[u64]) -> Vec<String> {
    let (clock, face) = clock_at(from, zone, shows, (style, face));
    after.iter().map(|after| read(&clock, &face, &Inputs::default(), Duration::from_secs(*after))).collect()
}

#[test]
fn the_time_of_day() {
    assert_eq!(
        seen("2026-11-28T07:57:58Z", "UTC", Shows::Time, PLAIN, &[0, 1, 2, 61, 62]),
        ["07:57", "07:57", "07:58", "07:58", "07:59"]
    );
    assert_eq!(seen("2026-11-28T07:58:00Z", "+05:30", Shows::Time, PLAIN, &[0]), ["13:28"]);
    assert_eq!(seen("2026-11-28T00:10:00Z", "-00:20", Shows::Time, PLAIN, &[0]), ["23:50"]);
    // Midnight, and the last second before it.
    assert_eq!(seen("2026-12-31T23:59:59Z", "UTC", Shows::Time, PLAIN, &[0, 1]), ["23:59", "00:00"]);
    assert_eq!(
        seen_on(gauge(), ("2026-12-31T23:59:59Z", "UTC"), Shows::Date(DateOrder::DayMonth), PLAIN, &[0, 1]),
        ["31.12", "01.01"]
    );
}

#[test]
fn twelve_hours_and_the_afternoon() {
    let style = Style { twelve: Some(Afternoon::Point), ..PLAIN };
    let at = |time: &str| {
        seen_on(gauge(), (&format!("2026-11-28T{time}Z"), "UTC"), Shows::Time, style.clone(), &[0]).remove(0)
    };
    assert_eq!(
        [at("00:05"), at("07:58"), at("12:00"), at("13:05"), at("23:59")],
        ["12.05", " 7.58", "12.00.", " 1.05.", "11.59."]
    );
    let style = Style { twelve: Some(Afternoon::Untold), ..PLAIN };
    assert_eq!(seen("2026-11-28T13:05:00Z", "UTC", Shows::Time, style, &[0]), [" 1:05"]);
}

/// Where the clocks are put forward an hour is left out, where they are put back one comes twice.
#[test]
fn clocks_are_put_forward_and_back() {
    let forward = seen("2026-03-29T00:59:59Z", "Europe/Lisbon", Shows::Time, PLAIN, &[0, 1]);
    assert_eq!(forward, ["00:59", "02:00"]);
    let back = seen("2026-10-25T00:59:59Z", "Europe/Lisbon", Shows::Time, PLAIN, &[0, 1, 3601]);
    assert_eq!(back, ["01:59", "01:00", "02:00"]);
    let zone = parse_zone("Europe/Lisbon").unwrap();
    let at = |text: &str| parse_moment(text, &zone, moment("2026-10-25T12:00:00Z")).unwrap().to_string();
    assert_eq!(at("2026-10-25T01:30"), "2026-10-25T00:30:00Z", "the first of the two");
    assert_eq!(at("2026-03-29T01:30"), "2026-03-29T01:30:00Z", "an hour later");
    assert_eq!(
        (at("07:58"), at("2026-10-25T07:58:30+03:00")),
        ("2026-10-25T07:58:00Z".into(), "2026-10-25T04:58:30Z".into())
    );
    // 2016 had a leap second, which is not counted.
    assert_eq!(seen("2016-12-31T23:59:59Z", "UTC", Shows::Time, PLAIN, &[0, 1]), ["23:59", "00:00"]);
}

#[test]
fn a_colon_blinks_with_the_second() {
    let style = Style { colon: Colon::Blinking(SECOND), ..PLAIN };
    let (clock, face) = clock_at("2026-11-28T07:58:00.300Z", "UTC", Shows::Time, (style, landing_clock()));
    let at = |millis: u64| read(&clock, &face, &Inputs::default(), Duration::from_millis(millis));
    assert_eq!([at(0), at(199), at(200), at(699), at(700)], ["07:58", "07:58", "0758", "0758", "07:58"]);
    let next = |millis: u64| clock.next_change(Duration::from_millis(millis), &Inputs::default());
    assert_eq!(next(0), Some(Duration::from_millis(200)));
    let dark = Style { colon: Colon::Dark, ..PLAIN };
    assert_eq!(seen("2026-11-28T07:58:00Z", "UTC", Shows::Time, dark, &[0]), ["0758"]);
}

#[test]
fn to_a_moment_and_since_it() {
    let boat = moment("2026-11-28T07:58:00Z");
    let left = |seconds: bool, after: &[u64]| {
        seen("2026-11-28T06:46:00.500Z", "UTC", Shows::Until(boat), Style { seconds, ..PLAIN }, after)
    };
    // 1 h 11 min 59.5 s: what is begun counts.
    assert_eq!(
        left(false, &[0, 59, 60, 4319, 4320, 9999]),
        ["01:12", "01:12", "01:11", "00:01", "00:00", "00:00"]
    );
    let (clock, _) =
        clock_at("2026-11-28T06:46:00.500Z", "UTC", Shows::Until(boat), (PLAIN, landing_clock()));
    assert_eq!(clock.length(), Some(Duration::from_millis(4_319_500)));
    assert_eq!(clock.next_change(Duration::from_secs(4400), &Inputs::default()), None);
    let since = seen("2026-11-28T07:57:00Z", "UTC", Shows::Since(boat), PLAIN, &[0, 60, 119, 120, 360_060]);
    assert_eq!(since, ["00:00", "00:00", "00:00", "00:01", "--:--"]);
}

/// A clock that follows the one on the wall goes on from where that was set, and notices.
#[test]
fn a_clock_follows_the_wall() {
    let (face, zone) = (landing_clock(), TimeZone::UTC);
    let clock = Clock::new(Shows::Time, zone, PLAIN, None, Speed::TRUE, &face, Region::whole(&face)).unwrap();
    let mut inputs = Inputs::default();
    inputs.set_wall(Duration::ZERO, moment("2026-11-28T07:57:30Z"));
    let at = |inputs: &Inputs, seconds: u64| read(&clock, &face, inputs, Duration::from_secs(seconds));
    assert_eq!([at(&inputs, 0), at(&inputs, 30)], ["07:57", "07:58"]);
    assert_eq!(clock.next_change(Duration::ZERO, &inputs), Some(30 * SECOND));
    inputs.set_wall(10 * SECOND, moment("2026-11-28T09:00:59Z"));
    assert_eq!([at(&inputs, 9), at(&inputs, 10), at(&inputs, 11)], ["07:57", "09:00", "09:01"]);
    assert_eq!(clock.next_change(Duration::ZERO, &inputs), Some(10 * SECOND));
    assert_eq!(clock.next_change(10 * SECOND, &inputs), Some(11 * SECOND));
}

#[test]
fn figures_that_do_not_fit() {
    let face = gauge();
    let new = |shows, style| {
        Clock::new(shows, TimeZone::UTC, style, None, Speed::TRUE, &face, Region::whole(&face))
            .map(|_| ())
            .map_err(|error| error.to_string())
    };
    assert_eq!(new(Shows::Time, PLAIN), Ok(()));
    insta::assert_snapshot!(new(Shows::Time, Style { seconds: true, ..PLAIN }).unwrap_err(), @"the text takes 6 digits; there are 4");
    insta::assert_snapshot!(new(Shows::Date(DateOrder::YearMonthDay), PLAIN).unwrap_err(), @"the text takes 8 digits; there are 4");
    for wrong in ["Quillmoor", "+26", "+2:61", ""] {
        assert!(parse_zone(wrong).is_err(), "{wrong}");
    }
    for wrong in ["25:00", "noon", "", "2026-13-01T00:00"] {
        assert!(parse_moment(wrong, &TimeZone::UTC, Timestamp::UNIX_EPOCH).is_err(), "{wrong}");
    }
}

fn styles() -> impl Strategy<Value = Style> {
    let colon = prop_oneof![
        Just(Colon::Steady),
        Just(Colon::Dark),
        (1..4_000_000_000_u64).prop_map(|nanos| Colon::Blinking(Duration::from_nanos(nanos))),
        Just(Colon::Blinking(SECOND)),
    ];
    let twelve = prop::option::of(select(vec![Afternoon::Untold, Afternoon::Point]));
    (any::<bool>(), twelve, colon).prop_map(|(seconds, twelve, colon)| Style {
        seconds,
        twelve,
        colon,
        look: None,
    })
}

proptest! {
    /// Whatever a clock shows, however it looks, at any speed, in any zone, and when the one on the wall is set: nothing changes
    /// between the moments that it names.
    #[test]
    fn a_clock_misses_nothing(
        style in styles(),
        on_dots in any::<bool>(),
        (shows, to) in (0..5_u8, -400_000..400_000_i64),
        zone in select(vec!["UTC", "Europe/Lisbon", "Asia/Kathmandu", "America/St_Johns", "Africa/Monrovia", "-07:00"]),
        from in prop::option::of(-4_000_000_000_000_000_000..4_000_000_000_000_000_000_i64),
        (shown, passed) in (1..100_u32, 1..50_u32),
        wall in prop::collection::vec((0..100_000_u64, 0..2_000_000_000_i64), 0..3),
        at_ms in 0..100_000_000_u64,
    ) {
        let source = if on_dots { include_str!("../../../cli/demo/board.toml") } else { include_str!("../../../cli/demo/desk.toml") };
        let face = rig(source).faces.remove(0).face;
        let look = on_dots.then(|| Look::of(own::called("small").unwrap()));
        let near = Timestamp::from_nanosecond(from.unwrap_or(0).into()).unwrap();
        let moment = near + jiff::SignedDuration::from_secs(to);
        let shows = match shows {
            0 => Shows::Time,
            1 => Shows::Date(DateOrder::DayMonth),
            2 => Shows::Date(DateOrder::MonthDay),
            3 => Shows::Until(moment),
            _ => Shows::Since(moment),
        };
        let begin = from.map(|_| near);
        let zone = parse_zone(zone).unwrap();
        let style = Style { look, ..style };
        let clock = Clock::new( shows, zone, style, begin, Speed { shown, passed }, &face, Region::whole(&face)).unwrap();
        let mut inputs = Inputs::default();
        for (at, time) in wall {
            inputs.set_wall(Duration::from_secs(at), Timestamp::from_second(time).unwrap());
        }
        check_next_change(&clock, &face, &inputs, Duration::from_millis(at_ms), 5);
    }
}

fn number(text: &str) -> Decimal {
    text.parse().unwrap()
}

fn reading() -> Reading {
    Reading {
        variable: "level".to_owned(),
        of: Of::Last,
        smooth: Smooth::Not,
        band: None,
        every: None,
        stale: None,
        format: NumberFormat { places: Some(1), ..NumberFormat::default() },
        look: None,
    }
}

fn levels(values: &[(u64, &str)]) -> Inputs {
    let mut inputs = Inputs::default();
    values.iter().for_each(|(at, value)| inputs.note("level", Duration::from_secs(*at), Value::of(value)));
    inputs
}

#[test]
fn a_reading_shows_the_last_value_the_least_and_the_most() {
    let inputs = levels(&[(2, "1.5"), (4, "-0.4"), (6, "2.25"), (8, "1")]);
    let shown = |reading: &Reading| -> Vec<String> {
        (1..=9).step_by(2).map(|at| read(reading, &gauge(), &inputs, Duration::from_secs(at))).collect()
    };
    assert_eq!(shown(&reading()), ["----", "  1.5", " -0.4", "  2.3", "  1.0"]);
    assert_eq!(shown(&Reading { of: Of::Least, ..reading() }), ["----", "  1.5", " -0.4", " -0.4", " -0.4"]);
    assert_eq!(shown(&Reading { of: Of::Most, ..reading() }), ["----", "  1.5", "  1.5", "  2.3", "  2.3"]);
    // Without news for three seconds there are dashes.
    let stale = Reading { stale: Some(3 * SECOND), ..reading() };
    let at = |millis| read(&stale, &gauge(), &inputs, Duration::from_millis(millis));
    assert_eq!([at(8000), at(10_999), at(11_000)], ["  1.0", "  1.0", "----"]);
    assert_eq!(stale.next_change(9 * SECOND, &inputs), Some(11 * SECOND));
    // Looked at every five seconds it stays in between.
    let slow = Reading { every: Some(5 * SECOND), ..reading() };
    assert_eq!(
        [4, 5, 9, 10].map(|at| slow.value_at(at * SECOND, &inputs)),
        [None, Some(number("-0.4")), Some(number("-0.4")), Some(number("1"))]
    );
    assert_eq!(slow.next_change(SECOND, &inputs), Some(5 * SECOND));
    // Words are not a number, and the next number is new again.
    let words = levels(&[(1, "1.5"), (2, "off"), (3, "2")]);
    assert_eq!(
        [1, 2, 3].map(|at| reading().value_at(at * SECOND, &words)),
        [Some(number("1.5")), None, Some(number("2"))]
    );
}

#[test]
fn a_reading_is_smoothed() {
    let inputs = levels(&[(0, "1.0"), (1, "2.0"), (2, "9.0"), (3, "2.0"), (10, "4.0")]);
    let at =
        |smooth, seconds: u32| Reading { smooth, ..reading() }.value_at(seconds * SECOND, &inputs).unwrap();
    let mean = Smooth::Mean(3 * SECOND);
    // Values from three seconds before have left the window.
    assert_eq!(
        [at(mean, 0), at(mean, 1), at(mean, 2), at(mean, 3)],
        ["1.000", "1.500", "4.000", "4.333"].map(number)
    );
    assert_eq!(at(mean, 10), number("4.000"));
    let median = Smooth::Median(4 * SECOND);
    assert_eq!([at(median, 1), at(median, 2), at(median, 3)], ["1.0", "2.0", "2.0"].map(number));
}

#[test]
fn a_band_keeps_the_last_digit_still() {
    let inputs = levels(&[(0, "2.04"), (1, "2.06"), (2, "2.09"), (3, "2.10"), (4, "2.03"), (5, "1.9")]);
    let band = Reading { band: Some(number("0.05")), ..reading() };
    let shown = [0, 1, 2, 3, 4, 5].map(|at| band.value_at(at * SECOND, &inputs).unwrap());
    assert_eq!(shown, ["2.04", "2.04", "2.04", "2.10", "2.03", "1.9"].map(number));
}

#[test]
fn a_value_as_a_bar_and_as_a_graph() {
    let board = rig(include_str!("../../../cli/demo/board.toml")).faces.remove(0).face;
    let scale = Scale { from: number("0"), to: number("8") };
    let steps = |value: &str| scale.steps(number(value), 32);
    assert_eq!(
        [steps("-1"), steps("0"), steps("0.12"), steps("0.125"), steps("4"), steps("9")],
        [0, 0, 0, 1, 16, 32]
    );
    let back = Scale { from: number("8"), to: number("-8") };
    assert_eq!(
        [back.steps(number("8"), 4), back.steps(number("0"), 4), back.steps(number("-8"), 4)],
        [0, 2, 4]
    );
    let lit = |act: &dyn Act, inputs: &Inputs, at: u64| -> Vec<String> {
        let frame = drawn(act, &board, inputs, Duration::from_secs(at));
        let is_lit = |x, y| frame.levels()[board.dot(x, y).unwrap().0].0 > 0;
        (0..8).map(|y| (0..32).map(|x| if is_lit(x, y) { '#' } else { '.' }).collect()).collect()
    };
    let inputs = levels(&[(0, "2"), (2, "7"), (3, "x"), (4, "0")]);
    let source = Source::Variable("level".to_owned());
    let bar = Gauge { source: source.clone(), scale, bar: Bar::Dots(Move::Left) };
    assert_eq!(lit(&bar, &inputs, 1)[3], format!("{}{}", ".".repeat(24), "#".repeat(8)));
    assert_eq!(lit(&bar, &inputs, 3)[3], ".".repeat(32), "words are not a value");
    let up = Gauge { bar: Bar::Dots(Move::Up), ..bar };
    assert_eq!(lit(&up, &inputs, 0).iter().filter(|row| row.contains('#')).count(), 2);
    assert!(lit(&up, &inputs, 0)[7].contains('#'));
    let scale = Scale { from: number("0"), to: number("7") };
    let plot = Plot { source, scale, every: SECOND, filled: false };
    let rows: Vec<_> = lit(&plot, &inputs, 4).iter().map(|row| row[27..].to_owned()).collect();
    assert_eq!(rows, ["..#..", ".....", ".....", ".....", ".....", "##...", ".....", "....#"]);
    let filled = lit(&Plot { filled: true, ..plot }, &inputs, 2);
    assert_eq!(
        filled.iter().map(|row| &row[29..]).collect::<Vec<_>>(),
        ["..#", "..#", "..#", "..#", "..#", "###", "###", "###"]
    );
}

#[test]
fn acts_follow_one_another() {
    let still = |words: &str| -> Box<dyn Act> {
        Box::new(Still(Content::Text { words: words.to_owned(), align: Align::Left }))
    };
    let part = |words: &str, begins: u64, ends: Option<u64>| Part {
        act: still(words),
        begins: Duration::from_secs(begins),
        ends: ends.map(Duration::from_secs),
        period: None,
    };
    let right = Region::Digits { start: 2, length: 2 };
    let mut sequence = Sequence::of(
        vec![
            part("12", 0, Some(3)),
            part("34", 4, Some(6)),
            Part {
                act: Box::new(Placed::new(still("9"), place::Part::of(&gauge(), right), right)),
                ..part("9", 5, Some(7))
            },
        ],
        None,
    );
    let shown = |sequence: &Sequence| -> String {
        (0..8)
            .map(|at| format!("{}|", read(sequence, &gauge(), &Inputs::default(), at * SECOND).trim_end()))
            .collect()
    };
    assert_eq!(shown(&sequence), "12|12|12||34|349|  9||");
    assert_eq!(sequence.length(), Some(7 * SECOND));
    sequence.again = Some(4 * SECOND);
    assert_eq!(shown(&sequence), "12|12|12||12|12|12||");
    assert_eq!(
        (sequence.length(), sequence.next_change(5 * SECOND, &Inputs::default())),
        (None, Some(7 * SECOND))
    );
}

proptest! {
    /// Whatever values come, no act of a value misses a change, alone or in a sequence that repeats.
    #[test]
    fn acts_of_values_miss_nothing(
        values in prop::collection::vec((0..20_000_u64, -99..99_i64, any::<bool>()), 0..12),
        of in select(vec![Of::Last, Of::Least, Of::Most]),
        smooth in prop_oneof![
            Just(Smooth::Not),
            (1..9000_u64).prop_map(|ms| Smooth::Mean(Duration::from_millis(ms))),
            (1..9000_u64).prop_map(|ms| Smooth::Median(Duration::from_millis(ms))),
        ],
        (band, every, stale) in (prop::option::of(0..30_i64), prop::option::of(1..3000_u64), prop::option::of(1..9000_u64)),
        which in 0..5_u8,
        (begins, length, period, again) in (0..9000_u64, prop::option::of(1..9000_u64), prop::option::of(1..4000_u64), prop::option::of(1..12_000_u64)),
        at_ms in 0..30_000_u64,
    ) {
        let millis = Duration::from_millis;
        let on_dots = which == 2 || which == 3;
        let source = if on_dots { include_str!("../../../cli/demo/board.toml") } else { include_str!("../../../cli/demo/desk.toml") };
        let face = rig(source).faces.remove(0).face;
        let mut inputs = Inputs::default();
        let mut values = values;
        values.sort_unstable();
        for (at, value, is_number) in values {
            let value = if is_number { Value::Number(Decimal::new(value.into(), 1)) } else { Value::of("no news") };
            inputs.note("level", millis(at), value);
        }
        let scale = Scale { from: number("-8"), to: number("8") };
        let variable = Source::Variable("level".to_owned());
        let act: Box<dyn Act> = match which {
            0 => Box::new(Reading {
                of,
                smooth,
                band: band.map(|band| Decimal::new(band.into(), 1)),
                every: every.map(millis),
                stale: stale.map(millis),
                ..reading()
            }),
            1 => Box::new(Gauge { source: variable, scale, bar: Bar::Lamps((0..face.extras.len()).collect()) }),
            2 => Box::new(Gauge { source: variable, scale, bar: Bar::Dots(Move::Up) }),
            3 => Box::new(Plot { source: variable, scale, every: millis(every.unwrap_or(700)), filled: true }),
            _ => Box::new(Lamps { lamps: vec![0, 2], blink: every.map(millis) }),
        };
        check_next_change(&*act, &face, &inputs, millis(at_ms), 7);
        let ends = length.map(|length| millis(begins + length));
        let part = Part { act, begins: millis(begins), ends, period: period.map(millis) };
        let sequence = Sequence::of(vec![part], again.map(millis));
        check_next_change(&sequence, &face, &inputs, millis(at_ms), 7);
    }
}

proptest! {
    /// Whatever keys are pressed, a stopwatch misses nothing, and shows what has run between its starts and stops.
    #[test]
    fn a_stopwatch_misses_nothing(
        presses in prop::collection::vec((0..200_000_u64, 0..3_usize), 0..12),
        hundredths in any::<bool>(),
        at_ms in 0..220_000_u64,
    ) {
        let face = rig(include_str!("../../../cli/demo/desk.toml")).faces.remove(0).face;
        let desk = |button| ButtonId { keypad: Keypad::Face(0), button };
        let watch = Stopwatch { start: desk(0), lap: Some(desk(1)), hundredths, look: None };
        let mut presses = presses;
        presses.sort_unstable();
        let mut inputs = Inputs::default();
        let (mut ran, mut since, mut held) = (0, None, None);
        for (at, button) in &presses {
            let event = KeyEvent::Down;
            inputs.press(KeyMoment { at: Duration::from_millis(*at), button: desk(*button), event });
            if *at > at_ms {
                continue;
            }
            let total = |since: Option<u64>| ran + since.map_or(0, |since| at - since);
            match (button, since, held) {
                (0, Some(_), _) => (ran, since) = (total(since), None),
                (0, None, _) => since = Some(*at),
                (1, _, Some(_)) => held = None,
                (1, Some(_), None) => held = Some(total(since)),
                (1, None, None) => ran = 0,
                _ => {}
            }
        }
        let total = ran + since.map_or(0, |since| at_ms - since);
        let at = Duration::from_millis(at_ms);
        prop_assert_eq!(watch.shows(at, &inputs), Duration::from_millis(held.unwrap_or(total)));
        check_next_change(&watch, &face, &inputs, at, 3);
    }
}
