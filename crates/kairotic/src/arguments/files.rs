//! `--save`, `--plot` and `--force`: what a result is written to.

use std::path::PathBuf;

use clap::Args;

use super::plot::picture;
use super::typed::{Refusal, file};
use crate::atomic_file::Destination;
use crate::fault::Result;
use crate::picture_file::PictureFile;

/// The files of a result.
#[derive(Debug, Args)]
pub struct FileOptions {
    /// Write the result to a .csv file
    #[arg(long, value_name = "FILE", help_heading = "Output", value_parser = table)]
    pub save: Option<PathBuf>,
    /// Draw the result to an SVG or PNG file
    #[arg(long, value_name = "FILE", help_heading = "Output", value_parser = picture)]
    plot: Option<PathBuf>,
    /// Overwrite files that exist
    #[arg(long, help_heading = "Output")]
    force: bool,
}

impl FileOptions {
    /// The file and the picture that are asked for.
    ///
    /// # Errors
    /// A file that is there already or cannot be replaced.
    pub fn asked(&self) -> Result<(Option<Destination>, Option<PictureFile>)> {
        let save = self.save.as_deref().map(|path| Destination::of("save", path, self.force, None));
        let plot = self.plot.as_deref().map(|path| PictureFile::of(path, self.force, None));
        Ok((save.transpose()?, plot.transpose()?))
    }

    /// The file's name, as it is told.
    pub fn saved(&self) -> Option<String> {
        self.save.as_ref().map(|path| path.display().to_string())
    }
}

fn table(text: &str) -> Result<PathBuf, Refusal> {
    file(text, &["csv"], "--save table.csv")
}
