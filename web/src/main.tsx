import "@fontsource-variable/figtree";
import "@fontsource-variable/fraunces/full.css";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";

import { App } from "./app/App";

/** A page's code that is gone was built by an older version: everything is loaded again, at most every ten seconds. */
window.addEventListener("vite:preloadError", (event) => {
  const last = Number(sessionStorage.getItem("reloaded-at") ?? 0);
  if (Date.now() - last < 10_000) return;
  event.preventDefault();
  sessionStorage.setItem("reloaded-at", String(Date.now()));
  window.location.reload();
});

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <App />
    </StrictMode>,
  );
}
