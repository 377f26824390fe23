//! Stub
