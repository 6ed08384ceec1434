//! What lies around a timer, as far as a command was asked about it.

use kairotic_core::clock::Arrangement;
use kairotic_core::program::ClockRoute;
use serde::Serialize;

use super::location::PinChoice;

/// How the clock gets to a timer, and where its signal comes out.
#[derive(Debug, Default, Serialize)]
pub struct Routing {
    /// How the clock gets there, where the clock tree says so.
    #[serde(rename = "clock_route", skip_serializing_if = "Option::is_none")]
    pub way: Option<Arrangement>,
    /// What was said of the clocks.
    #[serde(skip)]
    pub said: ClockRoute,
    /// The pin, where one was named.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pin: Option<PinChoice>,
    /// The places that were compared, where several were meant; the leading one first.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub compared: Vec<Compared>,
}

/// One of several places for a signal.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Compared {
    /// The timer, and the channel where one is meant.
    pub place: String,
    /// Its rank by the rule of `survey`.
    pub score: f64,
}
