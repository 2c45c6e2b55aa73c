//! Rust without the standard library: a constant array and a `const fn`.

use std::fmt::Write;

use super::{Form, Index, Table, TableError};

pub struct Rust;

impl Form for Rust {
    fn name(&self) -> &'static str {
        "rust"
    }

    fn write(&self, table: &Table) -> Result<String, TableError> {
        let (capitals, bits, length) = (table.capitals(), table.word_bits(), table.length());
        let function = table.name.to_ascii_lowercase();
        let mut source = String::new();
        for line in table.description() {
            // Writing to a string cannot fail.
            let _ = writeln!(source, "/// {line}");
        }
        let _ = writeln!(source, "pub const {capitals}: [u{bits}; {length}] = [");
        for (value, shown) in table.rows() {
            let _ = writeln!(source, "    0x{value:0digits$X}, // {shown}", digits = bits / 4);
        }
        let access = match table.index {
            Index::Checked => format!(
                "if index < {capitals}.len() {{ {capitals}[index] }} else {{ 0x{:0digits$X} }}",
                table.blank(),
                digits = bits / 4
            ),
            Index::Masked => format!("{capitals}[index & 0x{:X}]", length - 1),
        };
        let _ = writeln!(
            source,
            "];\n\n/// The pattern at an index, whatever it is.\n\
             pub const fn {function}_at(index: usize) -> u{bits} {{\n    {access}\n}}"
        );
        Ok(source)
    }
}
