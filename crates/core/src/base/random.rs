//! Uniform figures that depend only on what they are for: a counter-based generator, not a stream.

/// Seed of all luck.
const SEED: u64 = 0x7469_636b_7361_6765;

/// A figure between 0 and 1, the same for the same future, thing and purpose (a counter-based generator:
/// the finaliser of SplitMix64, Steele et al. 2014).
#[must_use]
#[allow(clippy::cast_precision_loss)]
pub fn uniform(draw: u64, thing: u64, purpose: u64) -> f64 {
    let mut z = SEED
        .wrapping_add(draw.wrapping_mul(0x9e37_79b9_7f4a_7c15))
        .wrapping_add(thing.wrapping_mul(0xd1b5_4a32_d192_ed03))
        .wrapping_add(purpose.wrapping_mul(0x8cb9_2ba7_2f3d_8dd7));
    for _ in 0..2 {
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        z ^= z >> 31;
    }
    ((z >> 11) as f64 + 0.5) / (1u64 << 53) as f64
}

/// A number for a name (FNV-1a).
pub(crate) fn number(name: &str) -> u64 {
    name.bytes().fold(0xcbf2_9ce4_8422_2325, |h, b| (h ^ u64::from(b)).wrapping_mul(0x0100_0000_01b3))
}
