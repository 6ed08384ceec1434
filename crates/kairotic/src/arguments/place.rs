//! Where: `PART/TIMER` or `PART/TIMER/CHANNEL`.

use crate::fault::{Fault, Result};

/// A timer of a part, and perhaps one of its channels.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Place {
    /// The part.
    pub part: String,
    /// The timer.
    pub timer: String,
    /// The channel's label.
    pub channel: Option<String>,
}

impl Place {
    /// Reads `PART/TIMER[/CHANNEL]`; capitals do not matter.
    ///
    /// # Errors
    /// [`Fault::Usage`] for any other shape.
    pub fn read(text: &str) -> Result<Self> {
        let lower = text.to_lowercase();
        let steps: Vec<&str> = lower.split('/').collect();
        let (part, timer, channel) = match steps.as_slice() {
            [part, timer] => (part, timer, None),
            [part, timer, channel] => (part, timer, Some((*channel).to_owned())),
            _ => return Err(wrong(text)),
        };
        if steps.iter().any(|step| step.is_empty()) {
            return Err(wrong(text));
        }
        Ok(Self { part: (*part).to_owned(), timer: (*timer).to_owned(), channel })
    }
}

fn wrong(text: &str) -> Fault {
    Fault::Usage {
        message: format!("--on: expected PART/TIMER or PART/TIMER/CHANNEL, found `{text}`"),
        hint: "for example --on stm32f411/tim3 or --on stm32f411/tim3/1; `kairotic parts` lists the parts"
            .to_owned(),
    }
}
