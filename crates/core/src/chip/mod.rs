//! The parts, a folder each.
//!
//! A part's folder reads like its data sheet: `facts.rs` the figures, `driver.rs` the words to send as a
//! programmer reads them, `model.rs` what the part does with the edges it gets, and `mod.rs` the keys of its
//! drive table. `driver.rs` and `model.rs` share no code, so that each can catch the other's mistakes. A part of
//! one register has it all in `mod.rs`. [`grid`] has what parts with a display memory share on the sending side,
//! [`tm163x`] what the parts of one family do.

pub mod grid;
pub mod hc573;
pub mod hc595;
pub mod ht16k33;
pub mod max7219;
pub mod mcp23017;
pub mod pcf8574;
pub mod tm1637;
pub mod tm1638;
mod tm163x;

use serde_spanned::Spanned;

use crate::face::Face;
use crate::glyph::Common;
use crate::rig::{Controller, DriveTable, Place, Problem};
use crate::units::{Nanos, Volts, parse_duration};

use grid::GridKeys;

/// Reports digits of the other kind.
fn check_common(face: &Face, method: &'static str, wants: Common, table: &DriveTable<'_>) {
    if face.common != wants {
        table.error(Place::Face("common"), Problem::WrongCommon { method, wants });
    }
}

/// Warns of a supply that the part does not take for sure.
fn check_supply(
    controller: &Controller,
    part: &'static str,
    (least, most): (Volts, Volts),
    table: &DriveTable<'_>,
) {
    let found = controller.supply_volts;
    if !(least..=most).contains(&found) {
        table.warn(Place::Controller("supply"), Problem::Supply { part, found, least, most });
    }
}

/// Warns of a bus whose high level is no sure high for the part: under seven tenths of its supply.
fn check_logic(controller: &Controller, part: &'static str, keys: &GridKeys, table: &DriveTable<'_>) {
    let volts = table.or_assume("bus_volts", keys.bus_volts.clone(), controller.logic_volts.0);
    let (found, least) = (Volts(*volts.get_ref()), Volts((controller.supply_volts.0 * 7.0).round() / 10.0));
    if found < least {
        table.warn(volts.span(), Problem::LowLevel { part, found, least });
    }
}

/// The brightness step of a drive table.
fn brightness(keys: &GridKeys, usual: u8, most: u8, table: &DriveTable<'_>) -> u8 {
    let step = table.or_assume("brightness", keys.brightness.clone(), usual);
    table.check_range(&step, 0, most);
    *step.get_ref()
}

/// How often everything is sent again; `None` when an error was found.
fn resend(keys: &GridKeys, table: &DriveTable<'_>) -> Option<Option<Nanos>> {
    match &keys.resend {
        None => Some(None),
        Some(written) => parse_resend(written, table).map(Some),
    }
}

fn parse_resend(written: &Spanned<String>, table: &DriveTable<'_>) -> Option<Nanos> {
    let every = parse_duration(written.get_ref()).ok().filter(|every| !every.is_zero());
    if every.is_none() {
        let found = format!("{:?}", written.get_ref());
        let allowed = "a duration, such as \"10s\"".to_owned();
        table.error(written.span(), Problem::WrongValue { found, allowed });
    }
    every.map(Nanos::from)
}

/// A bit of the bytes that a part answers, by name: `byte2.bit4`.
fn parse_key_bit(name: &str) -> Option<(usize, u8)> {
    let (byte, bit) = name.strip_prefix("byte")?.split_once(".bit")?;
    Some((byte.parse().ok()?, bit.parse().ok().filter(|bit| *bit < 8)?))
}

/// Which of these bits are set in an answer.
fn keys_down(bits: &[(usize, u8)], answer: &[u8]) -> Vec<usize> {
    let is_down = |(byte, bit): &(usize, u8)| answer.get(*byte).is_some_and(|byte| byte >> bit & 1 == 1);
    bits.iter().enumerate().filter(|(_, place)| is_down(place)).map(|(key, _)| key).collect()
}

/// What a part answers with these keys, a bit each, of which some are down.
fn answer_of(keys: &[(usize, u8)], down: &[bool], bytes: usize) -> Vec<u8> {
    let mut answer = vec![0; bytes];
    for ((byte, bit), _) in keys.iter().zip(down).filter(|(_, down)| **down) {
        if let Some(byte) = answer.get_mut(*byte) {
            *byte |= 1 << bit;
        }
    }
    answer
}
