// What differs where a report is read through a link: nothing leads into the yard, and photos come by the link.

import { createContext, useContext, type ReactNode } from "react";
import { Link } from "react-router";

/** The token of the link that a page is read through; null in the yard itself. */
const SharedToken = createContext<string | null>(null);

export const SharedBy = SharedToken.Provider;

/** Whether this page is read through a link. */
export const useShared = (): boolean => useContext(SharedToken) !== null;

/** Where photos of a candidate come from. */
export function usePhotoAt(candidate: string): (photo: string) => string {
  const token = useContext(SharedToken);
  return (photo) =>
    token === null
      ? `/api/candidates/${candidate}/attachments/${photo}`
      : `/api/shared/${token}/files/${photo}`;
}

/** A way into the yard; plain words where the page is read through a link. */
export function Way({ to, className, children }: { to: string; className?: string; children: ReactNode }) {
  return useShared() ? (
    <>{children}</>
  ) : (
    <Link to={to} className={className}>
      {children}
    </Link>
  );
}
