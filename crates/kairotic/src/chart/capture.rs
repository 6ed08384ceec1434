//! A measured signal: its periods and edges over time, how they are spread, and how steady its frequency is.

use plotters::coord::Shift;
use plotters::drawing::DrawingArea;
use plotters::element::{Circle, Text};
use plotters::prelude::DrawingBackend;
use plotters::style::Color;

use super::panel::{Axis, Panel};
use super::style::{INK, LIMIT, MAIN, TITLE, text};
use super::{Drawing, PlotError, bounds, failed};

/// Pixels of what is drawn over time.
const ABOVE: u32 = 380;
/// What is planned is shown where it is no further off than so many widths of the bars.
const NEAR: f64 = 4.0;

/// A measured signal.
#[derive(Debug, Clone, PartialEq)]
pub struct CapturePlot {
    /// What it shows.
    pub title: String,
    /// Time, shortest and longest.
    pub periods: Band,
    /// Time, earliest and latest against the best line.
    pub errors: Band,
    /// How the periods are spread.
    pub period: Bins,
    /// How the pulses are spread.
    pub pulse: Bins,
    /// Span and deviation.
    pub allan: Vec<(f64, f64)>,
}

/// How something is spread.
#[derive(Debug, Clone, PartialEq)]
pub struct Bins {
    /// What it is, and in what.
    pub unit: String,
    /// From, to, how many.
    pub bins: Vec<(f64, f64, u64)>,
    /// What was planned.
    pub planned: Option<f64>,
    /// The least and the most that will do.
    pub limits: Option<(f64, f64)>,
}

/// Something over time.
#[derive(Debug, Clone, PartialEq)]
pub struct Band {
    /// What it is, and in what.
    pub unit: String,
    /// In what time is.
    pub time_unit: String,
    /// Time, least and most.
    pub points: Vec<(f64, f64, f64)>,
}

impl Drawing for CapturePlot {
    fn draw<B: DrawingBackend>(&self, ground: &DrawingArea<B, Shift>) -> Result<(), PlotError> {
        let ground = ground.margin(14, 0, 0, 0).titled(&self.title, text(TITLE)).map_err(failed)?;
        let (above, below) = ground.split_vertically(ABOVE);
        let over_time = above.split_evenly((1, 2));
        let spread = below.split_evenly((1, 3));
        let ([periods, errors], [period, pulse, allan]) = (over_time.as_slice(), spread.as_slice()) else {
            return Err(PlotError::Empty("there is no room"));
        };
        band(periods, &self.periods)?;
        band(errors, &self.errors)?;
        histogram(period, &self.period)?;
        histogram(pulse, &self.pulse)?;
        self.deviations(allan)
    }
}

/// What something was over time: from its least to its most at each point.
fn band<B: DrawingBackend>(ground: &DrawingArea<B, Shift>, band: &Band) -> Result<(), PlotError> {
    let empty = || PlotError::Empty("the signal has less than one period");
    let (left, right) = bounds(band.points.iter().map(|(time, ..)| *time)).ok_or_else(empty)?;
    let ends = band.points.iter().flat_map(|(_, least, most)| [*least, *most]);
    let (low, high) = bounds(ends).ok_or_else(empty)?;
    let time = format!("time, {}", band.time_unit);
    let panel = Panel::new(Axis::linear((left, right), &time), Axis::linear((low, high), &band.unit));
    panel.draw(ground)?.band(&band.points)
}

/// Bars, with what was planned and what will do where they are near enough to be seen beside them.
fn histogram<B: DrawingBackend>(ground: &DrawingArea<B, Shift>, spread: &Bins) -> Result<(), PlotError> {
    let empty = || PlotError::Empty("the signal has less than one period");
    let ends = || spread.bins.iter().flat_map(|(from, to, _)| [*from, *to]);
    let (least, longest) = bounds(ends()).ok_or_else(empty)?;
    let reach = (longest - least) * NEAR;
    let near = |value: &f64| (least - reach..longest + reach).contains(value);
    let planned = spread.planned.filter(near);
    let limits: Vec<f64> = spread.limits.iter().flat_map(|(low, high)| [*low, *high]).filter(near).collect();
    let (low, high) = bounds(ends().chain(planned).chain(limits.iter().copied())).ok_or_else(empty)?;
    let most = spread.bins.iter().map(|(.., count)| *count).max().unwrap_or(1) as f64 * 1.12;
    let panel = Panel::new(Axis::linear((low, high), &spread.unit), Axis::linear((0.0, most), "cycles"));
    let mut plane = panel.draw(ground)?;
    plane.bars(spread.bins.iter().map(|(from, to, count)| (*from, *to, *count as f64)))?;
    planned.into_iter().try_for_each(|at| plane.upright(at, INK, 3))?;
    limits.into_iter().try_for_each(|at| plane.upright(at, LIMIT, 3))
}

impl CapturePlot {
    fn deviations<B: DrawingBackend>(&self, ground: &DrawingArea<B, Shift>) -> Result<(), PlotError> {
        let told: Vec<(f64, f64)> =
            self.allan.iter().copied().filter(|(_, deviation)| *deviation > 0.0).collect();
        // Whole decades, so that each axis has its numbers.
        let range = |values: Vec<f64>| {
            let (low, high) = bounds(values.iter().map(|value| value.log10()))?;
            Some((10_f64.powf(low.floor()) * 0.999, 10_f64.powf(high.ceil()) * 1.001))
        };
        let spans = range(told.iter().map(|(span, _)| *span).collect());
        let deviations = range(told.iter().map(|(_, deviation)| *deviation).collect());
        let (Some((left, right)), Some((low, high))) = (spans, deviations) else {
            let words = "no Allan deviation: too few cycles, or none of them differs";
            let at = (96, 40);
            return ground.draw(&Text::new(words.to_owned(), at, text(17))).map_err(failed);
        };
        let power = |value: &f64| format!("{value:.0e}");
        let panel = Panel::new(
            Axis::logarithmic((left, right), "span, s", power),
            Axis::logarithmic((low, high), "Allan deviation", power),
        );
        let mut plane = panel.draw(ground)?;
        plane.line(told.iter().copied())?;
        let dots = told.iter().map(|point| Circle::new(*point, 4, MAIN.filled()));
        plane.chart.draw_series(dots).map_err(failed).map(|_| ())
    }
}
