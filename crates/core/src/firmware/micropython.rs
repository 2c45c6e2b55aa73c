//! MicroPython: a constant `bytes`, which stays in flash when frozen; a tuple for wider patterns.

use std::fmt::Write;

use super::data::Data;
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

    fn write_data(&self, data: &Data) -> Result<String, TableError> {
        let (capitals, function) = (data.capitals(), data.name.to_ascii_lowercase());
        let mut source: String = data.about.iter().map(|line| format!("# {line}\n")).collect();
        let name = |suffix: &str| format!("{capitals}_{}", suffix.to_ascii_uppercase());
        for array in &data.arrays {
            let (open, close) = if array.bits == 8 { ("bytes((", "))") } else { ("(", ")") };
            let _ = writeln!(source, "\n# {}\n{} = {open}", array.about, name(array.suffix));
            for (values, words) in array.lines() {
                let comment = if words.is_empty() { String::new() } else { format!("  # {words}") };
                let _ = writeln!(source, "    {}{comment}", values.join(" "));
            }
            let _ = writeln!(source, "{close}");
        }
        for array in &data.arrays {
            let (suffix, length, of_array) = (array.suffix, array.length(), name(array.suffix));
            let _ = writeln!(
                source,
                "\n\ndef {function}_{suffix}_at(index):\n    return {of_array}[index] if 0 <= index < {length} else 0"
            );
        }
        if let Some(codes) = data.searched_array() {
            let of_codes = name(codes.suffix);
            let _ = writeln!(
                source,
                "\n\ndef {function}_find(code):\n    # Where it is not there, the number of characters.\n    \
                 return {of_codes}.index(code) if code in {of_codes} else {}",
                codes.length()
            );
        }
        Ok(source)
    }
}
