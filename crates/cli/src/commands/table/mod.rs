//! `table`: the truth table of a character set, for people or as source for a controller; fonts and sprites as source.

mod dots;

use std::path::PathBuf;

use clap::{Args, ValueEnum};
use serde::Serialize;
use spare_tile_core::glyph::characters;
use spare_tile_firmware::forms::{self, FORMS};
use spare_tile_firmware::table::{Entry, Index, Table as Patterns, TableError};

use crate::coding::{Coding, CodingArgs};
use crate::exports::{self, png::Png, svg};
use crate::failure::{Failure, Outcome};
use crate::options::Base;
use crate::session::Session;
use crate::view::{chart, rows};

/// Write the truth table of a character set
///
/// For people as text, Markdown, CSV, JSON or an SVG chart; for a controller as source that compiles as it is:
/// c (any C99 compiler), avr-c (table in flash), mcs51-c and mcs51-asm (table in code memory), rust (no_std), micropython, and
/// pic-asm (12-bit core, RETLW). With --font or --sprite the dots of a font or of a sprite, as source.
#[derive(Args)]
pub struct Table {
    /// The characters: decimal, hex, letters, ascii, all (of the style or font), or any text [default: decimal; all of a
    /// font]
    ///
    /// Example: spare-tile table --set hex
    #[arg(long, value_name = "SET")]
    set: Option<String>,
    /// Only the characters of this text, each once
    ///
    /// Example: spare-tile table --only-used "BERTH 12"
    #[arg(long, value_name = "TEXT", conflicts_with = "set")]
    only_used: Option<String>,
    /// The form: text, markdown, csv, json, svg, c, avr-c, mcs51-c, mcs51-asm, rust, micropython, pic-asm
    ///
    /// Example: spare-tile table --as c
    #[arg(long = "as", value_name = "FORM", default_value = "text", value_parser = form)]
    form: Form,
    /// The name of the table in source
    ///
    /// Example: spare-tile table --as c --name digits
    #[arg(long, value_name = "NAME", default_value = "patterns")]
    name: String,
    /// The handling of an index past the end in source [default: checked; masked for pic-asm]
    ///
    /// Example: spare-tile table --as c --index masked
    #[arg(long, value_enum)]
    index: Option<IndexArg>,
    /// The characters of a font of dots, instead of segments: one of ours, or a BDF file
    ///
    /// Example: spare-tile table --font board --only-used "TEAL 0123456789" --as c
    #[arg(long, help_heading = "Dots", value_name = "FONT", conflicts_with = "sprite")]
    font: Option<String>,
    /// The frames of a sprite or picture; with --rig in the form of the memory of that face's parts
    ///
    /// Example: spare-tile table --sprite gull.dots --as rust --name gull
    #[arg(long, help_heading = "Dots", value_name = "FILE", visible_alias = "picture", conflicts_with_all = ["set", "only_used"])]
    sprite: Option<PathBuf>,
    /// The dots that a byte holds [default: columns, or the order of the modules in the rig]
    ///
    /// Example: spare-tile table --font small --by rows --as avr-c
    #[arg(long, help_heading = "Dots", value_enum)]
    by: Option<By>,
    /// The dot in bit 0: the first, topmost or leftmost, or the last [default: first, or by the rig's modules]
    ///
    /// Example: spare-tile table --font small --bit-0 last --as c
    #[arg(long = "bit-0", help_heading = "Dots", value_enum)]
    bit_0: Option<Bit0>,
    /// The base of bytes in the forms text and markdown
    ///
    /// Example: spare-tile table --base bin
    #[arg(long, value_enum, default_value = "hex")]
    base: Base,
    /// Also write the chart as PNG
    ///
    /// Example: spare-tile table --png chart.png
    #[arg(long, help_heading = "Files", value_name = "FILE")]
    png: Option<PathBuf>,
    #[command(flatten)]
    coding: CodingArgs,
}

/// The handling of an index past the end, on the command line.
#[derive(ValueEnum, Clone, Copy)]
enum IndexArg {
    Masked,
    Checked,
}

/// The dots that a byte holds, on the command line.
#[derive(ValueEnum, Clone, Copy, PartialEq, Eq)]
enum By {
    Columns,
    Rows,
}

/// Which dot is in bit 0, on the command line.
#[derive(ValueEnum, Clone, Copy, PartialEq, Eq)]
enum Bit0 {
    First,
    Last,
}

/// The forms of a table.
#[derive(Clone, Copy)]
enum Form {
    Text,
    Markdown,
    Csv,
    Json,
    Svg,
    Source(&'static forms::Form),
}

fn form(name: &str) -> Result<Form, String> {
    const FOR_PEOPLE: [(&str, Form); 5] = [
        ("text", Form::Text),
        ("markdown", Form::Markdown),
        ("csv", Form::Csv),
        ("json", Form::Json),
        ("svg", Form::Svg),
    ];
    let for_people = FOR_PEOPLE.iter().find(|(known, _)| *known == name).map(|(_, form)| *form);
    for_people.or_else(|| forms::form(name).map(Form::Source)).ok_or_else(|| {
        let names = FOR_PEOPLE.iter().map(|(name, _)| *name);
        let names = names.chain(FORMS.iter().map(|form| form.name()));
        format!("the forms are {}", names.collect::<Vec<_>>().join(", "))
    })
}

#[derive(Serialize)]
struct Answer<'a> {
    style: &'a str,
    common: &'a str,
    bit_order: Vec<&'a str>,
    entries: Vec<EntryAnswer<'a>>,
}

#[derive(Serialize)]
struct EntryAnswer<'a> {
    character: char,
    segments: Vec<&'a str>,
    bits: String,
    bytes: Vec<String>,
}

/// Runs `table`.
pub fn run(table: &Table, session: &mut Session<'_>) -> Outcome {
    if table.font.is_some() || table.sprite.is_some() {
        return dots::run(table, session);
    }
    if table.by.is_some() || table.bit_0.is_some() {
        let message = "--by and --bit-0 are for fonts and sprites";
        return Err(Failure::unusable(message, "name one with --font or --sprite"));
    }
    let coding = table.coding.coding(session)?;
    let form = if session.json { Form::Json } else { table.form };
    let patterns = patterns(table, &coding)?;
    match form {
        Form::Text => print(&patterns, table.base, session)?,
        Form::Markdown => print_markdown(&patterns, table.base, session)?,
        Form::Csv => print_csv(&patterns, table.base, session)?,
        Form::Json => session.write_json(&answer(&patterns, table.base))?,
        Form::Svg => write!(session.out, "{}", svg::write(&chart::draw(&patterns)))?,
        Form::Source(form) => {
            let source = form.write(&patterns).map_err(|error| failure(&error))?;
            write!(session.out, "{source}")?;
        }
    }
    if let Some(path) = &table.png {
        exports::write_drawing(path, &Png, &chart::draw(&patterns), session)?;
    }
    Ok(())
}

fn patterns(table: &Table, coding: &Coding) -> Result<Patterns, Failure> {
    let wanted: Vec<char> = match (&table.only_used, table.set.as_deref()) {
        (Some(text), _) => {
            let mut used: Vec<_> = text.chars().collect();
            used.sort_unstable();
            used.dedup();
            used
        }
        (None, None) => ('0'..='9').collect(),
        (None, Some(text)) => set(text).unwrap_or_else(|| characters(coding.style()).collect()),
    };
    let index = match (table.index, table.form) {
        (Some(IndexArg::Masked), _) => Index::Masked,
        (Some(IndexArg::Checked), _) => Index::Checked,
        (None, Form::Source(form)) if form.name() == "pic-asm" => Index::Masked,
        (None, _) => Index::Checked,
    };
    Patterns::new(&table.name, &wanted, coding.order.clone(), coding.polarity, index, &coding.face.own_glyphs)
        .map_err(|error| failure(&error))
}

/// The characters of a set by its name, or of any text; `None` for all characters, which depend on the font or style.
fn set(name: &str) -> Option<Vec<char>> {
    Some(match name {
        "all" => return None,
        "decimal" => ('0'..='9').collect(),
        "hex" => "0123456789AbCdEF".chars().collect(),
        "letters" => ('A'..='Z').collect(),
        "ascii" => (' '..='~').collect(),
        text => text.chars().collect(),
    })
}

fn failure(error: &TableError) -> Failure {
    let help = match error {
        TableError::Name { .. } | TableError::Taken { .. } => "choose a name such as --name digits",
        TableError::NoGlyph { .. } => "leave the character out, or draw it in the rig's glyphs",
        TableError::Empty => "name characters with --set or --only-used",
        TableError::TooLong { .. } => "take fewer characters: --only-used TEXT",
        TableError::NotInFont { .. } => "see what it has: spare-tile fonts FONT; or leave the character out",
        TableError::TooManyDots => "take fewer characters: --only-used TEXT; or fewer frames",
        TableError::MaskedOnly { .. } => "leave --index out, or write --index masked",
        TableError::Template(_) => "this is a mistake of ours: please tell us",
    };
    Failure::unusable(error.to_string(), help)
}

fn print(patterns: &Patterns, base: Base, session: &mut Session<'_>) -> Outcome {
    let style = patterns.order.style();
    writeln!(session.out, "{style} segments, {}", patterns.common.polarity())?;
    let names: Vec<_> = patterns.order.names().collect();
    let heading = format!("     {}   {}", names.join(" "), base.name());
    writeln!(session.out, "{}", session.bold(&heading))?;
    for entry in &patterns.entries {
        let bits = rows::bits_under(&names, entry.bits);
        writeln!(session.out, "{}    {bits}   {}", entry.character, bytes(patterns, entry.bits, base))?;
    }
    Ok(())
}

fn bytes(patterns: &Patterns, bits: u32, base: Base) -> String {
    base.write_all(&patterns.order.bytes(bits).collect::<Vec<_>>())
}

/// The bits of a pattern, a separator between.
fn bit_cells(bits: u32, width: usize, separator: &str) -> String {
    rows::bits(bits, width).map(|bit| bit.to_string()).collect::<Vec<_>>().join(separator)
}

fn print_markdown(patterns: &Patterns, base: Base, session: &mut Session<'_>) -> Outcome {
    let names: Vec<_> = patterns.order.names().collect();
    writeln!(session.out, "| character | {} | {} |", names.join(" | "), base.name())?;
    writeln!(session.out, "| --- |{} --- |", " --- |".repeat(names.len()))?;
    for entry in &patterns.entries {
        let cells = bit_cells(entry.bits, names.len(), " | ");
        let character = match entry.character {
            ' ' => "(blank)".to_owned(),
            '|' => "\\|".to_owned(),
            '`' => "`` ` ``".to_owned(),
            character => format!("`{character}`"),
        };
        writeln!(session.out, "| {character} | {cells} | {} |", bytes(patterns, entry.bits, base))?;
    }
    Ok(())
}

fn print_csv(patterns: &Patterns, base: Base, session: &mut Session<'_>) -> Outcome {
    let names: Vec<_> = patterns.order.names().collect();
    writeln!(session.out, "character,{},{}", names.join(","), base.name())?;
    for entry in &patterns.entries {
        let cells = bit_cells(entry.bits, names.len(), ",");
        // RFC 4180: a field with a comma or quote stands in quotes, a quote in it is doubled.
        let character = match entry.character {
            '"' => "\"\"\"\"".to_owned(),
            ',' | ' ' => format!("\"{}\"", entry.character),
            character => character.to_string(),
        };
        writeln!(session.out, "{character},{cells},{}", bytes(patterns, entry.bits, base))?;
    }
    Ok(())
}

fn answer(patterns: &Patterns, base: Base) -> Answer<'_> {
    let style = patterns.order.style();
    let entry = |entry: &Entry| EntryAnswer {
        character: entry.character,
        segments: entry.segments.names(style).collect(),
        bits: format!("{:0width$b}", entry.bits, width = patterns.order.width()),
        bytes: patterns.order.bytes(entry.bits).map(|byte| base.write(byte)).collect(),
    };
    Answer {
        style: style.name(),
        common: patterns.common.name(),
        bit_order: patterns.order.names().collect(),
        entries: patterns.entries.iter().map(entry).collect(),
    }
}
