//! Sheets kept in memory: a version once stored never changes.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};

use ticksage_core::Family;
use ticksage_core::documents::candidate::FamilyRef;
use ticksage_core::documents::sheets::Sheets;

/// Sheets kept; beyond that all are let go, and read again as they are asked for.
const MOST: usize = 128;

/// Sets of sheets kept: what candidates are checked against together.
const MOST_SETS: usize = 24;

type BySheet = HashMap<(String, u32), Arc<Family>>;
/// The one last asked for last.
type Sets = Vec<(Vec<FamilyRef>, Sheets)>;

/// Sheets by id and version, and sets of them.
#[derive(Debug, Clone, Default)]
pub(crate) struct KeptSheets(Arc<Mutex<BySheet>>, Arc<Mutex<Sets>>);

impl KeptSheets {
    /// A set that is kept.
    pub fn set(&self, refs: &[FamilyRef]) -> Option<Sheets> {
        let mut sets = self.1.lock().unwrap_or_else(PoisonError::into_inner);
        let at = sets.iter().position(|(named, _)| named == refs)?;
        let found = sets.remove(at);
        let out = found.1.clone();
        sets.push(found);
        Some(out)
    }

    /// Keeps a set.
    pub fn keep_set(&self, refs: &[FamilyRef], sheets: &Sheets) {
        let mut sets = self.1.lock().unwrap_or_else(PoisonError::into_inner);
        if sets.len() >= MOST_SETS {
            sets.remove(0);
        }
        sets.push((refs.to_vec(), sheets.clone()));
    }

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
        self.1.lock().unwrap_or_else(PoisonError::into_inner).clear();
    }
}
