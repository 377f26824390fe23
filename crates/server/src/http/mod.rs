//! What every route uses: bodies and headers, problem documents, heavy work off the threads that
//! answer, and what is remembered between two questions about one thing.

pub(crate) mod access;
pub(crate) mod assets;
pub(crate) mod blocking;
pub(crate) mod cache;
pub(crate) mod compress;
pub(crate) mod connections;
pub(crate) mod extract;
pub(crate) mod guard;
pub(crate) mod looks;
pub(crate) mod problem;
pub(crate) mod proxy;
pub(crate) mod revised;
pub(crate) mod sent;
pub(crate) mod zones;
