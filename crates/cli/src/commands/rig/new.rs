//! `rig new`: a rig file to begin with.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use clap::Args;
use serde::Serialize;
use spare_tile_core::draft::kinds::{KINDS, Kind, Size, kind};
use spare_tile_core::draft::{self, DraftError, Wish, roles};
use spare_tile_core::rig::{Pin, controllers, nearest};

use crate::failure::{Failure, Outcome};
use crate::files;
use crate::session::Session;
use crate::view::columns::Columns;

/// Write a rig file to begin with, pins and resistors chosen
///
/// Without a kind it lists them. The file is found sound by `rig check`; every key that it leaves open is in it as a
/// comment with its default. Pins are free ones that nothing else needs, those of the controller's own bus where the
/// part wants one, and on one port where that makes one write of many.
///
/// Example: spare-tile rig new clock-module --controller rp2040
#[derive(Args)]
pub struct New {
    /// What lies on the bench; `spare-tile rig new` lists the kinds
    kind: Option<String>,
    /// The controller's part number
    #[arg(short, long, value_name = "PART")]
    controller: Option<String>,
    /// How many digits
    #[arg(short, long, value_name = "N", conflicts_with = "size")]
    digits: Option<usize>,
    /// How many dots across and down, such as 32x8
    #[arg(long, value_name = "WxH", value_parser = parse_size)]
    size: Option<Size>,
    /// Pins that are decided, such as clock=GP10,data=GP11; the others are chosen
    #[arg(short, long, value_name = "ROLE=PIN,...", value_delimiter = ',', value_parser = parse_pair)]
    pins: Vec<(String, Pin)>,
    /// Where to write it; - is standard output
    #[arg(short, long, value_name = "FILE", default_value = "rig.toml")]
    out: PathBuf,
    /// Write over a file that is there
    #[arg(long)]
    force: bool,
}

#[derive(Serialize)]
struct KindAnswer {
    name: &'static str,
    about: &'static str,
    usual: String,
    most: String,
}

fn parse_size(text: &str) -> Result<Size, String> {
    let sides = text
        .split_once(['x', 'X'])
        .and_then(|(width, height)| Some((width.parse().ok()?, height.parse().ok()?)));
    let (width, height) = sides.ok_or("write dots across and down, such as 32x8")?;
    Ok(Size::Dots(width, height))
}

fn parse_pair(text: &str) -> Result<(String, Pin), String> {
    let pair = text
        .split_once('=')
        .and_then(|(role, pin)| Some((role.trim().to_ascii_lowercase(), Pin::parse(pin.trim())?)));
    pair.ok_or_else(|| "write a role and its pin, such as clock=GP10".to_owned())
}

/// Runs `rig new`.
pub fn run(new: &New, session: &mut Session<'_>) -> Outcome {
    let Some(name) = &new.kind else { return list(session) };
    let Some(kind) = kind(name) else {
        let names = KINDS.iter().map(|kind| kind.name);
        let help = match nearest(name, names) {
            Some(nearest) => format!("did you mean {nearest}? list them: spare-tile rig new"),
            None => "list them: spare-tile rig new".to_owned(),
        };
        return Err(Failure::unusable(format!("there is no kind '{name}' to begin with"), help));
    };
    let wish = Wish {
        kind,
        size: new.size.or(new.digits.map(Size::Digits)),
        controller: new.controller.clone(),
        pins: new.pins.iter().cloned().collect::<BTreeMap<_, _>>(),
    };
    let text = draft::rig(&wish).map_err(|error| unusable(&error, &wish))?;
    if new.out == Path::new("-") {
        return Ok(write!(session.out, "{text}")?);
    }
    if !new.force && new.out.exists() {
        let message = format!("{} exists: nothing was written", new.out.display());
        return Err(Failure::unusable(message, "name another file with --out, or write over it: --force"));
    }
    files::write_whole(&new.out, |out| out.write_all(text.as_bytes()))?;
    session.say_aside(&format!("wrote {}", new.out.display()));
    let rig = if new.out == Path::new("rig.toml") {
        String::new()
    } else {
        format!(" --rig {}", new.out.display())
    };
    session.say_aside(&format!("see what to connect: spare-tile rig wires{rig}"));
    Ok(())
}

/// Why there is no such rig, and what to do.
fn unusable(error: &DraftError, wish: &Wish) -> Failure {
    let help = match error {
        DraftError::UnknownController { found } => {
            let known: Vec<_> = controllers::names().collect();
            let meant = nearest(found, controllers::names())
                .map_or_else(String::new, |name| format!("did you mean {name}? "));
            format!(
                "{meant}the controllers: {}; or leave --controller out and spell yours out in the rig",
                known.join(", ")
            )
        }
        DraftError::Size { .. } => "take fewer, or split the display into two faces".to_owned(),
        DraftError::OtherSize { is_digits: true, .. } => "give --digits".to_owned(),
        DraftError::OtherSize { is_digits: false, .. } => "give --size".to_owned(),
        DraftError::Pins(_) => {
            "take another controller, or a kind with fewer lines: shifted-digits, chain-digits".to_owned()
        }
        DraftError::UnknownRole { .. } => {
            let size = wish.size.unwrap_or(wish.kind.size.0);
            format!("such as {}=PIN", roles(wish.kind, size).first().map_or("clock", String::as_str))
        }
        DraftError::Unsound { .. } => {
            "take another controller, or another kind: spare-tile rig new lists them".to_owned()
        }
    };
    Failure::unusable(error.to_string(), help)
}

/// The kinds, each with one line.
fn list(session: &mut Session<'_>) -> Outcome {
    if session.json {
        let answer = |kind: &Kind| KindAnswer {
            name: kind.name,
            about: kind.about,
            usual: kind.size.0.words(),
            most: kind.size.1.words(),
        };
        return session.write_json(&KINDS.iter().map(answer).collect::<Vec<_>>());
    }
    let mut table = Columns::new(&["kind", "what lies on the bench", "usually"]);
    for kind in KINDS {
        table.row([kind.name.to_owned(), kind.about.to_owned(), kind.size.0.words()]);
    }
    write!(session.out, "{}", table.text(0, session))?;
    let known: Vec<_> = controllers::names().collect();
    session.say_aside(&format!(
        "begin with one: spare-tile rig new clock-module --controller rp2040\nthe controllers: {}",
        known.join(", ")
    ));
    Ok(())
}
