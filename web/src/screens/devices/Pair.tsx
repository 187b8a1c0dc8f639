// The door: a phone or another machine that is not let in yet.

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { api } from "../../lib/api";
import { Trouble } from "../../parts/Trouble";

/** What a device calls itself until a person says otherwise. */
const usual = () => (matchMedia("(pointer: coarse)").matches ? "Phone" : "Another machine");

export function Pair() {
  const client = useQueryClient();
  const navigate = useNavigate();
  // The code comes behind # in a photographed address, where no server sees it.
  const [code, setCode] = useState(() => decodeURIComponent(location.hash.slice(1)));
  const [name, setName] = useState(usual);
  const access = useQuery({ queryKey: ["access"], queryFn: api.access, staleTime: 0 });
  const pair = useMutation({
    mutationFn: () => api.pair(code, name),
    onSuccess: async () => {
      await client.invalidateQueries();
      void navigate("/", { replace: true });
    },
  });
  useEffect(() => {
    document.title = "Pair this device: Tick Sage";
    // A code that was read stays in no list of visited pages.
    if (location.hash) history.replaceState(null, "", "/pair");
  }, []);
  return (
    <main className="mx-auto max-w-xl px-4 pt-8 pb-24">
      <h1 className="text-4xl">Pair this device</h1>
      {access.data?.open ? (
        <>
          <p className="mt-2 text-lg">This device is let in already.</p>
          <button type="button" className="btn btn-main mt-4" onClick={() => void navigate("/")}>
            Go to the yard
          </button>
        </>
      ) : (
        <form
          className="mt-2"
          onSubmit={(e) => {
            e.preventDefault();
            pair.mutate();
          }}
        >
          <p className="text-lg">
            On a device that is let in, open the yard, then “Phones and copies”, and ask for a code. It is
            valid for ten minutes, once.
          </p>
          <label className="mt-4 block">
            <span className="sign text-lg">Code</span>
            <input
              className="field reading mt-1 w-full text-2xl uppercase"
              autoComplete="one-time-code"
              autoCapitalize="characters"
              spellCheck={false}
              required
              maxLength={80}
              value={code}
              onChange={(e) => setCode(e.target.value)}
            />
          </label>
          <label className="mt-3 block">
            <span className="sign text-lg">What this device is called</span>
            <input
              className="field mt-1 w-full text-lg"
              required
              maxLength={60}
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
          </label>
          {pair.error && <Trouble error={pair.error} />}
          <button type="submit" className="btn btn-main mt-4" disabled={pair.isPending}>
            Pair it
          </button>
          <p className="mt-4 text-[0.95rem] text-soft">
            Whoever holds this device then sees and changes the whole yard, until it is shut out in that list.
          </p>
        </form>
      )}
    </main>
  );
}
