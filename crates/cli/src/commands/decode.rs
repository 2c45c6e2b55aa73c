//! `decode`: what bytes light, and which characters that is.

use std::path::PathBuf;

use clap::{ArgGroup, Args};
use serde::Serialize;
use spare_tile_core::content::guess::{self, Guess, WrongEntry};
use spare_tile_core::glyph::literals::{self, BareBase};
use spare_tile_core::glyph::{BitOrder, Segments, glyph, nearest, other_form};
use spare_tile_core::units::counted;

use crate::coding::{Coding, CodingArgs, differences};
use crate::failure::{Complaint, Exit, Failure, Outcome};
use crate::files;
use crate::input;
use crate::options::Base;
use crate::session::Session;
use crate::view::columns::{Columns, broken};
use crate::view::rows;
use crate::wrapping::hung;

/// Show what bytes light, and which characters that is
///
/// Takes bytes as you have them: 3F 06, 0x3F, 0b00111111, $3F, 3Fh, H'3F', or a whole array pasted from a
/// program. --guess finds the polarity and the bit order behind them.
#[derive(Args)]
#[command(group = ArgGroup::new("source").required(true).args(["bytes", "file"]))]
pub struct Decode {
    /// The bytes, or a pasted array; - is standard input
    ///
    /// Example: spare-tile decode 3F 06 5B
    bytes: Vec<String>,
    /// Read the bytes from this file
    ///
    /// Example: spare-tile decode --file patterns.txt
    #[arg(long, value_name = "FILE")]
    file: Option<PathBuf>,
    /// The base of numbers without a prefix or suffix
    ///
    /// Example: spare-tile decode 63 6 91 --base dec
    #[arg(long, value_enum, default_value = "hex")]
    base: Base,
    /// Try both polarities and the usual bit orders, and list the likely ones
    ///
    /// Example: spare-tile decode C0 F9 A4 --guess
    #[arg(long)]
    guess: bool,
    /// The text that the bytes should show: search all bit orders, and name wrong entries
    ///
    /// Example: spare-tile decode FC 60 DA --expect 012
    #[arg(long, value_name = "TEXT")]
    expect: Option<String>,
    #[command(flatten)]
    coding: CodingArgs,
}

/// The longest table: more than any character set has.
const MAX_ENTRIES: usize = 4096;

#[derive(Serialize)]
struct EntryAnswer {
    value: String,
    segments: Vec<&'static str>,
    characters: Vec<char>,
    point: bool,
    /// Where no character has these segments: the nearest and what parts them.
    nearest: Option<NearestAnswer>,
}

#[derive(Serialize)]
struct NearestAnswer {
    character: char,
    lacks: Vec<&'static str>,
    extra: Vec<&'static str>,
}

#[derive(Serialize)]
struct GuessAnswer {
    common: &'static str,
    bit_order: Vec<&'static str>,
    reads: String,
    entries: usize,
    characters: usize,
    exact: usize,
    wrong: Vec<WrongAnswer>,
    untold: Vec<Vec<&'static str>>,
}

#[derive(Serialize)]
struct WrongAnswer {
    entry: usize,
    found: String,
    right: String,
    lacks: Vec<&'static str>,
    extra: Vec<&'static str>,
    /// The digit of which it is another form: then it is not wrong.
    #[serde(skip_serializing_if = "Option::is_none")]
    form_of: Option<char>,
}

/// Runs `decode`.
pub fn run(decode: &Decode, session: &mut Session<'_>) -> Outcome {
    let coding = decode.coding.coding(session)?;
    let values = values(decode, &coding)?;
    match &decode.expect {
        Some(expected) => {
            let guesses = guess::guess_expecting(&values, expected, &coding.order, coding.polarity)
                .map_err(|error| Failure::unusable(error.to_string(), "give as many characters as bytes"))?;
            tell_expected(&guesses, &coding, session)
        }
        None if decode.guess => tell_guesses(&guess::guess(&values, coding.style()), session),
        None => tell_entries(&values, &coding, session),
    }
}

fn values(decode: &Decode, coding: &Coding) -> Result<Vec<u32>, Failure> {
    let (origin, source) = match &decode.file {
        Some(path) => (input::called(path), files::read_text(path, "byte")?),
        None if decode.bytes == ["-"] => ("standard input".to_owned(), files::said("-")?.into_owned()),
        None => ("bytes".to_owned(), decode.bytes.join(" ")),
    };
    let bare = match decode.base {
        Base::Hex => BareBase::Hex,
        Base::Bin => BareBase::Binary,
        Base::Dec => BareBase::Decimal,
    };
    let bits = 8 * coding.order.byte_count();
    let values = literals::parse(&source, bare, bits).map_err(|error| {
        let complaint = Complaint::at(error.to_string(), &origin, &source, error.span);
        Failure { exit: Exit::Unusable, complaints: vec![complaint] }
    })?;
    if values.len() > MAX_ENTRIES {
        let message = format!("{origin} has {} entries, too many for a character table", values.len());
        return Err(Failure::unusable(message, format!("give at most {MAX_ENTRIES}")));
    }
    Ok(values)
}

fn tell_entries(values: &[u32], coding: &Coding, session: &mut Session<'_>) -> Outcome {
    let style = coding.style();
    let entries = values.iter().map(|value| (*value, coding.order.segments(*value, coding.polarity)));
    if session.json {
        let answers: Vec<_> =
            entries.map(|(value, segments)| entry_answer(value, segments, coding)).collect();
        return session.write_json(&answers);
    }
    let names: Vec<_> = coding.order.names().collect();
    let order = names.join(" ");
    writeln!(session.out, "{style} segments, {}", coding.polarity_words())?;
    let byte_width = (3 * coding.order.byte_count() - 1).max("hex".len());
    let indent = rows::indent(style);
    let heading = format!("{:indent$}{:byte_width$}   {order}   lit", "", "hex");
    writeln!(session.out, "{}", session.bold(&heading))?;
    for (value, segments) in entries {
        let bits = rows::bits_under(&names, value);
        let bytes = hex(value, &coding.order);
        let lit: Vec<_> = segments.names(style).collect();
        let (coded, read) = (format!("{bytes:byte_width$}   {bits}"), coding.read_words(segments));
        let whole = format!("{coded}   {:15}   {read}", lit.join(" "));
        let room = session.columns.saturating_sub(indent);
        let texts = if whole.chars().count() <= room {
            vec![whole]
        } else {
            let margin = " ".repeat(byte_width + 3);
            let below = format!("{}; {read}", lit.join(" "));
            let below = broken(&below, room.saturating_sub(margin.len()));
            std::iter::once(coded).chain(below.iter().map(|line| format!("{margin}{line}"))).collect()
        };
        writeln!(session.out, "{}", rows::row(segments, style, &texts))?;
    }
    Ok(())
}

fn hex(value: u32, order: &BitOrder) -> String {
    Base::Hex.write_all(&order.bytes(value).collect::<Vec<_>>())
}

fn entry_answer(value: u32, segments: Segments, coding: &Coding) -> EntryAnswer {
    let style = coding.style();
    let bare = segments.less(style.point());
    let characters = coding.characters_of(bare);
    let nearest = if characters.is_empty() { nearest(style, bare) } else { None };
    EntryAnswer {
        value: hex(value, &coding.order),
        segments: segments.names(style).collect(),
        point: segments.has(style.point()),
        nearest: nearest.map(|(character, wanted)| NearestAnswer {
            character,
            lacks: wanted.less(bare).names(style).collect(),
            extra: bare.less(wanted).names(style).collect(),
        }),
        characters,
    }
}

/// The usual wirings, the most sensible first.
fn tell_guesses(guesses: &[Guess], session: &mut Session<'_>) -> Outcome {
    /// A wiring fits if this share of the entries are characters; a few may be a person's own, or wrong.
    const FITS: (usize, usize) = (4, 5);
    let Some(best) = guesses.first() else { return Ok(()) };
    let fits = best.exact > 0 && best.exact * FITS.1 >= best.count * FITS.0;
    let verdict = || if fits { Ok(()) } else { Err(Failure::no()) };
    if session.json {
        session.write_json(&guesses.iter().map(guess_answer).collect::<Vec<_>>())?;
        return verdict();
    }
    let sensible = guesses.iter().take_while(|guess| (guess.exact, guess.read) == (best.exact, best.read));
    let count = sensible.count();
    if !fits {
        let words = format!(
            "none of the usual wirings fits these bytes: the best reads {} of {} as characters. If you know what they \
             should show, --expect TEXT tries every bit order",
            best.exact, best.count
        );
        writeln!(session.out, "{}", hung(&words, session.columns, 0))?;
    } else if count > 1 {
        writeln!(session.out, "{count} wirings make equally good sense; --expect TEXT decides between them")?;
    }
    let mut table = Columns::new(&["", "common", "bit order", "exact", "readable", "reads"]);
    for (place, guess) in guesses.iter().enumerate() {
        let mark = if place < count && fits { ">" } else { "" };
        let of = |number: usize| format!("{number} of {}", guess.count);
        let (common, order) = (guess.common.name().to_owned(), guess.order.to_string());
        table.row([mark.to_owned(), common, order, of(guess.exact), of(guess.read), guess.reads.clone()]);
    }
    write!(session.out, "{}", table.text(0, session))?;
    verdict()
}

/// The wiring under which the bytes show what was expected.
fn tell_expected(guesses: &[Guess], coding: &Coding, session: &mut Session<'_>) -> Outcome {
    let style = coding.style();
    let Some(best) = guesses.first() else { return Ok(()) };
    let wrong: Vec<_> = best.wrong.iter().filter(|wrong| drawn_otherwise(wrong, best).is_none()).collect();
    if session.json {
        session.write_json(&guess_answer(best))?;
    } else {
        writeln!(session.out, "common {}, bit order {}", best.common.name(), best.order)?;
        for group in &best.untold {
            let names: Vec<_> = group.names(style).collect();
            writeln!(
                session.out,
                "the text does not tell {} apart: their bits may be exchanged",
                names.join(" ")
            )?;
        }
        match wrong.len() {
            0 if best.count == 1 => writeln!(session.out, "the entry shows what was expected")?,
            0 => writeln!(session.out, "all {} entries show what was expected", best.count)?,
            count => {
                let (entries, are) =
                    (counted(best.count, "entry", "entries"), if count == 1 { "is" } else { "are" });
                writeln!(session.out, "{count} of {entries} {are} wrong:")?;
                for wrong in &wrong {
                    let parts = differences(wrong.lacks, wrong.extra, style);
                    let (found, right) = (hex(wrong.found, &best.order), hex(wrong.right, &best.order));
                    let entry = wrong.entry;
                    writeln!(session.out, "    entry {entry}: {found} {parts}; {right} would be right")?;
                }
            }
        }
        for (other, digit) in
            best.wrong.iter().filter_map(|other| Some((other, drawn_otherwise(other, best)?)))
        {
            let (found, ours) = (hex(other.found, &best.order), hex(other.right, &best.order));
            writeln!(
                session.out,
                "entry {}: {found} is another form of {digit}; ours is {ours}",
                other.entry
            )?;
        }
    }
    if wrong.is_empty() { Ok(()) } else { Err(Failure::no()) }
}

/// The digit that an entry is in another form than ours, where that digit is wanted.
fn drawn_otherwise(wrong: &WrongEntry, guess: &Guess) -> Option<char> {
    let style = guess.order.style();
    let bare = |value| guess.order.segments(value, guess.common).less(style.point());
    let digit = other_form(style, bare(wrong.found))?;
    (glyph(style, digit)?.segments == bare(wrong.right)).then_some(digit)
}

fn guess_answer(guess: &Guess) -> GuessAnswer {
    let names = |group: &Segments| group.names(guess.order.style()).collect::<Vec<_>>();
    GuessAnswer {
        common: guess.common.name(),
        bit_order: guess.order.names().collect(),
        reads: guess.reads.clone(),
        entries: guess.count,
        characters: guess.read,
        exact: guess.exact,
        wrong: guess
            .wrong
            .iter()
            .map(|wrong| WrongAnswer {
                entry: wrong.entry,
                found: hex(wrong.found, &guess.order),
                right: hex(wrong.right, &guess.order),
                lacks: names(&wrong.lacks),
                extra: names(&wrong.extra),
                form_of: drawn_otherwise(wrong, guess),
            })
            .collect(),
        untold: guess.untold.iter().map(names).collect(),
    }
}
