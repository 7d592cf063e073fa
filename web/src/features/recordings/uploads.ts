/** Files on their way in: one after the other, each with its own progress and its own fault. */

import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef, useState } from "react";

import { api, unwrap } from "../../api/client";
import { recordingKeys } from "./api";
import { bringIn, type Told } from "./bringIn";

export interface Upload extends Told {
  key: number;
  name: string;
  sizeBytes: number;
  fault: string | null;
}

const uploadsKey = ["uploads"] as const;

/** Files of which a part came in before; adding one again goes on with it. */
export function useUnfinishedUploads() {
  return useQuery({ queryKey: uploadsKey, queryFn: () => unwrap(api.GET("/api/uploads/")) });
}

/** Give up what came in of a file. */
export function useForgetUpload() {
  const client = useQueryClient();
  return async (id: string) => {
    await unwrap(api.DELETE("/api/uploads/{id}/", { params: { path: { id } } }));
    await client.invalidateQueries({ queryKey: uploadsKey });
  };
}

/** Uploads now and those that failed; `add` takes files, `dismiss` clears a fault. Pages ask `useUploads`. */
export function useUploading() {
  const client = useQueryClient();
  const [uploads, setUploads] = useState<Upload[]>([]);
  const waiting = useRef<{ key: number; file: File }[]>([]);
  const working = useRef(false);
  const lastKey = useRef(0);

  const change = useCallback((key: number, part: Partial<Upload>) => {
    setUploads((all) => all.map((u) => (u.key === key ? { ...u, ...part } : u)));
  }, []);

  const work = useCallback(async () => {
    if (working.current) return;
    working.current = true;
    for (let next = waiting.current.shift(); next; next = waiting.current.shift()) {
      const { key, file } = next;
      try {
        await bringIn(file, (told) => change(key, told));
        setUploads((all) => all.filter((u) => u.key !== key));
        void client.invalidateQueries({ queryKey: recordingKeys.all });
      } catch (error) {
        // One bad file never stops the rest.
        change(key, { fault: error instanceof Error ? error.message : String(error) });
      }
      void client.invalidateQueries({ queryKey: uploadsKey });
    }
    working.current = false;
  }, [change, client]);

  const add = useCallback(
    (files: Iterable<File>) => {
      const fresh = [...files].map((file) => ({ key: (lastKey.current += 1), file }));
      waiting.current.push(...fresh);
      setUploads((all) => [
        ...all,
        ...fresh.map(({ key, file }) => ({
          key, name: file.name, sizeBytes: file.size, sentBytes: 0, bytesPerS: null, trouble: null, fault: null,
        })),
      ]);
      void work();
    },
    [work],
  );
  const dismiss = useCallback((key: number) => {
    setUploads((all) => all.filter((u) => u.key !== key));
  }, []);
  return { uploads, add, dismiss };
}

/** Those that are still coming, the one under way first. */
export const moving = (uploads: readonly Upload[]): Upload[] => uploads.filter((u) => u.fault === null);

export const shareIn = ({ sentBytes, sizeBytes }: Upload): number => (sizeBytes > 0 ? sentBytes / sizeBytes : 0);
