import { useState } from "react";

import { showing, type TimeSpan } from "../mirrorView";
import { focusSoon, MIRROR } from "../focusing";

/** What stretch the mirror shows, and what is selected on it. */
export function useView(durationS: number) {
  const [view, setView] = useState<TimeSpan>({ startS: 0, endS: durationS });
  const [selection, setSelection] = useState<TimeSpan | null>(null);
  return {
    view, setView, selection, setSelection,
    /** As `setSelection`; the focus of the tools that go with a selection stays beside where it was. */
    select: (span: TimeSpan | null) => {
      setSelection(span);
      if (span === null) focusSoon(MIRROR);
    },
    show: (timeS: number) => setView((shown) => showing(shown, timeS, durationS)),
  };
}
