//! Method §4, the odometer: readings over time, what is wrong with them, and what the true usage may be.
//!
//! Every dated figure counts as a reading: those of tests and adverts, those on ledger entries, and what
//! the clock shows now. They are followed by date. A fall is explained where it can be, by a run of
//! miles read as kilometres (or the other way) or by a five-digit clock that went round; what cannot be
//! explained is a clock set back or exchanged, and the distance gone meanwhile is at least what the clock
//! lost. The judgement runs on the least usage that the readings allow unless the person chooses.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::assumptions::Assumptions;
use crate::candidate::{CampaignState, Candidate, DateKnown, Evidence, LedgerEntry, PointRef, Reading};
use crate::family::{Family, PartGrade};
use crate::subject::fit;
use crate::units::{KM_PER_MILE, Usage, UsageClock, UsageUnit, years_between};
use crate::value;

/// Where a reading comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Origin {
    /// A reading of the document.
    Reading {
        /// Index into the readings.
        index: usize,
    },
    /// A ledger entry.
    Entry {
        /// Index into the ledger.
        index: usize,
    },
    /// What the clock shows on the day of judgement.
    Now,
}

/// A reading as it was followed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Seen {
    /// When.
    #[schema(value_type = String, format = Date)]
    pub date: Date,
    /// As stated.
    pub shown: Usage,
    /// True usage at that time by the explanation chosen, on the candidate's clock; none where the
    /// reading is set aside.
    pub usage: Option<f64>,
    /// Where it comes from.
    pub origin: Origin,
    /// In words.
    pub source: String,
}

/// What is wrong with a pair of readings.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum AnomalyKind {
    /// The clock shows less than before: set back, or exchanged.
    Fall,
    /// One reading stands out and the next ones go on as if it were not there.
    Misread,
    /// Miles written down as kilometres, or the other way.
    WrongUnit,
    /// A five-digit clock that went round.
    Wrap,
    /// Much more a year than this vehicle is used to.
    Fast,
    /// Much less a year than this vehicle is used to: parked, or the clock stopped.
    Slow,
    /// Too long without a reading.
    Gap,
}

/// Something wrong with the readings.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Anomaly {
    /// What.
    pub kind: AnomalyKind,
    /// The earlier reading, as an index into [`Odometer::readings`].
    pub from: usize,
    /// The later one.
    pub to: usize,
    /// Least true usage today that is consistent with it, on the candidate's clock.
    pub least: f64,
    /// Most true usage today that is consistent with it.
    pub most: f64,
    /// Years between the two.
    pub years: f64,
    /// Usage a year between the two, corrected.
    pub rate: f64,
}

/// A vehicle's usual usage a year, by its own readings.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct UsualRate {
    /// Median of the rates.
    pub median: f64,
    /// Their robust deviation: 1.4826 times the median absolute deviation.
    pub spread: f64,
    /// How many rates there are.
    pub count: usize,
}

/// What the readings say together.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Odometer {
    /// What the clock shows now.
    pub shown: f64,
    /// What the judgement runs on.
    pub usage: f64,
    /// The least that the readings allow.
    pub least: f64,
    /// The most that the readings allow.
    pub most: f64,
    /// The least that is counted with: the person's, or the readings'.
    pub low: f64,
    /// The most that is counted with: the person's, or the readings'.
    pub high: f64,
    /// Whether the person chose.
    pub chosen: bool,
    /// Whether a paper proves the choice.
    pub proved: bool,
    /// Every reading, in order of time; the last is what the clock shows now.
    pub readings: Vec<Seen>,
    /// What is wrong with them.
    pub anomalies: Vec<Anomaly>,
    /// The usual rate, where there are rates.
    pub rate: Option<UsualRate>,
}

impl Odometer {
    /// The anomaly that stands between the buyer and the purchase: one that explains the clock by something
    /// that has yet to be proved, or leaves much of today's usage open. A vehicle that stood for a while is
    /// pointed out and no more.
    #[must_use]
    pub fn gate(&self, a: &Assumptions) -> Option<&Anomaly> {
        use AnomalyKind as K;
        if self.proved {
            return None;
        }
        self.anomalies
            .iter()
            .filter(|x| matches!(x.kind, K::Fall | K::WrongUnit | K::Wrap) || x.most > x.least * (1.0 + a.open_usage))
            .min_by_key(|x| x.kind)
    }
}

/// A reading on its way through.
struct Point {
    date: Date,
    slack: i32,
    age: f64,
    raw: f64,
    unit: UsageUnit,
    shown: Usage,
    origin: Origin,
    source: String,
    factor: f64,
    offset: f64,
    aside: bool,
}

impl Point {
    fn value(&self) -> f64 {
        self.raw * self.factor + self.offset
    }
}

/// Median of figures; none of none.
fn median(values: &mut [f64]) -> Option<f64> {
    (!values.is_empty()).then(|| value::median(values))
}

/// Median and robust deviation (1.4826 × the median absolute deviation) of rates; none of none.
#[must_use]
pub fn usual_rate(rates: &[f64]) -> Option<UsualRate> {
    let median_rate = median(&mut rates.to_vec())?;
    let mut off: Vec<f64> = rates.iter().map(|r| (r - median_rate).abs()).collect();
    let spread = 1.4826 * median(&mut off)?;
    Some(UsualRate { median: median_rate, spread, count: rates.len() })
}

/// What a candidate's readings say.
#[must_use]
pub fn read(c: &Candidate, a: &Assumptions) -> Odometer {
    let mut points = gather(c);
    let mut work = Work { a, clock: c.usage.unit.clock(), anomalies: Vec::new(), extra: 0.0 };
    work.follow(&mut points);
    let last = points.len() - 1;
    let shown = points[last].raw;
    let least = points[last].value();
    let rate = work.rates(&points);
    let most = least + work.extra;
    let choice = c.odometer.as_ref();
    let usage = choice.map_or(least, |t| t.usage.on_clock());
    let low = choice.and_then(|t| t.low).map_or(least, Usage::on_clock).min(usage);
    let high = choice.and_then(|t| t.high).map_or(most, Usage::on_clock).max(usage);
    work.choose(&mut points, least, usage);
    let anomalies = work.anomalies.into_iter().map(|x| x.today(least)).collect();
    let readings = points
        .into_iter()
        .map(|p| Seen {
            date: p.date,
            shown: p.shown,
            usage: (!p.aside).then(|| p.value()),
            origin: p.origin,
            source: p.source,
        })
        .collect();
    Odometer {
        shown,
        usage,
        least,
        most,
        low,
        high,
        chosen: choice.is_some(),
        proved: choice.is_some_and(|t| t.proved),
        readings,
        anomalies,
        rate,
    }
}

/// Every dated figure in order of time; the last is what the clock shows now.
fn gather(c: &Candidate) -> Vec<Point> {
    let point = |date: Date, known: DateKnown, shown: Usage, origin, source: &str| Point {
        date,
        slack: known.slack_days(),
        age: years_between(c.built, date),
        raw: shown.on_clock(),
        unit: shown.unit,
        shown,
        origin,
        source: source.to_owned(),
        factor: 1.0,
        offset: 0.0,
        aside: false,
    };
    let readings = c
        .readings
        .iter()
        .enumerate()
        .map(|(index, r)| point(r.date, r.known, r.usage, Origin::Reading { index }, &r.source));
    let entries =
        c.ledger.iter().enumerate().map(|(index, e)| point(e.date, e.known, e.usage, Origin::Entry { index }, &e.note));
    let mut points: Vec<Point> = readings.chain(entries).collect();
    points.sort_by(|x, y| x.date.cmp(&y.date).then(x.raw.total_cmp(&y.raw)));
    // A month stands for its middle: within what its true day may have been, the clock decides the order.
    if points.iter().any(|p| p.slack > 0) {
        for _ in 0..64 {
            let mut moved = false;
            for i in 1..points.len() {
                let (x, y) = (&points[i - 1], &points[i]);
                let apart = y.date.since(x.date).map_or(i32::MAX, |s| s.get_days());
                if x.raw > y.raw && x.slack + y.slack > 0 && apart <= x.slack + y.slack {
                    points.swap(i - 1, i);
                    moved = true;
                }
            }
            if !moved {
                break;
            }
        }
    }
    points.push(point(c.as_of, DateKnown::Day, c.usage, Origin::Now, ""));
    points
}

/// An anomaly by what it adds to the least usage today.
struct Found {
    kind: AnomalyKind,
    from: usize,
    to: usize,
    extra: f64,
    years: f64,
    rate: f64,
}

impl Found {
    fn today(self, least: f64) -> Anomaly {
        let Self { kind, from, to, extra, years, rate } = self;
        Anomaly { kind, from, to, least, most: least + extra, years, rate }
    }
}

struct Work<'a> {
    a: &'a Assumptions,
    clock: UsageClock,
    anomalies: Vec<Found>,
    /// What today's true usage may lie above the least.
    extra: f64,
}

impl Work<'_> {
    fn slack(&self) -> f64 {
        match self.clock {
            UsageClock::Km => self.a.reading_slack_km,
            UsageClock::Hours => self.a.reading_slack_hours,
        }
    }

    fn possible(&self) -> f64 {
        match self.clock {
            UsageClock::Km => self.a.rate_possible_km,
            UsageClock::Hours => self.a.rate_possible_hours,
        }
    }

    /// Follows the readings in order of time, explaining each fall.
    fn follow(&mut self, points: &mut [Point]) {
        let rises: Vec<f64> = points
            .windows(2)
            .filter(|w| self.tells_a_rate(w[1].age - w[0].age) && w[1].raw > w[0].raw)
            .map(|w| (w[1].raw - w[0].raw) / (w[1].age - w[0].age))
            .collect();
        let usual = median(&mut rises.clone());
        let mut i = 1;
        while i < points.len() {
            points[i].offset = points[i - 1].offset;
            points[i].factor = 1.0;
            if points[i].value() >= points[i - 1].value() - self.slack() {
                i += 1;
                continue;
            }
            i = self
                .unit_run(points, i, usual)
                .or_else(|| self.earlier_unit_run(points, i))
                .or_else(|| self.wrapped(points, i, usual))
                .or_else(|| self.misread(points, i, usual))
                .unwrap_or_else(|| self.fell(points, i, usual));
        }
    }

    fn tells_a_rate(&self, years: f64) -> bool {
        years * crate::units::DAYS_PER_YEAR >= self.a.rate_days
    }

    fn note(&mut self, points: &[Point], kind: AnomalyKind, from: usize, to: usize, extra: f64) {
        let years = points[to].age - points[from].age;
        let gone = points[to].value() - points[from].value();
        let rate = if years > 0.0 { gone / years } else { 0.0 };
        self.extra += extra;
        self.anomalies.push(Found { kind, from, to, extra, years, rate });
    }

    /// A run of readings from `i` on that are right when taken for miles; the index to go on with.
    fn unit_run(&mut self, points: &mut [Point], i: usize, usual: Option<f64>) -> Option<usize> {
        if self.clock != UsageClock::Km {
            return None;
        }
        let before = points[i - 1].value();
        let offset = points[i - 1].offset;
        let (mut end, mut last) = (i, before);
        while end < points.len() {
            let as_miles = points[end].raw * KM_PER_MILE + offset;
            // The run ends where a reading goes on from it as it stands.
            let stands = end > i && points[end].raw + offset >= last - self.slack();
            if stands || points[end].unit != UsageUnit::Km || as_miles < last - self.slack() {
                break;
            }
            last = as_miles;
            end += 1;
        }
        if end == i {
            return None;
        }
        let ratio = |true_usage: f64, k: usize| ((true_usage - offset) / points[k].raw / KM_PER_MILE - 1.0).abs();
        // Between two readings that stand, any usage between them may have been the true one.
        let closed = points.get(end).is_some_and(|p| p.raw + offset >= last - self.slack());
        let known = if closed {
            let above = (points[end].raw + offset).max(before);
            (i..end)
                .all(|k| ratio((points[k].raw * KM_PER_MILE + offset).clamp(before, above), k) <= self.a.miles_ratio)
        } else {
            // A run that lasts to this day is known by its beginning, against what its usual rate makes
            // likely, and by its rate: miles pass more slowly than kilometres.
            let likely = before + usual? * (points[i].age - points[i - 1].age);
            let last = &points[end - 1];
            let years = last.age - points[i].age;
            let slow = years < 1.0 || (last.raw - points[i].raw) / years < usual? / KM_PER_MILE.sqrt();
            ratio(likely, i) <= self.a.miles_ratio && slow
        };
        if !known {
            return None;
        }
        points[i..end].iter_mut().for_each(|p| (p.factor, p.offset) = (KM_PER_MILE, offset));
        self.note(points, AnomalyKind::WrongUnit, i - 1, i, 0.0);
        Some(end)
    }

    /// Readings before `i` that are right when taken for kilometres written down as miles.
    fn earlier_unit_run(&mut self, points: &mut [Point], i: usize) -> Option<usize> {
        let (offset, now) = (points[i].offset, points[i].value());
        for from in (1..i).rev() {
            let p = &points[from];
            if p.unit != UsageUnit::Miles || p.aside || (p.factor - 1.0).abs() > 1e-12 {
                return None;
            }
            let start = &points[from - 1];
            if start.value() > now || points[i].age <= start.age {
                continue;
            }
            let fits = (from..i).all(|k| {
                let share = (points[k].age - start.age) / (points[i].age - start.age);
                let e = start.value() + (now - start.value()) * share;
                (points[k].value() / e / KM_PER_MILE - 1.0).abs() <= self.a.miles_ratio
            });
            let falls = start.value() <= points[from].raw / KM_PER_MILE + offset + self.slack();
            if fits && falls {
                points[from..i].iter_mut().for_each(|p| p.factor = 1.0 / KM_PER_MILE);
                self.note(points, AnomalyKind::WrongUnit, from - 1, from, 0.0);
                return Some(i + 1);
            }
        }
        None
    }

    /// A five-digit clock that went round between `i − 1` and `i`.
    fn wrapped(&mut self, points: &mut [Point], i: usize, usual: Option<f64>) -> Option<usize> {
        let unit = points[i].unit;
        let round = 100_000.0 * unit.in_clock();
        let five_digits = points.iter().all(|p| p.unit == unit && p.raw < round);
        let years = points[i].age - points[i - 1].age;
        let gone = points[i].value() + round - points[i - 1].value();
        let most = usual.map_or_else(|| self.possible(), |r| 2.0 * r) * years.max(0.25);
        if self.clock != UsageClock::Km || !five_digits || gone < 0.0 || gone > most {
            return None;
        }
        points[i].offset += round;
        self.note(points, AnomalyKind::Wrap, i - 1, i, 0.0);
        Some(i + 1)
    }

    /// One reading that stands out: this one, where the next goes on from the one before it, or the one
    /// before, where this one goes on from the one before that.
    fn misread(&mut self, points: &mut [Point], i: usize, usual: Option<f64>) -> Option<usize> {
        let offset = points[i].offset;
        let before = points[i - 1].value();
        let goes_on = points.get(i + 1).is_some_and(|n| n.raw + offset >= before - self.slack());
        if goes_on {
            // Set back or misread: whichever leaves the next rate nearer to the usual one.
            let next = &points[i + 1];
            let off = |gone: f64, since: f64| {
                let rate = gone.max(1.0) / (next.age - since).max(0.08);
                (rate / usual.unwrap_or_else(|| self.possible())).ln().abs()
            };
            let misread = off(next.raw + offset - before, points[i - 1].age);
            let set_back = off(next.raw - points[i].raw, points[i].age);
            if set_back < misread {
                return None;
            }
            let lost = before - points[i].value();
            points[i].aside = true;
            self.note(points, AnomalyKind::Misread, i - 1, i, if set_back < misread + 1.0 { lost } else { 0.0 });
            // It keeps the place of the one before it, so that the next is measured against that.
            (points[i].factor, points[i].offset) = (0.0, before);
            (points[i + 1].factor, points[i + 1].offset) = (1.0, offset);
            return Some(i + 2);
        }
        let base = if i >= 2 { points[i - 2].value() } else { 0.0 };
        let since = points[i - 1].age - if i >= 2 { points[i - 2].age } else { 0.0 };
        let jump = points[i - 1].value() - base;
        let usual = usual.unwrap_or_else(|| self.possible());
        let stands_out =
            since > 0.0 && jump / since.max(0.25) > 3.0 * usual && points[i].value() >= base - self.slack();
        if !stands_out {
            return None;
        }
        // Or the clock was set back: then all that it lost was driven, and what came between as well.
        let hidden = points[i - 1].value() - points[i].value();
        self.note(points, AnomalyKind::Misread, i - 1, i, hidden);
        points[i - 1].aside = true;
        Some(i + 1)
    }

    /// What cannot be explained: set back or exchanged. Between the two readings it ran on unseen.
    fn fell(&mut self, points: &mut [Point], i: usize, usual: Option<f64>) -> usize {
        let lost = points[i - 1].value() - points[i].value();
        points[i].offset += lost;
        let years = points[i].age - points[i - 1].age;
        let unseen = usual.unwrap_or_else(|| self.possible()) * 2.0 * years;
        self.note(points, AnomalyKind::Fall, i - 1, i, unseen);
        i + 1
    }

    /// The usual rate; outlying rates and long gaps are noted.
    fn rates(&mut self, points: &[Point]) -> Option<UsualRate> {
        let kept: Vec<usize> = (0..points.len()).filter(|&i| !points[i].aside).collect();
        // From build on: (from, to, years, rate); readings too close together are passed over.
        let mut stretches: Vec<(Option<usize>, usize, f64, f64)> = Vec::new();
        let (mut from, mut age, mut at): (Option<usize>, f64, f64) = (None, 0.0, 0.0);
        for &k in &kept {
            let (years, gone) = (points[k].age - age, points[k].value() - at);
            let fell = self.anomalies.iter().any(|f| f.kind == AnomalyKind::Fall && f.to == k);
            if fell {
                (from, age, at) = (Some(k), points[k].age, points[k].value());
            } else if self.tells_a_rate(years) {
                stretches.push((from, k, years, gone.max(0.0) / years));
                (from, age, at) = (Some(k), points[k].age, points[k].value());
            }
        }
        let rates: Vec<f64> = stretches.iter().map(|s| s.3).collect();
        let usual = usual_rate(&rates)?;
        #[allow(clippy::cast_precision_loss)]
        let enough = rates.len() as f64 >= self.a.rate_count;
        let spread = usual.spread.max(self.a.rate_spread_least * usual.median);
        for &(from, to, years, rate) in stretches.iter().filter(|_| enough) {
            let off = (rate - usual.median) / spread;
            let Some(from) = from.filter(|_| off.abs() > self.a.rate_deviations) else { continue };
            if off > 0.0 {
                self.note(points, AnomalyKind::Fast, from, to, 0.0);
            } else {
                self.note(points, AnomalyKind::Slow, from, to, (usual.median - rate) * years);
            }
        }
        for k in 1..points.len() {
            if points[k].age - points[k - 1].age > self.a.gap_months / 12.0 {
                self.note(points, AnomalyKind::Gap, k - 1, k, 0.0);
            }
        }
        self.anomalies.sort_by_key(|f| (f.to, f.kind));
        Some(usual)
    }

    /// Moves the readings to what the person chose: what was gone unseen lies before the last fall.
    fn choose(&self, points: &mut [Point], least: f64, usage: f64) {
        let by = usage - least;
        if by.abs() < 0.5 {
            return;
        }
        let falls = |f: &&Found| matches!(f.kind, AnomalyKind::Fall | AnomalyKind::Slow) || f.extra > 0.0;
        let from = self.anomalies.iter().filter(falls).map(|f| f.to).max().unwrap_or(points.len() - 1);
        points[from..].iter_mut().for_each(|p| p.offset += by);
    }
}

/// The candidate as its papers, read with care, show it: every reading and entry at its true usage, the
/// entries' readings among the readings, and campaigns proved done as the renewals that they were.
#[must_use]
pub fn settled(c: &Candidate, families: &[Family], a: &Assumptions) -> (Candidate, Odometer) {
    let odometer = read(c, a);
    let unit = match c.usage.unit.clock() {
        UsageClock::Km => UsageUnit::Km,
        UsageClock::Hours => UsageUnit::Hours,
    };
    let mut out = c.clone();
    out.readings = Vec::with_capacity(odometer.readings.len());
    for seen in &odometer.readings {
        let value = seen.usage.unwrap_or_else(|| seen.shown.on_clock()).clamp(0.0, odometer.usage);
        let usage = Usage { value, unit };
        match seen.origin {
            Origin::Entry { index } => out.ledger[index].usage = usage,
            Origin::Now => out.usage = Usage { value: odometer.usage, unit },
            Origin::Reading { .. } => {}
        }
        if seen.usage.is_some() && seen.origin != Origin::Now {
            out.readings.push(Reading { date: seen.date, usage, source: String::new(), known: DateKnown::Day });
        }
    }
    out.ledger.extend(campaign_entries(&out, families, a));
    (out, odometer)
}

/// Campaigns proved done, as renewals with the revised part.
fn campaign_entries(c: &Candidate, families: &[Family], a: &Assumptions) -> Vec<LedgerEntry> {
    let concerned = families.iter().flat_map(|f| f.campaigns.iter().map(move |x| (f, x)));
    concerned
        .filter(|(f, x)| !x.revises.is_empty() && fit(&x.applies, f, c, a).is_some())
        .filter_map(|(f, x)| {
            let answer = c.campaign_answer(&f.id, &x.id).filter(|k| k.state == CampaignState::Proved)?;
            let date = answer.date.unwrap_or(c.built).clamp(c.built, c.as_of);
            let share = years_between(c.built, date) / years_between(c.built, c.as_of).max(1e-9);
            let along = c.usage.value * share.clamp(0.0, 1.0);
            let value = answer.usage.map_or(along, Usage::on_clock).min(c.usage.value);
            Some(LedgerEntry {
                date,
                usage: Usage { value, unit: c.usage.unit },
                renews: x.revises.iter().map(|p| PointRef { family: f.id.clone(), point: p.clone() }).collect(),
                performs: Vec::new(),
                grade: PartGrade::Original,
                revised: true,
                evidence: Evidence::InvoiceNamingPart,
                note: x.name.clone(),
                who: String::new(),
                cost: None,
                known: DateKnown::Day,
            })
        })
        .collect()
}
