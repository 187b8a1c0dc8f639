import { useEffect, useState } from "react";

const clock = (s: number) => `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")}`;

/** Counts a timed check down, large enough to be read at arm's length. */
export function Timer({ seconds, name }: { seconds: number; name: string }) {
  const [end, setEnd] = useState<number | null>(null);
  const [now, setNow] = useState(0);
  useEffect(() => {
    if (end === null) return;
    const tick = setInterval(() => setNow(Date.now()), 200);
    return () => clearInterval(tick);
  }, [end]);
  const left = end === null ? seconds : Math.max(0, Math.ceil((end - now) / 1000));
  const over = end !== null && left === 0;
  useEffect(() => {
    if (over) navigator.vibrate?.(300);
  }, [over]);
  const running = end !== null && !over;
  return (
    <div className="mt-2 grid grid-cols-[auto_1fr_auto] items-center gap-3 border-2 border-ink bg-raised px-3 py-1.5">
      <span className="reading text-4xl leading-none" data-testid="timer">
        {clock(left)}
      </span>
      <span aria-live="polite" className="leading-tight">
        {over ? (
          <b className="sign text-lg">Time. What did you find?</b>
        ) : running ? (
          "Keep watching and listening."
        ) : (
          `By the clock: ${clock(seconds)}.`
        )}
      </span>
      <button
        type="button"
        className={`btn ${running ? "" : "btn-main"}`}
        aria-label={`${running ? "Stop" : over ? "Again" : "Start"} the clock of ${name}`}
        onClick={() => {
          const at = Date.now();
          setNow(at);
          setEnd(running ? null : at + seconds * 1000);
        }}
      >
        {running ? "Stop" : over ? "Again" : "Start"}
      </button>
    </div>
  );
}
