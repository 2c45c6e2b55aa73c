//! The answers of `scan` as a person reads them.

use spare_tile_core::part::Part;
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
            let timing = &scan.timing;
            let percent = |share: f64| format!("{:.1} %", 100.0 * share);
            let mut table = Columns::new(&["the scan", "", ""]);
            for (what, figure, note) in [
                ("a turn", timing.turn().to_string(), format!("{} of them a second", timing.refresh.0)),
                ("slots", timing.slots.to_string(), format!("of {} each", timing.slot())),
                (
                    "blanking",
                    timing.blanking.to_string(),
                    format!("{} of the time", percent(scan.blanking_share)),
                ),
                ("on-time", timing.lit().to_string(), format!("a duty of {}", percent(timing.duty()))),
                (
                    "writes",
                    format!("{} /s", scan.writes_a_second),
                    format!("busy {} of the time", percent(scan.busy_share)),
                ),
            ] {
                table.row([what.to_owned(), figure, note]);
            }
            writeln!(session.out, "{}", table.text(0, session))?;
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
    let slot = mount
        .drive
        .display()
        .circuit()
        .and_then(|circuit| circuit.timing)
        .map_or(Nanos(0), |timing| timing.slot());
    if fates.iter().any(|fate| fate.burns() || fate.goes_dark()) {
        let message = "the scan stands still while the program blocks".to_owned();
        let help = format!(
            "do the scan in a timer interrupt every {slot}, or cut the work into pieces shorter than that, or put a part \
             between that scans by itself (max7219) or holds (74hc573, 74hc595)"
        );
        writeln!(session.out, "\n{}", session.render(&Complaint::warning(message, help)))?;
    }
    Ok(())
}
