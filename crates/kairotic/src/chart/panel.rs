//! A panel: two axes with their lines, numbers and words, and what is drawn between them. All pictures are made of these.

use std::ops::Range;

use plotters::chart::{ChartBuilder, ChartContext};
use plotters::coord::Shift;
use plotters::coord::combinators::IntoLogRange;
use plotters::coord::ranged1d::{AsRangedCoord, Ranged, ValueFormatter};
use plotters::drawing::DrawingArea;
use plotters::element::{PathElement, Rectangle};
use plotters::prelude::{Cartesian2d, DrawingBackend};
use plotters::series::LineSeries;
use plotters::style::{Color, RGBColor};

use super::style::{FAINT, GROUND, INK, MAIN, TITLE, number, text};
use super::{PlotError, failed};

/// A panel so wide in pixels has room for larger letters.
const WIDE: u32 = 1000;
/// Pixels from one number to the next, along and up.
const APART: (u32, u32) = (115, 70);

/// An axis: from where to where, what it shows, and how its numbers are written.
pub(super) struct Axis<'p, R> {
    range: R,
    ends: (f64, f64),
    words: &'p str,
    number: Box<dyn Fn(&f64) -> String + 'p>,
    shown: bool,
    /// How much is seen of the lines between the numbers.
    between: f64,
}

impl<'p> Axis<'p, Range<f64>> {
    /// An axis of even steps.
    pub(super) fn linear((low, high): (f64, f64), words: &'p str) -> Self {
        let number = Box::new(move |value: &f64| number(*value, high - low));
        Self { range: low..high, ends: (low, high), words, number, shown: true, between: 0.0 }
    }

    /// One that only says where things are.
    pub(super) fn hidden(high: f64) -> Self {
        Self { shown: false, ..Self::linear((0.0, high), "") }
    }

    /// An axis of decades.
    pub(super) fn logarithmic(
        (low, high): (f64, f64),
        words: &'p str,
        number: impl Fn(&f64) -> String + 'p,
    ) -> Axis<'p, impl AsRangedCoord<Value = f64, CoordDescType: ValueFormatter<f64>>> {
        let range = (low..high).log_scale();
        Axis { range, ends: (low, high), words, number: Box::new(number), shown: true, between: 0.4 }
    }
}

/// A panel that is to be drawn.
pub(super) struct Panel<'p, X, Y> {
    title: Option<&'p str>,
    left: Option<u32>,
    right: Option<u32>,
    bottom: Option<u32>,
    x: Axis<'p, X>,
    y: Axis<'p, Y>,
}

impl<'p, X, Y> Panel<'p, X, Y>
where
    X: AsRangedCoord<Value = f64, CoordDescType: ValueFormatter<f64>>,
    Y: AsRangedCoord<Value = f64, CoordDescType: ValueFormatter<f64>>,
{
    /// A panel with these axes.
    pub(super) fn new(x: Axis<'p, X>, y: Axis<'p, Y>) -> Self {
        Self { title: None, left: None, right: None, bottom: None, x, y }
    }

    /// With a title above.
    pub(super) fn title(self, title: &'p str) -> Self {
        Self { title: Some(title), ..self }
    }

    /// With so many pixels left of the upward axis.
    pub(super) fn left(self, left: u32) -> Self {
        Self { left: Some(left), ..self }
    }

    /// With so many pixels right of everything.
    pub(super) fn right(self, right: u32) -> Self {
        Self { right: Some(right), ..self }
    }

    /// With so many pixels below the level axis.
    pub(super) fn bottom(self, bottom: u32) -> Self {
        Self { bottom: Some(bottom), ..self }
    }

    /// Draws the axes.
    pub(super) fn draw<'a, B: DrawingBackend>(
        self,
        ground: &'a DrawingArea<B, Shift>,
    ) -> Result<Plane<'a, B, X::CoordDescType, Y::CoordDescType>, PlotError> {
        let (width, height) = ground.dim_in_pixel();
        let wide = width >= WIDE;
        let labels = |pixels: u32, apart: u32| (pixels / apart).clamp(6, 11) as usize;
        let mut builder = ChartBuilder::on(ground);
        if let Some(title) = self.title {
            builder.caption(title, text(TITLE));
        }
        builder
            .margin(if wide { 20 } else { 14 })
            .margin_right(self.right.unwrap_or(if wide { 48 } else { 34 }))
            .x_label_area_size(self.bottom.unwrap_or(if wide { 62 } else { 52 }))
            .y_label_area_size(self.left.unwrap_or(if wide { 110 } else { 96 }));
        let mut chart = builder.build_cartesian_2d(self.x.range, self.y.range).map_err(failed)?;
        let mut mesh = chart.configure_mesh();
        if !self.y.shown {
            mesh.disable_y_mesh().disable_y_axis();
        }
        mesh.x_desc(self.x.words)
            .y_desc(self.y.words)
            .axis_desc_style(text(if wide { 20 } else { 17 }))
            .label_style(text(if wide { 18 } else { 15 }))
            .bold_line_style(FAINT)
            .light_line_style(FAINT.mix(self.x.between.max(self.y.between)))
            .axis_style(INK)
            .x_labels(labels(width, APART.0))
            .y_labels(labels(height, APART.1))
            .x_label_formatter(&self.x.number)
            .y_label_formatter(&self.y.number)
            .draw()
            .map_err(failed)?;
        Ok(Plane { chart, x: self.x.ends, y: self.y.ends })
    }
}

/// What lies between two axes.
pub(super) struct Plane<'a, B: DrawingBackend, X: Ranged<ValueType = f64>, Y: Ranged<ValueType = f64>> {
    /// For what is drawn once only.
    pub(super) chart: ChartContext<'a, B, Cartesian2d<X, Y>>,
    x: (f64, f64),
    y: (f64, f64),
}

impl<B: DrawingBackend, X: Ranged<ValueType = f64>, Y: Ranged<ValueType = f64>> Plane<'_, B, X, Y> {
    /// A line from the bottom to the top.
    pub(super) fn upright(&mut self, at: f64, colour: RGBColor, width: u32) -> Result<(), PlotError> {
        self.piece([(at, self.y.0), (at, self.y.1)], colour, width)
    }

    /// A line from the left to the right.
    pub(super) fn level(&mut self, at: f64, colour: RGBColor, width: u32) -> Result<(), PlotError> {
        self.piece([(self.x.0, at), (self.x.1, at)], colour, width)
    }

    fn piece(&mut self, ends: [(f64, f64); 2], colour: RGBColor, width: u32) -> Result<(), PlotError> {
        let line = PathElement::new(ends, colour.stroke_width(width));
        self.chart.draw_series([line]).map(|_| ()).map_err(failed)
    }

    /// A line through points.
    pub(super) fn line(&mut self, points: impl IntoIterator<Item = (f64, f64)>) -> Result<(), PlotError> {
        self.chart.draw_series(LineSeries::new(points, MAIN.stroke_width(2))).map(|_| ()).map_err(failed)
    }

    /// What lies between two corners, in a colour.
    pub(super) fn field(&mut self, corners: [(f64, f64); 2], colour: impl Color) -> Result<(), PlotError> {
        self.chart.draw_series([Rectangle::new(corners, colour.filled())]).map(|_| ()).map_err(failed)
    }

    /// Something that lies between a least and a most at each point, with a line through the middles.
    pub(super) fn band(&mut self, points: &[(f64, f64, f64)]) -> Result<(), PlotError> {
        self.line(points.iter().map(|(x, least, most)| (*x, least.midpoint(*most))))?;
        let ends = points
            .iter()
            .map(|(x, least, most)| PathElement::new(vec![(*x, *least), (*x, *most)], MAIN.stroke_width(2)));
        self.chart.draw_series(ends).map(|_| ()).map_err(failed)
    }

    /// How many lie between two ends, each as a bar.
    pub(super) fn bars(&mut self, bins: impl IntoIterator<Item = (f64, f64, f64)>) -> Result<(), PlotError> {
        for (from, to, count) in bins {
            let corners = [(from, 0.0), (to, count)];
            self.field(corners, MAIN)?;
            let edge = Rectangle::new(corners, GROUND.stroke_width(1));
            self.chart.draw_series([edge]).map_err(failed)?;
        }
        Ok(())
    }
}
