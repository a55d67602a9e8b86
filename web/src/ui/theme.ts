export type Theme = "system" | "light" | "dark";

const key = "oddtick.theme";

export function theme(): Theme {
  const kept = localStorage.getItem(key);
  return kept === "light" || kept === "dark" ? kept : "system";
}

/** Sets the page's theme from what was chosen, or from the system. */
export function applyTheme(chosen: Theme = theme()) {
  if (chosen === "system") localStorage.removeItem(key);
  else localStorage.setItem(key, chosen);
  const dark = chosen === "dark" || (chosen === "system" && matchMedia("(prefers-color-scheme: dark)").matches);
  document.documentElement.dataset.theme = dark ? "dark" : "light";
}
