//! What each choice does to the picture: the same target, rendered through every light path from
//! the path's own numbers, with one stretch.
//!
//! [`field`] is the truth on the sky, [`planes`] what each channel collects of it, [`noise`] the
//! counting, [`palette`] the picture, [`ghost`] the light that should not be there. Deterministic
//! for a seed, whatever the order of work.

pub(crate) mod blind;
pub(crate) mod cast;
pub(crate) mod exposure;
pub(crate) mod field;
pub(crate) mod ghost;
pub(crate) mod noise;
pub(crate) mod palette;
pub(crate) mod planes;
pub(crate) mod real_stars;
pub(crate) mod stacked;
pub(crate) mod star;
pub(crate) mod view;
pub(crate) mod words;

pub use blind::{Revealed, figure, figure_name, orders, reveal};
pub use cast::Cast;
pub use exposure::{SimulatedSub, whole_sub};
pub use field::{Field, FieldSpec, Star};
pub use ghost::{
    Ghost, Gradient, GradientPoint, SENSOR_REFLECTANCE, Seen, ghost, gradient, gradient_by_distance,
};
pub use palette::{Colours, Mix, stretched};
pub use planes::{Plane, Planes};
pub use real_stars::{
    ExposureStars, FieldStars, HALO_GAP_MM, StarOnSensor, field_stars, on_sensor,
};
pub use stacked::{BoxArcsec, Crop, Look, MOST_PIXELS, MOST_PLANE_PIXELS, Measured, Stack};
pub use view::{LookView, Match, Palette, Stretch};
pub use words::LookWords;
