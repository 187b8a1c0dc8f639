// A long text pasted at once: a browser takes a quarter of a minute for two thousand lines typed into a field.

import type { ClipboardEvent } from "react";

const LONG = 4_000;

/** Puts what is pasted where the cursor stands, in one step, where it is long. */
export function pasteWhole(set: (text: string) => void) {
  return (e: ClipboardEvent<HTMLTextAreaElement>) => {
    const text = e.clipboardData.getData("text/plain");
    if (text.length < LONG) return;
    e.preventDefault();
    const { value, selectionStart, selectionEnd } = e.currentTarget;
    set(value.slice(0, selectionStart) + text.replace(/\r\n?/g, "\n") + value.slice(selectionEnd));
  };
}
