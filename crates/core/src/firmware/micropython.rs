//! MicroPython: a constant `bytes`, which stays in flash when frozen; a tuple for wider patterns.

use std::fmt::Write;

use super::{Form, Index, Table, TableError};

pub struct MicroPython;

impl Form for MicroPython {
    fn name(&self) -> &'static str {
        "micropython"
    }

    fn write(&self, table: &Table) -> Result<String, TableError> {
        let (capitals, function) = (table.capitals(), table.name.to_ascii_lowercase());
        let (open, close) = if table.word_bits() == 8 { ("bytes((", "))") } else { ("(", ")") };
        let mut source = String::new();
        for line in table.description() {
            // Writing to a string cannot fail.
            let _ = writeln!(source, "# {line}");
        }
        let _ = writeln!(source, "{capitals} = {open}");
        for (bits, shown) in table.rows() {
            let _ = writeln!(source, "    0x{bits:0digits$X},  # {shown}", digits = table.word_bits() / 4);
        }
        let access = match table.index {
            Index::Checked => format!(
                "{capitals}[index] if 0 <= index < {} else 0x{:0digits$X}",
                table.length(),
                table.blank(),
                digits = table.word_bits() / 4
            ),
            Index::Masked => format!("{capitals}[index & 0x{:X}]", table.length() - 1),
        };
        let _ = writeln!(source, "{close}\n\n\ndef {function}_at(index):\n    return {access}");
        Ok(source)
    }
}
