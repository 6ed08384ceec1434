//! A stepper: not a level but so many steps. It is moved, and no duty or pulse stands for where it is.

use serde::Serialize;

use super::keys::{KeyText, KeyValues, Keys, LoadKey};
use crate::error::{Error, OrOverflow, Result};
use crate::quantity::{Angle, QuantityError, Range, Rational, StepAcceleration, StepJerk, StepRate, Time};

/// A stepper with what drives it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Stepper {
    /// Full steps in a turn of the motor.
    pub steps_per_turn: Rational,
    /// Turns of the motor for a turn of what it moves.
    pub gear: Rational,
    /// What drives it.
    pub drive: StepDrive,
    /// How fast it may go.
    pub rates: StepRates,
    /// Where it may be.
    pub travel: Option<Range<Angle>>,
    /// What is lost when the direction changes.
    pub backlash: Option<Angle>,
}

/// What drives a stepper.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum StepDrive {
    /// A driver that takes a pulse for each step and a level for the direction.
    StepDirection {
        /// Steps of the driver in a full step.
        microsteps: u32,
        /// The shortest pulse that it sees, and the shortest pause between two.
        pulse: Time,
        /// How long the direction has to stand before the first step.
        setup: Time,
        /// How long it has to stand after the last.
        hold: Time,
    },
    /// Four lines, one for each end of the two windings.
    FourWire {
        /// Which of them are on together.
        mode: PhaseMode,
    },
    /// Two PWM signals, one for the current of each winding.
    TwoWindings {
        /// Steps in a full step.
        microsteps: u32,
    },
}

/// Which lines of a four-wire drive are on together.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum PhaseMode {
    /// One at a time.
    Wave,
    /// Two at a time.
    Full,
    /// One and two in turn: half steps.
    Half,
}

impl PhaseMode {
    /// The word for it, as board files have it.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Wave => "wave",
            Self::Full => "full",
            Self::Half => "half",
        }
    }
}

impl StepDrive {
    /// The word for it, as board files have it.
    pub const fn word(self) -> &'static str {
        match self {
            Self::StepDirection { .. } => DriveWord::StepDirection.text(),
            Self::FourWire { .. } => DriveWord::FourWire.text(),
            Self::TwoWindings { .. } => DriveWord::TwoWindings.text(),
        }
    }

    /// Steps of the drive in a full step of the motor.
    pub const fn steps_in_full_step(self) -> u32 {
        match self {
            Self::StepDirection { microsteps, .. } | Self::TwoWindings { microsteps } => microsteps,
            Self::FourWire { mode: PhaseMode::Half } => 2,
            Self::FourWire { mode: PhaseMode::Wave | PhaseMode::Full } => 1,
        }
    }
}

/// How fast a stepper may go, in steps of its drive.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct StepRates {
    /// The rate that it takes at once.
    pub start: StepRate,
    /// The fastest rate.
    pub fastest: StepRate,
    /// How fast the rate grows.
    pub acceleration: StepAcceleration,
    /// How fast the acceleration grows, where it does not jump.
    pub jerk: Option<StepJerk>,
}

impl StepRates {
    /// The rates, if a move can be made with them.
    ///
    /// # Errors
    /// [`QuantityError::NotPositive`] for a rate of zero or less; [`Error::StartAboveFastest`].
    pub fn checked(self) -> Result<Self> {
        self.fastest.positive()?;
        self.acceleration.positive()?;
        self.jerk.map(StepJerk::positive).transpose()?;
        if self.start < StepRate::ZERO {
            let value = self.start.exact();
            return Err(QuantityError::NotPositive { quantity: "start rate", value }.into());
        }
        if self.start > self.fastest {
            return Err(Error::StartAboveFastest { start: self.start, fastest: self.fastest });
        }
        Ok(self)
    }
}

impl Stepper {
    /// The word for the kind, as board files have it.
    pub const WORD: &'static str = "stepper";

    /// Its keys in a board file.
    pub const KEYS: &'static [LoadKey] = &[
        LoadKey::whole("steps-per-turn", "full steps in a turn of the motor; or `step-angle`"),
        LoadKey::text("step-angle", "a full step, `1.8deg`"),
        LoadKey::text(
            "gear",
            "turns of the motor for a turn of what it moves, `32/11 * 26/9`; 1 where none is given",
        ),
        LoadKey::text("drive", "`step-direction`, `four-wire` or `two-windings`"),
        LoadKey::whole(
            "microsteps",
            "steps of the driver, or of two windings, in a full step; 1 where none is given",
        ),
        LoadKey::text("step-pulse", "the shortest pulse, and the shortest pause, that the driver sees"),
        LoadKey::text("direction-setup", "how long the direction stands before a step"),
        LoadKey::text("direction-hold", "how long the direction stands after a step"),
        LoadKey::text("mode", "of four wires: wave, full or half"),
        LoadKey::text(
            "start",
            "the rate that it takes at once, in steps of the drive; from rest where none is given",
        ),
        LoadKey::text("fastest", "the fastest rate"),
        LoadKey::text("acceleration", "how fast the rate grows, `10000steps/s2`"),
        LoadKey::text("jerk", "how fast the acceleration grows, for S-curves, `200000steps/s3`"),
        LoadKey::text("travel", "where it may be, `0deg..340deg`"),
        LoadKey::text("backlash", "what is lost when the direction changes"),
    ];

    /// Reads one; `None` where something that it needs is missing or wrong, which is reported then.
    pub fn read(values: &mut dyn KeyValues) -> Option<Self> {
        let keys = &mut Keys(values);
        let steps_per_turn = full_steps(keys);
        let gear = if keys.0.has("gear") { keys.take::<Gear>("gear") } else { Some(Gear(Rational::ONE)) };
        let drive = drive(keys);
        let start = keys.take("start").unwrap_or(StepRate::ZERO);
        let (fastest, acceleration) = (keys.positive("fastest"), keys.positive("acceleration"));
        let jerk = keys.take("jerk");
        let travel: Option<Range<Angle>> = keys.take("travel");
        let travel = travel.filter(|travel| {
            let rises = travel.low < travel.high;
            if !rises {
                keys.report("travel", format!("expected the lower end first, found {travel}"));
            }
            rises
        });
        let backlash: Option<Angle> = keys.take("backlash");
        let rates = StepRates { start, fastest: fastest?, acceleration: acceleration?, jerk };
        let rates = rates.checked().map_err(|error| keys.0.refuse("start", error)).ok()?;
        Some(Self { steps_per_turn: steps_per_turn?, gear: gear?.0, drive: drive?, rates, travel, backlash })
    }

    /// Steps of the drive for a turn of what the stepper moves: exact, whole or not.
    ///
    /// # Errors
    /// A number that does not fit.
    pub fn steps_in_turn(&self) -> Result<Rational> {
        let motor = self.steps_per_turn.times(self.drive.steps_in_full_step().into());
        motor.and_then(|steps| steps.times(self.gear)).or_overflow("steps in a turn")
    }

    /// The step that is nearest to an angle, counted from angle zero; halves go up.
    ///
    /// # Errors
    /// A number that does not fit.
    pub fn step_at(&self, angle: Angle) -> Result<i64> {
        let exact =
            self.steps_in_turn()?.times(angle.value()).and_then(|steps| steps.plus(Rational::new(1, 2)?));
        exact.and_then(|steps| i64::try_from(steps.floor()).ok()).or_overflow("number of steps")
    }

    /// What a step of the drive turns.
    ///
    /// # Errors
    /// A number that does not fit.
    pub fn step_angle(&self) -> Result<Angle> {
        Rational::ONE.over(self.steps_in_turn()?).or_overflow("angle of a step").map(Angle::new)
    }
}

fn full_steps(keys: &mut Keys<'_>) -> Option<Rational> {
    match (keys.0.has("steps-per-turn"), keys.0.has("step-angle")) {
        (true, true) => keys.report("step-angle", "give `steps-per-turn` or `step-angle`, not both"),
        (false, false) => keys.0.report(None, "`steps-per-turn` is missing, or `step-angle`".to_owned()),
        (true, false) => {
            let steps = keys.0.whole("steps-per-turn")?;
            if steps > 0 {
                return Some(steps.into());
            }
            keys.report("steps-per-turn", "expected at least one step in a turn, found 0");
        }
        (false, true) => {
            let angle: Angle = keys.positive("step-angle")?;
            return Rational::ONE.over(angle.value());
        }
    }
    None
}

/// What drives a stepper, as a word.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum DriveWord {
    StepDirection,
    FourWire,
    TwoWindings,
}

impl DriveWord {
    const ALL: [Self; 3] = [Self::StepDirection, Self::FourWire, Self::TwoWindings];

    const fn text(self) -> &'static str {
        match self {
            Self::StepDirection => "step-direction",
            Self::FourWire => "four-wire",
            Self::TwoWindings => "two-windings",
        }
    }

    /// The keys that not every drive has.
    const fn keys(self) -> &'static [&'static str] {
        match self {
            Self::StepDirection => &["microsteps", "step-pulse", "direction-setup", "direction-hold"],
            Self::FourWire => &["mode"],
            Self::TwoWindings => &["microsteps"],
        }
    }
}

fn drive(keys: &mut Keys<'_>) -> Option<StepDrive> {
    if !keys.0.has("drive") {
        keys.0.report(None, "`drive` is missing".to_owned());
    }
    let word = keys.word("drive", &DriveWord::ALL.map(|word| (word.text(), word)))?;
    for other in DriveWord::ALL {
        let foreign = other.keys().iter().filter(|key| !word.keys().contains(key));
        // Of two drives that have a key the first is named.
        let first = |key: &&&str| DriveWord::ALL.iter().find(|one| one.keys().contains(key)) == Some(&other);
        for key in foreign.filter(first) {
            if keys.0.has(key) {
                keys.0.report(Some(key), format!("is for `drive = \"{}\"`", other.text()));
            }
        }
    }
    match word {
        DriveWord::StepDirection => {
            let microsteps = microsteps(keys);
            let mut time = |key: &str| keys.take(key).unwrap_or(Time::ZERO);
            let (setup, hold) = (time("direction-setup"), time("direction-hold"));
            let pulse = keys.positive("step-pulse");
            Some(StepDrive::StepDirection { microsteps: microsteps?, pulse: pulse?, setup, hold })
        }
        DriveWord::FourWire => {
            let modes = [PhaseMode::Wave, PhaseMode::Full, PhaseMode::Half].map(|mode| (mode.word(), mode));
            if !keys.0.has("mode") {
                keys.0.report(None, "`mode` is missing: wave, full or half".to_owned());
            }
            keys.word("mode", &modes).map(|mode| StepDrive::FourWire { mode })
        }
        DriveWord::TwoWindings => Some(StepDrive::TwoWindings { microsteps: microsteps(keys)? }),
    }
}

fn microsteps(keys: &mut Keys<'_>) -> Option<u32> {
    let microsteps = if keys.0.has("microsteps") { keys.0.whole("microsteps")? } else { 1 };
    let microsteps = u32::try_from(microsteps).ok().filter(|steps| (1..=MOST_MICROSTEPS).contains(steps));
    if microsteps.is_none() {
        keys.report("microsteps", format!("expected 1 to {MOST_MICROSTEPS} steps in a full step"));
    }
    microsteps
}

/// More microsteps than any driver makes.
const MOST_MICROSTEPS: u32 = 1024;

/// Turns for a turn, as fractions and their product: `32/11 * 26/9`, `64`, `63.68`.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Gear(pub Rational);

impl KeyText for Gear {
    fn of(text: &str) -> Result<Self> {
        let wrong = || Error::Gear { text: text.to_owned() };
        let mut product = Rational::ONE;
        for factor in text.split('*') {
            let (above, below) = factor.split_once('/').unwrap_or((factor, "1"));
            let [above, below] = [above, below].map(|number| decimal(number.trim()).ok_or_else(wrong));
            product = above?.over(below?).and_then(|factor| product.times(factor)).or_overflow("gear")?;
        }
        Ok(Self(product))
    }
}

/// A number greater than zero, as `63` or `63.68395`.
fn decimal(text: &str) -> Option<Rational> {
    let (whole, rest) = text.split_once('.').unwrap_or((text, ""));
    let digits = |text: &str| text.bytes().all(|byte| byte.is_ascii_digit());
    if whole.is_empty() || !digits(whole) || !digits(rest) {
        return None;
    }
    let scale = 10_i128.checked_pow(u32::try_from(rest.len()).ok()?)?;
    let number = format!("{whole}{rest}").parse().ok()?;
    Rational::new(number, scale).filter(|number| number.is_positive())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_gear_is_the_exact_product_of_its_fractions() {
        let gear = |text| Gear::of(text).map(|Gear(gear)| gear);
        assert_eq!(gear("32/9 * 22/11 * 26/9 * 31/10"), Ok(Rational::new(25_792, 405).unwrap()));
        assert_eq!((gear("64"), gear("0.5")), (Ok(Rational::whole(64)), Ok(Rational::new(1, 2).unwrap())));
        for wrong in ["0", "1/0", "-3", "", "3 x 4", "1/2/3", "1e3"] {
            assert_eq!(gear(wrong), Err(Error::Gear { text: wrong.to_owned() }), "{wrong}");
        }
    }

    #[test]
    fn half_steps_through_a_gear_of_64_are_25_600_a_turn() {
        let rates = StepRates {
            start: StepRate::ZERO,
            fastest: "1steps/s".parse().unwrap(),
            acceleration: "1steps/s2".parse().unwrap(),
            jerk: None,
        };
        let stepper = Stepper {
            steps_per_turn: Rational::whole(200),
            gear: Rational::whole(64),
            drive: StepDrive::FourWire { mode: PhaseMode::Half },
            rates,
            travel: None,
            backlash: None,
        };
        assert_eq!(stepper.steps_in_turn(), Ok(Rational::whole(25_600)));
        assert_eq!(stepper.step_angle().unwrap().told(), "0.0140625 deg");
    }
}
