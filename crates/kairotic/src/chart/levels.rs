//! Levels over time: as they are wanted, and as they are made.

use plotters::coord::Shift;
use plotters::drawing::DrawingArea;
use plotters::prelude::DrawingBackend;
use plotters::series::LineSeries;
use plotters::style::Color;

use super::panel::{Axis, Panel};
use super::style::LIMIT;
use super::{Drawing, PlotError, bounds, failed};

/// Levels of several signals, under one another.
#[derive(Debug, Clone, PartialEq)]
pub struct LevelPlot {
    /// What it shows.
    pub title: String,
    /// How long it takes, in seconds.
    pub length: f64,
    /// The signals.
    pub lines: Vec<LevelLine>,
}

/// The level of a signal.
#[derive(Debug, Clone, PartialEq)]
pub struct LevelLine {
    /// Its name and unit.
    pub words: String,
    /// Time and level as they are wanted, with straight lines between.
    pub wanted: Vec<(f64, f64)>,
    /// Time and level as they are made, corner by corner.
    pub made: Vec<(f64, f64)>,
}

/// Pixels for the title, and for what stands below the last axis.
const TITLE_ROOM: u32 = 40;
const AXIS_ROOM: u32 = 34;

impl Drawing for LevelPlot {
    fn draw<B: DrawingBackend>(&self, ground: &DrawingArea<B, Shift>) -> Result<(), PlotError> {
        let height = ground.dim_in_pixel().1;
        let rows = u32::try_from(self.lines.len()).unwrap_or(u32::MAX).max(1);
        let each = height.saturating_sub(TITLE_ROOM + AXIS_ROOM) / rows;
        let mut rest = ground.clone();
        for (index, line) in (1..).zip(&self.lines) {
            let (is_first, is_last) = (index == 1, index == rows);
            let room = each + if is_first { TITLE_ROOM } else { 0 } + if is_last { AXIS_ROOM } else { 0 };
            let (area, below) = rest.split_vertically(room);
            rest = below;
            let levels = line.wanted.iter().chain(&line.made).map(|point| point.1);
            let (low, high) = bounds(levels).ok_or(PlotError::Empty("a signal has no levels"))?;
            // One level is no reason for an axis of thousandths.
            let around = if high - low < 1.0 { 1.0 } else { (high - low) * 0.08 };
            let words = if is_last { "time, s" } else { "" };
            let y = Axis::linear((low - around, high + around), &line.words);
            let mut panel = Panel::new(Axis::linear((0.0, self.length), words), y);
            if is_first {
                panel = panel.title(&self.title);
            }
            if !is_last {
                panel = panel.bottom(28);
            }
            let mut plane = panel.draw(&area)?;
            let wanted = LineSeries::new(line.wanted.iter().copied(), LIMIT.mix(0.5).stroke_width(5));
            plane.chart.draw_series(wanted).map_err(failed)?;
            plane.line(line.made.iter().copied())?;
        }
        Ok(())
    }
}
