import type { Assessment } from "../lib/api";
import { percent } from "../lib/format";
import { careWord } from "../lib/words";

/** How it was kept: nobody sees it, so all three levels are weighed, by papers and by what was found. */
export function Care({ assessment }: { assessment: Assessment }) {
  const { care } = assessment;
  const tones = ["var(--ink)", "var(--rule-strong)", "var(--raised)"];
  const known = care.index.parts.length > 0;
  return (
    <section aria-label="How it was kept" data-testid="care" className="min-w-0">
      <h2 className="sign text-lg leading-tight font-bold">How it was kept</h2>
      <svg
        width="100%"
        height="14"
        viewBox="0 0 100 14"
        preserveAspectRatio="none"
        aria-hidden="true"
        className="my-1 block border-2 border-ink"
      >
        {care.after.map((w, i) => (
          <rect
            key={careWord[i]}
            x={care.after.slice(0, i).reduce((a, b) => a + b, 0) * 100}
            width={w * 100}
            height="14"
            fill={tones[i]}
          />
        ))}
      </svg>
      <dl className="grid grid-cols-3 gap-2 leading-tight">
        {careWord.map((word, i) => (
          <div key={word} className={i === 1 ? "text-center" : i === 2 ? "text-right" : ""}>
            <dt className="sign inline">{word} </dt>
            <dd className="reading inline text-lg">{percent(care.after[i] ?? 0)}</dd>
            <dd className="text-[0.85rem] text-soft">
              {known ? "by papers" : "at first"} {percent(care.before[i] ?? 0)}
            </dd>
          </div>
        ))}
      </dl>
    </section>
  );
}
