//! The shapes that a map's arithmetic can have, what each makes of an input, and the largest number on the way.

use serde::Serialize;

use super::Map;

/// A shape of arithmetic. `x` is the input less the lowest input; what it makes is added to the first compare value, or
/// taken from it where the map falls.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Form {
    /// `x * whole + (((x >> before) * factor + add) >> shift)`.
    Shift {
        /// The whole part of the slope that is multiplied apart; zero where it is not.
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
    /// `x * whole + (x >> low_bits) * step + (((x >> low_bits) * high_factor + (x & low) * low_factor + add) >> shift)`,
    /// where `low` are the lowest bits.
    Halves {
        /// As in a shift.
        whole: u64,
        /// How many bits the low half has.
        low_bits: u32,
        /// The whole part of what one more of the high half makes, multiplied apart; zero where it is not.
        step: u64,
        /// The factor of the high half.
        high_factor: u64,
        /// The factor of the low half.
        low_factor: u64,
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
    /// How far the compare value of an `x` is from the base.
    pub fn distance(&self, map: &Map, x: u64) -> u64 {
        let wide = |number: u64| u128::from(number);
        let made = match self {
            Self::Shift { whole, shift, .. } => wide(x) * wide(*whole) + (self.product(x) >> shift),
            Self::Halves { whole, low_bits, step, shift, .. } => {
                let apart = wide(x) * wide(*whole) + (wide(x) >> low_bits) * wide(*step);
                apart + (self.product(x) >> shift)
            }
            Self::Divide { whole, divisor, .. } => {
                wide(x) * wide(*whole) + self.product(x) / wide(*divisor).max(1)
            }
            Self::Remainder { whole, factor, divisor, .. } => {
                let divisor = wide(*divisor).max(1);
                wide(x) * wide(*whole) + wide(x) / divisor * wide(*factor) + self.product(x) / divisor
            }
            Self::Table(values) => {
                let value = usize::try_from(x).ok().and_then(|place| values.get(place)).copied();
                return value.unwrap_or(map.base()).abs_diff(map.base());
            }
        };
        u64::try_from(made).unwrap_or(u64::MAX)
    }

    /// What is shifted or divided.
    fn product(&self, x: u64) -> u128 {
        let wide = |number: u64| u128::from(number);
        match self {
            Self::Shift { before, factor, add, .. } => (wide(x) >> before) * wide(*factor) + wide(*add),
            Self::Halves { low_bits, high_factor, low_factor, add, .. } => {
                let (high, low) = (wide(x) >> low_bits, wide(x) & ((1 << low_bits) - 1));
                high * wide(*high_factor) + low * wide(*low_factor) + wide(*add)
            }
            Self::Divide { factor, add, .. } => wide(x) * wide(*factor) + wide(*add),
            Self::Remainder { factor, add, divisor, .. } => {
                wide(x) % wide(*divisor).max(1) * wide(*factor) + wide(*add)
            }
            Self::Table(_) => 0,
        }
    }

    /// The compare value of an `x`.
    pub fn value(&self, map: &Map, x: u64) -> u64 {
        map.beyond(self.distance(map, x))
    }

    /// The largest number on the way from any input to its compare value, both counted; as large as there is where a
    /// difference would go less than zero.
    pub fn widest(&self, map: &Map) -> u128 {
        let run = map.run();
        let farthest = self.distance(map, run);
        if map.falls() && farthest > map.base() {
            return u128::MAX;
        }
        let highest = if map.falls() { map.base() } else { map.base().saturating_add(farthest) };
        // Everything grows with the input, but for what comes round: that is largest just before it does.
        let before_round = match self {
            Self::Halves { low_bits, .. } => (run >> low_bits << low_bits).checked_sub(1),
            Self::Remainder { divisor, .. } => divisor.checked_sub(1).filter(|rest| *rest < run),
            _ => None,
        };
        let product = before_round.map_or(0, |x| self.product(x)).max(self.product(run));
        product.max(u128::from(highest.max(farthest).max(run)))
    }

    /// What it costs, in additions: a multiplication counts two, a division sixteen, where many cores have none.
    pub fn cost(&self) -> u32 {
        let apart = |whole: u64| if whole == 0 { 0 } else { 3 };
        match self {
            Self::Table(_) => 1,
            Self::Shift { whole, before, .. } => 4 + apart(*whole) + u32::from(*before > 0),
            Self::Halves { whole, step, .. } => 9 + apart(*whole) + apart(*step),
            Self::Divide { whole, .. } => 19 + apart(*whole),
            Self::Remainder { whole, .. } => 40 + apart(*whole),
        }
    }
}
