//! The receiving end: from what happens on the lines to what is lit.
//!
//! A [`Model`] is written from the part's side of the data sheet and shares no code with the driver that it checks. It
//! takes edges, knows which nodes are lit or what level its outputs have, and answers on the wires.

use std::collections::BTreeMap;

use crate::bus::whole::Bytewise;
use crate::bus::{Edge, Protocol, Reply, Transfer, Wires};
use crate::meaning::Meaning;
use crate::units::Nanos;

/// A part as it behaves, wrong use included. Whatever the edges, it does not panic.
///
/// Its lines are numbered as its bus says.
pub trait Model {
    /// Power comes while the lines have these levels; `None` where nothing drives one.
    fn wake(&mut self, levels: &[Option<bool>]) {
        let _ = levels;
    }

    /// Takes edges in order of time, no earlier than the time that was let [pass](Self::pass).
    fn take(&mut self, edges: &[Edge]);

    /// Takes columns of parallel data under one clock, of a burst without other listeners; in all of them the output
    /// enable, the bit above the data, has one level. Returns true if they were handled; otherwise the caller must send edges.
    /// A burst without columns asks whether it takes any.
    fn take_burst(&mut self, columns: &[u8]) -> bool {
        let _ = columns;
        false
    }

    /// Returns the model for transfers as bytes, from sound wires; `None` if it needs edges, as one does
    /// whose notes somebody reads.
    fn bytewise(&mut self) -> Option<&mut dyn Bytewise> {
        None
    }

    /// How often the lights may have changed so far: while it stays, so do they.
    fn changes(&self) -> u64;

    /// When the lights change next though no edge comes.
    fn next_change(&self) -> Option<Nanos> {
        None
    }

    /// Lets time pass, at most up to the [next change](Self::next_change).
    fn pass(&mut self, now: Nanos) {
        let _ = now;
    }

    /// Writes the share of time, from 0 to 1, that each node is lit in the current state. A part with outputs lights nothing
    /// by itself.
    fn lit(&self, nodes: &mut [f32]) {
        nodes.fill(0.0);
    }

    /// Reports the nodes whose light has changed since the last report, with their light now; before the first report all are dark.
    /// Returns false if the model does not remember its reports: then the caller compares what is [lit](Self::lit).
    fn report_lights(&mut self, report: &mut dyn FnMut(usize, f32)) -> bool {
        let _ = report;
        false
    }

    /// Returns the reason why it lights nothing in the current state, if it cannot light anything.
    fn why_dark(&self) -> Option<&'static str> {
        None
    }

    /// The level of each output; `None` where nothing drives it, or too weakly to light anything. Empty where the part
    /// has lights instead.
    fn levels(&self) -> &[Option<bool>] {
        &[]
    }

    /// Returns true if an output without a level is pulled up weakly, as quasi-bidirectional pins are: enough for a gate, too
    /// little for a light or a base.
    fn pulls_up(&self, output: usize) -> bool {
        let _ = output;
        false
    }

    /// Returns the registers in words and hexadecimal bytes, or the levels of its outputs, by eight and the highest first, if it has
    /// those. None where its lines tell all.
    fn registers(&self) -> Option<String> {
        let outputs = self.levels().chunks(8).map(|outputs| {
            let bits = outputs.iter().rev().map(|level| match level {
                Some(true) => '1',
                Some(false) => '0',
                None => '-',
            });
            bits.collect::<String>()
        });
        let outputs: Vec<_> = outputs.collect();
        (!outputs.is_empty()).then(|| format!("outputs {}", outputs.join(" ")))
    }

    /// Returns the level to which it drives its answer line in the current state, or `None` if it is released.
    fn answer(&self) -> Option<bool> {
        None
    }

    /// How long after a falling clock its answer stands on the line: the most that its data sheet allows.
    fn answer_delay(&self) -> Nanos {
        Nanos(0)
    }

    /// Everything that its behaviour from now on depends on, with times counted from `now`; `None` where it cannot tell.
    /// Two moments of the same state at which the same edges follow lead to the same lights.
    fn state(&self, now: Nanos) -> Option<Vec<u64>> {
        let _ = now;
        None
    }

    /// Shifts every time that it remembers: what it did last was so much later.
    fn shift(&mut self, by: Nanos) {
        let _ = by;
    }

    /// Takes edges as [`Self::take`] does, and reports as [`Self::report_lights`] does after each moment, with the moment. Returns false
    /// if nothing was taken, because the model does not remember its reports.
    fn take_reporting(&mut self, edges: &[Edge], report: &mut dyn FnMut(Nanos, usize, f32)) -> bool {
        let _ = (edges, report);
        false
    }

    /// Describes an unfinished transfer in words: bits that were never taken, a transfer without its end.
    fn pending(&self) -> Option<String> {
        None
    }

    /// Where it notes what it hears; none where it hears nothing worth a word.
    fn notebook(&mut self) -> Option<&mut Notebook> {
        None
    }

    /// Begins to note down what is heard.
    fn listen(&mut self) {
        if let Some(notebook) = self.notebook() {
            notebook.open();
        }
    }

    /// Returns the notes since the last call, in order of time.
    fn heard(&mut self) -> Vec<Note> {
        self.notebook().map(Notebook::take).unwrap_or_default()
    }

    /// Which push buttons of the face are down.
    fn buttons(&mut self) -> &mut [bool] {
        &mut []
    }

    /// Presses a push button of the face, or lets it go.
    fn press(&mut self, button: usize, down: bool) {
        if let Some(held) = self.buttons().get_mut(button) {
            *held = down;
        }
    }
}

/// The levels of a part's outputs, and how often one of them has changed.
#[derive(Debug, Clone)]
pub struct Levels {
    levels: Vec<Option<bool>>,
    changes: u64,
}

impl Levels {
    /// Of so many outputs, none of which is driven.
    #[must_use]
    pub fn undriven(outputs: usize) -> Self {
        Self { levels: vec![None; outputs], changes: 0 }
    }

    /// An output gets a level; one that is not there is passed over.
    #[inline]
    pub fn set(&mut self, output: usize, level: Option<bool>) {
        if let Some(known) = self.levels.get_mut(output)
            && *known != level
        {
            *known = level;
            self.changes += 1;
        }
    }

    /// The level of each output.
    #[must_use]
    pub fn all(&self) -> &[Option<bool>] {
        &self.levels
    }

    /// How often one has changed.
    #[must_use]
    pub const fn changes(&self) -> u64 {
        self.changes
    }
}

/// Something that a part heard.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Note {
    /// When it was complete.
    pub at: Nanos,
    /// True if it is odd: not as the data sheet wants it.
    pub odd: bool,
    /// Its meaning.
    pub meaning: Meaning,
}

/// The notes of a part, if they are kept.
#[derive(Debug, Clone, Default)]
pub struct Notebook {
    notes: Option<Vec<Note>>,
    others: BTreeMap<u8, usize>,
    doubts: usize,
}

impl Notebook {
    /// Begins to note down.
    pub fn open(&mut self) {
        self.notes.get_or_insert_default();
    }

    /// Returns true if anything is noted down.
    #[must_use]
    pub const fn is_open(&self) -> bool {
        self.notes.is_some()
    }

    /// Notes a transaction; its meaning is only told when it is wanted.
    pub fn said(&mut self, at: Nanos, meaning: impl FnOnce() -> Meaning) {
        if let Some(notes) = &mut self.notes {
            notes.push(Note { at, odd: false, meaning: meaning() });
        }
    }

    /// Notes something odd.
    pub fn odd(&mut self, at: Nanos, words: impl FnOnce() -> String) {
        if let Some(notes) = &mut self.notes {
            notes.push(Note { at, odd: true, meaning: Meaning::Words(words()) });
        }
    }

    /// Counts a transfer to an address that is another part's.
    pub fn other(&mut self, address: u8) {
        if self.is_open() {
            *self.others.entry(address).or_insert(0) += 1;
        }
    }

    /// Counts unusual but allowed traffic, which makes this part less likely.
    pub fn doubt(&mut self) {
        self.doubts += usize::from(self.is_open());
    }

    /// How many transfers went to other addresses, by address.
    #[must_use]
    pub const fn others(&self) -> &BTreeMap<u8, usize> {
        &self.others
    }

    /// How much spoke against the traffic being for this part.
    #[must_use]
    pub const fn doubts(&self) -> usize {
        self.doubts
    }

    /// Takes the notes out.
    pub fn take(&mut self) -> Vec<Note> {
        self.notes.as_mut().map(std::mem::take).unwrap_or_default()
    }
}

/// Bytes as a person reads them.
#[must_use]
pub fn hex(bytes: &[u8]) -> String {
    bytes.iter().map(|byte| format!("{byte:02X}")).collect::<Vec<_>>().join(" ")
}

/// The places of the ones in a word.
pub fn ones(mut word: u64) -> impl Iterator<Item = usize> {
    std::iter::from_fn(move || {
        let place = word.trailing_zeros();
        word &= word.checked_sub(1)?;
        Some(place as usize)
    })
}

/// The level of a line from what is done to it: low wins over high, and a pull-up over nothing.
#[must_use]
pub fn resolved(driven: [Option<bool>; 2], pull: Option<bool>) -> Option<bool> {
    match driven {
        [Some(false), _] | [_, Some(false)] => Some(false),
        [Some(true), _] | [_, Some(true)] => Some(true),
        [None, None] => pull,
    }
}

/// A model straight at its controller's lines, with nothing else there.
pub struct Straight<'m> {
    model: &'m mut dyn Model,
    /// The level that the controller drives on each line, and the level of the line.
    driven: Vec<Option<bool>>,
    levels: Vec<Option<bool>>,
    /// The line that the model answers on, what it does to it, and what it will do.
    answer_line: Option<usize>,
    answer: Option<bool>,
    coming: Option<(Nanos, Option<bool>)>,
}

impl<'m> Straight<'m> {
    /// Puts a model at the idle lines of a device.
    pub fn new(model: &'m mut dyn Model, protocol: &Protocol) -> Self {
        let idle = protocol.idle();
        model.wake(&idle);
        Self {
            model,
            driven: idle.clone(),
            levels: idle,
            answer_line: protocol.answer_line(),
            answer: None,
            coming: None,
        }
    }

    /// Carries a transfer out. A burst is given to the model in one piece, where it takes that.
    pub fn send(&mut self, protocol: &Protocol, transfer: Transfer<'_>, at: Nanos) -> Reply {
        if let (Protocol::Panel(panel), Transfer::Burst { columns }) = (protocol, transfer)
            && self.model.take_burst(columns)
        {
            let ended = at + panel.length(columns.len());
            return Reply { acknowledged: true, began: at, ended, ..Reply::default() };
        }
        protocol.send(transfer, at, self)
    }

    fn settle(&mut self, at: Nanos) {
        while let Some((then, answer)) = self.coming.filter(|(then, _)| *then <= at) {
            self.coming = None;
            self.answer = answer;
            if let Some(line) = self.answer_line {
                self.look(then, line);
            }
        }
    }

    fn look(&mut self, at: Nanos, line: usize) {
        let answers = self.answer_line == Some(line);
        let level = resolved([self.driven[line], self.answer.filter(|_| answers)], answers.then_some(true));
        let Some(level) = level.filter(|level| self.levels[line] != Some(*level)) else { return };
        self.levels[line] = Some(level);
        self.model.take(&[Edge { at, line, level }]);
        let wanted = self.model.answer();
        let coming = self.coming.map_or(self.answer, |(_, answer)| answer);
        if wanted != coming {
            self.coming = Some((at + self.model.answer_delay(), wanted));
        }
    }
}

impl Wires for Straight<'_> {
    fn drive(&mut self, at: Nanos, line: usize, level: Option<bool>) {
        self.settle(at);
        if let Some(driven) = self.driven.get_mut(line) {
            *driven = level;
            self.look(at, line);
        }
    }

    fn read(&mut self, at: Nanos, line: usize) -> bool {
        self.settle(at);
        self.levels.get(line).copied().flatten().unwrap_or(true)
    }
}
