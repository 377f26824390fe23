//! What the model says of each minute of a night, beside what its frames hold.
//!
//! The campaign's light path is laid under the site's sky as it stands: natural light, lamps by
//! altitude and azimuth, the moon and twilight of that minute. The background is also worked out
//! without a lamp and with lamps as bright as the natural sky: it grows in proportion to their
//! light, so that one measured background says which brightness of the zenith makes it.

use serde::Serialize;
use utoipa::ToSchema;

use crate::campaign::document::Campaign;
use crate::light::lines::PerQuantity;
use crate::light::tables::Tables;
use crate::light::units::{linear_from_mag, mag_from_linear};
use crate::night::ephemeris::{Direction, Ephemeris, Place};
use crate::night::rate::{Moment, NightRig};
use crate::night::view::moment;
use crate::path::sky::air::airmass;
use crate::path::sky::part::SkyPart;
use crate::scenario::field_error::FieldError;
use crate::scenario::site::Site;
use crate::scenario::target::TargetKind;
use crate::signal::star::seeing_fwhm_arcsec;

/// The lowest that anything is predicted, degrees.
const LEAST_ALTITUDE_DEG: f64 = 10.0;

/// What the model says of one frame.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct Predicted {
    /// Altitude of the target in its middle, degrees.
    pub altitude_deg: f64,
    /// Azimuth of the target, degrees from north through east.
    pub azimuth_deg: f64,
    /// Background with dark current, e-/s in a pixel of the sensor.
    pub background_e_per_s: f64,
    /// Share of it that is moonlight and twilight, 0-1.
    pub passing_share: f64,
    /// The target's own mean light over that background; nothing of a target that leaves sky around it.
    pub target_share: f64,
    /// Full width at half maximum of a star by the site's seeing, arcsec.
    pub fwhm_arcsec: f64,
    /// Background without a lamp, and with lamps that double the natural zenith, e-/s in a pixel.
    #[serde(skip)]
    by_lamps_e_per_s: [f64; 2],
    /// Natural light at the zenith, linear.
    #[serde(skip)]
    natural: f64,
}

impl Predicted {
    /// What is said of stars alone, under a sky of nothing but nature.
    #[cfg(test)]
    pub(crate) fn of_stars(fwhm_arcsec: f64) -> Self {
        Self {
            altitude_deg: 60.0,
            azimuth_deg: 180.0,
            background_e_per_s: 1.0,
            passing_share: 0.0,
            target_share: 0.0,
            fwhm_arcsec,
            by_lamps_e_per_s: [1.0, 2.0],
            natural: 1e-9,
        }
    }

    /// Lamps of a zenith over its natural light.
    pub(crate) fn lamps_over_natural(&self, zenith_v_mag: f64) -> f64 {
        linear_from_mag(zenith_v_mag) / self.natural - 1.0
    }

    /// The zenith of so many lamps over its natural light, V mag/arcsec^2.
    pub(crate) fn zenith_of_lamps(&self, over: f64) -> Option<f64> {
        mag_from_linear(self.natural * (1.0 + over))
    }

    /// Brightness of the zenith, V mag/arcsec^2, that makes a background, e-/s in a pixel of the
    /// sensor; `None` of a background that is darker than any sky.
    pub fn zenith_v_mag(&self, background_e_per_s: f64) -> Option<f64> {
        let [bare, doubled] = self.by_lamps_e_per_s;
        mag_from_linear(self.natural * (1.0 + (background_e_per_s - bare) / (doubled - bare)))
    }
}

/// A light path of a campaign through a night at a site.
#[derive(Clone, Debug)]
pub struct NightModel {
    as_it_stands: NightRig,
    by_lamps: [NightRig; 2],
    natural: f64,
    channels: Vec<&'static str>,
    target: [f64; 3],
    ephemeris: Ephemeris,
    seeing_arcsec: f64,
    /// Whether the target fills the frame, so that its light is in every background.
    fills: bool,
}

impl NightModel {
    /// Light path `path` of a campaign at a site between two times, seconds since 1970 UTC; `None`
    /// where the campaign has no such path, or sun and moon cannot be placed.
    ///
    /// # Errors
    /// Fields of the campaign's scenario that are wrong.
    pub fn new(
        (campaign, path): (&Campaign, usize),
        site: &Site,
        [from_s, to_s]: [f64; 2],
        tables: &Tables,
    ) -> Result<Option<Self>, Vec<FieldError>> {
        let mut s = campaign.scenario.clone();
        let before = s.sky.clone();
        s.sky = site.sky("");
        (s.sky.natural_v_mag, s.sky.ambient_c) = (before.natural_v_mag, before.ambient_c);
        s.sky.target_altitude_deg = before.target_altitude_deg;
        let seeing_arcsec = site.seeing_fwhm_arcsec.unwrap_or(s.seeing_fwhm_arcsec);
        let natural = linear_from_mag(s.sky.natural_v_mag);
        let under = |zenith_v_mag: f64| {
            let mut s = s.clone();
            s.sky.zenith_v_mag = zenith_v_mag;
            Ok::<_, Vec<FieldError>>(NightRig::new(&s.check()?, path, tables))
        };
        let doubled = s.sky.natural_v_mag - 2.5 * 2f64.log10();
        let rigs = (under(site.zenith_v_mag)?, under(s.sky.natural_v_mag)?, under(doubled)?);
        let (Some(as_it_stands), Some(bare), Some(doubled)) = rigs else { return Ok(None) };
        let Ok(ephemeris) = Ephemeris::new(Place::from(site), from_s - 3600.0, to_s + 3600.0)
        else {
            return Ok(None);
        };
        let f = &campaign.framing;
        let sensor = &s.contenders[path].sensor;
        Ok(Some(Self {
            as_it_stands,
            by_lamps: [bare, doubled],
            natural,
            channels: sensor.channels().iter().map(|c| c.name).collect(),
            target: Direction { ra_deg: f.ra_deg, dec_deg: f.dec_deg }.vector(),
            ephemeris,
            seeing_arcsec,
            fills: fills(s.target.kind),
        }))
    }

    /// Whether an exposure is through a filter wide enough for stars and dust in their own light.
    pub fn is_broad(&self, exposure: usize) -> bool {
        exposure < self.as_it_stands.len() && self.as_it_stands.is_broad(exposure)
    }

    /// The target's light in a channel of an exposure at a moment, e-/s in a pixel by quantity; `None`
    /// as for [`Self::at`].
    pub fn target_at(&self, exposure: usize, channel: &str, at_s: f64) -> Option<PerQuantity<f64>> {
        let index = self.channels.iter().position(|c| *c == channel)?;
        let m = moment(&self.ephemeris, &self.target, at_s);
        if exposure >= self.as_it_stands.len() || m.altitude_deg < LEAST_ALTITUDE_DEG {
            return None;
        }
        Some(self.as_it_stands.rates_at(exposure, &m).into_iter().nth(index)?.1.target)
    }

    /// What a channel of an exposure holds at a moment, seconds since 1970 UTC; `None` where the
    /// path has no such channel, or the target is too low.
    pub fn at(&self, exposure: usize, channel: &str, at_s: f64) -> Option<Predicted> {
        let index = self.channels.iter().position(|c| *c == channel)?;
        if exposure >= self.as_it_stands.len() {
            return None;
        }
        let m = moment(&self.ephemeris, &self.target, at_s);
        if m.altitude_deg < LEAST_ALTITUDE_DEG {
            return None;
        }
        let rates = |rig: &NightRig, m: &Moment| Some(rig.rates_at(exposure, m).get(index)?.1);
        let own = rates(&self.as_it_stands, &m)?;
        let all = own.background() + own.dark;
        let by_lamps = |rig: &NightRig| {
            Some({
                let r = rates(rig, &m)?;
                r.background() + r.dark
            })
        };
        let passing = own.sky[SkyPart::Moon] + own.sky[SkyPart::Twilight];
        Some(Predicted {
            altitude_deg: m.altitude_deg,
            azimuth_deg: m.azimuth_deg.rem_euclid(360.0),
            background_e_per_s: all,
            passing_share: passing / all,
            target_share: if self.fills { (own.total() - all) / all } else { 0.0 },
            fwhm_arcsec: seeing_fwhm_arcsec(self.seeing_arcsec, airmass(m.altitude_deg)),
            by_lamps_e_per_s: [by_lamps(&self.by_lamps[0])?, by_lamps(&self.by_lamps[1])?],
            natural: self.natural,
        })
    }
}

/// Whether targets of a kind usually fill a frame. Galaxies, clusters and planetary nebulae leave sky
/// around them, from which a frame's background comes.
fn fills(kind: TargetKind) -> bool {
    match kind {
        TargetKind::HIiRegion
        | TargetKind::SupernovaRemnant
        | TargetKind::ReflectionNebula
        | TargetKind::DarkNebula => true,
        TargetKind::PlanetaryNebula
        | TargetKind::Galaxy
        | TargetKind::GalaxyWithHIi
        | TargetKind::Cluster => false,
    }
}
