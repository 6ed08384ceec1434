//! Changes of a signal without the pulses that are too short to be any.

use super::measurement::Events;
use crate::simulation::Logic;

/// Takes changes as they come, and hands each on when no glitch can take it back any more.
#[derive(Debug, Clone)]
pub(crate) struct Filter {
    /// A pulse that is shorter is none.
    glitch: u64,
    level: Logic,
    /// A change that a glitch may still take back.
    pending: Option<(u64, Logic)>,
    /// What was taken back.
    pub(crate) glitches: Events,
}

/// A change that stands.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Stood {
    /// When.
    pub(crate) at: u64,
    /// The level before it.
    pub(crate) was: Logic,
    /// The level from then on.
    pub(crate) level: Logic,
}

impl Filter {
    /// A filter that leaves pulses shorter than so many ticks out.
    pub(crate) fn new(glitch: u64) -> Self {
        Self { glitch, level: Logic::Unknown, pending: None, glitches: Events::default() }
    }

    /// The signal has a level from a tick on; ticks do not go back. What comes back is the change before, if it stands now.
    #[inline]
    pub(crate) fn change(&mut self, at: u64, level: Logic) -> Option<Stood> {
        let mut stood = None;
        if let Some((since, pending)) = self.pending {
            if level == pending {
                return None;
            }
            if level == self.level && at - since < self.glitch {
                self.glitches.add(since, at - since);
                self.pending = None;
                return None;
            }
            stood = Some(self.stand(since, pending));
        }
        self.pending = if level == self.level { None } else { Some((at, level)) };
        stood
    }

    /// The last change, when there are no more.
    pub(crate) fn finish(&mut self) -> Option<Stood> {
        let (at, level) = self.pending.take()?;
        Some(self.stand(at, level))
    }

    fn stand(&mut self, at: u64, level: Logic) -> Stood {
        Stood { at, was: std::mem::replace(&mut self.level, level), level }
    }
}
