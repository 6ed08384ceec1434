//! A waveform: its pins under one another on one axis of time, with the counter behind each.

use plotters::coord::Shift;
use plotters::coord::types::RangedCoordf64;
use plotters::drawing::DrawingArea;
use plotters::element::{PathElement, Polygon, Rectangle, Text};
use plotters::prelude::DrawingBackend;
use plotters::style::text_anchor::{HPos, Pos, VPos};
use plotters::style::{Color, RGBColor, TextStyle};

use super::panel::{Axis, Panel, Plane};
use super::style::{INK, LIMIT, MAIN, SECOND, text};
use super::{Drawing, PlotError, failed};

/// A waveform.
#[derive(Debug, Clone, PartialEq)]
pub struct WavePlot {
    /// What it shows.
    pub title: String,
    /// In what time is.
    pub time_unit: String,
    /// The end of the axis of time.
    pub end: f64,
    /// The pins, first at the top.
    pub pins: Vec<PinPlot>,
}

/// One pin.
#[derive(Debug, Clone, PartialEq)]
pub struct PinPlot {
    /// Its name.
    pub name: String,
    /// Where it comes from.
    pub timer: String,
    /// When it becomes high or low, in order.
    pub edges: Vec<(f64, bool)>,
    /// Whether there are more edges than could be drawn.
    pub dense: bool,
    /// What its period is, from when to when.
    pub period: Option<(f64, f64, String)>,
    /// What its high time is, from when to when.
    pub high: Option<(f64, f64, String)>,
    /// The counter behind it.
    pub counter: Option<CounterPlot>,
}

/// The counter behind a pin.
#[derive(Debug, Clone, PartialEq)]
pub struct CounterPlot {
    /// Where it stands over time.
    pub points: Vec<(f64, f64)>,
    /// Its top, and what it is called.
    pub top: (f64, String),
    /// What the pin changes at, and what that is called.
    pub marks: Vec<(f64, String)>,
}

/// Heights in rows: a pin's level, the counter above it, what is free below.
const LEVEL: f64 = 1.0;
const COUNTER: f64 = 1.9;
const FREE: f64 = 0.85;
/// Pixels for the names at the left, and at least for those of registers at the right.
const LEFT: u32 = 190;
const RIGHT: usize = 40;
/// What is shorter than so many pixels has its words beside it.
const NARROW: i32 = 110;
/// Pixels from one line of words to the next, and of a letter at most.
const LINE: i32 = 17;
const LETTER: usize = 10;
/// Pixels of an arrow's head.
const HEAD: i32 = 7;

/// What a drawing on the ground needs.
struct Canvas<'c, 'a, B: DrawingBackend> {
    ground: &'c DrawingArea<B, Shift>,
    plane: &'c Plane<'a, B, RangedCoordf64, RangedCoordf64>,
}

impl<B: DrawingBackend> Canvas<'_, '_, B> {
    fn at(&self, time: f64, height: f64) -> (i32, i32) {
        self.plane.chart.backend_coord(&(time, height))
    }

    /// A broken line, piece by piece: as one, many corners would not be drawn well.
    fn line(&self, points: &[(f64, f64)], colour: RGBColor, width: u32) -> Result<(), PlotError> {
        let points: Vec<(i32, i32)> = points.iter().map(|(time, height)| self.at(*time, *height)).collect();
        for pair in points.windows(2) {
            let [from, to] = pair else { continue };
            // What is straight is a bar, with its corners closed.
            let half = (width / 2).cast_signed();
            let piece = if half > 0 && (from.0 == to.0 || from.1 == to.1) {
                let (low, high) =
                    ((from.0.min(to.0), from.1.min(to.1)), (from.0.max(to.0), from.1.max(to.1)));
                let corners = [(low.0 - half, low.1 - half), (high.0 + half, high.1 + half)];
                self.ground.draw(&Rectangle::new(corners, colour.filled()))
            } else {
                self.ground.draw(&PathElement::new(vec![*from, *to], colour.stroke_width(width)))
            };
            piece.map_err(failed)?;
        }
        Ok(())
    }

    fn words(&self, words: &str, at: (i32, i32), style: TextStyle<'_>, pos: Pos) -> Result<(), PlotError> {
        self.ground.draw(&Text::new(words.to_owned(), at, style.pos(pos))).map_err(failed)
    }

    /// A length of time with arrows at its ends and words in its middle, or beside it where there is no room.
    fn length(&self, (from, to, words): &(f64, f64, String), height: f64) -> Result<(), PlotError> {
        let (left, right) = (self.at(*from, height), self.at(*to, height));
        self.ground.draw(&PathElement::new(vec![left, right], INK.stroke_width(1))).map_err(failed)?;
        let room = right.0 - left.0 >= 2 * HEAD;
        for (tip, way) in [(left, 1), (right, -1)].into_iter().filter(|_| room) {
            let head = vec![tip, (tip.0 + HEAD * way, tip.1 - 3), (tip.0 + HEAD * way, tip.1 + 3)];
            self.ground.draw(&Polygon::new(head, INK.filled())).map_err(failed)?;
        }
        let style = text(15);
        if right.0 - left.0 >= NARROW {
            let at = (left.0.midpoint(right.0), left.1 - 3);
            return self.words(words, at, style, Pos::new(HPos::Center, VPos::Bottom));
        }
        let at = (right.0 + 8, right.1);
        self.words(words, at, style, Pos::new(HPos::Left, VPos::Center))
    }
}

impl Drawing for WavePlot {
    fn draw<B: DrawingBackend>(&self, ground: &DrawingArea<B, Shift>) -> Result<(), PlotError> {
        let heights = self.pins.iter().map(|pin| {
            let counter = if pin.counter.is_some() { COUNTER + FREE / 2.0 } else { 0.0 };
            counter + LEVEL + FREE
        });
        let heights: Vec<f64> = heights.collect();
        let all: f64 = heights.iter().sum();
        if self.pins.is_empty() || self.end <= 0.0 {
            return Err(PlotError::Empty("there are no pins"));
        }
        let time = format!("time, {}", self.time_unit);
        let panel = Panel::new(Axis::linear((0.0, self.end), &time), Axis::hidden(all));
        let right = u32::try_from(self.right()).unwrap_or(0);
        let plane = panel.title(&self.title).left(LEFT).right(right).draw(ground)?;
        let canvas = Canvas { ground, plane: &plane };
        let mut above = all;
        for (pin, height) in self.pins.iter().zip(heights) {
            let low = above - height + FREE / 2.0;
            self.pin(&canvas, pin, low)?;
            if let Some(counter) = &pin.counter {
                self.counter(&canvas, counter, low + LEVEL + FREE / 2.0)?;
            }
            above -= height;
        }
        Ok(())
    }
}

impl WavePlot {
    /// Pixels that the names of registers need.
    fn right(&self) -> usize {
        let counters = self.pins.iter().filter_map(|pin| pin.counter.as_ref());
        let names = counters.flat_map(|counter| [&counter.top].into_iter().chain(&counter.marks));
        names.map(|(_, name)| 16 + name.chars().count() * LETTER).fold(RIGHT, usize::max)
    }

    /// A pin's level, from a height on.
    fn pin<B: DrawingBackend>(
        &self,
        canvas: &Canvas<'_, '_, B>,
        pin: &PinPlot,
        low: f64,
    ) -> Result<(), PlotError> {
        let height = |high: bool| if high { low + LEVEL * 0.8 } else { low };
        let middle = canvas.at(0.0, low + LEVEL * 0.4);
        let names = Pos::new(HPos::Right, VPos::Bottom);
        canvas.words(&pin.name, (middle.0 - 14, middle.1), text(18), names)?;
        let below = Pos::new(HPos::Right, VPos::Top);
        canvas.words(&pin.timer, (middle.0 - 14, middle.1 + 2), text(13), below)?;
        if pin.dense {
            let corners = [canvas.at(0.0, height(true)), canvas.at(self.end, height(false))];
            canvas.ground.draw(&Rectangle::new(corners, MAIN.mix(0.35).filled())).map_err(failed)?;
            let words = "too many edges to draw: a shorter --for shows them";
            let at = canvas.at(self.end / 2.0, low + LEVEL * 0.4);
            return canvas.words(words, at, text(15), Pos::new(HPos::Center, VPos::Center));
        }
        let mut points: Vec<(f64, f64)> = Vec::new();
        for (time, high) in &pin.edges {
            let before = points.last().map_or(height(*high), |(_, height)| *height);
            points.extend([(*time, before), (*time, height(*high))]);
        }
        let last = points.last().map_or(low, |(_, height)| *height);
        points.push((self.end, last));
        canvas.line(&points, MAIN, 3)?;
        if let Some(period) = &pin.period {
            canvas.length(period, low + LEVEL * 0.98)?;
        }
        // Words beside a short pulse need the room up to the next.
        let room = |high: &&(f64, f64, String)| {
            let next = pin.period.as_ref().map_or(self.end, |(_, next, _)| *next);
            let needed = high.2.chars().count() * LETTER;
            let (from, to) = (canvas.at(high.1, 0.0).0, canvas.at(next, 0.0).0);
            canvas.at(high.1, 0.0).0 - canvas.at(high.0, 0.0).0 >= NARROW
                || usize::try_from(to - from).is_ok_and(|free| free > needed)
        };
        match pin.high.as_ref().filter(room) {
            Some(high) => canvas.length(high, low + LEVEL * 0.34),
            None => Ok(()),
        }
    }

    /// The counter behind a pin, from a height on.
    fn counter<B: DrawingBackend>(
        &self,
        canvas: &Canvas<'_, '_, B>,
        counter: &CounterPlot,
        low: f64,
    ) -> Result<(), PlotError> {
        let marks = counter.marks.iter().map(|(value, _)| *value);
        let most = marks.fold(counter.top.0.max(1.0), f64::max);
        let height = |value: f64| low + (COUNTER - 0.2) * value / most;
        let points: Vec<(f64, f64)> =
            counter.points.iter().map(|(time, value)| (*time, height(*value))).collect();
        canvas.line(&points, SECOND, 2)?;
        let beside = Pos::new(HPos::Left, VPos::Center);
        let lines =
            [(&counter.top, SECOND)].into_iter().chain(counter.marks.iter().map(|mark| (mark, LIMIT)));
        let mut lines: Vec<(&(f64, String), RGBColor)> = lines.collect();
        lines.sort_by(|((left, _), _), ((right, _), _)| right.total_cmp(left));
        let mut lowest = i32::MIN;
        for ((value, name), colour) in lines {
            canvas.line(&[(0.0, height(*value)), (self.end, height(*value))], colour, 2)?;
            let (right, y) = canvas.at(self.end, height(*value));
            // Names of lines that lie close stand under one another.
            lowest = y.max(lowest.saturating_add(LINE));
            canvas.words(name, (right + 8, lowest), text(15).color(&colour), beside)?;
        }
        let (left, y) = canvas.at(0.0, low + COUNTER / 2.0);
        canvas.words("counter", (left - 14, y), text(13), Pos::new(HPos::Right, VPos::Center))
    }
}
