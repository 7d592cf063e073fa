export { isBusy, useCancelRun, useRetryRun, useRun, useRunOverview, useRuns, useStartRun } from "./api";
