//! Connected components: what belongs together, directly or through others.

/// The places 0 to `n − 1` in groups: two are in one group where `touch` says so of them, or of a chain between
/// them. A group begins with its lowest place and goes on in the order in which the others were reached.
///
/// ```
/// use ticksage_core::base::components::components;
/// let pairs = [(0, 3), (3, 1)];
/// let touch = |a, b| pairs.contains(&(a, b)) || pairs.contains(&(b, a));
/// assert_eq!(components(4, touch), [vec![0, 3, 1], vec![2]]);
/// ```
#[must_use]
pub fn components(n: usize, touch: impl Fn(usize, usize) -> bool) -> Vec<Vec<usize>> {
    let mut left: Vec<usize> = (0..n).collect();
    let mut groups = Vec::new();
    while !left.is_empty() {
        let mut group = vec![left.remove(0)];
        let mut at = 0;
        while at < group.len() {
            let from = group[at];
            let (near, far): (Vec<usize>, Vec<usize>) = left.into_iter().partition(|to| touch(from, *to));
            group.extend(near);
            left = far;
            at += 1;
        }
        groups.push(group);
    }
    groups
}
