//! Reads a capture to its end, and measures it.

use kairotic_core::capture::Meters;
use kairotic_core::tach::{SpeedMeasurement, SpeedMeter};
use kairotic_formats::capture::Reader;

pub fn read(reader: Reader) {
    let signals = reader.header().signals.len();
    let mut meters = Meters::new(&vec![true; signals], &[(0, 1)], 3);
    let mut turnings = SpeedMeasurement::new(&vec![true; signals], &SpeedMeter::new(3, None, 2));
    let mut last = 0;
    let _ = reader.read(&vec![true; signals], &mut |batch| {
        for change in &batch {
            assert!(change.at >= last && (change.signal as usize) < signals);
            last = change.at;
        }
        meters.take(&batch);
        turnings.take(&batch);
        true
    });
    meters.finish();
    turnings.finish(last);
}
