/** The run that is listened to, and how the chain has changed since. */

import { useMemo, useState } from "react";

import type { Run, Step, StepType } from "../../api/types";
import { editsOf, noEdits, sameRepairs, sameSound, sameSpeakers, type Edits } from "../../audio/cutTimes";
import { isBusy, useRuns } from "../runs";
import { sameSteps } from "../../chains/sameSteps";
import { differences } from "../../chains/differences";

export function useResult(recordingId: string, steps: Step[], edits: Edits, types: readonly StepType[]) {
  const runs = useRuns(recordingId);
  const [chosenId, choose] = useState<string | null>(null);
  const own = useMemo(
    () => (runs.data ?? []).filter((r) => r.batch === null || sameSteps(r.chain as Step[], steps)),
    [runs.data, steps],
  );
  const done = own.filter((r) => r.state === "done");
  const result: Run | null = done.find((r) => r.id === chosenId) ?? done[0] ?? null;
  const afterEdits = useMemo(() => (result ? editsOf(result) : noEdits), [result]);
  const changes = result ? differences(result.chain as Step[], steps, types) : [];
  if (result && !sameSound(afterEdits, edits)) changes.push("cuts or inserts");
  if (result && !sameSpeakers(afterEdits.speakers, edits.speakers)) changes.push("speakers");
  if (result && !sameRepairs(afterEdits.repairs, edits.repairs)) changes.push("repairs");
  return {
    result,
    done,
    /** Finished files, newest first. */
    delivered: (runs.data ?? []).filter((r) => r.state === "done" && r.delivery !== null),
    choose,
    busyRun: own.find(isBusy) ?? null,
    failed: own[0]?.state === "failed" ? own[0] : null,
    afterEdits,
    /** In short words; empty when the result is of what is set now. */
    changes,
  };
}
