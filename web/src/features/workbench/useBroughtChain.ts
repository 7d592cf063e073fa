import { useEffect, useState } from "react";
import { useLocation, useNavigate } from "react-router";

import type { Step } from "../../api/types";

/** A chain that the page before brings along, such as that of a batch's file; once, not at every reload. */
export function useBroughtChain(): Step[] | null {
  const state = useLocation().state as { chain?: Step[] } | null;
  const navigate = useNavigate();
  const [brought] = useState(state?.chain ?? null);
  const comes = state?.chain !== undefined;
  useEffect(() => {
    if (comes) void navigate(".", { replace: true, state: null });
  }, [comes, navigate]);
  return brought;
}
