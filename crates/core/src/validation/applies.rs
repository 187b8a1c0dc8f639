//! Are conditions and build windows consistent?

use crate::documents::applies::{Applies, Condition, SerialWindow, Window, serial_order};
use crate::documents::family::Family;
use crate::validation::faults::Faults;

pub(crate) fn window(out: &mut Faults, w: &Window, path: &str) {
    if let (Some(from), Some(to)) = (w.from, w.to) {
        out.unless(from <= to, path, format!("the window ends on {to}, before it begins on {from}"));
    }
}

pub(crate) fn applies(out: &mut Faults, f: &Family, a: &Applies, path: &str) {
    condition(out, f, &a.own(), path);
    for (list, conditions) in [("any", &a.any), ("except", &a.except)] {
        for (k, c) in conditions.iter().enumerate() {
            let at = format!("{path}/{list}/{k}");
            out.unless(*c != Condition::default(), &at, "names no condition: it would always hold");
            condition(out, f, c, &at);
        }
    }
}

fn condition(out: &mut Faults, f: &Family, a: &Condition, path: &str) {
    if let Some(w) = &a.built {
        window(out, w, &format!("{path}/built"));
    }
    if let Some(SerialWindow { from: Some(from), to: Some(to), .. }) = &a.serial {
        let rises = serial_order(from, to).is_le();
        out.unless(rises, format!("{path}/serial"), format!("the serials end at {to}, before they begin at {from}"));
    }
    for (fact, values) in &a.facts {
        let at = format!("{path}/facts/{fact}");
        match f.facts.iter().find(|x| &x.id == fact) {
            None => out.add(at, format!("no fact \"{fact}\" in this sheet")),
            Some(known) => {
                for (k, v) in values.iter().enumerate() {
                    let is_known = known.values.iter().any(|x| &x.id == v);
                    out.unless(is_known, format!("{at}/{k}"), format!("\"{v}\" is no answer to \"{fact}\""));
                }
            }
        }
    }
}
