//! A frequency that a timer cannot make, with what would make it.

use std::fmt;

use crate::quantity::{Frequency, Rational, show};

/// The frequencies that one mode can make from a source clock.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ModeReach {
    /// The mode's name.
    pub mode: String,
    /// The lowest.
    pub lowest: Frequency,
    /// The highest.
    pub highest: Frequency,
}

/// A frequency that a timer cannot make, with what would make it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Unreachable {
    /// The timer.
    pub timer: String,
    /// What was wanted.
    pub wanted: Frequency,
    /// The source clock.
    pub clock: Frequency,
    /// What each mode can do; the nearest to what was wanted first.
    pub reaches: Vec<ModeReach>,
    /// The smallest and the largest division that the timer has.
    pub divisions: (Rational, Rational),
    /// The division that a timer with this top would need.
    pub needed_division: Rational,
    /// The source clock at which the frequency comes within reach: at most this when it is too low, else at least.
    pub needed_clock: Frequency,
    /// Other timers of the part that reach it from the same clock, where they have been looked for.
    pub other_timers: Vec<String>,
}

impl Unreachable {
    fn is_too_low(&self) -> bool {
        self.reaches.first().is_some_and(|reach| self.wanted < reach.lowest)
    }

    /// What would reach the frequency, one way a line.
    pub fn hint(&self) -> String {
        let low = self.is_too_low();
        let (bound, clock) = if low { ("at most", "slower") } else { ("at least", "faster") };
        let mut ways =
            vec![format!("a {clock} clock: {bound} {} on this timer", self.needed_clock.rounded(6))];
        let (smallest, largest) = self.divisions;
        let needed = show::significant(self.needed_division.approx(), 4);
        ways.push(match low {
            true => {
                format!("a division by {needed} (this timer's end at {})", largest.mixed())
            }
            false => {
                format!("a division by {needed} (this timer's begin at {})", smallest.mixed())
            }
        });
        if !self.other_timers.is_empty() {
            ways.push(format!("on this part: {}", self.other_timers.join(", ")));
        }
        ways.join("\nor ")
    }
}

impl fmt::Display for Unreachable {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let low = self.is_too_low();
        write!(f, "{} cannot make {} from {}: its ", self.timer, self.wanted, self.clock)?;
        f.write_str(if low { "lowest is " } else { "highest is " })?;
        for (place, reach) in self.reaches.iter().enumerate() {
            let limit = if low { reach.lowest } else { reach.highest };
            f.write_str(if place == 0 { "" } else { ", " })?;
            write!(f, "{} ({})", limit.rounded(5), reach.mode)?;
        }
        Ok(())
    }
}
