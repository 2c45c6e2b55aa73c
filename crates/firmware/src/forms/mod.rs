//! Forms in which tables, fonts and sprites are written: each a folder of templates, and a line in [`FORMS`].

use minijinja::value::{Serde, Value};
use minijinja::{Error, context};
use serde::Serialize;

use super::data::{Array, Data};
use super::table::{Index, Table, TableError};
use super::template::{Comment, Templates, environment};

/// A way to write tables and data as source.
#[derive(Debug)]
pub struct Form {
    name: &'static str,
    /// The keywords of the language, which cannot be names; only needed if the name of a table can be changed.
    words: &'static str,
    /// The most entries of a table, where its index reaches no further.
    most: Option<usize>,
    /// The most entries of an array, filled up to a power of two; none where there is no such end.
    most_data: Option<usize>,
    /// True if an index can only be masked.
    is_masked_only: bool,
    dialect: Dialect,
    /// The templates of a table and of data.
    templates: [&'static str; 2],
}

/// How a language says what is constant, and how that is read. Only C has dialects; the others have one.
#[derive(Debug, Clone, Copy, Serialize)]
struct Dialect {
    headers: &'static [&'static str],
    /// The types of values of 8, 16 and 32 bits.
    words: [&'static str; 3],
    /// The type of an index into a table, and into an array.
    indices: [&'static str; 2],
    /// Before the type of an array, and behind its length.
    before: &'static str,
    behind: &'static str,
    /// The code that reads values of 8, 16 and 32 bits at an address; empty if an array can be indexed.
    readers: [&'static str; 3],
}

const C: Dialect = Dialect {
    headers: &["stdint.h"],
    words: ["uint8_t", "uint16_t", "uint32_t"],
    indices: ["unsigned", "unsigned"],
    before: "",
    behind: "",
    readers: ["", "", ""],
};

/// For parts that keep constants in flash only if asked to.
const AVR: Dialect = Dialect {
    headers: &["avr/pgmspace.h", "stdint.h"],
    indices: ["uint8_t", "uint16_t"],
    behind: " PROGMEM",
    readers: ["pgm_read_byte", "pgm_read_word", "pgm_read_dword"],
    ..C
};

/// For the mcs51, with what is constant in code memory.
const MCS51: Dialect = Dialect {
    headers: &[],
    words: ["unsigned char", "unsigned int", "unsigned long"],
    indices: ["unsigned char", "unsigned int"],
    before: "__code ",
    ..C
};

const OF_C: [&str; 2] = ["c/table.h.j2", "c/data.h.j2"];

/// The code for a table that needs nothing else.
const PLAIN: Form = Form {
    name: "",
    words: "",
    most: None,
    most_data: None,
    is_masked_only: false,
    dialect: C,
    templates: OF_C,
};

/// Every form.
pub const FORMS: &[Form] = &[
    Form { name: "c", words: C_WORDS, ..PLAIN },
    // An index is a byte.
    Form { name: "avr-c", words: C_WORDS, most: Some(256), dialect: AVR, ..PLAIN },
    Form { name: "mcs51-c", words: C_WORDS, most: Some(256), dialect: MCS51, ..PLAIN },
    Form {
        name: "mcs51-asm",
        words: MCS51_WORDS,
        most: Some(256),
        templates: ["mcs51_asm/table.asm.j2", "mcs51_asm/data.asm.j2"],
        ..PLAIN
    },
    Form { name: "rust", templates: ["rust/table.rs.j2", "rust/data.rs.j2"], ..PLAIN },
    Form { name: "micropython", templates: ["micropython/table.py.j2", "micropython/data.py.j2"], ..PLAIN },
    Form {
        name: "pic-asm",
        words: PIC_WORDS,
        most: Some(MOST_IN_PIC),
        most_data: Some(MOST_IN_PIC),
        is_masked_only: true,
        templates: ["pic_asm/table.asm.j2", "pic_asm/data.asm.j2"],
        ..PLAIN
    },
];

/// Of the 12-bit core: 256 words of half a page less the two of the jump, as a power of two. The jump adds the index to the low eight
/// bits of the program counter and clears the ninth, so that a whole table must lie there; the assembler refuses
/// anything else.
const MOST_IN_PIC: usize = 128;

/// Names that mean something in the standard library of C, or on a usual microcontroller, and so none for a table.
const C_WORDS: &str = "\
abort abs acos asin atan atan2 atof atoi atol bsearch calloc ceil cos cosh div exit exp fabs floor fmod free frexp \
getchar gets index isalnum isalpha iscntrl isdigit isgraph islower isprint ispunct isspace isupper isxdigit labs ldexp \
ldiv log log10 main malloc memchr memcmp memcpy memmove memset modf null offsetof pow printf putchar puts qsort rand \
realloc remove rename scanf setjmp signal sin sinh sprintf sqrt srand sscanf stdin stdout stderr strcat strchr strcmp \
strcoll strcpy strcspn strerror strlen strncat strncmp strncpy strpbrk strrchr strspn strstr strtod strtok strtol \
system tan tanh time tolower toupper ungetc vprintf progmem pgm_read_byte pgm_read_word pgm_read_dword sei cli \
int8_t int16_t int32_t int64_t uint8_t uint16_t uint32_t uint64_t size_t ptrdiff_t wchar_t intptr_t uintptr_t \
intmax_t uintmax_t eof bool true false";

/// Instructions of the 12-bit core, its assembler's directives and the names of the registers and their bits.
const PIC_WORDS: &str = "\
addwf andlw andwf bcf bsf btfsc btfss call clrf clrw clrwdt comf decf decfsz goto incf incfsz iorlw iorwf movf movlw \
movwf nop option retlw rlf rrf sleep subwf swapf tris xorlw xorwf \
banksel cblock config constant data db de dt dw else end endc endif endm endw equ error exitm expand extern fill global \
idata ifdef ifndef include list local macro messg noexpand nolist org page pagesel processor radix res set space \
subtitle title udata undefine variable while \
indf tmr0 pcl status fsr porta portb portc osccal c dc z not_pd not_to pa0 pa1 pa2 ps0 ps1 ps2 psa t0se t0cs";

/// Instructions of the 8051, its assembler's directives and the names of its registers and their bits.
const MCS51_WORDS: &str = "\
acall add addc ajmp anl call cjne clr cpl da dec div djnz inc jb jbc jc jmp jnb jnc jnz jz lcall ljmp mov movc movx mul nop \
orl pop push ret reti rl rlc rr rrc setb sjmp subb swap xch xchd xrl \
bit bseg code cseg data db dbit ds dseg dw else end endif equ extrn high idata if iseg low mod name org public rseg \
segment set using xdata xseg and or not xor shl shr eq ne gt ge lt le \
a ab ac acc b c cy dph dpl dptr ea es et0 et1 et2 ex0 ex1 f0 ie ie0 ie1 int0 int1 ip it0 it1 ov p p0 p1 p2 p3 pc pcon ps psw \
pt0 pt1 pt2 px0 px1 r0 r1 r2 r3 r4 r5 r6 r7 rb8 rd ren ri rs0 rs1 rxd sbuf scon sm0 sm1 sm2 sp t0 t1 tb8 tcon tf0 tf1 th0 th1 ti \
tl0 tl1 tmod tr0 tr1 txd wr";

const TEMPLATES: Templates = &[
    ("c/includes.j2", include_str!("c/includes.j2")),
    ("c/table.h.j2", include_str!("c/table.h.j2")),
    ("c/data.h.j2", include_str!("c/data.h.j2")),
    ("c/list.j2", include_str!("c/list.j2")),
    ("mcs51_asm/bytes.j2", include_str!("mcs51_asm/bytes.j2")),
    ("mcs51_asm/table.asm.j2", include_str!("mcs51_asm/table.asm.j2")),
    ("mcs51_asm/data.asm.j2", include_str!("mcs51_asm/data.asm.j2")),
    ("rust/table.rs.j2", include_str!("rust/table.rs.j2")),
    ("rust/data.rs.j2", include_str!("rust/data.rs.j2")),
    ("rust/list.j2", include_str!("rust/list.j2")),
    ("micropython/table.py.j2", include_str!("micropython/table.py.j2")),
    ("micropython/data.py.j2", include_str!("micropython/data.py.j2")),
    ("micropython/list.j2", include_str!("micropython/list.j2")),
    ("pic_asm/bytes.j2", include_str!("pic_asm/bytes.j2")),
    ("pic_asm/table.asm.j2", include_str!("pic_asm/table.asm.j2")),
    ("pic_asm/data.asm.j2", include_str!("pic_asm/data.asm.j2")),
];

/// Fills a template of these.
///
/// # Errors
/// In words, when it cannot be filled.
pub(super) fn fill(template: &str, with: Value) -> Result<String, String> {
    let filled = || environment(TEMPLATES.iter().copied())?.get_template(template)?.render(with);
    filled().map_err(|error: Error| format!("{error:#}"))
}

/// The form of this name.
#[must_use]
pub fn form(name: &str) -> Option<&'static Form> {
    FORMS.iter().find(|form| form.name == name)
}

/// Values that stand together, and a word for them.
#[derive(Serialize)]
struct Row {
    values: Vec<u32>,
    words: Comment,
}

/// A line of source, and a word for what begins there.
#[derive(Serialize)]
struct Line {
    values: Vec<String>,
    words: Comment,
}

/// A text for a comment, for a template.
pub(super) fn comment(text: &str) -> Value {
    Value::from(Serde(&Comment::new(text)))
}

/// Lines for a comment.
fn comments(lines: &[String]) -> Value {
    lines.iter().map(|line| comment(line)).collect()
}

/// Returns the type that a form has for values of this many bits.
#[derive(Serialize)]
struct OfBits {
    word: &'static str,
    reader: &'static str,
}

impl Dialect {
    const fn of_bits(&self, bits: usize) -> OfBits {
        let place = match bits {
            8 => 0,
            16 => 1,
            _ => 2,
        };
        OfBits { word: self.words[place], reader: self.readers[place] }
    }
}

impl Form {
    /// The word for it on the command line.
    #[must_use]
    pub const fn name(&self) -> &'static str {
        self.name
    }

    /// The whole source of a table.
    ///
    /// # Errors
    /// When the form has no way to say this table.
    pub fn write(&self, table: &Table) -> Result<String, TableError> {
        let (form, dialect) = (self.name, &self.dialect);
        if self.is_masked_only && table.index == Index::Checked {
            return Err(TableError::MaskedOnly { form });
        }
        self.check_length(self.most, table.length())?;
        self.check_name(&table.name)?;
        let rows = table.rows().map(|(bits, words)| Row { values: vec![bits], words: Comment::new(&words) });
        let of_bits = Value::from(Serde(&dialect.of_bits(table.word_bits())));
        self.fill(
            self.templates[0],
            context! {
                dialect => context! { index => dialect.indices[0], ..of_bits },
                about => comments(&table.description()),
                bits => table.word_bits(),
                bytes => table.order.byte_count(),
                length => table.length(),
                blank => table.blank(),
                is_masked => table.index == Index::Masked,
                rows => Value::from(Serde(&rows.collect::<Vec<_>>())),
                ..self.named(&table.name)
            },
        )
    }

    /// The whole source of a font or sprite.
    ///
    /// # Errors
    /// When the form has no way to say it.
    pub fn write_data(&self, data: &Data) -> Result<String, TableError> {
        self.check_name(&data.name)?;
        let longest = data.arrays.iter().map(|array| array.length().next_power_of_two()).max();
        self.check_length(self.most_data, longest.unwrap_or(0))?;
        let array = |array: &Array| {
            let lines = array.lines().map(|(values, words)| Line { values, words: Comment::new(words) });
            let row = |(values, words): &(Vec<u16>, String)| Row {
                values: values.iter().copied().map(u32::from).collect(),
                words: Comment::new(words),
            };
            context! {
                suffix => array.suffix,
                about => comment(&array.about),
                bits => array.bits,
                length => array.length(),
                filled => array.length().next_power_of_two(),
                lines => Value::from(Serde(&lines.collect::<Vec<_>>())),
                rows => Value::from(Serde(&array.rows.iter().map(row).collect::<Vec<_>>())),
                dialect => Value::from(Serde(&self.dialect.of_bits(array.bits))),
            }
        };
        self.fill(
            self.templates[1],
            context! {
                dialect => context! { index => self.dialect.indices[1] },
                about => comments(&data.about),
                arrays => data.arrays.iter().map(array).collect::<Vec<_>>(),
                searched => data.searched,
                ..self.named(&data.name)
            },
        )
    }

    /// The name as it is written: as it is, in capitals, and as that of a function.
    fn named(&self, name: &str) -> Value {
        context! { name, capitals => name.to_ascii_uppercase(), function => name.to_ascii_lowercase() }
    }

    fn fill(&self, template: &str, with: Value) -> Result<String, TableError> {
        let marks = Value::from(Serde(&self.dialect));
        fill(template, context! { marks, ..with }).map_err(TableError::Template)
    }

    /// Refuses a name that is one of the form's own words.
    fn check_name(&self, name: &str) -> Result<(), TableError> {
        let is_word = self.words.split(' ').any(|word| word == name.to_ascii_lowercase());
        if is_word { Err(TableError::Taken { form: self.name, found: name.to_owned() }) } else { Ok(()) }
    }

    /// Refuses what it cannot hold.
    fn check_length(&self, most: Option<usize>, found: usize) -> Result<(), TableError> {
        match most {
            Some(most) if found > most => Err(TableError::TooLong { form: self.name, found, most }),
            _ => Ok(()),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use spare_tile_core::glyph::{BitOrder, Common, OwnGlyphs, Style};

    fn table(name: &str, characters: &str, index: Index) -> Result<Table, TableError> {
        let characters: Vec<_> = characters.chars().collect();
        let order = BitOrder::usual(Style::Seven);
        Table::new(name, &characters, order, Common::Cathode, index, &OwnGlyphs::default())
    }

    #[test]
    fn names_that_would_not_compile_are_refused() {
        for name in ["", "7seg", "a-b", "int", "Fn", "def", "\u{e9}", "_", "_Bool"] {
            assert_eq!(table(name, "0", Index::Checked), Err(TableError::Name { found: name.into() }));
        }
    }

    #[test]
    fn names_that_a_language_has_given_away_are_refused() {
        let told =
            |name: &str, language| form(language).unwrap().write(&table(name, "0", Index::Masked).unwrap());
        for (language, name) in [
            ("c", "index"),
            ("c", "uint8_t"),
            ("c", "NULL"),
            ("avr-c", "PROGMEM"),
            ("mcs51-c", "main"),
            ("mcs51-asm", "DPTR"),
            ("pic-asm", "PCL"),
            ("pic-asm", "movlw"),
        ] {
            let found = name.to_owned();
            let form = form(language).unwrap().name();
            assert_eq!(told(name, language), Err(TableError::Taken { form, found }), "{language} {name}");
        }
        assert!(
            told("index", "rust").is_ok() && told("index", "micropython").is_ok(),
            "the table's name is in capitals"
        );
        // A name that has one in it is as good as any.
        let masked = told("my_index", "c").unwrap();
        assert!(masked.contains("return my_index[index & (unsigned)0x0u];"), "{masked}");
    }

    #[test]
    fn a_masked_table_is_filled_up_with_blanks() {
        let masked = table("digits", "0123456789", Index::Masked).unwrap();
        assert_eq!(masked.length(), 16);
        assert_eq!(masked.rows().skip(10).map(|(bits, _)| bits).collect::<Vec<_>>(), [0; 6]);
        assert_eq!(table("digits", "", Index::Masked), Err(TableError::Empty));
    }

    #[test]
    fn a_table_that_its_index_cannot_reach_is_refused() {
        let long = table("signs", &"0".repeat(300), Index::Checked).unwrap();
        let told = |name| form(name).unwrap().write(&long).map(|_| ());
        assert_eq!(told("avr-c"), Err(TableError::TooLong { form: "avr-c", found: 300, most: 256 }));
        assert_eq!(told("pic-asm"), Err(TableError::MaskedOnly { form: "pic-asm" }));
        assert_eq!(told("c"), Ok(()));
    }

    #[test]
    fn every_form_has_a_name_of_its_own() {
        let names: std::collections::BTreeSet<_> = FORMS.iter().map(|form| form.name()).collect();
        assert_eq!(names.len(), FORMS.len(), "{names:?}");
    }
}
