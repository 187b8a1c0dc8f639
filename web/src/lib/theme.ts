// Light outdoors, dark in the garage; the device's wish until the person says otherwise.

const KEY = "ticksage.theme";
type Theme = "light" | "dark";

function wished(): Theme {
  const kept = localStorage.getItem(KEY);
  if (kept === "light" || kept === "dark") return kept;
  return matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light";
}

export function applyTheme() {
  document.documentElement.dataset["theme"] = wished();
}

export function toggleTheme() {
  localStorage.setItem(KEY, wished() === "dark" ? "light" : "dark");
  applyTheme();
}
