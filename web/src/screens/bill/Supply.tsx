// How parts and hands are to be had at its age, where a sheet says so: it stands in every price of the bill.

import type { Assessment } from "../../lib/api";
import { capital } from "../../lib/format";

export function Supply({ list }: { list: Assessment["supply"] }) {
  if (!list || list.length === 0) return null;
  const times = (x: number, what: string) => (x === 1 ? [] : [`${what} ${x} times as much`]);
  return (
    <section className="mt-6" data-testid="supply">
      <h2 className="sign text-xl font-bold">Parts and hands at its age</h2>
      <ul>
        {list.map((s) => (
          <li key={`${s.family} ${s.says}`} className="border-b border-rule py-2">
            {s.says}
            <span className="block text-[0.95rem] text-soft">
              {capital([...times(s.parts, "parts cost"), ...times(s.hours, "work takes")].join(", "))}
              {s.parts === 1 && s.hours === 1 ? "Some grades of part are gone" : ""}, from {s.from_age} years
              on
              {s.today ? "" : ", which falls in the plan"}; counted in the prices above.
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
