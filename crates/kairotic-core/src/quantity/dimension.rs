//! The dimensions that a quantity can have, and the units each is written in.

use super::Rational;

/// A unit: its symbol and what one of it is worth.
#[derive(Debug, Clone, Copy)]
pub struct Unit {
    /// As it is typed and printed.
    pub symbol: &'static str,
    /// Its worth in the dimension's base unit.
    pub worth: Rational,
    /// The base unit's worth in this one.
    pub inverse: Rational,
}

/// One of `numerator` and `denominator` is 1.
const fn unit(symbol: &'static str, numerator: i64, denominator: i64) -> Unit {
    Unit {
        symbol,
        worth: Rational::reduced(numerator, denominator),
        inverse: Rational::reduced(denominator, numerator),
    }
}

/// What kind of thing a [`Quantity`](super::Quantity) measures.
pub trait Dimension {
    /// The trade's word for it, as messages use it.
    const NAME: &'static str;
    /// The units that output chooses from, largest first.
    const UNITS: &'static [Unit];
    /// Further spellings that input accepts.
    const ALIASES: &'static [Unit] = &[];
    /// The unit in which programs are told the number; `None` for a ratio.
    const REPORTED: Option<Unit>;
}

/// Events a second; the base unit is the hertz.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum FrequencyDimension {}

impl Dimension for FrequencyDimension {
    const NAME: &'static str = "frequency";
    const REPORTED: Option<Unit> = Some(unit("Hz", 1, 1));
    const UNITS: &'static [Unit] = &[
        unit("GHz", 1_000_000_000, 1),
        unit("MHz", 1_000_000, 1),
        unit("kHz", 1_000, 1),
        unit("Hz", 1, 1),
        unit("mHz", 1, 1_000),
        unit("uHz", 1, 1_000_000),
    ];
    const ALIASES: &'static [Unit] = &[unit("µHz", 1, 1_000_000), unit("μHz", 1, 1_000_000)];
}

/// Time; the base unit is the second.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum TimeDimension {}

impl Dimension for TimeDimension {
    const NAME: &'static str = "time";
    const REPORTED: Option<Unit> = Some(unit("s", 1, 1));
    const UNITS: &'static [Unit] = &[
        unit("s", 1, 1),
        unit("ms", 1, 1_000),
        unit("us", 1, 1_000_000),
        unit("ns", 1, 1_000_000_000),
        unit("ps", 1, 1_000_000_000_000),
    ];
    // The micro sign and the Greek letter look alike and are both on keyboards.
    const ALIASES: &'static [Unit] = &[unit("µs", 1, 1_000_000), unit("μs", 1, 1_000_000)];
}

/// A share of the period that the output is active; the base unit is the whole (1 = 100 %).
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum DutyDimension {}

impl Dimension for DutyDimension {
    const NAME: &'static str = "duty";
    const REPORTED: Option<Unit> = None;
    const UNITS: &'static [Unit] = &[unit("%", 1, 100)];
}

/// An angle of a period; the base unit is the whole turn.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum AngleDimension {}

impl Dimension for AngleDimension {
    const NAME: &'static str = "angle";
    const REPORTED: Option<Unit> = Some(unit("deg", 1, 360));
    const UNITS: &'static [Unit] = &[unit("deg", 1, 360)];
}

/// A relative deviation; the base unit is the whole (1 = 1 000 000 ppm).
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum DeviationDimension {}

impl Dimension for DeviationDimension {
    const NAME: &'static str = "relative deviation";
    const REPORTED: Option<Unit> = None;
    const UNITS: &'static [Unit] =
        &[unit("%", 1, 100), unit("ppm", 1, 1_000_000), unit("ppb", 1, 1_000_000_000)];
}

/// Electric tension; the base unit is the volt.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum VoltageDimension {}

impl Dimension for VoltageDimension {
    const NAME: &'static str = "voltage";
    const REPORTED: Option<Unit> = Some(unit("V", 1, 1));
    const UNITS: &'static [Unit] = &[unit("V", 1, 1), unit("mV", 1, 1_000)];
}

/// Power; the base unit is the watt.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum PowerDimension {}

impl Dimension for PowerDimension {
    const NAME: &'static str = "power";
    const REPORTED: Option<Unit> = Some(unit("W", 1, 1));
    const UNITS: &'static [Unit] = &[unit("kW", 1_000, 1), unit("W", 1, 1), unit("mW", 1, 1_000)];
}

/// Electric resistance; the base unit is the ohm.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum ResistanceDimension {}

impl Dimension for ResistanceDimension {
    const NAME: &'static str = "resistance";
    const REPORTED: Option<Unit> = Some(unit("ohm", 1, 1));
    const UNITS: &'static [Unit] = &[unit("kohm", 1_000, 1), unit("ohm", 1, 1), unit("mohm", 1, 1_000)];
    // The ohm sign and the Greek letter look alike.
    const ALIASES: &'static [Unit] =
        &[unit("kΩ", 1_000, 1), unit("Ω", 1, 1), unit("kΩ", 1_000, 1), unit("Ω", 1, 1)];
}

/// Speed of turning; the base unit is the turn a second.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum SpeedDimension {}

impl Dimension for SpeedDimension {
    const NAME: &'static str = "speed";
    const REPORTED: Option<Unit> = Some(unit("rpm", 1, 60));
    const UNITS: &'static [Unit] = &[unit("rpm", 1, 60)];
    const ALIASES: &'static [Unit] = &[unit("deg/s", 1, 360)];
}

/// Steps of a stepper a second.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum StepRateDimension {}

impl Dimension for StepRateDimension {
    const NAME: &'static str = "step rate";
    const REPORTED: Option<Unit> = Some(unit("steps/s", 1, 1));
    const UNITS: &'static [Unit] = &[unit("steps/s", 1, 1)];
}

/// How fast a step rate changes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum StepAccelerationDimension {}

impl Dimension for StepAccelerationDimension {
    const NAME: &'static str = "acceleration";
    const REPORTED: Option<Unit> = Some(unit("steps/s2", 1, 1));
    const UNITS: &'static [Unit] = &[unit("steps/s2", 1, 1)];
    const ALIASES: &'static [Unit] = &[unit("steps/s²", 1, 1)];
}

/// How fast an acceleration changes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum StepJerkDimension {}

impl Dimension for StepJerkDimension {
    const NAME: &'static str = "jerk";
    const REPORTED: Option<Unit> = Some(unit("steps/s3", 1, 1));
    const UNITS: &'static [Unit] = &[unit("steps/s3", 1, 1)];
    const ALIASES: &'static [Unit] = &[unit("steps/s³", 1, 1)];
}
