import { createContext, useContext } from "react";

import type { Bench } from "./useBench";

export const BenchContext = createContext<Bench | null>(null);

/** The workbench that a part stands on. */
export function useTheBench(): Bench {
  const bench = useContext(BenchContext);
  if (!bench) throw new Error("This part belongs on a workbench.");
  return bench;
}
