import { useState } from "react";

import type { Step } from "../../../api/types";

/** The step that is open. Steps can go while one is open; the last one that is left opens instead. */
export function useOpenStep(steps: Step[]) {
  const [wanted, setChosen] = useState(0);
  const chosen = steps.length > 0 ? Math.min(wanted, steps.length - 1) : null;
  return { chosen, setChosen, chosenStep: chosen === null ? undefined : steps[chosen] };
}
