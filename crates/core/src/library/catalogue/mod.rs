//! The catalogue of deep-sky objects: what is up there, under every name it goes by.
//!
//! Three files, each under its own licence, see `data/SOURCES.md`: OpenNGC's objects, the nebulae
//! of other catalogues, and a list made by hand of what the great ones are called and how large
//! they are as imaged. They are joined when they are read ([`load`]).

pub(crate) mod emission;
pub(crate) mod framing;
pub(crate) mod list;
pub(crate) mod load;
pub(crate) mod names;
pub(crate) mod object;
pub(crate) mod search;
