// The words for what the API names.

import { money } from "./format";
import type {
  Assessment,
  Blocker,
  CodeParts,
  Due,
  Grade,
  Hazard,
  MaintenancePolicy,
  Needed,
  RenewWhy,
  ScanItem,
  VerdictKind,
} from "./api";

/** Whether scheduled work is overdue as far as papers show. What nobody says anything of may be on a part that it has
 *  not: of four gearboxes that it may have one is there, and so is one of their four oils. */
export function late(d: Due): "yes" | "perhaps" | "no" {
  if (!d.overdue) return "no";
  if (d.said.length > 0 || d.chance_done < 0.75) return "yes";
  return d.chance_done < 0.9 ? "perhaps" : "no";
}

/** Whether work that no paper shows most likely is none. */
export const lateAtMost = (d: Due): boolean => d.overdue && late(d) !== "yes";

/** Tools by name, each once: "feeler gauge" and "feeler gauges" are one. */
export function toolsOf(names: string[]): string[] {
  const kept: string[] = [];
  for (const name of names) {
    const at = kept.findIndex((k) => k === name || `${k}s` === name || k === `${name}s`);
    if (at < 0) kept.push(name);
    else if (name.length > (kept[at] ?? "").length) kept[at] = name;
  }
  return kept;
}

export const verdictWord: Record<VerdictKind, string> = {
  walk_away: "Walk away",
  not_yet: "Not yet",
  negotiate: "Negotiate",
  buy: "Buy at asking",
};

export const gradeWord: Record<Grade, string> = {
  trifle: "Trifle",
  chore: "Chore",
  worry: "Worry",
  blow: "Blow",
  stopper: "Stopper",
};

export const gradeLevel: Record<Grade, number> = { trifle: 1, chore: 2, worry: 3, blow: 4, stopper: 5 };

export const systemWord: Record<string, string> = {
  engine: "Engine",
  cooling: "Cooling",
  fuel_and_air: "Fuel and air",
  electrics: "Electrics",
  gearbox: "Gearbox",
  driveline: "Driveline",
  brakes: "Brakes",
  chassis: "Chassis",
  body: "Body",
  interior: "Interior",
};

export const exposureWord: Record<string, string> = {
  short_trips: "Short trips",
  idling: "Idling",
  towing: "Towing",
  off_road: "Off the road",
  heat: "Heat",
  cold: "Cold",
  salt: "Salt",
  motorway: "Long steady runs",
  tuned: "Tuned",
};

export const careWord = ["poor", "ordinary", "good"] as const;

export const mechanismWord: Record<string, string> = {
  infant: "A bad part fails early or never",
  random: "It can fail at any time",
  wear: "It wears with use",
  ageing: "It ages: hardens, corrodes, perishes",
  fatigue: "It cracks after long use",
};

export const phaseWord: Record<string, string> = {
  before_travel: "Before you travel",
  papers: "Papers",
  walk_round: "Round the outside",
  interior: "Inside",
  bonnet_cold: "Under the bonnet, cold",
  cold_start: "Cold start",
  underneath: "Underneath",
  drive: "Test drive",
  hot: "Hot, after the drive",
  scan: "Codes",
  measure: "Measured",
};

export const evidenceWord: Record<string, string> = {
  invoice_naming_part: "itemised invoice",
  invoice: "invoice",
  stamp: "stamp",
  owner_log: "owner’s log",
  sellers_word: "seller says",
};

export const provenanceWord: Record<string, string> = {
  stolen: "Reported stolen",
  scrapped: "Marked as scrapped",
  identity: "Identity does not agree",
  written_off_structural: "Structural write-off",
  written_off: "Write-off, not structural",
  finance: "Finance marker",
  third_party: "Third-party interest",
  mileage: "Mileage discrepancy",
  imported: "Imported or exported",
  plate: "Plate changed",
  colour: "Colour changed",
};

export const provenanceSay: Record<string, string> = {
  stolen: "Do not pay and do not take it away.",
  scrapped: "It should not be on the road again.",
  identity: "Numbers and papers must agree before anything else is looked at.",
  written_off_structural: "The structure was bent. Most buyers stop here; say in the plan if you accept it.",
  finance:
    "Ask for the lender’s letter of settlement. A stale marker clears within a few days once the lender has written.",
  third_party: "Ask who holds the interest and see it settled in writing.",
  mileage: "Find the readings that disagree and what explains them before any money moves.",
};

/** The items of a history report by their plain names. */
export const provenanceItem: Record<string, string> = {
  stolen: "Stolen",
  scrapped: "Scrapped",
  identity: "Identity",
  written_off_structural: "Written off, structure bent",
  finance: "Finance",
  third_party: "Third-party interest",
  mileage: "Mileage on record",
  written_off: "Written off, structure whole",
  imported: "Imported or exported",
  plate: "Change of plate",
  colour: "Change of colour",
};

/** What a mark in a history report means where it closes nothing, and what an item asks. */
export const provenanceMeans: Record<string, string> = {
  stolen: "Nobody can sell it to you; it can be taken away from you.",
  scrapped: "It was signed off the road for good.",
  identity: "Numbers on the vehicle against those on the papers.",
  written_off_structural: "An insurer found the structure bent.",
  finance: "A lender has a claim on it. Often stale: paid, and never struck out.",
  third_party: "Somebody else has a right to it.",
  mileage: "Readings on record that do not rise.",
  written_off: "An insurer paid it off with the structure whole. It lowers the price, not the safety.",
  imported: "Parts, lamps and service history may differ. Ask for the papers of the other country.",
  plate: "Weighs nothing by itself. Look it up under the earlier plate too.",
  colour: "Weighs nothing unless nobody can say why.",
};

const anomalyTitle: Record<string, string> = {
  fall: "The clock shows less than before",
  misread: "One reading stands out",
  wrong_unit: "Miles and kilometres mixed up",
  wrap: "A five-digit clock that went round",
  fast: "Much more use than usual",
  slow: "Much less use than usual",
  gap: "A long time without a reading",
};

export const anomalyWord = (kind: string) => anomalyTitle[kind] ?? kind;

const identitySays: Record<string, [string, string]> = {
  not_a_vin: ["The VIN is not one", "Read it again from the vehicle itself, character by character."],
  check_digit: [
    "The VIN’s check digit does not agree",
    "One character is wrong, or the number was made up. Read it again from the vehicle itself.",
  ],
};

/** What closes a blocker, and what to do about it. */
export function blockerSays(g: Blocker): { title: string; say: string } {
  if (g.cause.kind === "check") {
    const drive = g.cause.danger && !/do not drive/i.test(g.cause.say) ? "Do not drive it. " : "";
    return { title: `${g.cause.name}: ${g.cause.outcome}`, say: drive + g.cause.say };
  }
  if (g.cause.kind === "campaign")
    return {
      title: `${g.cause.name}: not proved done`,
      say: `${g.cause.exposes} ${g.cause.proof}`,
    };
  if (g.cause.kind === "odometer")
    return {
      title: anomalyWord(g.cause.anomaly),
      say: "Say in Papers what you believe of the usage, and find the paper that proves it.",
    };
  if (g.cause.kind === "identity") {
    const [title, say] = identitySays[g.cause.note.kind] ?? [g.cause.note.kind, ""];
    return { title, say };
  }
  if (g.cause.kind === "danger")
    return {
      title: `${g.cause.name}: dangerous`,
      say: "It can hurt someone, and it is more likely there, or to fail without warning, than not. Do not drive it before somebody has looked, and have it put right before money moves.",
    };
  const note = g.cause.note ? ` ${g.cause.note}` : "";
  return {
    title: provenanceWord[g.cause.item] ?? g.cause.item,
    say: `${provenanceSay[g.cause.item] ?? ""}${note}`,
  };
}

/** The usual caution of what can injure. */
export const hazardSays: Record<Hazard, string> = {
  raised: "Never under it on a jack alone: a lift, or stands on firm level ground.",
  bike: "A raised motorcycle falls: paddock stand on firm level ground, a strap or a helper.",
  hot_coolant: "Never open a hot cooling system: cold to the hand first.",
  running: "Hands, hair, sleeves and scarves clear of belts, pulleys and fans.",
  fuel_pressure: "High-pressure fuel goes through skin: loosen nothing, never feel for a leak by hand.",
  high_voltage: "Orange cables are for qualified people only.",
  airbag: "Airbags and pretensioners: look only; the rest is for qualified people.",
  fumes: "Exhaust gas kills in closed places: outdoors, or the doors wide open.",
  burns: "Exhaust, catalyst and turbo burn long after it stops.",
  road: "Insurance, licence, the owner’s consent, road law; brakes first, at walking pace.",
  battery: "Battery gas explodes, its acid burns: no sparks, no rings or watch.",
};

export const monitorWord: Record<string, string> = {
  misfire: "misfire",
  fuel_system: "fuel system",
  components: "components",
  catalyst: "catalyst",
  heated_catalyst: "heated catalyst",
  evap: "tank evap",
  secondary_air: "secondary air",
  refrigerant: "refrigerant or particle filter",
  oxygen_sensor: "oxygen sensor",
  oxygen_heater: "oxygen sensor heater",
  recirculation: "exhaust recirculation, valve timing",
  hydrocarbon_catalyst: "hydrocarbon catalyst",
  nitrogen_oxides: "nitrogen oxides",
  boost: "boost pressure",
  exhaust_sensor: "exhaust sensor",
  particulate_filter: "particle filter",
};

export const scanItemWord: Record<ScanItem, string> = {
  supported_pids: "what the control unit supports",
  readiness: "lamp and readiness",
  stored: "stored codes",
  pending: "pending codes",
  permanent: "permanent codes",
  vin: "identification number",
  warm_ups: "warm-ups since clear",
  cleared_km: "distance since clear",
  coolant: "coolant temperature",
  short_one: "short trim, bank 1",
  long_one: "long trim, bank 1",
  short_two: "short trim, bank 2",
  long_two: "long trim, bank 2",
  voltage: "voltage",
};

const codeSystem = { powertrain: "engine and gearbox", chassis: "chassis", body: "body", network: "network" };
const codeArea = {
  fuel_and_air: "fuel and air",
  ignition_or_misfire: "ignition or misfire",
  emissions: "emission control",
  speed_and_idle: "speed, idle, inputs",
  control_unit: "control unit and its outputs",
  transmission: "transmission",
  hybrid: "hybrid drive",
};
const codeSeries = {
  injector_circuit: "injector circuit",
  injector_low_high_or_balance: "injector, or the cylinder’s share",
  misfire: "misfire",
  coil: "ignition coil",
};

/** What the published scheme says of a code by its build alone. */
export function codeSays(c: CodeParts): string {
  const by =
    c.defined_by === "maker"
      ? "the maker’s own: look it up in the maker’s list"
      : c.defined_by === "reserved"
        ? "kept free by the scheme"
        : null;
  const what = c.series
    ? `${codeSeries[c.series]}, ${c.series === "coil" ? "coil" : "cylinder"} ${c.cylinder ?? ""}`
    : c.area
      ? codeArea[c.area]
      : null;
  return [codeSystem[c.system], what ?? by].filter(Boolean).join(": ");
}

export const labourWord: Record<string, string> = {
  self: "yourself",
  independent: "an independent",
  dealer: "a dealer",
  specialist: "a specialist",
};

/** What a maintenance policy is called. */
export const policyName: Record<MaintenancePolicy, string> = {
  least_cost: "Least cost",
  up_front: "Renew up front",
  wait_for_signs: "Wait for signs",
};

/** Why a point is renewed at purchase. */
export function whySays(why: RenewWhy): string {
  switch (why.kind) {
    case "own":
      return "you decided so";
    case "there_now":
      return "it is probably there now";
    case "safety":
      return "it can hurt someone and may well be there";
    case "cheaper":
      return "cheaper renewed than left";
    case "overdue":
      return `overdue: ${why.work}`;
    case "nearly_due":
      return `nearly due: ${why.work}`;
    case "likely":
      return "likely within your plan";
    case "risk":
      return "dearer on average, but it spares you a large bill";
    case "together":
      return "while it is apart";
  }
}

/** What is needed before a verdict: what to do, what it is worth, and where it is done. */
export function neededSays(n: Needed, a: Assessment): { what: string; why: string; to: string } {
  const check = "open_check" in n ? a.open_checks[n.open_check] : undefined;
  const look = check ? `${check.name} (${check.minutes} min)` : "";
  const worth = "worth" in n && n.worth >= 0.5 ? `, worth about ${money(n.worth)}` : "";
  switch (n.kind) {
    case "report":
      return {
        what: "Ask for the history report",
        why: `about ${money(n.cost)}${worth}; ${n.items.length} items are not asked`,
        to: "papers/provenance",
      };
    case "identity":
      return {
        what: "See that the numbers on it are those of its papers",
        why: "without it nothing else counts",
        to: "papers/provenance",
      };
    case "cold_start":
      return { what: "Hear it start cold", why: `${look}${worth}`, to: "walk-round" };
    case "look":
      return {
        what: `${systemWord[n.system] ?? n.system}: ${n.points.slice(0, 2).join(", ").toLowerCase()}`,
        why: `${look}${worth}`,
        to: "walk-round",
      };
  }
}
