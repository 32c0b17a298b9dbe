import { useEffect, useState } from "react";

type Theme = "light" | "dark";

const system = window.matchMedia("(prefers-color-scheme: dark)");

function chosen(): Theme | undefined {
  const kept = localStorage.getItem("theme");
  return kept === "light" || kept === "dark" ? kept : undefined;
}

/** The theme: what was chosen here, or else the system's. */
export function useTheme(): [Theme, () => void] {
  const [theme, setTheme] = useState<Theme>(() => chosen() ?? (system.matches ? "dark" : "light"));
  useEffect(() => {
    document.documentElement.dataset.theme = theme;
  }, [theme]);
  useEffect(() => {
    const follow = () => setTheme((t) => chosen() ?? (system.matches ? "dark" : t === "dark" ? "light" : t));
    system.addEventListener("change", follow);
    return () => system.removeEventListener("change", follow);
  }, []);
  const swap = () => {
    const next = theme === "dark" ? "light" : "dark";
    localStorage.setItem("theme", next);
    setTheme(next);
  };
  return [theme, swap];
}
