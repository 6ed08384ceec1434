//! The arguments of `demo`.

use std::path::PathBuf;

use clap::Args;

/// A short tour: the signals of an observatory dome's controller.
#[derive(Debug, Args)]
pub struct DemoArgs {
    /// Save the files of the tour in this folder instead, to try things on
    #[arg(long, value_name = "FOLDER")]
    pub save: Option<PathBuf>,
}
