//! Contributions as bars from their lowest to their highest end, with what is allowed.

use plotters::chart::ChartBuilder;
use plotters::coord::Shift;
use plotters::drawing::DrawingArea;
use plotters::element::{PathElement, Rectangle, Text};
use plotters::prelude::DrawingBackend;
use plotters::style::Color;
use plotters::style::text_anchor::{HPos, Pos, VPos};

use super::style::{FAINT, INK, LIMIT, MAIN, SECOND, TITLE, note, number, text};
use super::{Figure, PlotError, bounds, failed};

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

impl Figure for Bars {
    fn draw<B: DrawingBackend>(&self, ground: &DrawingArea<B, Shift>) -> Result<(), PlotError> {
        let ends = self.rows.iter().flat_map(|(_, low, high, _)| [*low, *high]);
        let limits = self.limit.into_iter().flat_map(|limit| [-limit, limit]);
        let (low, high) =
            bounds(ends.chain(limits).chain([0.0])).ok_or(PlotError::Empty("there are no contributions"))?;
        let count = self.rows.len() as f64;
        let mut chart = ChartBuilder::on(ground)
            .caption(&self.title, text(TITLE))
            .margin(24)
            .margin_right(48)
            .x_label_area_size(64)
            .y_label_area_size(250)
            .build_cartesian_2d(low..high, 0.0..count)
            .map_err(failed)?;
        chart
            .configure_mesh()
            .disable_y_mesh()
            .disable_y_axis()
            .x_desc(&self.unit)
            .axis_desc_style(text(20))
            .label_style(text(18))
            .bold_line_style(FAINT)
            .light_line_style(FAINT.mix(0.0))
            .axis_style(INK)
            .x_label_formatter(&|value| number(*value, high - low))
            .draw()
            .map_err(failed)?;
        for limit in self.limit.into_iter().flat_map(|limit| [-limit, limit]) {
            let line = PathElement::new(vec![(limit, 0.0), (limit, count)], LIMIT.stroke_width(3));
            chart.draw_series([line]).map_err(failed)?;
        }
        let least = (high - low) * 0.002;
        for (place, (_, from, to, sum)) in self.rows.iter().enumerate() {
            let top = count - place as f64;
            // What is known is no stretch, but has to be seen.
            let (middle, half) = (f64::midpoint(*from, *to), ((to - from) / 2.0).max(least / 2.0));
            let (from, to) = (middle - half, middle + half);
            let colour = if *sum { SECOND } else { MAIN };
            let bar = Rectangle::new([(from, top - 0.22), (to, top - 0.78)], colour.filled());
            chart.draw_series([bar]).map_err(failed)?;
        }
        let zero = PathElement::new(vec![(0.0, 0.0), (0.0, count)], INK.stroke_width(1));
        chart.draw_series([zero]).map_err(failed)?;
        // The names stand left of the plane, beside their bars.
        let plane = chart.plotting_area();
        for (place, (name, ..)) in self.rows.iter().enumerate() {
            let at = plane.map_coordinate(&(low, count - place as f64 - 0.5));
            let style = text(20).pos(Pos::new(HPos::Right, VPos::Center));
            let label = Text::new(name.clone(), (at.0 - 14, at.1), style);
            ground.draw(&label).map_err(failed)?;
        }
        if self.limit.is_some() { note(ground, "between the lines: what is allowed") } else { Ok(()) }
    }
}
