//! `firmware --list-calls`: the calls that a person's own program can make, and the displays, fonts and colours that it can name, read
//! from the sources that are written for it.

use serde::Serialize;
use spare_tile_firmware::project::Written;

use crate::failure::Outcome;
use crate::session::Session;
use crate::wrapping::{hung, together};

/// A call.
#[derive(Serialize)]
struct Call {
    /// How it is written.
    call: String,
    /// The file that declares it.
    file: String,
    /// The comment above its declaration.
    about: String,
}

/// Prints the calls of a project.
pub fn tell(files: &[Written], session: &mut Session<'_>) -> Outcome {
    let calls: Vec<Call> = files.iter().flat_map(calls).collect();
    if session.json {
        return session.write_json(&calls);
    }
    let mut file = "";
    for call in &calls {
        if file != call.file {
            file = &call.file;
            writeln!(session.out, "{file}")?;
        }
        let arguments = call.call.split(", ").map(together).collect::<Vec<_>>().join(", ");
        let room = session.columns.saturating_sub(4).max(1);
        writeln!(session.out, "  {}", hung(&arguments, room, 6))?;
        for line in hung(&call.about, room, 0).lines() {
            writeln!(session.out, "    {line}")?;
        }
    }
    Ok(())
}

/// Sources that no program of a person's own calls, or that it is itself.
const INNER: [&str; 8] =
    ["hw", "own", "zone", "buttons", "buttons_size", "digits_size", "digits_wiring", "dots_wiring"];

/// The calls that a file declares for a person's program.
fn calls(file: &Written) -> Vec<Call> {
    let name = file.path.rsplit('/').next().unwrap_or(&file.path);
    let found = match name.rsplit_once('.') {
        Some((stem, _)) if INNER.contains(&stem) => Vec::new(),
        Some(("keypad_wiring", _)) => names(&file.text),
        Some((_, "h")) => of_header(&file.text),
        Some(("digits" | "dots" | "fonts" | "keypad" | "wall", "rs")) => of_crate(&file.text),
        Some((stem, "py")) if !matches!(stem, "hw" | "main" | "own") => of_module(&file.text),
        _ => Vec::new(),
    };
    let call = |(call, about): (String, String)| Call { call, file: name.to_owned(), about };
    found.into_iter().map(call).collect()
}

/// The names of buttons, each with the comment above or behind it.
fn names(text: &str) -> Vec<(String, String)> {
    let (mut above, mut found) = ("", Vec::new());
    for line in text.lines().map(str::trim) {
        let behind = line.split_once(", /* ").or_else(|| line.split_once("  # "));
        let (name, about) = match behind {
            Some((name, about)) => (name, about.trim_end_matches(" */")),
            None if line.starts_with("pub const ") => (line.trim_start_matches("pub const "), above),
            None => {
                above = line.strip_prefix("/// ").unwrap_or_default();
                continue;
            }
        };
        let name = name.split([' ', ':']).next().unwrap_or(name);
        found.push((name.to_owned(), format!("The button {}.", about.trim_end_matches('.'))));
    }
    found
}

/// Declarations of functions, of what is there and of its words, behind a comment.
fn of_header(text: &str) -> Vec<(String, String)> {
    let behind_comment = |piece: &str| {
        let (about, rest) = piece.split_once("*/")?;
        let call = rest.trim_start().split('\n').next()?.trim();
        let is_declared = call.ends_with(");")
            || call.ends_with(';') && (call.starts_with("extern ") || call.starts_with("enum "))
            || call.starts_with("typedef enum ");
        is_declared.then(|| (call.to_owned(), in_a_line(about)))
    };
    text.split("/*").filter_map(behind_comment).collect()
}

/// Public functions behind lines that explain them.
fn of_crate(text: &str) -> Vec<(String, String)> {
    let explained = |(at, _): (usize, &str)| {
        let declared = text[at..].trim_start_matches("pub ");
        let end = match declared.split_once(' ')?.0 {
            "enum" => declared.find("\n}")? + 2,
            "static" => declared.find(" =")?,
            _ => declared.find(" {\n")?,
        };
        let words = declared[..end].lines().filter(|line| !line.trim_start().starts_with("///"));
        let call = words.collect::<Vec<_>>().join(" ");
        let before = text[..at].lines().rev().map(str::trim);
        // Attributes stand between.
        let before = before.skip_while(|line| !line.starts_with("///") && !line.ends_with(['{', '}']));
        let mut about: Vec<&str> = before.map_while(|line| line.strip_prefix("///")).collect();
        about.reverse();
        let call = in_a_line(&call).replace("( ", "(").replace(", )", ")").replace(", }", " }");
        Some((call, in_a_line(&about.join(" ")).replace(['[', ']', '`'], "")))
    };
    let public = ["pub fn ", "pub enum ", "pub static "].map(|public| text.match_indices(public));
    let mut public: Vec<_> = public.into_iter().flatten().collect();
    public.sort_unstable();
    public.into_iter().filter_map(explained).collect()
}

/// Functions with a text that explains them. In the module of a display, those behind the display: the others send its image.
fn of_module(text: &str) -> Vec<(String, String)> {
    // Words behind a comment, and a font behind the text of its module.
    let words = text.split("\n# ").filter_map(|piece| {
        let (about, rest) = piece.split_once('\n')?;
        let line = rest.lines().next()?;
        line.contains(" = range(").then(|| (line.to_owned(), about.to_owned()))
    });
    let about_all = text.trim_start_matches("\"\"\"").split("\"\"\"").next().unwrap_or_default();
    let font = text.contains("\nfont = ").then(|| ("font".to_owned(), in_a_line(about_all)));
    let others: Vec<_> = words.chain(font).collect();
    let text = text.split_once("\nface = ").map_or(text, |(_, behind)| behind);
    let explained = |piece: &str| {
        let (call, rest) = piece.split_once(":\n")?;
        let (_, rest) = rest.split_once("\"\"\"").filter(|(before, _)| before.trim().is_empty())?;
        let (about, _) = rest.split_once("\"\"\"")?;
        let call = call.replace("(self, ", "(").replace("(self)", "()");
        (!call.starts_with('_')).then(|| (call, in_a_line(about)))
    };
    others.into_iter().chain(text.split("def ").skip(1).filter_map(explained)).collect()
}

fn in_a_line(text: &str) -> String {
    text.split_whitespace().collect::<Vec<_>>().join(" ")
}
