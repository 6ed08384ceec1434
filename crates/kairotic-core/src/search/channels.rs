//! Which modes can carry the wanted signals, and on which channels.

use crate::error::{Error, NoModeReason, Result};
use crate::part::{Channel, CompareLaw, Mode, Timer};
use crate::setting::write::can_invert;
use crate::target::{Ask, Level, Target};

/// A mode by its position in the timer's list, with the channels that the signals go to.
pub(crate) type ModeChannels<'t> = (usize, &'t Mode, Vec<&'t Channel>);

/// The modes that can carry the wanted signals at all, each with the channels they go to.
pub(crate) fn fitting_modes<'t>(
    timer: &'t Timer,
    target: &Target,
    dither: bool,
) -> Result<Vec<ModeChannels<'t>>> {
    let named = target.asks.iter().filter_map(|ask| ask.channel.as_ref());
    for label in named.clone().chain(&target.channel) {
        timer.channel(label)?;
    }
    if let Some(twice) = named.clone().find(|label| named.clone().filter(|other| other == label).count() > 1)
    {
        return Err(Error::ChannelTwice { label: twice.clone() });
    }
    let asked: Vec<(usize, &Mode)> = timer
        .block
        .modes
        .iter()
        .enumerate()
        .filter(|(_, mode)| {
            let named = target.mode.as_ref();
            named.is_none_or(|name| *name == mode.name || *name == mode.alignment.word())
                && (mode.dither.is_some() == dither)
        })
        .collect();
    if let (Some(name), true) = (&target.mode, asked.is_empty()) {
        timer.mode(name)?;
    }
    if asked.is_empty() {
        return Err(no_mode(timer, NoModeReason::NoDither));
    }
    if asks_start(target) && asked.iter().all(|(_, mode)| mode.start.is_none()) {
        return Err(no_mode(timer, NoModeReason::NoStartOffset));
    }
    let asked: Vec<_> =
        asked.into_iter().filter(|(_, mode)| mode.start.is_some() || !asks_start(target)).collect();
    let square = target.is_square()?;
    let waves: Vec<_> =
        asked.into_iter().filter(|(_, mode)| square || mode.compare != CompareLaw::Toggle).collect();
    if waves.is_empty() {
        return Err(no_mode(timer, NoModeReason::SquareOnly));
    }
    let level_fits: Vec<_> = waves
        .iter()
        .filter(|(_, mode)| target.level == Level::High || can_invert(timer, mode))
        .copied()
        .collect();
    if let (true, Some((_, mode))) = (level_fits.is_empty(), waves.first()) {
        return Err(Error::NoInversion { timer: timer.path(), mode: mode.name.clone() });
    }
    let mut fitting: Vec<ModeChannels<'t>> = Vec::new();
    let mut most_free = 0;
    for (index, mode) in level_fits {
        // Without a signal, modes that differ only in what the outputs do write the same registers.
        let same = |(_, other, _): &ModeChannels<'_>| {
            (&other.period, &other.top, &other.setup) == (&mode.period, &mode.top, &mode.setup)
        };
        if target.asks.is_empty() && fitting.iter().any(same) {
            continue;
        }
        let free: Vec<&Channel> = timer.free_channels(mode).collect();
        most_free = most_free.max(free.len());
        if let Some(channels) = assign(&free, &target.asks, target.channel.as_deref()) {
            fitting.push((index, mode, channels));
        }
    }
    if fitting.is_empty() {
        let mut moving: Vec<String> = Vec::new();
        for mode in timer.block.modes.iter().filter(|mode| mode.start.is_some()) {
            moving.extend(timer.free_channels(mode).map(|channel| channel.label.clone()));
        }
        if asks_start(target) && moving.len() < timer.block.channels.len() {
            moving.dedup();
            return Err(no_mode(timer, NoModeReason::NoStartThere { channels: moving }));
        }
        if target.asks.len() > most_free {
            let asked = target.asks.len();
            return Err(Error::TooFewChannels { timer: timer.path(), asked, free: most_free });
        }
        return Err(no_mode(timer, NoModeReason::ChannelsTaken));
    }
    Ok(fitting)
}

/// Whether a pulse is wanted away from the period's start.
fn asks_start(target: &Target) -> bool {
    target.asks.iter().any(|ask| ask.start.is_some())
}

/// No mode will do.
pub(crate) fn no_mode(timer: &Timer, reason: NoModeReason) -> Error {
    Error::NoMode { timer: timer.path(), reason: Box::new(reason) }
}

/// The channel of each signal: named ones as named, the others in order; `None` where they do not fit.
fn assign<'t>(free: &[&'t Channel], asks: &[Ask], first: Option<&str>) -> Option<Vec<&'t Channel>> {
    let is_named = |channel: &Channel| asks.iter().any(|ask| ask.channel.as_ref() == Some(&channel.label));
    let mut unnamed = free
        .iter()
        .copied()
        .filter(|channel| !is_named(channel) && first.is_none_or(|label| channel.label == label));
    if asks.is_empty() {
        return match first {
            Some(_) => unnamed.next().map(|_| Vec::new()),
            None => Some(Vec::new()),
        };
    }
    asks.iter()
        .map(|ask| match &ask.channel {
            Some(label) => free.iter().copied().find(|channel| channel.label == *label),
            None => unnamed.next(),
        })
        .collect()
}

/// The channel whose compare register a span is counted in.
pub(crate) fn span_channel<'t>(
    timer: &'t Timer,
    asked: Option<&str>,
    mode: &'t Mode,
    channels: &[&'t Channel],
) -> Result<&'t Channel> {
    if let Some(label) = asked {
        return timer.channel(label);
    }
    channels
        .first()
        .copied()
        .or_else(|| timer.free_channels(mode).next())
        .ok_or_else(|| no_mode(timer, NoModeReason::NoChannelForSpan))
}
