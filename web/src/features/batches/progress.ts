import type { Batch, BatchFile } from "../../api/types";

export interface BatchProgress {
  share: number;
  done: number;
  running: number;
  waiting: number;
  stopped: number;
  /** Seconds left by the speed so far; null when nothing can be determined yet. */
  leftS: number | null;
  /** How many times faster than listening; null when nothing can be determined yet. */
  speed: number | null;
}

const length = (run: BatchFile) => run.duration_s;
const worked = (run: BatchFile) =>
  run.state === "done" ? 1 : run.state === "running" ? run.progress : 0;

/** How far a batch is, by the length of its recordings. */
export function batchProgress(runs: readonly BatchFile[], now: number): BatchProgress {
  const count = (state: string) => runs.filter((r) => r.state === state).length;
  const stopped = count("failed") + count("cancelled");
  const live = runs.filter((r) => r.state !== "failed" && r.state !== "cancelled");
  const total = live.reduce((sum, r) => sum + length(r), 0);
  const finished = live.reduce((sum, r) => sum + length(r) * worked(r), 0);
  const starts = runs.flatMap((r) => (r.started_at ? [Date.parse(r.started_at)] : []));
  const spentS = starts.length > 0 ? (now - Math.min(...starts)) / 1000 : 0;
  const speed = spentS > 0.5 && finished > 0 ? finished / spentS : null;
  return {
    share: total > 0 ? finished / total : 0,
    done: count("done"),
    running: count("running"),
    waiting: count("waiting"),
    stopped,
    speed,
    leftS: speed !== null && count("running") + count("waiting") > 0 ? (total - finished) / speed : null,
  };
}

/** Recipe and target of a batch in words. */
export function madeWith(batch: Batch): string {
  const recipe = batch.recipe_name ? `${batch.recipe_name}, version ${batch.recipe_version}` : "Each recording’s own chain";
  const level = batch.set_level === "keep" ? ", differences kept" : "";
  return batch.target_name ? `${recipe}, for ${batch.target_name}${level}` : recipe;
}
