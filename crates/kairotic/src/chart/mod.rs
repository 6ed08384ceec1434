//! Pictures of results, as SVG or PNG of 1280 by 800 pixels.
//!
//! The colours are told apart by those who do not see all of them (M. Okabe and K. Ito, 2008); the ground is light, so that
//! a picture can lie on a page of any colour. Text stays text in SVG.

mod bars;
mod capture;
mod histogram;
mod levels;
mod map;
mod motion;
mod panel;
mod speed;
mod steps;
mod style;
mod wave;

use plotters::backend::{BitMapBackend, SVGBackend};
use plotters::coord::Shift;
use plotters::drawing::{DrawingArea, DrawingAreaErrorKind, IntoDrawingArea};
use plotters::prelude::DrawingBackend;

pub use self::bars::Bars;
pub use self::capture::{Band, Bins, CapturePlot};
pub use self::histogram::Histogram;
pub use self::levels::{LevelLine, LevelPlot};
pub use self::map::MapPlot;
pub use self::motion::MovePlot;
pub use self::speed::SpeedPlot;
pub use self::steps::StepsPlot;
pub use self::wave::{CounterPlot, PinPlot, WavePlot};

/// Width and height in pixels.
const SIZE: (u32, u32) = (1280, 800);

/// What a picture is written as.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Picture {
    /// Scalable, with its text as text.
    Svg,
    /// Pixels.
    Png,
}

/// What can be wrong with a picture.
#[derive(Debug, thiserror::Error)]
pub enum PlotError {
    /// There is nothing that could be drawn.
    #[error("there is nothing to draw: {0}")]
    Empty(&'static str),
    /// The drawing failed.
    #[error("the picture cannot be drawn: {0}")]
    Drawing(String),
}

/// Something that can be drawn.
pub trait Drawing {
    /// Draws it on an empty ground.
    ///
    /// # Errors
    /// [`PlotError`].
    fn draw<B: DrawingBackend>(&self, ground: &DrawingArea<B, Shift>) -> Result<(), PlotError>;
}

/// A figure as the bytes of a file.
///
/// # Errors
/// [`PlotError`].
pub fn render(figure: &impl Drawing, picture: Picture) -> Result<Vec<u8>, PlotError> {
    style::register_font()?;
    match picture {
        Picture::Svg => {
            let mut text = String::new();
            {
                let ground = SVGBackend::with_string(&mut text, SIZE).into_drawing_area();
                finish(figure, &ground)?;
            }
            Ok(text.into_bytes())
        }
        Picture::Png => {
            let mut pixels = vec![0; SIZE.0 as usize * SIZE.1 as usize * 3];
            {
                let ground = BitMapBackend::with_buffer(&mut pixels, SIZE).into_drawing_area();
                finish(figure, &ground)?;
            }
            encode(&pixels)
        }
    }
}

fn finish<B: DrawingBackend>(figure: &impl Drawing, ground: &DrawingArea<B, Shift>) -> Result<(), PlotError> {
    ground.fill(&style::GROUND).map_err(failed)?;
    figure.draw(ground)?;
    ground.present().map_err(failed)
}

fn encode(pixels: &[u8]) -> Result<Vec<u8>, PlotError> {
    let mut bytes = Vec::new();
    let mut encoder = png::Encoder::new(&mut bytes, SIZE.0, SIZE.1);
    encoder.set_color(png::ColorType::Rgb);
    encoder.set_depth(png::BitDepth::Eight);
    let drawing = |error: png::EncodingError| PlotError::Drawing(error.to_string());
    encoder.write_header().and_then(|mut writer| writer.write_image_data(pixels)).map_err(drawing)?;
    Ok(bytes)
}

fn failed<E: std::error::Error + Send + Sync>(error: DrawingAreaErrorKind<E>) -> PlotError {
    PlotError::Drawing(error.to_string())
}

/// Least and most of some numbers with a margin around; `None` for no numbers.
fn bounds(values: impl Iterator<Item = f64>) -> Option<(f64, f64)> {
    let (mut low, mut high) = (f64::INFINITY, f64::NEG_INFINITY);
    for value in values.filter(|value| value.is_finite()) {
        (low, high) = (low.min(value), high.max(value));
    }
    if low > high {
        return None;
    }
    let margin = if low == high { (low.abs() * 0.1).max(1e-3) } else { (high - low) * 0.06 };
    Some((low - margin, high + margin))
}
