//! When a part comes, as a line says it.

use crate::documents::claim::LifeClock;
use crate::documents::words::NoticeLength;
use crate::talk::grammar::{Counts, Quantity};
use crate::talk::reader::Reader;
use crate::talk::said::{ChipKind, LifeSaid};
use crate::talk::says::{life_form, life_says};

impl Reader<'_> {
    /// When it comes.
    pub(super) fn lives(&mut self) {
        const FORMS: [&str; 5] = ["rarely_beyond", "at_least", "between", "from_about", "about"];
        // "About 1 in 30" is a share.
        let share = self.counted_share().map(|(from, to, _)| from..=to);
        for i in 0..self.t.tags.len() {
            let Some(q) = self.t.tags[i].quantity.filter(|_| !self.t.tags[i].taken) else { continue };
            if share.as_ref().is_some_and(|s| s.contains(&i)) {
                continue;
            }
            let before = self.t.before(i).filter(|b| !self.t.tags[*b].taken);
            let by = before.is_none()
                && i.checked_sub(1).is_some_and(|b| self.t.tags[b].text == "by" && !self.t.tags[b].taken)
                || before.is_some_and(|b| self.t.tags[b].text == "by");
            let each = before.is_some_and(|b| self.t.is(b, "every"));
            let negated = before.and_then(|b| self.negated(b));
            let form = match before.and_then(|b| self.t.kind_of(b, &FORMS)) {
                _ if negated.is_some() => negated.map(|(_, form)| form),
                None if by => Some("rarely_beyond"),
                None if before.is_some_and(|b| self.t.is(b, "under")) => Some("rarely_beyond"),
                None if each => Some("about"),
                None if self.onwards(i) => Some("from_about"),
                None if self.is_range_beside_a_price(i, q) => Some("between"),
                form => form,
            };
            let said_unit =
                matches!(q.unit, Counts::Km | Counts::Miles | Counts::Hours | Counts::Years | Counts::Months);
            let labour = q.unit == Counts::Hours
                && (!self.voice.hours || self.t.after(i).is_some_and(|a| self.t.is(a, "labour")));
            if labour || self.is_rate(i) || self.is_price(i, q, form) || self.counts_pieces(i, q) || self.is_covered(i)
            {
                continue;
            }
            // A bare figure counts only beside a part that is known, or behind a colon.
            let placed = self.said.known || self.t.tags[..i].iter().any(|t| t.text == ":");
            if !said_unit && (form.is_none() || !placed) && q.unit != Counts::Thousands {
                continue;
            }
            // "Surface at 8 years, holes by 12": a small figure behind years is years.
            let of_age = self.said.life.last().is_some_and(|l| l.clock == LifeClock::Age);
            let unit = if q.unit == Counts::Nothing && q.low <= 40.0 && of_age { Counts::Years } else { q.unit };
            let Some((clock, low)) = self.on_clock(q.low, unit) else { continue };
            let high = q.high.and_then(|h| self.on_clock(h, unit)).map(|h| h.1);
            let Some(says) = life_form(form, low, high) else { continue };
            // Thirty years of use, two million kilometres: no claim on a part goes beyond.
            let (least, most) = match (clock, self.voice.hours) {
                (LifeClock::Age, _) => (0.2, 40.0),
                (_, true) => (20.0, 60_000.0),
                _ => (500.0, 1_000_000.0),
            };
            if low < least || high.unwrap_or(low) > most {
                continue;
            }
            if clock == LifeClock::Usage && self.is_notice(i, low) {
                continue;
            }
            let from = before.filter(|b| form.is_some() && !self.t.tags[*b].taken).unwrap_or(i);
            let says_text = life_says(&says, clock, self.voice.hours);
            if let Some((never, _)) = negated {
                self.t.tags[never].taken = true;
            }
            self.said.life.push(LifeSaid { clock, says });
            self.chip(ChipKind::Claim, from, i, says_text);
        }
    }

    /// "Maker pays until 8 years or 160k": how long somebody else pays.
    fn is_covered(&self, at: usize) -> bool {
        const COVERS: [&str; 8] = ["pays", "pay", "paid", "warranty", "guarantee", "guaranteed", "covered", "covers"];
        let clause = self.t.tags[at].clause;
        let mut before = self.t.tags[..at].iter().filter(|t| t.clause == clause);
        before.any(|t| t.text.split(' ').any(|word| COVERS.contains(&word)))
    }

    /// "45 each, 4 of them": so many pieces.
    fn counts_pieces(&self, at: usize, q: Quantity) -> bool {
        let text = |i: usize| self.t.tags.get(i).map_or("", |t| t.text.as_str());
        q.unit == Counts::Nothing && text(at + 1) == "of" && matches!(text(at + 2), "them" | "these" | "those")
    }

    /// "Never seen one fail under 300k", "rarely one that goes past 90": where the "never" stands, and what it makes
    /// of the limit at a tag.
    fn negated(&self, limit: usize) -> Option<(usize, &'static str)> {
        let form = match () {
            () if self.t.is(limit, "under") => "at_least",
            () if self.t.is(limit, "from_about") && self.t.tags[limit].text != "from" => "rarely_beyond",
            () => return None,
        };
        let clause = self.t.tags[limit].clause;
        let mut before = (0..limit).rev().take_while(|i| self.t.tags[*i].clause == clause);
        before.find(|i| self.t.is(*i, "negates") && !self.t.tags[*i].taken).map(|i| (i, form))
    }

    /// "A warning, then no start within 1000 km": how much notice it gives, and no life.
    fn is_notice(&mut self, at: usize, usage: f64) -> bool {
        let (short, long) = if self.voice.hours { (30.0, 150.0) } else { (3_000.0, 12_000.0) };
        let within = at > 0 && self.t.tags[at - 1].text == "within" && usage <= long;
        if within {
            let length = if usage <= short { NoticeLength::Short } else { NoticeLength::Long };
            self.said.notice = self.said.notice.or(Some(length));
            let says = self.t.typed(at - 1, at);
            self.chip(ChipKind::Notice, at - 1, at, says);
        }
        within
    }

    /// "A litre per 1000 km", "1 litre every 1000 km": what it uses, and no life.
    pub(super) fn is_rate(&self, figure: usize) -> bool {
        let Some(before) = figure.checked_sub(1).and_then(|b| self.t.tags.get(b)) else { return false };
        let volume = figure.checked_sub(2).and_then(|b| self.t.tags[b].quantity);
        let counted = volume.is_some_and(|q| q.unit == Counts::Other) && self.t.is(figure - 1, "every");
        let named = ["litre every", "litres every", "pint every"].iter().any(|v| before.text.ends_with(v));
        // No damper or bumper.
        counted || named || before.text == "per" || before.text.ends_with(" per")
    }

    /// "Year eight onwards", "120k plus", "120k on".
    pub(super) fn onwards(&self, at: usize) -> bool {
        // "2016-on."
        let dash = usize::from(self.t.tags.get(at + 1).is_some_and(|t| t.text == "-"));
        self.t.tags.get(at + 1 + dash).is_some_and(|t| match t.text.as_str() {
            "onwards" | "onward" | "upwards" | "plus" => true,
            "on" if dash == 1 => true,
            "on" | "up" => {
                let next = self.t.tags.get(at + 2 + dash);
                next.is_none_or(|n| matches!(n.text.as_str(), "," | ":") || n.segment != t.segment)
            }
            // "90 + 1 hour" is a sum.
            "+" => t.from == self.t.tags[at].to,
            _ => false,
        })
    }

    /// "Wheel bearings 120-150, 190 a corner": two bare figures are a run where another figure is the price.
    fn is_range_beside_a_price(&self, at: usize, q: Quantity) -> bool {
        let bare = |q: &Quantity| q.unit == Counts::Nothing;
        let run = q.high.is_some_and(|h| q.low >= 20.0 && h <= 400.0) && bare(&q) && self.said.known;
        run && self.said.life.is_empty() && self.another_price(at)
    }

    /// Whether a figure that may be a price stands behind a tag.
    pub(super) fn another_price(&self, at: usize) -> bool {
        let price = |q: Quantity| q.unit == Counts::Money || q.unit == Counts::Nothing && q.low >= 15.0;
        self.t.tags[at + 1..].iter().any(|t| t.quantity.is_some_and(price))
    }

    /// Whether a bare figure is a price rather than a life.
    fn is_price(&self, at: usize, q: Quantity, form: Option<&str>) -> bool {
        let asked = self.t.before(at).is_some_and(|b| {
            self.t.is(b, "cost") || self.t.before(b).is_some_and(|c| self.t.is(c, "cost") && self.t.is(b, "about"))
        });
        let apiece = q.unit == Counts::Nothing && (15.0..=60_000.0).contains(&q.low) && self.t.is(at + 1, "apiece");
        if q.unit == Counts::Money || asked || apiece {
            return true;
        }
        // "At 2500-3500, 900" on a clock of hours: another figure is the price.
        let at_that = self.t.before(at).is_some_and(|b| self.t.tags[b].text == "at");
        if self.voice.hours && at_that && q.high.is_some() && self.another_price(at) {
            return false;
        }
        // "about 400" after a life was said, or too far for one.
        q.unit == Counts::Nothing
            && form == Some("about")
            && (!self.said.life.is_empty() || self.said.interval.is_some() || q.low > 400.0)
    }
}
