//! A picture on its way to a file.

use std::io::Write;
use std::path::Path;

use crate::atomic_file::Destination;
use crate::chart::{Drawing, Picture, render};
use crate::fault::Fault;

/// A picture that is asked for: what it is written as, and where.
#[derive(Debug, Clone)]
pub struct PictureFile {
    picture: Picture,
    destination: Destination,
}

impl PictureFile {
    /// The picture that goes to a file, looked at before all the work that it takes. A name that does not end in `.svg` is
    /// one of pixels.
    ///
    /// # Errors
    /// As [`Destination::of`].
    pub fn of(path: &Path, force: bool, read: Option<&Path>) -> Result<Self, Fault> {
        let scalable = path.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("svg"));
        let picture = if scalable { Picture::Svg } else { Picture::Png };
        Ok(Self { picture, destination: Destination::of("plot", path, force, read)? })
    }

    /// Draws a figure to the file, whole or not at all.
    ///
    /// # Errors
    /// [`Fault::Plot`], and [`Fault::Save`] for a place that cannot be written.
    pub fn save(self, figure: &impl Drawing) -> Result<(), Fault> {
        let bytes = render(figure, self.picture)?;
        let mut file = self.destination.clone().begin()?;
        file.write_all(&bytes).map_err(|error| self.destination.fault(error))?;
        file.finish()
    }
}
