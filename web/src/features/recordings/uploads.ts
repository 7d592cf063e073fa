/** Files on their way in: one after the other, each with its own progress and its own fault. */

import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef, useState } from "react";

import { asApiError, csrfToken } from "../../api/client";
import { recordingKeys } from "./api";

export interface Upload {
  key: number;
  name: string;
  sizeBytes: number;
  sentBytes: number;
  fault: string | null;
}

function send(file: File, onProgress: (sentBytes: number) => void): Promise<void> {
  return new Promise((resolve, reject) => {
    // XMLHttpRequest tells how much has been sent; fetch does not.
    const request = new XMLHttpRequest();
    request.open("POST", `/api/recordings/upload/?name=${encodeURIComponent(file.name)}`);
    request.setRequestHeader("X-CSRFToken", csrfToken());
    request.setRequestHeader("Content-Type", "application/octet-stream");
    request.upload.onprogress = (event) => onProgress(event.loaded);
    request.onload = () => {
      if (request.status === 201) {
        resolve();
        return;
      }
      let body: unknown = null;
      try {
        body = JSON.parse(request.responseText);
      } catch {
        // Not JSON: the general message says enough.
      }
      reject(asApiError(body));
    };
    request.onerror = () =>
      reject(new Error(`${file.name}: the connection was lost. Nothing was kept; add it again.`));
    request.send(file);
  });
}

/** Uploads now and those that failed; `add` takes files, `dismiss` clears a fault. */
export function useUploads() {
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
        await send(file, (sentBytes) => change(key, { sentBytes }));
        setUploads((all) => all.filter((u) => u.key !== key));
        void client.invalidateQueries({ queryKey: recordingKeys.all });
      } catch (error) {
        // One bad file never stops the rest.
        change(key, { fault: error instanceof Error ? error.message : String(error) });
      }
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
          key, name: file.name, sizeBytes: file.size, sentBytes: 0, fault: null,
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
