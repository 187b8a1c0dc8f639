// Finding names by typing, forgiving a slip of a letter.

/** Whether two words differ by at most one letter: put in, left out, or another. */
function near(a: string, b: string): boolean {
  if (Math.abs(a.length - b.length) > 1) return false;
  let i = 0;
  while (i < a.length && i < b.length && a[i] === b[i]) i += 1;
  const [restA, restB] = [a.slice(i), b.slice(i)];
  return restA.slice(1) === restB.slice(1) || restA.slice(1) === restB || restA === restB.slice(1);
}

/** Whether a name sounds like what was typed: each word begins one of its words, or is one with a slip. */
export function sounds(typed: string, name: string): boolean {
  const split = (t: string) =>
    t
      .toLowerCase()
      .split(/[^\p{L}\p{N}]+/u)
      .filter(Boolean);
  const words = split(name);
  return split(typed).every((t) =>
    words.some(
      (w) => w.startsWith(t) || w.includes(t) || (t.length >= 4 && near(t, w.slice(0, t.length + 1))),
    ),
  );
}
