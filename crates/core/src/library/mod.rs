//! What ships with the program and what a user keeps: gear, the shelf, catalogued objects, presets
//! of targets, classes of sky.

pub(crate) mod bortle;
pub(crate) mod catalogue;
pub(crate) mod figures;
pub(crate) mod gear;
pub(crate) mod kit;
pub(crate) mod planes;
pub(crate) mod presets;
pub(crate) mod rig;
pub(crate) mod rig_file;
pub(crate) mod shelf;
pub(crate) mod stars;

pub use bortle::{BORTLE, BortleClass, bortle_from_mag};
pub use catalogue::emission::mean_v_mag;
pub use catalogue::framing::{
    Extent, FARTHEST_ARCMIN, Framing, Panels, Placement, framing, laid_over,
};
pub use catalogue::list::Catalogue;
pub use catalogue::names::same_name;
pub use catalogue::object::{CatalogueEmission, CatalogueObject, CatalogueSource, EmissionFrom};
pub use catalogue::search::{CatalogueAnswer, CatalogueQuery};
pub use figures::{FigureAround, Figures, SkyAround};
pub use gear::{
    Example, FilterFits, FilterKind, Gear, GearCamera, GearFilter, GearOptics, LampMix, Library,
};
pub use kit::{RigParts, RigPrice};
pub use planes::{ecliptic_latitude_deg, ecliptic_longitude_deg, galactic_latitude_deg};
pub use presets::{Faintness, TargetPreset, moderate, presets};
pub use rig::{Holder, MAX_SLOTS, Orientation, Rig, Slot};
pub use rig_file::{RigFile, RigFormatName};
pub use shelf::{
    Camera, STARTERS, ShelfEntry, ShelfFilter, ShelfThing, Starter, Telescope, demo_kit,
    shipped_entries,
};
pub use stars::{CatalogueStar, Stars};
