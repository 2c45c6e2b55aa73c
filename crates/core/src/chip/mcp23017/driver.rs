//! Values to register writes. The pointer counts up, so both ports take one transfer.

use crate::bus::{Ops, Role};

/// Direction of port A; port B follows. A 0 is an output.
const IODIRA: u8 = 0x00;
/// Output latch of port A; port B follows.
const OLATA: u8 = 0x14;

/// The latches before the directions: the pins are inputs until then, so nothing flashes.
pub fn power_up(address: u8, value: u16, ops: &mut Ops) {
    write(Role::PowerUp, address, value, ops);
    ops.push(Role::PowerUp, [address << 1, IODIRA, 0, 0]);
}

pub fn write(role: Role, address: u8, value: u16, ops: &mut Ops) {
    let [a, b] = value.to_le_bytes();
    ops.push(role, [address << 1, OLATA, a, b]);
}
