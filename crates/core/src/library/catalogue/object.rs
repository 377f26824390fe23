//! One catalogued object, and what it emits.

use serde::Serialize;
use utoipa::ToSchema;

use crate::scenario::pointing::Pointing;
use crate::scenario::target::{Continuum, Known, LinesRayleigh, TargetKind};

/// Where the brightness of a catalogued object comes from.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum EmissionFrom {
    /// The table made by hand, from memory, good to a factor of two.
    HandTable,
    /// The same table, where memory is less sure.
    RoughHandTable,
    /// Its magnitude and its axes.
    Magnitude,
    /// The brightness class of its catalogue.
    Class,
    /// Nothing is known of it but its kind.
    Kind,
}

/// What a catalogued object emits.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct CatalogueEmission {
    /// Its lines, mean over its extent.
    pub lines_rayleigh: LinesRayleigh,
    /// Its continuum.
    pub continuum: Option<Continuum>,
    /// How many times brighter its brightest part is.
    pub peak_factor: f64,
    /// Where that comes from.
    pub from: EmissionFrom,
}

const NO_LINES: LinesRayleigh = LinesRayleigh { ha: 0.0, nii: 0.0, oiii: 0.0, sii: 0.0, hb: 0.0 };

impl CatalogueEmission {
    /// Of an object that is not read yet.
    pub(crate) const NONE: Self = Self {
        lines_rayleigh: NO_LINES,
        continuum: None,
        peak_factor: 1.0,
        from: EmissionFrom::Kind,
    };

    /// Whether something is known of the object itself, and not only of its kind.
    pub fn is_its_own(&self) -> bool {
        self.from != EmissionFrom::Kind
    }
}

impl EmissionFrom {
    /// How well that is known.
    pub(crate) fn known(self) -> Known {
        match self {
            Self::Magnitude => Known::Preset,
            Self::HandTable | Self::Class => Known::HandTable,
            Self::RoughHandTable | Self::Kind => Known::Typical,
        }
    }
}

/// Which file says something of an object.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum CatalogueSource {
    /// OpenNGC.
    OpenNgc,
    /// The catalogues of nebulae besides: Sharpless, Lynds, Barnard, van den Bergh and others.
    Nebulae,
    /// The list made by hand, from memory.
    Hand,
}

/// One object.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct CatalogueObject {
    /// Name such as "NGC 7822"; unique.
    pub name: String,
    /// The kind whose emission presets fit.
    pub kind: TargetKind,
    /// Which file its kind comes from.
    pub kind_from: CatalogueSource,
    /// Whether its kind is known; false for a "bright nebula" that may shine of itself or reflect.
    pub kind_known: bool,
    /// The catalogue's own type code ("HII", "G", "SNR").
    pub code: String,
    /// Right ascension, J2000, degrees.
    pub ra_deg: f64,
    /// Declination, J2000, degrees.
    pub dec_deg: f64,
    /// Constellation, three letters.
    pub constellation: String,
    /// Longer axis, arcmin.
    pub major_arcmin: Option<f64>,
    /// Shorter axis, arcmin.
    pub minor_arcmin: Option<f64>,
    /// Where the size comes from; null where there is none.
    pub size_from: Option<CatalogueSource>,
    /// Position angle of the longer axis, degrees from north over east.
    pub pa_deg: Option<f64>,
    /// V magnitude of the whole.
    pub v_mag: Option<f64>,
    /// Which file its V magnitude comes from, else its B; null where there is neither.
    pub mag_from: Option<CatalogueSource>,
    /// B magnitude of the whole.
    pub b_mag: Option<f64>,
    /// Mean B surface brightness, mag/arcsec^2.
    pub b_mag_arcsec2: Option<f64>,
    /// Class of its catalogue: Sharpless' brightness, 1 faint to 3 bright, of a bright nebula;
    /// Lynds' opacity, 1 to 6, of a dark one.
    pub class: Option<u8>,
    /// Messier number and popular names.
    pub other_names: Vec<String>,
    /// Its numbers in other catalogues.
    pub designations: Vec<String>,
    /// What it emits, as far as the catalogue knows.
    #[serde(skip)]
    pub emission: CatalogueEmission,
}

impl CatalogueObject {
    /// Where it stands, north up.
    pub fn place(&self) -> Pointing {
        Pointing { ra_deg: self.ra_deg, dec_deg: self.dec_deg, position_angle_deg: 0.0 }
    }
}
