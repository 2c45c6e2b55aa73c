//! C for the mcs51 with its table in code memory.

use super::c::{self, C_WORDS, Dialect, accessor};
use super::data::Data;
use super::{Form, Table, TableError};

pub struct Mcs51C;

impl Form for Mcs51C {
    fn name(&self) -> &'static str {
        "mcs51-c"
    }

    fn write(&self, table: &Table) -> Result<String, TableError> {
        // The index is a byte.
        table.check_length(self.name(), 256)?;
        let (name, guard) = (&table.name, table.capitals());
        let length = table.length();
        let word = match table.word_bits() {
            8 => "unsigned char",
            16 => "unsigned int",
            _ => "unsigned long",
        };
        table.check_name(self.name(), C_WORDS)?;
        let access = accessor(table, "unsigned char", |index| format!("{name}[{index}]"));
        Ok(format!(
            "{comment}#ifndef {guard}_H\n#define {guard}_H\n\n\
             static const __code {word} {name}[{length}] = {{\n{rows}}};\n\n\
             static inline {word} {name}_at(unsigned char index)\n{{\n    return {access};\n}}\n\n#endif\n",
            comment = table.c_comment(),
            rows = table.c_rows(),
        ))
    }

    fn write_data(&self, data: &Data) -> Result<String, TableError> {
        data.check_name(self.name(), C_WORDS)?;
        let dialect = Dialect {
            includes: "",
            types: ["unsigned char", "unsigned int", "unsigned int"],
            marks: ["__code ", ""],
            readers: None,
        };
        Ok(c::write_data(&dialect, data))
    }
}
