//! A table of text: columns as wide as their widest cell, or as narrow as the output asks for.

use std::borrow::Cow;

use textwrap::{Options, wrap};

use crate::session::Session;

/// Between two columns.
const GAP: usize = 2;
/// A column is not made narrower than this to fit.
const NARROWEST: usize = 8;

/// A table that is being built.
pub struct Columns {
    headings: Vec<String>,
    rows: Vec<Vec<String>>,
}

impl Columns {
    /// A table with these headings.
    pub fn new(headings: &[&str]) -> Self {
        Self { headings: headings.iter().map(|heading| (*heading).to_owned()).collect(), rows: Vec::new() }
    }

    /// Adds a row.
    pub fn row(&mut self, cells: impl IntoIterator<Item = String>) {
        self.rows.push(cells.into_iter().collect());
    }

    /// The table as lines of text behind an indent, in the width of the session's output. Cells that do not fit are broken
    /// between words.
    pub fn text(&self, indent: usize, session: &Session<'_>) -> String {
        let widths = self.widths(session.columns.saturating_sub(indent));
        let margin = " ".repeat(indent);
        let mut text = String::new();
        for (place, row) in std::iter::once(&self.headings).chain(&self.rows).enumerate() {
            for line in lines(row, &widths) {
                let line = if place == 0 { session.bold(&line) } else { Cow::from(&line) };
                text.push_str(format!("{margin}{line}").trim_end());
                text.push('\n');
            }
        }
        text
    }

    /// How wide each column is: the widest are narrowed first.
    fn widths(&self, most: usize) -> Vec<usize> {
        let rows = || std::iter::once(&self.headings).chain(&self.rows);
        let widest = |column: usize| {
            rows().filter_map(|row| row.get(column)).map(|cell| cell.chars().count()).max().unwrap_or(0)
        };
        let mut widths: Vec<_> = (0..self.headings.len()).map(widest).collect();
        let gaps = GAP * widths.len().saturating_sub(1);
        while widths.iter().sum::<usize>() + gaps > most {
            match widths.iter_mut().max() {
                Some(widest) if *widest > NARROWEST => *widest -= 1,
                _ => break,
            }
        }
        // A broken text may need fewer columns than it was given.
        let needed = |(column, width): (usize, &usize)| {
            let cells = rows().filter_map(|row| row.get(column));
            let lines = cells.flat_map(|cell| broken(cell, *width));
            lines.map(|line| line.chars().count()).max().unwrap_or(0)
        };
        widths.iter().enumerate().map(needed).collect()
    }
}

/// A row, line by line.
fn lines(row: &[String], widths: &[usize]) -> Vec<String> {
    let cells: Vec<Vec<Cow<'_, str>>> =
        row.iter().zip(widths).map(|(cell, width)| broken(cell, *width)).collect();
    let height = cells.iter().map(Vec::len).max().unwrap_or(0);
    let line = |place: usize| {
        let cells = cells.iter().zip(widths).map(|(cell, width)| {
            let part = cell.get(place).map_or("", |part| part);
            format!("{part:width$}")
        });
        cells.collect::<Vec<_>>().join(&" ".repeat(GAP))
    };
    (0..height).map(line).collect()
}

/// A text broken between words to fit a width.
pub fn broken(text: &str, width: usize) -> Vec<Cow<'_, str>> {
    wrap(text, Options::new(width.max(1)))
}
