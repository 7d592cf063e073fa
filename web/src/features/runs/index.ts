export { isBusy, runKeys, useCancelRun, useNameRun, useRetryRun, useRun, useRunOverview, useRuns, useStartRun } from "./api";
