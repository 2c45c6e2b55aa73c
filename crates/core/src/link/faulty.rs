//! A link that spoils what passes.

use super::{Link, LinkError, passed_on};
use crate::bus::{Op, Ops, Reply, Sink, Transfer};
use crate::plan::DeviceId;
use crate::units::Nanos;

/// The fault that a [`Faulty`] link applies to an operation.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum OpFault {
    /// It never arrives.
    Lost,
    /// A bit of what is written is the other way round, counted from the first byte's least significant.
    Flipped {
        /// Which.
        bit: usize,
    },
    /// It arrives twice.
    Twice,
}

/// Spoils one operation on its way.
pub struct Faulty<L> {
    /// The link behind.
    pub link: L,
    /// The fault.
    pub fault: OpFault,
    /// How many operations pass before.
    pub after: usize,
    passed: usize,
    spoiled: Ops,
}

impl<L> Faulty<L> {
    /// Spoils the operation after so many.
    pub fn new(link: L, fault: OpFault, after: usize) -> Self {
        Self { link, fault, after, passed: 0, spoiled: Ops::default() }
    }
}

impl<L: Link> Link for Faulty<L> {
    fn transfer(&mut self, device: DeviceId, op: &Op<'_>) -> Result<Reply, LinkError> {
        let is_it = self.passed == self.after;
        self.passed += 1;
        if !is_it {
            return self.link.transfer(device, op);
        }
        match self.fault {
            OpFault::Lost => {
                let at = self.link.free_at(device).max(op.not_before);
                Ok(Reply { acknowledged: true, began: at, ended: at, ..Reply::default() })
            }
            OpFault::Twice => {
                self.link.transfer(device, op)?;
                self.link.transfer(device, op)
            }
            OpFault::Flipped { bit } => {
                let mut bytes = op.transfer.bytes().to_vec();
                if let Some(byte) = bytes.get_mut(bit / 8) {
                    *byte ^= 1 << (bit % 8);
                }
                self.spoiled.clear();
                self.spoiled.put(op.role, with_bytes(op.transfer, &bytes));
                let transfer = self.spoiled.get(0).map_or(op.transfer, |spoiled| spoiled.transfer);
                self.link.transfer(device, &Op { transfer, ..*op })
            }
        }
    }

    passed_on!();
}

/// The same transfer with other bytes.
const fn with_bytes<'a>(transfer: Transfer<'a>, bytes: &'a [u8]) -> Transfer<'a> {
    match transfer {
        Transfer::Spi { .. } => Transfer::Spi { bytes },
        Transfer::I2c { address, reads, .. } => Transfer::I2c { address, bytes, reads },
        Transfer::TwoWire { reads, .. } => Transfer::TwoWire { bytes, reads },
        Transfer::Strobe { reads, .. } => Transfer::Strobe { bytes, reads },
        Transfer::Shift { .. } => Transfer::Shift { bytes },
        Transfer::OutputsOff => Transfer::OutputsOff,
        Transfer::Ports { mask, .. } => Transfer::Ports { mask, levels: bytes },
        Transfer::Burst { .. } => Transfer::Burst { columns: bytes },
        Transfer::Inputs { reads } => Transfer::Inputs { reads },
    }
}
