//! `--plot` and `--force`: a picture of the result.

use std::path::{Path, PathBuf};

use clap::Args;

use super::typed::{Refusal, file};
use crate::fault::Result;
use crate::picture_file::PictureFile;

/// A picture of the result.
#[derive(Debug, Args)]
pub struct PlotOptions {
    /// Draw the result to an SVG or PNG file
    #[arg(long, value_name = "FILE", value_parser = picture, help_heading = "Output")]
    plot: Option<PathBuf>,
    /// Overwrite the picture if the file exists
    #[arg(long, requires = "plot", help_heading = "Output")]
    force: bool,
}

impl PlotOptions {
    /// Whether a picture is asked for.
    pub const fn is_given(&self) -> bool {
        self.plot.is_some()
    }

    /// The picture that is asked for. It may not take the place of the file that is read.
    ///
    /// # Errors
    /// A file that is there already or cannot be replaced.
    pub fn asked(&self, read: Option<&Path>) -> Result<Option<PictureFile>> {
        let asked = |path| PictureFile::of(path, self.force, read);
        self.plot.as_deref().map(asked).transpose()
    }
}

/// A picture's file name.
pub fn picture(text: &str) -> Result<PathBuf, Refusal> {
    file(text, &["svg", "png"], "--plot picture.svg or --plot picture.png")
}
