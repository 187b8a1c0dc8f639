//! Who works beside the core, as a program lends it.

use std::sync::LazyLock;

use rayon_core::{ThreadPool, ThreadPoolBuilder};
use ticksage_core::base::join::Join;

/// As in the program.
#[derive(Debug)]
pub struct Beside(pub ThreadPool);

/// Two at least, also on a machine of one core.
pub static BESIDE: LazyLock<Beside> =
    LazyLock::new(|| Beside(ThreadPoolBuilder::new().num_threads(2).build().unwrap()));

impl Join for Beside {
    fn both(&self, one: &mut (dyn FnMut() + Send), other: &mut (dyn FnMut() + Send)) {
        self.0.join(one, other);
    }
}

/// Nobody, and the second piece first.
#[derive(Debug)]
pub struct TheOtherFirst;

impl Join for TheOtherFirst {
    fn both(&self, one: &mut (dyn FnMut() + Send), other: &mut (dyn FnMut() + Send)) {
        other();
        one();
    }
}
