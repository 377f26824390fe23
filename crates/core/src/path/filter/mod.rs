//! Filters in the cone of a telescope: at which angle light falls in, where the band then lies, and
//! what passes of a line or of a continuum.

pub(crate) mod colour_band;
pub(crate) mod cone;
pub(crate) mod report;
pub(crate) mod response;
pub(crate) mod weights;

pub use cone::{Cone, band_centre_shifted_nm};
pub use report::{LineTransmission, line_transmissions};
pub use response::{BROAD_NM, FilterCache, FilterResponse, RECORDED_FROM};
pub use weights::FilterInCone;
