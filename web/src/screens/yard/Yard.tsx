import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import {
  api,
  ApiError,
  isJudged,
  type Bundle,
  type Family,
  type JudgedEntry,
  type YardEntry,
} from "../../lib/api";
import { verdictLine } from "../../parts/Milestone";
import { RoadThumb, roadOfSummary } from "../../charts/Road";
import { Page } from "../../parts/Shell";
import { Tally } from "../../parts/Tally";
import { FirstStart, useSettings } from "../../parts/FirstStart";
import { FileButton } from "../../parts/FileButton";
import { FaultList } from "../../parts/FaultList";
import { day, exact, money, usage } from "../../lib/format";
import { useMedia, useStretch } from "../../lib/hooks";
import { found, orders, shownWords, type Order, type Shown } from "./finding";

/** What sets it apart from another of its age and usage. */
function differsSay(s: JudgedEntry["summary"]): string {
  return s.differs.map((d) => `${d.name} ${d.by > 0 ? "+" : "−"}${money(Math.abs(d.by))}`).join(" · ");
}

/** One candidate as a row: for a yard with many, on a wide screen. */
function Row({
  entry,
  chosen,
  full,
  onChoose,
}: {
  entry: JudgedEntry;
  chosen: boolean;
  full: boolean;
  onChoose: (chosen: boolean) => void;
}) {
  const s = entry.summary;
  return (
    <li className="relative grid h-6 grid-cols-[1.6rem_15rem_4rem_5.5rem_5.5rem_10.5rem_3rem_1fr] items-center gap-x-3 border-b border-rule text-[0.95rem] leading-none">
      <input
        type="checkbox"
        className="relative z-10 h-5 w-5 accent-(--sea)"
        aria-label={`Side by side: ${s.title}`}
        checked={chosen}
        disabled={full && !chosen}
        onChange={(e) => onChoose(e.target.checked)}
      />
      <Link
        to={`/c/${entry.id}/road`}
        className="sign truncate text-[1.05rem] leading-tight font-bold after:absolute after:inset-0 hover:underline"
      >
        {s.title}
      </Link>
      <span className="reading">{s.built}</span>
      <span className="reading text-right">{exact(s.asking)}</span>
      <span className="reading text-right">{money(s.limit)}</span>
      <b className="sign truncate text-[1.05rem]">
        {s.ending?.kind === "bought" ? "Bought" : s.ending ? "Passed over" : verdictLine(s.verdict, s.limit)}
      </b>
      <Tally grade={s.grade} />
      <span className="truncate">
        {[
          s.blockers > 0 ? `${s.blockers} blocker${s.blockers > 1 ? "s" : ""}` : "",
          s.needed > 0 ? `${s.needed} to know first` : "",
          differsSay(s),
        ]
          .filter(Boolean)
          .join(" · ")}
      </span>
    </li>
  );
}

/** From so many on a wide screen shows rows. */
const MANY = 10;

/** One candidate as a lane: what it is, its road, what to do. */
function Lane({
  entry,
  chosen,
  full,
  onChoose,
  onPutAway,
}: {
  entry: JudgedEntry;
  chosen: boolean;
  full: boolean;
  onChoose: (chosen: boolean) => void;
  onPutAway: (e: YardEntry) => void;
}) {
  const s = entry.summary;
  const line = verdictLine(s.verdict, s.limit);
  const road = `${s.title}: ${usage(s.usage.value, s.usage.unit)} driven, built ${s.built}; a plan of ${usage(s.strip.horizon, s.strip.clock === "km" ? "km" : "h", 100)}; about ${money(s.bill)} to be spent in it.`;
  return (
    <li className="relative grid gap-x-7 gap-y-2 border-b-2 border-rule pt-3 pb-1.5 md:grid-cols-[15rem_1fr] lg:grid-cols-[19rem_1fr_18rem]">
      <div>
        <h2 className="text-[1.45rem]">
          <Link to={`/c/${entry.id}/road`} className="after:absolute after:inset-0 hover:underline">
            {s.title}
          </Link>
        </h2>
        <p className="text-[0.95rem] leading-snug">{s.families.join(" · ")}</p>
        <p className="sign flex flex-wrap items-center justify-between gap-x-3 text-base">
          <span>
            built {s.built} · asks <b className="reading text-lg">{exact(s.asking)}</b> {s.currency}
          </span>
        </p>
        <p className="sign relative z-10 flex flex-wrap items-center gap-x-5 text-base">
          <label className="flex min-h-11 items-center gap-2">
            <input
              type="checkbox"
              className="h-6 w-6 accent-(--sea)"
              checked={chosen}
              disabled={full && !chosen}
              onChange={(e) => onChoose(e.target.checked)}
            />
            Side by side<span className="sr-only">: {s.title}</span>
          </label>
          <button
            type="button"
            className="min-h-11 text-soft underline underline-offset-4"
            onClick={() => onPutAway(entry)}
          >
            Put away<span className="sr-only"> {s.title}</span>
          </button>
        </p>
      </div>
      <RoadThumb data={roadOfSummary(s)} label={road} />
      <div className="md:col-span-2 lg:col-span-1">
        <p className="flex items-center justify-between gap-3">
          <span className="sign text-[1.6rem] leading-none font-extrabold">
            {s.ending?.kind === "bought" ? "Bought" : s.ending ? "Passed over" : line}
          </span>
          <Tally grade={s.grade} />
        </p>
        <p className="sign text-base">
          worth to you <b className="reading">{money(s.limit)}</b> · bill about{" "}
          <b className="reading">{money(s.bill)}</b>
        </p>
        <p className="text-[0.95rem] leading-snug">
          {s.ending?.kind === "bought"
            ? `On ${day(s.ending.date)} for ${exact(s.ending.price)} ${s.currency}. `
            : s.ending
              ? `${s.ending.why}. `
              : ""}
          {s.differs.length > 0 && `${differsSay(s)}. `}
          {s.blockers > 0 && `${s.blockers} blocker${s.blockers > 1 ? "s" : ""}. `}
          {s.needed > 0 && `${s.needed} thing${s.needed > 1 ? "s" : ""} to know first. `}
          {s.next?.pays
            ? `Next: ${s.next.name}, ${s.next.minutes} min.`
            : `${s.checks_done} of ${s.checks_total} checks done; none left pays for its time.`}
        </p>
      </div>
    </li>
  );
}

/** A candidate whose document makes no sense: what is wrong, and where to mend it. */
function BrokenLane({ entry, onPutAway }: { entry: YardEntry; onPutAway: (e: YardEntry) => void }) {
  return (
    <li className="border-b-2 border-rule py-3">
      <h2 className="text-[1.45rem]">
        <Link to={`/c/${entry.id}/advert`} className="hover:underline">
          {entry.title}
        </Link>
      </h2>
      <p className="font-bold text-caution">
        It cannot be judged: {entry.faults[0]?.message ?? "something is wrong"}.
      </p>
      <p className="sign flex flex-wrap gap-x-5 text-base">
        <Link
          to={`/c/${entry.id}/advert`}
          className="flex min-h-11 items-center underline underline-offset-4"
        >
          See what is wrong
        </Link>
        <button
          type="button"
          className="min-h-11 text-soft underline underline-offset-4"
          onClick={() => onPutAway(entry)}
        >
          Put away<span className="sr-only"> {entry.title}</span>
        </button>
      </p>
    </li>
  );
}

function isFamily(doc: unknown): doc is Family {
  return (
    typeof doc === "object" &&
    doc !== null &&
    String((doc as { format?: unknown }).format).startsWith("ticksage-family/")
  );
}

export function Yard() {
  const client = useQueryClient();
  const navigate = useNavigate();
  const yard = useQuery({ queryKey: ["yard"], queryFn: api.yard, refetchInterval: 30_000 });
  const [away, setAway] = useState<YardEntry | null>(null);
  const [said, setSaid] = useState<string | null>(null);
  const [side, setSide] = useState<string[]>([]);
  const archive = useMutation({
    mutationFn: ({ entry, archived }: { entry: YardEntry; archived: boolean }) =>
      api.archive(entry.id, archived),
    onSuccess: async (_, { entry, archived }) => {
      setAway(archived ? entry : null);
      await client.invalidateQueries({ queryKey: ["yard"] });
    },
  });
  const load = useMutation({
    mutationFn: async (chosen: File) => {
      if (chosen.name.toLowerCase().endsWith(".zip")) {
        const view = await api.importArchive(chosen);
        await client.invalidateQueries();
        void navigate(`/c/${view.id}/road`);
        return;
      }
      const text = await chosen.text();
      let doc: unknown;
      try {
        doc = JSON.parse(text);
      } catch {
        throw new Error(`${chosen.name} is not JSON: choose a file that Tick Sage exported.`);
      }
      if (isFamily(doc)) {
        const head = await api.importFamily(doc);
        setSaid(`${head.name}, version ${head.version}, is stored.`);
        await client.invalidateQueries({ queryKey: ["families"] });
      } else {
        const view = await api.importBundle(doc as Bundle);
        await client.invalidateQueries();
        void navigate(`/c/${view.id}/road`);
      }
    },
  });
  const settings = useSettings();
  const [counting, setCounting] = useState(false);
  const [text, setText] = useState("");
  const [shown, setShown] = useState<Shown>("all");
  const [order, setOrder] = useState<Order>("entered");
  const many = (yard.data?.length ?? 0) > 3;
  const entries = many ? found(yard.data ?? [], text, shown, order) : (yard.data ?? []);
  const wide = useMedia("(min-width: 64rem)");
  const rows = wide && entries.length >= MANY && entries.every(isJudged);
  const { drawn, mark } = useStretch<HTMLLIElement>(`${text}|${shown}|${order}|${rows}`, entries.length);
  const seen = entries.slice(0, drawn);
  const end = drawn < entries.length && (
    <li ref={mark} className="py-3 text-soft">
      {entries.length - drawn} more
    </li>
  );
  const error = yard.error ?? archive.error ?? load.error;
  return (
    <Page
      title="Yard"
      lead="What you are thinking of buying, on one kind of road: from build, through today, to the end of your plan."
    >
      <div className="mt-4 flex flex-wrap items-center gap-3">
        <Link to="/new" className="btn btn-main">
          New candidate
        </Link>
        <FileButton
          label="File to import"
          accept="application/json,.json,application/zip,.zip"
          disabled={load.isPending}
          onChoose={([chosen]) => chosen && load.mutate(chosen)}
        >
          Import a file
        </FileButton>
        {(yard.data?.length ?? 0) > 1 && (
          <>
            <button
              type="button"
              className="btn"
              disabled={side.length < 2}
              onClick={() => void navigate(`/side?ids=${side.join(",")}`)}
            >
              Lay {side.length < 2 ? "them" : side.length} side by side
            </button>
            <p className="text-[0.95rem] text-soft" role="status">
              {side.length < 2 ? "Choose two to four below." : side.length === 4 ? "Four are the most." : ""}
            </p>
          </>
        )}
        {said && <p role="status">{said}</p>}
        {away && (
          <p role="status" className="flex items-center gap-2">
            {away.title} is put away.
            <button
              type="button"
              className="btn btn-quiet"
              onClick={() => archive.mutate({ entry: away, archived: false })}
            >
              Bring it back
            </button>
          </p>
        )}
      </div>
      {error && (
        <div role="alert" className="mt-4 border-2 border-caution bg-caution-bg p-3 text-caution">
          <p className="text-lg font-bold">{error.message}</p>
          {error instanceof ApiError && <FaultList faults={error.faults} />}
        </div>
      )}
      {yard.isPending && !yard.error && (
        <p role="status" className="mt-6 text-lg">
          Reading the yard.
        </p>
      )}
      {yard.data?.length === 0 && settings.data === null && !counting && (
        <FirstStart known={null} onDone={() => undefined} />
      )}
      {yard.data?.length === 0 && (
        <div className="mt-8 max-w-xl border-l-8 border-ink pl-5">
          <h2 className="text-2xl">The yard is empty</h2>
          <p className="mt-1 text-lg">
            Start with one advert: pick its families, type usage, build date and price. A first assessment
            appears while you type.
          </p>
        </div>
      )}
      {many && (
        <search className="mt-4 grid grid-cols-2 items-end gap-x-5 gap-y-2 sm:flex sm:flex-wrap">
          <label className="col-span-2">
            <span className="sign block">Find</span>
            <input
              type="search"
              className="field min-h-11 sm:w-60"
              placeholder="name, family or year"
              value={text}
              onChange={(e) => setText(e.target.value)}
            />
          </label>
          <label>
            <span className="sign block">Show</span>
            <select
              className="field min-h-11"
              value={shown}
              onChange={(e) => setShown(e.target.value as Shown)}
            >
              {Object.entries(shownWords).map(([id, name]) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </select>
          </label>
          <label>
            <span className="sign block">In the order</span>
            <select
              className="field min-h-11"
              value={order}
              onChange={(e) => setOrder(e.target.value as Order)}
            >
              {Object.entries(orders).map(([id, name]) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </select>
          </label>
          <p role="status" className="col-span-2 text-soft sm:min-h-11 sm:content-center">
            {entries.length < (yard.data?.length ?? 0) && `${entries.length} of ${yard.data?.length}`}
          </p>
        </search>
      )}
      {many && entries.length === 0 && <p className="mt-4 text-lg">None of them fits.</p>}
      {rows && (
        <ul className="mt-3" aria-label="Candidates in rows">
          <li
            aria-hidden="true"
            className="sign grid h-6 grid-cols-[1.6rem_15rem_4rem_5.5rem_5.5rem_10.5rem_3rem_1fr] items-end gap-x-3 border-b-2 border-ink text-[0.95rem] leading-none text-soft"
          >
            <span />
            <span>candidate</span>
            <span>built</span>
            <span className="text-right">asks</span>
            <span className="text-right">worth</span>
            <span>verdict</span>
            <span>grade</span>
            <span>what stands in the way, and what sets it apart</span>
          </li>
          {seen.filter(isJudged).map((entry) => (
            <Row
              key={entry.id}
              entry={entry}
              chosen={side.includes(entry.id)}
              full={side.length >= 4}
              onChoose={(on) => setSide(on ? [...side, entry.id] : side.filter((x) => x !== entry.id))}
            />
          ))}
          {end}
        </ul>
      )}
      {!rows && (
        <ul className="mt-3">
          {seen.map((entry) =>
            isJudged(entry) ? (
              <Lane
                key={entry.id}
                entry={entry}
                chosen={side.includes(entry.id)}
                full={side.length >= 4}
                onChoose={(on) => setSide(on ? [...side, entry.id] : side.filter((x) => x !== entry.id))}
                onPutAway={(e) => archive.mutate({ entry: e, archived: true })}
              />
            ) : (
              <BrokenLane
                key={entry.id}
                entry={entry}
                onPutAway={(e) => archive.mutate({ entry: e, archived: true })}
              />
            ),
          )}
          {end}
        </ul>
      )}
      <p className="mt-6">
        <Link to="/which" className="mr-6 inline-flex min-h-11 items-center underline underline-offset-4">
          Which to look for
        </Link>
        <Link to="/adverts" className="mr-6 inline-flex min-h-11 items-center underline underline-offset-4">
          Adverts by the hundred
        </Link>
        <Link to="/sheets" className="mr-6 inline-flex min-h-11 items-center underline underline-offset-4">
          Sheets: what is known
        </Link>
        <Link to="/devices" className="inline-flex min-h-11 items-center underline underline-offset-4">
          Phones and copies
        </Link>
        <button
          type="button"
          className="ml-6 inline-flex min-h-11 items-center underline underline-offset-4"
          onClick={() => setCounting(true)}
        >
          What you count in{settings.data ? `: ${settings.data.currency}, ${settings.data.unit}` : ""}
        </button>
      </p>
      {counting && <FirstStart known={settings.data ?? null} onDone={() => setCounting(false)} />}
      <p className="mt-2 max-w-3xl text-[0.95rem] text-soft">
        Every figure is an estimate from stated assumptions, not a warranty. Local roadworthiness rules and
        licensed technicians take precedence.
      </p>
    </Page>
  );
}
