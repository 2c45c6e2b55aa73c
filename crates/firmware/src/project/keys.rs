//! Keys: how a program asks a part for them, and what they do.
//!
//! What the part answers is learnt from the sending side, as everything else is: each answer is tried, and the one that means a
//! button alone is that button's.

use super::error::ProjectError;
use super::hearing::Hearing;
use super::jumping;
use super::lines::contact;
use super::model::{
    ActionModel, AskModel, ButtonModel, FaceModel, KeysModel, Line, PassageModel, StepModel, ValueModel,
};
use super::names::Names;
use super::sending::Step;
use super::values::{Live, Lives};
use spare_tile_core::bus::{Ops, Transfer};
use spare_tile_core::content::number::Decimal;
use spare_tile_core::plan::buttons::MAX_BUTTONS;
use spare_tile_core::plan::{ButtonId, Keypad, Mount, Rig};
use spare_tile_core::play::Value;
use spare_tile_core::play::reel::{Doing, LampOf, Program};

/// What is sent to ask a part for its keys: the questions, and what is sent after them.
fn asked(mount: &Mount) -> (Vec<(Step, usize)>, Vec<Step>) {
    let mut ops = Ops::default();
    mount.drive.display().driver().keys(&mut ops);
    let reads = |transfer: &Transfer<'_>| transfer.reads();
    let questions = ops.iter().filter(|op| reads(&op.transfer) > 0);
    let after = ops.iter().filter(|op| reads(&op.transfer) == 0);
    (
        questions.map(|op| (Step::fixed(&op), reads(&op.transfer))).collect(),
        after.map(|op| Step::fixed(&op)).collect(),
    )
}

/// The answer that means a button alone: which byte, which bits of it, and what they are. None where it is no matter of one byte.
fn answer_of(mount: &Mount, button: usize, bytes: usize) -> Option<(usize, u8, u8)> {
    let display = mount.drive.display();
    let means = |byte: usize, value: u8| {
        let mut answer = vec![0; bytes];
        answer[byte] = value;
        display.buttons_down(&answer) == [button]
    };
    let bits = (0..bytes).flat_map(|byte| (0..8).map(move |bit| (byte, 1_u8 << bit)));
    let bit = { bits }.find(|(byte, bit)| means(*byte, *bit)).map(|(byte, bit)| (byte, bit, bit));
    bit.or_else(|| {
        let codes = (0..bytes).flat_map(|byte| (0..=u8::MAX).map(move |code| (byte, code)));
        { codes }.find(|(byte, code)| means(*byte, *code)).map(|(byte, code)| (byte, u8::MAX, code))
    })
}

/// Buttons that are read together, without how they are read; `None` if there are none.
fn of_buttons(id: &str, of: &str, buttons: Vec<ButtonModel>) -> Option<KeysModel> {
    if buttons.is_empty() {
        return None;
    }
    let does = || buttons.iter().flat_map(|button| &button.does);
    Some(KeysModel {
        id: id.to_owned(),
        of: of.to_owned(),
        on_pins: false,
        releases: does().any(|action| matches!(action, ActionModel::Light { .. })),
        asks: Vec::new(),
        after: Vec::new(),
        bytes: 0,
        changes: does().filter_map(ActionModel::changes).collect(),
        asks_of: does().filter_map(ActionModel::asks).map(|(face, _)| face.to_owned()).collect(),
        buttons,
    })
}

/// What there is to know of keys and of what they do.
pub(super) struct Keys<'a> {
    pub rig: &'a Rig,
    /// True if a person's own program asks for them.
    pub is_own: bool,
    pub program: &'a Program,
    pub hearings: &'a [Hearing],
    pub lives: &'a Lives,
    pub values: &'a [ValueModel],
    /// By face of the rig: its name in the source.
    pub ids: &'a [String],
    /// The faces that play, and what they show.
    pub faces: &'a [FaceModel],
}

impl Keys<'_> {
    /// How a face's buttons are asked for, and those of them that do something; of a person's own program all.
    pub fn of_face(
        &self,
        face: usize,
        told: &dyn Fn(&Step) -> StepModel,
        names: &mut Names,
    ) -> Result<Option<KeysModel>, ProjectError> {
        let mount = &self.rig.faces[face];
        let cannot = |why: &'static str| ProjectError::Keys { face: mount.face.name.clone(), why };
        let (questions, after) = asked(mount);
        let bytes = questions.iter().map(|(_, reads)| reads).sum();
        let mut buttons = Vec::new();
        for (button, name) in mount.drive.display().button_names().iter().enumerate() {
            let Some(does) = self.does(ButtonId { keypad: Keypad::Face(face), button }, &cannot)? else {
                continue;
            };
            let answer = answer_of(mount, button, bytes);
            let (byte, mask, code) = answer.ok_or_else(|| cannot("its part answers in a way of its own"))?;
            let id = names.make("key", &format!("{} {name}", self.ids[face]))?;
            let (name, caps) = (name.clone(), id.to_uppercase());
            buttons.push(ButtonModel { name, caps, id, byte, mask, code, contact: None, does });
        }
        if buttons.len() > MAX_BUTTONS {
            return Err(cannot("more than 32 of them do something"));
        }
        let asks = questions.iter().map(|(step, reads)| AskModel { step: told(step), reads: *reads });
        let keys = of_buttons(&self.ids[face], &mount.face.name, buttons);
        Ok(keys.map(|keys| KeysModel {
            asks: asks.collect(),
            after: after.iter().map(told).collect(),
            bytes,
            ..keys
        }))
    }

    /// The same of those on pins.
    pub fn on_pins(
        &self,
        names: &mut Names,
        lines: &mut Vec<Line>,
    ) -> Result<Option<KeysModel>, ProjectError> {
        let cannot = |why: &'static str| ProjectError::PinButtons { why };
        let mut buttons = Vec::new();
        for (button, of) in self.rig.pin_buttons().iter().enumerate() {
            let Some(does) = self.does(ButtonId { keypad: Keypad::Pins, button }, &cannot)? else { continue };
            let contact = contact(self.rig, of, (names, lines))?;
            let id = names.make("key", &format!("button {}", of.name))?;
            let (name, caps) = (of.name.clone(), id.to_uppercase());
            let contact = Some(contact);
            buttons.push(ButtonModel { name, caps, id, byte: 0, mask: 0, code: 0, contact, does });
        }
        let id = names.make("keypad", "pin_buttons")?;
        let keys = of_buttons(&id, "the controller's pins", buttons);
        Ok(keys.map(|keys| KeysModel { on_pins: true, ..keys }))
    }

    /// The actions of a button; `None` if the program does not use it.
    fn does(
        &self,
        place: ButtonId,
        cannot: &dyn Fn(&'static str) -> ProjectError,
    ) -> Result<Option<Vec<ActionModel>>, ProjectError> {
        let bound = self.program.bindings.iter().filter(|of| of.button == place);
        let bound = bound.map(|binding| self.actions(&binding.doing, cannot));
        let heard = self.hearings.iter().filter(|of| of.button == place).map(|hearing| {
            let (face, what) = (self.ids[hearing.on].clone(), hearing.does.name().to_owned());
            Ok(vec![ActionModel::Ask { face, what }])
        });
        let all: Vec<_> = bound.chain(heard).collect::<Result<_, _>>()?;
        let all = all.concat();
        Ok((self.is_own || !all.is_empty()).then_some(all))
    }

    fn actions(
        &self,
        doing: &Doing,
        cannot: &dyn Fn(&'static str) -> ProjectError,
    ) -> Result<Vec<ActionModel>, ProjectError> {
        let missing = || cannot("they change a value that is not a number");
        let of = |variable: &str| {
            let place = self.values.iter().position(|value| value.variable == variable);
            Ok((place.ok_or_else(missing)?, self.lives.get(variable).ok_or_else(missing)?))
        };
        // In units of the variable's last place.
        let units = |number: Decimal, live: &Live| {
            let units = live.number_of(&Value::Number(number));
            units.ok_or_else(|| cannot("they change a value by more than 32 bits hold"))
        };
        Ok(vec![match doing {
            Doing::Toggle(LampOf { variable, .. }) => ActionModel::Toggle { value: of(variable)?.0 },
            Doing::Light(LampOf { variable, .. }) => ActionModel::Light { value: of(variable)?.0 },
            Doing::Add { variable, step, at, limits } => {
                let (value, live) = of(variable)?;
                let step = units(*step, live)?;
                let at = at.as_ref().map(|at| of(at)).transpose()?;
                if let Some((_, figure)) = at {
                    check_figure(step, figure).map_err(cannot)?;
                }
                let end = |end: Option<Decimal>| end.map(|end| units(end, live)).transpose();
                let (least, most) = (end(limits.least)?, end(limits.most)?);
                // Who goes round has no end where there is no other one.
                let (below, above) = if limits.wrap { (most, least) } else { (least, most) };
                // What never comes below one end is not looked at there, nor above the other.
                let (lowest, highest) = (live.least, live.most);
                let is_above = |least: i64| step >= 0 && lowest.is_some_and(|lowest| lowest >= least);
                let is_below = |most: i64| step <= 0 && highest.is_some_and(|highest| highest <= most);
                ActionModel::Add {
                    value,
                    step,
                    at: at.map(|(at, _)| at),
                    least: least.zip(below).filter(|(least, _)| !is_above(*least)),
                    most: most.zip(above).filter(|(most, _)| !is_below(*most)),
                }
            }
            Doing::Set { variable, value } => {
                let (place, live) = of(variable)?;
                let to = live.number_of(value);
                let to = to.ok_or_else(|| cannot("they change a value by more than 32 bits hold"))?;
                ActionModel::Set { value: place, to }
            }
            Doing::Pause => {
                let goes_on =
                    |passage: &PassageModel| matches!(passage, PassageModel::Clock { goes_on: true, .. });
                let clocks =
                    self.faces.iter().filter(|face| matches!(&face.passages[..], [only] if goes_on(only)));
                let what = "look_again".to_owned();
                let again = clocks.map(|face| ActionModel::Ask { face: face.id.clone(), what: what.clone() });
                return Ok([ActionModel::Hold].into_iter().chain(again).collect());
            }
            Doing::Jump(to) => {
                let what = jumping::name(jumping::moment(*to).map_err(cannot)?);
                let jumps = |face: &&FaceModel| face.jumps.iter().any(|jump| jump.what == what);
                let ask = |face: &FaceModel| ActionModel::Ask { face: face.id.clone(), what: what.clone() };
                return Ok(self.faces.iter().filter(jumps).map(ask).collect());
            }
        }])
    }
}

/// Whether a step can be added at every figure that a variable says: 0 for the ones, 1 for the tens.
fn check_figure(step: i64, figure: &Live) -> Result<(), &'static str> {
    let Some((low, high)) = figure.within().filter(|_| figure.places == 0) else {
        return Err("the figure at which one adds has no end: say least and most of it");
    };
    let ten = |power: i64| 10_i64.checked_pow(u32::try_from(power.max(0)).ok()?);
    let far = ten(high).and_then(|ten| step.checked_mul(ten));
    if far.is_none_or(|far| far.unsigned_abs() >= 1 << 30) {
        return Err("one adds more than 32 bits hold");
    }
    if ten(-low).is_none_or(|ten| step % ten != 0) {
        return Err("one adds behind the last place of its value: say places");
    }
    Ok(())
}
