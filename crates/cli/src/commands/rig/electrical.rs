//! The electrical budget of `rig check --electrical`.

use serde::Serialize;
use spare_tile_core::bare::circuit::{ResistorPlace, Scanned};
use spare_tile_core::content::text::Align;
use spare_tile_core::plan::budget::{self, Advice, Budget, Excess, Flow, Goal, Load};
use spare_tile_core::plan::{Mount, Rig};
use spare_tile_core::units::Milliamps;

use crate::failure::{Failure, Outcome};
use crate::pictures::Reading;
use crate::session::Session;
use crate::sprites::{self, Changes};
use crate::view::columns::Columns;
use crate::wrapping::hung;

#[derive(Serialize)]
pub struct RigAnswer<'a> {
    faces: Vec<BudgetAnswer<'a>>,
    /// Prints the total current of the rig.
    totals: Vec<LoadAnswer>,
    /// Returns the currents of dot faces for the given picture.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    showing: Vec<ShowingAnswer<'a>>,
}

#[derive(Serialize)]
struct ShowingAnswer<'a> {
    face: &'a str,
    ma: f64,
}

#[derive(Serialize)]
struct BudgetAnswer<'a> {
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
    /// Where outputs drop what they may.
    #[serde(skip_serializing_if = "Option::is_none")]
    least_ma: Option<f64>,
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
    ohms: Option<f64>,
    e12: Option<f64>,
    e24: Option<f64>,
    breaks: Option<String>,
}

/// Returns the average current of each dot face that sets its own currents, for a sprite or picture.
fn showing<'a>(rig: &'a Rig, picture: Option<&str>) -> Result<Vec<(&'a Mount, Milliamps)>, Failure> {
    let Some(named) = picture else { return Ok(Vec::new()) };
    let (reading, changes) = (Reading::default(), Changes::default());
    let mut takes = Vec::new();
    for mount in rig.faces.iter().filter(|mount| mount.face.dots().is_some()) {
        let (frame, _) = sprites::frame(named, &reading, &changes, Align::default(), mount)?;
        takes.extend(mount.drive.display().draws_showing(frame.levels()).map(|draws| (mount, draws)));
    }
    Ok(takes)
}

/// The budgets of a rig's bare faces, its totals, and what it takes to show a picture.
pub fn answer<'a>(rig: &'a Rig, picture: Option<&str>) -> Result<RigAnswer<'a>, Failure> {
    let of_face = |(face, mount)| {
        let budget = budget::of(mount, &rig.controller)?;
        Some(BudgetAnswer {
            face: &mount.face.name,
            rail_volts: budget.rail.0,
            forward_volts: budget.forward.0,
            drops_volts: budget.drops.0,
            ohms: budget.resistor.map(|resistor| resistor.ohms.0),
            duty: budget.duty,
            flow: budget.flow.map(FlowAnswer::of),
            resistors: budget::advise(rig, face).into_iter().map(AdviceAnswer::of).collect(),
        })
    };
    let of_picture =
        |(mount, draws): (&'a Mount, Milliamps)| ShowingAnswer { face: &mount.face.name, ma: milli(draws.0) };
    Ok(RigAnswer {
        faces: rig.faces.iter().enumerate().filter_map(of_face).collect(),
        totals: budget::totals(rig).into_iter().map(LoadAnswer::of).collect(),
        showing: showing(rig, picture)?.into_iter().map(of_picture).collect(),
    })
}

/// To a thousandth.
fn milli(value: f64) -> f64 {
    (value * 1e3).round() / 1e3
}

impl FlowAnswer {
    fn of(flow: Flow) -> Self {
        Self {
            peak_ma: milli(flow.peak.0),
            least_ma: flow.least.map(|least| milli(least.0)),
            average_ma: milli(flow.average.0),
            common_ma: milli(flow.joined.0),
            face_ma: milli(flow.face.0),
            one_to_eight: flow.one_to_eight,
            loads: flow.loads.into_iter().map(LoadAnswer::of).collect(),
        }
    }
}

impl LoadAnswer {
    fn of(load: Load) -> Self {
        Self {
            what: load.carrier.to_string(),
            ma: milli(load.current.0),
            limit_ma: load.limit.map(|limit| limit.0),
            absolute_ma: load.absolute.map(|limit| limit.0),
        }
    }
}

impl AdviceAnswer {
    fn of(advice: Advice) -> Self {
        Self {
            goal: goal(advice.goal),
            ohms: advice.exact.map(|exact| milli(exact.0)),
            e12: advice.choice.map(|choice| choice.e12.0.0),
            e24: advice.choice.map(|choice| choice.e24.0.0),
            breaks: advice.breaks.map(|breaks| breaks.to_string()),
        }
    }
}

/// A goal in words.
fn goal(goal: Goal) -> String {
    match goal {
        Goal::Average(wanted) => format!("for {wanted} in each light on average"),
        Goal::Brightest => "the brightest within every limit".to_owned(),
    }
}

/// Prints the budgets of a rig's bare faces, and what it takes to show a picture.
pub fn print(rig: &Rig, picture: Option<&str>, session: &mut Session<'_>) -> Outcome {
    let showing = showing(rig, picture)?;
    for (face, mount) in rig.faces.iter().enumerate() {
        let heading = session.bold(&format!("{}: electrical budget", mount.face.name)).into_owned();
        writeln!(session.out, "\n{heading}")?;
        match budget::of(mount, &rig.controller) {
            Some(budget) => {
                print_budget(&budget, joined_side(mount), session)?;
                print_drive_strength(mount, rig, session)?;
                budget::advise(rig, face).iter().try_for_each(|advice| print_advice(advice, session))?;
            }
            None => print_draws(mount, session)?,
        }
        if let Some((_, draws)) = showing.iter().find(|(shown, _)| std::ptr::eq(*shown, mount)) {
            writeln!(
                session.out,
                "    while it shows {} it takes {draws} on average",
                picture.unwrap_or_default()
            )?;
        }
    }
    let totals = budget::totals(rig);
    if !totals.is_empty() {
        let heading = session.bold("with everything lit").into_owned();
        writeln!(session.out, "\n{heading}")?;
        print_loads(&totals, session)?;
    }
    Ok(writeln!(session.out)?)
}

/// Says that pins need a drive strength that they do not have after a reset.
fn print_drive_strength(mount: &Mount, rig: &Rig, session: &mut Session<'_>) -> Outcome {
    let Some((most, after_reset)) = budget::drive_strength(mount, &rig.controller) else {
        return Ok(());
    };
    let words = format!(
        "    a pin of the {} gives {after_reset} for sure after a reset: for {most} the program must set its drive strength",
        rig.controller.called()
    );
    Ok(writeln!(session.out, "{}", hung(&words, session.columns, 8))?)
}

/// Prints what a part takes that sets the currents of its lights.
fn print_draws(mount: &Mount, session: &mut Session<'_>) -> Outcome {
    let draws = mount.drive.display().draws(mount.wiring.wired()).unwrap_or_default();
    writeln!(session.out, "    the {} sets the currents of its lights itself", mount.method)?;
    Ok(writeln!(session.out, "    with everything lit it takes about {draws} on average")?)
}

/// Returns the joined sides of the lights, in words.
fn joined_side(mount: &Mount) -> &'static str {
    match mount.drive.display().circuit().map(|circuit| circuit.scanned) {
        Some(Scanned::Rows) => "row",
        Some(Scanned::Columns) => "column",
        _ => "digit",
    }
}

fn print_budget(budget: &Budget, side: &str, session: &mut Session<'_>) -> Outcome {
    let Budget { rail, feed, forward, drops, .. } = budget;
    let across = (budget.across.0 * 1e3).round() / 1e3;
    writeln!(
        session.out,
        "    {rail} from {feed}\n    less {forward} of a light and {drops} across switches leave {across} V"
    )?;
    match (&budget.flow, budget.resistor) {
        (Some(flow), Some(resistor)) => {
            let place = match resistor.place {
                ResistorPlace::Segments => "in the line of each segment",
                ResistorPlace::Digits => "in each common line",
            };
            writeln!(session.out, "    over {} {place}: {}", resistor.ohms, flow.peak)?;
            if let Some(least) = flow.least {
                writeln!(session.out, "    at least {least}: outputs may drop 0.5 V at their rated current")?;
            }
            print_flow(budget, flow, side, session)?;
        }
        _ => writeln!(session.out, "    the current cannot be worked out: see the findings")?,
    }
    Ok(())
}

fn print_flow(budget: &Budget, flow: &Flow, side: &str, session: &mut Session<'_>) -> Outcome {
    if budget.duty < 1.0 {
        let (peak, average, duty) = (flow.peak, flow.average, 100.0 * budget.duty);
        writeln!(
            session.out,
            "    a light: {peak} at its peak, {average} on average over a duty of {duty:.1} %"
        )?;
    }
    let (joined, face) = (flow.joined, flow.face);
    writeln!(session.out, "    all lights of a {side}: {joined}; the whole face: {face} at most")?;
    if flow.one_to_eight > 1.0 {
        writeln!(session.out, "    a 1 is {:.1} times as bright as an 8", flow.one_to_eight)?;
    }
    print_loads(&flow.loads, session)
}

fn print_loads(loads: &[Load], session: &mut Session<'_>) -> Outcome {
    let mut table = Columns::new(&["what carries it", "current", "limit", "absolute"]);
    for load in loads {
        let limit = |limit: Option<Milliamps>| limit.map_or("-".to_owned(), |limit| limit.to_string());
        table.row([
            load.carrier.to_string(),
            load.current.to_string(),
            limit(load.limit),
            limit(load.absolute),
        ]);
    }
    if !loads.is_empty() {
        let text = table.text(4, session);
        write!(session.out, "{text}")?;
    }
    Ok(())
}

fn print_advice(advice: &Advice, session: &mut Session<'_>) -> Outcome {
    let exact = advice.exact.map(|exact| format!(": {} ohm", (exact.0 * 10.0).round() / 10.0));
    writeln!(session.out, "    {}{}", goal(advice.goal), exact.unwrap_or_default())?;
    if let Some(breaks) = &advice.breaks {
        let breaks = hung(&format!("        too much: {breaks}"), session.columns, 12);
        writeln!(session.out, "{breaks}")?;
    }
    match advice.choice {
        Some(choice) => {
            let (e12, e24) = (choice.e12, choice.e24);
            let (e12, e24) = (format!("{} ({} peak)", e12.0, e12.1), format!("{} ({} peak)", e24.0, e24.1));
            writeln!(session.out, "        take {e12} of E12, or {e24} of E24")?;
        }
        None => {
            let instead = advice.breaks.as_ref().map_or("take lights of less voltage", Excess::instead);
            let words = hung(&format!("        no resistor will do: {instead}"), session.columns, 12);
            writeln!(session.out, "{words}")?;
        }
    }
    Ok(())
}
