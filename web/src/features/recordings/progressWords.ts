import type { Recording } from "../../api/types";

/** What is done with a recording that is not measured yet, and how far it is. */
export function progressWords(recording: Pick<Recording, "state" | "doing" | "progress">): string {
  if (recording.state === "waiting") return "Waiting to be measured";
  const doing = recording.doing === "decoding" ? "Decoding" : "Measuring";
  return `${doing}, ${Math.round(100 * recording.progress)} %`;
}
