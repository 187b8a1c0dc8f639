import { Dialog } from "radix-ui";
import { useEffect, useState, type ReactNode } from "react";
import { Link, NavLink } from "react-router";
import { useKeptSince, type Summary } from "../lib/api";
import { outbox, useOutbox } from "../lib/outbox";
import { usePhotos } from "../lib/photos";
import { toggleTheme } from "../lib/theme";
import type { WhatIf } from "../lib/whatIf";
import { Finder } from "./Finder";
import { LastKnown, Milestone } from "./Milestone";
import { TrialBar } from "./WhatIfPanel";

export function Mark() {
  return (
    <svg width="34" height="28" viewBox="0 0 34 28" aria-hidden="true">
      <g stroke="currentColor" strokeWidth="3" strokeLinecap="square">
        <path d="M6 25v-5M13 25v-9M20 25V11M27 25V6" />
      </g>
      <path d="M2 22 32 9" stroke="#e5a94f" strokeWidth="3" />
    </svg>
  );
}

const keys: [string, string][] = [
  ["?", "this list"],
  ["/", "find a sheet, a part, a check or a candidate by name"],
  ["1 … 6", "outcome of the check in hand"],
  ["c", "read the codes"],
  ["↑ ↓", "the check before or after; the failure point before or after"],
  ["n", "note on the check in hand"],
  ["u", "take the last finding or paper back"],
  ["g then a, p, w, r, b, v", "go to advert, papers, walk-round, road ahead, bill, verdict"],
  ["l", "type a line for the ledger"],
  ["g then y", "go to the yard"],
];

export function isTyping(e: KeyboardEvent): boolean {
  const t = e.target;
  return (
    t instanceof HTMLElement && (t.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(t.tagName))
  );
}

function KeyList() {
  const [open, setOpen] = useState(false);
  useEffect(() => {
    const listener = (e: KeyboardEvent) => {
      if (e.key === "?" && !isTyping(e)) setOpen(true);
    };
    addEventListener("keydown", listener);
    return () => removeEventListener("keydown", listener);
  }, []);
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger
        className="sign min-h-11 min-w-11 text-lg font-semibold max-sm:hidden"
        aria-label="Keys"
      >
        ?
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/50" />
        <Dialog.Content className="fixed top-1/2 left-1/2 z-50 w-[min(30rem,92vw)] -translate-1/2 border-2 border-ink bg-raised p-5">
          <Dialog.Title className="mb-3 text-2xl">Keys</Dialog.Title>
          <Dialog.Description className="sr-only">What each key does.</Dialog.Description>
          <dl className="grid grid-cols-[auto_1fr] gap-x-5 gap-y-2">
            {keys.map(([key, does]) => (
              <div key={key} className="contents">
                <dt className="reading text-lg">{key}</dt>
                <dd>{does}</dd>
              </div>
            ))}
          </dl>
          <Dialog.Close className="btn mt-5">Close</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function WaitingLine() {
  const findings = useOutbox();
  const photos = usePhotos();
  const { waiting } = findings;
  const problem = findings.problem ?? photos.problem;
  const pictures = photos.waiting.filter((p) => p.refused === undefined).length;
  const since = useKeptSince();
  const refused = waiting.filter((w) => w.refused !== undefined);
  const unsent = waiting.length - refused.length;
  return (
    <>
      {since !== null && (
        <p role="status" className="bg-caution-bg px-4 py-1 text-center text-caution" data-testid="kept">
          <b className="sign text-lg">No connection. </b>
          This is what was last seen{since && `, at ${new Date(since).toTimeString().slice(0, 5)}`}; what you
          enter is kept here and sent later.
        </p>
      )}
      {(unsent > 0 || pictures > 0 || (problem && since === null)) && (
        <p role="status" className="bg-caution-bg px-4 py-1 text-center text-caution" data-testid="waiting">
          {unsent > 0 && (
            <b className="sign text-lg">
              {unsent} finding{unsent > 1 ? "s" : ""} waiting on this device.{" "}
            </b>
          )}
          {pictures > 0 && (
            <b className="sign text-lg">
              {pictures} photo{pictures > 1 ? "s" : ""} waiting on this device.{" "}
            </b>
          )}
          {since === null && problem}
          {(findings.unkept || photos.unkept) && (
            <b> This browser does not let us keep it: leave this page open until it is sent.</b>
          )}
        </p>
      )}
      {refused.map((w) => (
        <div
          key={w.id}
          role="alert"
          className="flex flex-wrap items-center justify-center gap-x-4 gap-y-1 bg-caution-bg px-4 py-2 text-caution"
        >
          <p>
            <b className="sign text-lg">Not stored: {w.finding.check}. </b>
            {w.refused}
            {w.finding.note && <span className="block">Your note: “{w.finding.note}”</span>}
          </p>
          <button type="button" className="btn" onClick={() => outbox.retry(w.id)}>
            Send again
          </button>
          <button type="button" className="btn" onClick={() => outbox.discard(w.id)}>
            Let it go
          </button>
        </div>
      ))}
    </>
  );
}

export function TopBar({ children }: { children?: ReactNode }) {
  return (
    <div className="flex min-h-12 items-center gap-3 bg-tarmac px-3 text-on-tarmac sm:px-6">
      <Link to="/" className="flex min-h-11 items-center gap-2.5" aria-label="Tick Sage: the yard">
        <Mark />
        <span className="sign hidden text-2xl font-bold sm:inline">Tick Sage</span>
      </Link>
      <div className="min-w-0 flex-1">{children}</div>
      <Finder />
      <KeyList />
      <button
        type="button"
        className="sign min-h-11 px-1 text-base underline underline-offset-4"
        onClick={toggleTheme}
      >
        Sun / garage
      </button>
    </div>
  );
}

/** A plain page outside any candidate. */
export function Page({ title, lead, children }: { title: string; lead?: string; children: ReactNode }) {
  useTitle(title);
  return (
    <>
      <header className="no-print">
        <TopBar />
        <WaitingLine />
      </header>
      <main className="mx-auto max-w-[1500px] px-3 pt-5 pb-24 sm:px-6">
        <h1 className="text-4xl">{title}</h1>
        {lead && <p className="text-lg">{lead}</p>}
        {children}
      </main>
    </>
  );
}

export const stops = [
  { to: "advert", name: "Advert", key: "a" },
  { to: "papers", name: "Papers", key: "p" },
  { to: "walk-round", name: "Walk-round", key: "w" },
  { to: "road", name: "Road ahead", key: "r" },
  { to: "bill", name: "Bill", key: "b" },
  { to: "verdict", name: "Verdict", key: "v" },
] as const;

/** The order of work as stops along a road. */
function Route({ id }: { id: string }) {
  return (
    <nav aria-label="Order of work" className="relative">
      <div
        className="absolute right-6 bottom-[9px] left-6 h-[3px] bg-ink sm:right-10 sm:left-10"
        aria-hidden="true"
      />
      <ol className="relative grid grid-cols-[1fr_1fr_1.3fr_1.3fr_0.7fr_0.9fr] sm:grid-cols-6">
        {stops.map((s) => (
          <li key={s.to}>
            <NavLink
              to={`/c/${id}/${s.to}`}
              className="sign group flex h-full min-h-11 flex-col items-center justify-end gap-1 text-center text-[0.88rem] whitespace-nowrap leading-tight font-semibold aria-[current=page]:font-extrabold sm:text-[1.05rem]"
            >
              {s.name}
              <span
                className="h-5 w-5 rounded-full border-[3px] border-ink bg-paper group-aria-[current=page]:border-[7px] group-aria-[current=page]:border-sea"
                aria-hidden="true"
              />
            </NavLink>
          </li>
        ))}
      </ol>
    </nav>
  );
}

function useTitle(title: string) {
  useEffect(() => {
    document.title = `${title} · Tick Sage`;
  }, [title]);
}

/** Everything about one candidate stands inside this: where we are, and the verdict so far. */
export function Shell({ tried, screen, children }: { tried: WhatIf; screen: string; children: ReactNode }) {
  const { view } = tried;
  const { candidate, assessment } = view;
  useTitle(`${screen}: ${candidate.title}`);
  return (
    <>
      <header className="no-print sticky top-0 z-20 bg-paper">
        <TopBar>
          <p className="sign truncate text-xl leading-tight font-semibold">{candidate.title}</p>
        </TopBar>
        <WaitingLine />
        <TrialBar tried={tried} />
        <div className="mx-auto grid max-w-[1500px] items-end gap-6 border-b-2 border-ink px-3 pt-1 pb-2 sm:px-6 lg:grid-cols-[1fr_25rem]">
          <Route id={view.id} />
          <div className="hidden lg:block">
            <Milestone assessment={assessment} />
          </div>
        </div>
      </header>
      <main className="mx-auto max-w-[1500px] px-3 pt-4 pb-40 sm:px-6 lg:pb-16">{children}</main>
      <footer className="no-print fixed inset-x-0 bottom-0 z-20 lg:hidden">
        <Milestone assessment={assessment} to={`/c/${view.id}/verdict`} />
      </footer>
    </>
  );
}

/** A candidate that is being judged: its road of work and its last known verdict stand at once. */
export function Waiting({ id, summary, screen }: { id: string; summary: Summary; screen: string }) {
  useTitle(`${screen}: ${summary.title}`);
  return (
    <>
      <header className="no-print sticky top-0 z-20 bg-paper">
        <TopBar>
          <p className="sign truncate text-xl leading-tight font-semibold">{summary.title}</p>
        </TopBar>
        <WaitingLine />
        <div className="mx-auto grid max-w-[1500px] items-end gap-6 border-b-2 border-ink px-3 pt-1 pb-2 sm:px-6 lg:grid-cols-[1fr_25rem]">
          <Route id={id} />
          <div className="hidden lg:block">
            <LastKnown summary={summary} />
          </div>
        </div>
      </header>
      <main className="mx-auto max-w-[1500px] px-3 pt-4 pb-40 sm:px-6 lg:pb-16">
        <p role="status" className="text-lg">
          Judging it anew.
        </p>
        <div className="mt-4 grid gap-4 opacity-60" aria-hidden="true">
          {[72, 40, 40, 40, 40, 40].map((h, i) => (
            <div key={i} className="bg-sunk" style={{ height: h }} />
          ))}
        </div>
      </main>
      <footer className="no-print fixed inset-x-0 bottom-0 z-20 lg:hidden">
        <LastKnown summary={summary} />
      </footer>
    </>
  );
}
