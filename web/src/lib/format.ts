// Numbers as people read them: with unit and basis, never with false precision.

import type { Gate, Grade, UsageClock, UsageUnit, VerdictKind } from "./api";

const THIN = "\u202f";
const NBSP = "\u00a0";

function grouped(whole: number): string {
  return whole
    .toFixed(0)
    .replace("-", "\u2212")
    .replace(/\B(?=(\d{3})+$)/g, THIN);
}

/** Money estimated: two significant figures. */
export function money(amount: number): string {
  if (Math.abs(amount) < 0.5) return "0";
  const step = 10 ** (Math.floor(Math.log10(Math.abs(amount))) - 1);
  return grouped(Math.round(amount / Math.max(step, 1)) * Math.max(step, 1));
}

/** Money as entered. */
export function exact(amount: number): string {
  const whole = Math.trunc(amount);
  const rest = Math.round((amount - whole) * 100);
  return rest === 0 ? grouped(whole) : `${grouped(whole)}.${String(rest).padStart(2, "0")}`;
}

/** A chance as a whole percent. */
export function percent(chance: number): string {
  if (chance < 0.01) return `<${NBSP}1${NBSP}%`;
  if (chance > 0.99) return `>${NBSP}99${NBSP}%`;
  return `${Math.round(chance * 100)}${NBSP}%`;
}

export const clockUnit = (clock: UsageClock): UsageUnit => (clock === "km" ? "km" : "h");

/** Usage on its clock, rounded to what matters. */
export function usage(value: number, unit: UsageUnit, step = 1): string {
  return `${grouped(Math.round(value / step) * step)}${NBSP}${unit}`;
}

export const whole = grouped;

/** The beginning of a sentence. */
export const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

export const verdictWord: Record<VerdictKind, string> = {
  walk_away: "Walk away",
  not_yet: "Not yet",
  negotiate: "Negotiate",
  buy: "Buy at asking",
};

export const gradeWord: Record<Grade, string> = {
  trifle: "Trifle",
  chore: "Chore",
  worry: "Worry",
  blow: "Blow",
  stopper: "Stopper",
};

export const gradeLevel: Record<Grade, number> = { trifle: 1, chore: 2, worry: 3, blow: 4, stopper: 5 };

export const systemWord: Record<string, string> = {
  engine: "Engine",
  cooling: "Cooling",
  fuel_and_air: "Fuel and air",
  electrics: "Electrics",
  gearbox: "Gearbox",
  driveline: "Driveline",
  brakes: "Brakes",
  chassis: "Chassis",
  body: "Body",
  interior: "Interior",
};

export const exposureWord: Record<string, string> = {
  short_trips: "Short trips",
  idling: "Idling",
  towing: "Towing",
  off_road: "Off the road",
  heat: "Heat",
  cold: "Cold",
  salt: "Salt",
  motorway: "Long steady runs",
  tuned: "Tuned",
};

export const careWord = ["poor", "ordinary", "good"] as const;

export const mechanismWord: Record<string, string> = {
  infant: "made wrong: early or never",
  random: "at any time alike",
  wear: "rubbed away",
  ageing: "hardens, corrodes, perishes",
  fatigue: "cracks after many cycles",
};

export const phaseWord: Record<string, string> = {
  before_travel: "Before you travel",
  papers: "Papers",
  walk_round: "Round the outside",
  interior: "Inside",
  bonnet_cold: "Under the bonnet, cold",
  cold_start: "Cold start",
  underneath: "Underneath",
  drive: "Test drive",
  hot: "Hot, after the drive",
  scan: "Codes",
  measure: "Measured",
};

export const evidenceWord: Record<string, string> = {
  invoice_naming_part: "invoice",
  invoice: "invoice",
  stamp: "stamp",
  owner_log: "owner’s log",
  sellers_word: "seller says",
};

export const provenanceWord: Record<string, string> = {
  stolen: "Reported stolen",
  scrapped: "Marked as scrapped",
  identity: "Identity does not agree",
  written_off_structural: "Structural write-off",
  written_off: "Write-off, not structural",
  finance: "Finance marker",
  third_party: "Third-party interest",
  mileage: "Mileage discrepancy",
  imported: "Imported or exported",
  plate: "Plate changed",
  colour: "Colour changed",
};

export const provenanceSay: Record<string, string> = {
  stolen: "Do not pay and do not take it away.",
  scrapped: "It should not be on the road again.",
  identity: "Numbers and papers must agree before anything else is looked at.",
  written_off_structural: "The structure was bent. Most buyers stop here; say in the plan if you accept it.",
  finance:
    "Ask for the lender’s letter of settlement. A stale marker clears within a few days once the lender has written.",
  third_party: "Ask who holds the interest and see it settled in writing.",
  mileage: "Find the readings that disagree and what explains them before any money moves.",
};

/** What closes a gate, and what to do about it. */
export function gateSays(g: Gate): { title: string; say: string } {
  if (g.cause.kind === "check") return { title: `${g.cause.name}: ${g.cause.outcome}`, say: g.cause.say };
  const note = g.cause.note ? ` ${g.cause.note}` : "";
  return {
    title: provenanceWord[g.cause.item] ?? g.cause.item,
    say: `${provenanceSay[g.cause.item] ?? ""}${note}`,
  };
}
