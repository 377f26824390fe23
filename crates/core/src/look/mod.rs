//! What each choice does to the picture: the same target, rendered through every light path from
//! the path's own numbers, with one stretch.
//!
//! [`field`] is the truth on the sky, [`planes`] what each channel collects of it, [`noise`] the
//! counting, [`palette`] the picture, [`ghost`] the light that should not be there. Deterministic
//! for a seed, whatever the order of work.

pub(crate) mod blind;
pub(crate) mod cast;
pub(crate) mod drawing;
pub(crate) mod exposure;
pub(crate) mod field;
pub(crate) mod field_spec;
pub(crate) mod field_stars;
pub(crate) mod ghost;
pub(crate) mod gradient;
pub(crate) mod halos;
pub(crate) mod measured;
pub(crate) mod noise;
pub(crate) mod palette;
pub(crate) mod plane;
pub(crate) mod planes;
pub(crate) mod real_stars;
pub(crate) mod shown;
pub(crate) mod stacked;
pub(crate) mod star;
pub(crate) mod star_light;
pub(crate) mod star_size;
pub(crate) mod star_words;
pub(crate) mod structure;
pub(crate) mod view;
pub(crate) mod words;

pub use blind::{Choice, Figures, Revealed, figure, figure_name, orders, reveal};
pub use cast::Cast;
pub use exposure::{Moved, SimulatedSub, whole_sub, whole_sub_moved};
pub use field::Field;
pub use field_spec::{FieldSpec, Star};
pub use ghost::{Between, Ghost, SENSOR_REFLECTANCE, USUAL_GAP_MM};
pub use gradient::{Gradient, GradientPoint, Seen, gradient, gradient_by_distance};
pub use halos::{Halos, Ring, StarHalo};
pub use measured::{BoxArcsec, Measured, MeasuredBox};
pub use palette::{Colours, Mix, stretched};
pub use plane::Plane;
pub use planes::Planes;
pub use real_stars::{ExposureStars, FieldStars, StarOnSensor, field_stars, on_sensor};
pub use stacked::{Crop, Look, MOST_PIXELS, MOST_PLANE_PIXELS, Stack};
pub use star_size::StarSizes;
pub use view::{LookView, Match, Palette, Stretch};
pub use words::LookWords;
