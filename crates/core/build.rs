//! Marks the build with its own sources, so that what was computed by other code is told apart.

use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

/// Every file below a folder.
fn files(folder: &Path, out: &mut BTreeSet<PathBuf>) {
    for entry in std::fs::read_dir(folder).into_iter().flatten().flatten() {
        let path = entry.path();
        if path.is_dir() { files(&path, out) } else { _ = out.insert(path) }
    }
}

fn main() {
    println!("cargo::rerun-if-changed=src");
    let mut all = BTreeSet::new();
    files(Path::new("src"), &mut all);
    // FNV-1a, 64 bits: a mark that changes with every letter; nothing is kept secret by it.
    let bytes = all.iter().flat_map(|path| {
        let name = path.to_string_lossy().replace('\\', "/").into_bytes();
        name.into_iter().chain(std::fs::read(path).unwrap_or_default())
    });
    let mark = bytes.fold(0xcbf2_9ce4_8422_2325_u64, |h, b| (h ^ u64::from(b)).wrapping_mul(0x0100_0000_01b3));
    println!("cargo::rustc-env=TICKSAGE_CORE_SOURCES={mark:016x}");
}
