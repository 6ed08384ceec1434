//! A family as the binary carries it: already validated, in a form that is read in microseconds.

use kairotic_core::part::Part;

/// A blob that this version cannot read or write.
#[derive(Debug, thiserror::Error)]
#[error("the embedded description of a part does not belong to this version: {0}")]
pub struct BlobError(#[from] postcard::Error);

/// The bytes for a part.
///
/// # Errors
/// [`BlobError`], which a part read by [`part_file::read`](crate::part_file::read) does not cause.
pub fn write(part: &Part) -> Result<Vec<u8>, BlobError> {
    Ok(postcard::to_stdvec(part)?)
}

/// The part in bytes that [`write()`] made.
///
/// # Errors
/// [`BlobError`] for any other bytes.
pub fn read(bytes: &[u8]) -> Result<Part, BlobError> {
    Ok(postcard::from_bytes(bytes)?)
}
