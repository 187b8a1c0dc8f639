// A sheet with what its typical examples cost.

import { useQuery } from "@tanstack/react-query";
import { api } from "../../lib/api";
import { useSettings } from "../../parts/FirstStart";

export function useSheet(id: string) {
  const settings = useSettings();
  const currency = settings.data?.currency ?? "EUR";
  const sheet = useQuery({ queryKey: ["sheet", id], queryFn: () => api.newestFamily(id), retry: false });
  const sanity = useQuery({
    queryKey: ["sanity", id, currency],
    queryFn: () => api.sanity(id, currency),
    retry: false,
  });
  return { sheet, sanity, currency };
}
