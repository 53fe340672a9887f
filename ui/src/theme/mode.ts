import { useSyncExternalStore } from "react";

// Light or dark: what the person chose, else what their system says.
const key = "easymargin-theme";
const listeners = new Set<() => void>();

function wanted(): "light" | "dark" {
  const kept = localStorage.getItem(key);
  if (kept === "light" || kept === "dark") return kept;
  return matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light";
}

export function applyMode() {
  document.documentElement.className = wanted();
  for (const l of listeners) l();
}

export function toggleMode() {
  localStorage.setItem(key, wanted() === "dark" ? "light" : "dark");
  applyMode();
}

export function useMode() {
  return useSyncExternalStore((l) => {
    listeners.add(l);
    return () => listeners.delete(l);
  }, wanted);
}
