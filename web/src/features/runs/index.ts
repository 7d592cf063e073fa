export { isBusy, runKeys, useCancelRun, useRetryRun, useRun, useRunOverview, useRuns, useStartRun } from "./api";
