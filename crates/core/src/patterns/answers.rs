//! What is known of how a thing is built: which questions still matter, and how likely each answer is.

use std::collections::BTreeMap;

use crate::base::fault::Fault;
use crate::base::units::UsageClock;
use crate::documents::pattern::{Answer, Question, Scale};
use crate::patterns::library::{Library, THING};

/// Question to the answers that qualify.
pub type Facts = BTreeMap<String, Vec<String>>;

/// Answers with the library that they belong to.
#[derive(Debug, Clone, Copy)]
pub struct Known<'a> {
    /// The library.
    pub library: &'a Library,
    /// Question, or setting, to its answer.
    pub answers: &'a BTreeMap<String, String>,
}

impl<'a> Known<'a> {
    /// The answer to a question: stated, or the only one that can be.
    #[must_use]
    pub fn answer(&self, question: &'a Question) -> Option<&'a str> {
        if let Some(stated) = self.answers.get(&question.id) {
            return Some(stated);
        }
        if self.matters(question) == Some(false) {
            return None;
        }
        match self.shares(question).as_slice() {
            [(only, _)] => Some(&only.id),
            _ => None,
        }
    }

    /// Whether a question matters with what is known; none where that hangs on another that is open.
    #[must_use]
    pub fn matters(&self, question: &'a Question) -> Option<bool> {
        self.holds(&question.applies.facts)
    }

    /// Whether all of some conditions hold; none where one is open.
    fn holds(&self, facts: &Facts) -> Option<bool> {
        let mut open = false;
        for (id, accepted) in facts {
            let answer = match self.library.question(id) {
                Some(q) if self.matters(q) == Some(false) => return Some(false),
                Some(q) => self.answer(q),
                None => self.answers.get(id).map(String::as_str),
            };
            match answer {
                Some(answer) if !accepted.iter().any(|x| x == answer) => return Some(false),
                Some(_) => {}
                None => open = true,
            }
        }
        if open { None } else { Some(true) }
    }

    /// The answers that can be, each with its share among them.
    #[must_use]
    pub fn shares(&self, question: &'a Question) -> Vec<(&'a Answer, f64)> {
        let share = |v: &Answer| {
            let told = v.shares.iter().find(|s| self.holds(&s.facts) == Some(true));
            told.map_or(v.share, |s| s.share).get()
        };
        let all: Vec<(&Answer, f64)> =
            question.values.iter().map(|v| (v, share(v))).filter(|(_, share)| *share > 0.0).collect();
        let total: f64 = all.iter().map(|(_, share)| share).sum();
        all.into_iter().map(|(v, share)| (v, share / total)).collect()
    }

    /// What is left open of some conditions; none where what is known rules them out. A condition on a question that
    /// may not matter at all brings that question's own conditions with it.
    #[must_use]
    pub fn open(&self, facts: &Facts) -> Option<Facts> {
        let mut out = Facts::new();
        for (id, accepted) in facts {
            let Some(question) = self.library.question(id) else {
                match self.answers.get(id) {
                    Some(answer) if !accepted.contains(answer) => return None,
                    Some(_) => {}
                    None => narrow(&mut out, id, accepted.clone())?,
                }
                continue;
            };
            if self.matters(question) == Some(false) {
                return None;
            }
            if let Some(answer) = self.answer(question) {
                if !accepted.iter().any(|x| x == answer) {
                    return None;
                }
            } else {
                let possible = self.shares(question);
                let left: Vec<String> =
                    possible.iter().filter(|(v, _)| accepted.contains(&v.id)).map(|(v, _)| v.id.clone()).collect();
                if left.is_empty() {
                    return None;
                }
                if left.len() < possible.len() {
                    narrow(&mut out, id, left)?;
                }
            }
            for (id, accepted) in self.open(&question.applies.facts)? {
                narrow(&mut out, &id, accepted)?;
            }
        }
        Some(out)
    }

    /// The questions that are not answered and may still matter, in order.
    #[must_use]
    pub fn unanswered(&self) -> Vec<&'a Question> {
        let all = self.library.questions.questions.iter();
        all.filter(|q| self.matters(q) != Some(false) && self.answer(q).is_none()).collect()
    }

    /// What size does to hours and parts; the mean over what it may be where it is not known.
    #[must_use]
    pub fn scale(&self) -> Scale {
        let mut out = Scale { hours: 1.0, parts: 1.0 };
        for q in self.library.questions.questions.iter().filter(|q| self.matters(q) != Some(false)) {
            if q.values.iter().all(|v| v.scale.is_none()) {
                continue;
            }
            let answer = self.answer(q);
            let of = |v: &Answer| v.scale.unwrap_or(Scale { hours: 1.0, parts: 1.0 });
            let meant: Vec<(Scale, f64)> = match answer.and_then(|id| q.values.iter().find(|v| v.id == id)) {
                Some(v) => vec![(of(v), 1.0)],
                None => self.shares(q).into_iter().map(|(v, share)| (of(v), share)).collect(),
            };
            out.hours *= meant.iter().map(|(s, share)| s.hours * share).sum::<f64>();
            out.parts *= meant.iter().map(|(s, share)| s.parts * share).sum::<f64>();
        }
        out
    }

    /// What makes no sense in the answers, each with its path under `/built_as`.
    #[must_use]
    pub fn faults(&self, clock: UsageClock) -> Vec<Fault> {
        let mut out = Vec::new();
        let mut say = |path: String, message: String| out.push(Fault { path, message });
        if !self.answers.contains_key(THING) {
            let message = "say what it is: a car, a motorcycle or an engine".to_owned();
            say(format!("/built_as/answers/{THING}"), message);
        }
        for (id, answer) in self.answers {
            let path = format!("/built_as/answers/{id}");
            let Some(question) = self.library.question(id) else {
                if let Some(message) = self.setting_fault(id, answer) {
                    say(path, message);
                }
                continue;
            };
            let Some(value) = question.values.iter().find(|v| &v.id == answer) else {
                let known: Vec<&str> = question.values.iter().map(|v| v.id.as_str()).collect();
                say(path, format!("\"{answer}\" is no answer to \"{}\": one of {}", question.label, known.join(", ")));
                continue;
            };
            if self.matters(question) == Some(false) {
                let why = self.against(&question.applies.facts).unwrap_or_default();
                say(path, format!("\"{}\" does not go with \"{why}\"", value.label));
            } else if !self.shares(question).iter().any(|(v, _)| v.id == value.id) {
                let ruled: Vec<&Facts> = value.shares.iter().map(|s| &s.facts).collect();
                let with = ruled.iter().find(|f| self.holds(f) == Some(true)).map(|f| self.named(f));
                say(path, format!("\"{}\" does not go with {}", value.label, with.unwrap_or_default()));
            }
        }
        if let Some(message) = self.clock_fault(clock) {
            say("/clock".to_owned(), message);
        }
        out
    }

    /// What is wrong with a setting of a pattern.
    fn setting_fault(&self, id: &str, answer: &str) -> Option<String> {
        let setting = self.library.patterns.iter().flat_map(|p| &p.facts).find(|f| f.id == id);
        let Some(setting) = setting else { return Some(format!("\"{id}\" is neither a question nor a setting")) };
        let known: Vec<&str> = setting.values.iter().map(|v| v.id.as_str()).collect();
        (!known.contains(&answer))
            .then(|| format!("\"{answer}\" is no answer to \"{}\": one of {}", setting.label, known.join(", ")))
    }

    /// The answer that rules conditions out, in words.
    fn against(&self, facts: &Facts) -> Option<String> {
        facts.iter().find_map(|(id, accepted)| {
            let q = self.library.question(id)?;
            let answer = self.answer(q)?;
            (!accepted.iter().any(|x| x == answer)).then(|| label(q, answer))
        })
    }

    /// The answers that some conditions name, in words.
    fn named(&self, facts: &Facts) -> String {
        let of = |id: &String| {
            let q = self.library.question(id)?;
            Some(format!("\"{}\"", label(q, self.answer(q)?)))
        };
        facts.keys().filter_map(of).collect::<Vec<_>>().join(" and ")
    }

    /// Whether the clock is one that such things have.
    fn clock_fault(&self, clock: UsageClock) -> Option<String> {
        let thing = self.answers.get(THING)?;
        let road = self.answers.get("use").is_none_or(|u| u == "road");
        match (thing.as_str(), clock) {
            ("engine", UsageClock::Km) if !road => {
                Some("an engine in a boat or machine counts hours, not kilometres".to_owned())
            }
            ("car" | "motorcycle", UsageClock::Hours) => Some("it counts kilometres, not hours".to_owned()),
            _ => None,
        }
    }
}

fn label(question: &Question, answer: &str) -> String {
    question.values.iter().find(|v| v.id == answer).map_or_else(|| answer.to_owned(), |v| v.label.clone())
}

/// Both conditions on a fact; none where no answer meets both.
fn narrow(out: &mut Facts, id: &str, accepted: Vec<String>) -> Option<()> {
    let both = match out.get(id) {
        Some(before) => accepted.into_iter().filter(|x| before.contains(x)).collect(),
        None => accepted,
    };
    if both.is_empty() {
        return None;
    }
    out.insert(id.to_owned(), both);
    Some(())
}
