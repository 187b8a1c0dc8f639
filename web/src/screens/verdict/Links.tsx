// Links through which somebody reads this candidate: a customer the report, a seller what was found.

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type CandidateView, type LinkView } from "../../lib/api";
import { moment } from "../../lib/format";
import { Trouble } from "../../parts/Trouble";

const forWhom = {
  customer: { name: "customer", sees: "the report that was issued last, with photos" },
  seller: { name: "seller", sees: "findings, photos and what mending costs; no limit price, no offer" },
} as const;

const local = ["localhost", "127.0.0.1", "[::1]"].includes(location.hostname);

export function Links({ view }: { view: CandidateView }) {
  const client = useQueryClient();
  const key = ["links", view.id];
  const links = useQuery({ queryKey: key, queryFn: () => api.links(view.id) });
  const [audience, setAudience] = useState<LinkView["audience"]>("customer");
  const [days, setDays] = useState(14);
  const [copied, setCopied] = useState(false);
  const again = () => client.invalidateQueries({ queryKey: key });
  const make = useMutation({ mutationFn: () => api.makeLink(view.id, audience, days), onSuccess: again });
  const takeBack = useMutation({
    mutationFn: (link: string) => api.revokeLink(view.id, link),
    onSuccess: again,
  });
  const address = make.data && `${location.origin}${make.data.path}`;
  const error = links.error ?? make.error ?? takeBack.error;
  return (
    <section className="no-print mt-6 max-w-4xl" aria-label="Links to show">
      <h2 className="stretch">Show it to somebody</h2>
      <p className="py-1">
        Whoever has the link can read, and change nothing. It opens until its day, and you can take it back in
        one tap.
      </p>
      <form
        className="flex flex-wrap items-end gap-4"
        onSubmit={(e) => {
          e.preventDefault();
          setCopied(false);
          make.mutate();
        }}
      >
        <label>
          <span className="sign block">For the</span>
          <select
            className="field min-h-11"
            value={audience}
            onChange={(e) => setAudience(e.target.value as LinkView["audience"])}
          >
            <option value="customer">customer</option>
            <option value="seller">seller</option>
          </select>
        </label>
        <label>
          <span className="sign block">Days</span>
          <input
            type="number"
            className="field reading min-h-11 w-24"
            min={1}
            max={366}
            required
            value={days}
            onChange={(e) => setDays(Number(e.target.value))}
          />
        </label>
        <button type="submit" className="btn" disabled={make.isPending}>
          Make a link
        </button>
        <p className="basis-full text-[0.95rem] text-soft">
          The {forWhom[audience].name} sees {forWhom[audience].sees}.
        </p>
      </form>
      {error && <Trouble error={error} />}
      {address && (
        <div className="mt-2 border-l-8 border-sea pl-4">
          <p className="reading break-all" data-testid="link">
            {address}
          </p>
          <p className="flex flex-wrap items-center gap-3">
            {isSecureContext && (
              <button
                type="button"
                className="btn"
                onClick={() => void navigator.clipboard.writeText(address).then(() => setCopied(true))}
              >
                Copy it
              </button>
            )}
            <span role="status">{copied ? "Copied." : "It is shown this once."}</span>
          </p>
          {local && (
            <p className="text-caution">
              This address works on this machine alone. Open Tick Sage by the name that others reach it by,
              and make the link there.
            </p>
          )}
        </div>
      )}
      <ul className="mt-2">
        {links.data?.map((l) => (
          <li
            key={l.id}
            className="flex flex-wrap items-center justify-between gap-3 border-b border-rule py-1"
          >
            <span>
              For the {forWhom[l.audience].name}, {l.open ? "opens until" : "ran out"} {moment(l.until)}
            </span>
            <button
              type="button"
              className="btn"
              disabled={takeBack.isPending}
              onClick={() => takeBack.mutate(l.id)}
            >
              Take it back
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
