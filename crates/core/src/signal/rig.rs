//! One rig under one scene, asked about any filter: the common ground of the scenario's own
//! exposures, of ranking filters and of sweeping bands. Only here does a light path's model
//! integrate spectra.

use crate::light::lines::{PerQuantity, Quantity};
use crate::path::filter::response::{BROAD_NM, FilterResponse};
use crate::path::filter::weights::FilterInCone;
use crate::path::rates::{Rates, lamp_parts, rates};
use crate::path::scene::Scene;
use crate::path::sensor::Channel;
use crate::path::sky::parts::SkyParts;
use crate::path::stages::{Stages, stages};
use crate::scenario::document::Scenario;
use crate::scenario::exposure::Filter;
use crate::scenario::rig::{Contender, Optics};
use crate::signal::channel::{ChannelModel, recorded};
use crate::signal::instrument::Instrument;

/// A contender's rig with its sensor's responses laid out on the wavelength grid.
pub struct Rig<'a> {
    scenario: &'a Scenario,
    scene: &'a Scene,
    contender: &'a Contender,
    channels: Vec<(Channel<'a>, Vec<f64>)>,
    /// What turns its rates into noise and clock time.
    pub instrument: Instrument,
}

/// What a filter gives on a rig.
#[derive(Clone, Debug, PartialEq)]
pub struct FilterRates {
    /// The channels behind it.
    pub channels: Vec<ChannelModel>,
    /// Integral of the transmission, nm.
    pub equivalent_width_nm: f64,
}

impl FilterRates {
    /// Whether it is wide enough for stars, galaxies and dust in their own light.
    pub fn is_broad(&self) -> bool {
        self.equivalent_width_nm > BROAD_NM
    }

    /// Rate of a quantity summed over the pixels of all colours, e-/s per pixel of the sensor.
    pub fn signal(&self, quantity: Quantity) -> f64 {
        self.channels.iter().map(|c| c.pixel_share * c.nominal().of(quantity)).sum()
    }

    /// Rate of the sky summed over the pixels of all colours, e-/s per pixel of the sensor.
    pub fn sky(&self) -> f64 {
        self.channels.iter().map(|c| c.pixel_share * c.nominal().background()).sum()
    }
}

impl<'a> Rig<'a> {
    /// The rig of a contender.
    pub fn new(scenario: &'a Scenario, scene: &'a Scene, contender: &'a Contender) -> Self {
        let channels = contender.sensor.channels().into_iter().map(|c| {
            let response = c.response_on_grid();
            (c, response)
        });
        Self {
            scenario,
            scene,
            contender,
            channels: channels.collect(),
            instrument: Instrument::new(scenario, contender),
        }
    }

    /// Whether it has a colour filter array.
    pub fn is_colour(&self) -> bool {
        self.contender.sensor.cfa.is_some()
    }

    /// The contender that it is of.
    pub fn contender(&self) -> &'a Contender {
        self.contender
    }

    /// The sky that it is under.
    pub fn sky(&self) -> &'a SkyParts {
        &self.scene.sky
    }

    /// A filter (or none) in the cone of `cone`, its centre off by `offset_nm`.
    pub fn response(
        &self,
        filter: Option<&Filter>,
        cone: &Optics,
        offset_nm: f64,
    ) -> FilterResponse {
        FilterResponse::new(&FilterInCone::new(filter, cone, offset_nm), &self.scene.sky)
    }

    /// The rates of each channel behind a filter.
    ///
    /// Area, scale and throughput are those of the rig: a response in another cone changes the
    /// angles of the light alone.
    pub fn channel_rates<'s>(
        &'s self,
        filter: &'s FilterResponse,
    ) -> impl Iterator<Item = Rates> + 's {
        self.channels
            .iter()
            .map(|(c, response)| rates(self.scene, self.contender, filter, c, response))
    }

    /// The channels behind a filter whose every copy is alike.
    pub fn channels_behind(&self, filter: &FilterResponse) -> Vec<ChannelModel> {
        let one = |((c, response), r): (&(Channel, Vec<f64>), Rates)| ChannelModel {
            name: c.name,
            pixel_share: c.pixel_share,
            pixels: c.pixel_share * self.instrument.square_px,
            lamp_parts: lamp_parts(self.scene, filter, c, response),
            copies: vec![r],
            records: recorded(&r, filter),
        };
        self.channels.iter().zip(self.channel_rates(filter)).map(one).collect()
    }

    /// What a filter (or none) gives in the cone of `cone`, its centre off by `offset_nm`.
    pub fn through(&self, filter: Option<&Filter>, cone: &Optics, offset_nm: f64) -> FilterRates {
        let response = self.response(filter, cone, offset_nm);
        FilterRates {
            channels: self.channels_behind(&response),
            equivalent_width_nm: response.equivalent_width_nm(),
        }
    }

    /// What a filter gives in the rig's own cone.
    pub fn through_own_cone(&self, filter: Option<&Filter>) -> FilterRates {
        self.through(filter, &self.contender.optics, 0.0)
    }

    /// What each stage leaves of each quantity behind a filter.
    pub fn stages(&self, filter: &FilterResponse) -> PerQuantity<Option<Stages>> {
        PerQuantity(Quantity::JUDGED).map(|q| {
            stages(self.scene, &self.scenario.target, self.contender, filter, &self.channels, q)
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::common::{bands, colour_behind, tables};

    #[test]
    fn only_the_angles_of_the_light_follow_another_cone() {
        let filter = bands("Ha", 3.0, &[656.3]);
        let s = colour_behind(Some(filter.clone()), 60.0);
        let scene = Scene::new(&s, &tables());
        let rig = Rig::new(&s, &scene, &s.contenders[0]);
        let slow = Optics { focal_length_mm: 1500.0, ..s.contenders[0].optics.clone() };
        let (own, in_slow) =
            (rig.through_own_cone(Some(&filter)), rig.through(Some(&filter), &slow, 0.0));
        assert!(
            in_slow.signal(Quantity::Ha) > 1.3 * own.signal(Quantity::Ha),
            "f/10 passes the line that f/2.8 slides off"
        );
        let (open, open_slow) = (rig.through_own_cone(None), rig.through(None, &slow, 0.0));
        assert!(
            (open.sky() / open_slow.sky() - 1.0).abs() < 1e-12,
            "without a filter the cone does not matter"
        );
    }
}
