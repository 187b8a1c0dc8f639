//! Many candidates in one run: one JSON document a line in, one a line out, in the same order.
//!
//! Each core judges candidates of its own; a bounded queue between reading, judging and writing keeps
//! memory flat however long the input is.

use std::io::{BufRead, Write};
use std::sync::mpsc::{Receiver, SyncSender, sync_channel};

use serde::Serialize;
use ticksage_core::assess::judge::assess_to;
use ticksage_core::base::fault::Fault;
use ticksage_core::formats::documents;
use ticksage_core::inference::depth::Depth;
use ticksage_core::{AssessError, Assumptions, Candidate, Family};

use crate::Failure;

/// Candidates that may wait for a core, and answers that may wait to be written, each.
const WAITING: usize = 16;

/// What is printed for a candidate that is refused.
#[derive(Debug, Serialize)]
struct Refused {
    line: usize,
    faults: Vec<Fault>,
}

/// An answer: its text, and whether the candidate was judged.
type Answer = (String, bool);

/// A line to be judged and where its answer goes.
type Task = (usize, String);

/// Judges standard input line by line onto standard output.
///
/// # Errors
/// [`Failure::File`] when reading or writing fails; [`Failure::Lines`] at the end when candidates were
/// refused: their faults stand on their own lines.
pub fn assess_lines(families: &[Family], depth: Depth) -> Result<(), Failure> {
    let cores = std::thread::available_parallelism().map_or(1, usize::from);
    let (mut faulty, mut all) = (0, 0);
    std::thread::scope(|scope| -> Result<(), Failure> {
        let workers: Vec<(SyncSender<Task>, Receiver<Answer>)> = (0..cores)
            .map(|_| {
                let (give, take) = sync_channel::<Task>(WAITING);
                let (tell, told) = sync_channel::<Answer>(WAITING);
                scope.spawn(move || {
                    for (line, text) in take {
                        // The writer is gone when writing failed: there is nobody left to tell.
                        if tell.send(answer(line, &text, families, depth)).is_err() {
                            return;
                        }
                    }
                });
                (give, told)
            })
            .collect();
        let (senders, receivers): (Vec<_>, Vec<_>) = workers.into_iter().unzip();
        let reader = scope.spawn(move || -> Result<(), Failure> {
            let mut count = 0;
            for (n, line) in std::io::stdin().lock().lines().enumerate() {
                let text = line.map_err(|e| Failure::File("standard input".to_owned(), e))?;
                if text.trim().is_empty() {
                    continue;
                }
                if senders[count % senders.len()].send((n + 1, text)).is_err() {
                    break;
                }
                count += 1;
            }
            Ok(())
        });
        // Tasks were dealt in turn, so answers taken in turn come in the order of the lines.
        let written = write_in_turn(receivers, &mut faulty, &mut all);
        let read = reader.join().unwrap_or_else(|_| Err(Failure::Serve("reading stopped unexpectedly".to_owned())));
        written.and(read)
    })?;
    if faulty > 0 { Err(Failure::Lines { faulty, all }) } else { Ok(()) }
}

fn write_in_turn(receivers: Vec<Receiver<Answer>>, faulty: &mut usize, all: &mut usize) -> Result<(), Failure> {
    let mut out = std::io::BufWriter::new(std::io::stdout().lock());
    let failed = |e| Failure::File("standard output".to_owned(), e);
    for receiver in receivers.iter().cycle() {
        let Ok((text, judged)) = receiver.recv() else { break };
        writeln!(out, "{text}").map_err(failed)?;
        *all += 1;
        *faulty += usize::from(!judged);
    }
    out.flush().map_err(failed)
}

fn answer(line: usize, text: &str, families: &[Family], depth: Depth) -> Answer {
    let judged = documents::read_candidate(text).and_then(|c: Candidate| {
        assess_to(&c, families, &Assumptions::default(), depth).map_err(|e| match e {
            AssessError::Faults(faults) => faults,
            e @ (AssessError::Curve(_) | AssessError::Overrun(_)) => {
                vec![Fault { path: String::new(), message: e.to_string() }]
            }
        })
    });
    let written = match &judged {
        Ok(a) => serde_json::to_string(a),
        Err(faults) => serde_json::to_string(&Refused { line, faults: faults.clone() }),
    };
    match written {
        Ok(text) => (text, judged.is_ok()),
        Err(e) => (format!("{{\"line\":{line},\"faults\":[{{\"path\":\"\",\"message\":\"{e}\"}}]}}"), false),
    }
}
