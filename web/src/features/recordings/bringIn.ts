/** One file, piece by piece; a lost connection or a restarted server only costs the piece. */

import { api, ApiError, asApiError, csrfToken, unwrap } from "../../api/client";

export interface Told {
  sentBytes: number;
  /** Since this attempt began; null until it can be determined. */
  bytesPerS: number | null;
  /** What it is waiting for just now. */
  trouble: string | null;
}

/** A piece that breaks off is sent anew; a larger one gains nothing. */
const PIECE_BYTES = 8 * 1024 * 1024;
const MOST_TRIES = 8;
const FIRST_WAIT_MS = 500;
const LONGEST_WAIT_MS = 15_000;
const LEAST_S = 0.3;
/** Answers after which asking how much has come in and going on is right. */
const PASSING = new Set(["unreachable", "upload_moved", "upload_busy", "database_away"]);

/** Bring a file in; rejects with words for people when that cannot be done. */
export async function bringIn(file: File, tell: (told: Partial<Told>) => void): Promise<void> {
  for (let tries = 1; ; tries += 1) {
    try {
      const begun = await unwrap(
        api.POST("/api/uploads/", {
          body: { name: file.name, size_bytes: file.size, modified_ms: Math.round(file.lastModified) },
        }),
      );
      // The last piece is sent anew when a whole file waits without having become a recording.
      if (begun.received_bytes >= file.size) {
        await forget(begun.id);
        continue;
      }
      const clock = speedometer(begun.received_bytes, (told) => tell({ ...told, trouble: null }));
      for (let offset = begun.received_bytes; offset < file.size; offset += PIECE_BYTES) {
        await sendPiece(file, begun.id, offset, (sent) => clock(offset + sent));
        clock(Math.min(offset + PIECE_BYTES, file.size));
        tries = 1;
      }
      return;
    } catch (error) {
      if (!(error instanceof ApiError) || !PASSING.has(error.code)) throw error;
      if (tries >= MOST_TRIES) {
        throw new Error(`${file.name}: ${error.message} What came in is kept; add the file again to go on.`, { cause: error });
      }
      tell({ trouble: error.code === "upload_busy" ? error.message : "The connection was lost; trying again" });
      await new Promise((resolve) => setTimeout(resolve, Math.min(LONGEST_WAIT_MS, FIRST_WAIT_MS * 2 ** (tries - 1))));
    }
  }
}

const forget = (id: string) => unwrap(api.DELETE("/api/uploads/{id}/", { params: { path: { id } } }));

/** Send the piece at `offset`; a file that was changed meanwhile cannot be read any more, and is given up. */
async function sendPiece(file: File, id: string, offset: number, onProgress: (sentBytes: number) => void): Promise<void> {
  try {
    await put(`/api/uploads/${id}/piece/?offset=${offset}`, file.slice(offset, offset + PIECE_BYTES), onProgress);
  } catch (error) {
    if (await canBeRead(file)) throw error;
    await forget(id);
    throw new Error(`${file.name}: was changed or moved while it was brought in. Nothing was kept; add it again.`, { cause: error });
  }
}

const canBeRead = (file: File): Promise<boolean> => file.slice(0, 1).arrayBuffer().then(() => true, () => false);

/** Send a part of a file as it is: Chromium sends the same bytes from a buffer ten times slower. */
function put(address: string, part: Blob, onProgress: (sentBytes: number) => void): Promise<void> {
  return new Promise((resolve, reject) => {
    // XMLHttpRequest tells how much has been sent; fetch does not.
    const request = new XMLHttpRequest();
    request.open("PUT", address);
    request.setRequestHeader("X-CSRFToken", csrfToken());
    request.setRequestHeader("Content-Type", "application/octet-stream");
    request.upload.onprogress = (event) => onProgress(event.loaded);
    request.onload = () => {
      if (request.status === 200) {
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
    request.onerror = () => reject(new ApiError("The connection was lost.", "unreachable", null));
    request.send(part);
  });
}

/** Tells how much has been sent and how fast that went since here. */
function speedometer(fromBytes: number, tell: (told: Pick<Told, "sentBytes" | "bytesPerS">) => void) {
  const began = performance.now();
  return (sentBytes: number) => {
    const passedS = (performance.now() - began) / 1000;
    tell({ sentBytes, bytesPerS: passedS >= LEAST_S ? (sentBytes - fromBytes) / passedS : null });
  };
}
