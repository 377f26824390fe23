//! What lights the sky besides the target: natural glow, lamps, the moon, twilight; and the air
//! that dims the target. Brightnesses are as seen from the ground.

pub(crate) mod air;
pub(crate) mod artificial;
pub(crate) mod beyond;
pub(crate) mod moon;
pub(crate) mod natural;
pub(crate) mod part;
pub(crate) mod parts;
pub(crate) mod twilight;

pub use air::{AEROSOL_CLEAR_MAG, Air, airmass};
pub use artificial::{artificial_linear, artificial_linear_at, lamp_growth, lamp_mix};
pub use beyond::{Beyond, zodiacal_s10};
pub use moon::{MoonTerms, moon_linear, moon_mag_krisciunas_schaefer, moon_spectrum};
pub use natural::{AIRGLOW, diffuse_airmass, natural_growth, natural_zenith};
pub use part::{PerSkyPart, SkyPart};
pub use parts::{SkyParts, total_mag};
pub use twilight::{
    TWILIGHT_FROM_DEG, TWILIGHT_UNTIL_DEG, twilight_linear, twilight_spectrum, whole_sky_zenith_mag,
};
