//! How many boards lie where, with what is allowed.

use plotters::coord::Shift;
use plotters::drawing::DrawingArea;
use plotters::prelude::DrawingBackend;

use super::panel::{Axis, Panel};
use super::style::{LIMIT, note};
use super::{Drawing, PlotError, bounds};

/// A distribution.
#[derive(Debug, Clone, PartialEq)]
pub struct Histogram {
    /// What it shows.
    pub title: String,
    /// What is measured, and in what.
    pub unit: String,
    /// From, to, how many.
    pub bins: Vec<(f64, f64, u32)>,
    /// What is allowed either way.
    pub limit: Option<f64>,
    /// What is said of the limit.
    pub note: String,
}

impl Drawing for Histogram {
    fn draw<B: DrawingBackend>(&self, ground: &DrawingArea<B, Shift>) -> Result<(), PlotError> {
        let ends = self.bins.iter().flat_map(|(low, high, _)| [*low, *high]);
        let limits = self.limit.into_iter().flat_map(|limit| [-limit, limit]);
        let (low, high) = bounds(ends.chain(limits)).ok_or(PlotError::Empty("there are no boards"))?;
        let most = f64::from(self.bins.iter().map(|(.., count)| *count).max().unwrap_or(0)) * 1.12 + 1.0;
        let panel = Panel::new(Axis::linear((low, high), &self.unit), Axis::linear((0.0, most), "boards"));
        let mut plane = panel.title(&self.title).draw(ground)?;
        plane.bars(self.bins.iter().map(|(from, to, count)| (*from, *to, f64::from(*count))))?;
        for limit in self.limit.into_iter().flat_map(|limit| [-limit, limit]) {
            plane.upright(limit, LIMIT, 3)?;
        }
        note(ground, &self.note)
    }
}
