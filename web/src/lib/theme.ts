import { useEffect, useState } from "react";

const KEY = "theme";

/** Light or dark: as the system says until the user says otherwise. */
export function useTheme(): [boolean, () => void] {
  const [dark, setDark] = useState(() => {
    const kept = localStorage.getItem(KEY);
    return kept ? kept === "dark" : matchMedia("(prefers-color-scheme: dark)").matches;
  });
  useEffect(() => {
    document.documentElement.dataset.theme = dark ? "dark" : "light";
  }, [dark]);
  return [
    dark,
    () => {
      localStorage.setItem(KEY, dark ? "light" : "dark");
      setDark(!dark);
    },
  ];
}
