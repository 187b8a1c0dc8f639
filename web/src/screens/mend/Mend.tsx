import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";
import { api, ApiError, type DocumentView } from "../../lib/api";
import { candidateKey } from "../../lib/hooks";
import { Page } from "../../parts/Shell";
import { Trouble } from "../../parts/Trouble";

type Evidence = { kind: "paper" | "finding"; id: string };

const lists = ["ledger", "readings", "provenance", "advisories", "campaigns", "scans"] as const;

const listWord: Record<string, string> = {
  ledger: "Ledger, line",
  readings: "The clock, reading",
  provenance: "History report, item",
  advisories: "Advisory",
  campaigns: "Campaign",
  scans: "Scan",
  findings: "Finding",
};

/** Where a fault lies, as a person finds it; the path itself for the rest. */
function placeOf(path: string): string {
  const [, list = "", at = "", ...rest] = path.split("/");
  const word = listWord[list];
  return word ? `${word} ${Number(at) + 1}${rest.length > 0 ? `: ${rest.join(", ")}` : ""}` : path;
}

/** The paper or finding that a fault lies in, where it lies in one. */
function evidenceAt(doc: DocumentView, path: string): Evidence | null {
  const [, list, place] = path.split("/");
  const at = Number(place);
  if (list === "findings") {
    const id = doc.finding_ids[at];
    return id ? { kind: "finding", id } : null;
  }
  const named = lists.find((l) => l === list);
  const id = named && doc.paper_ids[named][at];
  return id ? { kind: "paper", id } : null;
}

/** A candidate whose document makes no sense: every fault, and what can be done about it. */
export function Mend({ id }: { id: string }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const key = ["document", id];
  const document = useQuery({ queryKey: key, queryFn: () => api.document(id) });
  const again = async () => {
    await client.invalidateQueries({ queryKey: key });
    await client.invalidateQueries({ queryKey: candidateKey(id) });
  };
  const takeBack = useMutation({
    mutationFn: async (e: Evidence): Promise<void> => {
      try {
        if (e.kind === "paper") await api.undoPapers(id, [e.id], true);
        else await api.undoFinding(id, e.id, true);
      } catch (error) {
        // It is taken back; what is still wrong elsewhere is told below.
        if (!(error instanceof ApiError && error.code === "faulty")) throw error;
      }
    },
    onSettled: again,
  });
  const putAway = useMutation({
    mutationFn: () => api.archive(id, true),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ["yard"] });
      void navigate("/");
    },
  });
  const doc = document.data;
  return (
    <Page
      title={doc ? `${doc.candidate.title}: something is wrong` : "Something is wrong"}
      lead="This candidate cannot be judged as it is stored. Nothing of it is lost."
    >
      <ul className="mt-4 max-w-3xl">
        {doc?.faults.map((f) => {
          const evidence = evidenceAt(doc, f.path);
          return (
            <li key={`${f.path} ${f.message}`} className="border-b border-rule py-2">
              <p className="text-lg font-bold">{f.message}</p>
              <p className="sign text-soft">{placeOf(f.path)}</p>
              {evidence && (
                <button
                  type="button"
                  className="btn mt-1"
                  disabled={takeBack.isPending}
                  onClick={() => takeBack.mutate(evidence)}
                >
                  Take this {evidence.kind} back
                </button>
              )}
            </li>
          );
        })}
      </ul>
      <div className="mt-4 flex flex-wrap items-center gap-3">
        <button type="button" className="btn" onClick={() => void again()}>
          Look again
        </button>
        <a className="btn" href={`/api/candidates/${id}/export`} download>
          Save the document as a file
        </a>
        <button type="button" className="btn" disabled={putAway.isPending} onClick={() => putAway.mutate()}>
          Put it away
        </button>
        <Link to="/" className="flex min-h-11 items-center underline underline-offset-4">
          To the yard
        </Link>
      </div>
      <p className="mt-2 max-w-3xl text-soft">
        What is wrong in the advert itself can be mended in the saved file; import that in the yard.
      </p>
      <Trouble error={document.error ?? takeBack.error ?? putAway.error} />
    </Page>
  );
}
