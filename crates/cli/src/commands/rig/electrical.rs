//! The electrical budget of `rig check --electrical`.

use serde::Serialize;
use spare_tile_core::bare::circuit::ResistorPlace;
use spare_tile_core::plan::Rig;
use spare_tile_core::plan::budget::{self, Advice, Budget, Flow};

use crate::failure::Outcome;
use crate::session::Session;
use crate::view::columns::Columns;

#[derive(Serialize)]
pub struct BudgetAnswer<'a> {
    face: &'a str,
    rail_volts: f64,
    forward_volts: f64,
    drops_volts: f64,
    ohms: Option<f64>,
    duty: f64,
    #[serde(flatten)]
    flow: Option<FlowAnswer>,
    resistors: Vec<AdviceAnswer>,
}

#[derive(Serialize)]
struct FlowAnswer {
    peak_ma: f64,
    average_ma: f64,
    common_ma: f64,
    face_ma: f64,
    one_to_eight: f64,
    loads: Vec<LoadAnswer>,
}

#[derive(Serialize)]
struct LoadAnswer {
    what: String,
    ma: f64,
    limit_ma: Option<f64>,
    absolute_ma: Option<f64>,
}

#[derive(Serialize)]
struct AdviceAnswer {
    goal: String,
    ohms: f64,
    e12: f64,
    e24: f64,
}

/// The budgets of a rig's bare faces.
pub fn answer(rig: &Rig) -> Vec<BudgetAnswer<'_>> {
    rig.faces
        .iter()
        .filter_map(|mount| Some((mount, budget::of(mount, &rig.controller)?)))
        .map(|(mount, budget)| {
            let milli = |value: f64| (value * 1e3).round() / 1e3;
            let flow = budget.flow.map(|flow| FlowAnswer {
                peak_ma: milli(flow.peak.0),
                average_ma: milli(flow.average.0),
                common_ma: milli(flow.joined.0),
                face_ma: milli(flow.face.0),
                one_to_eight: flow.one_to_eight,
                loads: flow
                    .loads
                    .into_iter()
                    .map(|load| LoadAnswer {
                        what: load.what,
                        ma: milli(load.current.0),
                        limit_ma: load.limit.map(|limit| limit.0),
                        absolute_ma: load.absolute.map(|limit| limit.0),
                    })
                    .collect(),
            });
            BudgetAnswer {
                face: &mount.face.name,
                rail_volts: budget.rail.0,
                forward_volts: budget.forward.0,
                drops_volts: budget.drops.0,
                ohms: budget.resistor.map(|resistor| resistor.ohms.0),
                duty: budget.duty,
                flow,
                resistors: budget
                    .advice
                    .into_iter()
                    .map(|advice| AdviceAnswer {
                        goal: advice.goal,
                        ohms: milli(advice.exact.0),
                        e12: advice.e12.0.0,
                        e24: advice.e24.0.0,
                    })
                    .collect(),
            }
        })
        .collect()
}

/// Prints the budgets of a rig's bare faces.
pub fn print(rig: &Rig, session: &mut Session<'_>) -> Outcome {
    for mount in &rig.faces {
        let heading = session.bold(&format!("{}: electrical budget", mount.face.name)).into_owned();
        writeln!(session.out, "\n{heading}")?;
        match budget::of(mount, &rig.controller) {
            Some(budget) => print_budget(&budget, session)?,
            None => writeln!(session.out, "    the {} sets the currents itself", mount.method)?,
        }
    }
    Ok(writeln!(session.out)?)
}

fn print_budget(budget: &Budget, session: &mut Session<'_>) -> Outcome {
    let Budget { rail, fed_by, forward, drops, .. } = budget;
    let across = (budget.across.0 * 1e3).round() / 1e3;
    writeln!(
        session.out,
        "    {rail} from the {fed_by}, less {forward} of a light and {drops} across switches, leave {across} V"
    )?;
    match (&budget.flow, budget.resistor) {
        (Some(flow), Some(resistor)) => {
            let place = match resistor.place {
                ResistorPlace::Segments => "in the line of each segment",
                ResistorPlace::Digits => "in the common side of each digit",
            };
            writeln!(session.out, "    over {} {place}: {} at its peak", resistor.ohms, flow.peak)?;
            print_flow(budget, flow, session)?;
        }
        _ => writeln!(session.out, "    no current can be told: see the findings")?,
    }
    budget.advice.iter().try_for_each(|advice| print_advice(advice, session))
}

fn print_flow(budget: &Budget, flow: &Flow, session: &mut Session<'_>) -> Outcome {
    let duty = 100.0 * budget.duty;
    writeln!(
        session.out,
        "    a light: {} at its peak, {} on average over a duty of {duty:.1} %",
        flow.peak, flow.average
    )?;
    writeln!(
        session.out,
        "    all lights of a digit: {}; the whole face: {} at most",
        flow.joined, flow.face
    )?;
    if flow.one_to_eight > 1.0 {
        writeln!(session.out, "    a 1 is {:.1} times as bright as an 8", flow.one_to_eight)?;
    }
    let mut table = Columns::new(&["what carries it", "current", "should not pass", "must not pass"]);
    for load in &flow.loads {
        let limit = |limit: Option<_>| {
            limit.map_or_else(|| "-".to_owned(), |limit: spare_tile_core::units::Milliamps| limit.to_string())
        };
        table.row([
            load.what.trim_end_matches(',').to_owned(),
            load.current.to_string(),
            limit(load.limit),
            limit(load.absolute),
        ]);
    }
    if !flow.loads.is_empty() {
        let text = table.text(|heading| session.bold(heading).into_owned());
        text.lines().try_for_each(|line| writeln!(session.out, "    {line}"))?;
    }
    Ok(())
}

fn print_advice(advice: &Advice, session: &mut Session<'_>) -> Outcome {
    let exact = (advice.exact.0 * 10.0).round() / 10.0;
    let (e12, e24) = (advice.e12, advice.e24);
    writeln!(
        session.out,
        "    {}: {exact} ohm; of E12 {} ({} peak), of E24 {} ({} peak)",
        advice.goal, e12.0, e12.1, e24.0, e24.1
    )?;
    Ok(())
}
