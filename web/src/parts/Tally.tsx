import type { Grade } from "../lib/api";
import { gradeLevel, gradeWord } from "../lib/words";

/** The grade's mark: rising ticks, all struck through for a stopper. Reads without colour. */
export function Tally({ grade, word = false }: { grade: Grade; word?: boolean }) {
  const level = gradeLevel[grade];
  const label = gradeWord[grade];
  return (
    <span className="inline-flex items-center gap-1.5 whitespace-nowrap">
      <svg width="40" height="26" viewBox="0 0 34 22" role="img" aria-label={label}>
        <title>{label}</title>
        {[1, 2, 3, 4].map((n) => {
          const x = 4 + (n - 1) * 8;
          const on = level >= n;
          return (
            <line
              key={n}
              x1={x}
              x2={x}
              y1={20}
              y2={on ? 17 - n * 3.5 : 17}
              stroke={on ? "var(--ink)" : "var(--rule-strong)"}
              strokeWidth={on ? 3.2 : 1.4}
            />
          );
        })}
        {level === 5 && <line x1="0" y1="18" x2="33" y2="4" stroke="var(--ink)" strokeWidth="3.2" />}
      </svg>
      {word && <span className="sign text-base font-semibold">{label}</span>}
    </span>
  );
}
