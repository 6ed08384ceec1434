//! One step of a program: what is done to what, and why.

use serde::Serialize;

use crate::part::{Access, Trust, Unlock, largest};
use crate::quantity::Time;
use crate::setting::{FieldWrite, Written};

/// One step between reset and a moving pin.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct ProgramStep {
    /// What it belongs to.
    pub phase: Phase,
    /// What is done.
    pub action: Action,
    /// What it is for, in words.
    pub why: String,
    /// The timer, node or pin that it is for.
    pub of: String,
    /// How far the catalogue's statements behind it can be trusted.
    pub trust: Trust,
}

/// What a step belongs to, in the order in which all of one are done before the next.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Phase {
    /// Oscillators, multipliers, bus dividers, and what a fast clock needs before.
    Clock,
    /// Clock and reset of a timer.
    Gate,
    /// What connects a pin.
    Pin,
    /// What the other values hang on.
    Mode,
    /// Division, top, compare values and everything else that is no start.
    Values,
    /// What loads buffered values.
    Load,
    /// What puts the signal on its output.
    Outputs,
    /// What starts the counter.
    Start,
}

impl Phase {
    /// The word that outputs use.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Clock => "clock",
            Self::Gate => "gate",
            Self::Pin => "pin",
            Self::Mode => "mode",
            Self::Values => "values",
            Self::Load => "load",
            Self::Outputs => "outputs",
            Self::Start => "start",
        }
    }
}

/// What is done.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Action {
    /// A register is written.
    Write(RegisterWrite),
    /// The firmware waits until a field has a value.
    Until {
        /// The register that it is in.
        register: RegisterPlace,
        /// The field's bits.
        mask: u64,
        /// Their value, in place.
        value: u64,
    },
    /// The firmware waits for a time.
    Delay {
        /// How long, at least.
        time: Time,
    },
    /// Words in memory get their values, before the part is told where they are.
    Buffer {
        /// What the first word is called.
        name: String,
        /// Width of a word in bits.
        bits: u32,
        /// The words.
        words: Vec<u64>,
    },
    /// Bytes go over a bus.
    Transfer {
        /// The register that the first of them is for.
        register: String,
        /// The device's address, seven bits.
        address: u8,
        /// The register's address and what is written from there on.
        bytes: Vec<u8>,
        /// The fields that make it.
        fields: Vec<FieldWrite>,
    },
    /// An attribute of a kernel gets a value.
    Attribute {
        /// Its name.
        name: String,
        /// What is written to it, nanoseconds where it is a time.
        value: u64,
        /// The fields that make it.
        fields: Vec<FieldWrite>,
    },
    /// A value is set when the part is programmed.
    Programmed {
        /// The register.
        register: RegisterPlace,
        /// The bits that matter.
        mask: u64,
        /// Their value, in place.
        value: u64,
        /// The fields that make it.
        fields: Vec<FieldWrite>,
    },
    /// Something has to be done of which the catalogue does not know how.
    Supply {
        /// What a function that does it may be called.
        function: String,
    },
}

/// A register, and where it is.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct RegisterPlace {
    /// Its name, as device headers write it.
    pub name: String,
    /// Its address; `None` where that is not known.
    pub address: Option<u64>,
    /// Width of an access in bits.
    pub bits: u32,
    /// What can be done with it.
    #[serde(skip)]
    pub access: Access,
}

/// One write of a register.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct RegisterWrite {
    /// The register.
    pub register: RegisterPlace,
    /// What is written, within the mask.
    pub value: Written,
    /// The bits that change; the others keep what they have.
    pub mask: u64,
    /// What the register holds afterwards, coming from reset; `None` where only the firmware knows.
    pub holds: Option<u64>,
    /// What has to be written right before.
    #[serde(skip)]
    pub unlock: Option<(RegisterPlace, Unlock)>,
    /// The fields that make the value.
    pub fields: Vec<FieldWrite>,
}

impl Action {
    /// The fields that it writes.
    pub fn fields(&self) -> &[FieldWrite] {
        match self {
            Self::Write(RegisterWrite { fields, .. })
            | Self::Transfer { fields, .. }
            | Self::Attribute { fields, .. }
            | Self::Programmed { fields, .. } => fields,
            Self::Until { .. } | Self::Delay { .. } | Self::Buffer { .. } | Self::Supply { .. } => &[],
        }
    }
}

impl RegisterWrite {
    /// Whether nothing of what the register held is kept.
    pub fn is_whole(&self) -> bool {
        self.mask == largest(self.register.bits)
    }
}
