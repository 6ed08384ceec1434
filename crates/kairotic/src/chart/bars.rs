//! Contributions as bars from their lowest to their highest end, with what is allowed.

use plotters::coord::Shift;
use plotters::drawing::DrawingArea;
use plotters::element::Text;
use plotters::prelude::DrawingBackend;
use plotters::style::text_anchor::{HPos, Pos, VPos};

use super::panel::{Axis, Panel};
use super::style::{INK, LIMIT, MAIN, SECOND, note, text};
use super::{Drawing, PlotError, bounds, failed};

/// Bars under one another.
#[derive(Debug, Clone, PartialEq)]
pub struct Bars {
    /// What it shows.
    pub title: String,
    /// What the bars are measured in.
    pub unit: String,
    /// Name, lowest and highest end; whether it is a sum.
    pub rows: Vec<(String, f64, f64, bool)>,
    /// What is allowed either way.
    pub limit: Option<f64>,
}

impl Drawing for Bars {
    fn draw<B: DrawingBackend>(&self, ground: &DrawingArea<B, Shift>) -> Result<(), PlotError> {
        let ends = self.rows.iter().flat_map(|(_, low, high, _)| [*low, *high]);
        let limits = self.limit.into_iter().flat_map(|limit| [-limit, limit]);
        let (low, high) =
            bounds(ends.chain(limits).chain([0.0])).ok_or(PlotError::Empty("there are no contributions"))?;
        let count = self.rows.len() as f64;
        let panel = Panel::new(Axis::linear((low, high), &self.unit), Axis::hidden(count));
        let mut plane = panel.title(&self.title).left(250).draw(ground)?;
        for limit in self.limit.into_iter().flat_map(|limit| [-limit, limit]) {
            plane.upright(limit, LIMIT, 3)?;
        }
        let least = (high - low) * 0.002;
        for (place, (_, from, to, sum)) in self.rows.iter().enumerate() {
            let top = count - place as f64;
            // What is known is no stretch, but has to be seen.
            let (middle, half) = (f64::midpoint(*from, *to), ((to - from) / 2.0).max(least / 2.0));
            let (from, to) = (middle - half, middle + half);
            let colour = if *sum { SECOND } else { MAIN };
            plane.field([(from, top - 0.22), (to, top - 0.78)], colour)?;
        }
        plane.upright(0.0, INK, 1)?;
        // The names stand left of the plane, beside their bars.
        let area = plane.chart.plotting_area();
        for (place, (name, ..)) in self.rows.iter().enumerate() {
            let at = area.map_coordinate(&(low, count - place as f64 - 0.5));
            let style = text(20).pos(Pos::new(HPos::Right, VPos::Center));
            let label = Text::new(name.clone(), (at.0 - 14, at.1), style);
            ground.draw(&label).map_err(failed)?;
        }
        if self.limit.is_some() { note(ground, "between the lines: what is allowed") } else { Ok(()) }
    }
}
