//! What reads a line: its tags, and what was made of them so far.

use crate::documents::claim::LifeClock;
use crate::talk::grammar::{Counts, Tagged};
use crate::talk::said::{Chip, ChipKind, Said, Voice};

/// What reads a line.
pub(super) struct Reader<'v> {
    pub t: Tagged<'v>,
    pub said: Said,
    pub chips: Vec<Chip>,
    pub voice: Voice,
    /// Whether the price was said to be one.
    pub priced: bool,
    /// The build from which on something holds, by its tag.
    pub from_at: Option<usize>,
}

impl Reader<'_> {
    /// A chip over some tags, which are then taken.
    pub fn chip(&mut self, kind: ChipKind, from: usize, to: usize, says: impl Into<String>) {
        let tags = &mut self.t.tags;
        self.chips.push(Chip { kind, from: tags[from].from, to: tags[to].to, says: says.into() });
        tags[from..=to].iter_mut().for_each(|t| t.taken = true);
    }

    /// A figure on the sheet's clock, or in years.
    pub fn on_clock(&self, value: f64, unit: Counts) -> Option<(LifeClock, f64)> {
        let km = |km: f64| if self.voice.hours { None } else { Some((LifeClock::Usage, km)) };
        // Nobody means eighty miles: "80-100 mi" counts thousands.
        let meant = if value < 400.0 { value * 1000.0 } else { value };
        match unit {
            Counts::Km => km(meant),
            Counts::Miles => km(meant * 1.609_344),
            Counts::Hours => self.voice.hours.then_some((LifeClock::Usage, value)),
            Counts::Years => Some((LifeClock::Age, value)),
            Counts::Months => Some((LifeClock::Age, value / 12.0)),
            Counts::Thousands | Counts::Nothing if self.voice.hours => Some((LifeClock::Usage, value)),
            Counts::Thousands => km(value * if self.voice.miles { 1.609_344 } else { 1.0 }),
            Counts::Nothing => {
                let thousands = if value < 1000.0 { value * 1000.0 } else { value };
                km(thousands * if self.voice.miles { 1.609_344 } else { 1.0 })
            }
            Counts::Money | Counts::Percent | Counts::Calendar | Counts::Other => None,
        }
    }
}
