/** The parts of the papers, as their addresses name them. */
export const paperParts = ["ask", "provenance", "clock", "ledger", "work", "tests", "kept"] as const;
