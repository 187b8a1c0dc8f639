// What to offer, and the lines that it is argued with: they add up to the gap.

import { useState } from "react";
import type { OfferLine, WholeView } from "../../lib/api";
import { usePhotoAt, Way } from "../../parts/Shared";
import { lineSays } from "./says";
import { exact, money } from "../../lib/format";

const plain = (amount: number) => (amount < 0 ? `−${exact(-amount)}` : exact(amount));

/** Lines that can be said to a seller: what can be shown, not what is only expected. */
const canSay = (l: OfferLine) => l.about.kind === "fault" || l.about.kind === "overdue";

export function offerText(view: WholeView): string {
  const { assessment: a, candidate } = view;
  const lines = a.offer.lines.filter(canSay).map((l) => {
    const { title, behind } = lineSays(l, view);
    return `- ${title}: about ${plain(l.amount)} ${a.currency}${behind.length > 0 ? `\n  ${behind.join(". ")}.` : ""}`;
  });
  const open = a.offer.open;
  return [
    `${candidate.title}, asked ${exact(a.value.asking)} ${a.currency}`,
    "",
    lines.length > 0 ? "What it needs:" : "Nothing was found that it needs now.",
    ...lines,
    "",
    open != null ? `My offer: ${plain(open)} ${a.currency}` : "",
  ]
    .join("\n")
    .trim();
}

/** `bare` leaves out the heading, where one stands above it; `brief` what stands behind each line. */
export function OfferLines({
  view,
  bare = false,
  brief = false,
}: {
  view: WholeView;
  bare?: boolean;
  brief?: boolean;
}) {
  const { assessment: a } = view;
  const { offer } = a;
  const [copied, setCopied] = useState<string | null>(null);
  const photoAt = usePhotoAt(view.id);
  const photos = (l: OfferLine) =>
    l.evidence.flatMap((e) =>
      e.kind === "finding"
        ? view.attachments.filter(
            (x) => x.family === e.family && x.check === e.check && x.media === "image/jpeg",
          )
        : [],
    );
  return (
    <section aria-label="What to offer" data-testid="offer">
      {!bare && (
        <h2 className="stretch flex justify-between gap-3">
          <span>What to offer</span>
          <span className="text-sm font-normal">{a.currency}</span>
        </h2>
      )}
      {offer.open == null ? (
        <p className="py-1">
          {a.blockers.some((g) => g.kind === "stop")
            ? "Nothing: a stop is closed."
            : "Nothing: by what is known it is worth less to you than it will cost."}
        </p>
      ) : (
        <p className="flex flex-wrap gap-x-8 gap-y-1 py-2 text-[1.1rem]">
          <span>
            Open at <b className="reading text-2xl">{plain(offer.open)}</b>
          </span>
          <span>
            stop at <b className="reading text-2xl">{plain(offer.stop)}</b>
          </span>
          <span className="text-soft">
            asked <b className="reading">{exact(a.value.asking)}</b>
          </span>
        </p>
      )}
      <table className="w-full border-collapse">
        <caption className="sr-only">Lines that add up to the gap between asked and worth</caption>
        <tbody>
          {offer.lines.map((l, i) => {
            const { title, behind } = lineSays(l, view);
            return (
              <tr key={i} className="report-line border-b border-rule align-top">
                <th scope="row" className="py-1.5 pr-3 text-left font-normal">
                  {l.about.kind === "fault" || l.about.kind === "overdue" ? (
                    <Way
                      to={
                        l.about.kind === "fault"
                          ? `/c/${view.id}/road/${l.about.at.family}/${l.about.at.point}`
                          : `/c/${view.id}/papers/work`
                      }
                      className="sign text-[1.1rem] font-bold underline decoration-1 underline-offset-4"
                    >
                      {title}
                    </Way>
                  ) : (
                    <b className="sign text-[1.1rem]">{title}</b>
                  )}
                  {(brief ? behind.slice(0, 1) : behind).map((b) => (
                    <span
                      key={b}
                      className="block print:ml-2 print:inline text-[0.95rem] leading-snug text-soft"
                    >
                      {b}
                    </span>
                  ))}
                  {!brief && photos(l).length > 0 && (
                    <span className="mt-1 flex flex-wrap gap-2">
                      {photos(l).map((p) => (
                        <a key={p.id} href={photoAt(p.id)} target="_blank" rel="noreferrer">
                          <img
                            src={photoAt(p.id)}
                            alt={`Photo: ${p.name}`}
                            className="h-20 border-2 border-ink"
                          />
                        </a>
                      ))}
                    </span>
                  )}
                </th>
                <td className="reading py-1.5 text-right text-lg whitespace-nowrap">{plain(l.amount)}</td>
              </tr>
            );
          })}
        </tbody>
        <tfoot>
          <tr className="border-t-2 border-ink">
            <th scope="row" className="sign py-1.5 text-left text-[1.1rem] font-bold">
              {offer.gap >= 0 ? "Asked above what it is worth to you" : "Asked below what it is worth to you"}
            </th>
            <td className="reading py-1.5 text-right text-xl whitespace-nowrap" data-testid="gap">
              {plain(offer.gap)}
            </td>
          </tr>
        </tfoot>
      </table>
      <div className="no-print mt-2 flex flex-wrap items-center gap-3">
        <button
          type="button"
          className="btn"
          onClick={() =>
            void navigator.clipboard.writeText(offerText(view)).then(
              () => setCopied("Copied: what can be shown, and the offer."),
              () => setCopied("It could not be copied: mark the lines and copy them by hand."),
            )
          }
        >
          Copy as a message
        </button>
        {copied && <p role="status">{copied}</p>}
      </div>
      <p className="mt-1 text-[0.95rem] text-soft">
        About {money(offer.shown)} of it can be shown. An estimate from stated assumptions: get a workshop’s
        own price before you hold a seller to it.
      </p>
    </section>
  );
}
