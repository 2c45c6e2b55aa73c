//! Why there is no project, or no program for a track.

use std::time::Duration;

use super::sending::Unlearnt;

/// Why there is no project.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
pub enum ProjectError {
    #[error("face {face}: {why}")]
    Drive { face: String, why: Unlearnt },
    #[error("face {face}: {why}")]
    Content { face: String, why: CannotWrite },
    #[error("face {face}: figures are put on it one by one, and its digits or dots are not all wired alike")]
    Mixed { face: String },
    #[error("{found:?} is no name in {language}, whichever letters are left out: call the {what} otherwise")]
    Name { what: &'static str, found: String, language: &'static str },
    #[error("buttons of face {face}: {why}")]
    Keys { face: String, why: &'static str },
    #[error("buttons on pins: {why}")]
    PinButtons { why: &'static str },
    #[error("there are {found} buttons, and a program of your own asks for at most {most}")]
    OwnButtons { found: usize, most: usize },
    #[error("{0}")]
    Value(CannotWrite),
    #[error("face {face} is scanned, and a list is sent once")]
    Scanned { face: String },
    #[error("no lines that send a list are written for {target}")]
    List { target: &'static str },
    #[error("nothing plays on any face")]
    Nothing,
    #[error("not supported by the target {target}: {why}")]
    Target { target: &'static str, why: String },
}

/// Why a track cannot be written as a program.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
pub enum CannotWrite {
    #[error("it changes {most} times and more before it begins again, or never begins again")]
    TooLong { most: usize },
    #[error("it changes after {0:?}, and a program counts whole milliseconds up to three weeks")]
    Time(Duration),
    #[error("a clock as this one: {0}")]
    Clock(&'static str),
    #[error("a stopwatch as this one: {0}")]
    Stopwatch(&'static str),
    #[error("it goes by the clock on the wall, which a controller has not: say from when a clock goes")]
    Wall,
    #[error("variable {variable}: {why}")]
    Value { variable: String, why: &'static str },
    #[error("a button switches {lamp}, and an act lights it too")]
    Lamp { lamp: String },
    #[error("it shows more than {most} colours")]
    Colours { most: usize },
    #[error("buttons run a stopwatch or set a clock, which is not alone on its face")]
    Heard,
    #[error("{0}")]
    Jump(&'static str),
    #[error("it has {found} lamps and colons, and a program counts at most {most}")]
    OwnLamps { found: usize, most: usize },
    #[error("it takes more than {most} bytes of memory")]
    OwnImage { most: usize },
    #[error("a dot of it has no wire, or is lit by another level than the others")]
    OwnWiring,
}
