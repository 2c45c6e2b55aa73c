//! The answers of `scan` as a person reads them.

use spare_tile_core::part::{Depth, Part};
use spare_tile_core::plan::Mount;
use spare_tile_core::plan::scan::Plan;
use spare_tile_core::play::stall::{Fate, Stall};
use spare_tile_core::units::Nanos;

use super::Seen;
use crate::failure::{Complaint, Outcome};
use crate::session::Session;
use crate::view::columns::Columns;

pub fn print(
    mount: &Mount,
    plan: &Plan,
    eye: Option<&[Seen]>,
    words: &str,
    session: &mut Session<'_>,
) -> Outcome {
    let summary = format!("{}, {}", mount.face.summary(), mount.drive.summary());
    session.write_named(&mount.face.name, &summary)?;
    writeln!(session.out)?;
    match &plan.scan {
        None => writeln!(
            session.out,
            "The controller does not scan this face: it sets the lights, and they stay.\n"
        )?,
        Some(scan) => {
            let times = &scan.times;
            let percent = |share: f64| format!("{:.1} %", 100.0 * share);
            let of = if scan.depths.is_empty() { "each" } else { "or longer" };
            let mut table = Columns::new(&["the scan", "", ""]);
            for (what, figure, note) in [
                ("a turn", times.turn.to_string(), format!("{:.0} of them a second", times.refresh())),
                ("slots", times.slots.to_string(), format!("of {} {of}", times.slot)),
                (
                    "blanking",
                    times.blanking.to_string(),
                    format!("{} of the time", percent(scan.blanking_share)),
                ),
                ("on-time", times.lit.to_string(), format!("a duty of {}", percent(times.duty()))),
                (
                    "writes",
                    format!("{} /s", scan.writes_a_second),
                    format!("busy {} of the time", percent(scan.busy_share)),
                ),
            ] {
                table.row([what.to_owned(), figure, note]);
            }
            writeln!(session.out, "{}", table.text(0, session))?;
            print_depths(&scan.depths, session)?;
        }
    }
    if let Some(eye) = eye {
        print_eye(eye, words, session)?;
    }
    let mut table = Columns::new(&["other ways", "pins", "and"]);
    for (method, needs) in &plan.ways {
        let here = if *method == mount.method { ", as here" } else { "" };
        table.row([format!("{method}{here}"), needs.pins.to_string(), needs.parts.clone()]);
    }
    writeln!(session.out, "{}", table.text(0, session).trim_end())?;
    for doubt in plan.scan.iter().flat_map(|scan| &scan.doubts) {
        let complaint = Complaint::warning(doubt.to_string(), doubt.fix());
        writeln!(session.out, "\n{}", session.render(&complaint))?;
    }
    Ok(())
}

/// Prints what more or fewer bits would give.
fn print_depths(depths: &[Depth], session: &mut Session<'_>) -> Outcome {
    if depths.is_empty() {
        return Ok(());
    }
    let mut table = Columns::new(&["bits a light", "shades", "refresh at most", "a row lit for"]);
    for depth in depths {
        let here = if depth.is_chosen { ", as here" } else { "" };
        table.row([
            format!("{}{here}", depth.bits),
            (1 << depth.bits).to_string(),
            format!("{:.0} Hz", depth.fastest),
            depth.lit.map_or("-".to_owned(), |lit| format!("{:.0} % of its time", 100.0 * lit)),
        ]);
    }
    Ok(writeln!(session.out, "{}", table.text(0, session))?)
}

fn print_eye(eye: &[Seen], words: &str, session: &mut Session<'_>) -> Outcome {
    let heading = format!("the eye, of {words}");
    let mut table = Columns::new(&[
        &heading,
        "light",
        "flashes",
        "percent flicker",
        "flicker index",
        "longest dark",
        "ghosts",
    ]);
    for Seen { name, sight, ghost } in eye {
        let ghosts = if *ghost > 0.0 { format!("{:.1} %", 100.0 * ghost) } else { "none".to_owned() };
        if sight.light == 0.0 {
            table.row([
                name.clone(),
                "dark".to_owned(),
                String::new(),
                String::new(),
                String::new(),
                String::new(),
                ghosts,
            ]);
            continue;
        }
        table.row([
            name.clone(),
            format!("{:.1} %", 100.0 * sight.light),
            format!("{:.0} /s", sight.flashes_hz),
            format!("{:.0}", sight.percent_flicker),
            format!("{:.2}", sight.flicker_index),
            sight.longest_dark.to_string(),
            ghosts,
        ]);
    }
    Ok(writeln!(session.out, "{}", table.text(0, session))?)
}

/// How the stall is named: `40 ms every 1 s`.
fn stall_words(stall: Stall) -> String {
    match stall.every {
        Some(every) => format!("{} every {every}", stall.length),
        None => format!("{} once", stall.length),
    }
}

pub fn print_fates(
    stall: Stall,
    fates: Option<&[Fate]>,
    mount: &Mount,
    session: &mut Session<'_>,
) -> Outcome {
    let Some(fates) = fates else {
        let message = "a program that blocks changes nothing here: nothing is scanned, or nothing is lit";
        return Ok(writeln!(session.out, "\n{message}")?);
    };
    let heading = format!("blocked for {}", stall_words(stall));
    let mut table = Columns::new(&[&heading, "mean light", "longest lit", "longest dark", ""]);
    for fate in fates {
        let verdict = match (fate.burns(), fate.goes_dark()) {
            (true, _) => "burns at its peak",
            (false, true) => "seen to go dark",
            (false, false) => "as ever",
        };
        table.row([
            fate.name.clone(),
            format!("{:.0} %", 100.0 * fate.brightness()),
            fate.stalled.longest_lit.to_string(),
            fate.stalled.longest_dark.to_string(),
            verdict.to_owned(),
        ]);
    }
    writeln!(session.out, "\n{}", table.text(0, session).trim_end())?;
    let note = format!("mean light: over {}, as a share of what it is without blocking", stall.window());
    writeln!(session.out, "{note}")?;
    let slot = mount.drive.display().scan().map_or(Nanos(0), |scan| scan.slot);
    if fates.iter().any(|fate| fate.burns() || fate.goes_dark()) {
        let message = "the scan stands still while the program blocks".to_owned();
        let instead = match mount.drive.display().circuit() {
            Some(_) => "put a part between that scans by itself (max7219) or holds (74hc573, 74hc595)",
            None => "leave the lines to a peripheral that goes on by itself (direct memory access)",
        };
        let help = format!(
            "do the scan in a timer interrupt every {slot}, or cut the work into pieces shorter than that, or {instead}"
        );
        writeln!(session.out, "\n{}", session.render(&Complaint::warning(message, help)))?;
    }
    Ok(())
}
