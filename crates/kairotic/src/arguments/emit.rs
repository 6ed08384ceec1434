//! The arguments of `emit`.

use std::path::PathBuf;

use clap::{Args, ValueEnum};
use kairotic_formats::emit::EmitForm;

/// The arguments of `emit`.
///
/// The code needs nothing but itself: every write between reset and the moving pins, in a safe order, and for each signal
/// its numbers and a function that sets its compare value within its limits. What the catalogue does not know is a function
/// that the firmware has to supply: until then it does not compile.
#[derive(Debug, Args)]
#[command(after_help = EXAMPLES)]
pub struct EmitArgs {
    /// The board file
    #[arg(value_name = "BOARD")]
    pub board: PathBuf,
    /// The folder that the files go to; it is made where it is missing, and other files in it are left alone
    #[arg(long, value_name = "FOLDER")]
    pub to: PathBuf,
    /// What it is made as; several with commas between them
    #[arg(long = "as", value_enum, value_name = "FORM", value_delimiter = ',', default_value = "c")]
    pub forms: Vec<EmitAs>,
    /// Overwrite files that were not made by this command
    #[arg(long)]
    pub force: bool,
}

/// What code is made as.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub enum EmitAs {
    /// C99, a header and a source
    C,
    /// Rust, a module without the standard library
    Rust,
    /// A device tree's overlay for a part that a kernel drives
    Devicetree,
    /// A shell's functions for the PWM channels of a kernel
    Kernel,
    /// C arrays with the transfers for a part at the end of a bus
    Bytes,
    /// The numbers as TOML and JSON
    Values,
}

impl EmitAs {
    /// The form that is meant.
    pub const fn form(self) -> EmitForm {
        match self {
            Self::C => EmitForm::C,
            Self::Rust => EmitForm::Rust,
            Self::Devicetree => EmitForm::Devicetree,
            Self::Kernel => EmitForm::Kernel,
            Self::Bytes => EmitForm::Bytes,
            Self::Values => EmitForm::Values,
        }
    }
}

const EXAMPLES: &str = "\
Examples:
  kairotic emit dome.toml --to firmware/generated --as c
      dome.h and dome.c: dome_start(), dome_stop(), dome_shutter_set_compare() and the others";
