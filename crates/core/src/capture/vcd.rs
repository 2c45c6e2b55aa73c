//! The value change dump of IEEE 1364 (clause 18), which any waveform viewer opens.

use std::io::{self, Write};

use crate::bus::Edge;
use crate::plan::Mount;
use crate::units::Nanos;

/// A scope of a dump, with a wire for each line.
pub struct Scope<'a> {
    /// Its name: that of a face, or of a bus.
    pub name: &'a str,
    /// The name of each line.
    pub lines: Vec<&'a str>,
    /// The level of each line at its beginning; `None` where nothing drives it.
    pub levels: Vec<Option<bool>>,
    /// Its edges in order of time.
    pub edges: &'a [Edge],
}

impl<'a> Scope<'a> {
    /// The lines of a face, from these levels on.
    #[must_use]
    pub fn of(mount: &'a Mount, levels: Vec<Option<bool>>, edges: &'a [Edge]) -> Self {
        let lines = mount.lines.iter().map(|line| line.role.as_str()).collect();
        Self { name: &mount.face.name, lines, levels, edges }
    }
}

/// Writes a dump of these scopes with a timescale of one nanosecond, up to `end`.
///
/// # Errors
/// When `out` fails.
pub fn write(out: impl Write, scopes: &[Scope<'_>], end: Nanos) -> io::Result<()> {
    let mut dump = Dump::begin(out, scopes)?;
    for (wire, edge) in in_order(scopes) {
        dump.change(edge.at, wire, edge.level)?;
    }
    dump.end(end)
}

/// A dump that is being written, of any length.
pub struct Dump<W> {
    out: W,
    now: Nanos,
}

impl<W: Write> Dump<W> {
    /// Writes the header and the levels at the beginning; the edges of the scopes are not written yet.
    ///
    /// # Errors
    /// When `out` fails.
    pub fn begin(mut out: W, scopes: &[Scope<'_>]) -> io::Result<Self> {
        writeln!(out, "$version spare-tile {} $end", env!("CARGO_PKG_VERSION"))?;
        writeln!(out, "$timescale 1ns $end")?;
        let mut first_of_scope = 0;
        for scope in scopes {
            writeln!(out, "$scope module {} $end", identifier(scope.name))?;
            for (line, name) in scope.lines.iter().enumerate() {
                writeln!(out, "$var wire 1 {} {} $end", code(first_of_scope + line), identifier(name))?;
            }
            writeln!(out, "$upscope $end")?;
            first_of_scope += scope.lines.len();
        }
        writeln!(out, "$enddefinitions $end")?;
        writeln!(out, "#0\n$dumpvars")?;
        for (wire, level) in scopes.iter().flat_map(|scope| &scope.levels).enumerate() {
            let level = match level {
                Some(true) => '1',
                Some(false) => '0',
                None => 'z',
            };
            writeln!(out, "{level}{}", code(wire))?;
        }
        writeln!(out, "$end")?;
        Ok(Self { out, now: Nanos(0) })
    }

    /// Writes a change of a wire, counted over all scopes; no earlier than the one before.
    ///
    /// # Errors
    /// When the output fails.
    pub fn change(&mut self, at: Nanos, wire: usize, level: bool) -> io::Result<()> {
        if at > self.now {
            self.now = at;
            writeln!(self.out, "#{}", at.0)?;
        }
        writeln!(self.out, "{}{}", u8::from(level), code(wire))
    }

    /// Ends the dump at this time.
    ///
    /// # Errors
    /// When the output fails.
    pub fn end(mut self, end: Nanos) -> io::Result<()> {
        if end > self.now {
            writeln!(self.out, "#{}", end.0)?;
        }
        self.out.flush()
    }
}

/// All edges in order of time, each with the number of its wire over all scopes.
fn in_order<'a>(scopes: &'a [Scope<'_>]) -> impl Iterator<Item = (usize, &'a Edge)> {
    let mut first = 0;
    let mut queues: Vec<_> = scopes
        .iter()
        .map(|scope| {
            let queue = (first, scope.edges.iter().peekable());
            first += scope.lines.len();
            queue
        })
        .collect();
    std::iter::from_fn(move || {
        let earliest =
            queues.iter_mut().filter_map(|(first, edges)| Some((edges.peek()?.at, *first))).min()?.1;
        let (first, edges) = queues.iter_mut().find(|(first, _)| *first == earliest)?;
        edges.next().map(|edge| (*first + edge.line, edge))
    })
}

/// The short identifier of a wire: printable characters from `!`, least significant first.
fn code(mut wire: usize) -> String {
    const FIRST: u8 = b'!';
    const COUNT: usize = 94;
    let mut code = String::new();
    loop {
        code.push(char::from(FIRST + (wire % COUNT) as u8));
        wire /= COUNT;
        if wire == 0 {
            return code;
        }
        wire -= 1;
    }
}

/// A name that a dump can hold: no spaces, no empty name.
fn identifier(name: &str) -> String {
    let name: String = name.chars().map(|c| if c.is_ascii_graphic() { c } else { '_' }).collect();
    if name.is_empty() { "_".to_owned() } else { name }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::HashSet;

    #[test]
    fn wires_have_codes_of_their_own() {
        let codes: HashSet<_> = (0..20_000).map(code).collect();
        assert_eq!(codes.len(), 20_000);
        assert_eq!((code(0), code(93), code(94)), ("!".into(), "~".into(), "!!".into()));
    }
}
