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
        table.check_name(self.name(), C_WORDS)?;
        let access = accessor(table, "unsigned", |index| format!("{name}[{index}]"));
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
pub(super) fn accessor(table: &Table, index_type: &str, entry: impl Fn(&str) -> String) -> String {
    match table.index {
        Index::Checked => {
            format!(
                "index < {}u ? {} : 0x{:0width$X}u",
                table.length(),
                entry("index"),
                table.blank(),
                width = table.word_bits() / 4
            )
        }
        Index::Masked => entry(&format!("index & ({index_type})0x{:X}u", table.length() - 1)),
    }
}

/// Names that mean something in the standard library of C, or on a usual microcontroller, and so none for a table.
pub(super) const C_WORDS: &str = "\
abort abs acos asin atan atan2 atof atoi atol bsearch calloc ceil cos cosh div exit exp fabs floor fmod free frexp \
getchar gets index isalnum isalpha iscntrl isdigit isgraph islower isprint ispunct isspace isupper isxdigit labs ldexp \
ldiv log log10 main malloc memchr memcmp memcpy memmove memset modf null offsetof pow printf putchar puts qsort rand \
realloc remove rename scanf setjmp signal sin sinh sprintf sqrt srand sscanf stdin stdout stderr strcat strchr strcmp \
strcoll strcpy strcspn strerror strlen strncat strncmp strncpy strpbrk strrchr strspn strstr strtod strtok strtol \
system tan tanh time tolower toupper ungetc vprintf progmem pgm_read_byte pgm_read_word pgm_read_dword sei cli \
int8_t int16_t int32_t int64_t uint8_t uint16_t uint32_t uint64_t size_t ptrdiff_t wchar_t intptr_t uintptr_t \
intmax_t uintmax_t eof bool true false";
