//! Embedding the built front end: a new build of it must rebuild this crate.

fn main() {
    println!("cargo:rerun-if-changed=../../web/dist");
}
