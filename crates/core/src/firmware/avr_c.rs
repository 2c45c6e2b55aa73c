//! C for parts whose constants stay in flash only when they are told to, with the reading of it.

use super::c::{self, C_WORDS, Dialect, accessor};
use super::data::Data;
use super::{Form, Table, TableError};

pub struct AvrC;

impl Form for AvrC {
    fn name(&self) -> &'static str {
        "avr-c"
    }

    fn write(&self, table: &Table) -> Result<String, TableError> {
        // The index is a byte.
        table.check_length(self.name(), 256)?;
        let (name, guard, bits) = (&table.name, table.capitals(), table.word_bits());
        let length = table.length();
        let read = match bits {
            8 => "pgm_read_byte",
            16 => "pgm_read_word",
            _ => "pgm_read_dword",
        };
        table.check_name(self.name(), C_WORDS)?;
        let access = accessor(table, "uint8_t", |index| format!("{read}(&{name}[{index}])"));
        Ok(format!(
            "{comment}#ifndef {guard}_H\n#define {guard}_H\n\n#include <avr/pgmspace.h>\n#include <stdint.h>\n\n\
             static const uint{bits}_t {name}[{length}] PROGMEM = {{\n{rows}}};\n\n\
             static inline uint{bits}_t {name}_at(uint8_t index)\n{{\n    return {access};\n}}\n\n#endif\n",
            comment = table.c_comment(),
            rows = table.c_rows(),
        ))
    }

    fn write_data(&self, data: &Data) -> Result<String, TableError> {
        data.check_name(self.name(), C_WORDS)?;
        let dialect = Dialect {
            includes: "#include <avr/pgmspace.h>\n#include <stdint.h>\n\n",
            types: ["uint8_t", "uint16_t", "uint16_t"],
            marks: ["", " PROGMEM"],
            readers: Some(["pgm_read_byte", "pgm_read_word"]),
        };
        Ok(c::write_data(&dialect, data))
    }
}
