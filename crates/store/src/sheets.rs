//! Sheets kept in memory: a version once stored never changes.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};

use ticksage_core::Family;
use ticksage_core::documents::candidate::FamilyRef;

/// Sheets kept; beyond that all are let go, and read again as they are asked for.
const MOST: usize = 128;

type BySheet = HashMap<(String, u32), Arc<Family>>;

/// Sheets by id and version.
#[derive(Debug, Clone, Default)]
pub(crate) struct Sheets(Arc<Mutex<BySheet>>);

impl Sheets {
    /// The sheets named that are kept, and those that are not.
    pub fn kept(&self, refs: &[FamilyRef]) -> (Vec<Arc<Family>>, Vec<FamilyRef>) {
        let kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let (mut there, mut missing) = (Vec::with_capacity(refs.len()), Vec::new());
        for r in refs {
            match kept.get(&(r.id.clone(), r.version)) {
                Some(f) => there.push(Arc::clone(f)),
                None => missing.push(r.clone()),
            }
        }
        (there, missing)
    }

    /// Keeps a sheet.
    pub fn keep(&self, family: &Arc<Family>) {
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if kept.len() >= MOST {
            kept.clear();
        }
        kept.insert((family.id.clone(), family.version), Arc::clone(family));
    }

    /// Lets go of all: the records were put back from elsewhere.
    pub fn forget(&self) {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).clear();
    }
}
