//! One file a command. Each reads as its story: take the arguments, load the rig, ask the core, hand the
//! answer to a view.

pub mod bytes;
pub mod capture;
pub mod cli;
pub mod completions;
pub mod decode;
pub mod demo;
pub mod dots;
pub mod draw;
pub mod encode;
pub mod firmware;
pub mod fonts;
pub mod help;
pub mod play;
pub mod rig;
pub mod scan;
pub mod show;
pub mod table;
pub mod usage;

use crate::failure::Outcome;
use crate::session::Session;
use cli::Command;

/// Runs a command.
pub fn run(command: &Command, session: &mut Session<'_>) -> Outcome {
    match command {
        Command::Rig(rig) => rig::run(rig, session),
        Command::Encode(encode) => encode::run(encode, session),
        Command::Decode(decode) => decode::run(decode, session),
        Command::Table(table) => table::run(table, session),
        Command::Show(show) => show::run(show, session),
        Command::Bytes(bytes) => bytes::run(bytes, session),
        Command::Capture(capture) => capture::run(capture, session),
        Command::Scan(scan) => scan::run(scan, session),
        Command::Play(play) => play::run(play, session),
        Command::Firmware(firmware) => firmware::run(firmware, session),
        Command::Fonts(fonts) => fonts::run(fonts, session),
        Command::Dots(dots) => dots::run(dots, session),
        Command::Draw(draw) => draw::run(draw, session),
        Command::Demo(demo) => demo::run(demo, session),
        Command::Help(help) => help::run(help, session),
        Command::Completions(completions) => completions::run(completions, session),
        Command::Man(man) => completions::run_man(man, session),
    }
}
