//! Projects for controllers: what a program sends for any picture lights that picture on the board, and figures are written as the
//! acts write them.

use proptest::prelude::*;
use spare_tile_core::board::Board;
use spare_tile_core::bus::panel::Controls;
use spare_tile_core::bus::{Op, Protocol, Role, Transfer};
use spare_tile_core::content::number::Decimal;
use spare_tile_core::face::Element;
use spare_tile_core::frame::{Frame, Level};
use spare_tile_core::link::Link;
use spare_tile_core::plan::{ButtonId, Keypad, Mount, Rig};
use spare_tile_core::play::gauge::Scale;
use spare_tile_core::play::{Inputs, reel};
use spare_tile_core::units::Nanos;
use spare_tile_firmware::project::making::Content;
use spare_tile_firmware::project::model::Model;
use spare_tile_firmware::project::names::Names;
use spare_tile_firmware::project::passage::{Passage, Steadied, Valued};
use spare_tile_firmware::project::sending::{Carried, Cell, Scan, Sending, Step, Unlearnt};
use spare_tile_firmware::project::story::{Story, Writing};
use spare_tile_firmware::project::values::lives;
use spare_tile_firmware::template::{Comment, harmless};

use crate::common::{LANDING, frame, max7219, rig};

/// The lines of one face in a program.
struct Program<'r> {
    board: Board<'r>,
    mount: &'r Mount,
    protocol: &'r Protocol,
}

impl Program<'_> {
    /// Sends a transfer with bytes of the image, as soon as it may begin; when it is over.
    fn send(&mut self, step: &Step, image: &[u8], at: Nanos) -> Nanos {
        let byte = |cell: &Cell| match *cell {
            Cell::Fixed(byte) => byte,
            Cell::Image(place) => image[place],
        };
        let bytes: Vec<u8> = step.cells.iter().map(byte).collect();
        let transfer = match (&step.carried, self.protocol) {
            (Carried::To(address), _) => Transfer::I2c { address: *address, bytes: &bytes, reads: 0 },
            (Carried::OutputsOff, _) => Transfer::OutputsOff,
            (Carried::Levels(mask), _) => Transfer::Ports { mask, levels: &bytes },
            (Carried::Bytes, Protocol::Spi(_)) => Transfer::Spi { bytes: &bytes },
            (Carried::Bytes, Protocol::TwoWire(_)) => Transfer::TwoWire { bytes: &bytes, reads: 0 },
            (Carried::Bytes, Protocol::Strobe(_)) => Transfer::Strobe { bytes: &bytes, reads: 0 },
            (Carried::Bytes, Protocol::Shift(_)) => Transfer::Shift { bytes: &bytes },
            (Carried::Bytes, other) => panic!("bytes over {}", other.name()),
        };
        let op = Op { role: step.role, transfer, not_before: at };
        let reply = self.board.transfer(self.mount.device, &op).unwrap();
        assert!(reply.acknowledged);
        reply.ended
    }

    fn send_all(&mut self, steps: &[Step], image: &[u8], at: Nanos) -> Nanos {
        steps.iter().fold(at, |at, step| self.send(step, image, at))
    }

    /// A piece of a scan begins, dark; a row of a panel is shifted in meanwhile.
    fn darken(&mut self, sending: &Sending, piece: usize, image: &[u8], at: Nanos) {
        let Some(scan) = &sending.scan else { return };
        let Protocol::Panel(panel) = self.protocol else {
            self.send_all(&scan.blank, &[], at);
            return;
        };
        let controls = Controls { address_lines: panel.address_lines };
        let address = (piece / usize::from(scan.depth)) as u8;
        // Output enable is the bit above the data, and stays high.
        let columns: Vec<u8> = image.iter().map(|lights| lights | 1 << 6).collect();
        let set = |latch: bool| [controls.levels(latch, true, address)];
        let all = [controls.all()];
        let (latched, held) = (set(true), set(false));
        let transfers = [
            Transfer::Ports { mask: &all, levels: &held },
            Transfer::Burst { columns: &columns },
            Transfer::Ports { mask: &all, levels: &latched },
            Transfer::Ports { mask: &all, levels: &held },
        ];
        for transfer in transfers {
            let op = Op { role: Role::Frame, transfer, not_before: at };
            self.board.transfer(self.mount.device, &op).unwrap();
        }
    }
}

/// The light of each element on the board when a program shows a frame on a face.
fn shown(rig: &Rig, face: usize, wanted: &Frame, has_greys: bool) -> Vec<f32> {
    let mount = &rig.faces[face];
    let sending = Sending::of(mount, has_greys).unwrap();
    let mut program = Program { board: Board::new(rig), mount, protocol: rig.protocol(mount).unwrap() };
    let mut now = program.send_all(&sending.power_up, &[], Nanos(0));
    let image = sending.image(wanted);
    let Some(scan) = &sending.scan else {
        now = program.send_all(&sending.frame, &image, now);
        program.board.open_eyes(now);
        let seen = now + Nanos(40_000_000);
        return program.board.picture(face, seen).unwrap().light;
    };
    let pieces = scan.slots * usize::from(scan.depth);
    now = now + Nanos(1_000_000);
    for number in 0..4 * pieces {
        if number == 2 * pieces {
            program.board.open_eyes_on_scans(now);
        }
        let piece = number % pieces;
        let of_piece = &image[piece * scan.width..(piece + 1) * scan.width];
        program.darken(&sending, piece, of_piece, now);
        let lit = now + scan.blanking;
        program.send_all(&sending.frame, of_piece, lit);
        now = lit + Nanos(scan.unit.0 << (piece % usize::from(scan.depth)));
    }
    program.board.picture(face, now).unwrap().light
}

/// Every face of the landing, each with its rig.
fn faces() -> Vec<(Rig, usize)> {
    let rigs = LANDING.iter().map(|source| rig(source));
    let of_rig = |rig: Rig| (0..rig.faces.len()).map(move |face| (rig.clone(), face)).collect::<Vec<_>>();
    rigs.flat_map(of_rig).collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    #[test]
    fn every_picture_is_lit_by_what_is_sent_for_it(
        place in any::<prop::sample::Index>(),
        lights in prop::collection::vec(any::<bool>(), 300),
    ) {
        let faces = faces();
        let (rig, face) = place.get(&faces);
        let mount = &rig.faces[*face];
        let elements = mount.face.element_count();
        let wanted: Vec<bool> = (0..elements).map(|element| lights[element % lights.len()]).collect();
        let wired: Vec<bool> =
            wanted.iter().enumerate().map(|(element, lit)| *lit && mount.wiring.has(Element(element))).collect();
        let lights = shown(rig, *face, &frame(&wanted), false);
        let lit: Vec<bool> = lights.into_iter().map(|light| light > 0.0).collect();
        prop_assert_eq!(lit, wired, "{}", mount.face.name);
    }

    #[test]
    fn every_grey_is_as_bright_as_its_step(
        levels in prop::collection::vec(any::<u8>(), 60),
        depth in 2..=5_u8,
        is_panel in any::<bool>(),
    ) {
        let source = if is_panel {
            include_str!("../../../cli/demo/departures.toml").replace("depth = 6", &format!("depth = {depth}"))
        } else {
            include_str!("../../../cli/demo/beacon.toml")
                .replace("blanking = \"10us\"", &format!("blanking = \"10us\"\ndepth = {depth}"))
        };
        let rig = rig(&source);
        let display = rig.faces[0].drive.display();
        let mut wanted = Frame::dark(rig.faces[0].face.element_count());
        let count = wanted.levels().len();
        wanted.levels_mut().iter_mut().enumerate().for_each(|(element, level)| {
            *level = Level(levels[element % levels.len()]);
        });
        wanted.levels_mut()[count - 1] = Level::FULL;
        let lights = shown(&rig, 0, &wanted, true);
        // A program lights a panel for less of its time than the board expects, every light alike.
        let full = lights[count - 1];
        prop_assert!(full > 0.5, "{}", full);
        for (light, level) in lights.iter().zip(wanted.levels()) {
            let expected = display.light_of(*level);
            prop_assert!((light / full - expected).abs() < 0.25 / display.grey_steps() as f32, "{:?}: {}", level, light);
        }
    }

    #[test]
    fn names_are_names_and_no_two_are_the_same(found in prop::collection::vec(".{0,12}", 1..20)) {
        let mut names = Names::of("C", "int main while");
        let made: Vec<_> = found.iter().filter_map(|name| names.make("face", name).ok()).collect();
        for name in &made {
            let first = name.chars().next().unwrap();
            prop_assert!(first.is_ascii_lowercase() || first == '_', "{}", name);
            prop_assert!(name.chars().all(|c| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '_'));
            prop_assert!(!["int", "main", "while"].contains(&name.as_str()));
        }
        let different: std::collections::BTreeSet<_> = made.iter().collect();
        prop_assert_eq!(different.len(), made.len());
    }

    #[test]
    fn a_text_stays_in_its_comment(text in "(\\PC|[*/\\\\\r\n]){0,40}") {
        let comment = Comment::new(&text);
        let comment = comment.as_str();
        prop_assert!(comment.chars().all(|c| (' '..='~').contains(&c)), "{}", comment);
        prop_assert!(!["*/", "/*"].iter().any(|end| comment.contains(end)) && !comment.ends_with('\\'), "{}", comment);
        let harmless = harmless(&text);
        prop_assert!(harmless.chars().all(|c| (' '..='~').contains(&c) && !"*\\\"`".contains(c)), "{}", harmless);
    }
}

/// A reel in which every key of a face lights its lamp, or else counts.
fn all_keys(face: &str, keys: &[String]) -> String {
    let binding = |key: &String| format!("\"{face}.{key}\" = {{ to = \"berth\", add = 1 }}\n");
    let bindings: String = keys.iter().map(binding).collect();
    format!(
        "[variables]\nberth = 0\n[buttons]\n{bindings}[[track]]\nface = \"{face}\"\n[[track.act]]\nblank = {{}}\n"
    )
}

/// Which keys of the first face a program takes for down when those are, which the part says over its bus.
fn heard(rig: &Rig, down: &[bool]) -> Vec<bool> {
    let mount = &rig.faces[0];
    let names = mount.drive.display().button_names();
    let program = crate::common::program(&all_keys(&mount.face.name, names), rig);
    let content = Content { program: &program, words: "", is_own: false };
    let model = Model::of(rig, &content, None, &mut Names::of("C", "")).unwrap();
    let keys = model.faces[0].keys.as_ref().unwrap();
    let mut board = Board::new(rig);
    down.iter()
        .enumerate()
        .for_each(|(button, down)| board.press(ButtonId { keypad: Keypad::Face(0), button }, *down));
    let mut answer = Vec::new();
    for ask in &keys.asks {
        let (bytes, reads) = (&ask.step.bytes[..], ask.reads);
        let transfer = match rig.protocol(mount).unwrap() {
            Protocol::I2c(_) => Transfer::I2c { address: ask.step.address.unwrap(), bytes, reads },
            Protocol::Strobe(_) => Transfer::Strobe { bytes, reads },
            _ => Transfer::TwoWire { bytes, reads },
        };
        let op = Op { role: Role::Buttons, transfer, not_before: Nanos(40_000_000) };
        answer.extend(board.transfer(mount.device, &op).unwrap().bytes);
    }
    assert_eq!(answer.len(), keys.bytes);
    keys.buttons.iter().map(|button| answer[button.byte] & button.mask == button.code).collect()
}

proptest! {
    #[test]
    fn the_keys_that_are_down_are_those_that_a_program_hears(down in prop::collection::vec(any::<bool>(), 8)) {
        prop_assert_eq!(heard(&rig(include_str!("../../../cli/demo/desk.toml")), &down), &down[..], "a bit each");
        let dispersed = "[controller]\npart = \"rp2040\"\n[face.gauge]\nkind = \"seven-segment\"\ndigits = 12\n\
            buttons = [{ name = \"a\", node = \"byte0.bit0\" }, { name = \"b\", node = \"byte4.bit7\" }, { name = \"c\", node = \"byte6.bit3\" }]\n\
            [face.gauge.drive]\nmethod = \"ht16k33\"\npins = { data = \"GP4\", clock = \"GP5\" }\n";
        prop_assert_eq!(heard(&rig(dispersed), &down[..3]), &down[..3], "of two parts");
        // A tm1637 reports one button at a time.
        let one: Vec<bool> = (0..3).map(|key| Some(key) == down.iter().position(|down| *down)).collect();
        let coded = "[controller]\npart = \"rp2040\"\n[face.gauge]\nkind = \"seven-segment\"\ndigits = 4\n\
            buttons = [{ name = \"a\", node = \"F7\" }, { name = \"b\", node = \"E8\" }, { name = \"c\", node = \"F0\" }]\n\
            [face.gauge.drive]\nmethod = \"tm1637\"\npins = { data = \"GP4\", clock = \"GP5\" }\nbus_volts = 5.0\n";
        prop_assert_eq!(heard(&rig(coded), &one), one, "a code each");
    }
}

/// A panel at a lower brightness step is lit for less of a turn that is as long.
#[test]
fn a_dimmer_panel_is_lit_for_less_of_its_turn() {
    let scan = |brightness: &str| {
        let departures = include_str!("../../../cli/demo/departures.toml");
        let rig =
            rig(&departures
                .replace("method = \"rgb-panel\"", &format!("method = \"rgb-panel\"\n{brightness}")));
        Sending::of(&rig.faces[0], true).unwrap().scan.unwrap()
    };
    let (bright, dim) = (scan(""), scan("brightness = 3"));
    let slot = |scan: &Scan| scan.blanking.0 * u64::from(scan.depth) + scan.unit.0 * ((1 << scan.depth) - 1);
    assert_eq!((bright.turn, bright.slots), (dim.turn, dim.slots));
    assert!(slot(&bright).abs_diff(slot(&dim)) < 100, "{} and {} ns", slot(&bright), slot(&dim));
    let share = dim.unit.0 as f64 / bright.unit.0 as f64;
    assert!((share - 4.0 / 16.0).abs() < 0.001, "four sixteenths, {share}");
}

#[test]
fn characters_that_a_part_draws_from_codes_are_refused() {
    let decoding = max7219(4, "decode = \"code-b\"");
    assert_eq!(Sending::of(&decoding.faces[0], true), Err(Unlearnt::Codes));
}

/// The story of an act on four digits.
fn story(act: &str) -> Result<Story, String> {
    story_on(&max7219(4, ""), act)
}

/// The story of an act on the first face of a rig.
fn story_on(rig: &Rig, act: &str) -> Result<Story, String> {
    let reel = format!("[[track]]\n[[track.act]]\n{act}\n");
    let program = crate::common::program(&reel, rig);
    written(rig, &program)
}

/// The story of the first track of a program.
fn written(rig: &Rig, program: &reel::Program) -> Result<Story, String> {
    let mut inputs = Inputs::default();
    program.begin(&mut inputs);
    let lives = lives(rig, program).map_err(|error| error.to_string())?;
    let track = &program.reel.tracks[0];
    let writing = Writing { mount: &rig.faces[track.face], inputs: &inputs, lives: &lives, begins: None };
    Story::of(&[&*track.act], &writing).map_err(|error| error.to_string())
}

#[test]
fn what_can_be_counted_is_counted_and_the_rest_is_drawn() {
    let kind = |act: &str| {
        let names = story(act).unwrap().passages.into_iter().map(|passage| match passage {
            Passage::Film(_) => "film",
            Passage::Moving(_) => "moving",
            Passage::Count(_) => "count",
            Passage::Clock(_) => "clock",
            Passage::Value(_) => "value",
            Passage::Chosen(_) => "chosen",
            Passage::Stopwatch(_) => "stopwatch",
        });
        names.collect::<Vec<_>>().join(" ")
    };
    assert_eq!(kind("count = {}"), "count");
    assert_eq!(kind("count = { from = -9, to = 9 }"), "count film", "dark at the end");
    assert_eq!(kind("count = { from = 0, to = 9, zeros = true }"), "count film");
    assert_eq!(kind("count = { from = 0, to = 9, radix = \"hex\" }"), "film film", "no figures from 0 to 9");
    assert_eq!(kind("clock = { time = \"2026-11-28T07:57\" }"), "clock");
    assert_eq!(kind("text = { say = \"TEAL\", way = \"left\" }"), "moving film");
    assert_eq!(kind("text = { say = \"TEAL\" }"), "film");
}

/// An act that may change forever without visible effect is not polled forever.
#[test]
fn what_never_ends_is_refused() {
    let board = rig(include_str!("../../../cli/demo/board.toml"));
    let why = story_on(&board, "plot = { value = 3, from = 0, to = 9, every = \"1s\" }").unwrap_err();
    assert!(why.contains("never begins again"), "{why}");
}

#[test]
fn what_goes_by_the_clock_on_the_wall_is_refused() {
    assert_eq!(story("clock = {}").unwrap_err(), "a clock as this one: it needs the time at which it begins");
    // Of a second act over it nothing is counted, so that both are drawn: at which time?
    let dimmed = "brightness = { daily = { \"06:00\" = \"100%\", \"22:00\" = \"10%\" }, for = \"30h\" }";
    assert!(story(dimmed).unwrap_err().contains("the clock on the wall"), "{:?}", story(dimmed));
}

/// On dots numbers and times are counted in any font; but not where the edge of the face cuts a figure.
#[test]
fn figures_on_dots_are_counted() {
    let board = rig(include_str!("../../../cli/demo/board.toml"));
    for font in ["clock", "board", "small"] {
        let look = format!("look = {{ font = \"{font}\" }}");
        let clock = story_on(&board, &format!("clock = {{ time = \"2026-11-28T14:14\", {look} }}")).unwrap();
        assert!(matches!(clock.passages[..], [Passage::Clock(_)]), "{font}: {clock:?}");
        let count = story_on(&board, &format!("count = {{ from = -9, to = 9999, {look} }}")).unwrap();
        assert!(matches!(count.passages[0], Passage::Count(_)), "{font}: {count:?}");
    }
    let cut = "clock = { time = \"2026-11-28T14:14\", look = { fit = \"cut\", offset = -4 } }";
    assert_eq!(
        story_on(&board, cut).unwrap_err(),
        "a clock as this one: its figures have no places of their own"
    );
}

/// The figures of a number that shows a variable, on four digits.
fn value(variables: &str, act: &str) -> Result<Valued, String> {
    let rig = max7219(4, "");
    let reel = format!("[variables]\n{variables}\n[[track]]\n[[track.act]]\n{act}\n");
    let story = written(&rig, &crate::common::program(&reel, &rig))?;
    match &story.passages[..] {
        [Passage::Value(value)] => Ok((**value).clone()),
        other => Err(format!("{other:?}")),
    }
}

#[test]
fn a_value_is_written_as_far_as_it_fits() {
    let level = value("level = 4.8", "number = { value = \"{level}\", places = 1 }").unwrap();
    assert_eq!((level.places, level.from, level.to), (1, -999, 9999), "-99.9 to 999.9");
    assert!(level.under.is_some() && level.under == level.over, "dashes");
    let limited =
        value("level = 0", "reading = { of = \"level\", least = -5, most = 40, under = \"LO\" }").unwrap();
    assert_eq!((limited.from, limited.to, limited.every), (-5, 40, Some(100)));
    assert!(limited.under != limited.over, "words for what is below, dashes for what is above");
    assert_eq!(limited.lasts, None);
    let unit = value("level = 0", "number = { value = \"{level}\", unit = \"C\" }").unwrap();
    assert_eq!((unit.from, unit.to), (-99, 999));
    let held =
        value("level = 0.0", "reading = { of = \"level\", places = 1, band = 0.3, keep = \"2s\" }").unwrap();
    assert_eq!((held.band, held.every, held.steadied), (3, Some(2000), None));
    let steadied = |way: &str| {
        value("level = 0.0", &format!("reading = {{ of = \"level\", places = 1, {way} }}")).unwrap().steadied
    };
    assert_eq!(
        steadied("mean = \"450ms\""),
        Some(Steadied::Mean(5)),
        "a look each 100 ms, those of the last 450 ms"
    );
    assert_eq!(steadied("mean = \"500ms\""), Some(Steadied::Mean(5)));
    assert_eq!(steadied("median = \"2s\", keep = \"250ms\""), Some(Steadied::Median(8)));
    assert_eq!(steadied("show = \"least\""), Some(Steadied::Least));
    assert_eq!(steadied("show = \"most\", band = 0.3"), Some(Steadied::Most));
}

#[test]
fn what_is_no_plain_number_is_no_value() {
    let why = |act: &str| value("level = 4.85\nboat = \"TEAL\"", act).unwrap_err();
    assert_eq!(why("number = { value = \"{boat}\" }"), "variable boat: it is not a number");
    let rounded = "variable level: it has more places than are shown: say places";
    assert_eq!(why("number = { value = \"{level}\", places = 1 }"), rounded);
    for form in ["radix = \"hex\"", "thousands = true", "shortest = true", "engineering = true"] {
        let why = why(&format!("number = {{ value = \"{{level}}\", places = 2, {form} }}"));
        assert_eq!(why, "variable level: it is not a plain decimal number");
    }
    assert_eq!(
        why("number = { value = \"{level}\", places = 2, cursor = \"level\" }"),
        "variable level: it has a cursor, and no button moves the cursor or changes the value"
    );
    for (form, reason) in [
        ("stale = \"9s\"", "it is given up after a time, and a program asks for it whenever it looks"),
        (
            "mean = \"4s\"",
            "it is smoothed over more than 32 looks: give the time for which a value is kept, keep",
        ),
        ("mean = \"1s\", band = 0.3", "it is smoothed by a mean and held: let it be one of them"),
        (
            "median = \"1s\", show = \"most\"",
            "it is the least or the most of what is smoothed: let it be one of them",
        ),
        (
            "median = \"1s\", for = \"9s\"",
            "it is made of earlier values, and shown for a time: show it all the time",
        ),
    ] {
        let smoothed = why(&format!("reading = {{ of = \"level\", places = 2, {form} }}"));
        assert_eq!(smoothed, format!("variable level: {reason}"));
    }
    assert_eq!(
        value("level = 4", "reading = { of = \"level\", mean = \"1s\" }").unwrap_err(),
        "variable level: a mean has more places than are shown: say places"
    );
}

/// The story of everything on the first face of a reel, with variables and the actions of the desk's buttons.
fn keyed(rig: &Rig, keys: &str, tracks: &[&str]) -> Result<Story, String> {
    let tracks = tracks.iter().map(|act| {
        let face = &rig.faces[0].face.name;
        format!("[[track]]\nface = \"{face}\"\n[[track.act]]\n{act}\n")
    });
    let reel =
        format!("[variables]\nminutes = 12\nplace = 0\ntide = 1.5\n{keys}\n{}", tracks.collect::<String>());
    let program = crate::common::program(&reel, rig);
    let mut inputs = Inputs::default();
    program.begin(&mut inputs);
    let lives = lives(rig, &program).map_err(|error| error.to_string())?;
    let writing = Writing { mount: &rig.faces[0], inputs: &inputs, lives: &lives, begins: None };
    let acts: Vec<_> = program.reel.tracks.iter().map(|track| &*track.act).collect();
    Story::of(&acts, &writing).map_err(|error| error.to_string())
}

const WITHIN: &str =
    "[buttons]\n\"desk.call1\" = { to = \"minutes\", add = 1, least = 8, most = 14, wrap = true }";

/// Values within texts, bars, and numbers that are not written figure by figure have a picture each.
#[test]
fn a_value_that_is_no_figures_has_its_pictures() {
    let desk = rig(include_str!("../../../cli/demo/desk.toml"));
    let from = |tracks: &[&str]| {
        let story = keyed(&desk, WITHIN, tracks).unwrap();
        let [Passage::Chosen(chosen)] = &story.passages[..] else { panic!("{story:?}") };
        assert_eq!((chosen.variable.as_str(), chosen.every, chosen.lasts), ("minutes", None, None));
        chosen.pictures.iter().map(|(from, _)| *from).collect::<Vec<_>>()
    };
    let all: Vec<_> = (8..=14).collect();
    assert_eq!(from(&["text = { say = \"TEAL {minutes}\" }"]), all);
    assert_eq!(from(&["number = { value = \"{minutes}\", radix = \"hex\" }"]), all);
    let lamps = "gauge = { value = \"{minutes}\", from = 0, to = 16, lamps = [\"berth1\", \"berth2\", \"berth3\", \"berth4\"] }";
    assert_eq!(from(&[lamps]), [8, 10, 14], "a half rounds up");
    assert_eq!(from(&["number = { value = \"{minutes}\" }", lamps]), all, "a number beside its bar");
    assert_eq!(from(&["text = { say = \"TEAL\" }", lamps]), [8, 10, 14]);
    // Two bars that go against each other look alike at both ends, and not between.
    let back = lamps.replace("from = 0, to = 16", "from = 22, to = 0");
    assert_eq!(from(&[lamps, &back]), [8, 9, 10, 14], "3, 2, 3 and 4 lamps");
    // Where it makes no difference there is one picture.
    let one = keyed(
        &desk,
        WITHIN,
        &["gauge = { value = \"{minutes}\", from = 20, to = 30, lamps = [\"berth1\"] }"],
    );
    assert!(matches!(one.unwrap().passages[..], [Passage::Film(_)]));
}

#[test]
fn a_value_is_refused_that_would_stay_as_it_is_at_first() {
    let desk = rig(include_str!("../../../cli/demo/desk.toml"));
    let why = |keys: &str, tracks: &[&str]| keyed(&desk, keys, tracks).unwrap_err();
    let text = "text = { say = \"TEAL {minutes}\" }";
    let endless = WITHIN.replace(", least = 8, most = 14, wrap = true", "");
    assert_eq!(
        why(&endless, &[text]),
        "variable minutes: it has a picture for each of its values: give the buttons that change it a least and a most"
    );
    assert_eq!(
        why(&WITHIN.replace("most = 14", "most = 400"), &[text]),
        "variable minutes: it has more than 256 pictures: show it as a number"
    );
    let both = format!("{WITHIN}\n\"desk.call2\" = {{ to = \"place\", add = 1, least = 0, most = 1 }}");
    assert_eq!(
        why(&both, &["text = { say = \"{minutes} {place}\" }"]),
        "variable minutes: it is shown together with another one that changes: give each its own face"
    );
    let moves = "variable minutes: what shows it changes with the time, too";
    assert_eq!(why(WITHIN, &["text = { say = \"TEAL {minutes}\", way = \"left\" }"]), moves);
    assert_eq!(why(WITHIN, &[text, "count = { from = 0, to = 9 }"]), moves);
    assert_eq!(why(WITHIN, &[text, "brightness = { from = \"10%\", to = \"80%\", over = \"2s\" }"]), moves);
    assert_eq!(
        why(WITHIN, &["reading = { of = \"minutes\", mean = \"3s\" }", "lamps = { on = [\"berth1\"] }"]),
        "variable minutes: it is smoothed, held or given up, and shown together with something else"
    );
}

proptest! {
    /// The picture that a program chooses for any value is the one of the bar, beyond its ends and in any direction.
    #[test]
    fn the_picture_of_a_value_is_what_its_bar_looks_like(
        (from, to) in (-300_i32..300, -300_i32..300),
        values in prop::collection::vec(-4000_i64..4000, 8),
    ) {
        prop_assume!(from != to);
        let board = rig(include_str!("../../../cli/demo/board.toml"));
        let tenths = |units: i32| f64::from(units) / 10.0;
        let act = format!("gauge = {{ value = \"{{tide}}\", from = {:.1}, to = {:.1} }}", tenths(from), tenths(to));
        let story = keyed(&board, "", &[&act]).unwrap();
        let [Passage::Chosen(chosen)] = &story.passages[..] else { panic!("{story:?}") };
        let scale = Scale { from: Decimal::new(from.into(), 1), to: Decimal::new(to.into(), 1) };
        for value in values {
            let picked = chosen.pictures.iter().rev().find(|(first, _)| *first <= value);
            let (_, frame) = picked.unwrap_or(&chosen.pictures[0]);
            let lit = frame.levels().iter().filter(|level| **level == Level::FULL).count();
            prop_assert_eq!(lit, 8 * scale.steps(Decimal::new(value.into(), 1), 32), "{} of {} to {}", value, from, to);
        }
    }
}
