import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";

import { ApiError } from "../../api/client";
import { onOtherWindows } from "../../api/otherWindows";
import type { Recording } from "../../api/types";
import { recordingKeys } from "../recordings";
import type { SeenVersion } from "./api";

/** Whether a change was refused because another window was first. */
export const isElsewhere = (error: unknown) => error instanceof ApiError && error.code === "changed_elsewhere";

interface Part {
  isPending: boolean;
  error: Error | null;
}

/** Which version this window has seen, beginning with the one it opened. */
export function useSeenVersion(opened: number): SeenVersion {
  const [shown, setShown] = useState(opened);
  const newest = useRef(opened);
  const latest = useCallback(() => newest.current, []);
  const take = useCallback((version: number) => {
    newest.current = version;
    setShown(version);
  }, []);
  return useMemo(() => ({ shown, latest, take }), [shown, latest, take]);
}

/**
 * The recording as another window has changed it; null while this window has seen its newest chain and edits. Windows
 * of the same browser announce a change at once; others are noticed on focus or on the next save.
 */
export function useElsewhere(recording: Recording, seen: SeenVersion, parts: readonly Part[]): Recording | null {
  const client = useQueryClient();
  const refused = parts.some((part) => isElsewhere(part.error));
  useEffect(() => {
    if (refused) void client.invalidateQueries({ queryKey: recordingKeys.one(recording.id), exact: true });
  }, [refused, client, recording.id]);
  useEffect(
    () =>
      onOtherWindows((key) => {
        if (key.join() === recordingKeys.one(recording.id).join()) void client.invalidateQueries({ queryKey: key, exact: true });
      }),
    [client, recording.id],
  );
  // While a change is on its way, its own answer may be what is newer.
  const settled = !parts.some((part) => part.isPending);
  return settled && recording.work_version > seen.shown ? recording : null;
}
