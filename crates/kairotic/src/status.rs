//! A line on the terminal that says how far a long run is.

use std::io::{self, IsTerminal, Write};
use std::time::{Duration, Instant};

/// A run that is over sooner says nothing.
const LONG: Duration = Duration::from_secs(1);
/// How often the line changes.
const OFTEN: Duration = Duration::from_millis(200);

/// The line; it goes away at the end. Where standard error is no terminal there is none.
pub struct Status {
    start: Instant,
    next: Option<Instant>,
    shown: bool,
}

impl Status {
    /// Nothing yet.
    pub fn new() -> Self {
        let start = Instant::now();
        Self { start, next: io::stderr().is_terminal().then_some(start + LONG), shown: false }
    }

    /// So much has been done.
    pub fn says(&mut self, words: impl FnOnce() -> String) {
        let now = Instant::now();
        if self.next.is_some_and(|next| now >= next) {
            let seconds = now.duration_since(self.start).as_secs();
            // Where the line cannot be written, the run goes on without it.
            let _ = write!(io::stderr(), "\r{}, {seconds} s", words());
            (self.next, self.shown) = (Some(now + OFTEN), true);
        }
    }
}

impl Drop for Status {
    fn drop(&mut self) {
        if self.shown {
            let _ = write!(io::stderr(), "\r{:60}\r", "");
        }
    }
}
