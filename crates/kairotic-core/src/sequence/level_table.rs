//! A track as firmware has it: its compare values and their periods, in the integers that take the least room.

use serde::Serialize;

use super::track::{LevelHold, LevelTrack};
use crate::motion::{Coding, TableWord};

/// The tables of a track.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct LevelTable {
    /// The compare values of one pass, or of all where the passes differ; less than zero where the load turns the other
    /// way.
    pub values: Vec<i64>,
    /// What holds one of them.
    pub value: TableWord,
    /// How the table holds them.
    pub coding: Coding,
    /// The periods of each.
    pub periods: Vec<u64>,
    /// How those are held; not at all where all are the same.
    pub count: Option<TableWord>,
    /// How often the tables are gone through.
    pub passes: u32,
    /// Bytes of both.
    pub bytes: u64,
}

impl LevelTrack {
    /// The tables of the track that take the least room. A compare value that stays longer than the integers of its table
    /// can say stands in it more than once.
    pub fn table(&self) -> LevelTable {
        let (holds, passes) = match self.each_pass {
            Some(each) => (self.holds.get(..each).unwrap_or_default(), self.passes),
            None => (self.holds.as_slice(), 1),
        };
        let mut best = LevelTable::of(holds, passes, 64);
        for bits in [32, 16, 8] {
            let entries = holds.iter().map(|hold| hold.periods >> bits).sum::<u64>();
            // Where most of the entries would only go on, wider integers take less.
            if entries <= holds.len() as u64 {
                let table = LevelTable::of(holds, passes, bits);
                best = if table.bytes < best.bytes { table } else { best };
            }
        }
        best
    }
}

impl LevelTable {
    /// The tables with so many bits for a number of periods.
    fn of(holds: &[LevelHold], passes: u32, bits: u32) -> Self {
        let most = u64::MAX >> (64 - bits.clamp(1, 64));
        let (mut values, mut periods) = (Vec::new(), Vec::new());
        for hold in holds {
            let mut left = hold.periods;
            while left > 0 {
                let part = left.min(most);
                values.push(signed(hold));
                periods.push(part);
                left -= part;
            }
        }
        let value = word(values.iter().map(|value| i128::from(*value)));
        let apart = word(differences(&values));
        let (plain_bytes, apart_bytes) =
            (value.bytes(values.len()), apart.bytes(values.len().saturating_sub(1)));
        // The first value is a number in the code.
        let (coding, bytes) = match apart_bytes + value.bytes(1) < plain_bytes {
            true => (Coding::Differences(apart), apart_bytes),
            false => (Coding::Plain(value), plain_bytes),
        };
        let differ = periods.iter().any(|one| Some(one) != periods.first());
        let count = differ.then(|| word(periods.iter().map(|periods| i128::from(*periods))));
        let bytes = bytes + count.map_or(0, |count| count.bytes(periods.len()));
        Self { values, value, coding, periods, count, passes, bytes }
    }

    /// How far each compare value is from the one before.
    pub fn differences(&self) -> impl Iterator<Item = i128> + '_ {
        differences(&self.values)
    }
}

/// The compare value, less than zero where the load turns the other way.
fn signed(hold: &LevelHold) -> i64 {
    let value = i64::try_from(hold.compare).unwrap_or(i64::MAX);
    if hold.backward { -value } else { value }
}

fn differences(values: &[i64]) -> impl Iterator<Item = i128> + '_ {
    values.iter().zip(values.iter().skip(1)).map(|(one, next)| i128::from(*next) - i128::from(*one))
}

fn word(values: impl Iterator<Item = i128>) -> TableWord {
    let (low, high) = values.fold((0, 0), |(low, high), value| (value.min(low), value.max(high)));
    TableWord::of(low, high)
}
