// Small drawings of our own: where to look, and what tells one construction from another.

/** Lines of each drawing on a field of 120 by 60; the accent shows what to look at. */
const drawings: Record<string, { lines: string; accent: string; says: string }> = {
  thing: {
    lines:
      "M6 40h34v-8l-6-10h-18l-6 8h-4z M58 42a6 6 0 1 0 12 0a6 6 0 1 0-12 0 M80 42a6 6 0 1 0 12 0a6 6 0 1 0-12 0 M64 42l8-14h10l4 14",
    accent: "M100 46v-20h14v20z M104 26v-6h6v6",
    says: "a car, a motorcycle, an engine alone",
  },
  size: {
    lines: "M6 44v-10l8-10h14l6 10v10z M44 44v-12l8-12h20l8 12v12z",
    accent: "M88 44v-30h22l6 12v18z",
    says: "small, large, van",
  },
  power: {
    lines: "M14 46v-30h18v30z M32 24h6v16a3 3 0 0 0 6 0v-12l-6-6",
    accent: "M66 12l-8 20h12l-6 18 18-24h-12l6-14z M96 30a10 10 0 1 0 20 0a10 10 0 1 0-20 0",
    says: "fuel, electricity, rotor",
  },
  induction: {
    lines: "M8 18h28v26h-28z M36 26h14 M84 18h28v26h-28z",
    accent: "M50 26a10 10 0 1 1 20 8h14 M60 26a3 3 0 1 0 .1 0 M90 22v18 M96 22v18 M102 22v18",
    says: "a thick hose from the turbo to a cooler at the front",
  },
  injection: {
    lines: "M10 46h100 M20 46v-12h80v12",
    accent: "M30 34v-12h60v12 M30 22h60 M40 22v-8 M60 22v-8 M80 22v-8",
    says: "a rail with injectors on the engine",
  },
  "diesel-injection": {
    lines: "M10 46h100 M20 46v-10h80v10",
    accent: "M20 18h80 M32 18v18 M52 18v18 M72 18v18 M92 18v18",
    says: "one rail with equal pipes",
  },
  timing: {
    lines: "M20 8h34v44h-34z M66 8h34v44h-34z",
    accent: "M18 16h-6 M18 30h-6 M18 44h-6 M70 14h.1 M96 14h.1 M70 46h.1 M96 46h.1 M70 30h.1 M96 30h.1",
    says: "a cover with clips hides a belt, one with bolts a chain",
  },
  gearbox: {
    lines: "M14 44v-30 M30 44v-30 M46 44v-30 M14 29h32",
    accent: "M72 14v20 M72 34l-6 12h14z M98 14v12 M98 26h10v20h-20v-20z",
    says: "pedals: three, or two",
  },
  driven: {
    lines: "M20 14v32 M100 14v32 M20 30h80",
    accent: "M14 10h12v12h-12z M14 38h12v12h-12z M 54 24h12v12h-12z",
    says: "shafts to the front, to the rear, or both",
  },
  roof: {
    lines: "M10 46h100 M24 46l10-24h48l18 24",
    accent: "M44 22h24 M44 22l-6-8h20",
    says: "an opening in the roof",
  },
  aftertreatment: {
    lines: "M10 34h22 M72 34h38",
    accent: "M32 24h40v20h-40z M40 28v12 M48 28v12 M56 28v12 M64 28v12 M88 34v-14h14",
    says: "a filter in the exhaust, a second filler cap",
  },
  springs: {
    lines: "M20 50v-6 M20 14v-6 M84 50v-6 M84 14v-6",
    accent: "M10 44l20-6-20-6 20-6-20-6 20-6 M74 44c-6-10-6-20 0-30h20c6 10 6 20 0 30z",
    says: "steel coils, or air bags",
  },
  "bike-size": {
    lines: "M10 44a7 7 0 1 0 14 0a7 7 0 1 0-14 0 M30 44a7 7 0 1 0 14 0a7 7 0 1 0-14 0 M17 44l6-12h10",
    accent:
      "M66 42a10 10 0 1 0 20 0a10 10 0 1 0-20 0 M94 42a10 10 0 1 0 20 0a10 10 0 1 0-20 0 M76 42l8-18h16l4 18",
    says: "small and large",
  },
  "bike-cooling": {
    lines: "M20 12h30v36h-30z",
    accent: "M14 18h42 M14 26h42 M14 34h42 M14 42h42 M80 14h24v32h-24z M86 14v32 M92 14v32 M98 14v32",
    says: "fins, or a radiator",
  },
  "bike-fuel": {
    lines: "M14 20h40v20h-40z",
    accent: "M 54 30h14 M80 14h12v16h-12z M86 30v16",
    says: "a choke lever, or an injector",
  },
  "bike-final": {
    lines: "M22 30a14 14 0 1 0 28 0a14 14 0 1 0-28 0 M84 30a8 8 0 1 0 16 0a8 8 0 1 0-16 0",
    accent: "M36 16h56 M36 44h56",
    says: "chain, belt or shaft to the rear wheel",
  },
  "bike-valves": {
    lines: "M30 10v28 M30 38l-10 10h20z M80 10v28 M80 38l-10 10h20z",
    accent: "M22 8h16 M72 8h16 M80 2v6",
    says: "a shim, or a screw",
  },
  "engine-size": { lines: "M12 46v-18h22v18z", accent: "M60 46v-32h46v32z", says: "small and large" },
  use: {
    lines: "M8 40h44l-8 12h-28z M30 40v-24l14 18",
    accent: "M74 48a7 7 0 1 0 14 0a7 7 0 1 0-14 0 M94 44a11 11 0 1 0 22 0a11 11 0 1 0-22 0 M80 40v-16h16v10",
    says: "a boat, a machine",
  },
  "plant-cooling": {
    lines: "M12 16h30v30h-30z",
    accent: "M56 22h20a8 8 0 0 1 0 16h-20z M90 44c4-6 8-6 12 0s8 6 12 0",
    says: "a tank and a water pipe",
  },
  "boat-drive": {
    lines: "M8 22h50v14h-50z M58 29h34",
    accent: "M92 18v22 M84 29a8 11 0 1 0 16 0a8 11 0 1 0-16 0",
    says: "a shaft and a propeller",
  },
  "plant-drive": {
    lines: "M8 16h36v30h-36z M44 30h12",
    accent: "M56 16h30v30h-30z M64 38l6-14 4 10 6-12",
    says: "what the engine turns",
  },
};

/** The drawing of a question; nothing where there is none. */
export function Drawing({ name }: { name: string | null | undefined }) {
  const d = name ? drawings[name] : undefined;
  if (!d) return null;
  return (
    <svg viewBox="0 0 120 60" className="h-16 w-32 shrink-0" role="img" aria-label={d.says}>
      <path
        d={d.lines}
        fill="none"
        stroke="var(--ink)"
        strokeWidth="2.5"
        strokeLinejoin="round"
        strokeLinecap="round"
      />
      <path
        d={d.accent}
        fill="none"
        stroke="var(--sea)"
        strokeWidth="3.5"
        strokeLinejoin="round"
        strokeLinecap="round"
      />
    </svg>
  );
}
