//! A table of text: columns as wide as their widest cell.

/// A table in the making.
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

    /// The table as lines of text, the headings passed through `bold`.
    pub fn text(&self, bold: impl Fn(&str) -> String) -> String {
        let rows = || std::iter::once(&self.headings).chain(&self.rows);
        let widths: Vec<_> = (0..self.headings.len())
            .map(|column| {
                rows().filter_map(|row| row.get(column)).map(|cell| cell.chars().count()).max().unwrap_or(0)
            })
            .collect();
        let line = |row: &Vec<String>| {
            let cells = row.iter().zip(&widths).map(|(cell, width)| format!("{cell:width$}"));
            cells.collect::<Vec<_>>().join("  ").trim_end().to_owned()
        };
        let mut text = bold(&line(&self.headings));
        text.push('\n');
        for row in &self.rows {
            text.push_str(&line(row));
            text.push('\n');
        }
        text
    }
}
