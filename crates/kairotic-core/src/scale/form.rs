//! The shapes that a map's arithmetic can have, what each makes of an input, and the largest number on the way.

use super::Map;

/// A shape of arithmetic. `x` is the input less the lowest input; what it makes is added to the first compare value, or
/// taken from it where the map falls.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Form {
    /// `x * whole + (((x >> before) * factor + add) >> shift)`.
    Shift {
        /// The whole part of the slope that is multiplied apart; nought where it is not.
        whole: u64,
        /// Bits of the input that are dropped first, where it has more than the compare values need.
        before: u32,
        /// The factor.
        factor: u64,
        /// What is added before the shift.
        add: u64,
        /// By how many bits.
        shift: u32,
    },
    /// `x * whole + (x * factor + add) / divisor`.
    Divide {
        /// As in a shift.
        whole: u64,
        /// The factor.
        factor: u64,
        /// What is added before the division.
        add: u64,
        /// The divisor.
        divisor: u64,
    },
    /// `x * whole + (x / divisor) * factor + ((x % divisor) * factor + add) / divisor`: nothing large is multiplied.
    Remainder {
        /// As in a shift.
        whole: u64,
        /// The factor.
        factor: u64,
        /// What is added before the division.
        add: u64,
        /// The divisor.
        divisor: u64,
    },
    /// A list of the compare values.
    Table(Vec<u64>),
}

impl Form {
    /// How far the compare value of an `x` is from the first.
    pub fn distance(&self, map: &Map, x: u64) -> u64 {
        let wide = |number: u64| u128::from(number);
        let made = match self {
            Self::Shift { whole, before, factor, add, shift } => {
                wide(x) * wide(*whole) + (((wide(x) >> before) * wide(*factor) + wide(*add)) >> shift)
            }
            Self::Divide { whole, factor, add, divisor } => {
                wide(x) * wide(*whole) + (wide(x) * wide(*factor) + wide(*add)) / wide(*divisor).max(1)
            }
            Self::Remainder { whole, factor, add, divisor } => {
                let divisor = wide(*divisor).max(1);
                let (times, rest) = (wide(x) / divisor, wide(x) % divisor);
                wide(x) * wide(*whole) + times * wide(*factor) + (rest * wide(*factor) + wide(*add)) / divisor
            }
            Self::Table(values) => {
                let value = usize::try_from(x).ok().and_then(|place| values.get(place)).copied();
                return value.unwrap_or(map.last).abs_diff(map.first);
            }
        };
        u64::try_from(made).unwrap_or(u64::MAX)
    }

    /// The compare value of an `x`.
    pub fn value(&self, map: &Map, x: u64) -> u64 {
        map.beyond(self.distance(map, x))
    }

    /// The largest number on the way from any input to its compare value, the compare value counted. Everything grows
    /// with `x`, but for a remainder, which is at most one less than its divisor.
    pub fn widest(&self, map: &Map) -> u128 {
        let wide = |number: u64| u128::from(number);
        if map.falls() && self.distance(map, map.run()) > map.first {
            // The last difference would go below nought: there is no such number.
            return u128::MAX;
        }
        let run = wide(map.run());
        let ends = wide(map.first)
            .max(wide(map.first) + if map.falls() { 0 } else { wide(self.distance(map, map.run())) });
        let inside = match self {
            Self::Shift { whole, before, factor, add, .. } => {
                (run * wide(*whole)).max((run >> before) * wide(*factor) + wide(*add))
            }
            Self::Divide { whole, factor, add, .. } => {
                (run * wide(*whole)).max(run * wide(*factor) + wide(*add))
            }
            Self::Remainder { whole, factor, add, divisor } => {
                let rest = run.min(wide(divisor.saturating_sub(1)));
                (run * wide(*whole)).max(rest * wide(*factor) + wide(*add))
            }
            Self::Table(_) => 0,
        };
        ends.max(inside).max(run).max(wide(self.distance(map, map.run())))
    }

    /// What it costs, in additions: a multiplication counts two, a division sixteen, where many cores have none.
    pub fn cost(&self) -> u32 {
        let split = |whole: u64| if whole == 0 { 0 } else { 3 };
        match self {
            Self::Table(_) => 1,
            Self::Shift { whole, before, .. } => 4 + split(*whole) + u32::from(*before > 0),
            Self::Divide { whole, .. } => 19 + split(*whole),
            Self::Remainder { whole, .. } => 40 + split(*whole),
        }
    }
}
