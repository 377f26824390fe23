//! What tests of the store and of the server share.

/// The same bytes with one bit of each of six random ones turned.
pub fn with_flipped_bits(sound: &[u8], seed: u64) -> Vec<u8> {
    let mut bytes = sound.to_vec();
    // A generator of Knuth's (MMIX): enough to scatter bytes.
    let mut state = seed;
    let mut next = || {
        state =
            state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (state >> 33) as usize
    };
    for _ in 0..6 {
        let at = next() % bytes.len();
        bytes[at] ^= 1 << (next() % 8);
    }
    bytes
}

/// How many databases are damaged so: `usual`, or what SALT_LAMP_FLIPS says.
pub fn trials(usual: u64) -> u64 {
    std::env::var("SALT_LAMP_FLIPS").ok().and_then(|n| n.parse().ok()).unwrap_or(usual)
}
