/** In the place of a part that is not there yet: what it is, and whether it can come. */
export function OnItsWay({ what, away, className }: { what: string; away: boolean; className?: string }) {
  return (
    <p role="status" className={className}>
      {away
        ? `${what}: not kept on this device, and the application does not answer. It is asked again.`
        : `${what}: one moment.`}
    </p>
  );
}
