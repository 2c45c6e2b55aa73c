//! How something is played: for how long, how fast, and into what.

use std::path::PathBuf;
use std::time::Duration;

use clap::Args;
use spare_tile_core::board::Board;
use spare_tile_core::content::number::Decimal;
use spare_tile_core::plan::{BothRigs, Rig};
use spare_tile_core::play::clock::Speed;
use spare_tile_core::play::reel::Program;
use spare_tile_core::play::{Inputs, Playing};
use spare_tile_core::units::parse_duration;

use super::frames::{Frames, Playtime, Whose};
use super::outlet::{self, Terms};
use super::{export, film, inline, ops, outside, watch};
use crate::failure::{Failure, Outcome, first_given};
use crate::feed::Feed;
use crate::input;
use crate::rigs::{BuiltFile, FaceOfRig};
use crate::session::Session;

/// How long to play, and to what.
#[derive(Args)]
#[command(next_help_heading = "Playing")]
pub struct How {
    /// The time to play, 24h at most [default: the length of the content]
    ///
    /// Example: spare-tile play count --for 10s
    #[arg(long = "for", value_name = "TIME", value_parser = parse_length)]
    pub length: Option<Duration>,
    /// Write the frames one after another without waiting, even on a terminal
    ///
    /// Example: spare-tile play count --to 9 --frames
    #[arg(long)]
    pub frames: bool,
    /// Write the pictures at these moments, separated by commas; with --png-sheet onto a sheet
    ///
    /// Example: spare-tile play count --to 9 --stills 500ms,3s,9s
    #[arg(long, value_name = "TIME", value_delimiter = ',', value_parser = parse_length, conflicts_with_all = ["frames", "ops", "speed", "gif", "svg", "vcd"])]
    pub stills: Vec<Duration>,
    /// On a terminal, draw below the prompt instead of on the whole screen
    ///
    /// Example: spare-tile play count --inline
    #[arg(long)]
    pub inline: bool,
    /// The speed: max, or a multiple of real time such as 2 or 1/4 [default: 1 on a terminal, otherwise max]
    ///
    /// Example: spare-tile play count --to 9 --speed 1/2
    #[arg(long, value_name = "TIMES", value_parser = Pace::parse)]
    pub speed: Option<Pace>,
    /// Keep the last picture lit after a stop
    ///
    /// Example: spare-tile play count --inline --leave
    #[arg(long)]
    pub leave: bool,
    /// Write the operations on the lines instead of pictures: in words, or into a log that can be played again
    ///
    /// Example: spare-tile play count --to 9 --ops=count.ops
    #[arg(long, value_name = "FILE", num_args = 0..=1, require_equals = true, default_missing_value = "-")]
    pub ops: Option<PathBuf>,
    /// Write a GIF, with times in hundredths of a second
    ///
    /// Example: spare-tile play text TEAL --gif teal.gif
    #[arg(long, value_name = "FILE", conflicts_with_all = ["ops", "speed"])]
    pub gif: Option<PathBuf>,
    /// Write an animated SVG
    ///
    /// Example: spare-tile play count --to 9 --svg count.svg
    #[arg(long, value_name = "FILE", conflicts_with_all = ["ops", "speed"])]
    pub svg: Option<PathBuf>,
    /// Write the pictures side by side as PNG, each with its time
    ///
    /// Example: spare-tile play count --to 9 --png-sheet count.png
    #[arg(long, value_name = "FILE", conflicts_with_all = ["ops", "speed"])]
    pub png_sheet: Option<PathBuf>,
    /// Write the levels of the lines as a value change dump (IEEE 1364) for a waveform viewer
    ///
    /// Example: spare-tile play count --to 9 --every 10ms --vcd count.vcd
    #[arg(long, value_name = "FILE", conflicts_with_all = ["ops", "speed"])]
    pub vcd: Option<PathBuf>,
    #[command(flatten)]
    pub built: BuiltFile,
}

impl How {
    /// Returns true if it is written as moving or still pictures.
    pub const fn has_film(&self) -> bool {
        self.gif.is_some() || self.svg.is_some() || self.png_sheet.is_some()
    }

    /// Returns true if a person watches it in a terminal, for as long as they like.
    pub fn is_watched(&self, session: &Session<'_>) -> bool {
        let is_written = self.frames || self.is_recorded() || session.json;
        session.live && !is_written && self.speed != Some(Pace::Max)
    }

    /// Returns true if files, operations or stills are written, which values that come later cannot change.
    pub const fn is_recorded(&self) -> bool {
        self.has_film() || self.vcd.is_some() || self.ops.is_some() || !self.stills.is_empty()
    }

    /// How long it plays where nobody watches what has this length.
    pub fn playtime(&self, own: Duration, ends_dark: impl FnOnce() -> bool) -> Playtime {
        Playtime { length: self.length.unwrap_or(own), with_end: self.length.is_none() && ends_dark() }
    }

    /// How fast it plays at first where someone watches.
    pub fn speed_at_first(&self) -> Speed {
        self.speed.and_then(Pace::speed).unwrap_or(Speed::TRUE)
    }

    /// Returns the sink for pictures without waiting.
    pub fn frames(&self) -> Frames {
        Frames::new(self.speed.and_then(Pace::speed))
    }

    /// Refuses what cannot be had of operations that were written down.
    pub fn refuse_for_log(&self) -> Outcome {
        let asked =
            [(self.ops.is_some(), "--ops"), (self.vcd.is_some(), "--vcd"), (self.speed.is_some(), "--speed")];
        match first_given(&asked) {
            Some(option) => {
                let message = format!("{option} is for acts and reels, and this file has operations");
                Err(Failure::unusable(message, "leave it out, or play the reel itself"))
            }
            None => Ok(()),
        }
    }
}

/// How fast it plays.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Pace {
    /// As fast as can be.
    Max,
    /// A multiple of real time.
    Times(Speed),
}

impl Pace {
    fn parse(text: &str) -> Result<Self, String> {
        let wrong = || "write max, or how many times as fast, from 1/1000 to 1000: 2, 0.5, 1/4".to_owned();
        if text == "max" {
            return Ok(Self::Max);
        }
        let speed = match text.split_once('/') {
            Some((shown, passed)) => {
                let part = |text: &str| text.trim().parse().map_err(|_| wrong());
                Speed { shown: part(shown)?, passed: part(passed)? }
            }
            None => {
                let times: Decimal = text.parse().map_err(|_| wrong())?;
                let passed = 10_u32.checked_pow(times.places()).ok_or_else(wrong)?;
                let shown = u32::try_from(times.in_units(times.places())).map_err(|_| wrong())?;
                Speed { shown, passed }
            }
        };
        let times = f64::from(speed.shown) / f64::from(speed.passed);
        if (0.001..=1000.0).contains(&times) { Ok(Self::Times(speed)) } else { Err(wrong()) }
    }

    /// The speed, unless it is as fast as can be.
    pub const fn speed(self) -> Option<Speed> {
        match self {
            Self::Max => None,
            Self::Times(speed) => Some(speed),
        }
    }
}

/// The longest that is played where nobody is watching.
const LONGEST: Duration = Duration::from_secs(24 * 3600);

/// Reads how long to play. A longer time without a viewer is probably a mistake.
fn parse_length(text: &str) -> Result<Duration, String> {
    let length = parse_duration(text).map_err(|error| error.to_string())?;
    if length > LONGEST {
        Err(format!("{text} is more than a day; write 24h or less, or leave it out"))
    } else {
        Ok(length)
    }
}

/// Plays a program as the options and the surroundings ask, with values that may come while someone watches.
pub fn play_fed(
    rig: &Rig,
    program: &Program,
    file: &FaceOfRig,
    how: &How,
    feed: Option<&Feed>,
    session: &mut Session<'_>,
) -> Outcome {
    let other = how.built.load(file, rig, session)?;
    let rigs = BothRigs::new(rig, other.as_ref());
    let length = how.length.or(program.length());
    let board = || Board::built_as(rigs).at_rest();
    let new_player = || outside::begin(rig, program, board());
    if how.is_watched(session) {
        let speed = how.speed_at_first();
        if how.inline {
            let mut player = new_player()?;
            player.go_at(speed);
            let look = outlet::looking(feed);
            return inline::play(&mut player, &Terms::new(length, feed, &look), how.leave, session);
        }
        let view = watch::View { speed, ..watch::View::of(length, feed) };
        return watch::run(rigs, program, view, session)?.outcome();
    }
    // Values come as time goes.
    let frames = if feed.is_some() { Frames::new(Some(how.speed_at_first())) } else { how.frames() };
    let new_listening = || outside::begin(rig, program, frames.listen(rig, board()));
    match feed {
        None => {}
        Some(feed) if session.json => return frames.write_fed(&mut new_listening()?, length, feed, session),
        Some(feed) => return frames.write_fed(&mut new_player()?, length, feed, session),
    }
    // Pictures in JSON include the operations that were sent.
    match how.stills.as_slice() {
        [] => {}
        _ if how.png_sheet.is_some() => {}
        stills if session.json => return frames.write_stills(&mut new_listening()?, stills, session),
        stills => return frames.write_stills(&mut new_player()?, stills, session),
    }
    let too_long = |long: &str| {
        let message = format!("this plays {long}, and the output is not a terminal");
        Failure::unusable(message, "say how long: --for 15s")
    };
    // Stills need no length.
    let length = length.or_else(|| how.stills.iter().copied().max());
    let time = how.playtime(length.ok_or_else(|| too_long("forever"))?, || {
        let mut inputs = Inputs::default();
        program.begin(&mut inputs);
        program.reel.ends_dark(rig, &inputs)
    });
    if time.length > LONGEST {
        return Err(too_long("for more than a day"));
    }
    if how.has_film() || how.vcd.is_some() {
        // Before anything is written.
        how.vcd.iter().try_for_each(|_| export::check_dump(time.length))?;
        let new: &New<'_, '_> = &|| Ok(Box::new(new_player()?));
        write_films(new, whose(file, rig)?, time, how, session)?;
        if let Some(path) = &how.vcd {
            export::dump(rigs, program, time, file.place(rig)?, path, session)?;
        }
        return Ok(());
    }
    match &how.ops {
        Some(path) if input::is_named(path) => ops::tell(rigs, program, time, session),
        Some(path) => ops::write_down(rigs, program, time, path, session),
        None if session.json => frames.write(&mut new_listening()?, time, session),
        None => frames.write(&mut new_player()?, time, session),
    }
}

/// The faces of which files show pictures: the one that is named, or all that play.
pub fn whose<'r>(file: &FaceOfRig, rig: &'r Rig) -> Result<Whose<'r>, Failure> {
    match file.pick_all(rig)?[..] {
        [mount] => Ok(Whose::Face(&mount.face.name)),
        _ => Ok(Whose::All),
    }
}

/// Makes something that plays, from its beginning.
pub type New<'n, 'p> = dyn Fn() -> Result<Box<dyn Playing<'p> + 'n>, Failure> + 'n;

/// Writes the moving and still pictures that are asked for.
pub fn write_films<'p>(
    new: &New<'_, 'p>,
    whose: Whose<'_>,
    time: Playtime,
    how: &How,
    session: &mut Session<'_>,
) -> Outcome {
    if let Some(path) = &how.gif {
        film::gif(new()?.as_mut(), time, whose, path, session)?;
    }
    if let Some(path) = &how.svg {
        film::svg(new()?.as_mut(), time, whose, path, session)?;
    }
    if let Some(path) = &how.png_sheet {
        export::sheet(new()?.as_mut(), time, &how.stills, whose, path, session)?;
    }
    Ok(())
}
