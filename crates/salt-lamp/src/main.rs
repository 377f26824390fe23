//! Stub
fn main() {}
