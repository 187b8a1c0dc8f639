//! The rooms of the code: imports run downwards only, and no file imports itself through others.
//!
//! The test reads `crate::…` paths from the sources of the core and of the server. What a file's own test
//! module imports does not count.

use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};

/// Folders of the core, lowest first.
const CORE: [&str; 14] = [
    "base",
    "documents",
    "patterns",
    "reading",
    "talk",
    "validation",
    "reliability",
    "evidence",
    "inference",
    "money",
    "decision",
    "assess",
    "questions",
    "formats",
];

/// A file by its path from `src` without the ending, such as `money/job_cost`.
type Name = String;

fn sources(folder: &Path) -> BTreeMap<Name, String> {
    fn walk(root: &Path, folder: &Path, out: &mut BTreeMap<Name, String>) {
        for entry in std::fs::read_dir(folder).unwrap() {
            let path: PathBuf = entry.unwrap().path();
            if path.is_dir() {
                walk(root, &path, out);
            } else if path.extension().is_some_and(|x| x == "rs") {
                let name = path.strip_prefix(root).unwrap().with_extension("").to_string_lossy().replace('\\', "/");
                out.insert(name.trim_end_matches("/mod").to_owned(), std::fs::read_to_string(&path).unwrap());
            }
        }
    }
    let mut out = BTreeMap::new();
    walk(folder, folder, &mut out);
    out
}

/// The code without comments and without its test module.
fn code(text: &str) -> String {
    let end = text.find("#[cfg(test)]\nmod ").unwrap_or(text.len());
    text[..end].lines().map(|l| l.split("//").next().unwrap_or("")).collect::<Vec<_>>().join("\n")
}

/// Every path that a text names after `crate::`, braces multiplied out.
fn paths(text: &str) -> Vec<String> {
    fn expand(prefix: &str, rest: &str, out: &mut Vec<String>) {
        let end = rest.find(|c: char| !(c.is_alphanumeric() || c == '_' || c == ':')).unwrap_or(rest.len());
        let (head, tail) = rest.split_at(end);
        let path = format!("{prefix}{head}");
        match tail.strip_prefix('{') {
            Some(inner) => {
                let (mut depth, mut start) = (0usize, 0);
                for (i, c) in inner.char_indices() {
                    match c {
                        '{' => depth += 1,
                        '}' if depth == 0 => {
                            expand(&path, inner[start..i].trim(), out);
                            return;
                        }
                        '}' => depth -= 1,
                        ',' if depth == 0 => {
                            expand(&path, inner[start..i].trim(), out);
                            start = i + 1;
                        }
                        _ => {}
                    }
                }
            }
            None => out.push(path.trim_end_matches("::self").to_owned()),
        }
    }
    let mut out = Vec::new();
    for (at, _) in text.match_indices("crate::") {
        let before = text[..at].chars().next_back().unwrap_or(' ');
        if !(before.is_alphanumeric() || before == '_' || before == '$') {
            expand("", &text[at + "crate::".len()..], &mut out);
        }
    }
    out
}

/// The files that each file imports.
fn imports(files: &BTreeMap<Name, String>) -> BTreeMap<Name, BTreeSet<Name>> {
    let file_of = |path: &str| {
        let mut parts: Vec<&str> = path.split("::").filter(|p| !p.is_empty()).collect();
        while !parts.is_empty() {
            let name = parts.join("/");
            if files.contains_key(&name) {
                return Some(name);
            }
            parts.pop();
        }
        None
    };
    files
        .iter()
        .filter(|(name, _)| *name != "lib")
        .map(|(name, text)| {
            let to = paths(&code(text)).iter().filter_map(|p| file_of(p)).filter(|to| to != name).collect();
            (name.clone(), to)
        })
        .collect()
}

/// A file that imports itself through others, with the way round.
fn circle(imports: &BTreeMap<Name, BTreeSet<Name>>) -> Option<Vec<Name>> {
    fn visit<'a>(
        at: &'a Name,
        imports: &'a BTreeMap<Name, BTreeSet<Name>>,
        done: &mut BTreeSet<&'a Name>,
        way: &mut Vec<&'a Name>,
    ) -> bool {
        if way.contains(&at) {
            way.push(at);
            return true;
        }
        if done.contains(at) {
            return false;
        }
        way.push(at);
        if imports.get(at).into_iter().flatten().any(|to| visit(to, imports, done, way)) {
            return true;
        }
        way.pop();
        done.insert(at);
        false
    }
    let mut done = BTreeSet::new();
    imports.keys().find_map(|name| {
        let mut way = Vec::new();
        visit(name, imports, &mut done, &mut way).then(|| {
            let last = way[way.len() - 1];
            way.into_iter().skip_while(|n| *n != last).cloned().collect()
        })
    })
}

fn upward(imports: &BTreeMap<Name, BTreeSet<Name>>, layers: &[&str]) -> Vec<String> {
    let layer = |name: &str| {
        let folder = name.split('/').next().unwrap_or(name);
        layers.iter().position(|l| *l == folder)
    };
    let mut out = Vec::new();
    for (from, list) in imports {
        for to in list {
            match (layer(from), layer(to)) {
                (Some(f), Some(t)) if t > f => out.push(format!("{from} imports {to}, which lies above it")),
                (Some(_), Some(_)) => {}
                _ => out.push(format!("{from} or {to} is in no layer")),
            }
        }
    }
    out
}

fn src(of: &str) -> BTreeMap<Name, String> {
    sources(&Path::new(env!("CARGO_MANIFEST_DIR")).join("..").join(of).join("src"))
}

#[test]
fn imports_of_the_core_run_downwards() {
    let imports = imports(&src("core"));
    assert!(imports.len() > 60 && imports.values().map(BTreeSet::len).sum::<usize>() > 200);
    let upward = upward(&imports, &CORE);
    assert!(upward.is_empty(), "{upward:#?}");
    assert_eq!(circle(&imports), None);
}

/// Modules of the server, lowest first; `routes` is a folder.
const SERVER: [&str; 25] = [
    "problem",
    "short",
    "road",
    "assets",
    "packed",
    "page_scripts",
    "line",
    "aside",
    "body",
    "guard",
    "access",
    "adapter",
    "sanitize",
    "cleaner",
    "archive_file",
    "report_file",
    "history_service",
    "scan_session",
    "judging",
    "summary",
    "views",
    "routes",
    "openapi",
    "server",
    "lib",
];

#[test]
fn imports_of_the_server_run_downwards() {
    let imports = imports(&src("server"));
    let upward = upward(&imports, &SERVER);
    assert!(upward.is_empty(), "{upward:#?}");
    assert_eq!(circle(&imports), None);
}

#[test]
fn an_upward_import_and_a_circle_are_found() {
    let text = |s: &str| s.to_owned();
    let files: BTreeMap<Name, String> = [
        (text("base/a"), text("use crate::money::{b::{self, X}, c};\nfn f() {}")),
        (text("money/b"), text("// crate::money::c\nfn g() { crate::money::c::h(); }")),
        (text("money/c"), text("use crate::money::b::Y;\n#[cfg(test)]\nmod tests { use crate::base::a; }")),
    ]
    .into();
    let imports = imports(&files);
    assert_eq!(imports["base/a"].iter().cloned().collect::<Vec<_>>(), ["money/b", "money/c"]);
    assert_eq!(upward(&imports, &CORE).len(), 2);
    assert_eq!(circle(&imports).unwrap(), ["money/b", "money/c", "money/b"]);
}

#[test]
fn no_file_is_longer_than_500_lines_and_no_function_longer_than_60() {
    let mut long = Vec::new();
    for of in ["core", "store", "server", "cli"] {
        for (name, text) in src(of) {
            let lines = text.lines().count();
            if lines > 500 {
                long.push(format!("{of}/{name}: {lines} lines"));
            }
            let mut start: Option<(usize, usize, String)> = None;
            for (n, line) in text.lines().enumerate() {
                let indent = line.len() - line.trim_start().len();
                let is_fn = line.trim_start().trim_start_matches("pub ").trim_start_matches("pub(crate) ");
                let is_fn = is_fn.trim_start_matches("async ").trim_start_matches("const ").starts_with("fn ");
                if start.is_none() && is_fn {
                    start = Some((n, indent, line.trim().to_owned()));
                }
                if let Some((from, depth, head)) = &start
                    && indent == *depth
                    && line.trim_start().starts_with('}')
                    && !line.trim_end().ends_with('{')
                {
                    if n + 1 - from > 60 {
                        long.push(format!("{of}/{name}: {} lines: {head}", n + 1 - from));
                    }
                    start = None;
                } else if let Some((from, _, _)) = &start
                    && n == *from
                    && (line.ends_with(';') || (line.contains('{') && line.ends_with('}')))
                {
                    start = None;
                }
            }
        }
    }
    assert!(long.is_empty(), "{long:#?}");
}

/// Figures in the code of decisions and money that decide nothing: units, halves, quantiles that the result names,
/// and what is too small to matter.
const PLAIN: [&str; 11] = ["0.0", "1.0", "2.0", "0.5", "0.1", "0.9", "0.995", "4.0", "6.0", "10.0", "60.0"];

#[test]
fn every_constant_that_decides_is_in_the_table() {
    let mut found = Vec::new();
    for (name, text) in src("core").into_iter().filter(|(n, _)| n.starts_with("decision/") || n.starts_with("money/")) {
        for line in code(&text).lines() {
            let figures = line.split(|c: char| !(c.is_alphanumeric() || c == '.' || c == '_'));
            let decimal =
                |f: &&str| f.starts_with(|c: char| c.is_ascii_digit()) && f.contains('.') && !f.contains("..");
            for figure in
                figures.map(|f| f.split("_f64").next().unwrap_or(f)).filter(decimal).filter(|f| !PLAIN.contains(f))
            {
                found.push(format!("{name}: {figure}"));
            }
        }
    }
    assert!(found.is_empty(), "these belong in documents/assumptions, each with its reason: {found:#?}");
}
