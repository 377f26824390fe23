//! What ships with the program and what a user keeps: gear, the shelf, catalogued objects, presets of targets, classes of sky.

pub(crate) mod bortle;
pub(crate) mod catalogue;
pub(crate) mod gear;
pub(crate) mod presets;
pub(crate) mod shelf;

pub use bortle::{BORTLE, BortleClass, bortle_from_mag};
pub use catalogue::{Catalogue, CatalogueAnswer, CatalogueObject, CatalogueQuery, Framing, framing};
pub use gear::{Example, FilterFits, FilterKind, Gear, GearCamera, GearFilter, GearOptics, LampMix, Library};
pub use presets::{Faintness, TargetPreset, presets};
pub use shelf::{Camera, ShelfEntry, ShelfFilter, ShelfThing, Telescope, shipped_entries};
