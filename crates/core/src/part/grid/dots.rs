//! Dots on such a memory: rows on grids and columns on segment lines, or the other way round.
//!
//! ```toml
//! rows = ["com0", "com1", "com2", "com3", "com4", "com5", "com6", "com7"]      # from the top
//! columns = ["row0", "row1", "row2", "row3", "row4", "row5", "row6", "row7"]   # from the left
//! green_columns = ["row8", "row9", "row10", "row11", "row12", "row13", "row14", "row15"]
//! ```
//!
//! One list names grids, the other lines, by the data sheet's names; of several parts with the part before in one of them,
//! `part1.row0`. So a module may lie in any of the eight ways. Where dots have a green light too, it has lists of its own;
//! the one that is left out is that of the red ones.

use super::{GridKeys, Grids};
use crate::face::{Channels, Grid};
use crate::rig::{DriveTable, Place, Problem, Spanned};

/// The line of a row or a column of dots.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Line {
    /// A grid of a part.
    Grid(usize),
    /// A segment line.
    Segment(usize),
}

/// A row or a column: its line, and the part where it says so.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Strip {
    /// The part; that of the row or column which it crosses, or the first.
    pub part: Option<usize>,
    /// The line.
    pub line: Line,
}

/// The rows and columns of the lights of one colour.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Lights {
    /// From the top.
    pub rows: Vec<Strip>,
    /// From the left.
    pub columns: Vec<Strip>,
}

/// Dots on a memory: the lights of each channel.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DotPlan {
    /// The memory.
    pub memory: Grids,
    /// Red, or the only colour; then green.
    pub channels: Vec<Lights>,
}

impl Grids {
    /// A row or column by its name: `com0`, `part1.row3`.
    fn strip(&self, name: &str) -> Option<Strip> {
        let (part, line) = match name.split_once('.') {
            Some((part, line)) => (Some(Self::numbered(part, ("part", 0), self.parts)?), line),
            None => (None, name),
        };
        let grid = Self::numbered(line, self.grid_name, self.grids).map(Line::Grid);
        let segment = || Self::numbered(line, self.line_name, self.lines).map(Line::Segment);
        Some(Strip { part, line: grid.or_else(segment)? })
    }

    /// The wiring of dots.
    pub fn dots(self, grid: Grid, keys: &GridKeys, table: &DriveTable<'_>) -> Option<DotPlan> {
        let (rows, columns) = (keys.rows.as_ref(), keys.columns.as_ref());
        let usual = self.usual(grid);
        let red = Lights {
            rows: self.strips("rows", rows, grid.height, usual.as_ref().map(|(red, _)| &red.rows), table)?,
            columns: self.strips(
                "columns",
                columns,
                grid.width,
                usual.as_ref().map(|(red, _)| &red.columns),
                table,
            )?,
        };
        let mut channels = vec![red];
        if grid.channels == Channels::Two {
            let (rows, columns) = (keys.green_rows.as_ref(), keys.green_columns.as_ref());
            let of_red = &channels[0];
            let usual = usual.map(|(_, green)| green).filter(|_| rows.is_none() && columns.is_none());
            let usual = usual.unwrap_or_else(|| of_red.clone());
            let green = Lights {
                rows: self.strips("green_rows", rows, grid.height, Some(&usual.rows), table)?,
                columns: self.strips("green_columns", columns, grid.width, Some(&usual.columns), table)?,
            };
            channels.push(green);
        } else if let Some(stray) = keys.green_rows.as_ref().or(keys.green_columns.as_ref()) {
            let allowed = "a face with colours = [\"red\", \"green\"]".to_owned();
            table.error(
                stray.span(),
                Problem::WrongValue { found: "lines for green lights".to_owned(), allowed },
            );
            return None;
        }
        for lights in &channels {
            let is_grid = |strip: &Strip| matches!(strip.line, Line::Grid(_));
            let rows_are_grids = lights.rows.iter().all(is_grid) && !lights.columns.iter().any(is_grid);
            let columns_are_grids = lights.columns.iter().all(is_grid) && !lights.rows.iter().any(is_grid);
            if !rows_are_grids && !columns_are_grids {
                let (grid, line) = (self.grid_name.0, self.line_name.0);
                let allowed = format!(
                    "rows that are all {grid}s and columns that are all {line}s, or the other way round"
                );
                table.error(
                    Place::Drive("rows"),
                    Problem::WrongValue { found: "a mixture".to_owned(), allowed },
                );
                return None;
            }
        }
        Some(DotPlan { memory: self, channels })
    }

    /// The usual wiring of red and green, parts side by side: rows are grids, and every part has as many columns.
    fn usual(&self, grid: Grid) -> Option<(Lights, Lights)> {
        let colours = grid.channels.count();
        let in_part = grid.width.div_ceil(self.parts);
        if grid.height > self.grids || in_part * colours > self.lines || colours > 2 {
            return None;
        }
        let rows: Vec<_> = (0..grid.height).map(|y| Strip { part: None, line: Line::Grid(y) }).collect();
        let lights = |first: usize| {
            let column = |x: usize| Strip {
                part: (self.parts > 1).then_some(x / in_part),
                line: Line::Segment(first + x % in_part),
            };
            Lights { rows: rows.clone(), columns: (0..grid.width).map(column).collect() }
        };
        Some((lights(0), lights(if colours > 1 { self.lines / 2 } else { 0 })))
    }

    /// The rows or the columns, as the rig lists them, or as usual.
    fn strips(
        &self,
        key: &'static str,
        written: Option<&Spanned<Vec<Spanned<String>>>>,
        count: usize,
        usual: Option<&Vec<Strip>>,
        table: &DriveTable<'_>,
    ) -> Option<Vec<Strip>> {
        let Some(written) = written else {
            let Some(usual) = usual else {
                table.error(table.place(), Problem::MissingKey { key });
                return None;
            };
            let names: Vec<_> = usual.iter().map(|strip| format!("{:?}", self.strip_name(*strip))).collect();
            table.assume(key, format!("[{}]", names.join(", ")));
            return Some(usual.clone());
        };
        if written.get_ref().len() != count {
            let found = format!("{} {}", written.get_ref().len(), key.trim_start_matches("green_"));
            table.error(written.span(), Problem::WrongCount { found, needed: count.to_string() });
            return None;
        }
        let strip = |name: &Spanned<String>| {
            let strip = self.strip(name.get_ref());
            if strip.is_none() {
                let ((grid, first), (line, first_line)) = (self.grid_name, self.line_name);
                let allowed = format!(
                    "{grid}{first} to {grid}{}, or {line}{first_line} to {line}{}",
                    first + self.grids - 1,
                    first_line + self.lines - 1
                );
                let found = format!("{:?}", name.get_ref());
                table.error(name.span(), Problem::WrongValue { found, allowed });
            }
            strip
        };
        written.get_ref().iter().map(strip).collect()
    }

    fn strip_name(&self, strip: Strip) -> String {
        let part = strip.part.map_or_else(String::new, |part| format!("part{part}."));
        let ((name, first), number) = match strip.line {
            Line::Grid(grid) => (self.grid_name, grid),
            Line::Segment(line) => (self.line_name, line),
        };
        format!("{part}{name}{}", first + number)
    }
}
