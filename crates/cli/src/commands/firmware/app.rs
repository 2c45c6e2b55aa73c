//! What a program shows where nobody wrote a reel: one act on one face.

use clap::ValueEnum;
use jiff::Timestamp;
use jiff::tz::TimeZone;
use toml::{Table, Value};

use crate::failure::Failure;

/// An act by its name.
#[derive(ValueEnum, Clone, Copy, PartialEq, Eq)]
pub enum App {
    /// Counts up, a number a second, and begins again.
    Count,
    /// The time of day.
    Clock,
    /// A text that passes again and again.
    Text,
    /// A number or text that stands.
    Still,
    /// Each light alone, all going out in turn, 0 to 9 on each digit, all on; again and again.
    Test,
}

impl App {
    /// The word for it.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Count => "count",
            Self::Clock => "clock",
            Self::Text => "text",
            Self::Still => "still",
            Self::Test => "test",
        }
    }

    /// The reel in which it plays on a face; a clock `begins` at a time.
    pub fn reel(self, face: &str, say: Option<&str>, begins: Timestamp) -> Result<String, Failure> {
        let text = |text: &str| Value::String(text.to_owned());
        let needs = || {
            let message = format!("the app {} shows a text, and none is said", self.name());
            Failure::unusable(message, "say what: --say \"TEAL 07:58\"")
        };
        if let (Some(_), Self::Count | Self::Clock | Self::Test) = (say, self) {
            let message = format!("the app {} shows no text", self.name());
            return Err(Failure::unusable(message, "leave out --say, or take another app: --app text"));
        }
        let mut keys = Table::new();
        let mut is_again = true;
        let act = match self {
            Self::Count => "count",
            Self::Clock => {
                let begins = TimeZone::UTC.to_datetime(begins);
                keys.insert(
                    "from".to_owned(),
                    Value::String(begins.strftime("%Y-%m-%dT%H:%M:%S").to_string()),
                );
                is_again = false;
                "clock"
            }
            Self::Text => {
                keys.insert("say".to_owned(), text(say.ok_or_else(needs)?));
                keys.insert("move".to_owned(), text("left"));
                "text"
            }
            Self::Still => {
                keys.insert("say".to_owned(), text(say.ok_or_else(needs)?));
                is_again = false;
                "text"
            }
            Self::Test => "test",
        };
        let act = Table::from_iter([(act.to_owned(), Value::Table(keys))]);
        let is_again = is_again && self != Self::Count;
        let track = Table::from_iter([
            ("face".to_owned(), text(face)),
            ("loop".to_owned(), Value::Boolean(is_again)),
            ("act".to_owned(), Value::Array(vec![Value::Table(act)])),
        ]);
        Ok(Table::from_iter([("track".to_owned(), Value::Array(vec![Value::Table(track)]))]).to_string())
    }
}
