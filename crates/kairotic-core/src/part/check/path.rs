//! The way through a family file to a value.

use std::fmt;

/// The way through the file to a value.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Path(pub Vec<Step>);

/// One step of a [`Path`].
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Step {
    /// Into a table by key.
    Key(String),
    /// Into an array by position.
    Index(usize),
}

impl Path {
    /// This path and one key more.
    pub fn key(&self, key: impl Into<String>) -> Self {
        self.with(Step::Key(key.into()))
    }

    /// This path and one position more.
    pub fn index(&self, index: usize) -> Self {
        self.with(Step::Index(index))
    }

    fn with(&self, step: Step) -> Self {
        let mut steps = self.0.clone();
        steps.push(step);
        Self(steps)
    }
}

impl fmt::Display for Path {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        for (place, step) in self.0.iter().enumerate() {
            match step {
                Step::Key(key) if place == 0 => f.write_str(key)?,
                Step::Key(key) => write!(f, ".{key}")?,
                Step::Index(index) => write!(f, "[{index}]")?,
            }
        }
        Ok(())
    }
}
