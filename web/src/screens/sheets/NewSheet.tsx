// A sheet that begins with nothing but a name, for those who would rather write or paste talk than tap answers.

import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, type Family } from "../../lib/api";
import { Field } from "../../parts/Field";
import { Trouble } from "../../parts/Trouble";
import { freeId } from "./draft";

const kinds = [
  { kind: "engine", clock: "km", label: "Engine of a vehicle" },
  { kind: "body", clock: "km", label: "Vehicle without its engine" },
  { kind: "gearbox", clock: "km", label: "Gearbox" },
  { kind: "motorcycle", clock: "km", label: "Motorcycle" },
  { kind: "engine", clock: "hours", label: "Engine counted in hours" },
] as const;

export function NewSheet({ taken, currency }: { taken: string[]; currency: string }) {
  const [name, setName] = useState("");
  const [what, setWhat] = useState(0);
  const navigate = useNavigate();
  const client = useQueryClient();
  const make = useMutation({
    mutationFn: () => {
      const { kind, clock } = kinds[what] ?? kinds[0];
      const sheet = {
        format: "ticksage-family/2",
        id: freeId(name.trim(), taken),
        version: 1,
        name: name.trim(),
        kind,
        clock,
        currency,
      };
      return api.importFamily(sheet as Family);
    },
    onSuccess: (head) => {
      void client.invalidateQueries({ queryKey: ["families"] });
      void navigate(`/sheets/${head.id}`);
    },
  });
  return (
    <details className="mt-3">
      <summary className="min-h-11 cursor-pointer py-2 underline underline-offset-4">
        New, from pasted talk
      </summary>
      <form
        className="grid max-w-3xl items-end gap-3 sm:grid-cols-[1.4fr_1fr_auto]"
        onSubmit={(e) => {
          e.preventDefault();
          if (name.trim() !== "") make.mutate();
        }}
      >
        <Field label="Name of the family">
          <input className="field" maxLength={80} value={name} onChange={(e) => setName(e.target.value)} />
        </Field>
        <Field label="What it is">
          <select className="field" value={what} onChange={(e) => setWhat(Number(e.target.value))}>
            {kinds.map((k, i) => (
              <option key={k.label} value={i}>
                {k.label}
              </option>
            ))}
          </select>
        </Field>
        <button type="submit" className="btn btn-main" disabled={name.trim() === "" || make.isPending}>
          Open it and write
        </button>
      </form>
      <Trouble error={make.error} />
    </details>
  );
}
