// Finds any sheet, failure point, check, candidate or screen by its name, from anywhere.

import { useQueries, useQueryClient } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { api, type YardEntry } from "../lib/api";
import { useFamilies } from "../lib/hooks";
import { hits, thingsOf, type Thing } from "../lib/things";

const SCREENS: Thing[] = [
  { name: "The yard", where: "screen", to: "/" },
  { name: "Sheets", where: "screen", to: "/sheets" },
  { name: "Which to look for", where: "screen", to: "/which" },
  { name: "Adverts", where: "screen", to: "/adverts" },
  { name: "A new candidate", where: "screen", to: "/new" },
  { name: "Devices", where: "screen", to: "/devices" },
];

/** As many as are shown. */
const MOST = 9;

function Search({ onGo }: { onGo: (to: string) => void }) {
  const [typed, setTyped] = useState("");
  const [at, setAt] = useState(0);
  const families = useFamilies();
  const sheets = useQueries({
    queries: (families.data ?? []).map((f) => ({
      queryKey: ["sheet", f.id],
      queryFn: () => api.newestFamily(f.id),
      staleTime: 60_000,
      retry: false,
    })),
  });
  const yard = useQueryClient().getQueryData<YardEntry[]>(["yard"]) ?? [];
  const things = [
    ...SCREENS,
    ...yard.map((e) => ({ name: e.title, where: "candidate", to: `/c/${e.id}/road` })),
    ...sheets.flatMap((s) => (s.data ? thingsOf(s.data) : [])),
  ];
  const found = hits(typed, things, MOST);
  const chosen = Math.min(at, Math.max(0, found.length - 1));
  const reading = families.isLoading || sheets.some((s) => s.isLoading);
  return (
    <>
      <input
        // The dialog was opened to type here.
        autoFocus
        type="text"
        role="combobox"
        aria-label="Name"
        aria-expanded={found.length > 0}
        aria-controls="found-things"
        aria-activedescendant={found[chosen] ? `found-${chosen}` : undefined}
        autoComplete="off"
        className="field"
        placeholder="a sheet, a part, a check, a candidate"
        value={typed}
        onChange={(e) => {
          setTyped(e.target.value);
          setAt(0);
        }}
        onKeyDown={(e) => {
          if (e.key === "ArrowDown") setAt(Math.min(chosen + 1, found.length - 1));
          else if (e.key === "ArrowUp") setAt(Math.max(chosen - 1, 0));
          else if (e.key === "Enter" && found[chosen]) onGo(found[chosen].to);
          else return;
          e.preventDefault();
        }}
      />
      <ul id="found-things" role="listbox" aria-label="Found" className="mt-2">
        {found.map((t, i) => (
          <li
            key={`${t.to}|${t.name}|${t.where}`}
            id={`found-${i}`}
            role="option"
            aria-selected={i === chosen}
            className="min-h-11 cursor-pointer border-b border-rule px-2 py-1 leading-tight aria-selected:bg-sunk"
            onClick={() => onGo(t.to)}
          >
            <b className="sign text-lg">{t.name}</b>
            <span className="block text-sm text-soft">{t.where}</span>
          </li>
        ))}
      </ul>
      <p role="status" className="py-1 text-soft">
        {reading && "Reading the sheets. "}
        {typed.trim() !== "" && !reading && found.length === 0 && "Nothing sounds like that."}
      </p>
    </>
  );
}

/** Opens with "/" or Ctrl and K. */
export function Finder() {
  const [open, setOpen] = useState(false);
  const navigate = useNavigate();
  useEffect(() => {
    const typing = (t: EventTarget | null) =>
      t instanceof HTMLElement &&
      (t.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(t.tagName));
    const listener = (e: KeyboardEvent) => {
      const slash = e.key === "/" && !e.ctrlKey && !e.metaKey && !e.altKey && !typing(e.target);
      if (!slash && !(e.key.toLowerCase() === "k" && (e.ctrlKey || e.metaKey))) return;
      e.preventDefault();
      setOpen(true);
    };
    addEventListener("keydown", listener);
    return () => removeEventListener("keydown", listener);
  }, []);
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger className="sign min-h-11 min-w-11 text-lg font-semibold underline underline-offset-4">
        Find
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/50" />
        <Dialog.Content className="fixed top-[8vh] left-1/2 z-50 max-h-[84vh] w-[min(36rem,94vw)] -translate-x-1/2 overflow-y-auto border-2 border-ink bg-raised p-4">
          <Dialog.Title className="mb-2 text-2xl">Find by name</Dialog.Title>
          <Dialog.Description className="sr-only">
            Type part of a name; the arrows choose, Enter opens.
          </Dialog.Description>
          <Search
            onGo={(to) => {
              setOpen(false);
              void navigate(to);
            }}
          />
          <Dialog.Close className="btn mt-1">Close</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
