//! Collects faults under the path to each.

use std::collections::HashSet;

use crate::base::fault::Fault;

/// Collects faults under a path.
pub(crate) struct Faults {
    pub(crate) list: Vec<Fault>,
}

impl Faults {
    pub(crate) fn add(&mut self, path: impl Into<String>, message: impl Into<String>) {
        self.list.push(Fault { path: path.into(), message: message.into() });
    }

    pub(crate) fn unless(&mut self, good: bool, path: impl Into<String>, message: impl Into<String>) {
        if !good {
            self.add(path, message);
        }
    }

    pub(crate) fn unique<'a>(&mut self, ids: impl Iterator<Item = &'a str>, list: &str) {
        let mut seen = HashSet::new();
        for (i, id) in ids.enumerate() {
            self.unless(seen.insert(id), format!("/{list}/{i}/id"), format!("the id \"{id}\" stands twice"));
        }
    }
}
