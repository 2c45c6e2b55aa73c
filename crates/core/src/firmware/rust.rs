//! Rust without the standard library: a constant array and a `const fn`.

use std::fmt::Write;

use super::data::Data;
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

    fn write_data(&self, data: &Data) -> Result<String, TableError> {
        let (capitals, function) = (data.capitals(), data.name.to_ascii_lowercase());
        // The comment belongs to no item.
        let mut source: String = data.about.iter().map(|line| format!("// {line}\n")).collect();
        for array in &data.arrays {
            let (bits, length, suffix) = (array.bits, array.length(), array.suffix);
            let of_array = format!("{capitals}_{}", suffix.to_ascii_uppercase());
            let _ = writeln!(source, "\n/// {}\npub const {of_array}: [u{bits}; {length}] = [", array.about);
            for (values, words) in array.lines() {
                let comment = if words.is_empty() { String::new() } else { format!(" // {words}") };
                let _ = writeln!(source, "    {}{comment}", values.join(" "));
            }
            let _ = writeln!(
                source,
                "];\n\n/// The value at an index; past the end 0.\n\
                 pub const fn {function}_{suffix}_at(index: usize) -> u{bits} {{\n    \
                 if index < {of_array}.len() {{ {of_array}[index] }} else {{ 0 }}\n}}"
            );
        }
        if let Some(codes) = data.searched_array() {
            let of_codes = format!("{capitals}_{}", codes.suffix.to_ascii_uppercase());
            let _ = writeln!(
                source,
                "\n/// The place of a character among the {}; where it is not there, their number.\n\
                 pub const fn {function}_find(code: u16) -> usize {{\n    let mut place = 0;\n    \
                 while place < {of_codes}.len() && {of_codes}[place] != code {{\n        place += 1;\n    }}\n    place\n}}",
                codes.suffix
            );
        }
        Ok(source)
    }
}
