//! Sprites: small pictures that may move, in a text format of our own, so that a change of one is seen in a diff.
//!
//! ```text
//! dots 5x3 250ms          the size, and how long a frame stays
//! frame open              a name, or a time of its own, or both, or neither
//! #...#
//! .#.#.
//! ..#..
//! ; remarks stand above their frame
//! frame 500ms
//! ..r..                   letters are colours: r g b y c m w
//! ..#..                   # is lit, . is dark
//! ..r..
//! ```

use std::fmt::Write;
use std::time::Duration;

use super::raster::{Colour, OFF, Raster, Shot};
use crate::units::{DurationError, Nanos, parse_duration};

/// The most frames.
pub const MOST_FRAMES: usize = 10_000;
/// The most dots of all its frames together: a file of 8 MB, and some three times as much memory.
pub const MOST_DOTS: usize = 8_000_000;
/// The most dots across.
pub const MOST_WIDTH: usize = 1024;
/// Likewise down.
pub const MOST_HEIGHT: usize = 256;
/// How long a frame stays where the file does not say.
pub const USUAL: Duration = Duration::from_millis(250);

/// The letters of a drawing and their colours.
pub const INKS: [(char, Colour); 9] = [
    ('.', OFF),
    ('#', [255, 255, 255]),
    ('r', [255, 0, 0]),
    ('g', [0, 255, 0]),
    ('b', [0, 0, 255]),
    ('y', [255, 255, 0]),
    ('c', [0, 255, 255]),
    ('m', [255, 0, 255]),
    ('w', [255, 255, 255]),
];

/// The reason why a file is not a sprite.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("line {line}: {problem}")]
pub struct SpriteError {
    /// Where, from 1.
    pub line: usize,
    /// The error.
    pub problem: SpriteProblem,
}

/// An error in such a file.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
pub enum SpriteProblem {
    #[error("a sprite begins with its size and perhaps a time: dots 8x8 250ms")]
    NoHead,
    #[error("{found} is not a size from 1x1 to {MOST_WIDTH}x{MOST_HEIGHT}")]
    Size { found: String },
    #[error("{0}")]
    Time(#[from] DurationError),
    #[error("a frame must stay for some time")]
    NoTime,
    #[error("a row before the first frame: write a line 'frame' above it")]
    NoFrame,
    #[error("a row of {found} dots; the sprite is {width} wide")]
    Ragged { found: usize, width: usize },
    #[error("'{found}' is not a dot; write . for dark, # for lit, or a colour: r g b y c m w")]
    NoDot { found: char },
    #[error("the frame has {found} rows; the sprite is {height} high")]
    Rows { found: usize, height: usize },
    #[error("a frame line has a name and a time at most")]
    FrameLine,
    #[error("'{found}' is not a name: write a letter, then letters, digits and -")]
    Name { found: String },
    #[error("two frames are called {name}")]
    NameTwice { name: String },
    #[error("more than {MOST_FRAMES} frames")]
    TooMany,
    #[error("more than {MOST_DOTS} dots in all frames together")]
    TooManyDots,
    #[error("it has no frames")]
    Empty,
}

/// A picture, or several one after another.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Sprite {
    /// Its frames, all of one size; at least one.
    pub shots: Vec<Shot>,
}

impl Sprite {
    /// How many columns and rows it has.
    #[must_use]
    pub fn size(&self) -> (usize, usize) {
        self.shots.first().map_or((0, 0), |shot| (shot.raster.width(), shot.raster.height()))
    }

    /// A frame by its name, or by its number from 0.
    #[must_use]
    pub fn shot(&self, name: &str) -> Option<&Shot> {
        let named = self.shots.iter().find(|shot| shot.name.as_deref() == Some(name));
        named.or_else(|| self.shots.get(name.parse::<usize>().ok()?))
    }

    /// How long all frames take.
    #[must_use]
    pub fn length(&self) -> Duration {
        self.shots.iter().fold(Duration::ZERO, |sum, shot| sum.saturating_add(shot.stays))
    }

    /// The place of the frame that is seen at a time after its beginning, and when that frame ends; `None` when all are over.
    #[must_use]
    pub fn at(&self, within: Duration) -> Option<(usize, Duration)> {
        let mut ends = Duration::ZERO;
        self.shots.iter().enumerate().find_map(|(place, shot)| {
            ends = ends.saturating_add(shot.stays);
            (within < ends).then_some((place, ends))
        })
    }

    /// Returns true if it has dots that are neither dark nor white nor grey.
    #[must_use]
    pub fn has_colours(&self) -> bool {
        self.shots.iter().any(|shot| shot.raster.has_colours())
    }

    /// The same with each picture changed in some way.
    #[must_use]
    pub fn map(&self, change: impl Fn(&Raster) -> Raster) -> Self {
        let changed = |shot: &Shot| shot.showing(change(&shot.raster));
        Self { shots: self.shots.iter().map(changed).collect() }
    }
}

/// Reads a sprite.
///
/// # Errors
/// Where the file is none, and why.
pub fn read(source: &str) -> Result<Sprite, SpriteError> {
    let at = |line: usize| move |problem: SpriteProblem| SpriteError { line: line + 1, problem };
    let mut remarks: Vec<String> = Vec::new();
    let mut lines = source.lines().map(str::trim_end).enumerate().filter(|(_, line)| !line.is_empty());
    let (number, head) = loop {
        match lines.next() {
            Some((_, line)) if line.starts_with(';') => remarks.push(line[1..].to_owned()),
            Some(head) => break head,
            None => return Err(at(0)(SpriteProblem::NoHead)),
        }
    };
    let ((width, height), usual) = head_of(head).map_err(at(number))?;
    let mut shots: Vec<Shot> = Vec::new();
    let (mut rows, mut last) = (0, number);
    let is_whole = |rows: usize| {
        let problem = SpriteProblem::Rows { found: rows, height };
        if rows == height { Ok(()) } else { Err(problem) }
    };
    for (number, line) in lines {
        if let Some(remark) = line.strip_prefix(';') {
            remarks.push(remark.to_owned());
            continue;
        }
        if line == "frame" || line.starts_with("frame ") {
            if !shots.is_empty() {
                is_whole(rows).map_err(at(last))?;
            }
            if shots.len() >= MOST_FRAMES {
                return Err(at(number)(SpriteProblem::TooMany));
            }
            if (shots.len() + 1) * width * height > MOST_DOTS {
                return Err(at(number)(SpriteProblem::TooManyDots));
            }
            let (name, stays) = frame_of(&line["frame".len()..], usual).map_err(at(number))?;
            if let Some(name) =
                name.clone().filter(|name| shots.iter().any(|shot| shot.name.as_ref() == Some(name)))
            {
                return Err(at(number)(SpriteProblem::NameTwice { name }));
            }
            let remarks = std::mem::take(&mut remarks);
            shots.push(Shot { name, remarks, ..Shot::of(Raster::dark(width, height), stays) });
            rows = 0;
        } else {
            let shot = shots.last_mut().ok_or_else(|| at(number)(SpriteProblem::NoFrame))?;
            if rows >= height {
                return Err(at(number)(SpriteProblem::Rows { found: rows + 1, height }));
            }
            draw_row(&mut shot.raster, rows, line).map_err(at(number))?;
            rows += 1;
        }
        last = number;
    }
    if shots.is_empty() {
        return Err(at(last)(SpriteProblem::Empty));
    }
    is_whole(rows).map_err(at(last))?;
    // Below the last frame nothing follows that a remark could stand above.
    if let Some(last) = shots.last_mut() {
        last.remarks.append(&mut remarks);
    }
    Ok(Sprite { shots })
}

/// Reads a size such as `32x8`; `None` where it is none that a sprite may have.
#[must_use]
pub fn parse_size(text: &str) -> Option<(usize, usize)> {
    let (width, height) = text.split_once('x')?;
    let (width, height) = (width.parse().ok()?, height.parse().ok()?);
    ((1..=MOST_WIDTH).contains(&width) && (1..=MOST_HEIGHT).contains(&height)).then_some((width, height))
}

/// The size and the usual time.
fn head_of(line: &str) -> Result<((usize, usize), Duration), SpriteProblem> {
    let words: Vec<_> = line.split_whitespace().collect();
    let (size, time) = match words[..] {
        ["dots", size] => (size, None),
        ["dots", size, time] => (size, Some(time)),
        _ => return Err(SpriteProblem::NoHead),
    };
    let sides = parse_size(size).ok_or_else(|| SpriteProblem::Size { found: size.to_owned() })?;
    Ok((sides, time.map_or(Ok(USUAL), parse_time)?))
}

/// Reads how long a frame stays.
///
/// # Errors
/// If it is not a time, or missing.
pub fn parse_time(text: &str) -> Result<Duration, SpriteProblem> {
    match parse_duration(text)? {
        Duration::ZERO => Err(SpriteProblem::NoTime),
        time => Ok(time),
    }
}

/// The name and the time of a frame. What begins with a digit is a time.
fn frame_of(words: &str, usual: Duration) -> Result<(Option<String>, Duration), SpriteProblem> {
    let words: Vec<_> = words.split_whitespace().collect();
    let is_time = |word: &str| word.starts_with(|first: char| first.is_ascii_digit() || first == '.');
    let (name, time) = match words[..] {
        [] => (None, None),
        [time] if is_time(time) => (None, Some(time)),
        [name] => (Some(name), None),
        [name, time] => (Some(name), Some(time)),
        _ => return Err(SpriteProblem::FrameLine),
    };
    Ok((name.map(parse_name).transpose()?, time.map_or(Ok(usual), parse_time)?))
}

/// Reads the name of a frame.
///
/// # Errors
/// When it is none.
pub fn parse_name(name: &str) -> Result<String, SpriteProblem> {
    let is_plain = name.starts_with(char::is_alphabetic)
        && name.chars().all(|letter| letter.is_alphanumeric() || letter == '-');
    if is_plain { Ok(name.to_owned()) } else { Err(SpriteProblem::Name { found: name.to_owned() }) }
}

fn draw_row(raster: &mut Raster, y: usize, row: &str) -> Result<(), SpriteProblem> {
    for (x, dot) in row.chars().enumerate() {
        let ink = INKS.iter().find(|(letter, _)| *letter == dot);
        let (_, colour) = ink.ok_or(SpriteProblem::NoDot { found: dot })?;
        raster.set(x, y, *colour);
    }
    let (found, width) = (row.chars().count(), raster.width());
    if found == width { Ok(()) } else { Err(SpriteProblem::Ragged { found, width }) }
}

/// Writes a sprite. Each dot gets the letter whose colour is nearest: a channel of 128 or more counts as lit.
#[must_use]
pub fn write(sprite: &Sprite) -> String {
    let (width, height) = sprite.size();
    let usual = sprite.shots.first().map_or(USUAL, |shot| shot.stays);
    let time = |time: Duration| Nanos::from(time).written();
    let mut text = format!("dots {width}x{height} {}\n", time(usual));
    for Shot { name, stays, raster, remarks } in &sprite.shots {
        // Writing to a string does not fail.
        let _ = remarks.iter().try_for_each(|remark| writeln!(text, ";{remark}"));
        text.push_str("frame");
        let _ = name.iter().try_for_each(|name| write!(text, " {name}"));
        if *stays != usual {
            let _ = write!(text, " {}", time(*stays));
        }
        text.push('\n');
        for row in rows(raster) {
            text.push_str(&row);
            text.push('\n');
        }
    }
    text
}

/// The rows of a picture as a sprite file has them.
#[must_use]
pub fn rows(raster: &Raster) -> Vec<String> {
    let row = |y| (0..raster.width()).map(|x| letter(raster.get(x, y))).collect();
    (0..raster.height()).map(row).collect()
}

/// The letter of a colour: a channel of 128 or more counts as lit.
#[must_use]
pub fn letter(colour: Colour) -> char {
    let nearest = colour.map(|level| if level >= 128 { 255 } else { 0 });
    INKS.iter().find(|(_, ink)| *ink == nearest).map_or('.', |(letter, _)| *letter)
}
