//! A reel inside a reel: its tracks of one face, as an act.

use std::cell::Cell;
use std::rc::Rc;

use super::super::Act;
use super::super::together::Together;
use super::making::{CannotPlay, Making};
use super::{Program, Reading, reader};
use crate::rig::{Findings, Severity, Spanned};

/// The reels that one is within.
#[derive(Clone, Default)]
pub struct Nesting {
    /// Their texts, from the outermost on.
    texts: Vec<Rc<str>>,
    /// How many have been read in all.
    read: Rc<Cell<usize>>,
}

/// Reels go no deeper into one another than this.
const DEEPEST: usize = 4;
/// More reels inside one than anybody writes.
const MOST: usize = 100;

impl Nesting {
    /// Within this reel too; the reason where that cannot be.
    pub fn and(&self, text: &str) -> Result<Self, String> {
        self.read.set(self.read.get() + 1);
        if self.texts.iter().any(|known| **known == *text) {
            return Err("this reel is played within itself".to_owned());
        }
        if self.texts.len() > DEEPEST {
            return Err(format!("reels are more than {DEEPEST} deep in one another"));
        }
        if self.read.get() > MOST {
            return Err(format!("there are more than {MOST} reels in this one"));
        }
        let texts = self.texts.iter().cloned().chain([Rc::from(text)]).collect();
        Ok(Self { texts, read: Rc::clone(&self.read) })
    }
}

/// The tracks of a face in another reel. What that needs comes with it: its variables, begun as the reel around it says
/// where that has them too, and its keys.
pub fn tracks_of(file: &Spanned<String>, making: &mut Making<'_>) -> Option<Box<dyn Act>> {
    let wrong = |making: &Making<'_>, message: String, fix| {
        making.findings.stop(file.span(), CannotPlay { message, fix })
    };
    let read = making.sources.reel(file.get_ref());
    let read = read.and_then(|(text, sources)| Ok((making.within.and(&text)?, text, sources)));
    let (within, text, sources) = match read {
        Ok(read) => read,
        Err(message) => return wrong(making, message, None),
    };
    let around = making.variables.iter().map(|(name, value)| (name.clone(), value.clone()));
    let settings: Vec<_> = making.settings.iter().cloned().chain(around).collect();
    let findings = Findings::default();
    let program = {
        let (rig, sources) = (making.rig, sources.as_ref());
        let place = making.rig.faces.iter().position(|mount| mount.face.name == making.mount.face.name)?;
        let only = Some((place, making.face));
        let reading =
            Reading { rig, sources, settings: &settings, findings: &findings, only, within: &within };
        reader::parse(&text, &findings).and_then(|(root, whole)| reading.program(&root, whole))
    };
    let is_sound = !findings.are_blocking();
    for finding in findings.in_order().iter().filter(|finding| finding.severity == Severity::Error) {
        let line = text[..finding.span.start].matches('\n').count() + 1;
        let message = format!("{} line {line}: {}", file.get_ref(), finding.trouble);
        making.findings.error(file.span(), CannotPlay { message, fix: finding.trouble.fix() });
    }
    let Program { reel, variables, bindings, heard, .. } = program.filter(|_| is_sound)?;
    if reel.tracks.is_empty() {
        let message = format!("{} has no track for face {}", file.get_ref(), making.mount.face.name);
        return wrong(making, message, None);
    }
    making.brought.variables.extend(variables);
    making.brought.bindings.extend(bindings);
    making.brought.heard.extend(heard);
    Some(Box::new(Together(reel.tracks.into_iter().map(|track| track.act).collect())))
}
