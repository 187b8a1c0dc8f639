//! Figures, dates and units of talk lines against what general-purpose libraries make of them: text2num (numbers in
//! words), num-format (digits as several countries write them), jiff (dates).

use jiff::civil::Date;
use num_format::{Buffer, Locale};
use text2num::{Language, text2digits};
use ticksage_core::documents::claim::LifeForm;
use ticksage_core::formats::talk_tables::vocabulary;
use ticksage_core::talk::line::read_line;
use ticksage_core::talk::said::{Said, Voice};

fn said(line: &str) -> Said {
    let voice = Voice { hours: false, miles: false };
    read_line(line, None, voice, &vocabulary(None)).said.unwrap_or_else(|| panic!("a note: {line}"))
}

fn from_about(line: &str) -> f64 {
    match said(line).life.first().map(|l| l.says.clone()) {
        Some(LifeForm::FromAbout { at }) => at,
        other => panic!("{line}: {other:?}"),
    }
}

#[test]
fn figures_in_words_as_text2num_reads_them() {
    let english = Language::english();
    let tens = ["twenty", "thirty", "forty", "fifty", "sixty", "seventy", "eighty", "ninety"];
    let ones = ["one", "two", "three", "four", "five", "six", "seven", "eight", "nine"];
    let mut phrases: Vec<String> = Vec::new();
    for t in tens {
        phrases.push(format!("{t} thousand"));
        phrases.extend(ones.iter().step_by(2).map(|o| format!("{t}-{o} thousand")));
        phrases.extend(ones.iter().skip(1).step_by(3).map(|o| format!("{t} {o} thousand")));
        phrases.extend(["one", "two", "three"].map(|h| format!("{h} hundred and {t} thousand")));
        phrases.push(format!("one hundred {t} thousand"));
    }
    phrases.extend(
        ["one hundred thousand", "two hundred thousand", "fifteen thousand", "one hundred and five thousand"]
            .map(str::to_owned),
    );
    for phrase in phrases {
        let digits = text2digits(&phrase, &english).unwrap();
        let theirs: f64 = digits.parse().unwrap();
        let ours = from_about(&format!("timing chain: from about {phrase} km, common"));
        assert!((ours - theirs).abs() < 1e-6, "{phrase}: {ours}, by the library {theirs}");
    }
    // What one says for "one hundred", which the library does not read.
    assert!((from_about("timing chain: from about a hundred and twenty thousand km, common") - 120_000.0).abs() < 1e-6);
}

#[test]
fn figures_as_several_countries_write_them() {
    for n in (20_000..400_000).step_by(13_500) {
        for locale in [Locale::en, Locale::de, Locale::fr, Locale::de_CH, Locale::sv, Locale::es] {
            let mut buffer = Buffer::new();
            buffer.write_formatted(&n, &locale);
            let written = buffer.as_str();
            let ours = from_about(&format!("water pump: from about {written} km, common"));
            assert!((ours - f64::from(n)).abs() < 1e-6, "{written}: {ours}");
        }
    }
}

#[test]
fn dates_as_jiff_writes_them() {
    for (year, month) in [(1999, 1), (2007, 11), (2012, 5), (2015, 9), (2018, 3), (2021, 12)] {
        let day = Date::new(year, month, 1).unwrap();
        for notation in ["%B %Y", "%b %Y", "%m/%Y", "%Y-%m", "%-d %B %Y", "%Y-%m-%d", "%d.%m.%Y"] {
            // "2007-11": in the trade that is four years.
            if notation == "%Y-%m" && i16::from(month) > year % 100 {
                continue;
            }
            let written = day.strftime(notation).to_string();
            let line = format!("timing chain: rarely past 90k km, most, built until {written}");
            let window = said(&line).applies.built.unwrap_or_else(|| panic!("{line}: no builds"));
            let whole = notation.contains("%d") || notation.contains("%-d");
            let last = if whole { day } else { day.last_of_month() };
            assert_eq!((window.from, window.to), (None, Some(last)), "{line}");
            let line = format!("timing chain: rarely past 90k km, most, built from {written}");
            let window = said(&line).applies.built.unwrap_or_else(|| panic!("{line}: no builds"));
            assert_eq!((window.from, window.to), (Some(day), None), "{line}");
        }
    }
}

#[test]
fn a_mile_is_as_long_as_the_yard_agreement_made_it() {
    // 1 mile = 1.609 344 km (international yard and pound agreement of 1959).
    let km = from_about("timing chain: from about 100k miles, common");
    assert!((km - 160_934.4).abs() < 0.5, "{km}");
}
