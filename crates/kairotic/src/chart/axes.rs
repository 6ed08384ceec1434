//! A panel with two linear axes, as several pictures have it.

use plotters::chart::{ChartBuilder, ChartContext};
use plotters::coord::Shift;
use plotters::coord::ranged1d::AsRangedCoord;
use plotters::coord::types::RangedCoordf64;
use plotters::drawing::DrawingArea;
use plotters::prelude::{Cartesian2d, DrawingBackend};
use plotters::style::Color;

use super::style::{FAINT, INK, number, text};
use super::{PlotError, failed};

/// A chart of two axes.
pub(super) type Chart<'a, B, X, Y> = ChartContext<
    'a,
    B,
    Cartesian2d<<X as AsRangedCoord>::CoordDescType, <Y as AsRangedCoord>::CoordDescType>,
>;

/// A panel with its axes, and nothing in it yet.
pub(super) fn panel<'a, B: DrawingBackend, X, Y>(
    ground: &'a DrawingArea<B, Shift>,
    x: X,
    y: Y,
) -> Result<Chart<'a, B, X, Y>, PlotError>
where
    X: AsRangedCoord,
    Y: AsRangedCoord,
{
    ChartBuilder::on(ground)
        .margin(14)
        .margin_right(34)
        .x_label_area_size(52)
        .y_label_area_size(96)
        .build_cartesian_2d(x, y)
        .map_err(failed)
}

/// Draws the lines and numbers of a panel's axes, which are so wide and so high.
pub(super) fn mesh<B: DrawingBackend>(
    chart: &mut ChartContext<'_, B, Cartesian2d<RangedCoordf64, RangedCoordf64>>,
    (x, y): (&str, &str),
    (wide, high): (f64, f64),
) -> Result<(), PlotError> {
    let x_number = |value: &f64| number(*value, wide);
    let y_number = |value: &f64| number(*value, high);
    let mut mesh = chart.configure_mesh();
    mesh.x_desc(x).y_desc(y).axis_desc_style(text(17)).label_style(text(15));
    mesh.bold_line_style(FAINT).light_line_style(FAINT.mix(0.0)).axis_style(INK);
    mesh.x_labels(6).y_labels(6).x_label_formatter(&x_number).y_label_formatter(&y_number);
    mesh.draw().map_err(failed)
}
