//! Values to register writes. The pointer counts up, so both ports take one transfer.

use crate::bus::{Role, Sink, Transfer};

/// Direction of port A; port B follows. A 0 is an output.
const IODIRA: u8 = 0x00;
/// Output latch of port A; port B follows.
const OLATA: u8 = 0x14;

/// The latches before the directions: the pins are inputs until then, so nothing flashes.
pub fn set_up(role: Role, address: u8, value: u16, sink: &mut dyn Sink) {
    write(role, address, value, sink);
    sink.put(role, Transfer::I2c { address, bytes: &[IODIRA, 0, 0], reads: 0 });
}

pub fn write(role: Role, address: u8, value: u16, sink: &mut dyn Sink) {
    let [a, b] = value.to_le_bytes();
    sink.put(role, Transfer::I2c { address, bytes: &[OLATA, a, b], reads: 0 });
}
