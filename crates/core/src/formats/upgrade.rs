//! Documents of earlier versions of the open formats, brought to the newest.
//!
//! Version 2 gave several things the field's own names: a *school* became a *source*, a *gate* a *blocker*,
//! *doing* a *purchase plan*. Nothing else changed: a document of version 1 gives the same judgement as its
//! upgrade.

use serde_json::{Map, Value};

/// Brings a document to the newest version of its format, by its format mark. What bears no mark of an earlier
/// version is left as it is.
pub fn upgrade(document: &mut Value) {
    match document.get("format").and_then(Value::as_str) {
        Some("ticksage-family/1") => family(document),
        Some("ticksage-candidate/1") => candidate(document),
        Some("ticksage-bundle/1") => {
            each(document, "families", upgrade);
            if let Some(c) = document.get_mut("candidate") {
                upgrade(c);
            }
            mark(document, "ticksage-bundle/2");
        }
        Some("ticksage-history/1") => mark(document, "ticksage-history/2"),
        _ => {}
    }
}

/// Brings a paper, as it is stored by itself, to the newest version.
pub fn upgrade_paper(paper: &mut Value) {
    if paper.get("kind").and_then(Value::as_str) == Some("scan")
        && let Some(body) = paper.get_mut("paper")
    {
        scan(body);
    }
}

fn family(f: &mut Value) {
    rename(f, "schools", "sources");
    each(f, "points", |p| {
        rename(p, "tolerated", "repair_delay");
        claims(p);
        if let Some(revision) = p.get_mut("revision") {
            claims(revision);
        }
    });
    each(f, "checks", |check| {
        each(check, "outcomes", |outcome| rename(outcome, "gate", "blocker"));
        each(check, "scan", scan_rule);
    });
    mark(f, "ticksage-family/2");
}

fn claims(of: &mut Value) {
    for list in ["share", "life"] {
        each(of, list, |claim| rename(claim, "school", "source"));
    }
}

fn scan_rule(rule: &mut Value) {
    match rule.get("kind").and_then(Value::as_str) {
        Some("lamp") => set(rule, "kind", "mil"),
        Some("wiped") => {
            set(rule, "kind", "recently_cleared");
            rename(rule, "wiped", "outcome");
        }
        _ => {}
    }
}

fn candidate(c: &mut Value) {
    if let Some(buyer) = c.get_mut("buyer") {
        rename(buyer, "schools", "sources");
        rename(buyer, "papers", "paper_trust");
    }
    rename(c, "doing", "purchase_plan");
    if let Some(plan) = c.get_mut("purchase_plan") {
        rename(plan, "school", "policy");
    }
    each(c, "scans", scan);
    mark(c, "ticksage-candidate/2");
}

/// Names within a scan; also of one that is stored by itself.
fn scan(s: &mut Value) {
    rename(s, "lamp", "mil");
    each(s, "monitors", |m| word(m, "monitor", "vapour", "evap"));
    each(s, "missing", |m| word(m, "what", "offered", "supported_pids"));
}

fn mark(document: &mut Value, format: &str) {
    set(document, "format", format);
}

fn set(of: &mut Value, key: &str, to: &str) {
    if let Value::Object(o) = of {
        o.insert(key.to_owned(), Value::String(to.to_owned()));
    }
}

fn word(of: &mut Value, key: &str, from: &str, to: &str) {
    if of.get(key).and_then(Value::as_str) == Some(from) {
        set(of, key, to);
    }
}

/// Gives a member another name; one that bears the new name already is not replaced.
fn rename(of: &mut Value, from: &str, to: &str) {
    if let Value::Object(o) = of
        && !o.contains_key(to)
        && let Some(value) = Map::remove(o, from)
    {
        o.insert(to.to_owned(), value);
    }
}

fn each(of: &mut Value, list: &str, change: impl FnMut(&mut Value)) {
    if let Some(Value::Array(items)) = of.get_mut(list) {
        items.iter_mut().for_each(change);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    #[test]
    fn every_renamed_member_of_version_1_is_found() {
        let mut old = json!({
            "format": "ticksage-bundle/1",
            "families": [{
                "format": "ticksage-family/1",
                "schools": [{"id": "a"}],
                "points": [{"tolerated": 5, "share": [{"school": "a"}], "life": [{"school": "a"}],
                    "revision": {"life": [{"school": "a"}], "share": []}}],
                "checks": [{"outcomes": [{"label": "x", "gate": {"kind": "stop"}}],
                    "scan": [{"kind": "lamp", "on": 1}, {"kind": "wiped", "wiped": 1}]}]
            }],
            "candidate": {
                "format": "ticksage-candidate/1",
                "buyer": {"schools": {"a": 1.0}, "papers": "stamp"},
                "doing": {"school": "up_front", "own": []},
                "scans": [{"lamp": true, "monitors": [{"monitor": "vapour", "complete": true}],
                    "missing": [{"what": "offered", "why": "x"}]}]
            }
        });
        upgrade(&mut old);
        let new = json!({
            "format": "ticksage-bundle/2",
            "families": [{
                "format": "ticksage-family/2",
                "sources": [{"id": "a"}],
                "points": [{"repair_delay": 5, "share": [{"source": "a"}], "life": [{"source": "a"}],
                    "revision": {"life": [{"source": "a"}], "share": []}}],
                "checks": [{"outcomes": [{"label": "x", "blocker": {"kind": "stop"}}],
                    "scan": [{"kind": "mil", "on": 1}, {"kind": "recently_cleared", "outcome": 1}]}]
            }],
            "candidate": {
                "format": "ticksage-candidate/2",
                "buyer": {"sources": {"a": 1.0}, "paper_trust": "stamp"},
                "purchase_plan": {"policy": "up_front", "own": []},
                "scans": [{"mil": true, "monitors": [{"monitor": "evap", "complete": true}],
                    "missing": [{"what": "supported_pids", "why": "x"}]}]
            }
        });
        assert_eq!(old, new);
        upgrade(&mut old);
        assert_eq!(old, new, "a document of the newest version stays as it is");
    }
}
