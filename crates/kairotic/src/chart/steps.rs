//! Steps against frequency for several timers: where a prescaler has to change, steps are lost.

use plotters::chart::SeriesLabelPosition;
use plotters::coord::Shift;
use plotters::drawing::DrawingArea;
use plotters::element::PathElement;
use plotters::prelude::DrawingBackend;
use plotters::series::LineSeries;
use plotters::style::Color;

use super::panel::{Axis, Panel};
use super::style::{FAINT, GROUND, INK, LINES, number, text};
use super::{Drawing, PlotError, failed};

/// Steps of several timers.
#[derive(Debug, Clone, PartialEq)]
pub struct StepsPlot {
    /// What it shows.
    pub title: String,
    /// Each timer with frequency in hertz and steps, rising in frequency.
    pub timers: Vec<(String, Vec<(f64, f64)>)>,
    /// The frequency that is asked for, in hertz.
    pub asked: f64,
}

impl Drawing for StepsPlot {
    fn draw<B: DrawingBackend>(&self, ground: &DrawingArea<B, Shift>) -> Result<(), PlotError> {
        let points = || self.timers.iter().flat_map(|(_, points)| points);
        let ends = |of: fn(&(f64, f64)) -> f64| {
            let (low, high) = points()
                .map(of)
                .fold((f64::INFINITY, 0.0_f64), |(low, high), value| (low.min(value), high.max(value)));
            (low <= high).then_some((low, high))
        };
        let nothing = || PlotError::Empty("no timer makes these frequencies");
        let (left, right) = ends(|point| point.0).filter(|(left, right)| left < right).ok_or_else(nothing)?;
        let (low, high) = ends(|point| point.1).ok_or_else(nothing)?;
        let panel = Panel::new(
            Axis::logarithmic((left, right), "frequency", |value| hertz(*value)),
            Axis::logarithmic((low * 0.8, high * 1.6), "steps", |value| format!("{value:.0}")),
        );
        let mut plane = panel.title(&self.title).draw(ground)?;
        plane.upright(self.asked, INK, 1)?;
        for ((name, points), colour) in self.timers.iter().zip(LINES.iter().cycle()) {
            plane
                .chart
                .draw_series(LineSeries::new(points.iter().copied(), colour.stroke_width(2)))
                .map_err(failed)?
                .label(name)
                .legend(move |(x, y)| PathElement::new(vec![(x, y), (x + 28, y)], colour.stroke_width(3)));
        }
        plane
            .chart
            .configure_series_labels()
            .position(SeriesLabelPosition::UpperRight)
            .background_style(GROUND.mix(0.9))
            .border_style(FAINT)
            .label_font(text(18))
            .legend_area_size(34)
            .draw()
            .map_err(failed)
    }
}

/// A frequency on the axis.
fn hertz(value: f64) -> String {
    let (scale, unit) = match value {
        value if value >= 1e6 => (1e6, "MHz"),
        value if value >= 1e3 => (1e3, "kHz"),
        _ => (1.0, "Hz"),
    };
    format!("{} {unit}", number((value / scale * 1e3).round() / 1e3, 1.0))
}
