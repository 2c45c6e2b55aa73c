//! Assembler for the 12-bit core: a table of RETLW behind a computed jump.
//!
//! The jump adds the index to the low eight bits of the program counter and clears the ninth, so the whole
//! table must lie in the lower half of a 512-word page; the assembler is told to refuse anything else. The
//! index is masked before the jump: past the end there are blanks, and no way out of the table.

use std::fmt::Write;

use super::data::{Array, Data};
use super::{Form, Index, Table, TableError};

pub struct PicAsm;

/// Instructions of the core, the assembler's directives and the names of the registers and their bits.
const WORDS: &str = "\
addwf andlw andwf bcf bsf btfsc btfss call clrf clrw clrwdt comf decf decfsz goto incf incfsz iorlw iorwf movf movlw \
movwf nop option retlw rlf rrf sleep subwf swapf tris xorlw xorwf \
banksel cblock config constant data db de dt dw else end endc endif endm endw equ error exitm expand extern fill global \
idata ifdef ifndef include list local macro messg noexpand nolist org page pagesel processor radix res set space \
subtitle title udata undefine variable while \
indf tmr0 pcl status fsr porta portb portc osccal c dc z not_pd not_to pa0 pa1 pa2 ps0 ps1 ps2 psa t0se t0cs";

/// 256 words of half a page less the two of the jump, as a power of two.
const MOST: usize = 128;

impl Form for PicAsm {
    fn name(&self) -> &'static str {
        "pic-asm"
    }

    fn write(&self, table: &Table) -> Result<String, TableError> {
        let form = self.name();
        if table.index == Index::Checked {
            return Err(TableError::MaskedOnly { form });
        }
        table.check_length(form, MOST)?;
        table.check_name(form, WORDS)?;
        let mut source = String::new();
        for line in table.description() {
            // Writing to a string cannot fail.
            let _ = writeln!(source, "; {line}");
        }
        let _ = writeln!(
            source,
            "; In: the index in W. Out: the pattern in W. Call it from anywhere in its page."
        );
        let bytes = table.order.byte_count();
        for byte in (0..bytes).rev() {
            let name = if bytes == 1 { table.name.clone() } else { format!("{}_{byte}", table.name) };
            let rows = table.rows().map(|(bits, shown)| (vec![bits >> (8 * byte) & 0xFF], shown)).collect();
            write_byte_table(&name, table.length(), rows, &mut source);
        }
        Ok(source)
    }

    fn write_data(&self, data: &Data) -> Result<String, TableError> {
        let form = self.name();
        data.check_name(form, WORDS)?;
        let mut source: String = data.about.iter().map(|line| format!("; {line}\n")).collect();
        let _ =
            writeln!(source, "; In: the index in W. Out: the value in W. Call it from anywhere in its page.");
        for array in &data.arrays {
            let found = array.length().next_power_of_two();
            if found > MOST {
                return Err(TableError::TooLong { form, found, most: MOST });
            }
            let _ = writeln!(source, "\n; {}", array.about);
            for byte in (0..array.bits / 8).rev() {
                let name = match array.bits {
                    8 => format!("{}_{}", data.name, array.suffix),
                    _ => format!("{}_{}_{byte}", data.name, array.suffix),
                };
                write_byte_table(&name, found, bytes_of(array, byte), &mut source);
            }
        }
        Ok(source)
    }
}

/// A byte of each value of an array, byte 0 being the least significant, filled up with zeros to a power of two.
fn bytes_of(array: &Array, byte: usize) -> Vec<(Vec<u32>, String)> {
    let of_row = |(values, words): &(Vec<u16>, String)| {
        (values.iter().map(|value| u32::from(*value) >> (8 * byte) & 0xFF).collect(), words.clone())
    };
    let spare = array.length().next_power_of_two() - array.length();
    let rest = (spare > 0).then(|| (vec![0; spare], "past the end".to_owned()));
    array.rows.iter().map(of_row).chain(rest).collect()
}

/// A table of so many bytes, a power of two, row by row with a word for each.
fn write_byte_table(name: &str, length: usize, rows: Vec<(Vec<u32>, String)>, source: &mut String) {
    let _ = writeln!(source, "\n{name}");
    let _ = writeln!(source, "        ANDLW   H'{:02X}'", length - 1);
    let _ = writeln!(source, "        ADDWF   PCL, F");
    for (bytes, shown) in rows {
        for byte in bytes {
            let _ = writeln!(source, "        RETLW   H'{byte:02X}'   ; {shown}");
        }
    }
    let _ = writeln!(source, "{name}_end");
    let _ = writeln!(source, "        IF ({name} & H'100') != 0 || (({name}_end - 1) & H'100') != 0");
    let _ = writeln!(source, "          ERROR \"{name} must lie in the lower half of a page\"");
    let _ = writeln!(source, "        ENDIF");
    let _ = writeln!(source, "        IF ({name} & H'E00') != (({name}_end - 1) & H'E00')");
    let _ = writeln!(source, "          ERROR \"{name} must not run over the end of a page\"");
    let _ = writeln!(source, "        ENDIF");
}
