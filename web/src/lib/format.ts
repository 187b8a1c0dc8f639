// Numbers as people read them: with unit and basis, never with false precision.

import type { UsageClock, UsageUnit } from "./api";

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
  const cents = Math.round(Math.abs(amount) * 100);
  const sign = amount < 0 && cents > 0 ? "\u2212" : "";
  const [whole, rest] = [Math.floor(cents / 100), cents % 100];
  return `${sign}${grouped(whole)}${rest === 0 ? "" : `.${String(rest).padStart(2, "0")}`}`;
}

/** A chance as a whole percent. */
export function percent(chance: number): string {
  if (chance < 0.01) return `<${NBSP}1${NBSP}%`;
  if (chance > 0.99) return `>${NBSP}99${NBSP}%`;
  return `${Math.round(chance * 100)}${NBSP}%`;
}

export const clockUnit = (clock: UsageClock): UsageUnit => (clock === "km" ? "km" : "h");

/** The international mile of 1959. */
const KM_A_MILE = 1.609344;

/** Usage on its clock: miles as kilometres. */
export const onClock = (u: { value: number; unit: UsageUnit }): number =>
  u.unit === "mi" ? u.value * KM_A_MILE : u.value;

/** Usage on its clock, rounded to what matters. */
export function usage(value: number, unit: UsageUnit, step = 1): string {
  return `${grouped(Math.round(value / step) * step)}${NBSP}${unit}`;
}

export const whole = grouped;

/** Money that moves: with its sign. */
export function signed(amount: number): string {
  if (Math.abs(amount) < 0.5) return "0";
  return amount > 0 ? `+${money(amount)}` : money(amount);
}

const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

/** A moment told in UTC, in this device's own time. */
export function moment(utc: string): string {
  const t = new Date(utc);
  const two = (n: number) => String(n).padStart(2, "0");
  const date = `${t.getFullYear()}-${two(t.getMonth() + 1)}-${two(t.getDate())}`;
  return `${day(date)}, ${two(t.getHours())}:${two(t.getMinutes())}`;
}

/** A day as people say it, no more exact than it is known. */
export function day(date: string, known: "day" | "month" | "year" = "day"): string {
  const [y = "", m = "1", d = "1"] = date.split("-");
  if (known === "year") return y;
  const month = `${MONTHS[Number(m) - 1] ?? m}${NBSP}${y}`;
  return known === "month" ? month : `${Number(d)}${NBSP}${month}`;
}

/** A length of time, in years or months. */
export function span(years: number): string {
  const months = Math.round(years * 12);
  if (months < 24) return `${months}${NBSP}month${months === 1 ? "" : "s"}`;
  return `${(months / 12).toFixed(1).replace(".0", "")}${NBSP}years`;
}

/** How long before a day another was. */
export function ago(date: string, until: string): string {
  const days = Math.round((Date.parse(until) - Date.parse(date)) / 86_400_000);
  if (days < 1) return "today";
  if (days < 60) return `${days}${NBSP}day${days === 1 ? "" : "s"} ago`;
  return `${span(days / 365.25)} ago`;
}

/** The beginning of a sentence. */
export const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** Groups of digits between marks, as thousands are written: three in each but the first. */
const inThousands = (groups: string[]) =>
  /^[1-9]\d{0,2}$/.test(groups[0] ?? "") && groups.slice(1).every((g) => /^\d{3}$/.test(g));

/**
 * A number as people type it; none where it is not one. Blanks and apostrophes part thousands. So do a point or a
 * comma before three digits: "4.500" is four and a half thousand. With both marks the last one is the decimal mark.
 * The core reads numbers by the same rule; `web/tests/numbers.json` holds both to it.
 */
export function numberOf(text: string): number | null {
  const tight = text.replace(/[\s\u202f\u00a0'’_]/g, "");
  if (!/^[\d.,]*\d[\d.,]*$/.test(tight)) return null;
  const groups = tight.split(/[.,]/);
  const mark = [...tight].findLast((c) => c === "." || c === ",");
  const both = tight.includes(".") && tight.includes(",");
  let plain: string;
  if (both) {
    const whole = groups.slice(0, -1);
    if (tight.split(mark ?? ".").length !== 2 || !inThousands(whole)) return null;
    plain = `${whole.join("")}.${groups.at(-1) ?? ""}`;
  } else if (groups.length > 1 && inThousands(groups)) plain = groups.join("");
  else plain = tight.replace(",", ".");
  const n = Number(plain);
  return Number.isFinite(n) ? n : null;
}

/** How a number that was typed with marks is understood; nothing where there is no doubt. */
export function readBack(text: string): string | undefined {
  const n = /[.,]/.test(text) ? numberOf(text) : null;
  return n === null ? undefined : `read as ${exact(n)}`;
}

/** Today by this device's own clock and zone. */
export function today(): string {
  const d = new Date();
  const two = (n: number) => String(n).padStart(2, "0");
  return `${d.getFullYear()}-${two(d.getMonth() + 1)}-${two(d.getDate())}`;
}
