//! What earlier questions worked out, kept for later ones that come to the same.
//!
//! It is an explicit argument: an answer is the same to the last digit with and without it, because each thing is kept
//! under a key of everything that it depends on.

use std::any::Any;
use std::collections::HashMap;
use std::hash::{BuildHasher, Hash, Hasher, RandomState};
use std::sync::{Arc, LazyLock, Mutex, PoisonError};

use serde::Serialize;
use xxhash_rust::xxh3::xxh3_128_with_seed;

/// Bytes that are kept unless told otherwise.
pub const BYTES: usize = 40 << 20;

/// A key of everything that something depends on.
pub type Key = u128;

/// Another one in each run of the program: nobody knows beforehand which two keys would meet.
static SEED: LazyLock<u64> = LazyLock::new(|| RandomState::new().hash_one(0));

/// Gathers a [`Key`].
#[derive(Debug, Clone)]
pub struct KeyOf(Gathered);

/// Everything that a key is of, end to end.
#[derive(Debug, Clone)]
struct Gathered(Vec<u8>);

impl Hasher for Gathered {
    fn write(&mut self, bytes: &[u8]) {
        self.0.extend_from_slice(bytes);
    }

    fn finish(&self) -> u64 {
        0
    }
}

impl KeyOf {
    /// Of a kind of thing.
    #[must_use]
    pub fn kind(name: &str) -> Self {
        let mut out = Self(Gathered(Vec::with_capacity(1024)));
        out.add(&name);
        out
    }

    /// And of this.
    pub fn add(&mut self, what: &impl Hash) {
        what.hash(&mut self.0);
    }

    /// And of a figure, to the last digit.
    pub fn figure(&mut self, x: f64) {
        self.0.write(&x.to_ne_bytes());
    }

    /// And of figures.
    pub fn figures(&mut self, all: &[f64]) {
        self.add(&all.len());
        all.iter().for_each(|x| self.figure(*x));
    }

    /// And of a whole document, as it is written; how many bytes that is.
    pub fn document(&mut self, what: &impl Serialize) -> usize {
        let before = self.0.0.len();
        // What cannot be written has no key of its own: nothing is found under this one again.
        if serde_json::to_writer(&mut self.0.0, what).is_err() {
            self.add(&RandomState::new().hash_one(0));
        }
        self.0.0.len() - before
    }

    /// The key.
    #[must_use]
    pub fn key(&self) -> Key {
        xxh3_128_with_seed(&self.0.0, *SEED)
    }
}

/// Something kept, with its size.
type Kept = (Arc<dyn Any + Send + Sync>, usize);

/// Two generations: what was not asked for while the younger one filled is let go with the elder.
#[derive(Default)]
struct Generations {
    young: HashMap<Key, Kept>,
    old: HashMap<Key, Kept>,
    bytes: usize,
}

/// A bounded memory.
pub struct Memory {
    most: usize,
    kept: Mutex<Generations>,
}

impl std::fmt::Debug for Memory {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Memory").field("most", &self.most).finish_non_exhaustive()
    }
}

impl Default for Memory {
    fn default() -> Self {
        Self::of(BYTES)
    }
}

impl Memory {
    /// One that keeps about so many bytes.
    #[must_use]
    pub fn of(bytes: usize) -> Self {
        Self { most: bytes, kept: Mutex::default() }
    }

    /// What is kept under a key.
    pub fn get<T: Any + Send + Sync>(&self, key: Key) -> Option<Arc<T>> {
        let mut all = self.kept.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some((found, _)) = all.young.get(&key) {
            return Arc::clone(found).downcast().ok();
        }
        let (found, bytes) = all.old.remove(&key)?;
        put(&mut all, self.most, key, (Arc::clone(&found), bytes));
        found.downcast().ok()
    }

    /// Whether something is kept under a key.
    #[must_use]
    pub fn has(&self, key: Key) -> bool {
        let all = self.kept.lock().unwrap_or_else(PoisonError::into_inner);
        all.young.contains_key(&key) || all.old.contains_key(&key)
    }

    /// Keeps something of about so many bytes.
    pub fn put<T: Any + Send + Sync>(&self, key: Key, what: &Arc<T>, bytes: usize) {
        let mut all = self.kept.lock().unwrap_or_else(PoisonError::into_inner);
        let kept: Kept = (Arc::<T>::clone(what), bytes);
        put(&mut all, self.most, key, kept);
    }

    /// Bytes of the younger generation, and things kept in both.
    #[must_use]
    pub fn size(&self) -> (usize, usize) {
        let all = self.kept.lock().unwrap_or_else(PoisonError::into_inner);
        (all.bytes, all.young.len() + all.old.len())
    }
}

fn put(all: &mut Generations, most: usize, key: Key, kept: Kept) {
    if all.bytes + kept.1 > most / 2 {
        all.old = std::mem::take(&mut all.young);
        all.bytes = 0;
    }
    all.bytes += kept.1;
    if let Some((_, before)) = all.young.insert(key, kept) {
        all.bytes -= before;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn key(n: u64) -> Key {
        let mut of = KeyOf::kind("test");
        of.add(&n);
        of.key()
    }

    #[test]
    fn what_is_kept_is_found_by_its_key_and_kind_alone() {
        let memory = Memory::of(1000);
        memory.put(key(1), &Arc::new(7_u8), 10);
        assert_eq!(memory.get::<u8>(key(1)).as_deref(), Some(&7));
        assert_eq!(memory.get::<u16>(key(1)), None);
        assert_eq!(memory.get::<u8>(key(2)), None);
        let mut other = KeyOf::kind("other");
        other.add(&1_u64);
        assert_ne!(other.key(), key(1));
        let (mut x, mut y) = (KeyOf::kind("x"), KeyOf::kind("x"));
        x.figures(&[1.0, 2.0]);
        y.figures(&[1.0, 2.0 + 1e-15]);
        assert_ne!(x.key(), y.key());
    }

    #[test]
    fn it_stays_bounded_and_keeps_what_is_asked_for() {
        let memory = Memory::of(1000);
        for n in 0..200 {
            memory.put(key(n), &Arc::new(n), 50);
            assert!(memory.get::<u64>(key(0)).is_some(), "asked for each time, {n}");
            let (bytes, things) = memory.size();
            assert!(bytes <= 500 && things <= 21, "{bytes} {things}");
        }
        assert!(memory.get::<u64>(key(3)).is_none());
        assert!(memory.get::<u64>(key(199)).is_some());
    }
}
