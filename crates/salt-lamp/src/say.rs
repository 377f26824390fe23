//! What the program says on standard output.

use std::io::Write;

/// Writes a text and a line's end to standard output. Who listens may have heard enough (`| head`):
/// that ends neither a server nor a command, as `println!` would.
pub fn say(text: &str) {
    let mut out = std::io::stdout().lock();
    let _ = writeln!(out, "{text}").and_then(|()| out.flush());
}
