// A sheet that begins with a name and what such things have in common, for those who would rather write or paste talk
// than tap answers.

import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api } from "../../lib/api";
import { Field } from "../../parts/Field";
import { Trouble } from "../../parts/Trouble";

const things = [
  ["car", "Car, van, pick-up"],
  ["motorcycle", "Motorcycle, scooter"],
  ["engine", "Engine alone, boat, machine"],
] as const;

export function NewSheet({ currency }: { currency: string }) {
  const [name, setName] = useState("");
  const [thing, setThing] = useState<string>("car");
  const navigate = useNavigate();
  const client = useQueryClient();
  const make = useMutation({
    mutationFn: () => api.makeBuilt({ name: name.trim(), answers: { thing }, currency }),
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
          <select className="field" value={thing} onChange={(e) => setThing(e.target.value)}>
            {things.map(([id, label]) => (
              <option key={id} value={id}>
                {label}
              </option>
            ))}
          </select>
        </Field>
        <button type="submit" className="btn btn-main" disabled={name.trim() === "" || make.isPending}>
          Open it and write
        </button>
      </form>
      <p className="mt-1 text-soft">
        It begins with what is common knowledge of such a thing; what you say takes its place.
      </p>
      <Trouble error={make.error} />
    </details>
  );
}
