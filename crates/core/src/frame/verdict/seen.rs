//! What the parts of a verdict are made of: the frame, and the model of what it was taken through.

use crate::frame::measured::{ChannelMeasured, FrameMeasured};
use crate::night::ephemeris::Place;
use crate::path::sensor::GainPoint;
use crate::scenario::document::Scenario;
use crate::signal::channel::ChannelModel;
use crate::signal::model::ExposureModel;

/// What a frame was taken through, and where.
#[derive(Clone, Copy, Debug)]
pub struct Taken<'a> {
    /// Index of the contender.
    pub contender: usize,
    /// Index of the exposure.
    pub exposure: usize,
    /// The site, where it is known.
    pub site: Option<Place>,
    /// When it began, seconds since 1970 UTC, where that is known.
    pub start_s: Option<f64>,
    /// The frame.
    pub frame: &'a FrameMeasured,
}

/// What the parts of a verdict are made of.
pub(super) struct Seen<'a> {
    pub scenario: &'a Scenario,
    pub taken: &'a Taken<'a>,
    pub model: &'a ExposureModel,
    pub deciding: &'a ChannelModel,
    pub own: &'a ChannelMeasured,
    pub gain: GainPoint,
    pub e_per_adu: f64,
    pub offset_adu: f64,
    pub sub_s: f64,
}

impl Seen<'_> {
    /// Background over the offset in a pixel, e-.
    pub fn background_e(&self) -> f64 {
        (self.own.level_adu - self.offset_adu) * self.e_per_adu
    }

    /// Scatter of single pixels, e-.
    pub fn scatter_e(&self) -> f64 {
        self.own.sigma_adu * self.e_per_adu
    }
}
