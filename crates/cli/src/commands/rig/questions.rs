//! The questions of `rig new`: what lies on the bench, and which controller. Only a person at a terminal is asked.

use std::io::{self, IsTerminal};

use spare_tile_core::board::Board;
use spare_tile_core::draft::Wish;
use spare_tile_core::draft::kinds::{KINDS, Kind, Shows, Size};
use spare_tile_core::frame::{Frame, Level};
use spare_tile_core::glyph::Common;
use spare_tile_core::part::Part;
use spare_tile_core::plan::{Mount, Rig};
use spare_tile_core::play::scheduler::Scheduler;
use spare_tile_core::rig::controllers;

use super::check::pins;
use super::wish::parse_size;
use crate::failure::{Failure, Outcome};
use crate::session::Session;
use crate::view;
use crate::view::prompt;
use crate::wrapping::hung;

/// The answers of the user.
pub struct Answers {
    pub wish: Wish,
    /// The part number, if it is known.
    pub controller: Option<String>,
}

/// Returns true if there is a person to ask.
pub fn can_be_asked(session: &Session<'_>) -> bool {
    session.live && io::stdin().is_terminal() && !session.json
}

/// Something to choose, by its words.
struct Choice<T> {
    value: T,
    words: String,
}

fn choose<T>(question: &str, mut choices: Vec<Choice<T>>, session: &mut Session<'_>) -> Result<T, Failure> {
    let words: Vec<_> = choices.iter().map(|choice| choice.words.clone()).collect();
    let place = prompt::choose(question, &words, session)?;
    Ok(choices.swap_remove(place).value)
}

/// Asks what lies on the bench; of the controller only where it was not named already.
pub fn ask(controller: Option<&str>, session: &mut Session<'_>) -> Result<Answers, Failure> {
    let shows = [
        (Shows::Digits, "digits of seven segments"),
        (Shows::Letters, "letters of fourteen segments"),
        (Shows::Dots, "dots of one colour"),
        (Shows::Colours, "dots in all colours"),
    ];
    let shows = shows.map(|(value, words)| Choice { value, words: words.to_owned() });
    let shows = choose("What do you see?", shows.into(), session)?;
    let chip = chip(shows, session)?;
    let kinds = KINDS.iter().filter(|kind| kind.shows() == shows && kind.chip() == chip).collect();
    let kind = kind(kinds, session)?;
    let size = size(kind, session)?;
    let common = if kind.leaves_common_open() { common(session)? } else { None };
    let controller = match controller {
        Some(part) => Some(part.to_owned()),
        None => ask_controller(session)?,
    };
    Ok(Answers { wish: Wish { size: Some(size), common, ..Wish::of(kind) }, controller })
}

/// The chips that drive such displays.
fn chip(shows: Shows, session: &mut Session<'_>) -> Result<Option<&'static str>, Failure> {
    let mut choices: Vec<Choice<Option<&str>>> = Vec::new();
    for kind in KINDS.iter().filter(|kind| kind.shows() == shows) {
        if !choices.iter().any(|choice| choice.value == kind.chip()) {
            let words = kind.chip().unwrap_or("there is none: the pins of the display go to its lights");
            choices.push(Choice { value: kind.chip(), words: words.to_owned() });
        }
    }
    match &choices[..] {
        [only] => Ok(only.value),
        _ => choose("What does the chip say?", choices, session),
    }
}

/// The kind, which of displays without a chip their pins tell.
fn kind(kinds: Vec<&'static Kind>, session: &mut Session<'_>) -> Result<&'static Kind, Failure> {
    match &kinds[..] {
        [only] => Ok(only),
        _ => {
            let words = |kind: &&'static Kind| match kind.pins {
                Some(pins) => format!("{pins}: {}", kind.about),
                None => kind.about.to_owned(),
            };
            let choices = kinds.iter().map(|kind| Choice { value: *kind, words: words(kind) }).collect();
            choose("How many pins has the package?", choices, session)
        }
    }
}

/// How large it is, where it may have several sizes.
fn size(kind: &'static Kind, session: &mut Session<'_>) -> Result<Size, Failure> {
    let (usual, most) = kind.size;
    if usual == most {
        return Ok(usual);
    }
    let (question, default) = match usual {
        Size::Digits(digits) => ("How many digits?", digits.to_string()),
        Size::Dots(width, height) => ("How many dots across and down?", format!("{width}x{height}")),
    };
    let read = move |text: &str| match usual {
        Size::Digits(_) => text.trim().parse().map(Size::Digits).map_err(|_| "write a number".to_owned()),
        Size::Dots(..) => parse_size(text.trim()),
    };
    let fitting = move |text: &str| match read(text)? {
        size if kind.can_be(size) => Ok(size),
        _ => Err(format!("{} at most", most.words())),
    };
    prompt::text(question, &default, fitting, session)
}

/// Which side of the lights is joined.
fn common(session: &mut Session<'_>) -> Result<Option<Common>, Failure> {
    let sides = [
        (Some(Common::Cathode), "the cathodes: each light has a pin that takes the plus"),
        (Some(Common::Anode), "the anodes: each light has a pin that takes the minus"),
        (None, "I do not know yet"),
    ];
    let sides = sides.map(|(value, words)| Choice { value, words: words.to_owned() });
    choose("Which side of the lights is joined?", sides.into(), session)
}

fn ask_controller(session: &mut Session<'_>) -> Result<Option<String>, Failure> {
    let known =
        controllers::names().map(|name| Choice { value: Some(name.to_owned()), words: name.to_owned() });
    let other = Choice { value: None, words: "another, or not decided".to_owned() };
    choose("Which controller?", known.chain([other]).collect(), session)
}

/// Shows what was understood: the display with everything lit, and its pins.
pub fn show(text: &str, session: &mut Session<'_>) -> Outcome {
    let Some(rig) = Rig::read(text).rig else { return Ok(()) };
    let Some(mount) = rig.faces.first() else { return Ok(()) };
    let mut scheduler = Scheduler::new(&rig, Board::new(&rig));
    scheduler.power_up(0)?;
    scheduler.show(0, &all_lit(mount))?;
    let drawing = view::terminal(&scheduler.expose(0)?, session);
    writeln!(session.out, "\n{drawing}\n")?;
    session.write_named(&mount.face.name, &format!("{}, {}", mount.face.summary(), mount.drive.summary()))?;
    writeln!(session.out, "{}\n", hung(&format!("    {}", pins(mount)), session.columns, 4))?;
    Ok(session.out.flush()?)
}

fn all_lit(mount: &Mount) -> Frame {
    let mut frame = mount.face.blank();
    frame.levels_mut().fill(Level::FULL);
    frame
}
