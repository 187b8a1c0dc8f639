// A strip as the server tells it: letters, which are bins of chance.

/** The alphabet of Base32 (RFC 4648), in which a strip is told. */
const LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ234567";

/** Chances of the bins from build to now, over the plan and beyond it: told in ten-thousandths of the greatest. */
export function bins(point: { top: number; strip: string }): [number[], number[], number[]] {
  const unit = point.top / 1e4 / (LETTERS.length - 1);
  const [past = [], plan = [], beyond = []] = point.strip
    .split(" ")
    .map((word) => [...word].map((letter) => LETTERS.indexOf(letter) * unit));
  return [past, plan, beyond];
}
