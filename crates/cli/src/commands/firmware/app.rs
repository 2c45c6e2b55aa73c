//! One act in place of a reel: `--app` and the options of that act.

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

use crate::acts::{ActOptions, ClockOptions, CountOptions, Stage, TestOptions, TextMotion, program_of_texts};
use crate::failure::{Failure, Outcome};
use crate::moments::moment;
use crate::session::Session;

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
}

impl AppName {
    const fn name(self) -> &'static str {
        match self {
            Self::Count => "count",
            Self::Clock => "clock",
            Self::Text => "text",
            Self::Still => "still",
            Self::Test => "test",
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
        })
    }
}

/// An option of one or several acts.
struct ActOption {
    option: Arg,
    /// By help text, the apps that have the option; it may mean different things to different acts.
    helps: Vec<(String, Vec<AppName>)>,
}

impl ActOption {
    fn add(&mut self, app: AppName, option: &Arg) {
        let help = option.get_help().map(ToString::to_string).unwrap_or_default();
        match self.helps.iter_mut().find(|(known, _)| *known == help) {
            Some((_, apps)) => apps.push(app),
            None => self.helps.push((help, vec![app])),
        }
    }

    /// Returns the option, below a heading with its apps.
    fn option(self, place: usize) -> Arg {
        let apps: Vec<_> = AppName::value_variants()
            .iter()
            .filter(|app| self.helps.iter().any(|(_, apps)| apps.contains(app)))
            .copied()
            .collect();
        let option =
            self.option.help_heading(format!("Options of --app {}", listed(&apps))).display_order(place);
        if self.helps.len() < 2 {
            return option;
        }
        let helps: Vec<_> =
            self.helps.iter().map(|(help, apps)| format!("{}: {help}", listed(apps))).collect();
        let long = option.get_long_help().map(ToString::to_string).unwrap_or_default();
        let example = long.split_once("Example: ").map(|(_, example)| format!("Example: {example}"));
        let help = helps.join("; ");
        let long_help = format!("{help}\n\n{}", example.unwrap_or_default());
        option.help(help).long_help(long_help)
    }
}

fn listed(apps: &[AppName]) -> String {
    apps.iter().map(|app| app.name()).collect::<Vec<_>>().join(", ")
}

/// The options of all acts together: which of them an app has is checked when they are read.
impl Args for App {
    fn augment_args(command: Command) -> Command {
        let command = AppArgs::augment_args(command);
        let mut options: Vec<ActOption> = Vec::new();
        for app in AppName::value_variants() {
            for option in app.command().get_arguments() {
                if command.get_arguments().any(|known| known.get_id() == option.get_id()) {
                    continue;
                }
                let place = options.iter().position(|known| known.option.get_id() == option.get_id());
                let place = place.unwrap_or_else(|| {
                    options.push(ActOption { option: option.clone(), helps: Vec::new() });
                    options.len() - 1
                });
                options[place].add(*app, option);
            }
        }
        let options = options.into_iter().enumerate().map(|(place, option)| option.option(place));
        options.fold(command, Command::arg)
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

/// Refuses an option that is only one of other acts.
fn check_options(app: Option<AppName>, matches: &ArgMatches) -> Result<(), Error> {
    let has = |app: AppName, id: &str| app.command().get_arguments().any(|option| option.get_id() == id);
    let of_all = AppArgs::augment_args(Command::new("app"));
    let given = matches.ids().map(clap::Id::as_str).filter(|id| {
        matches.value_source(id) == Some(ValueSource::CommandLine)
            && of_all.get_arguments().all(|option| option.get_id() != *id)
    });
    for id in given {
        let apps: Vec<_> =
            AppName::value_variants().iter().filter(|app| has(**app, id)).map(|app| app.name()).collect();
        if !apps.is_empty() && app.is_none_or(|app| !has(app, id)) {
            let option = id.replace('_', "-");
            let message = format!("--{option} is an option of --app {}\n", apps.join(" and "));
            return Err(Error::raw(ErrorKind::ArgumentConflict, message));
        }
    }
    Ok(())
}

impl App {
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

    /// Adds characters of the user's own to the face.
    pub fn add_glyphs(&self, face: &mut Face) -> Outcome {
        match &self.act {
            Some(AppAct::Count(count)) => count.add_glyphs(face),
            Some(AppAct::Text(text) | AppAct::Still(text)) => text.add_glyphs(face),
            Some(AppAct::Clock(_) | AppAct::Test(_)) | None => Ok(()),
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
            None => return Ok(Program::default()),
        };
        let tracks = program.reel.tracks.into_iter().map(|Track { face, act }| {
            let length = act.length();
            let again = length.filter(|length| repeats && !length.is_zero());
            let part = Part { act, begins: std::time::Duration::ZERO, ends: length, period: None };
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
