// What a sheet holds beside its failure points, edited in place: checks, jobs, access, scheduled work, campaigns,
// buying advice, rules of care, how parts and hands are to be had by age, and what more power breaks.

import type { Family } from "../../lib/api";
import { freeId, OWN, owned, withOwnSource } from "./draft";

export const lists = [
  "checks",
  "jobs",
  "access",
  "intervals",
  "campaigns",
  "advice",
  "care_rules",
  "supply",
  "alterations",
] as const;
export type List = (typeof lists)[number];
export type Item<L extends List> = NonNullable<Family[L]>[number];

/** One thing of a list being edited. */
export interface Editing<L extends List> {
  sheet: Family;
  item: Item<L>;
  change: (x: Partial<Item<L>>) => void;
}

type Named = { id: string; name?: string; says?: string };

const itemsOf = (sheet: Family, list: List): Named[] => (sheet[list] ?? []) as Named[];

/** What it is called on the screen. */
export const called = (item: Named): string => item.name ?? item.says ?? item.id;

/** Changes one thing; what a pattern gave becomes the sheet's own. */
export function editItem<L extends List>(
  sheet: Family,
  list: L,
  id: string,
  change: Partial<Item<L>>,
): Family {
  const items = itemsOf(sheet, list).map((x) => (x.id === id ? { ...x, ...change } : x));
  return { ...owned(sheet, `${list}/${id}`), [list]: items };
}

/** What names a job, a group of access or a check, so that it cannot go. */
export function usedBy(sheet: Family, list: List, id: string): string[] {
  const points = sheet.points ?? [];
  if (list === "access") return (sheet.jobs ?? []).filter((j) => j.access?.includes(id)).map((j) => j.name);
  if (list === "checks")
    return points.filter((p) => (p.routes ?? []).some((r) => r.needs?.check === id)).map((p) => p.name);
  if (list !== "jobs") return [];
  const named = (p: (typeof points)[number]) =>
    [
      p.job,
      p.escalation?.job,
      p.already_done?.job,
      ...(p.routes ?? []).map((r) => r.job),
      ...(p.stages ?? []).map((s) => s.job),
      ...(p.takes_along ?? []).map((t) => t.job),
    ].includes(id);
  return [
    ...points.filter(named).map((p) => p.name),
    ...(sheet.intervals ?? []).filter((i) => i.job === id).map((i) => i.name),
    ...(sheet.upgrades ?? []).filter((u) => u.job === id).map((u) => u.name),
  ];
}

export function removeItem(sheet: Family, list: List, id: string): Family {
  if (usedBy(sheet, list, id).length > 0) return sheet;
  return { ...owned(sheet, `${list}/${id}`), [list]: itemsOf(sheet, list).filter((x) => x.id !== id) };
}

/** What a new thing of a list begins with. */
function begun(sheet: Family, list: List, id: string, name: string): object {
  switch (list) {
    case "checks":
      return {
        id,
        name,
        phase: "walk_round",
        how: name,
        minutes: 2,
        outcomes: [{ label: "as it should be" }, { label: "not so" }],
        leak: [0.9, 0.1],
        links: [],
      };
    case "jobs":
      return { id, name, price: 300 };
    case "access":
      return { id, name, hours: 1 };
    case "intervals":
      return { id, name, years: 2, job: sheet.jobs?.[0]?.id ?? "", renews: [] };
    case "campaigns":
      return { id, name, about: name, exposes: "" };
    case "advice":
      return { id, kind: "praise", says: name, source: OWN };
    case "care_rules":
      return { id, says: name };
    case "supply":
      return { id, says: name, from_age: 20, parts: 1.5 };
    case "alterations": {
      const first = sheet.points?.[0];
      return {
        id,
        name,
        source: OWN,
        standard_kw: 100,
        limit_kw: 120,
        shortens: first ? { [first.id]: 0.7 } : {},
      };
    }
  }
}

export function addItem(sheet: Family, list: List, name: string): [Family, string] {
  const items = itemsOf(sheet, list);
  const id = freeId(
    name,
    items.map((x) => x.id),
  );
  const most = ["advice", "care_rules", "supply"].includes(list) ? 160 : 80;
  // Work that is scheduled needs a job to do it.
  const based =
    list === "intervals" && (sheet.jobs ?? []).length === 0 ? addItem(sheet, "jobs", name)[0] : sheet;
  const known = list === "advice" || list === "alterations" ? withOwnSource(based) : based;
  return [{ ...known, [list]: [...items, begun(known, list, id, name.slice(0, most))] }, id];
}
