//! The registers, in the arrangement after power-up (IOCON.BANK 0: A and B by turns).

use crate::part::expander::PartModel;
use crate::units::{Hertz, Nanos};

/// How many registers there are, 00 to 15 hex.
const COUNT: usize = 0x16;

/// The registers that the model needs; A even, B odd.
const DIRECTION: usize = 0x00;
const CONTROL: [usize; 2] = [0x0A, 0x0B];
const PORT: usize = 0x12;
const LATCH: usize = 0x14;

/// SEQOP of the control register: the pointer stays.
const POINTER_STAYS: u8 = 1 << 5;

const NAMES: [&str; COUNT] = [
    "IODIRA", "IODIRB", "IPOLA", "IPOLB", "GPINTENA", "GPINTENB", "DEFVALA", "DEFVALB", "INTCONA", "INTCONB",
    "IOCON", "IOCON", "GPPUA", "GPPUB", "INTFA", "INTFB", "INTCAPA", "INTCAPB", "GPIOA", "GPIOB", "OLATA",
    "OLATB",
];

/// One part.
pub struct Registers {
    values: [u8; COUNT],
    /// The register that the next byte goes to; none while the next byte is the pointer itself.
    pointer: Option<usize>,
}

impl Default for Registers {
    /// After power-up every pin is an input.
    fn default() -> Self {
        let mut values = [0; COUNT];
        values[DIRECTION..DIRECTION + 2].fill(0xFF);
        Self { values, pointer: None }
    }
}

impl PartModel for Registers {
    /// The output valid time of its three speeds (data sheet, I2C timing, T_AA; from memory, not confirmed elsewhere).
    fn answer_delay(&self, clock: Hertz) -> Nanos {
        match clock.0 {
            ..=100_000 => Nanos(3_500),
            100_001..=400_000 => Nanos(900),
            400_001.. => Nanos(150),
        }
    }

    fn begin(&mut self) {
        self.pointer = None;
    }

    fn byte(&mut self, value: u8) {
        let Some(register) = self.pointer else {
            self.pointer = Some(usize::from(value));
            return;
        };
        match register {
            // A write to the port is a write to its latch.
            PORT | 0x13 => self.values[register + 2] = value,
            register if CONTROL.contains(&register) => {
                CONTROL.iter().for_each(|one| self.values[*one] = value)
            }
            register if register < COUNT => self.values[register] = value,
            _ => {}
        }
        if register < COUNT && self.values[CONTROL[0]] & POINTER_STAYS == 0 {
            self.pointer = Some((register + 1) % COUNT);
        }
    }

    fn levels(&self, levels: &mut [Option<bool>]) {
        for (pin, level) in levels.iter_mut().enumerate() {
            let bit = |register: usize| self.values[register + pin / 8] >> (pin % 8) & 1 == 1;
            *level = if bit(DIRECTION) { None } else { Some(bit(LATCH)) };
        }
    }
}

/// The outputs that a transfer sets: those of the latches that it writes, if it writes nothing else.
pub fn sets(data: &[u8]) -> Vec<(usize, bool)> {
    let [pointer, values @ ..] = data else { return Vec::new() };
    let registers = (usize::from(*pointer)..).map(|register| register % COUNT);
    if registers.clone().take(values.len()).any(|register| !(LATCH..LATCH + 2).contains(&register)) {
        return Vec::new();
    }
    let of_port = |(register, value): (usize, &u8)| {
        let (first, value) = (8 * (register - LATCH), *value);
        (0..8).map(move |pin| (first + pin, value >> pin & 1 == 1))
    };
    registers.zip(values).flat_map(of_port).collect()
}

/// The meaning of a transfer after the address.
pub fn explain(data: &[u8]) -> String {
    let [pointer, values @ ..] = data else { return "no register named".to_owned() };
    let register = |offset: usize| {
        let register = (usize::from(*pointer) + offset) % COUNT;
        NAMES[register]
    };
    let values = values.iter().enumerate().map(|(offset, value)| match register(offset) {
        name @ ("IODIRA" | "IODIRB") if *value == 0 => format!("{name} 00000000, all outputs"),
        name => format!("{name} {value:08b}"),
    });
    match values.collect::<Vec<_>>() {
        none if none.is_empty() => format!("points at {}", register(0)),
        values => values.join(", "),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn levels(transfers: &[&[u8]]) -> [Option<bool>; 16] {
        let mut registers = Registers::default();
        for transfer in transfers {
            registers.begin();
            transfer.iter().for_each(|byte| registers.byte(*byte));
        }
        let mut levels = [None; 16];
        registers.levels(&mut levels);
        levels
    }

    #[test]
    fn a_pin_drives_nothing_until_it_is_an_output() {
        assert_eq!(levels(&[&[0x14, 0xFF, 0xFF]]), [None; 16]);
        let one_port = levels(&[&[0x14, 0x05, 0xFF], &[0x00, 0xF0]]);
        assert_eq!(one_port[..5], [Some(true), Some(false), Some(true), Some(false), None]);
        assert_eq!(one_port[8..], [None; 8]);
    }

    #[test]
    fn the_pointer_counts_up_and_wraps_unless_it_is_told_to_stay() {
        let wrapped = levels(&[&[0x15, 0x80, 0x00, 0x00]]);
        assert_eq!((wrapped[15], wrapped[0]), (Some(true), Some(false)));
        let stays = levels(&[&[0x0A, 0x20], &[0x00, 0x00, 0xFF, 0x00]]);
        assert_eq!((stays[0], stays[8]), (Some(false), None));
    }

    #[test]
    fn registers_that_are_not_there_are_passed_over() {
        assert_eq!(levels(&[&[0xFF, 1, 2, 3], &[]]), [None; 16]);
    }
}
