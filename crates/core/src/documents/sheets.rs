//! Sheets together, with a mark of what they say: what follows from them alone is remembered under it.

use std::ops::Deref;
use std::sync::Arc;

use crate::base::memory::{Key, KeyOf};
use crate::documents::family::Family;

/// Sheets that do not change any more. A copy costs nothing.
#[derive(Debug, Clone)]
pub struct Sheets(Arc<Marked>);

#[derive(Debug)]
struct Marked {
    families: Vec<Family>,
    mark: Key,
    bytes: usize,
}

impl Sheets {
    /// Reads the mark off what the sheets say, all of it: the same sheets have the same one.
    #[must_use]
    pub fn of(families: Vec<Family>) -> Self {
        let mut key = KeyOf::kind("sheets");
        let bytes = key.document(&families);
        Self(Arc::new(Marked { mark: key.key(), bytes, families }))
    }
}

impl Deref for Sheets {
    type Target = [Family];

    fn deref(&self) -> &[Family] {
        &self.0.families
    }
}

impl From<Vec<Family>> for Sheets {
    fn from(families: Vec<Family>) -> Self {
        Self::of(families)
    }
}

/// Sheets as a question is given them: with their mark, or as they stand.
#[derive(Debug, Clone, Copy)]
pub struct Given<'a> {
    /// The sheets.
    pub families: &'a [Family],
    /// Their mark, and about how many bytes they take.
    pub(crate) marked: Option<(Key, usize)>,
}

impl<'a> From<&'a Sheets> for Given<'a> {
    fn from(sheets: &'a Sheets) -> Self {
        let Marked { families, mark, bytes } = &*sheets.0;
        Self { families, marked: Some((*mark, *bytes)) }
    }
}

impl<'a> From<&'a [Family]> for Given<'a> {
    fn from(families: &'a [Family]) -> Self {
        Self { families, marked: None }
    }
}

impl<'a> From<&'a Vec<Family>> for Given<'a> {
    fn from(families: &'a Vec<Family>) -> Self {
        Self { families, marked: None }
    }
}

impl<'a, const N: usize> From<&'a [Family; N]> for Given<'a> {
    fn from(families: &'a [Family; N]) -> Self {
        Self { families, marked: None }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::formats::base_sheets;

    #[test]
    fn the_mark_is_of_all_that_the_sheets_say() {
        let sheets = base_sheets::sheets().expect("base sheets");
        let mark = |families: &[Family]| Given::from(&Sheets::of(families.to_vec())).marked.map(|m| m.0);
        assert_eq!(mark(&sheets), mark(&sheets));
        let mut other = sheets.clone();
        other[0].points[0].survivable = crate::base::units::Probability::try_from(0.123).expect("a chance");
        assert_ne!(mark(&sheets), mark(&other));
        let mut turned = sheets.clone();
        turned.reverse();
        assert_ne!(mark(&sheets), mark(&turned));
        assert!(Given::from(&sheets).marked.is_none());
    }
}
