//! The emission lines of nebulae, and the quantities that an imager judges by.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::light::per::per;

/// What an imager wants from a picture: the light of a line, or the continuum.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema,
)]
#[serde(rename_all = "snake_case")]
pub enum Quantity {
    /// H-alpha, with the [N II] light that the filter also passes.
    Ha,
    /// [O III], both lines.
    Oiii,
    /// [S II], both lines.
    Sii,
    /// H-beta.
    Hb,
    /// Stars, galaxies, reflected light.
    Continuum,
    /// H-alpha without [N II]: a part of [`Self::Ha`], judged by itself.
    HaAlone,
}

impl Quantity {
    /// The quantities whose light together is all of a target's, in the order in which results list
    /// them.
    pub const ALL: [Quantity; 5] = [Self::Ha, Self::Oiii, Self::Sii, Self::Hb, Self::Continuum];

    /// Everything that can be judged: the same, and what is a part of one of them. In the order of
    /// [`PerQuantity`].
    pub const JUDGED: [Quantity; 6] =
        [Self::Ha, Self::Oiii, Self::Sii, Self::Hb, Self::Continuum, Self::HaAlone];

    /// Its name in documents.
    pub fn key(self) -> &'static str {
        match self {
            Self::Ha => "ha",
            Self::Oiii => "oiii",
            Self::Sii => "sii",
            Self::Hb => "hb",
            Self::Continuum => "continuum",
            Self::HaAlone => "ha_alone",
        }
    }

    /// The name as imagers write it, of a target of which nothing more is known: see
    /// [`Target::name_of`](crate::scenario::target::Target::name_of).
    pub fn label(self) -> &'static str {
        match self {
            Self::Ha => "H-alpha",
            Self::Oiii => "[O III]",
            Self::Sii => "[S II]",
            Self::Hb => "H-beta",
            Self::Continuum => "continuum",
            Self::HaAlone => "H-alpha alone",
        }
    }
}

per! {
    /// One value for each [`Quantity`].
    PerQuantity, Quantity, 6
}

/// One emission line of a target.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct EmissionLine {
    /// The name with its wavelength, as printed on a chart.
    pub name: &'static str,
    /// Wavelength in air, nm.
    pub wavelength_nm: f64,
    /// The quantity that this line's light counts for.
    pub quantity: Quantity,
}

impl EmissionLine {
    /// Whether it is H-alpha itself.
    pub fn is_ha(&self) -> bool {
        self.quantity == Quantity::Ha && !self.is_nii()
    }

    /// Whether it counts for a quantity: H-alpha itself for two.
    pub fn is_of(&self, q: Quantity) -> bool {
        self.quantity == q || (q == Quantity::HaAlone && self.is_ha())
    }

    /// Whether it is one of nitrogen's, whose light no filter but a very narrow one tells from that
    /// of H-alpha.
    pub fn is_nii(&self) -> bool {
        self.name.starts_with("[N II]")
    }
}

/// H-alpha in air, nm (NIST Atomic Spectra Database, as all lines here).
pub(crate) const HA_NM: f64 = 656.28;

/// The stronger of [O III], in air, nm.
pub(crate) const OIII_NM: f64 = 500.68;

/// The stronger of [N II], in air, nm.
pub(crate) const NII_NM: f64 = 658.35;

/// The sodium doublet of lamps and airglow, its middle, in air, nm.
pub(crate) const SODIUM_NM: f64 = 589.3;

/// Where the eye's light ends and the infrared begins, nm (common practice, no source).
pub(crate) const INFRARED_NM: f64 = 700.0;

/// The lines of the model. Air wavelengths from the NIST Atomic Spectra Database.
pub const LINES: [EmissionLine; 8] = [
    EmissionLine { name: "H-beta 486.1", wavelength_nm: 486.13, quantity: Quantity::Hb },
    EmissionLine { name: "[O III] 495.9", wavelength_nm: 495.89, quantity: Quantity::Oiii },
    EmissionLine { name: "[O III] 500.7", wavelength_nm: OIII_NM, quantity: Quantity::Oiii },
    EmissionLine { name: "[N II] 654.8", wavelength_nm: 654.80, quantity: Quantity::Ha },
    EmissionLine { name: "H-alpha 656.3", wavelength_nm: HA_NM, quantity: Quantity::Ha },
    EmissionLine { name: "[N II] 658.3", wavelength_nm: NII_NM, quantity: Quantity::Ha },
    EmissionLine { name: "[S II] 671.6", wavelength_nm: 671.64, quantity: Quantity::Sii },
    EmissionLine { name: "[S II] 673.1", wavelength_nm: 673.08, quantity: Quantity::Sii },
];
