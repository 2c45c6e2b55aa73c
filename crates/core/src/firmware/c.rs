//! ISO C99: a header with a constant array and its accessor, for any compiler.

use super::{Form, Index, Table, TableError};

pub struct C;

impl Form for C {
    fn name(&self) -> &'static str {
        "c"
    }

    fn write(&self, table: &Table) -> Result<String, TableError> {
        let (name, guard, bits) = (&table.name, table.capitals(), table.word_bits());
        let length = table.length();
        let access = accessor(table, "unsigned", &format!("{name}[index]"));
        Ok(format!(
            "{comment}#ifndef {guard}_H\n#define {guard}_H\n\n#include <stdint.h>\n\n\
             static const uint{bits}_t {name}[{length}] = {{\n{rows}}};\n\n\
             static inline uint{bits}_t {name}_at(unsigned index)\n{{\n    return {access};\n}}\n\n#endif\n",
            comment = table.c_comment(),
            rows = table.c_rows(),
        ))
    }
}

/// The expression that reads a table in bounds; `entry` reads it at `index`.
pub(super) fn accessor(table: &Table, index_type: &str, entry: &str) -> String {
    match table.index {
        Index::Checked => {
            format!(
                "index < {}u ? {entry} : 0x{:0width$X}u",
                table.length(),
                table.blank(),
                width = table.word_bits() / 4
            )
        }
        Index::Masked => {
            entry.replace("index", &format!("index & ({index_type})0x{:X}u", table.length() - 1))
        }
    }
}
