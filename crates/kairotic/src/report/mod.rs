//! What each command shows of its result, in every format.

mod board;
pub mod budget;
pub mod calibration;
pub mod check;
pub mod checked_family;
pub mod clock;
pub mod decode;
pub mod derive;
pub mod emit;
mod floats;
pub mod followed;
pub mod found_timers;
pub mod level_move;
pub mod measure;
pub mod measured;
pub mod moves;
mod parts;
mod pins;
pub mod population;
mod program;
mod requirements;
pub mod scale;
pub mod sequence;
mod setting;
pub mod survey;
pub mod tach;
mod time_base;
pub mod timed_move;
mod timer;
pub mod wave;
pub mod why;
mod words;

pub use self::parts::{PartList, PartPage, TimerPage};
pub use self::pins::PinPage;
