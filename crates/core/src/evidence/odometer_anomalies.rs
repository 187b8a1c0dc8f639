//! Following the readings by date. A fall is explained where it can be: by a run of miles read as kilometres
//! (or the other way), or by a five-digit clock that went round. What cannot be explained is a clock set back
//! or exchanged; the distance driven meanwhile is then at least what the clock lost.
//!
//! docs/METHOD.md, section 4.

use jiff::civil::Date;

use crate::base::statistics::median;
use crate::base::units::{KM_PER_MILE, Usage, UsageClock, UsageUnit};
use crate::documents::assumptions::Assumptions;
use crate::evidence::odometer_result::{Anomaly, AnomalyKind, Origin, UsualRate, usual_rate};

/// A reading on its way through.
pub(crate) struct Point {
    pub(crate) date: Date,
    pub(crate) slack: i32,
    pub(crate) age: f64,
    pub(crate) raw: f64,
    pub(crate) unit: UsageUnit,
    pub(crate) shown: Usage,
    pub(crate) origin: Origin,
    pub(crate) source: String,
    pub(crate) factor: f64,
    pub(crate) offset: f64,
    pub(crate) aside: bool,
}

impl Point {
    pub(crate) fn value(&self) -> f64 {
        self.raw * self.factor + self.offset
    }
}

/// A run of readings taken for miles.
struct MilesRun {
    start: usize,
    /// One beyond its last reading.
    end: usize,
    /// True usage before it.
    before: f64,
    offset: f64,
    /// True usage at its last reading.
    last: f64,
}

/// An anomaly by what it adds to the least usage today.
pub(crate) struct Found {
    pub(crate) kind: AnomalyKind,
    pub(crate) from: usize,
    pub(crate) to: usize,
    pub(crate) extra: f64,
    pub(crate) years: f64,
    pub(crate) rate: f64,
}

impl Found {
    pub(crate) fn today(self, least: f64, a: &Assumptions) -> Anomaly {
        use AnomalyKind::{Fall, Misread, Wrap, WrongUnit};
        let Self { kind, from, to, extra, years, rate } = self;
        let note = !matches!(kind, Fall | WrongUnit | Wrap | Misread) && extra <= a.hidden_usage * least;
        Anomaly { kind, from, to, least, most: least + extra, years, rate, note }
    }
}

pub(crate) struct Work<'a> {
    pub(crate) a: &'a Assumptions,
    pub(crate) clock: UsageClock,
    pub(crate) anomalies: Vec<Found>,
    /// What today's true usage may lie above the least.
    pub(crate) extra: f64,
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
    pub(crate) fn follow(&mut self, points: &mut [Point]) {
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
        years * crate::base::units::DAYS_PER_YEAR >= self.a.rate_days
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
        let run = self.as_miles_from(points, i)?;
        let known = match points.get(run.end) {
            Some(next) if next.raw + run.offset >= run.last - self.slack() => self.fits_between(points, &run),
            _ => self.fits_to_this_day(points, &run, usual?),
        };
        if !known {
            return None;
        }
        points[i..run.end].iter_mut().for_each(|p| (p.factor, p.offset) = (KM_PER_MILE, run.offset));
        self.note(points, AnomalyKind::WrongUnit, i - 1, i, 0.0);
        Some(run.end)
    }

    /// The longest run from `i` on that rises when its readings are taken for miles. It ends where a reading
    /// goes on from it as it is.
    fn as_miles_from(&self, points: &[Point], i: usize) -> Option<MilesRun> {
        let (before, offset) = (points[i - 1].value(), points[i - 1].offset);
        let mut run = MilesRun { start: i, end: i, before, offset, last: before };
        while let Some(p) = points.get(run.end) {
            let as_miles = p.raw * KM_PER_MILE + offset;
            let goes_on = run.end > i && p.raw + offset >= run.last - self.slack();
            if goes_on || p.unit != UsageUnit::Km || as_miles < run.last - self.slack() {
                break;
            }
            run.last = as_miles;
            run.end += 1;
        }
        (run.end > i).then_some(run)
    }

    /// Whether a reading is a usage taken for miles, within what the ratio may differ.
    fn is_miles_of(&self, true_usage: f64, point: &Point, offset: f64) -> bool {
        ((true_usage - offset) / point.raw / KM_PER_MILE - 1.0).abs() <= self.a.miles_ratio
    }

    /// Between two readings that are right, any usage between them may have been the true one.
    fn fits_between(&self, points: &[Point], run: &MilesRun) -> bool {
        let above = (points[run.end].raw + run.offset).max(run.before);
        points[run.start..run.end].iter().all(|p| {
            let nearest = (p.raw * KM_PER_MILE + run.offset).clamp(run.before, above);
            self.is_miles_of(nearest, p, run.offset)
        })
    }

    /// A run that lasts to this day is known by its beginning, against what its usual rate makes likely, and by
    /// its rate: miles pass more slowly than kilometres.
    fn fits_to_this_day(&self, points: &[Point], run: &MilesRun, usual: f64) -> bool {
        let (first, last) = (&points[run.start], &points[run.end - 1]);
        let likely = run.before + usual * (first.age - points[run.start - 1].age);
        let years = last.age - first.age;
        let slow = years < 1.0 || (last.raw - first.raw) / years < usual / KM_PER_MILE.sqrt();
        self.is_miles_of(likely, first, run.offset) && slow
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
        let most = usual.map_or_else(|| self.possible(), |r| self.a.rate_unseen * r) * years.max(0.25);
        if self.clock != UsageClock::Km || !five_digits || gone < 0.0 || gone > most {
            return None;
        }
        points[i].offset += round;
        self.note(points, AnomalyKind::Wrap, i - 1, i, 0.0);
        Some(i + 1)
    }

    /// One reading that does not fit the others: this one, or the one before it.
    fn misread(&mut self, points: &mut [Point], i: usize, usual: Option<f64>) -> Option<usize> {
        let goes_on = |next: &Point| next.raw + points[i].offset >= points[i - 1].value() - self.slack();
        if points.get(i + 1).is_some_and(goes_on) {
            self.this_is_misread(points, i, usual)
        } else {
            self.earlier_is_misread(points, i, usual)
        }
    }

    /// This reading is wrong, where the next goes on from the one before it. Set back or misread: whichever
    /// leaves the next rate nearer to the usual one.
    fn this_is_misread(&mut self, points: &mut [Point], i: usize, usual: Option<f64>) -> Option<usize> {
        let (offset, before) = (points[i].offset, points[i - 1].value());
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
        Some(i + 2)
    }

    /// The reading before is wrong, where it jumps away from the one before that and this one goes on from there.
    fn earlier_is_misread(&mut self, points: &mut [Point], i: usize, usual: Option<f64>) -> Option<usize> {
        let earlier = i.checked_sub(2).map(|k| &points[k]);
        let (base, age) = earlier.map_or((0.0, 0.0), |p| (p.value(), p.age));
        let (since, jump) = (points[i - 1].age - age, points[i - 1].value() - base);
        let usual = usual.unwrap_or_else(|| self.possible());
        let jumps = since > 0.0 && jump / since.max(0.25) > self.a.rate_jump * usual;
        if !jumps || points[i].value() < base - self.slack() {
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
        let unseen = usual.unwrap_or_else(|| self.possible()) * self.a.rate_unseen * years;
        self.note(points, AnomalyKind::Fall, i - 1, i, unseen);
        i + 1
    }

    /// The usual rate; outlying rates and long gaps are noted.
    pub(crate) fn rates(&mut self, points: &[Point]) -> Option<UsualRate> {
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
    pub(crate) fn choose(&self, points: &mut [Point], least: f64, usage: f64) {
        let by = usage - least;
        if by.abs() < 0.5 {
            return;
        }
        let falls = |f: &&Found| matches!(f.kind, AnomalyKind::Fall | AnomalyKind::Slow) || f.extra > 0.0;
        let from = self.anomalies.iter().filter(falls).map(|f| f.to).max().unwrap_or(points.len() - 1);
        points[from..].iter_mut().for_each(|p| p.offset += by);
    }
}
