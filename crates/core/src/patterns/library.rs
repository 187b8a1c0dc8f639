//! The pattern library: the questions and every pattern that ships.

use crate::documents::family::FamilyKind;
use crate::documents::pattern::{Pattern, Question, Questions};

/// The question that settles what kind of thing it is.
pub const THING: &str = "thing";

/// Questions and patterns.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Library {
    /// The questions, in order.
    pub questions: Questions,
    /// The patterns, by id.
    pub patterns: Vec<Pattern>,
}

impl Library {
    /// The question of that id.
    #[must_use]
    pub fn question(&self, id: &str) -> Option<&Question> {
        self.questions.questions.iter().find(|q| q.id == id)
    }

    /// The pattern of that id.
    #[must_use]
    pub fn pattern(&self, id: &str) -> Option<&Pattern> {
        self.patterns.iter().find(|p| p.id == id)
    }
}

/// The kind of family that an answer to [`THING`] stands for.
#[must_use]
pub fn kind_of(thing: &str) -> FamilyKind {
    match thing {
        "motorcycle" => FamilyKind::Motorcycle,
        "engine" => FamilyKind::Engine,
        _ => FamilyKind::Body,
    }
}
