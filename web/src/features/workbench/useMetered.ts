import { useState } from "react";

const KEY = "zesty-level-bars";

/** Whether level bars are shown, remembered in this browser. */
export function useMetered(): [boolean, (on: boolean) => void] {
  const [metered, setMetered] = useState(() => {
    try {
      return localStorage.getItem(KEY) === "on";
    } catch {
      return false;
    }
  });
  const set = (on: boolean) => {
    setMetered(on);
    try {
      localStorage.setItem(KEY, on ? "on" : "off");
    } catch {
      // A full store costs remembering, nothing else.
    }
  };
  return [metered, set];
}
