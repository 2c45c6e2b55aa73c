//! Templates of sources, and what they ask for: numbers as sources write them, and texts that stay in their comments.

use minijinja::syntax::SyntaxConfig;
use minijinja::value::Value;
use minijinja::{AutoEscape, Environment, Error, UndefinedBehavior};
use serde::Serialize;

/// Templates by their names.
pub type Templates = &'static [(&'static str, &'static str)];

/// The environment of templates. An unknown name is an error, and lines of statements leave nothing behind.
///
/// # Errors
/// When a template is none.
pub fn environment(
    templates: impl IntoIterator<Item = (&'static str, &'static str)>,
) -> Result<Environment<'static>, Error> {
    let mut environment = Environment::new();
    environment.set_undefined_behavior(UndefinedBehavior::Strict);
    environment.set_auto_escape_callback(|_| AutoEscape::None);
    let mut syntax = SyntaxConfig::builder();
    syntax.trim_blocks(true).lstrip_blocks(true).keep_trailing_newline(true);
    environment.set_syntax(syntax.build()?);
    for (name, source) in templates {
        environment.add_template(name, source)?;
    }
    add_filters(&mut environment);
    Ok(environment)
}

fn add_filters(environment: &mut Environment<'_>) {
    environment.add_filter("hex", |byte: u32| hex(byte));
    environment
        .add_filter("bytes", |bytes: Vec<u32>| bytes.into_iter().map(hex).collect::<Vec<_>>().join(", "));
    environment.add_filter("two_bytes", |words: Vec<u32>| {
        let bytes = words.into_iter().flat_map(|word| [word & 0xFF, word >> 8]);
        bytes.map(hex).collect::<Vec<_>>().join(", ")
    });
    environment.add_filter("byte_string", |bytes: Vec<u32>| {
        let bytes: String = bytes.into_iter().map(|byte| format!("\\x{byte:02X}")).collect();
        format!("b\"{bytes}\"")
    });
    environment.add_filter("digits", |number: u32, width: usize| format!("{number:0width$X}"));
    environment.add_filter("flat", |rows: Vec<Vec<u32>>| rows.concat());
    environment.add_filter("bit", |byte: u32, bit: u32| byte >> bit & 1 == 1);
    environment.add_filter("mask", |byte: u32, mask: u32| byte & mask);
    environment.add_filter("plain", |text: &str| harmless(text));
    environment.add_filter("us", |nanos: u64| (nanos as f64 / 1000.0).to_string());
    environment.add_filter("mhz", |hertz: u64| (hertz as f64 / 1e6).to_string());
    environment.add_filter("low", |number: i64| number & 0xFF);
    environment.add_filter("high", |number: i64| number >> 8 & 0xFF);
    environment.add_filter("turns", turns);
    environment.add_filter("rule", |rule: Vec<i64>, of: &str| match rule[..] {
        [first, apart] => rule_of(first, apart, of),
        _ => of.to_owned(),
    });
    environment.add_filter("in_units", |places: usize| {
        const UNITS: [&str; 6] =
            ["", ", in tenths", ", in hundredths", ", in thousandths", ", in 10000ths", ", in 100000ths"];
        UNITS.get(places).copied().unwrap_or(", in units of its last place")
    });
    environment.add_filter("power_of_two", |power: u32| 1_u32 << power.min(31));
    environment.add_filter("lit", |mark: Value| change(&mark, true));
    environment.add_filter("unlit", |mark: Value| change(&mark, false));
}

/// Returns the number of scan cycles of this many nanoseconds in a time in milliseconds; `None` if it is forever.
pub fn turns(ms: u64, turn_ns: u64) -> u64 {
    if ms == 0 { 0 } else { ((ms * 1_000_000 + turn_ns / 2) / turn_ns).max(1) }
}

fn hex(byte: u32) -> String {
    format!("0x{byte:02X}")
}

/// `first + apart * of`, without what changes nothing.
fn rule_of(first: i64, apart: i64, of: &str) -> String {
    let times = match apart.abs() {
        1 => of.to_owned(),
        apart => format!("{apart} * {of}"),
    };
    match (first, apart) {
        (first, 0) => first.to_string(),
        (0, 1..) => times,
        (first, 1..) => format!("{first} + {times}"),
        (first, _) => format!("{first} - {times}"),
    }
}

/// Returns the change of a byte of the image that lights a mark, or darkens it.
fn change(mark: &Value, lights: bool) -> Result<String, Error> {
    let mask = u32::try_from(mark.get_attr("mask")?)?;
    let is_set = bool::try_from(mark.get_attr("lit")?)? == lights;
    Ok(if is_set { format!("|= {}", hex(mask)) } else { format!("&= {}", hex(!mask & 0xFF)) })
}

/// A text for a comment of any language. It cannot end the comment or its line, whatever a file or a person wrote.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[serde(transparent)]
pub struct Comment(String);

impl Comment {
    /// The text in ASCII, on one line. What would begin or end a comment of C is parted by a blank, and a backslash does not
    /// end it.
    #[must_use]
    pub fn new(text: &str) -> Self {
        let mut comment = String::new();
        for sign in text.chars().map(ascii) {
            if matches!((comment.chars().last(), sign), (Some('*'), '/') | (Some('/'), '*')) {
                comment.push(' ');
            }
            comment.push(sign);
        }
        if comment.ends_with('\\') {
            comment.push(' ');
        }
        Self(comment)
    }

    /// The text of the comment.
    #[must_use]
    pub fn as_str(&self) -> &str {
        &self.0
    }
}

/// A text that cannot leave its comment or its string in any language: in ASCII, without the characters that end one.
#[must_use]
pub fn harmless(text: &str) -> String {
    let sign = |c: char| match c {
        '*' | '\\' | '"' | '`' => '\'',
        c => ascii(c),
    };
    text.chars().map(sign).collect()
}

/// A character as printable ASCII.
const fn ascii(c: char) -> char {
    match c {
        '\u{20}'..='\u{7e}' => c,
        '\u{2013}' | '\u{2212}' => '-',
        _ => '?',
    }
}
