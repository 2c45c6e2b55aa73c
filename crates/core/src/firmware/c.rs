//! ISO C99: a header with a constant array and its accessor, for any compiler.

use std::fmt::Write;

use super::data::Data;
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

    fn write_data(&self, data: &Data) -> Result<String, TableError> {
        data.check_name(self.name(), C_WORDS)?;
        let dialect = Dialect {
            includes: "#include <stdint.h>\n\n",
            types: ["uint8_t", "uint16_t", "unsigned"],
            marks: ["", ""],
            readers: None,
        };
        Ok(write_data(&dialect, data))
    }
}

/// How a dialect of C says what is constant, and how it reads it.
pub(super) struct Dialect {
    /// What stands before the arrays.
    pub includes: &'static str,
    /// The type of values of 8 and of 16 bits, and that of an index.
    pub types: [&'static str; 3],
    /// Before the type of an array, and behind its length.
    pub marks: [&'static str; 2],
    /// What reads values of 8 and of 16 bits at an address; nothing where an array is read as such.
    pub readers: Option<[&'static str; 2]>,
}

/// The source of a font or sprite in a dialect of C.
pub(super) fn write_data(dialect: &Dialect, data: &Data) -> String {
    let Dialect { includes, types: [_, _, index_type], marks: [before, behind], .. } = dialect;
    let (name, guard) = (&data.name, data.capitals());
    let mut source =
        format!("/* {} */\n#ifndef {guard}_H\n#define {guard}_H\n\n{includes}", data.about.join("\n   "));
    // Writing to a string cannot fail.
    for array in &data.arrays {
        let (suffix, length, wide) = (array.suffix, array.length(), array.bits > 8);
        let value_type = dialect.types[usize::from(wide)];
        let _ = writeln!(
            source,
            "/* {} */\nstatic const {before}{value_type} {name}_{suffix}[{length}]{behind} = {{",
            array.about
        );
        for (values, words) in array.lines() {
            let comment = if words.is_empty() { String::new() } else { format!(" /* {words} */") };
            let _ = writeln!(source, "    {}{comment}", values.join(" "));
        }
        let entry = match dialect.readers {
            Some(readers) => format!("{}(&{name}_{suffix}[index])", readers[usize::from(wide)]),
            None => format!("{name}_{suffix}[index]"),
        };
        let _ = writeln!(
            source,
            "}};\n\nstatic inline {value_type} {name}_{suffix}_at({index_type} index)\n{{\n    return index < {length}u ? {entry} : 0;\n}}\n"
        );
    }
    if let Some(codes) = data.searched_array() {
        let (suffix, length) = (codes.suffix, codes.length());
        let _ = writeln!(
            source,
            "/* The place of a character among the {suffix}; where it is not there, their number. */\n\
             static inline {index_type} {name}_find({index_type} code)\n{{\n    {index_type} place = 0;\n\n    \
             while (place < {length}u && {name}_{suffix}_at(place) != code)\n        place++;\n    return place;\n}}\n"
        );
    }
    source + "#endif\n"
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
