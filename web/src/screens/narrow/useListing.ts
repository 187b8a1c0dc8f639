// A list of adverts on its way: read once, judged in parts, two at a time, until it is done or left.

import { useRef, useState } from "react";
import { api, type AdvertList, type AdvertsRead, type Ranked } from "../../lib/api";

/** Lines judged in one question: few enough that results come as they are made, and of a long list a fortieth. */
const atOnce = (lines: number) => Math.min(200, Math.max(24, Math.ceil(lines / 40)));

export type Listing = {
  list: AdvertList;
  read: AdvertsRead;
  judged: Ranked[];
  done: boolean;
  left: boolean;
};

export function useListing() {
  const [listing, setListing] = useState<Listing>();
  const [error, setError] = useState<Error>();
  const [busy, setBusy] = useState(false);
  const run = useRef(0);
  const start = async (list: AdvertList) => {
    const mine = ++run.current;
    const current = () => run.current === mine;
    setError(undefined);
    setBusy(true);
    try {
      const read = await api.readAdverts(list);
      if (!current()) return;
      setListing({ list, read, judged: [], done: read.open.length === 0, left: false });
      const open = [...read.open];
      const work = async () => {
        while (current()) {
          const lines = open.splice(0, atOnce(read.open.length));
          if (lines.length === 0) return;
          const judged = await api.judgeAdverts({ list, lines });
          if (!current()) return;
          setListing((l) => l && { ...l, judged: [...l.judged, ...judged] });
        }
      };
      await Promise.all([work(), work()]);
      if (current()) setListing((l) => l && { ...l, done: true });
    } catch (e) {
      if (current()) setError(e as Error);
    } finally {
      if (current()) setBusy(false);
    }
  };
  const leave = () => {
    run.current++;
    setBusy(false);
    setListing((l) => l && { ...l, left: true });
  };
  return { listing, error, busy, start, leave };
}
