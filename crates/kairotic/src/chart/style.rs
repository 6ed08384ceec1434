//! What all pictures share: colours, sizes and the font.

use std::sync::OnceLock;

use plotters::coord::Shift;
use plotters::drawing::DrawingArea;
use plotters::element::Text;
use plotters::prelude::DrawingBackend;
use plotters::style::text_anchor::{HPos, Pos, VPos};
use plotters::style::{Color, FontStyle, IntoFont, RGBColor, TextStyle, register_font as register};

use super::{PlotError, failed};

pub(super) const GROUND: RGBColor = RGBColor(0xfb, 0xfa, 0xf6);
pub(super) const INK: RGBColor = RGBColor(0x22, 0x22, 0x1f);
pub(super) const FAINT: RGBColor = RGBColor(0xdd, 0xda, 0xd0);
pub(super) const MAIN: RGBColor = RGBColor(0x00, 0x72, 0xb2);
pub(super) const SECOND: RGBColor = RGBColor(0x6c, 0x6c, 0x66);
pub(super) const LIMIT: RGBColor = RGBColor(0xd5, 0x5e, 0x00);

/// Colours of lines that stand beside one another.
pub(super) const LINES: [RGBColor; 7] = [
    RGBColor(0x00, 0x72, 0xb2),
    RGBColor(0xd5, 0x5e, 0x00),
    RGBColor(0x00, 0x9e, 0x73),
    RGBColor(0xcc, 0x79, 0xa7),
    RGBColor(0xe6, 0x9f, 0x00),
    RGBColor(0x56, 0xb4, 0xe9),
    RGBColor(0x22, 0x22, 0x1f),
];

/// The family that the bundled font is known by; viewers of SVG take their own.
const FAMILY: &str = "sans-serif";
const FONT: &[u8] = include_bytes!("../../font/DejaVuSans-Latin.ttf");

/// Makes the bundled font known, once.
pub(super) fn register_font() -> Result<(), PlotError> {
    static REGISTERED: OnceLock<bool> = OnceLock::new();
    if *REGISTERED.get_or_init(|| register(FAMILY, FontStyle::Normal, FONT).is_ok()) {
        return Ok(());
    }
    Err(PlotError::Drawing("its font cannot be read".to_owned()))
}

/// Size of a title in pixels.
pub(super) const TITLE: u32 = 23;

/// Text of a size in pixels.
pub(super) fn text(size: u32) -> TextStyle<'static> {
    (FAMILY, size).into_font().color(&INK)
}

/// The same in a colour.
fn coloured(size: u32, colour: RGBColor) -> TextStyle<'static> {
    (FAMILY, size).into_font().color(&colour.to_rgba())
}

/// A remark in the colour of limits, in the lower right corner.
pub(super) fn note<B: DrawingBackend>(ground: &DrawingArea<B, Shift>, words: &str) -> Result<(), PlotError> {
    let (width, height) = ground.dim_in_pixel();
    let style = coloured(18, LIMIT).pos(Pos::new(HPos::Right, VPos::Bottom));
    let at = (width.cast_signed() - 48, height.cast_signed() - 26);
    ground.draw(&Text::new(words.to_owned(), at, style)).map_err(failed)
}

/// A number on an axis of a length: as few digits as tell neighbours apart.
pub(super) fn number(value: f64, length: f64) -> String {
    // What is left of zero after additions is zero.
    if value.abs() < length * 1e-9 {
        return "0".to_owned();
    }
    if value.abs() >= 1e7 || value.abs() < 1e-4 {
        return format!("{value:.2e}");
    }
    format!("{value:.6}").trim_end_matches('0').trim_end_matches('.').to_owned()
}
