//! Values to writes: one byte is the pins.

use crate::bus::{Role, Sink, Transfer};

pub fn write(role: Role, address: u8, value: u16, sink: &mut dyn Sink) {
    sink.put(role, Transfer::I2c { address, bytes: &[value as u8], reads: 0 });
}
