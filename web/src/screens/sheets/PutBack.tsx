// What the pattern of a point's part says, put back however long ago the point was made the sheet's own.

import { useQuery } from "@tanstack/react-query";
import { api, type Family } from "../../lib/api";
import { isGiven, putBack } from "./draft";

export function PutBack({
  sheet,
  base,
  id,
  onEdit,
}: {
  sheet: Family;
  /** The sheet as it is stored. */
  base: Family;
  id: string;
  onEdit: (f: Family) => void;
}) {
  const own = !isGiven(sheet, `points/${id}`);
  const stored = (base.points ?? []).some((x) => x.id === id);
  const given = useQuery({
    queryKey: ["given-point", base.id, base.version, id],
    queryFn: () => api.givenPoint(base.id, id),
    enabled: own && stored && base.built_as != null,
    retry: false,
  });
  const { data } = given;
  if (!own || !data) return null;
  return (
    <button type="button" className="btn mt-1" onClick={() => onEdit(putBack(sheet, data))}>
      Put back what the pattern says
    </button>
  );
}
