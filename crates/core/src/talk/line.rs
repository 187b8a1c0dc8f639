//! One line of talk, read.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::documents::claim::LifeForm;
use crate::documents::words::Telling;
use crate::talk::grammar::{Counts, Tagged};
use crate::talk::reader::Reader;
use crate::talk::said::{Chip, ChipKind, LifeSaid, Said, SignSaid, Voice, price_of, price_says};
use crate::talk::says::spoken;
use crate::talk::tables::Vocabulary;

/// The longest line that is read, in characters; what is longer is kept as a note.
pub const LONGEST: usize = 600;

/// What one is asked where a line leaves something open that is worth most.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum TalkQuestion {
    /// Which part it is about.
    WhichPart,
    /// How many have it.
    HowMany,
    /// When it comes.
    When,
    /// What it costs.
    WhatCost,
    /// Two figures contradict each other: which holds.
    WhichHolds,
}

/// A line, and what became of it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LineReading {
    /// As typed.
    pub text: String,
    /// Where it stands: the time at its head, a page.
    pub place: Option<String>,
    /// What was understood, stretch by stretch, in the order of the line.
    pub chips: Vec<Chip>,
    /// What it says; none where it is kept as a note.
    pub said: Option<Said>,
    /// The one question worth asking; none where nothing is open.
    pub question: Option<TalkQuestion>,
}

/// Reads a line. `before` is the part that the line before was about: "it" means that.
#[must_use]
pub fn read_line(text: &str, before: Option<&Said>, voice: Voice, vocabulary: &Vocabulary) -> LineReading {
    let note =
        |text: &str| LineReading { text: text.to_owned(), place: None, chips: Vec::new(), said: None, question: None };
    if text.chars().count() > LONGEST || text.contains(['<', '>', '{', '}']) {
        return note(text);
    }
    let mut reader = Reader {
        t: Tagged::of(text, vocabulary),
        said: Said::default(),
        chips: Vec::new(),
        voice,
        priced: false,
        from_at: None,
    };
    if reader.tells_a_story() {
        return note(text);
    }
    reader.read(before);
    reader.finished(text)
}

impl Reader<'_> {
    /// Somebody's own vehicle is an anecdote, not a claim on the family.
    fn tells_a_story(&self) -> bool {
        (0..self.t.tags.len()).any(|i| self.t.is(i, "story"))
    }

    fn read(&mut self, before: Option<&Said>) {
        self.source();
        self.builds();
        self.serials();
        self.variants();
        self.supply();
        self.unless_kept();
        self.stages();
        self.wears();
        self.along();
        self.routes();
        self.with_it();
        self.subject(before);
        self.intervals();
        self.lives();
        self.shares();
        self.unknown_part();
        self.signs();
        self.prices();
        self.marks();
        self.advice();
        self.revised();
    }

    /// Who says it.
    fn source(&mut self) {
        const WHO: [&str; 5] = ["source_workshop", "source_owners", "source_forum", "source_maker", "source_inspector"];
        for i in 0..self.t.tags.len() {
            let Some(who) = self.t.kind_of(i, &WHO) else { continue };
            let said_by = self.t.before(i).filter(|b| self.t.is(*b, "says"));
            let alone = self.t.before(i).is_none() && self.t.after(i).is_none_or(|a| self.t.tags[a].text == ":");
            let says = self.t.after(i).filter(|a| self.t.is(*a, "says") && self.t.before(i).is_none());
            let (from, to) = match (said_by, says) {
                (Some(b), _) => (b, i),
                (None, Some(a)) => (i, a),
                _ if alone => (i, i),
                _ => continue,
            };
            let id = who.strip_prefix("source_").unwrap_or(who);
            self.said.source = Some(if id == "forum" { "forums" } else { id }.to_owned());
            self.chip(ChipKind::Source, from, to, id);
            return;
        }
    }

    /// The part that the line is about: the first that nothing else took.
    fn subject(&mut self, before: Option<&Said>) {
        if self.said.supply.is_some() {
            return;
        }
        let part = |i: &usize| {
            let known = !self.t.tags[*i].taken && self.t.part(*i).is_some();
            known && !self.only_says_where(*i) && !self.belongs_to_another(*i)
        };
        let found = (0..self.t.tags.len()).find(part).map(|i| self.part_of_it(i));
        if self.names_another(found) {
            return;
        }
        if let Some(i) = found {
            let part = self.t.part(i).map(|p| self.t.vocabulary.parts[p].clone());
            self.said.name = Some(self.t.typed(i, i));
            self.said.known = true;
            let says = spoken(part.as_deref().unwrap_or_default());
            self.said.part = part;
            self.chip(ChipKind::Part, i, i, says);
            return;
        }
        let Some(before) = before.filter(|b| b.part.is_some()) else { return };
        // A way, a neighbour, something taken along, a later part: of the part of the line before.
        let revised = self.from_at.is_some() && (0..self.t.tags.len()).any(|i| self.t.is(i, "revised"));
        let follows = [self.said.with_it.len(), self.said.takes_along.len(), self.said.stages.len()] != [0; 3];
        if revised || follows || !self.said.routes.is_empty() {
            (self.said.part, self.said.name, self.said.known) =
                (before.part.clone(), before.name.clone(), before.known);
            return;
        }
        // "it", "the same".
        let it = (0..self.t.tags.len()).find(|i| self.t.is(*i, "it"));
        if let Some(i) = it.filter(|i| *i < 4) {
            (self.said.part, self.said.name, self.said.known) =
                (before.part.clone(), before.name.clone(), before.known);
            let says = spoken(before.part.as_deref().unwrap_or_default());
            self.chip(ChipKind::Part, i, i, says);
        }
    }

    /// "Gearbox second synchro" speaks of the synchro: what stands right behind a whole unit is a part of it.
    fn part_of_it(&self, at: usize) -> usize {
        let whole = matches!(self.t.tags[at].text.as_str(), "gearbox" | "transmission" | "engine" | "axle");
        let near = at + 1..self.t.tags.len().min(at + 3);
        let plain =
            |i: &usize| self.t.tags[*i].quantity.is_none() && self.t.tags[*i].text.starts_with(char::is_alphabetic);
        let mut behind = near.into_iter().take_while(plain);
        behind.find(|i| whole && self.t.part(*i).is_some() && !self.t.tags[*i].taken).unwrap_or(at)
    }

    /// "A pipe behind the manifold" speaks of no manifold, "rear axle bushes" of no axle.
    fn only_says_where(&self, at: usize) -> bool {
        const WHERE: [&str; 8] = ["behind", "beside", "above", "beneath", "alongside", "next", "underneath", "near"];
        let near = self.t.before(at).is_some_and(|b| WHERE.contains(&self.t.tags[b].text.as_str()));
        let axle = self.t.tags[at].text.ends_with("axle") || self.t.tags[at].text.ends_with("axles");
        near || axle && at + 1 < self.t.tags.len() && self.t.part(at + 1).is_some()
    }

    /// "Washer pump" is no pump that the table means, "ignition switch" no ignition: one word of a longer name.
    fn belongs_to_another(&self, at: usize) -> bool {
        const ANY: [&str; 8] = ["pump", "manifold", "heater", "hose", "switches", "panel", "leads", "coil"];
        const MADE_FOR: [&str; 13] = [
            "switch",
            "relay",
            "cable",
            "fuse",
            "lock",
            "bracket",
            "housing",
            "connector",
            "plug",
            "strap",
            "belt",
            "pedal",
            "stat",
        ];
        let word =
            |i: usize| self.t.tags.get(i).filter(|t| t.quantity.is_none() && t.segment == self.t.tags[at].segment);
        let unknown =
            |i: usize| word(i).is_some_and(|t| t.meanings.is_empty() && t.text.starts_with(char::is_alphabetic));
        let made_for = |i: usize| word(i).is_some_and(|t| MADE_FOR.iter().any(|m| one_or_many(&t.text, m)));
        let before = at.checked_sub(1);
        let behind = made_for(at + 1) || made_for(at) && before.is_some_and(|b| self.t.part(b).is_some());
        // "Valve seats recede" wears no interior.
        let seats = matches!(self.t.tags[at].text.as_str(), "seat" | "seats")
            && before
                .is_some_and(|b| matches!(self.t.tags[b].text.as_str(), "valve" | "valves" | "spring" | "injector"));
        if seats {
            return true;
        }
        let generic = ANY.contains(&self.t.tags[at].text.as_str());
        behind || generic && before.is_some_and(unknown)
    }

    /// Whether what stands before a colon has more unknown words than the part that is known in it: another part.
    fn names_another(&self, found: Option<usize>) -> bool {
        let colon = (0..self.t.tags.len()).find(|i| self.t.tags[*i].text == ":").or_else(|| self.head());
        let (Some(found), Some(colon)) = (found, colon) else { return false };
        let known = self.t.tags[found].text.split(' ').count();
        let unknown = |i: &usize| {
            let t = &self.t.tags[*i];
            t.meanings.is_empty() && t.quantity.is_none() && t.text.chars().count() > 2 && !t.taken && !self.t.fills(*i)
        };
        if found >= colon {
            return false;
        }
        // "Heater control valve" is no valve, "starter relay" no starter; "starter worn by stop-start" is one.
        let before = (0..found).filter(unknown).count();
        let after = (found + 1..colon).take_while(unknown).count();
        // Behind a name that only a comma ends, more must speak for it.
        let known = if self.t.tags[colon].text == ":" { known } else { known + 1 };
        before >= known || after >= known
    }

    /// Where the comma stands behind a line's head, if that is nothing but a name: "heater blower resistor, 60".
    fn head(&self) -> Option<usize> {
        let comma = (0..self.t.tags.len()).find(|i| self.t.tags[*i].text == ",")?;
        let name = |i: usize| {
            let t = &self.t.tags[i];
            let word = t.quantity.is_none() && t.text.starts_with(|c: char| c.is_alphabetic());
            // "Cooks itself": what ends so is a verb, or several of something.
            let doing = t.meanings.is_empty() && t.text.ends_with('s') && !t.text.ends_with("ss");
            word && !doing
                && (t.meanings.is_empty() || self.t.part(i).is_some() || self.t.fills(i) && !t.text.contains(' '))
        };
        (0..comma).all(name).then_some(comma)
    }

    /// How one notices.
    fn signs(&mut self) {
        const TELLING: [(&str, Telling); 4] =
            [("is", Telling::Is), ("sure", Telling::Sure), ("hint", Telling::Hint), ("clear", Telling::Clear)];
        let telling =
            (0..self.t.tags.len()).find_map(|i| TELLING.iter().find(|(kind, _)| self.t.is(i, kind)).map(|x| (i, x.1)));
        let place = (0..self.t.tags.len()).filter(|i| !self.t.tags[*i].taken).find_map(|i| Some((i, self.t.place(i)?)));
        let mut any = false;
        for i in 0..self.t.tags.len() {
            let Some(sign) = self.t.sign(i).filter(|_| !self.t.tags[i].taken && self.said.signs.len() < 4) else {
                continue;
            };
            let words = &self.t.vocabulary.signs[sign];
            let phase = place.map_or(words.phase, |(_, p)| self.t.vocabulary.places[p]);
            let says = telling.map_or(Telling::Clear, |t| t.1);
            let label = words.label.clone();
            if self.said.signs.iter().all(|s| s.label != label) {
                self.said.signs.push(SignSaid { label: label.clone(), phase, says });
                self.chip(ChipKind::Sign, i, i, label);
                any = true;
            }
        }
        if any {
            for (i, _) in telling.iter().map(|t| (t.0, ())).chain(place.iter().map(|p| (p.0, ()))) {
                self.t.tags[i].taken = true;
            }
        }
    }

    /// What it costs, and the hours it takes.
    fn prices(&mut self) {
        for i in 0..self.t.tags.len() {
            let Some(q) = self.t.tags[i].quantity.filter(|_| !self.t.tags[i].taken) else { continue };
            let before = self.t.before(i);
            // "Check the tyres when cold, 42 rear": how to do something, and no bill.
            let told_to = (0..i).find(|k| !self.t.fills(*k)).is_some_and(|k| self.t.is(k, "never"));
            let claims = !self.said.life.is_empty() || self.said.share.is_some() || !self.said.signs.is_empty();
            if told_to && q.unit == Counts::Nothing && !claims {
                continue;
            }
            // "Never gets above 70, 110", "every 200 hours": a reading, and no bill; how often, and no work.
            let reading = before.is_some_and(|b| matches!(self.t.tags[b].text.as_str(), "above" | "below"));
            let bare_reading = reading && q.unit == Counts::Nothing && self.another_price(i);
            let how_often = q.unit == Counts::Hours && before.is_some_and(|b| self.t.is(b, "every"));
            if bare_reading || how_often {
                continue;
            }
            // "P0016" is a code.
            let glued = |b: usize| self.t.tags[b].to == self.t.tags[i].from && self.t.tags[b].text.len() <= 2;
            let letter = |b: usize| self.t.tags[b].text != "x" && self.t.tags[b].text.starts_with(char::is_alphabetic);
            if q.unit == Counts::Nothing && i.checked_sub(1).is_some_and(|b| letter(b) && glued(b)) {
                continue;
            }
            // "Workshops say 160": a second voice on the first one's question.
            if before.is_some_and(|b| self.t.is(b, "says")) && self.said.source.is_some() && q.unit == Counts::Nothing {
                continue;
            }
            let about = before.filter(|b| self.t.is(*b, "about") && !self.t.tags[*b].taken);
            let cost = about.map_or(before, |b| self.t.before(b)).filter(|b| self.t.is(*b, "cost"));
            let labour = self.t.after(i).filter(|a| self.t.is(*a, "labour"));
            if q.unit == Counts::Hours && (!self.voice.hours || labour.is_some()) && q.low <= 200.0 {
                self.said.hours = Some([q.low, q.high.unwrap_or(q.low)]);
                let says = format!("{} h of work", q.low);
                self.chip(ChipKind::Hours, i, labour.unwrap_or(i), says);
                continue;
            }
            let bare = q.unit == Counts::Nothing && self.said.part.is_some() && (15.0..=60_000.0).contains(&q.low);
            let thousands = q.unit == Counts::Thousands && cost.is_some();
            if (q.unit == Counts::Money || bare || thousands)
                && (self.said.price.is_none() || cost.is_some() && !self.priced)
            {
                let (from, pieces) = self.pieces(i);
                self.said.price = price_of(pieces * q.low, q.high.map(|h| pieces * h));
                self.t.tags[from].taken |= from < i;
                self.priced = cost.is_some() || q.unit == Counts::Money;
                let says = self.said.price.map(price_says).unwrap_or_default();
                self.chip(ChipKind::Price, cost.or(about).unwrap_or(i), i, says);
            }
        }
    }

    /// "4 x 280": so many pieces, and where that begins.
    fn pieces(&self, at: usize) -> (usize, f64) {
        let times = at >= 2 && matches!(self.t.tags[at - 1].text.as_str(), "x" | "×" | "*");
        let count = times.then(|| self.t.tags[at - 2].quantity).flatten();
        let few = count.filter(|q| q.unit == Counts::Nothing && q.high.is_none() && (2.0..=16.0).contains(&q.low));
        few.map_or((at, 1.0), |q| (at - 2, q.low))
    }

    /// The reading, or a note where too much of the line was not understood.
    fn finished(mut self, text: &str) -> LineReading {
        self.chips.sort_by_key(|c| (c.from, c.to));
        let said = self.said.says_something() && !self.is_prose();
        let contradicts = said && contradicts(&self.said.life);
        let question = if contradicts {
            Some(TalkQuestion::WhichHolds)
        } else if said {
            question(&self.said)
        } else {
            let claims = !self.said.life.is_empty() || self.said.share.is_some();
            (self.said.part.is_none() && claims && !self.is_prose()).then_some(TalkQuestion::WhichPart)
        };
        // Without a statement nothing of it is placed: no chip promises what is not kept.
        let chips = if said || question.is_some() { self.chips } else { Vec::new() };
        let said = (said && !contradicts).then_some(self.said);
        LineReading { text: text.to_owned(), place: None, chips, said, question }
    }

    /// Whether more of it was left than understood.
    fn is_prose(&self) -> bool {
        // What stands apart from everything that was understood tells of something else: it is left, and no more.
        let understood: Vec<usize> = self.t.tags.iter().filter(|t| t.taken).map(|t| t.clause).collect();
        let words =
            (0..self.t.tags.len()).filter(|i| !self.t.fills(*i) && understood.contains(&self.t.tags[*i].clause));
        let (mut left, mut taken) = (0usize, 0usize);
        for i in words {
            let t = &self.t.tags[i];
            if t.taken {
                taken += 1;
            } else if t.meanings.is_empty() && t.quantity.is_none_or(|q| q.unit != Counts::Other) {
                left += 1;
            }
        }
        left > 3 && left > taken
    }
}

/// Whether a word is another, or several of it.
fn one_or_many(word: &str, one: &str) -> bool {
    word.strip_prefix(one).is_some_and(|ending| matches!(ending, "" | "s" | "es"))
}

/// Two figures of one clock that cannot both hold: from 200, rarely past 100.
fn contradicts(life: &[LifeSaid]) -> bool {
    let at = |l: &LifeSaid| match l.says {
        LifeForm::FromAbout { at } | LifeForm::AtLeast { at } => Some((at, true)),
        LifeForm::RarelyBeyond { at } => Some((at, false)),
        _ => None,
    };
    life.iter().any(|x| {
        life.iter().any(|y| match (at(x), at(y)) {
            (Some((least, true)), Some((most, false))) => x.clock == y.clock && least >= most,
            _ => false,
        })
    })
}

/// What is worth asking: share first, then when, then what it costs; a part that a pattern knows needs none.
fn question(said: &Said) -> Option<TalkQuestion> {
    if said.part.is_none() || said.known {
        return None;
    }
    if said.life.is_empty() && said.interval.is_none() {
        Some(TalkQuestion::When)
    } else if said.share.is_none() && said.interval.is_none() {
        Some(TalkQuestion::HowMany)
    } else if said.price.is_none() && said.hours.is_none() {
        Some(TalkQuestion::WhatCost)
    } else {
        None
    }
}
