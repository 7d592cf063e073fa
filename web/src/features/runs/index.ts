export { isBusy, runKeys, useCancelRun, useCorrection, useNameRun, useRetryRun, useRun, useRunOverview, useRuns, useStartRun } from "./api";
