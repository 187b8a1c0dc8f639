//! The road as its rows show it: a line for each failure point, and its strip in letters. What stands behind a line
//! comes with the points when they are asked for.

use std::collections::BTreeMap;

use serde::Serialize;
use ticksage_core::Assessment;
use ticksage_core::decision::grade::Grade;
use ticksage_core::decision::point_result::{DoneAlready, PointResult, RenewalMark};
use ticksage_core::documents::failure_point::System;
use ticksage_core::documents::quote::Quoted;
use ticksage_core::documents::reference::PointRef;
use ticksage_core::inference::source_views::SourceChance;
use ticksage_core::inference::strip::Trouble;
use utoipa::ToSchema;

/// The road's lines, and who speaks of them.
#[derive(Debug, Serialize, ToSchema)]
pub struct Road {
    /// Sources that speak of any point, by name.
    pub sources: Vec<SourceName>,
    /// A line for each failure point, in the order of the judgement.
    pub points: Vec<RoadPoint>,
}

/// A source by its id and its name.
#[derive(Debug, Serialize, ToSchema)]
pub struct SourceName {
    /// Its id.
    pub id: String,
    /// Its name.
    pub name: String,
}

/// A failure point as a line of the road shows it.
#[derive(Debug, Serialize, ToSchema)]
pub struct RoadPoint {
    /// Which.
    pub at: PointRef,
    /// Name.
    pub name: String,
    /// System.
    pub system: System,
    /// How it shows.
    pub shows: String,
    /// Whether it can end the engine.
    pub ends_engine: bool,
    /// Chance that it is there now.
    pub p_now: f64,
    /// Chance that it is there now or comes within the plan.
    pub p_plan: f64,
    /// What its job costs alone, the mean.
    pub cost: f64,
    /// Expected money within the plan.
    pub expected_cost: f64,
    /// Grade.
    pub grade: Grade,
    /// Whether somebody looked.
    pub seen: Looked,
    /// Where the sources disagree: the least and the greatest of their chances within the plan.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<Vec<f64>>, min_items = 2, max_items = 2)]
    pub apart: Option<[f64; 2]>,
    /// The workshop's quote that it goes by.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub quoted: Option<Quoted>,
    /// The damage that it may have done already where it is there.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub done_already: Option<DoneAlready>,
    /// Renewals on paper.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub renewals: Vec<RenewalMark>,
    /// The greatest chance of a bin of the strip, in ten-thousandths.
    pub top: f64,
    /// The strip: bins from build to now, over the plan and beyond it, with blanks between the three. Each bin is a
    /// letter, whose place in the Base32 alphabet (RFC 4648: `A` is 0, `7` is 31) is its chance in 31sts of `top`: finer
    /// than the strip is tall.
    pub strip: String,
}

/// Whether somebody looked at a point.
#[derive(Debug, Clone, Copy, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Looked {
    /// A check that speaks of it is done.
    Yes,
    /// Checks speak of it, and none is done.
    Not,
    /// No check speaks of it.
    NoCheck,
}

impl Road {
    /// The road of a judgement.
    #[must_use]
    pub fn of(a: &Assessment) -> Self {
        let names: BTreeMap<&str, &str> =
            a.points.iter().flat_map(|p| &p.sources).map(|s| (s.source.as_str(), s.name.as_str())).collect();
        let mut sources: Vec<SourceName> =
            names.into_iter().map(|(id, name)| SourceName { id: id.to_owned(), name: name.to_owned() }).collect();
        sources.sort_by(|x, y| x.name.cmp(&y.name));
        Self { sources, points: a.points.iter().map(RoadPoint::of).collect() }
    }
}

impl RoadPoint {
    fn of(p: &PointResult) -> Self {
        let (top, strip) = letters(&p.trouble);
        Self {
            at: p.at.clone(),
            name: p.name.clone(),
            system: p.system,
            shows: p.shows.clone(),
            ends_engine: p.ends_engine,
            p_now: p.p_now,
            p_plan: p.p_plan,
            cost: p.cost.mean,
            expected_cost: p.expected_cost,
            grade: p.grade,
            seen: match (p.seen.is_empty(), p.unseen.is_empty()) {
                (false, _) => Looked::Yes,
                (true, false) => Looked::Not,
                (true, true) => Looked::NoCheck,
            },
            apart: apart(&p.sources),
            quoted: p.quoted.clone(),
            done_already: p.done_already.clone(),
            renewals: p.renewals.clone(),
            top,
            strip,
        }
    }
}

/// Sources a fifth apart disagree.
const FAR: f64 = 0.2;

/// From this chance on a ratio between sources says something: below it they agree that it is rare.
const RARE: f64 = 0.05;

/// The least and the greatest chance where the sources disagree: by a fifth, or one says more than twice what another
/// does.
fn apart(sources: &[SourceChance]) -> Option<[f64; 2]> {
    let chances = || sources.iter().map(|s| s.chance);
    let (least, most) = (chances().fold(1.0, f64::min), chances().fold(0.0, f64::max));
    (most - least >= FAR || (most >= RARE && most > 2.0 * least)).then_some([least, most])
}

/// The alphabet of Base32 (RFC 4648).
const ALPHABET: &[u8; 32] = b"ABCDEFGHIJKLMNOPQRSTUVWXYZ234567";

/// A strip in letters, with what its tallest bin stands for.
fn letters(t: &Trouble) -> (f64, String) {
    let bins = [&t.past, &t.plan, &t.beyond];
    let top = bins.iter().copied().flatten().fold(0.0, |x: f64, y| x.max(*y));
    let most = (ALPHABET.len() - 1) as f64;
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    let letter = |m: &f64| {
        let place = if top > 0.0 { (m / top * most).round() as usize } else { 0 };
        char::from(ALPHABET[place.min(ALPHABET.len() - 1)])
    };
    let words: Vec<String> = bins.into_iter().map(|b| b.iter().map(letter).collect()).collect();
    ((top * 10.0).round() / 10.0, words.join(" "))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_strip_is_told_in_letters() {
        let t = Trouble { past: vec![0.0, 3.0], plan: vec![31.0, 25.6], beyond: vec![1.0] };
        assert_eq!(letters(&t), (31.0, "AD 72 B".to_owned()));
        let none = Trouble { past: vec![0.0], plan: vec![0.0; 2], beyond: Vec::new() };
        assert_eq!(letters(&none), (0.0, "A AA ".to_owned()));
    }

    #[test]
    fn sources_disagree_by_a_fifth_or_by_more_than_twice() {
        let told = |chances: &[f64]| {
            let sources: Vec<SourceChance> = chances
                .iter()
                .map(|&chance| SourceChance { source: "x".to_owned(), name: "X".to_owned(), chance })
                .collect();
            apart(&sources)
        };
        assert_eq!(told(&[]), None);
        assert_eq!(told(&[0.4]), None);
        assert_eq!(told(&[0.01, 0.04]), None, "they agree that it is rare");
        assert_eq!(told(&[0.02, 0.06]), Some([0.02, 0.06]));
        assert_eq!(told(&[0.5, 0.65]), None);
        assert_eq!(told(&[0.5, 0.71, 0.6]), Some([0.5, 0.71]));
    }
}
