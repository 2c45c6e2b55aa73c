//! One act in place of a reel: `--app` and the options of that act.

use std::time::Duration;

use clap::error::ErrorKind;
use clap::parser::ValueSource;
use clap::{Arg, ArgMatches, Args, Command, Error, FromArgMatches, ValueEnum};
use jiff::Timestamp;
use jiff::tz::TimeZone;
use spare_tile_core::face::Face;
use spare_tile_core::play::clock::parse_moment;
use spare_tile_core::play::reel::Program;
use spare_tile_core::play::say::Motion;
use spare_tile_core::play::sequence::{Part, Sequence};
use spare_tile_core::play::{Reel, Track};

use crate::acts::{
    ActOptions, ClockOptions, CountOptions, Stage, TestOptions, TextMotion, ZoneArg, program_of_texts,
};
use crate::failure::{Failure, Outcome};
use crate::moments::moment;
use crate::session::Session;

/// The options of a program of the user's own.
#[derive(Args)]
struct OwnOptions {
    #[command(flatten)]
    zone: ZoneArg,
}

/// An act by its name.
#[derive(ValueEnum, Clone, Copy, PartialEq, Eq)]
pub enum AppName {
    /// A count, which begins again when numbers no longer fit
    Count,
    /// The time of day
    Clock,
    /// A text that passes again and again
    Text,
    /// A number or text that does not move
    Still,
    /// Each light alone, all going out in turn, 0 to 9 on each digit, all on; again and again
    Test,
    /// Your own program decides: a driver for the display, and a program to begin with
    Own,
}

/// The options of every app that are not options of its act.
#[derive(Args)]
struct AppArgs {
    /// The act that it plays on one face; its options are those of `play`
    ///
    /// Example: spare-tile firmware --target c99 --app count --to 48 --radix hex --every 250ms --out count
    #[arg(long, value_enum)]
    app: Option<AppName>,
    /// The text of the app text or still
    ///
    /// Example: spare-tile firmware --target c99 --app text --say "TEAL 07:58" --out sign
    #[arg(long, value_name = "TEXT", requires = "app")]
    say: Option<String>,
    /// The time with which clocks begin, unless the reel gives one [default: now]
    ///
    /// Example: spare-tile firmware --target c99 --app clock --time 07:57 --out clock
    #[arg(long, value_name = "TIME")]
    time: Option<String>,
}

/// The act that a program plays, if it is not a reel.
pub struct App {
    args: AppArgs,
    act: Option<AppAct>,
}

/// The options of an act.
enum AppAct {
    Count(Box<CountOptions>),
    Clock(Box<ClockOptions>),
    Text(Box<TextMotion>),
    Still(Box<TextMotion>),
    Test(TestOptions),
    Own(OwnOptions),
}

impl AppName {
    const fn name(self) -> &'static str {
        match self {
            Self::Count => "count",
            Self::Clock => "clock",
            Self::Text => "text",
            Self::Still => "still",
            Self::Test => "test",
            Self::Own => "own",
        }
    }

    /// Returns the command line of the act alone.
    fn command(self) -> Command {
        let command = Command::new(self.name());
        match self {
            Self::Count => CountOptions::augment_args(command),
            Self::Clock => ClockOptions::augment_args(command),
            Self::Text | Self::Still => TextMotion::augment_args(command),
            Self::Test => TestOptions::augment_args(command),
            Self::Own => OwnOptions::augment_args(command),
        }
    }

    /// Reads the options of the act.
    fn act(self, matches: &ArgMatches) -> Result<AppAct, Error> {
        Ok(match self {
            Self::Count => AppAct::Count(Box::new(CountOptions::from_arg_matches(matches)?)),
            Self::Clock => AppAct::Clock(Box::new(ClockOptions::from_arg_matches(matches)?)),
            Self::Text => AppAct::Text(Box::new(TextMotion::from_arg_matches(matches)?)),
            Self::Still => AppAct::Still(Box::new(TextMotion::from_arg_matches(matches)?)),
            Self::Test => AppAct::Test(TestOptions::from_arg_matches(matches)?),
            Self::Own => AppAct::Own(OwnOptions::from_arg_matches(matches)?),
        })
    }
}

/// An option of one or several acts.
struct ActOption {
    option: Arg,
    /// The apps that have the option, each with its help: the option may mean different things to different acts.
    apps: Vec<(AppName, String)>,
}

/// Returns the options of all acts, except those that every app has.
fn act_options() -> Vec<ActOption> {
    let of_every_app = AppArgs::augment_args(Command::new("app"));
    let mut options: Vec<ActOption> = Vec::new();
    for app in AppName::value_variants() {
        for option in app.command().get_arguments() {
            if of_every_app.get_arguments().any(|known| known.get_id() == option.get_id()) {
                continue;
            }
            let of_app = (*app, option.get_help().map(ToString::to_string).unwrap_or_default());
            match options.iter_mut().find(|known| known.option.get_id() == option.get_id()) {
                Some(known) => known.apps.push(of_app),
                None => options.push(ActOption { option: option.clone(), apps: vec![of_app] }),
            }
        }
    }
    options
}

impl ActOption {
    /// Returns the apps that have the option, and that give it this help if one is given.
    fn listed(&self, help: Option<&str>) -> String {
        let apps = self.apps.iter().filter(|(_, own)| help.is_none_or(|help| help == own));
        apps.map(|(app, _)| app.name()).collect::<Vec<_>>().join(", ")
    }

    /// Returns the option, below a heading with its apps.
    fn below_heading(self, place: usize) -> Arg {
        let heading = format!("Options of --app {}", self.listed(None));
        let mut helps: Vec<&str> = Vec::new();
        for (_, help) in &self.apps {
            if !helps.contains(&help.as_str()) {
                helps.push(help);
            }
        }
        let option = self.option.clone().help_heading(heading).display_order(place);
        if helps.len() < 2 {
            return option;
        }
        let helps = helps.iter().map(|help| format!("{}: {help}", self.listed(Some(help))));
        let help = helps.collect::<Vec<_>>().join("; ");
        let long = option.get_long_help().map(ToString::to_string).unwrap_or_default();
        let example = long.find("Example: ").map_or("", |at| &long[at..]);
        let long_help = format!("{help}\n\n{example}");
        option.help(help).long_help(long_help)
    }
}

/// The options of all acts together: which of them an app has is checked when they are read.
impl Args for App {
    fn augment_args(command: Command) -> Command {
        let options = act_options().into_iter().enumerate();
        options.fold(AppArgs::augment_args(command), |command, (place, option)| {
            command.arg(option.below_heading(place))
        })
    }

    fn augment_args_for_update(command: Command) -> Command {
        Self::augment_args(command)
    }
}

impl FromArgMatches for App {
    fn from_arg_matches(matches: &ArgMatches) -> Result<Self, Error> {
        let args = AppArgs::from_arg_matches(matches)?;
        check_options(args.app, matches)?;
        let act = args.app.map(|app| app.act(matches)).transpose()?;
        Ok(Self { args, act })
    }

    fn update_from_arg_matches(&mut self, matches: &ArgMatches) -> Result<(), Error> {
        *self = Self::from_arg_matches(matches)?;
        Ok(())
    }
}

/// Refuses an option that only other acts have.
fn check_options(app: Option<AppName>, matches: &ArgMatches) -> Result<(), Error> {
    let is_wrong = |known: &ActOption| {
        matches.value_source(known.option.get_id().as_str()) == Some(ValueSource::CommandLine)
            && known.apps.iter().all(|(of, _)| Some(*of) != app)
    };
    let Some(wrong) = act_options().into_iter().find(is_wrong) else { return Ok(()) };
    let name = wrong.option.get_long().unwrap_or_default();
    let message = format!("--{name} is an option of --app {}\n", wrong.listed(None));
    Err(Error::raw(ErrorKind::ArgumentConflict, message))
}

impl App {
    /// Returns true if a person's own program says what is shown.
    pub fn is_own(&self) -> bool {
        self.args.app == Some(AppName::Own)
    }

    /// Returns the name of the act and its text, if a program is to play one.
    pub fn words(&self) -> Option<String> {
        let name = self.args.app?.name();
        Some(match &self.args.say {
            Some(words) => format!("the app {name}: {words}"),
            None => format!("the app {name}"),
        })
    }

    /// Returns the time with which clocks begin that are not given one, in whole seconds.
    pub fn begins(&self) -> Result<Timestamp, Failure> {
        let now = Timestamp::now();
        let given = match (&self.args.time, self.args.app) {
            // A clock shows the time that is given, whatever the zone of this computer.
            (Some(time), Some(AppName::Clock)) => {
                parse_moment(time, &TimeZone::UTC, now).map_err(|error| error.to_string())
            }
            (Some(time), _) => moment(time),
            (None, _) => Ok(now),
        };
        let begins = given.map_err(|why| {
            Failure::unusable(why, "write a time of today, such as 07:57, or with its date")
        })?;
        Ok(Timestamp::from_second(begins.as_second()).unwrap_or(begins))
    }

    /// Returns the zone of the time in a program of the user's own.
    ///
    /// # Errors
    /// If there is no such zone.
    pub fn zone(&self) -> Result<TimeZone, Failure> {
        match &self.act {
            Some(AppAct::Own(own)) => Ok(own.zone.zone()?.unwrap_or_else(TimeZone::system)),
            // Nothing else looks for the zone of this computer.
            _ => Ok(TimeZone::UTC),
        }
    }

    /// Adds characters of the user's own to the face.
    pub fn add_glyphs(&self, face: &mut Face) -> Outcome {
        match &self.act {
            Some(AppAct::Count(count)) => count.add_glyphs(face),
            Some(AppAct::Text(text) | AppAct::Still(text)) => text.add_glyphs(face),
            Some(AppAct::Clock(_) | AppAct::Test(_) | AppAct::Own(_)) | None => Ok(()),
        }
    }

    /// Returns the program of the act.
    ///
    /// # Errors
    /// If the face cannot show it, or if a text is missing or not shown.
    pub fn program(&self, stage: &Stage<'_>, session: &mut Session<'_>) -> Result<Program, Failure> {
        let (program, repeats) = match &self.act {
            Some(AppAct::Count(count)) => (self.without_text(count.as_ref(), stage, session)?, false),
            Some(AppAct::Clock(clock)) => (self.without_text(clock.as_ref(), stage, session)?, false),
            Some(AppAct::Test(test)) => (self.without_text(test, stage, session)?, true),
            Some(AppAct::Text(text)) => {
                (self.of_text(text, Motion::Pass, stage, session)?, text.is_endless())
            }
            Some(AppAct::Still(text)) => (self.of_text(text, Motion::Cut, stage, session)?, false),
            Some(AppAct::Own(_)) | None => return Ok(Program::default()),
        };
        let tracks = program.reel.tracks.into_iter().map(|Track { face, act }| {
            let length = act.length();
            let again = length.filter(|length| repeats && !length.is_zero());
            let part = Part { act, begins: Duration::ZERO, ends: length, period: None };
            Track { face, act: Box::new(Sequence::of(vec![part], again)) }
        });
        Ok(Program { reel: Reel { tracks: tracks.collect() }, ..Program::default() })
    }

    fn without_text(
        &self,
        act: &impl ActOptions,
        stage: &Stage<'_>,
        session: &mut Session<'_>,
    ) -> Result<Program, Failure> {
        match (&self.args.say, self.args.app) {
            (Some(_), Some(app)) => {
                let message = format!("the app {} does not show a text", app.name());
                Err(Failure::unusable(message, "leave out --say, or choose another app: --app text"))
            }
            _ => act.program(stage, session),
        }
    }

    fn of_text(
        &self,
        motion: &TextMotion,
        usual: Motion,
        stage: &Stage<'_>,
        session: &mut Session<'_>,
    ) -> Result<Program, Failure> {
        let Some(text) = &self.args.say else {
            let message = format!("the app {} needs a text", self.args.app.map_or("text", AppName::name));
            return Err(Failure::unusable(message, "give it: --say \"TEAL 07:58\""));
        };
        program_of_texts(std::slice::from_ref(text), motion, usual, stage, session)
    }
}
